#include <fmt/format.h>
#include <gtest/gtest.h>

#include "cli/ran.h"

namespace conduit::cli {
namespace {

using test::kestrel;
using test::Ran;
using test::ran;
using test::samples;
using test::scratch;

TEST(CommandLine, exitStatusSaysHowThingsStand) {
  EXPECT_EQ(ran({"solve", SOURCE_DIR "/tests/limits/pond.lconduit"}).status, limitsKept);
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
  EXPECT_LT(text.find("Solved:"), text.find("Findings"));
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
       {"largest head residual", "Steps", "exact", "Final device states", "\"format\": \"level-conduit\""})
    EXPECT_NE(text.str().find(words), std::string::npos) << words;
  EXPECT_EQ(ran({"solve", samples + "millpond.lconduit", "--record", "/no/such/folder/record.txt"}).status,
            unusableInput);
}

// A valve of Kv 60 over 30 m by day, 18 m by night: Q = 60·√(9.80665·H/100) m³/h.
std::string dayAndNight() {
  return scratch(
      R"({"format":"level-conduit","version":2,"cases":[{"drawing":true,"name":"Day"},{"name":"Night","hours in a year":"1000 h","differs":[{"element":"S","pressure":"38 m"}]},{"name":"Too much","differs":[{"element":"V","given":{"flow":"5 L/s"}}]}],"watched outcomes":[{"outcome":"flow","of":["V"]}],"points":[{"name":"A","height":"0 m"},{"name":"C","height":"0 m"}],"elements":[{"kind":"fixed pressure","name":"S","point":"A","pressure":"50 m"},{"kind":"fixed pressure","name":"E","point":"C","pressure":"20 m"},{"kind":"control valve","name":"V","from":"A","to":"C","Kv":"60 Kv","opening":"100 %"}]})");
}

TEST(CommandLine, casesAreSolvedByNameOrAllTogether) {
  const std::string file = dayAndNight();
  const auto flowOf = [](const nlohmann::json& answer) {
    for (const auto& e : answer["elements"])
      if (e["name"] == "V") return e["flow_m3_s"].get<double>();
    return 0.0;
  };
  const Ran night = ran({"solve", file, "--case", "night", "--json"});
  EXPECT_EQ(night.status, limitsKept) << night.err;
  EXPECT_NEAR(flowOf(nlohmann::json::parse(night.out)), 60 * std::sqrt(9.80665 * 18 / 100) / 3600, 1e-9);
  const Ran all = ran({"solve", file, "--all-cases", "--json"});
  EXPECT_EQ(all.status, cannotBalance) << "worst of all cases";
  const auto json = nlohmann::json::parse(all.out);
  ASSERT_EQ(json["cases"].size(), 3u);
  EXPECT_EQ(json["cases"][0]["case"], "Day");
  EXPECT_NEAR(flowOf(json["cases"][0]["answer"]), 60 * std::sqrt(9.80665 * 30 / 100) / 3600, 1e-9);
  EXPECT_EQ(json["cases"][2]["answer"]["outcome"], "cannot balance yet");
  EXPECT_NE(ran({"solve", file, "--all-cases"}).out.find("Case: Night"), std::string::npos);
  const Ran none = ran({"solve", file, "--case", "Frost"});
  EXPECT_EQ(none.status, unusableInput);
  EXPECT_NE(none.err.find("\"Night\""), std::string::npos) << "those that there are";
  EXPECT_EQ(ran({"solve", file, "--case", "Day", "--all-cases"}).status, unusableInput);
}

TEST(CommandLine, theGridOfCasesIsATableAndJson) {
  const std::string file = dayAndNight();
  const Ran text = ran({"cases", file});
  EXPECT_EQ(text.status, cannotBalance);
  for (const char* words :
       {"V flow", "Night", "based on", "S pressure", "kWh electrical input", "28.6", "22.1"})
    EXPECT_NE(text.out.find(words), std::string::npos) << words << "\n" << text.out;
  const auto json = nlohmann::json::parse(ran({"cases", file, "--json"}).out);
  EXPECT_EQ(json["cases"][1]["hours_in_a_year"], 1000.0);
  EXPECT_NEAR(json["watched"][0]["cells"][1]["value_si"].get<double>(),
              60 * std::sqrt(9.80665 * 18 / 100) / 3600, 1e-9);
  EXPECT_TRUE(json["watched"][0]["cells"][2]["value_si"].is_null());
  const Ran sample = ran({"cases", samples + "kestrel-fell.lconduit"});
  EXPECT_EQ(sample.status, limitBroken) << sample.out;
}

// What the sample's remarks say of its year: what all cases give the top tank, and how often Refill fills it
// from its bottom at 689.2 m to its top at 693 m over 180 m².
TEST(CommandLine, theSamplesTankAndHoursAddUp) {
  const auto json = ran({"cases", samples + "kestrel-fell.lconduit", "--json"}).json();
  double taken_m3 = 0, fills = 0;
  for (std::size_t i = 0; i < json["cases"].size(); ++i) {
    double flow_m3s = NAN;
    for (const auto& watched : json["watched"])
      if (watched["outcome"] == "flow out") flow_m3s = -watched["cells"][i]["value_si"].get<double>();
    const double year_m3 = flow_m3s * 3600 * json["cases"][i]["hours_in_a_year"].get<double>();
    taken_m3 += year_m3;
    if (json["cases"][i]["name"] == "Refill") fills = year_m3 / (180 * (693 - 689.2));
  }
  EXPECT_NEAR(taken_m3, 49800, 50);
  EXPECT_NEAR(fills, 37, 1) << "some forty";
}

// Larch Court ends with all limits met after its balance, and after its sizing and balance, none near.
TEST(CommandLine, larchCourtEndsWithAllLimitsMet) {
  const std::string from = samples + "larch-court.lconduit",
                    balanced = testing::TempDir() + "larch1.lconduit",
                    sized = testing::TempDir() + "larch2.lconduit",
                    both = testing::TempDir() + "larch3.lconduit";
  EXPECT_EQ(ran({"solve", from}).status, limitBroken);
  EXPECT_EQ(ran({"balance", from, "--write", balanced}).status, limitsKept);
  EXPECT_EQ(ran({"size", from, "--trials", "8", "--apply", "--write", sized}).status, limitsKept);
  EXPECT_EQ(ran({"balance", sized, "--write", both}).status, limitsKept);
  for (const std::string& file : {balanced, both}) {
    const Ran solved = ran({"solve", file, "--strict"});
    EXPECT_EQ(solved.status, limitsKept) << solved.out;
    EXPECT_NE(solved.out.find("0 limits not met, 0 near limit"), std::string::npos) << solved.out;
  }
}

TEST(CommandLine, aSweepInPartsIsGatheredToTheSameBytes) {
  const std::string file = dayAndNight(), folder = testing::TempDir();
  const std::vector<std::string> what{"sweep",  file,        "--case", "Night",
                                      "--vary", "V opening", "--over", "20 % to 100 % in 8"};
  const auto with = [&](std::vector<std::string> more) {
    std::vector<std::string> all = what;
    all.insert(all.end(), more.begin(), more.end());
    return ran(all);
  };
  const Ran whole = with({});
  EXPECT_EQ(whole.status, limitsKept) << whole.err;
  std::vector<std::string> gather{"gather"};
  for (const char* k : {"3", "1", "2"}) {
    const std::string part = folder + "part" + k + ".json";
    EXPECT_EQ(with({"--part", std::string(k) + "/3", "--write", part}).status, limitsKept);
    gather.push_back(part);
  }
  const Ran together = ran(gather);
  EXPECT_EQ(together.status, limitsKept) << together.err;
  EXPECT_EQ(together.out, whole.out);
  gather.pop_back();
  const Ran partly = ran(gather);
  EXPECT_EQ(partly.status, internalFault);
  EXPECT_NE(partly.err.find("--part 2/3"), std::string::npos) << "which to run again";
  // The first point by hand: 20 % of Kv 60 over 18 m, L/s.
  EXPECT_NE(
      whole.out.find(fmt::format("1,20 %,{:.6g}", 12 * std::sqrt(9.80665 * 18 / 100) / 3.6).substr(0, 13)),
      std::string::npos)
      << whole.out;
  EXPECT_EQ(with({"--part", "4/3"}).status, unusableInput);
  EXPECT_EQ(with({"--part", "x"}).status, unusableInput);
  EXPECT_EQ(ran({"sweep", file, "--vary", "V opening"}).status, unusableInput);
  EXPECT_EQ(ran({"sweep", file}).status, unusableInput);
  EXPECT_EQ(ran({"sweep", file, "--rows", "/no/such/table.csv"}).status, unusableInput);
  EXPECT_EQ(ran({"gather", file}).status, unusableInput) << "no file of a sweep";
  const std::string table = folder + "rows.csv";
  std::ofstream(table) << "V opening [%],S pressure\n50,38 m\n100,50 m\n";
  const Ran rows = ran({"sweep", file, "--rows", table});
  EXPECT_EQ(rows.status, limitsKept) << rows.err;
  EXPECT_NE(rows.out.find("2,100 %,50 m,28.58"), std::string::npos) << rows.out;
}

TEST(CommandLine, pumpsShowsDutiesCurvesAndCandidates) {
  const Ran all = ran({"pumps", kestrel});
  EXPECT_EQ(all.status, limitBroken) << "as the drawing's limits stand";
  EXPECT_NE(all.out.find("in parallel with P-2, upstream of B-1"), std::string::npos) << all.out;
  const auto json = nlohmann::json::parse(ran({"pumps", kestrel, "--json"}).out);
  ASSERT_EQ(json["pumps"].size(), 4u);
  EXPECT_FALSE(json["pumps"][3]["runs"].get<bool>());
  // The pumps stand 5.1 m over the tarn: their suction comes nearest to vapour.
  EXPECT_EQ(json["vapour"][0]["of"], "pump");
  EXPECT_GT(json["vapour"][0]["temperature_c"].get<double>(), 20);

  const auto curve = nlohmann::json::parse(
      ran({"pumps", kestrel, "--pump", "B-1", "--curve", "--flow", "40 L/s", "--json"}).out);
  EXPECT_GE(curve["system_curve"]["points"].size(), 9u);
  const double head = curve["read"]["head_m"].get<double>();
  // The other way round it reads the flow.
  const auto back = nlohmann::json::parse(
      ran({"pumps", kestrel, "--pump", "B-1", "--curve", "--head", fmt::format("{:.12g} m", head), "--json"})
          .out);
  EXPECT_NEAR(back["read"]["flow_m3s"].get<double>(), 0.040, 1e-7);

  const auto chosen =
      nlohmann::json::parse(ran({"pumps", kestrel, "--pump", "B-1", "--candidates", "--json"}).out);
  EXPECT_FALSE(chosen["candidates"].empty());
  std::size_t counted = 0;
  for (const auto& reason : chosen["reasons"]) counted += reason["count"].get<std::size_t>();
  EXPECT_EQ(counted, chosen["left_out"].size());
  EXPECT_NE(ran({"pumps", kestrel, "--pump", "P-1", "--sheet"}).out.find("NPSH available"),
            std::string::npos);
  const Ran speeds = ran({"pumps", kestrel, "--pump", "B-1", "--hold", "30 bar at N-17"});
  EXPECT_NE(speeds.out.find("Cold night"), std::string::npos) << speeds.err;
  EXPECT_NE(ran({"pumps", kestrel, "--at", "Top tank", "--curve"}).out.find("static head"),
            std::string::npos);
}

TEST(CommandLine, pumpsGivesTheCurveOfASupplyWithItsShare) {
  const std::string town = scratch(
      R"({"format":"level-conduit","version":2,"points":[{"name":"W","height":"20 m"},{"name":"S","height":"25 m"},{"name":"A","height":"30 m","outflow":"12 L/s"}],
      "elements":[{"kind":"fixed pressure","name":"Works","point":"W","pressure":"5 bar"},{"kind":"fixed pressure","name":"Spring","point":"S","pressure":"5 bar"},
      {"kind":"pipe","name":"L1","from":"W","to":"A","length":"400 m","bore":"125 mm","roughness":"0.1 mm"},{"kind":"pipe","name":"L2","from":"S","to":"A","length":"300 m","bore":"125 mm","roughness":"0.1 mm"}]})");
  const Ran r = ran({"pumps", town, "--at", "Works", "--share", "50 %", "--least-pressure", "2 bar", "--flow",
                     "6 L/s", "--json"});
  ASSERT_EQ(r.status, limitsKept) << r.err;
  const auto json = nlohmann::json::parse(r.out);
  EXPECT_NEAR(json["read"]["draw_offs_times"].get<double>(), 1.0, 1e-12);
  EXPECT_NEAR(json["read"]["other_m3s"].get<double>(), 0.006, 1e-12);
  EXPECT_EQ(json["read"]["governed_by"], "A");
}

