// What the commands print, against numbers worked out by hand.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>

#include "cli/ran.h"
#include "plain_models.h"
#include "quantity/format.h"

namespace conduit::cli {
namespace {

using namespace test;

constexpr double g = 9.80665;  // standard gravity, ISO 80000-3

// A tank at 5 m feeds 10 L/s through a valve of Kv 60 m³/h and a pump of 40 m at 70 %; density 1000 kg/m³,
// vapour pressure 2000 Pa, sea level at the tank's surface.
//
//   valve   Δp = (Q/Kv)² · 1 bar = (36/60)² bar = 36 000 Pa   = 3.6710 m
//   B       5 − 3.6710 = 1.3290 m                             = 13 033 Pa
//   C       1.3290 + 40 = 41.3290 m                           = 405 299 Pa
//   shaft   ρ g Q H / η = 1000 · 9.80665 · 0.01 · 40 / 0.7    = 5 604 W
std::string handModel(const std::string& more = "", const std::string& job = "") {
  return scratch(
      R"({"format":"level-conduit","version":2,"job":{"title":"By hand","liquid":"own liquid","density":"1000 kg/m3","viscosity":"1 mm2/s","vapour pressure":"2000 Pa","altitude holds at":"5 m")" +
      job + R"(},)" + more +
      R"("points":[{"name":"A","height":"3 m"},{"name":"B","height":"0 m"},{"name":"C","height":"0 m","outflow":"10 L/s"}],
"elements":[{"kind":"tank","name":"T","level":"5 m","connections":[{"point":"A","height":"3 m","entrance K":"0"}]},
{"kind":"control valve","name":"V","from":"A","to":"B","Kv":"60 Kv","opening":"100 %"},
{"kind":"pump","name":"P","from":"B","to":"C","described by":"duty point","duty flow":"10 L/s","duty head":"40 m","duty efficiency":"70 %"}]})");
}

// The cell of a table in a printed report: the row that begins with `row` below the line that is `title`, its
// nth cell (0 the name); cells are parted by two blanks or more.
std::string cell(const std::string& report, const std::string& title, const std::string& row, std::size_t n) {
  std::size_t at = report.find("\n" + title + "\n");
  if (at == std::string::npos) return "no table " + title;
  at = report.find("\n  " + row + " ", at + 1);
  if (at == std::string::npos) return "no row " + row;
  const std::string line = report.substr(at + 3, report.find('\n', at + 1) - at - 3);
  std::vector<std::string> cells;
  for (std::size_t begin = 0; begin < line.size();) {
    const std::size_t end = std::min(line.find(' ', begin), line.size());
    if (end > begin) cells.push_back(line.substr(begin, end - begin));
    begin = end + 1;
  }
  return n < cells.size() ? cells[n] : "no cell";
}

TEST(Report, pointsPumpsAndValvesInSi) {
  const Ran r = ran({"solve", handModel()});
  ASSERT_EQ(r.status, limitsKept) << r.err;
  const double valve = 36000 / (1000 * g);
  EXPECT_EQ(cell(r.out, "Points", "B", 1), digits(13033.25 / 1e5)) << r.out;
  EXPECT_EQ(cell(r.out, "Points", "B", 2), digits(5 - valve));
  EXPECT_EQ(cell(r.out, "Points", "C", 2), digits(45 - valve));
  EXPECT_EQ(cell(r.out, "Points", "C", 1), digits((45 - valve) * g / 100));
  EXPECT_EQ(cell(r.out, "Points", "C", 3), digits((45 - valve) * g / 100 + 1.01325 + 0.0006, 4))
      << "absolute: five metres below sea level, 12 Pa a metre";
  EXPECT_EQ(cell(r.out, "Pumps", "P", 2), "10.00");
  EXPECT_EQ(cell(r.out, "Pumps", "P", 3), "40.00");
  EXPECT_EQ(cell(r.out, "Pumps", "P", 5), digits(g * 0.4 / 0.7)) << "kW at the shaft";
  EXPECT_EQ(cell(r.out, "Control valves", "V", 3), digits(valve));
  EXPECT_EQ(cell(r.out, "Control valves", "V", 4), "0.3600");
  EXPECT_EQ(cell(r.out, "Tanks", "T", 1), "wetted");
  EXPECT_NE(r.out.find("Solved: 10.0 L/s in, 10.0 L/s out"), std::string::npos);
}

TEST(Report, theSameInUsUnits) {
  // Exact by definition: 1 ft = 0.3048 m, 1 US gallon = 231 in³, 1 in = 25.4 mm, 1 lb = 0.45359237 kg,
  // 1 hp = 550 ft lbf/s.
  const double foot = 0.3048, gallon = 231 * std::pow(0.0254, 3), pound = 0.45359237,
               psi = pound * g / (0.0254 * 0.0254), hp = 550 * foot * pound * g, valve = 36000 / (1000 * g);
  const Ran r = ran({"solve", handModel(), "--units", "US"});
  EXPECT_EQ(cell(r.out, "Pumps", "P", 2), digits(0.01 * 60 / gallon)) << r.out;
  EXPECT_EQ(cell(r.out, "Pumps", "P", 3), digits(40 / foot));
  EXPECT_EQ(cell(r.out, "Pumps", "P", 5), digits(1000 * g * 0.4 / 0.7 / hp));
  EXPECT_EQ(cell(r.out, "Points", "B", 2), digits((5 - valve) / foot));
  EXPECT_EQ(cell(r.out, "Points", "C", 1), digits((45 - valve) * 1000 * g / psi));
  EXPECT_EQ(cell(r.out, "Control valves", "V", 4), digits(36000 / psi));
  // Kv = 0.865 Cv: IEC 60534-2-1, the ratio of its constants N1.
  EXPECT_EQ(cell(r.out, "Control valves", "V", 5), digits(60 / 0.865));
}

TEST(Report, suctionItemsSumToWhatIsAvailable) {
  const Ran r = ran({"solve", handModel(), "--suction", "--json"});
  const auto budget = r.json()["suction"][0];
  double sum = 0;
  for (const auto& item : budget["items"]) sum += item["head_m"].get<double>();
  EXPECT_NEAR(budget["available_m"].get<double>(), sum, 1e-9);
  // Air at the pump, five metres below sea level by the standard atmosphere of ISO 2533 (12 Pa per metre).
  const double air = 101325 + 5 * 0.0065 / 288.15 * 5.25588 * 101325;
  EXPECT_NEAR(sum, air / (1000 * g) + 5 - 36000 / (1000 * g) - 2000 / (1000 * g), 2e-3);
  const Ran text = ran({"solve", handModel(), "--suction"});
  for (const std::string& words : {std::string("Suction budget of P"), std::string("suction head from T"),
                                   std::string("loss in V"), digits(sum) + " m"})
    EXPECT_NE(text.out.find(words), std::string::npos) << words << text.out;
}

TEST(Report, jsonSaysTheSameInSi) {
  const auto json = ran({"solve", handModel(), "--json"}).json();
  const double valve = 36000 / (1000 * g);
  for (const auto& point : json["points"]) {
    const double head = point["name"] == "A" ? 5 : point["name"] == "B" ? 5 - valve : 45 - valve;
    const double height = point["name"] == "A" ? 3 : 0;
    EXPECT_NEAR(point["head_m"].get<double>(), head, 1e-6) << point["name"];
    EXPECT_NEAR(point["pressure_pa_gauge"].get<double>(), (head - height) * 1000 * g, 0.01) << point["name"];
  }
  EXPECT_EQ(json["liquid"]["density_kg_m3"], 1000.0);
  for (const auto& e : json["elements"])
    if (e["name"] != "T") EXPECT_NEAR(e["mass_flow_kg_s"].get<double>(), 10.0, 1e-9) << e["name"];
  EXPECT_EQ(json["balance"]["by_element"].size(), 2u);
}

TEST(Report, whatIsFoundAndWhatIsAssumedStandBeforeTheTables) {
  // 10 L/s from 5 m to 1 m: Kv = Q/√Δp = 36/√(4 ρ g), of a linear valve of 100 that share is the opening.
  const std::string file = scratch(
      R"({"format":"level-conduit","version":2,"job":{"liquid":"own liquid","density":"1000 kg/m3","viscosity":"1 mm2/s"},
"points":[{"name":"A","height":"0 m"},{"name":"B","height":"0 m","outflow":"10 L/s","given":{"pressure":"1 m"}}],
"elements":[{"kind":"fixed pressure","name":"F","point":"A","pressure":"5 m"},
{"kind":"control valve","name":"V","from":"A","to":"B","Kv":"100 Kv","characteristic":"linear","found":["opening"]}]})");
  const Ran r = ran({"solve", file});
  ASSERT_EQ(r.status, limitsKept) << r.out << r.err;
  const double kv = 36 / std::sqrt(4 * 1000 * g / 1e5);
  EXPECT_NE(r.out.find("\nFound\n  opening of V: " + digits(kv) + " %"), std::string::npos) << r.out;
  EXPECT_LT(r.out.find("\nFound"), r.out.find("\nPoints"));
}

