// The house has floors: a file includes only downward, never a folder that includes its own; no Qt below the
// desktop.
#include <gtest/gtest.h>

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <fstream>
#include <map>
#include <regex>
#include <set>

#include "parts/registry.h"

namespace conduit {
namespace {

namespace fs = std::filesystem;

std::vector<std::string> includes(const fs::path& file, const std::regex& which) {
  std::ifstream in(file);
  std::vector<std::string> found;
  std::smatch m;
  for (std::string line; std::getline(in, line);)
    if (std::regex_search(line, m, which)) found.push_back(m[1]);
  return found;
}

TEST(Floors, theCoreIncludesOnlyDownward) {
  // Lowest first. A new folder gets its place here, with a word in docs/design.md.
  const std::vector<std::string> order{"jobs",    "quantity", "say",      "fields",  "json",    "curve",
                                       "stock",   "fluid",    "friction", "loss",    "medium",  "parts",
                                       "network", "solve",    "limits",   "route",   "find",    "model",
                                       "cases",   "pump",     "sizing",   "studies", "exchange"};
  std::map<std::string, int> floor;
  for (std::size_t i = 0; i < order.size(); ++i) floor[order[i]] = static_cast<int>(i);
  const std::regex own(R"re(^#include "([a-z_]+)/)re");
  int files = 0;
  for (const auto& entry : fs::recursive_directory_iterator(SOURCE_DIR "/src/conduit")) {
    if (entry.path().extension() != ".cpp" && entry.path().extension() != ".h") continue;
    ++files;
    // A room within a floor (parts/pump) is of that floor.
    const std::string from = entry.path().lexically_relative(SOURCE_DIR "/src/conduit").begin()->string();
    ASSERT_TRUE(floor.contains(from)) << from << " has no floor";
    for (const std::string& to : includes(entry.path(), own)) {
      ASSERT_TRUE(floor.contains(to)) << entry.path() << " includes " << to;
      EXPECT_LE(floor[to], floor[from]) << entry.path() << " looks up to " << to;
    }
  }
  EXPECT_GT(files, 50);
}

// Functions of a file's own that the program sees beside those of its neighbours when their files are
// compiled as one unit (cmake/units.cmake): two of one name would be overloads of each other, and a call
// might quietly take the other.
std::set<std::string> localFunctions(const fs::path& file) {
  std::string text;
  std::ifstream in(file);
  for (std::string line; std::getline(in, line);) {
    bool quoted = false;
    for (std::size_t i = 0; i < line.size(); ++i) {
      if (!quoted && line.compare(i, 2, "//") == 0) break;
      if (line[i] == '"' && (i == 0 || line[i - 1] != '\\' || (i > 1 && line[i - 2] == '\\')) &&
          !(i > 0 && line[i - 1] == '\''))
        quoted = !quoted;
      else if (!quoted) text += line[i];
    }
    text += '\n';
  }
  std::set<std::string> names;
  const std::regex opens(R"(namespace( [a-z_:]+)? \{)");
  std::string within;
  for (std::sregex_iterator m(text.begin(), text.end(), opens), end; m != end; ++m) {
    if ((*m)[1].matched) {
      within = (*m)[1];
      continue;
    }
    int depth = 0;
    std::string before;
    for (auto at = static_cast<std::size_t>(m->position() + m->length()); at < text.size(); ++at) {
      const char c = text[at];
      if (c == '(' && depth == 0) {
        std::size_t from = before.find_last_not_of(" \n");
        std::size_t to = from == std::string::npos ? 0 : from + 1;
        while (to > 0 && from != std::string::npos &&
               (std::isalnum(static_cast<unsigned char>(before[from])) || before[from] == '_')) {
          if (from == 0) break;
          --from;
        }
        if (to > 0 && from + 1 < to) names.insert(within + "::" + before.substr(from + 1, to - from - 1));
      }
      if (c == '(' || c == '{') ++depth;
      if ((c == ')' || c == '}') && --depth < 0) break;
      if (c == ';') before.clear();
      else before += c;
    }
  }
  return names;
}

TEST(Floors, namesLocalToAFileDifferWithinItsUnit) {
  std::size_t seen = 0;
  for (const char* library : {"conduit", "desktop", "cli"}) {
    std::map<fs::path, std::vector<fs::path>> folders;
    for (const auto& entry : fs::recursive_directory_iterator(fs::path(SOURCE_DIR) / "src" / library))
      if (entry.path().extension() == ".cpp") folders[entry.path().parent_path()].push_back(entry.path());
    std::map<std::string, std::map<std::string, std::string>> units;  // unit -> name -> file
    for (auto& [folder, files] : folders) {
      std::sort(files.begin(), files.end());
      if (folder.filename() == "medium") continue;  // compiled one by one
      for (const fs::path& file : files)
        for (const std::string& name : localFunctions(file)) {
          const std::string unit = files.size() < 4 ? "small folders" : folder.string();
          const auto [known, first] = units[unit].emplace(name, file.filename().string());
          EXPECT_TRUE(first) << name << " is local to " << file.filename() << " and to " << known->second;
          ++seen;
        }
    }
  }
  EXPECT_GT(seen, 500u);
}

// Two types of one name in one namespace are one to the linker, which takes the functions of either: a
// destructor of the one then ends the other.
TEST(Floors, noTypeIsDefinedTwice) {
  const std::regex opens(R"(^namespace(?: ([a-z_:]+))? \{)"),
      type(R"(^(?:struct|class|enum class) (\w+)(?: final)?(?: : [^;]*)? \{)");
  std::map<std::string, std::string> seen;
  for (const auto& entry : fs::recursive_directory_iterator(SOURCE_DIR "/src")) {
    if (entry.path().extension() != ".cpp" && entry.path().extension() != ".h") continue;
    std::vector<std::string> within;
    std::ifstream in(entry.path());
    for (std::string line; std::getline(in, line);) {
      std::smatch m;
      if (std::regex_search(line, m, opens)) within.push_back(m[1].matched ? m[1].str() : std::string());
      else if (line.starts_with("}  // namespace") && !within.empty()) within.pop_back();
      else if (std::regex_search(line, m, type)) {
        std::string name;
        bool local = false;
        for (const std::string& of : within) local = local || of.empty(), name += of + "::";
        if (local) continue;
        const auto [known, first] = seen.emplace(name + m[1].str(), entry.path().string());
        EXPECT_TRUE(first || known->second == entry.path().string())
            << name << m[1] << " is defined in " << entry.path() << " and " << known->second;
      }
    }
  }
  EXPECT_GT(seen.size(), 250u);
}

TEST(Floors, noQtBelowTheDesktop) {
  const std::regex qt(R"(^#include <(Q[A-Za-z/]+)>)");
  for (const char* folder : {"/src/conduit", "/src/cli", "/bench"})
    for (const auto& entry : fs::recursive_directory_iterator(std::string(SOURCE_DIR) + folder))
      if (entry.is_regular_file()) EXPECT_TRUE(includes(entry.path(), qt).empty()) << entry.path();
}

TEST(Floors, noCircleAmongTheDesktopsRooms) {
  const std::regex own(R"re(^#include "((desks/)?[a-z_]+)/)re");
  // Rooms of a desk are included by their own name, the desk itself by its folder: read from the folders.
  std::set<std::string> rooms, desks;
  for (const auto& entry : fs::directory_iterator(SOURCE_DIR "/src/desktop"))
    if (entry.is_directory()) rooms.insert(entry.path().filename().string());
  for (const auto& entry : fs::directory_iterator(SOURCE_DIR "/src/desktop/desks"))
    if (entry.is_directory()) desks.insert("desks/" + entry.path().filename().string());
  for (const std::string& desk : desks)
    for (const auto& entry : fs::directory_iterator(SOURCE_DIR "/src/desktop/" + desk))
      if (entry.is_directory()) rooms.insert(entry.path().filename().string());
  rooms.insert(desks.begin(), desks.end());
  const auto roomOf = [&](const fs::path& file) {
    const std::string folder = file.parent_path().lexically_relative(SOURCE_DIR "/src/desktop").string();
    return desks.contains(folder) || folder.find('/') == std::string::npos
               ? folder
               : folder.substr(folder.rfind('/') + 1);
  };
  std::map<std::string, std::set<std::string>> to;
  for (const auto& entry : fs::recursive_directory_iterator(SOURCE_DIR "/src/desktop")) {
    if (entry.path().extension() != ".cpp" && entry.path().extension() != ".h") continue;
    const std::string from = roomOf(entry.path());
    // The place where desks are hung up looks at each of them, and nobody looks at it.
    if (entry.path().filename() == "desks.cpp") continue;
    for (const std::string& t : includes(entry.path(), own))
      if (rooms.contains(t) && t != from) to[from].insert(t);
  }
  EXPECT_TRUE(to["desks/network"].contains("desks")) << "rooms are not seen";
  EXPECT_GE(desks.size(), 4u);
  for (const std::string& desk : desks) {
    EXPECT_FALSE(to["window"].contains(desk)) << "the window knows no desk";
    for (const std::string& other : desks)
      if (other != desk) EXPECT_FALSE(to[desk].contains(other)) << desk << " knows " << other;
  }
  for (const std::string& start : rooms) {
    std::set<std::string> seen;
    std::vector<std::string> stack(to[start].begin(), to[start].end());
    while (!stack.empty()) {
      const std::string room = stack.back();
      stack.pop_back();
      EXPECT_NE(room, start) << "a circle through " << start;
      if (seen.insert(room).second) stack.insert(stack.end(), to[room].begin(), to[room].end());
    }
  }
}

// Outside `parts/` nothing compares a kind with its word, and keys of fields and found numbers are named
// (fields/keys.h): what is misspelt does not compile. Both counts may only fall.
TEST(Floors, kindsAreAskedNotNamed) {
  std::set<std::string, std::less<>> keys;
  for (const Part* part : allParts()) {
    for (const Field& f : part->fields) keys.emplace(f.key);
    for (const Outcome& o : part->outcomes) keys.emplace(o.key);
  }
  // Looked up or compared; the same word in a sentence, a table's heading or a result's JSON is no key.
  const std::regex kind(R"re(part(->|\.)key [=!]= "|findPart\(")re"),
      literal(
          R"re(\b(?:find|given|givenSi|value|text|textOf|entry|rows|goal|give|ungive|set|setGiven|clear|release|released|assumed|assume|outcomeOf|outcome|findField|findOutcome|fieldOr|foundFor|setField|putText|fill|quantity)\((?:[^"()]|\([^()]*\))*"([^"]+)"|\bkey_? [=!]= "([^"]+)")re");
  std::size_t kinds = 0, literals = 0;
  for (const auto& entry : fs::recursive_directory_iterator(SOURCE_DIR "/src")) {
    if (entry.path().extension() != ".cpp" && entry.path().extension() != ".h") continue;
    const std::string path = entry.path().lexically_relative(SOURCE_DIR "/src").string();
    // Kinds' own room, the names of keys, and words of people and measures.
    if (path.starts_with("conduit/parts/") || path.starts_with("conduit/fields/") ||
        path.starts_with("conduit/say/") || path.starts_with("conduit/quantity/"))
      continue;
    std::ifstream in(entry.path());
    for (std::string line; std::getline(in, line);) {
      if (const auto comment = line.find("//"); comment != std::string::npos) line.erase(comment);
      if (line.starts_with("#include") || line.find('"') == std::string::npos) continue;
      if (std::regex_search(line, kind)) {
        ++kinds;
        ADD_FAILURE() << path << ": " << line;
      }
      for (std::sregex_iterator m(line.begin(), line.end(), literal), end; m != end; ++m)
        if (keys.contains((*m)[(*m)[1].matched ? 1 : 2].str())) ++literals;
    }
  }
  EXPECT_EQ(kinds, 0u);
  EXPECT_LE(literals, 98u);
}

}  // namespace
}  // namespace conduit
