// A stranger adds a study: a set-up of its own, read, written, described, undone, and followed where elements
// are renamed and go. In the program it is this file pair and a line in studies/registry.cpp.
#include <simdjson.h>

#include "cases/case_edits.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "network/edits.h"
#include "plain_models.h"
#include "studies/registry.h"

namespace conduit::test {
namespace stranger {

using namespace model_json;

const Field fields[] = {{.key = "hours between",
                         .measure = Measure::duration,
                         .least = 0,
                         .most = 1e9,
                         .help = "between two rounds"}};

struct Rounds {
  static constexpr std::string_view study = "rounds";
  Values about{};
  std::vector<Id> seen{};
  [[nodiscard]] bool empty() const { return *this == Rounds{}; }
  [[nodiscard]] std::size_t bytes() const { return sizeof(Id) * seen.size(); }
  void follow(const Followed& what) {
    std::erase_if(seen, [&](Id id) { return !what.after.find(id); });
  }
  friend bool operator==(const Rounds&, const Rounds&) = default;
};

void read(const Json& value, const Network& drawn, Setups& into, StudyFaults& faults) {
  Object o;
  if (value.get(o)) return faults.push_back({0, {}, {}, "\"rounds\" must be an object"});
  Fields about = fieldsOf(o, fields, "round", std::array<std::string_view, 1>{"seen"}, nullptr);
  for (const Fault& fault : about.faults) faults.push_back({0, {}, fault.field, fault.what});
  Rounds rounds{.about = std::move(about.values)};
  if (Array list; !o.at_key("seen").get(list))
    for (const Json one : list) {
      std::string_view name;
      const Id id = one.get(name) ? noId : drawn.byName(name);
      if (id == noId) faults.push_back({0, {}, "seen", fmt::format("there is no {}", name)});
      else rounds.seen.push_back(id);
    }
  into.set(std::move(rounds));
}
Text write(const Model& model) {
  Text o;
  putFields(model.of<Rounds>().about, fields, o);
  for (const Id id : model.of<Rounds>().seen) o["seen"].push_back(model.drawn.at(id).name);
  return o;
}
Text schema() {
  Text o = {{"type", "object"}, {schemaProperties, Text::object()}};
  for (const Field& f : fields) o[schemaProperties][std::string(f.key)] = schemaOf(f);
  return o;
}
const Study study{Rounds::study, read, write, schema};

// What the file has under the key.
StudyFaults take(Model& model, const std::string& text) {
  simdjson::dom::parser parser;
  StudyFaults faults;
  study.read(parser.parse(text), model.drawn, model.setups, faults);
  return faults;
}

TEST(StrangersStudy, isReadWrittenUndoneAndFollowed) {
  Model model =
      plainModel(point("A", 0) + "," + point("B", 0),
                 fixedAt("F", "A", "2 bar") + "," + pipe("L-1", "A", "B", 10) + "," + kv60("V", "A", "B"));
  EXPECT_TRUE(study.write(model).is_null()) << "nothing is kept";
  const Model before = model;
  const std::string text = R"({"hours between":"6 h","seen":["V","L-1"]})";
  ASSERT_TRUE(take(model, text).empty());
  EXPECT_EQ(study.write(model).dump(), text);
  EXPECT_EQ(model.of<Rounds>().seen.size(), 2u);
  EXPECT_FALSE(model.setups == before.setups);
  EXPECT_TRUE(before.of<Rounds>().empty()) << "a copy of before is untouched";
  EXPECT_GT(model.bytesApart(before), 0u);
  // Names are those of now, and what goes is dropped; the model of before has it still.
  const Model renamed =
      withEdit(model, drawingCase, rename(model.drawn, model.drawn.byName("V"), "V-9")->network);
  EXPECT_EQ(study.write(renamed).dump(), R"({"hours between":"6 h","seen":["V-9","L-1"]})");
  const Id gone[] = {renamed.drawn.byName("V-9")};
  const Model less = withEdit(renamed, drawingCase, removeAll(renamed.drawn, gone)->network);
  EXPECT_EQ(study.write(less).dump(), R"({"hours between":"6 h","seen":["L-1"]})");
  EXPECT_EQ(renamed.of<Rounds>().seen.size(), 2u);
  EXPECT_EQ(schema()[schemaProperties].size(), 1u);
  // Faults are said with their field, nothing is thrown.
  Model other = before;
  const StudyFaults faults = take(other, R"({"hours between":"soon","seen":["Q"]})");
  ASSERT_EQ(faults.size(), 2u);
  EXPECT_EQ(faults[0].field, "hours between");
  EXPECT_EQ(faults[1].field, "seen");
}

// Every study of the program: its key is its set-up's, nothing is written where nothing is kept, and what is
// written is read again.
TEST(Studies, writeWhatTheyRead) {
  const auto model = loadModel(SOURCE_DIR "/samples/kestrel-fell.lconduit", &shippedStock());
  const auto court = loadModel(SOURCE_DIR "/samples/larch-court.lconduit", &shippedStock());
  ASSERT_TRUE(model && court);
  std::size_t kept = 0;
  for (const Study* s : allStudies()) {
    EXPECT_TRUE(s->write(Model{}).empty()) << s->key;
    EXPECT_TRUE(s->schema().contains("type")) << s->key;
    for (const Model& m : {*model, *court}) {
      const Text text = s->write(m);
      if (text.empty()) continue;
      ++kept;
      Model again{m.drawn};
      simdjson::dom::parser parser;
      StudyFaults faults;
      s->read(parser.parse(text.dump()), again.drawn, again.setups, faults);
      EXPECT_TRUE(faults.empty()) << s->key;
      EXPECT_EQ(s->write(again), text) << s->key;
    }
  }
  EXPECT_GE(kept, 3u);
}

}  // namespace stranger
}  // namespace conduit::test