TEST(Report, oneOfSeveralCasesIsNamedAndAllAreReportedInTheirOrder) {
  const std::string cases =
      R"("cases":[{"drawing":true,"name":"Day"},{"name":"Night","differs":[{"element":"T","level":"8 m"}]}],)";
  const Ran day = ran({"solve", handModel(cases)});
  EXPECT_TRUE(day.out.starts_with("Case: Day (one of 2; --all-cases reports them all)\n\n")) << day.out;
  const Ran night = ran({"solve", handModel(cases), "--case", "Night"});
  EXPECT_TRUE(night.out.starts_with("Case: Night")) << night.out;
  EXPECT_EQ(cell(night.out, "Points", "A", 2), "8.000");
  const Ran all = ran({"solve", handModel(cases), "--all-cases"});
  const std::size_t first = all.out.find("Case: Day\n"), second = all.out.find("Case: Night\n");
  ASSERT_NE(first, std::string::npos) << all.out;
  ASSERT_NE(second, std::string::npos) << all.out;
  EXPECT_LT(first, second);
  EXPECT_EQ(cell(all.out.substr(second), "Points", "A", 2), "8.000");
}

TEST(Report, aYearsEnergyFromHoursAndPowerAtTheShaft) {
  // The same pump in both cases: 5 604 W at the shaft, 90 % of the motor, 1 500 hours, 0.2 a kWh.
  const std::string cases =
      R"("costs":{"currency":"EUR","tariff":"0.2","hours in a year":"1000 h","motor efficiency":"90 %"},"cases":[{"drawing":true,"name":"Day"},{"name":"Night","hours in a year":"500 h","differs":[{"element":"T","level":"8 m"}]}],)";
  const double watts = 1000 * g * 0.01 * 40 / 0.7;
  const auto json = ran({"cases", handModel(cases), "--json"}).json();
  EXPECT_EQ(json["year"]["hours"], 1500.0);
  EXPECT_NEAR(json["year"]["energy_at_the_wire_j"].get<double>(), watts / 0.9 * 1500 * 3600, 10);
  EXPECT_NEAR(json["year"]["cost"].get<double>(), watts / 0.9 * 1500 / 1000 * 0.2, 1e-6);
  EXPECT_EQ(json["cases"][1]["from"], "Day");
  EXPECT_NEAR(json["cases"][1]["shaft_power_w"].get<double>(), watts, 1e-6);
  EXPECT_EQ(json["differ"][0]["of"][0], "T");
  EXPECT_EQ(json["differ"][0]["cells"][1]["value_si"], 8.0);
  const Ran text = ran({"cases", handModel(cases)});
  EXPECT_EQ(text.status, limitsKept) << text.err;
  EXPECT_NE(text.out.find("Per year: " + digits(1500.0) + " h, " + digits(watts / 0.9 * 1.5) +
                          " kWh electrical input, " + digits(watts / 0.9 * 1.5 * 0.2) + " EUR\n"),
            std::string::npos)
      << text.out;
}

