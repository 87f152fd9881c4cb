#include "command_line.h"

#include <gtest/gtest.h>

#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>

namespace conduit::cli {
namespace {

struct Ran {
  int status;
  std::string out, err;
};
Ran ran(std::vector<std::string> arguments) {
  std::ostringstream out, err;
  const int status = run(arguments, out, err);
  return {status, out.str(), err.str()};
}
const std::string samples = SOURCE_DIR "/samples/";

std::string scratch(const std::string& text) {
  const std::string path = testing::TempDir() + "cli-" + std::to_string(::getpid()) + ".lconduit";
  std::ofstream(path) << text;
  return path;
}

TEST(CommandLine, exitStatusSaysHowThingsStand) {
  EXPECT_EQ(ran({"solve", samples + "millpond.lconduit"}).status, limitsKept);
  EXPECT_EQ(ran({"solve", samples + "kestrel-fell.lconduit"}).status, limitBroken);
  const std::string loose = scratch(
      R"({"format":"level-conduit","version":1,"points":[{"name":"A","height":"0 m"},{"name":"B","height":"0 m","outflow":"1 L/s"}],"elements":[{"kind":"pipe","name":"L","from":"A","to":"B","length":"9 m","bore":"90 mm","roughness":"0 mm"}]})");
  EXPECT_EQ(ran({"solve", loose}).status, cannotBalance);
  const Ran broken = ran({"solve", scratch("{")});
  EXPECT_EQ(broken.status, unusableInput);
  EXPECT_NE(broken.err.find("line 1"), std::string::npos) << broken.err;
  EXPECT_TRUE(broken.out.empty());
  EXPECT_EQ(ran({"solve", "/no/such/file.lconduit"}).status, unusableInput);
  EXPECT_EQ(ran({"solve", samples}).status, unusableInput);
  EXPECT_EQ(ran({"teapot"}).status, unusableInput);
  EXPECT_EQ(ran({}).status, unusableInput);
  EXPECT_EQ(ran({"solve", samples + "millpond.lconduit", "--units", "furlongs"}).status, unusableInput);
  EXPECT_EQ(ran({"--help"}).status, 0);
  EXPECT_EQ(ran({"--version"}).status, 0);
}

TEST(CommandLine, jsonHasTheDocumentedForm) {
  const Ran r = ran({"solve", samples + "kestrel-fell.lconduit", "--json"});
  const auto json = nlohmann::json::parse(r.out);
  for (const char* key : {"outcome", "iterations", "residuals", "points", "elements", "findings", "balance"})
    EXPECT_TRUE(json.contains(key)) << key;
  for (const char* key : {"name", "head_m", "pressure_pa_gauge", "pressure_pa_absolute", "outflow_m3_s"})
    EXPECT_TRUE(json["points"][0].contains(key)) << key;
  for (const char* key :
       {"name", "kind", "from", "to", "flow_m3_s", "mass_flow_kg_s", "head_loss_m", "velocity_m_s", "state"})
    EXPECT_TRUE(json["elements"][0].contains(key)) << key;
  EXPECT_EQ(json["outcome"], "balanced");
  // What comes in goes out.
  EXPECT_NEAR(json["balance"]["inflow_m3_s"].get<double>(), json["balance"]["outflow_m3_s"].get<double>(),
              1e-12);
}

TEST(CommandLine, undeterminedIsNull) {
  const std::string pocket = scratch(
      R"({"format":"level-conduit","version":1,"points":[{"name":"A","height":"0 m"},{"name":"B","height":"0 m"},{"name":"C","height":"0 m"}],"elements":[{"kind":"fixed pressure","name":"F","point":"A","pressure":"1 bar"},{"kind":"pipe","name":"L","from":"A","to":"B","length":"9 m","bore":"90 mm","roughness":"0 mm"},{"kind":"isolating valve","name":"V","from":"B","to":"C","open":false}]})");
  const auto json = nlohmann::json::parse(ran({"solve", pocket, "--json"}).out);
  EXPECT_TRUE(json["points"][2]["head_m"].is_null());
  EXPECT_FALSE(json["points"][1]["head_m"].is_null());
}

TEST(CommandLine, theReportSpeaksInTheUnitsAskedFor) {
  EXPECT_NE(ran({"solve", samples + "millpond.lconduit", "--units", "US"}).out.find("gpm"),
            std::string::npos);
  const std::string text = ran({"solve", samples + "kestrel-fell.lconduit"}).out;
  EXPECT_LT(text.find("Balanced:"), text.find("Findings"));
  EXPECT_LT(text.find("Findings"), text.find("Points"));
}

TEST(CommandLine, aRemedyIsAppliedByItsNumberAndTheModelWritten) {
  const std::string shut = scratch(
      R"({"format":"level-conduit","version":1,"points":[{"name":"A","height":"0 m"},{"name":"B","height":"0 m","outflow":"1 L/s"}],"elements":[{"kind":"fixed pressure","name":"F","point":"A","pressure":"3 bar"},{"kind":"isolating valve","name":"V","from":"A","to":"B","open":false,"bore":"90 mm"}]})");
  const Ran before = ran({"solve", shut});
  EXPECT_EQ(before.status, cannotBalance);
  EXPECT_NE(before.out.find("remedy 1: Open V"), std::string::npos) << before.out;
  const std::string mended = testing::TempDir() + "mended.lconduit";
  const Ran after = ran({"solve", shut, "--apply-remedy", "1", "--write", mended});
  EXPECT_EQ(after.status, limitsKept) << after.out << after.err;
  EXPECT_EQ(ran({"solve", mended}).status, limitsKept);
  EXPECT_EQ(ran({"solve", shut, "--apply-remedy", "99"}).status, unusableInput);
  EXPECT_EQ(ran({"solve", shut, "--write", mended}).status, unusableInput)
      << "without a remedy there is nothing to write";
}

TEST(CommandLine, theRecordHoldsEveryStepAndTheModel) {
  const std::string file = testing::TempDir() + "record.txt";
  EXPECT_EQ(ran({"solve", samples + "kestrel-fell.lconduit", "--record", file}).status, limitBroken);
  std::stringstream text;
  text << std::ifstream(file).rdbuf();
  for (const char* words :
       {"largest head residual", "Steps", "exact", "Device states", "\"format\": \"level-conduit\""})
    EXPECT_NE(text.str().find(words), std::string::npos) << words;
  EXPECT_EQ(ran({"solve", samples + "millpond.lconduit", "--record", "/no/such/folder/record.txt"}).status,
            unusableInput);
}

}  // namespace
}  // namespace conduit::cli
