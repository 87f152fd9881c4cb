// Problems with known answers (tests/problems): expected values come from hand calculation and published
// sources named in each file, with their tolerances.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "say/words.h"
#include "solve/solve.h"

namespace conduit {
namespace {

std::vector<std::string> caseNames() {
  std::vector<std::string> names;
  for (const auto& file : std::filesystem::directory_iterator(SOURCE_DIR "/tests/problems"))
    if (file.path().extension() == ".lconduit") names.push_back(file.path().stem().string());
  std::sort(names.begin(), names.end());
  return names;
}

std::optional<double> found(const Network& network, const Solution& solution, const std::string& quantity,
                            const std::string& name) {
  if (quantity == "head_difference") {
    const auto mark = name.find('>');
    const auto a = solution.head(network.byName(name.substr(0, mark))),
               b = solution.head(network.byName(name.substr(mark + 1)));
    return *b - *a;
  }
  const Id id = network.byName(name);
  if (id == noId) return std::nullopt;
  const ReadingOf reading(network, solution, id);
  std::string key = quantity;
  if (quantity == "npsh") key = "NPSH available";
  if (quantity == "nozzle_flow") key = "flow";
  for (const Outcome& outcome : network.at(id).part->outcomes)
    if (outcome.key == key) return outcome.of(*reading);
  return std::nullopt;
}

class Case : public testing::TestWithParam<std::string> {};

TEST_P(Case, meetsItsExpectedValues) {
  const std::string base = std::string(SOURCE_DIR "/tests/problems/") + GetParam();
  const auto model = loadModel(base + ".lconduit", &shippedStock());
  ASSERT_TRUE(model) << model.error().front().what;
  const Network* network = &model->drawn;
  std::ifstream file(base + ".expected.json");
  const auto expected = nlohmann::json::parse(file);
  const Solution solution = solve(*network, &shippedStock());
  ASSERT_TRUE(solution.summary.usable()) << solution.summary.full();
  for (const auto& v : expected["values"]) {
    const auto value = found(*network, solution, v["quantity"], v["name"]);
    ASSERT_TRUE(value) << v.dump();
    EXPECT_NEAR(*value, v["value"].get<double>(), v["tolerance"].get<double>()) << v.dump();
  }
  static constexpr const char* words[] = {"open", "shut", "acting"};
  const auto states = expected.value("states", nlohmann::json::object());
  for (const auto& [name, state] : states.items())
    EXPECT_EQ(words[static_cast<int>(solution.branch(network->byName(name), 0).state)],
              state.get<std::string>())
        << name;
}

INSTANTIATE_TEST_SUITE_P(Known, Case, testing::ValuesIn(caseNames()),
                         [](const auto& one) { return one.param; });

// The verification manual, made from the same data. CONDUIT_WRITE_DOCS=1 in the environment writes it again.
TEST(Verification, thePageIsThatOfTheCases) {
  std::string page =
      "# Verification\n\nProblems with known answers, each solved from a cold start. The data are in "
      "`tests/problems` (model and expected values); this page is generated from\nthem and a test keeps it "
      "current. *% of tolerance* is the difference between found and expected, as a percentage of the stated "
      "tolerance.\n";
  const auto named = [](const std::string& quantity) {
    return quantity == "npsh"              ? "NPSH"
           : quantity == "nozzle_flow"     ? "nozzle flow"
           : quantity == "head_difference" ? "head difference"
                                           : quantity;
  };
  for (const std::string& name : caseNames()) {
    const std::string base = std::string(SOURCE_DIR "/tests/problems/") + name;
    const auto model = loadModel(base + ".lconduit", &shippedStock());
    ASSERT_TRUE(model) << name;
    const Network* network = &model->drawn;
    std::ifstream file(base + ".expected.json");
    const auto expected = nlohmann::json::parse(file);
    const Solution solution = solve(*network, &shippedStock());
    page += fmt::format(
        "\n## {}\n`tests/problems/{}.lconduit`. Source: {}.\n\n| quantity | element | expected | found | "
        "difference "
        "| % of tolerance |\n|---|---|---|---|---|---|\n",
        expected["title"].get<std::string>(), name, expected["source"].get<std::string>());
    for (const auto& v : expected["values"]) {
      const double want = v["value"], got = found(*network, solution, v["quantity"], v["name"]).value_or(NAN),
                   share = std::abs(got - want) / v["tolerance"].get<double>();
      page += fmt::format("| {} | {} | {:.7g} | {:.7g} | {} | {} |\n",
                          named(v["quantity"].get<std::string>()), v["name"].get<std::string>(), want, got,
                          share < 0.005 ? "below rounding" : fmt::format("{:.1e}", got - want),
                          share < 0.005 ? "< 1 %" : fmt::format("{:.0f} %", share * 100));
    }
    const auto states = expected.value("states", nlohmann::json::object());
    for (const auto& [device, state] : states.items()) {
      static constexpr const char* words[] = {"open", "shut", "acting"};
      page += fmt::format("| state | {} | {} | {} | | |\n", device, spoken(state.get<std::string>()),
                          spoken(words[static_cast<int>(solution.branch(network->byName(device), 0).state)]));
    }
    if (expected.contains("working")) {
      page += "\n";
      for (const auto& line : expected["working"]) page += line.get<std::string>() + "\n";
    }
  }
  const std::string path = SOURCE_DIR "/docs/verification.md";
  if (std::getenv("CONDUIT_WRITE_DOCS")) std::ofstream(path) << page;
  std::stringstream text;
  text << std::ifstream(path).rdbuf();
  EXPECT_EQ(text.str(), page) << "run the tests once with CONDUIT_WRITE_DOCS=1";
}

}  // namespace
}  // namespace conduit