TEST(Report, sizesOfALineAsATable) {
  // Hazen-Williams with the coefficients of the problem: h = 10.667 L Q^1.852/(C^1.852 D^4.871).
  const Ran r = ran({"size", twoLoops, "--line", "L-1", "--for", "velocity 1.5 m/s"});
  const double q = 1120 / 3600.0, bore = 0.508,
               loss = 10.667 * 1000 * std::pow(q, 1.852) / (std::pow(130, 1.852) * std::pow(bore, 4.871)),
               velocity = q / (M_PI / 4 * bore * bore);
  const std::size_t row = r.out.find("Loop 20 A  ");
  ASSERT_NE(row, std::string::npos) << r.out;
  const std::string line = r.out.substr(row, r.out.find('\n', row) - row);
  EXPECT_NE(line.find(digits(velocity, 3) + " m/s"), std::string::npos) << line;
  EXPECT_NE(line.find(digits(loss, 3) + " m"), std::string::npos) << line;
  EXPECT_NE(line.find(digits(loss / 10, 3) + " %"), std::string::npos) << "gradient over 1 000 m: " << line;
  EXPECT_NE(line.find(digits(170000.0, 4)), std::string::npos) << "170 a metre: " << line;
  EXPECT_NE(r.out.find("velocity 1.5 m/s: a bore of " + digits(std::sqrt(4 * q / (M_PI * 1.5)) * 1000, 5)),
            std::string::npos)
      << r.out;
  EXPECT_NE(r.out.find("Loop 24 A (now)"), std::string::npos);
  EXPECT_NE(r.out.find("no economic bore: no tariff is given"), std::string::npos);
}

