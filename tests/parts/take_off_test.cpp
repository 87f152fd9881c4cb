#include "parts/take_off.h"

#include <gtest/gtest.h>

#include "exchange/stock_files.h"

namespace conduit {
namespace {

TEST(TakeOff, addsUpAsReadOffAnIsometric) {
  const auto t = parseTakeOff("12.4  elbow  3.1 up  2x elbow  gate  8 ft  1.1 down K 2.5", shippedStock());
  ASSERT_TRUE(t) << t.error().what;
  EXPECT_NEAR(t->length_m(), 12.4 + 3.1 + 8 * 0.3048 + 1.1, 1e-12);
  EXPECT_NEAR(t->rise_m(), 2.0, 1e-12);
  // 3 elbows of 30 bores and a gate of 8 (Crane TP-410): K = fT (90 + 8), fT = 0.01628595 at 102.26 mm; and K 2.5 of one's own.
  EXPECT_NEAR(t->k(0.10226), 0.01628595 * 98 + 2.5, 1e-6);
}

TEST(TakeOff, countsInEveryWay) {
  for (const char* text : {"3x elbow", "3 x elbow", "3xelbow", "elbow elbow elbow"}) {
    const auto t = parseTakeOff(text, shippedStock());
    ASSERT_TRUE(t) << text;
    EXPECT_NEAR(t->k(0.1), 3 * 30 * completeTurbulence(0.1), 1e-12) << text;
  }
}

TEST(TakeOff, namesTheWordItCannotRead) {
  for (const auto& [text, word] :
       std::initializer_list<std::pair<const char*, const char*>>{{"12 elbwo 3 up", "elbwo"}, {"12 check", "acts"}, {"3x", "3x"}, {"K up", "K"}, {"99999x elbow", "count"}}) {
    const auto t = parseTakeOff(text, shippedStock());
    ASSERT_FALSE(t) << text;
    EXPECT_NE(t.error().what.find(word), std::string::npos) << t.error().what;
  }
}

TEST(Stock, holdsTheStandards) {
  const Stock& s = shippedStock();
  // ASME B36.10M: NPS 4 schedule 40 is 114.3 x 6.02; ISO 4427: dn 110 SDR 11 has a wall of 10.0 mm.
  ASSERT_NE(s.pipe("ASME B36.10M 4 40"), nullptr);
  EXPECT_NEAR(s.pipe("asme b36.10m 4 sch 40")->bore_m, 0.10226, 1e-9);
  ASSERT_NE(s.pipe("ISO 4427 PE100 110 SDR 11"), nullptr);
  EXPECT_NEAR(s.pipe("ISO 4427 PE100 110 SDR 11")->bore_m, 0.090, 1e-9);
  EXPECT_NE(s.pipe("EN 545 100 C40"), nullptr);
  for (const PipeSize& p : s.pipes) {
    EXPECT_GT(p.bore_m, 0) << p.name();
    EXPECT_LE(p.bore_m, p.outside_m - 2 * p.wall_m + 1e-6) << p.name();
    EXPECT_FALSE(p.source.empty());
  }
}

}  // namespace
}  // namespace conduit
