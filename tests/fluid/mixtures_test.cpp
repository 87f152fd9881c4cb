// Check values worked out apart from this program by a plain script of the same published equations.
#include "fluid/mixtures.h"

#include <gtest/gtest.h>

#include "model_text.h"

namespace conduit {
namespace {

Temperature at(double c) { return Temperature::fromSi(c); }

struct Brine {
  double t, salt, density, viscosity_pas, vapour;
};
class Brines : public testing::TestWithParam<Brine> {};
TEST_P(Brines, meetTheEquationsOfSharqawy) {
  const Brine& b = GetParam();
  EXPECT_NEAR(seawater::density(at(b.t), b.salt).si(), b.density, 1e-6 * b.density);
  EXPECT_NEAR(seawater::viscosity(at(b.t), b.salt).si() * b.density, b.viscosity_pas, 2e-6 * b.viscosity_pas);
  EXPECT_NEAR(seawater::vapourPressure(at(b.t), b.salt).si(), b.vapour, 1e-6 * b.vapour);
}
INSTANTIATE_TEST_SUITE_P(Checked, Brines,
                         testing::Values(Brine{10, 0.035, 1026.937, 0.001396766, 1203.084},
                                         Brine{20, 0.035, 1024.911, 0.001076629, 2291.523},
                                         Brine{60, 0.07, 1034.716, 0.0005562756, 19121.86},
                                         Brine{100, 0.035, 984.1318, 0.000309227, 99351.19}));

struct Mix {
  glycol::Kind kind;
  double share, t, density, viscosity_pas;
};
class Mixes : public testing::TestWithParam<Mix> {};
TEST_P(Mixes, meetTheirEquations) {
  const Mix& m = GetParam();
  EXPECT_NEAR(glycol::density(m.kind, at(m.t), m.share).si(), m.density, 0.06);  // given to 0.1
  EXPECT_NEAR(glycol::viscosity(m.kind, at(m.t), m.share).si() * m.density, m.viscosity_pas,
              1.5e-4 * m.viscosity_pas);
}
INSTANTIATE_TEST_SUITE_P(Checked, Mixes,
                         testing::Values(Mix{glycol::Kind::ethylene, 0.3, 0, 1042.7, 0.004681},
                                         Mix{glycol::Kind::propylene, 0.3, 0, 1030.9, 0.0070485},
                                         Mix{glycol::Kind::ethylene, 0.3, 20, 1037.8, 0.002342},
                                         Mix{glycol::Kind::propylene, 0.5, 20, 1038.6, 0.0061163},
                                         Mix{glycol::Kind::ethylene, 0.5, 60, 1042.3, 0.0014823},
                                         Mix{glycol::Kind::propylene, 0.5, 60, 1015.5, 0.0014277}));

TEST(Slurry, densityAndViscosityByThomas) {
  EXPECT_DOUBLE_EQ(slurry::density(1000, 2650, 0.2), 1330);
  // Thomas 1965 gives 1.364858 at 0.1 and 3.051645 at 0.3; ours is 0.00273 less so that clear liquid is 1.
  EXPECT_NEAR(slurry::relativeViscosity(0.1), 1.364858 - 0.00273, 1e-6);
  EXPECT_NEAR(slurry::relativeViscosity(0.3), 3.051645 - 0.00273, 1e-6);
  EXPECT_DOUBLE_EQ(slurry::relativeViscosity(0), 1);
}

Setting settingFor(const std::string& job) {
  const Network n = test::model(test::point("A", 0), test::held("A", 1), job);
  const auto s = settingOf(n, &shippedStock());
  EXPECT_TRUE(s) << s.error().what;
  return *s;
}

TEST(JobLiquid, mixturesOwnTablesAndSolids) {
  const Setting sea = settingFor(R"("liquid":"sea water","temperature":"20 °C","share":"3.5 %")");
  EXPECT_NEAR(sea.medium.density_kgm3, 1024.911, 2e-3);
  const Setting cold = settingFor(R"("liquid":"propylene glycol","temperature":"-5 °C","share":"40 %")");
  EXPECT_GT(cold.medium.density_kgm3, 1035);
  EXPECT_NE(cold.liquidSource.find("15 %"), std::string::npos) << cold.liquidSource;
  // Own table: straight between rows for density, ln ν straight between rows: 20 °C of 900, 10 and 800, 2.5
  // mm²/s at 0 and 40 °C.
  const Setting table = settingFor(
      R"("liquid":"own table","temperature":"20 °C","properties":[{"temperature":"0 °C","density":"900 kg/m3","viscosity":"10 mm2/s"},{"temperature":"40 °C","density":"800 kg/m3","viscosity":"2.5 mm2/s","vapour pressure":"4 kPa"}])");
  EXPECT_NEAR(table.medium.density_kgm3, 850, 1e-9);
  EXPECT_NEAR(table.viscosity_m2s, 5e-6, 1e-12);
  // A fifth of sand by volume in water: 998.2 … + 0.2 (2650 − 998.2); dynamic viscosity times Thomas.
  const Setting clear = settingFor(R"("temperature":"20 °C")"),
                sandy = settingFor(
                    R"("temperature":"20 °C","solids share":"20 %","solids density":"2650 kg/m3")");
  EXPECT_NEAR(sandy.medium.density_kgm3, clear.medium.density_kgm3 + 0.2 * (2650 - clear.medium.density_kgm3),
              1e-9);
  EXPECT_NEAR(sandy.viscosity_m2s * sandy.medium.density_kgm3,
              clear.viscosity_m2s * clear.medium.density_kgm3 * (1.977513 - 0.00273), 1e-9);
}

TEST(JobLiquid, outsideItsRangeIsRefusedWithTheRange) {
  for (
      const auto& [job, says] : std::initializer_list<std::pair<const char*, const char*>>{
          {R"("liquid":"sea water","temperature":"130 °C","share":"3 %")", "0 to 120 °C"},
          {R"("liquid":"sea water","share":"30 %")", "15 %"},
          {R"("liquid":"ethylene glycol","temperature":"95 °C","share":"30 %")", "80 °C"},
          {R"("liquid":"own table","temperature":"60 °C","properties":[{"temperature":"0 °C","density":"900 kg/m3","viscosity":"9 mm2/s"},{"temperature":"40 °C","density":"800 kg/m3","viscosity":"2 mm2/s"}])",
           "0 to 40 °C"},
          {R"("liquid":"own table","properties":[{"temperature":"5 °C","density":"900 kg/m3","viscosity":"9 mm2/s"}])",
           "two rows"}}) {
    const auto s = settingOf(test::model(test::point("A", 0), test::held("A", 1), job), &shippedStock());
    ASSERT_FALSE(s) << job;
    EXPECT_NE(s.error().what.find(says), std::string::npos) << s.error().what;
  }
}

}  // namespace
}  // namespace conduit
