// Every text for people, in sources, pages, samples, catalogue files and scripts, against words and turns
// that an engineer would stumble over. What is only a key of files keeps its word: such a literal is all key.
#include "say/words.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <fstream>
#include <set>
#include <sstream>
#include <string>
#include <vector>

#include "model/case_set.h"
#include "model/costs.h"
#include "model/pump_request.h"
#include "model/sizing_setup.h"
#include "parts/registry.h"

namespace conduit {
namespace {

namespace fs = std::filesystem;

// Turns that have a plain word: "upkeep" is maintenance, "stands" is "is", "nothing flows" is "no flow".
constexpr std::string_view unwanted[] = {"at no flow",
                                         "before anything flows",
                                         "below nothing",
                                         "more than nothing",
                                         "nothing flows",
                                         "nothing passes",
                                         "complete vacuum",
                                         "boil",
                                         "boils",
                                         "boiled",
                                         "if not given",
                                         "if not said",
                                         "nobody",
                                         "come by",
                                         "comes by",
                                         "came about",
                                         "mend",
                                         "mends",
                                         "mended",
                                         "reckon",
                                         "reckons",
                                         "reckoned",
                                         "forbid",
                                         "forbids",
                                         "stands",
                                         "stood",
                                         "let go",
                                         "lets go",
                                         "pushed off",
                                         "least favoured",
                                         "laid at",
                                         "parted",
                                         "for good",
                                         "air pressure",
                                         "behind it",
                                         "beside",
                                         "one after another",
                                         "side by side",
                                         "does not balance",
                                         "cannot balance",
                                         "nothing balances",
                                         "limits kept",
                                         "limit broken",
                                         "limits broken",
                                         "keeps every limit",
                                         "keep every limit",
                                         "all limits kept",
                                         "as drawn",
                                         "derives from",
                                         "shipped",
                                         "in hand",
                                         "is no regular",
                                         "is no number",
                                         "is no unit",
                                         "is no pipe",
                                         "is no file",
                                         "plain sum",
                                         "no answer can",
                                         "none is cheaper",
                                         "would-be",
                                         "would be one",
                                         "can do it",
                                         "greatest",
                                         "dearer",
                                         "dearest",
                                         "anew",
                                         "whoever",
                                         "goes by",
                                         "go by",
                                         "throws",
                                         "worked out",
                                         "so many",
                                         "weighed",
                                         "a metre costs",
                                         "bring in",
                                         "brought in",
                                         "own stock",
                                         "of the stock",
                                         "from the stock",
                                         "in the stock",
                                         "shut in",
                                         "on paper only",
                                         "taken off",
                                         "held back",
                                         "asked of",
                                         "asked for",
                                         "asks",
                                         "how good it is",
                                         "would really",
                                         "at the wire",
                                         "it stands",
                                         "water parts",
                                         "upkeep",
                                         "cost to lay"};

std::string lower(std::string_view text) {
  std::string out;
  for (const char c : text) out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return out;
}

bool partOfWord(char c) { return std::isalnum(static_cast<unsigned char>(c)) || c == '-' || c == '_'; }

// The first of the unwanted turns that stands in a text as words of its own; empty: none.
std::string_view turnIn(std::string_view raw) {
  const std::string text = lower(raw);
  for (const std::string_view turn : unwanted)
    for (std::size_t at = text.find(turn); at != std::string::npos; at = text.find(turn, at + 1)) {
      const std::size_t end = at + turn.size();
      if ((at == 0 || !partOfWord(text[at - 1])) && (end == text.size() || !partOfWord(text[end])))
        return turn;
    }
  return {};
}

// Words of files and JSON that no person is shown.
const std::set<std::string, std::less<>> ofFiles{"cannot balance", "cannot balance yet", "as drawn", "least",
                                                 "greatest"};

// Keys and words of files, which stay what they are.
std::set<std::string, std::less<>> keys() {
  std::set<std::string, std::less<>> all{"cannot balance", "cannot balance yet", "on paper only",
                                         "air pressure", "as drawn"};
  const auto take = [&](std::span<const Field> fields) {
    for (const Field& f : fields) {
      all.emplace(f.key);
      for (const auto& c : f.choices) all.emplace(c);
      for (const Column& c : f.columns) all.emplace(c.key);
    }
  };
  for (const Part* part : allParts()) {
    take(part->fields);
    for (const Outcome& o : part->outcomes) all.emplace(o.key);
  }
  take(caseFields());
  take(costFields());
  take(pumpRequestFields());
  take(sizingFields());
  all.insert({"shut in", "on paper only", "air pressure"});
  return all;
}

std::string wholeFile(const fs::path& path) {
  std::stringstream text;
  text << std::ifstream(path).rdbuf();
  return text.str();
}

struct Text {
  std::string words;
  std::size_t line;
};

// String literals of a source, neighbours joined; comments and included names are none.
std::vector<Text> literals(const std::string& source) {
  std::vector<Text> all;
  std::size_t line = 1;
  bool joins = false;
  for (std::size_t i = 0; i < source.size(); ++i) {
    const char c = source[i];
    if (c == '\n') ++line;
    if (c == '/' && source.compare(i, 2, "//") == 0) {
      i = std::min(source.find('\n', i), source.size()) - 1;
    } else if (c == '\'' && i + 2 < source.size() && (source[i + 2] == '\'' || source[i + 1] == '\\')) {
      i = source.find('\'', i + (source[i + 1] == '\\' ? 3 : 2));
    } else if (c == '"' && i > 0 && source[i - 1] == 'R') {
      const std::size_t open = source.find('(', i);
      const std::string end = ")" + source.substr(i + 1, open - i - 1) + "\"";
      const std::size_t close = source.find(end, open);
      line += static_cast<std::size_t>(std::count(source.begin() + static_cast<std::ptrdiff_t>(i),
                                                  source.begin() + static_cast<std::ptrdiff_t>(close), '\n'));
      i = close + end.size() - 1;
      joins = false;
    } else if (c == '"') {
      std::size_t end = i + 1;
      while (end < source.size() && source[end] != '"') end += source[end] == '\\' ? 2 : 1;
      const std::string words = source.substr(i + 1, end - i - 1);
      if (joins) all.back().words += words;
      else all.push_back({words, line});
      i = end;
      joins = true;
    } else if (!std::isspace(static_cast<unsigned char>(c))) {
      joins = false;
    }
  }
  return all;
}

// A page without what is quoted as typed: code in its line and in blocks of its own.
std::vector<Text> linesOfPage(const std::string& page) {
  std::vector<Text> all;
  std::istringstream in(page);
  std::string line;
  bool code = false;
  for (std::size_t n = 1; std::getline(in, line); ++n) {
    if (line.starts_with("```")) code = !code;
    if (code || line.starts_with("```")) continue;
    std::string words;
    bool quoted = false;
    for (const char c : line) {
      if (c == '`') quoted = !quoted;
      else if (!quoted) words += c;
    }
    all.push_back({words, n});
  }
  return all;
}

std::vector<fs::path> filesIn(const char* folder, std::initializer_list<std::string_view> endings) {
  std::vector<fs::path> all;
  for (const auto& entry : fs::recursive_directory_iterator(fs::path(SOURCE_DIR) / folder))
    if (std::find(endings.begin(), endings.end(), entry.path().extension().string()) != endings.end())
      all.push_back(entry.path());
  std::sort(all.begin(), all.end());
  return all;
}

void expectPlain(const fs::path& file, const std::vector<Text>& texts,
                 const std::set<std::string, std::less<>>& but = {}) {
  for (const Text& t : texts)
    if (!but.contains(t.words))
      if (const std::string_view turn = turnIn(t.words); !turn.empty())
        ADD_FAILURE() << fs::relative(file, SOURCE_DIR).string() << ":" << t.line << " says \"" << turn
                      << "\": " << t.words.substr(0, 160);
}

TEST(PlainWords, sourcesSayWhatAnEngineerWould) {
  const auto but = keys();
  std::size_t seen = 0;
  for (const fs::path& file : filesIn("src", {".cpp", ".h"})) {
    if (file.filename() == "words.cpp" && file.parent_path().filename() == "say") continue;  // keys to words
    std::vector<Text> texts = literals(wholeFile(file));
    seen += texts.size();
    std::erase_if(texts, [](const Text& t) {  // one word, or a line of markup or JSON keys
      return t.words.find(' ') == std::string::npos || t.words.find("\\\"over\\\"") != std::string::npos;
    });
    // Links inside markup are for the program.
    for (Text& t : texts)
      for (std::size_t at = t.words.find("href='"); at != std::string::npos; at = t.words.find("href='", at))
        t.words.erase(at, t.words.find('\'', at + 6) - at + 1);
    expectPlain(file, texts, but);
  }
  EXPECT_GT(seen, 5000u) << "the reader of literals reads";
}

TEST(PlainWords, pagesSamplesCatalogueAndScriptsToo) {
  for (const fs::path& file : filesIn("docs", {".md"})) expectPlain(file, linesOfPage(wholeFile(file)));
  for (const char* name : {"README.md", "CHANGELOG.md"}) {
    const fs::path file = fs::path(SOURCE_DIR) / name;
    expectPlain(file, linesOfPage(wholeFile(file)));
  }
  for (const fs::path& file : filesIn("stock", {".csv"})) {
    std::vector<Text> texts;
    for (Text& t : linesOfPage(wholeFile(file)))
      if (t.words.find(",") != std::string::npos)
        texts.push_back({t.words.substr(t.words.rfind(',')), t.line});
    expectPlain(file, texts);
  }
  // In a model what is said freely is a note or a remark; the rest is keys.
  for (const fs::path& file : filesIn("samples", {".lconduit"})) {
    std::vector<Text> texts;
    const std::vector<Text> all = literals(wholeFile(file));
    for (std::size_t i = 0; i + 1 < all.size(); ++i)
      if (all[i].words == "note" || all[i].words == "remark" || all[i].words == "remarks" ||
          all[i].words == "text" || all[i].words == "title")
        texts.push_back(all[i + 1]);
    EXPECT_FALSE(texts.empty()) << file;
    expectPlain(file, texts);
  }
  for (const char* name : {"demo", "check", "packaging/prepare.sh"}) {
    const fs::path file = fs::path(SOURCE_DIR) / name;
    std::vector<Text> texts;
    std::istringstream in(wholeFile(file));
    std::string line;
    for (std::size_t n = 1; std::getline(in, line); ++n) texts.push_back({line, n});
    expectPlain(file, texts);
  }
}

// The guard itself: what it must see, and what it must let pass.
TEST(PlainWords, theGuardSeesWholeWordsInAnyCase) {
  for (const char* bad : {"Nothing flows here.", "the head asked for", "a would-be pump", "limits broken: 3"})
    EXPECT_FALSE(turnIn(bad).empty()) << bad;
  for (const char* good : {"boiler feed", "recommend", "standstill", "besides", "a shipment", "go bypassing"})
    EXPECT_TRUE(turnIn(good).empty()) << good << ": " << turnIn(good);
  const auto two = literals("f(\"one \"\n  \"text\", 'x', \"two\");  // \"no text\"\n#include \"a b.h\"\n");
  ASSERT_EQ(two.size(), 3u);
  EXPECT_EQ(two[0].words, "one text");
  EXPECT_EQ(two[1].words, "two");
}

TEST(PlainWords, aDisplayNameIsNotAKeyOfSomethingElseThatReadsOtherwise) {
  // "a {} needs": one word for one thing, so a display name shown again as a key must say the same.
  for (const std::string& key : keys()) {
    if (ofFiles.contains(key)) continue;
    const std::string shown = spoken(key);
    EXPECT_FALSE(shown.empty()) << key;
    EXPECT_EQ(spoken(shown), shown) << key << " is shown as " << shown << ", which is shown otherwise itself";
    EXPECT_TRUE(turnIn(shown).empty()) << key << " is shown as " << shown;
    EXPECT_FALSE(shown.ends_with(" at least") || shown.ends_with(" at most")) << key;
  }
}

TEST(PlainWords, noTwoFieldsOrResultsOfAKindAreShownAlike) {
  for (const Part* part : allParts()) {
    std::set<std::string> fields, results;
    for (const Field& f : part->fields)
      EXPECT_TRUE(fields.insert(spoken(f.key)).second) << part->key << ": " << f.key;
    for (const Outcome& o : part->outcomes)
      EXPECT_TRUE(results.insert(spoken(o.key)).second) << part->key << ": " << o.key;
  }
}

}  // namespace
}  // namespace conduit