TEST(CommandLine, sizeReachesThePublishedTwoLoops) {
  const std::string loops = SOURCE_DIR "/tests/sizing/two_loop.lconduit";
  const std::string taken = testing::TempDir() + "taken-" + std::to_string(::getpid()) + ".lconduit";
  const Ran r = ran({"size", loops, "--least", "laid", "--json", "--apply", "--write", taken});
  ASSERT_EQ(r.status, limitsKept) << r.err;
  const auto json = nlohmann::json::parse(r.out);
  EXPECT_LE(json["proposed"]["laid"].get<double>(), 419000.5);
  EXPECT_TRUE(json["proposed"]["keeps_all_limits"].get<bool>());
  EXPECT_LE(json["bound"].get<double>(), 419000);
  EXPECT_EQ(json["lines"].size(), 8u);
  // Taken, the model balances, keeps its limits and needs no other sizing.
  EXPECT_EQ(ran({"solve", taken}).status, limitsKept);
  const auto again =
      nlohmann::json::parse(ran({"size", taken, "--least", "laid", "--trials", "4", "--json"}).out);
  EXPECT_LE(again["proposed"]["laid"].get<double>(), json["proposed"]["laid"].get<double>());
  EXPECT_DOUBLE_EQ(again["now"]["laid"].get<double>(), json["proposed"]["laid"].get<double>());

  const auto line = nlohmann::json::parse(ran({"size", loops, "--line", "L-1", "--json"}).out);
  EXPECT_EQ(line["sizes"].size(), 14u);
  EXPECT_FALSE(line["sizes"][0]["keeps_all_limits"].get<bool>());
  EXPECT_TRUE(line["sizes"][13]["now"].get<bool>());
  // All 1,120 m³/h go through L-1: 1.5 m/s at √(4 Q/(π v)).
  const auto exact =
      nlohmann::json::parse(ran({"size", loops, "--line", "L-1", "--for", "velocity 1.5 m/s", "--json"}).out);
  EXPECT_NEAR(exact["exact_bore_m"].get<double>(), std::sqrt(4 * 1120 / 3600.0 / (M_PI * 1.5)), 1e-6);
  EXPECT_EQ(exact["size_below"], "Loop 20 A");
}

