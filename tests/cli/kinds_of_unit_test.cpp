// A flow may be typed by volume, mass or moles, a pressure as gauge, absolute or a column, at every door;
// what is done with it must be the same. In a liquid of 800 kg/m³: 8 kg/s are 10 L/s, and 7.8453 kPa a metre.
#include <gtest/gtest.h>

#include "plain_models.h"

namespace conduit::test {
namespace kindsofunit {

const std::string light =
    R"("liquid":"own liquid","density":"800 kg/m3","viscosity":"1 mm2/s","vapour pressure":"0.1 bar")";
const std::string molar = light + R"(,"molar mass":100)";  // 288 kmol/h are 10 L/s

std::string model(const std::string& job, const std::string& points, const std::string& elements,
                  const std::string& more = "") {
  return R"({"format":"level-conduit","version":2,"job":{)" + job + "}" + more + R"(,"points":[)" + points +
         R"(],"elements":[)" + elements + "]}";
}
std::string valves(const std::string& more = "", const std::string& job = molar) {
  return scratch(
      model(job, point("A", 0) + "," + point("B", 0) + "," + point("C", 0),
            held("A", 30) + "," + pipe("L", "A", "B", 50) + "," + kv60("V", "B", "C") + "," + held("C", 0),
            more),
      "valves.lconduit");
}
std::string lift(const std::string& job = molar, const std::string& flow = "10 L/s") {
  return scratch(
      model(job, point("A", 0) + "," + point("B", 0) + "," + point("C", 10),
            held("A", 2) + "," +
                device("pump", "P", "A", "B",
                       R"("rated speed":"1450 rpm","curve":[{"flow":"0 L/s","head":"30 m"},{"flow":")" +
                           flow + R"(","head":"25 m"},{"flow":"20 L/s","head":"12 m"}])") +
                "," + pipe("L", "B", "C", 80) + "," + held("C", 12)),
      "lift.lconduit");
}
// Two tanks that supply one town; the town takes 10 L/s.
std::string town(const std::string& outflow) {
  return scratch(
      model(molar,
            point("A", 0) + "," + point("B", 0) + "," + point("T", 0, R"("outflow":")" + outflow + "\""),
            fixedAt("West", "A", "3 bar") + "," + fixedAt("East", "B", "3 bar") + "," +
                pipe("L-1", "A", "T", 100) + "," + pipe("L-2", "B", "T", 200)),
      "town.lconduit");
}

struct Same {
  const char* name;
  std::vector<std::string> (*with)(bool other);  // arguments; one and the other must give the same output
};
void PrintTo(const Same& s, std::ostream* out) { *out << s.name; }
class KindsOfUnit : public testing::TestWithParam<Same> {};

TEST_P(KindsOfUnit, areOneQuantityAtTheCommandLine) {
  const auto jsonOf = [](std::vector<std::string> arguments) {
    arguments.push_back("--json");
    const Ran r = ran(arguments);
    EXPECT_LE(r.status, 1) << r.err << r.out;
    EXPECT_GT(r.out.size(), 40u);
    return r.out.empty() ? nlohmann::json() : nlohmann::json::parse(r.out);
  };
  const auto one = jsonOf(GetParam().with(false)).flatten(), other = jsonOf(GetParam().with(true)).flatten();
  ASSERT_EQ(one.size(), other.size());
  std::size_t numbers = 0;
  for (const auto& [key, value] : one.items()) {
    ASSERT_TRUE(other.contains(key)) << key;
    if (!value.is_number_float()) continue;
    const double a = value, b = other[key];
    EXPECT_NEAR(a, b, 1e-6 * std::abs(a) + 1e-6) << key;
    numbers += std::abs(a) > 1e-6;
  }
  EXPECT_GE(numbers, 3u);
}

