// Check values of the published laws (Kell 1975, IAPWS R12-08, Wagner and Pruss 2002, ISO 2533), 7 figures,
// compared to 1e-6.
#include "fluid/water.h"

#include <gtest/gtest.h>

namespace conduit {
namespace {

struct Row {
  double t, density, dynamic, vapour;
};
class Water : public testing::TestWithParam<Row> {};

TEST_P(Water, meetsThePublishedLaws) {
  const Row r = GetParam();
  const auto t = Temperature::fromSi(r.t);
  EXPECT_NEAR(water::density(t).si(), r.density, 1e-6 * r.density);
  EXPECT_NEAR(water::viscosity(t).si() * water::density(t).si(), r.dynamic, 1e-6 * r.dynamic);
  EXPECT_NEAR(water::vapourPressure(t).si(), r.vapour, 1e-6 * r.vapour);
}
INSTANTIATE_TEST_SUITE_P(
    Table, Water,
    testing::Values(Row{5, 999.9638, 0.001518181, 872.5302}, Row{20, 998.2041, 0.001001598, 2339.194},
                    Row{40, 992.2158, 0.0006527286, 7385.11}, Row{60, 983.1989, 0.0004660368, 19947.38},
                    Row{80, 971.7978, 0.0003540551, 47415.78}, Row{100, 958.3637, 0.0002815904, 101418},
                    Row{120, 943.0825, 0.0002320211, 198671.4}, Row{150, 916.8291, 0.0001825305, 476158.7}));

TEST(Air, pressureByAltitude) {
  EXPECT_NEAR(air::pressureAt(Height::fromSi(500)).si(), 95460.84, 0.1);
  EXPECT_NEAR(air::pressureAt(Height::fromSi(3000)).si(), 70108.53, 0.1);
}

}  // namespace
}  // namespace conduit