TEST(CommandLine, balanceOpensEachValveForItsFlow) {
  const auto valve = [](const std::string& i, const std::string& length) {
    return R"({"kind":"control valve","name":"Zone )" + i + R"(","from":"H","to":"M)" + i +
           R"(","Kv":"40 m3/h","bore":"100 mm"},{"kind":"pipe","name":"L)" + i + R"(","from":"M)" + i +
           R"(","to":"R","length":")" + length + R"( m","bore":"80 mm","roughness":"0.1 mm"})";
  };
  const std::string header = scratch(
      R"({"format":"level-conduit","version":2,"points":[{"name":"S","height":"0 m"},{"name":"H","height":"0 m"},{"name":"R","height":"0 m"},{"name":"M1","height":"0 m"},{"name":"M2","height":"0 m"}],
      "elements":[{"kind":"fixed pressure","name":"F","point":"S","pressure":"2 bar"},{"kind":"fixed pressure","name":"G","point":"R","pressure":"0 bar"},
      {"kind":"pipe","name":"L0","from":"S","to":"H","length":"5 m","bore":"150 mm","roughness":"0.1 mm"},)" +
      valve("1", "60") + "," + valve("2", "200") + "]}");
  const std::string taken = testing::TempDir() + "balanced-" + std::to_string(::getpid()) + ".lconduit";
  const Ran r = ran(
      {"balance", header, "--flow", "Zone 1 5 L/s", "--flow", "Zone 2 5 L/s", "--write", taken, "--json"});
  ASSERT_EQ(r.status, limitsKept) << r.err;
  const auto json = nlohmann::json::parse(r.out);
  EXPECT_EQ(json["index"], "Zone 2") << "at the end of the longer line";
  EXPECT_LT(json["farthest_off"].get<double>(), 1e-3);
  const auto solved = nlohmann::json::parse(ran({"solve", taken, "--json"}).out);
  EXPECT_NE(solved.dump().find("Zone 1"), std::string::npos);
  EXPECT_EQ(ran({"balance", header, "--flow", "Zone 2 90 L/s"}).status, cannotBalance);
  EXPECT_EQ(ran({"balance", header}).status, unusableInput);
  EXPECT_EQ(ran({"balance", header, "--flow", "Zone 9 5 L/s"}).status, unusableInput);
  EXPECT_EQ(ran({"balance", header, "--flow", "Zone 1 5 bar"}).status, unusableInput);
}

}  // namespace
}  // namespace conduit::cli
