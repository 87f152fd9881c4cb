#include "pump/system_curve.h"

#include <gtest/gtest.h>

#include "model_text.h"

namespace conduit::test {
namespace {

TEST(SystemCurve, isStaticLiftPlusLossesAndMeetsTheDuty) {
  const Network n = loadModel(SOURCE_DIR "/tests/problems/pump_duty.lconduit", &shippedStock())->drawn;
  const Id pump = n.byName("U");
  const auto curve = systemCurve(n, &shippedStock(), pump, 0.08, 17);
  ASSERT_EQ(curve.size(), 17u);
  // 142 − 100 m of lift at hardly any flow, rising; at 0.05 m3/s the published 52.3935 m.
  EXPECT_NEAR(curve.front().head_m, 42, 0.01);
  for (std::size_t i = 1; i < curve.size(); ++i) EXPECT_GT(curve[i].head_m, curve[i - 1].head_m);
  EXPECT_NEAR(curve[10].flow_m3s, 0.05, 1e-12);
  EXPECT_NEAR(curve[10].head_m, 52.39349548650342, 0.005);
}

TEST(SystemCurve, leavesOutFlowsThatCannotBalance) {
  const Network n = loadModel(SOURCE_DIR "/tests/limits/pond.lconduit", &shippedStock())->drawn;
  EXPECT_TRUE(systemCurve(n, &shippedStock(), n.byName("P-1"), 0.0016, 9).empty())
      << "the draws fix the flow: no other can be";
}

}  // namespace
}  // namespace conduit::test
