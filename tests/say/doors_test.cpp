// Every place where a name is typed takes the key and the display name alike: the finder's conditions and
// assignments, sweeps and their tables, watched results, headings of tables that come in, choices in fields.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cctype>

#include "cases/sweep.h"
#include "cases/watch.h"
#include "exchange/import_table.h"
#include "fields/entry.h"
#include "find/condition.h"
#include "model/watched.h"
#include "model_text.h"
#include "parts/registry.h"
#include "say/words.h"

namespace conduit::test {
namespace {

std::string inCapitals(std::string text) {
  for (char& c : text) c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
  return text;
}
// What people may type for a key: itself, as it is shown, and either in capitals.
std::vector<std::string> spellings(std::string_view key) {
  std::vector<std::string> all{std::string(key), spoken(key)};
  for (const std::string& text : std::vector(all))
    if (std::all_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 128; }))
      all.push_back(inCapitals(text));
  return all;
}

Network everyKind() {
  auto read = loadModel(SOURCE_DIR "/tests/parts/every_kind.lconduit", &shippedStock());
  EXPECT_TRUE(read);
  return read->drawn;
}
// The first element of a kind; noId where the file has none (what only stands on the drawing).
Id firstOf(const Network& n, const Part& part) {
  Id found = noId;
  n.each([&](Id id, const Element& e) {
    if (found == noId && e.part == &part) found = id;
  });
  return found;
}

class Doors : public testing::TestWithParam<const Part*> {
 protected:
  const Part& part = *GetParam();
  const Network network = everyKind();
  const Id id = firstOf(network, part);
  const UnitSet& units = UnitSet::siWater();
};

TEST_P(Doors, theKindItself) {
  if (part.ends == Ends::none) return;  // the job and its services are no elements of a drawing
  for (const std::string& text : spellings(part.plural)) {
    const auto c = readCondition(text, units);
    ASSERT_TRUE(c) << text << ": " << c.error().what;
    EXPECT_EQ(c->kind, &part) << text;
  }
  for (const std::string& text : spellings(part.key)) {
    const auto c = readCondition(text, units);
    ASSERT_TRUE(c) << text << ": " << c.error().what;
    EXPECT_EQ(c->kind, &part) << text;
  }
}

TEST_P(Doors, aFieldInAConditionAndAnAssignment) {
  if (part.ends == Ends::none) return;
  for (const Field& f : part.fields)
    for (const std::string& text : spellings(f.key)) {
      const auto c = readCondition(fmt::format("{} {} lacks", part.plural, text), units);
      ASSERT_TRUE(c) << text << ": " << c.error().what;
      ASSERT_EQ(c->tests.size(), 1u) << text;
      EXPECT_EQ(c->tests[0].key, f.key) << text;
      if (id == noId || f.kind == FieldKind::table) continue;
      const auto named = readAssignment(fmt::format("{} {} 7", network.at(id).name, text), network, {});
      ASSERT_TRUE(named) << text;
      EXPECT_EQ(named->ids, std::vector{id}) << text;
      EXPECT_EQ(named->key, f.key) << text;
      EXPECT_EQ(named->text, "7") << text;
      const auto selected = readAssignment(text + " = 7", network, {id});
      ASSERT_TRUE(selected) << text;
      EXPECT_EQ(selected->key, f.key) << text;
    }
}

