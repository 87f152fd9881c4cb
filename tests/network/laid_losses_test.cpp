// What a take-off, a stock size and a stock liquid come to in the balance, against hand calculation.
#include <gtest/gtest.h>

#include <cmath>

#include "model_text.h"
#include "network/edits.h"

namespace conduit {
namespace {

using namespace test;

double colebrook(double re, double relative) {
  double f = 0.02;
  for (int i = 0; i < 200; ++i)
    f = std::pow(-2 * std::log10(relative / 3.7 + 2.51 / (re * std::sqrt(f))), -2);
  return f;
}

struct Laid {
  const char* takeOff;
  double length_m, fittingBores, k;  // as counted by hand
};
class LaidLosses : public testing::TestWithParam<Laid> {};

// 8 L/s of water at 10 °C in NPS 4 schedule 40 (102.26 mm), 0.05 mm rough: h = (f L/D + fT ΣLe/D + K) v²/2g,
// with f by Colebrook-White and fT that of complete turbulence in clean steel (Crane TP-410, 1988).
TEST_P(LaidLosses, addUpAsByHand) {
  const Network n = model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"8 L/s\""),
                          held("A", 50) +
                              ",{\"kind\":\"pipe\",\"name\":\"L-1\",\"from\":\"A\",\"to\":\"B\",\"size\":"
                              "\"ASME B36.10M 4 40\",\"roughness\":\"0.05 mm\",\"take-off\":\"" +
                              GetParam().takeOff + "\"}");
  const Solution s = answer(n);
  const double d = 0.10226, g = 9.80665, v = 0.008 / (M_PI / 4 * d * d), nu = s.setting.viscosity_m2s;
  const double fT = 0.25 / std::pow(std::log10(0.0457e-3 / (3.7 * d)), 2);
  const double h = (colebrook(v * d / nu, 0.05e-3 / d) * GetParam().length_m / d +
                    fT * GetParam().fittingBores + GetParam().k) *
                   v * v / (2 * g);
  EXPECT_NEAR(headAt(n, s, "A") - headAt(n, s, "B"), h, 1e-7 * h + 1e-9);
}
INSTANTIATE_TEST_SUITE_P(ByHand, LaidLosses,
                         testing::Values(Laid{"50", 50, 0, 0},
                                         Laid{"12.4 elbow 3.1 up 2x elbow", 15.5, 90, 0},
                                         Laid{"30 Le 7.5", 37.5, 0, 0}, Laid{"30 gate +10 %", 33, 8, 0},
                                         Laid{"10 3x K 2.5 globe", 10, 340, 7.5},
                                         Laid{"40 ft 2x tee-branch Le 2 m +5 %", 1.05 * 12.192 + 2, 120, 0},
                                         Laid{"4 entrance 6 exit", 10, 0, 1.5}),
                         [](const auto& one) { return "case" + std::to_string(one.index); });

// A stock liquid takes the place of water: laminar oil, h = 32 ν L v/(g D²) (Hagen-Poiseuille).
TEST(StockLiquidInTheBalance, laminarOilByHand) {
  const Network n = model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"1 L/s\""),
                          held("A", 50) + "," + pipe("L-1", "A", "B", 100),
                          "\"liquid\":\"stock liquid\",\"liquid of the stock\":\"mineral oil ISO VG "
                          "46\",\"temperature\":\"60 °C\"");
  const Solution s = answer(n);
  const double nu = 20.62275e-6,
               v = 0.001 / (M_PI / 4 *
                            0.01);  // ASTM D341 from (40 °C, 46) and (100 °C, 6.8): the independent reference
  EXPECT_NEAR(headAt(n, s, "A") - headAt(n, s, "B"), 32 * nu * 100 * v / (9.80665 * 0.01), 2e-6);
  for (const auto& [job, word] :
       {std::pair{"\"liquid\":\"stock liquid\",\"liquid of the stock\":\"treacle\"", "treacle"},
        {"\"liquid\":\"stock liquid\"", "no catalogue liquid"},
        {"\"liquid\":\"stock liquid\",\"liquid of the stock\":\"ethanol\",\"temperature\":\"150 °C\"",
         "data for ethanol cover 0 to 60"}}) {
    const Solution refused =
        solve(model(point("A", 0) + "," + point("B", 0), held("A", 5) + "," + pipe("L-1", "A", "B", 10), job),
              &shippedStock());
    ASSERT_FALSE(refused.summary.usable());
    EXPECT_NE(refused.summary.problems.front().what.find(word), std::string::npos)
        << refused.summary.problems.front().what;
  }
}

// The rating of a size holds where the pipe gives none of its own.
TEST(StockSize, bringsItsRating) {
  auto text = [](const char* more) {
    return model(point("A", 0) + "," + point("B", 0, "\"outflow\":\"1 L/s\""),
                 held("A", 200) +
                     ",{\"kind\":\"pipe\",\"name\":\"L-1\",\"from\":\"A\",\"to\":\"B\",\"length\":\"5 "
                     "m\",\"size\":\"ISO 4427 PE100 110 SDR 11\",\"roughness\":\"0.01 mm\"" +
                     more + "}");
  };
  const auto rated = [](const Network& n) {
    return n.at(n.byName("L-1")).part->geometry(n.at(n.byName("L-1")).values, answer(n).setting).rating_pa;
  };
  EXPECT_NEAR(*rated(text("")), 16e5, 1);  // PN 16 at SDR 11, ISO 4427-2
  EXPECT_NEAR(*rated(text(",\"rating\":\"10 bar\"")), 10e5, 1);
}

TEST(Enclosed, brokenStockAndFilesAreNamed) {
  auto read = [](const std::string& more) {
    return readDrawn("{\"format\":\"level-conduit\",\"version\":1," + more + ",\"points\":[]}",
                     &shippedStock());
  };
  for (const auto& [text, word] :
       {std::pair{"\"stock\":3", "object of lists"},
        {"\"stock\":{\"hoses.csv\":[]}", "hoses.csv"},
        {"\"stock\":{\"pipes.csv\":[{\"standard\":\"X\"}]}", "nominal"},
        {"\"stock\":{\"fittings.csv\":[{\"word\":\"3bad\",\"k\":\"1\"}]}", "begins with a letter"},
        {"\"files\":{\"a.png\":\"!!!\"}", "base64"},
        {"\"files\":[]", "object of texts"}}) {
    const auto n = read(text);
    ASSERT_FALSE(n) << text;
    EXPECT_NE(n.error().front().what.find(word), std::string::npos) << n.error().front().what;
  }
  const auto good =
      read("\"files\":{\"a.txt\":\"aGk=\"},\"stock\":{\"fittings.csv\":[{\"word\":\"wye\",\"k\":0.7}]}");
  ASSERT_TRUE(good);
  EXPECT_EQ(good->enclosed().files.at("a.txt"), "hi");
  EXPECT_NEAR(*good->enclosed().stock.fitting("wye")->k, 0.7, 1e-12);
}

}  // namespace
}  // namespace conduit
