// Laws of losses against values worked out apart from this program: from the standards' printed examples and
// by a plain script of the same published equations. Seven figures each, so compared to 1e-6 of the value.
#include <gtest/gtest.h>

#include <functional>

#include "loss/control_valve_flow.h"
#include "loss/fitting_k.h"
#include "loss/orifice.h"

namespace conduit {
namespace {

using namespace fittingk;
using orifice::Taps;

struct LawValue {
  const char* law;
  double found, expected;
};
class Laws : public testing::TestWithParam<LawValue> {};
TEST_P(Laws, meetTheirCheckValues) {
  EXPECT_NEAR(GetParam().found, GetParam().expected, 1e-6 * std::abs(GetParam().expected) + 1e-9)
      << GetParam().law;
}

double c(double ratio, double re, double pipe_m, Taps taps) {
  return orifice::coefficient(ratio, re, pipe_m, taps).c;
}
const Tee square{}, narrow{0.5, 90, 0}, lateral{1, 45, 0};

INSTANTIATE_TEST_SUITE_P(
    Published, Laws,
    testing::Values(LawValue{"Borda-Carnot 0.4", suddenExpansion(0.4), 0.7056},
                    LawValue{"Borda-Carnot 0.8", suddenExpansion(0.8), 0.1296},
                    LawValue{"narrowing 0.4", suddenContraction(0.4), 0.42},
                    LawValue{"narrowing 0.8", suddenContraction(0.8), 0.18},
                    LawValue{"cone wider 0.5, 20", coneExpansion(0.5, 20), 0.2539605},
                    LawValue{"cone wider 0.5, 60", coneExpansion(0.5, 60), 0.5625},
                    LawValue{"cone wider 0.7, 30", coneExpansion(0.7, 30), 0.175029},
                    LawValue{"cone narrower 0.5, 20", coneContraction(0.5, 20), 0.1041889},
                    LawValue{"cone narrower 0.5, 60", coneContraction(0.5, 60), 0.265165},
                    LawValue{"cone narrower 0.7, 30", coneContraction(0.7, 30), 0.1055982},
                    LawValue{"2-K elbow", 800 / 1e5 + twoK(0.25, 0.10226), 0.3200966},
                    LawValue{"2-K globe", 1500.0 / 500 + twoK(4, 0.05248), 8.935976},
                    LawValue{"joining branch", joiningBranch(square, 0.3), -0.1328},
                    LawValue{"joining branch", joiningBranch(narrow, 0.7), 1.9962},
                    LawValue{"joining branch 45", joiningBranch(lateral, 0.5), 0.107868},
                    LawValue{"joining run", joiningRun(square, 0.5), 0.4125},
                    LawValue{"joining run", joiningRun(narrow, 0.7), 0.7146},
                    LawValue{"joining run 45", joiningRun(lateral, 0.5), 0.1261218},
                    LawValue{"dividing branch", dividingBranch(square, 0.3), 0.7505},
                    LawValue{"dividing branch", dividingBranch(narrow, 0.7), 1.5135},
                    LawValue{"dividing branch 45", dividingBranch(lateral, 0.5), 0.4549621},
                    LawValue{"dividing run", dividingRun(square, 0.7), 0.1322},
                    LawValue{"C corner", c(0.5, 1e5, 0.1, Taps::corner), 0.6068732},
                    LawValue{"C flange", c(0.5, 1e6, 0.1, Taps::flange), 0.6031317},
                    LawValue{"C D-D/2", c(0.6, 1e6, 0.1, Taps::halfway), 0.6069501},
                    LawValue{"C flange 0.7", c(0.7, 1e5, 0.2, Taps::flange), 0.6110409},
                    LawValue{"C small pipe", c(0.4, 5e4, 0.0525, Taps::corner), 0.6071984},
                    LawValue{"plate K", orifice::permanentK(0.6, 0.605).k, 11.5512},
                    LawValue{"plate difference",
                             orifice::meteredDrop_pa(0.02, 998.2041, 0.6, 0.1,
                                                     c(0.6, 4 * 998.2041 * 0.02 / (M_PI * 0.1 * 1.0016e-3),
                                                       0.1, Taps::flange)),
                             58752.31},
                    LawValue{"FF", valveflow::criticalRatio(0.701e5, 221.2e5), 0.9442375},
                    LawValue{"FP", valveflow::pipingFactor(165, 0.1, 0.15, 0.15), 0.9627962},
                    LawValue{"FLP", valveflow::recoveryWithPiping(0.9, 165, 0.1, 0.15), 0.8459487},
                    LawValue{"ReV", valveflow::reynolds(0.1, 3.26e-7, 165, 0.15, 0.9, 0.46), 2966985},
                    LawValue{"FR 5", valveflow::viscousFactor(5, 50, 0.05, 0.9).factor, 0.129195},
                    LawValue{"FR 500", valveflow::viscousFactor(500, 50, 0.05, 0.9).factor, 0.71199},
                    LawValue{"FR 5000", valveflow::viscousFactor(5000, 50, 0.05, 0.9).factor, 0.9333608}));

// Kd is printed in in^0.3: 25.4^0.3 times that in mm^0.3.
TEST(ThreeK, withTheInsideBoreInMillimetres) {
  const double inch03 = std::pow(25.4, 0.3);
  EXPECT_NEAR(800 / 1e5 + threeK(0.091, 4.0 * inch03, 0.10226), 0.3386844, 1e-6);
  EXPECT_NEAR(1500.0 / 500 + threeK(1.7, 3.6 * inch03, 0.05248), 9.6227, 1e-5);
}

TEST(Tees, loseWhatTheLimitsOfASquareOneSay) {
  // All flow through the branch, by hand: 1.2 and 0.62 joining, 1.3 and 0.35 dividing.
  EXPECT_NEAR(joiningBranch(square, 1), 1.2, 1e-12);
  EXPECT_NEAR(joiningRun(square, 1), 0.62, 1e-12);
  EXPECT_NEAR(dividingBranch(square, 1), 1.3, 1e-12);
  EXPECT_NEAR(dividingRun(square, 1), 0.35, 1e-12);
}

TEST(Orifice, slopesAgreeWithDifferences) {
  for (const double re : {6e3, 5e4, 2e6})
    for (const Taps taps : {Taps::corner, Taps::flange, Taps::halfway}) {
      const auto at = orifice::coefficient(0.55, re, 0.2, taps);
      EXPECT_NEAR(at.slope, (c(0.55, re * 1.0001, 0.2, taps) - c(0.55, re * 0.9999, 0.2, taps)) / (2e-4 * re),
                  1e-6 * std::abs(at.slope) + 1e-14);
    }
  const auto k = orifice::permanentK(0.55, 0.61);
  EXPECT_NEAR(k.byC, (orifice::permanentK(0.55, 0.6101).k - orifice::permanentK(0.55, 0.6099).k) / 2e-4,
              1e-4 * std::abs(k.byC));
}

}  // namespace
}  // namespace conduit