TEST_P(Doors, aResultInAConditionAndAWatch) {
  for (const Outcome& o : part.outcomes)
    for (const std::string& text : spellings(o.key)) {
      const auto c = readCondition(fmt::format("{} {} > 0", part.plural, text), units);
      ASSERT_TRUE(c) << text << ": " << c.error().what;
      ASSERT_EQ(c->tests.size(), 1u) << text;
      // "K" of an orifice plate is a result, that of a valve a field: the test is of what its kind has.
      EXPECT_EQ(c->tests[0].key, o.key) << text;
      if (id == noId) continue;
      const auto w = readWatched(network.at(id).name + " " + text, network, units);
      ASSERT_TRUE(w) << text << ": " << w.error().what;
      EXPECT_EQ(w->outcome, o.key) << text;
      const auto over = readWatched(fmt::format("{} {} maximum", part.plural, text), network, units);
      ASSERT_TRUE(over) << text << ": " << over.error().what;
      EXPECT_EQ(over->outcome, o.key) << text;
      EXPECT_EQ(over->over, Watched::Over::greatest) << text;
      // What is watched reads as it is shown, and typed again it is the same.
      EXPECT_NE(wordsOf(*w, network).what.find(spoken(o.key)), std::string::npos) << text;
      const auto again = readWatched(typedText(*over, network), network, units);
      ASSERT_TRUE(again) << typedText(*over, network);
      EXPECT_EQ(*again, *over) << text;
    }
}

TEST_P(Doors, aQuantityInASweepAndItsTable) {
  if (id == noId) return;
  std::size_t varied = 0;
  for (const Field& f : part.fields) {
    const Given* g = network.at(id).given(f.key);
    if (f.kind != FieldKind::quantity || f.ofDrawing || !g) continue;
    ++varied;
    const std::string whose = part.key == "job" ? "job" : network.at(id).name;
    for (const std::string& text : spellings(f.key)) {
      const std::string what = whose + " " + text;
      const auto v = readVary(what, g->typed + ", " + g->typed, network, shippedStock(), units);
      ASSERT_TRUE(v) << what << ": " << v.error().what;
      EXPECT_EQ(v->element, id) << what;
      EXPECT_EQ(v->key, f.key) << what;
      EXPECT_EQ(v->words, whose + " " + spoken(f.key)) << what;
      const std::vector<std::string> headings{what};
      const std::vector<std::vector<std::string>> rows{{g->typed}};
      const auto columns = readColumns(headings, rows, network, units);
      ASSERT_TRUE(columns) << what << ": " << columns.error().what;
      EXPECT_EQ(columns->front().key, f.key) << what;
      EXPECT_NEAR(columns->front().si.front(), g->value, 1e-12 * std::abs(g->value)) << what;
    }
  }
  if (part.ends == Ends::two && part.key != "isolating valve")
    EXPECT_GT(varied, 0u) << "the file gives a number to every other device";
}

TEST_P(Doors, aHeadingOfATable) {
  if (part.key == "job") return;
  for (const Field& f : part.fields)
    for (const std::string& text : spellings(f.key)) {
      const Grid grid = readGrid("name;" + text + "\nA;1\n", {.separator = ';', .headings = true});
      const ImportPlan plan = proposePlan(grid, {.separator = ';', .headings = true}, &part, units);
      ASSERT_EQ(plan.columns.size(), 2u);
      EXPECT_EQ(plan.columns[0].is, ColumnIs::name);
      EXPECT_EQ(plan.columns[1].is, ColumnIs::field) << part.key << ": " << text;
      EXPECT_EQ(plan.columns[1].field, f.key) << part.key << ": " << text;
    }
}

TEST_P(Doors, aChoiceInItsField) {
  for (const Field& f : part.fields)
    for (const std::string_view choice : f.choices)
      for (const std::string& text : spellings(choice)) {
        const auto entry = readField(f, text, &shippedStock(), nullptr);
        ASSERT_TRUE(entry) << f.key << " " << text << ": " << entry.error().what;
        EXPECT_EQ(std::get<std::string>(*entry), choice) << f.key << " " << text;
      }
}

INSTANTIATE_TEST_SUITE_P(Registry, Doors, testing::ValuesIn(allParts().begin(), allParts().end()),
                         [](const auto& i) {
                           std::string name(i.param->key);
                           std::replace(name.begin(), name.end(), ' ', '_');
                           return name;
                         });

}  // namespace
}  // namespace conduit::test
