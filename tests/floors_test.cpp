// The house has floors: a file includes only downward, never a folder that includes its own; no Qt below the
// desktop.
#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <map>
#include <regex>
#include <set>

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
  const std::vector<std::string> order{
      "jobs",    "quantity", "say",    "curve", "stock", "fluid", "friction", "loss", "medium", "parts",
      "network", "solve",    "limits", "route", "find",  "model", "cases",    "pump", "sizing", "exchange"};
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

TEST(Floors, noQtBelowTheDesktop) {
  const std::regex qt(R"(^#include <(Q[A-Za-z/]+)>)");
  for (const char* folder : {"/src/conduit", "/src/cli", "/bench"})
    for (const auto& entry : fs::recursive_directory_iterator(std::string(SOURCE_DIR) + folder))
      if (entry.is_regular_file()) EXPECT_TRUE(includes(entry.path(), qt).empty()) << entry.path();
}

TEST(Floors, noCircleAmongTheDesktopsRooms) {
  const std::regex own(R"re(^#include "((desks/)?[a-z_]+)/)re");
  // Rooms of a desk are included by their own name, the desk itself by its folder.
  const std::set<std::string> rooms{"look",   "plot",  "document",      "plan",        "levels", "card",
                                    "drawer", "desks", "desks/network", "desks/cases", "window"};
  const auto roomOf = [](const fs::path& file) {
    const std::string folder = file.parent_path().lexically_relative(SOURCE_DIR "/src/desktop").string();
    return folder == "desks/network" || folder == "desks/cases" || folder.find('/') == std::string::npos
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
  EXPECT_FALSE(to["window"].contains("desks/network")) << "the window knows no desk";
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

}  // namespace
}  // namespace conduit