std::vector<std::string> onPump(std::vector<std::string> more) {
  more.insert(more.begin(), {"pumps", lift(), "--pump", "P"});
  return more;
}
std::vector<std::string> shared(const std::string& outflow, std::vector<std::string> more = {}) {
  more.insert(more.begin(), {"pumps", town(outflow), "--at", "West", "--share", "40 %", "--other", "East"});
  return more;
}
using Words = std::vector<std::string>;
const Same doors[] = {
    {"balanceByMass",
     [](bool o) {
       return Words{"balance", valves(), "--flow", o ? "V 8 kg/s" : "V 10 L/s"};
     }},
    {"balanceByMoles",
     [](bool o) {
       return Words{"balance", valves(), "--flow", o ? "V 288 kmol/h" : "V 10 L/s"};
     }},
    {"branchesOfTheModel",
     [](bool o) {
       return Words{"balance", valves(std::string(R"(,"sizing":{"branches":[{"valve":"V","flow":")") +
                                      (o ? "8 kg/s" : "10 L/s") + R"("}]})")};
     }},
    {"curveAtAFlow",
     [](bool o) {
       return onPump({"--curve", "--flow", o ? "8 kg/s" : "10 L/s"});
     }},
    {"curveAtAPressure",
     [](bool o) {
       return onPump({"--curve", "--head", o ? "196.133 kPa" : "25 m"});
     }},
    {"curveUpTo",
     [](bool o) {
       return onPump({"--curve", "--most", o ? "288 kmol/h" : "10 L/s"});
     }},
    {"candidates",
     [](bool o) {
       return o ? onPump({"--candidates", "--flow", "8 kg/s", "--head", "196.133 kPa"})
                : onPump({"--candidates", "--flow", "10 L/s", "--head", "25 m"});
     }},
    {"holdAbsolute",
     [](bool o) {
       return onPump({"--hold", o ? "2.51325 bar a at B" : "1.5 bar at B"});
     }},
    {"holdAColumn",
     [](bool o) {
       return onPump({"--hold", o ? "20 m at B" : "156.9064 kPa at B"});
     }},
    {"holdAFlow",
     [](bool o) {
       return onPump({"--hold", o ? "6.4 kg/s" : "8 L/s"});
     }},
    {"drawOffs", [](bool o) { return shared(o ? "8 kg/s" : "10 L/s"); }},
    {"leastPressure",
     [](bool o) {
       return shared("10 L/s", {"--least-pressure", o ? "2.01325 bar a" : "1 bar"});
     }},
};
INSTANTIATE_TEST_SUITE_P(Doors, KindsOfUnit, testing::ValuesIn(doors),
                         [](const auto& made) { return std::string(made.param.name); });

// A flow in moles of a liquid whose molar mass is not known says nothing: refused wherever it is given.
TEST(MolesOfAnUnknownMass, areRefusedWhereverTheyAreGiven) {
  const std::string words = "molar mass is not known", v = valves("", light);
  EXPECT_NE(ran({"balance", v, "--flow", "V 288 kmol/h"}).err.find(words), std::string::npos);
  EXPECT_NE(ran({"pumps", lift(light), "--pump", "P", "--curve", "--flow", "1 kmol/s"}).err.find(words),
            std::string::npos);
  EXPECT_NE(ran({"balance", valves(R"(,"sizing":{"branches":[{"valve":"V","flow":"288 kmol/h"}]})", light)})
                .err.find(words),
            std::string::npos);
  for (const std::string& file :
       {lift(light, "288 kmol/h"),
        scratch(model(light, point("A", 0) + "," + point("B", 0),
                      held("A", 9) + "," + pipe("L", "A", "B", 50, "50 mm", R"("flow at most":"2 kmol/s")") +
                          "," + held("B", 2)),
                "limit.lconduit")}) {
    const Ran r = ran({"solve", file});
    EXPECT_EQ(r.status, 2) << r.out;
    EXPECT_NE((r.out + r.err).find(words), std::string::npos) << r.out << r.err;
  }
}

}  // namespace kindsofunit
}  // namespace conduit::test