TEST(Report, pumpsInOneLineEach) {
  const Ran r = ran({"pumps", handModel()});
  EXPECT_EQ(r.status, limitsKept);
  for (const std::string& words :
       {std::string("10.0 L/s"), std::string("40.00 m"), std::string("100 % of BEP flow"),
        digits(g * 0.4 / 0.7, 3) + " kW shaft power"})
    EXPECT_NE(r.out.find(words), std::string::npos) << words << "\n" << r.out;
  // 13 033 Pa gauge and the air, less 2 000 Pa.
  EXPECT_NE(r.out.find("point B: " + digits((13033 + 101385 - 2000) / 1e5, 3) + " bar above vapour pressure"),
            std::string::npos)
      << r.out;
  const auto json = ran({"pumps", handModel(), "--json"}).json();
  EXPECT_NEAR(json["pumps"][0]["shaft_w"].get<double>(), 1000 * g * 0.4 / 0.7, 0.01);
  EXPECT_TRUE(json["pumps"][0]["npsh_required_m"].is_null()) << "nobody gave it";
}

TEST(Report, pumpsWithoutAPumpLeadsOn) {
  const Ran r = ran({"pumps", twoLoops});
  EXPECT_NE(r.err.find("there is no pump in this model; for a notional pump at a supply use --at NAME"),
            std::string::npos)
      << r.err;
}

TEST(Report, balanceAsATableAndAModel) {
  // Two valves of Kv 40 from 2 bar to none: 5 L/s each needs 18/√Δp = Kv·opening of Kv; Δp is what is there.
  const std::string file = scratch(
      R"({"format":"level-conduit","version":2,"job":{"liquid":"own liquid","density":"1000 kg/m3","viscosity":"1 mm2/s"},
"points":[{"name":"A","height":"0 m"},{"name":"B","height":"0 m"},{"name":"C","height":"0 m"}],
"elements":[{"kind":"fixed pressure","name":"F","point":"A","pressure":"2 bar"},{"kind":"fixed pressure","name":"G","point":"B","pressure":"0 bar"},{"kind":"fixed pressure","name":"H","point":"C","pressure":"1 bar"},
{"kind":"control valve","name":"V-1","from":"A","to":"B","Kv":"40 Kv","bore":"100 mm"},{"kind":"control valve","name":"V-2","from":"A","to":"C","Kv":"40 Kv","bore":"100 mm"}]})");
  const std::string written = scratchPath("balanced.lconduit");
  const std::vector<std::string> what{"balance", file, "--flow", "V-1 5 L/s", "--flow", "V-2 5 L/s"};
  auto more = what;
  more.insert(more.end(), {"--json", "--write", written});
  const Ran r = ran(more);
  ASSERT_EQ(r.status, limitsKept) << r.out << r.err;
  const auto json = r.json();
  for (const auto& [index, drop] : {std::pair{0, 2.0}, std::pair{1, 1.0}}) {
    const auto branch = json["branches"][index];
    EXPECT_NEAR(branch["there_is_m"].get<double>(), drop * 1e5 / (1000 * g), 1e-6);
    EXPECT_NEAR(branch["kv_si"].get<double>(), 18 / std::sqrt(drop), 1e-6) << "m³/h at 1 bar";
    EXPECT_NEAR(branch["wide_open_m"].get<double>(), 1e5 * std::pow(18.0 / 40, 2) / (1000 * g), 1e-6);
    EXPECT_NEAR(branch["without_balance_m3s"].get<double>(), 40 * std::sqrt(drop) / 3600, 1e-9);
  }
  EXPECT_EQ(json["index"], "V-2") << "less is there for it";
  // With V-2 wide open: what is there, less its drop.
  EXPECT_NEAR(json["could_save_m"].get<double>(), (1 - std::pow(18.0 / 40, 2)) * 1e5 / (1000 * g), 1e-6);
  const Ran text = ran(what);
  EXPECT_NE(text.out.find("V-2 (index)"), std::string::npos) << text.out;
  EXPECT_NE(text.out.find("V-2 is the index circuit"), std::string::npos) << text.out;
  // The model written gives those flows.
  const auto answered = ran({"solve", written, "--json"}).json();
  for (const auto& e : answered["elements"])
    if (e["kind"] == "control valve") EXPECT_NEAR(e["flow_m3_s"].get<double>(), 0.005, 1e-8) << e["name"];
}

TEST(Report, theRecordOfASolution) {
  const std::string file = scratchPath("record.txt");
  ASSERT_EQ(ran({"solve", handModel(), "--record", file}).status, limitsKept);
  const std::string text = textOf(file);
  for (const char* words :
       {"Record of a solution", "set 1: all open", "Final device states", "The model", "\"name\": \"V\""})
    EXPECT_NE(text.find(words), std::string::npos) << words << "\n" << text.substr(0, 2000);
  // A reducing valve that holds 2 bar below 5 bar is named with what it does.
  const std::string held = scratch(
      R"({"format":"level-conduit","version":2,"points":[{"name":"A","height":"0 m"},{"name":"B","height":"0 m","outflow":"5 L/s"}],
"elements":[{"kind":"fixed pressure","name":"F","point":"A","pressure":"5 bar"},{"kind":"reducing valve","name":"R","from":"A","to":"B","set point":"2 bar","K":"5","bore":"80 mm"}]})");
  ASSERT_EQ(ran({"solve", held, "--record", file}).status, limitsKept);
  EXPECT_NE(textOf(file).find("R controlling"), std::string::npos) << textOf(file).substr(0, 2000);
}

TEST(Report, everyCommandHelpsAndNamesItsOptions) {
  for (const char* command :
       {"solve", "cases", "sweep", "gather", "pumps", "size", "balance", "schema", "fields"}) {
    const Ran r = ran({command, "--help"});
    EXPECT_EQ(r.status, limitsKept) << command;
    EXPECT_NE(r.out.find("Usage"), std::string::npos) << command;
    EXPECT_TRUE(r.err.empty()) << command << r.err;
  }
}

TEST(Report, aCreepingFlowIsNotNothing) {
  // 2e-11 m³/s drawn through 100 mm: what is given at the point is what the line carries.
  const std::string file = fileOf(point("A", 0) + "," + point("B", 0, R"("outflow":"2e-8 L/s")"),
                                  fixedAt("F", "A", "1 bar") + "," + pipe("L", "A", "B", 10));
  const auto answered = ran({"solve", file, "--json"}).json();
  for (const auto& e : answered["elements"])
    if (e["name"] == "L") EXPECT_NEAR(e["flow_m3_s"].get<double>() / 2e-11, 1, 1e-6);
}

}  // namespace
}  // namespace conduit::cli
