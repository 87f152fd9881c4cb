#include "stock/said.h"

#include <gtest/gtest.h>

#include "exchange/stock_files.h"

namespace conduit {
namespace {

// Bores and outside diameters from ASME B36.10M-2004, B36.19M-2004, EN 10255:2004, ISO 4427-2:2007 and EN
// 545:2010 as printed.
TEST(SizesSaid, areReadAsAnEngineerSaysThem) {
  struct Row {
    const char *said, *standard, *nominal, *schedule;
    double bore_mm;
  };
  for (const Row& r : {
           Row{"4 in sch 40", "ASME B36.10M", "4", "40", 102.26},
           Row{"4\" sch40", "ASME B36.10M", "4", "40", 102.26},
           Row{"NPS 4 schedule 80", "ASME B36.10M", "4", "80", 97.18},
           Row{"DN 100", "ASME B36.10M", "4", "40", 102.26},
           Row{"dn100 c40", "EN 545", "100", "C40", 118 - 2 * (4.4 + 4.0)},
           Row{"DN150 sch 40", "ASME B36.10M", "6", "40", 154.06},
           Row{"1 1/2 in sch 40", "ASME B36.10M", "1-1/2", "40", 40.94},
           Row{"1½\" sch 40", "ASME B36.10M", "1-1/2", "40", 40.94},
           Row{"2-1/2 in xs", "ASME B36.10M", "2-1/2", "XS", 59.01},
           Row{"6 in 40S", "ASME B36.19M", "6", "40S", 154.06},
           Row{"110 PE SDR 11", "ISO 4427 PE100", "110", "SDR 11", 110.35 - 2 * 10.55},
           Row{"63 pe100 sdr17", "ISO 4427 PE100", "63", "SDR 17", 63.2 - 2 * 4.05},
           Row{"2 in medium", "EN 10255", "2", "medium", 53.1},
           Row{"asme b36.10m 8 sch 40", "ASME B36.10M", "8", "40", 202.72},
       }) {
    const auto sizes = sizesSaid(r.said, shippedStock());
    ASSERT_FALSE(sizes.empty()) << r.said;
    EXPECT_EQ(sizes.front()->standard, r.standard) << r.said;
    EXPECT_EQ(sizes.front()->nominal, r.nominal) << r.said;
    EXPECT_EQ(sizes.front()->schedule, r.schedule) << r.said;
    EXPECT_NEAR(sizes.front()->bore_m * 1000, r.bore_mm, 0.11) << r.said;
  }
}

TEST(SizesSaid, areNoneForWhatSaysNone) {
  for (const char* said : {"", "in sch", "steel", "102.3", "4 in sch 41", "DN 97", "a wide one", "0.046 mm",
                           "1/0 in", "999999999999999999999 in", "4 in sch 40 copper"})
    EXPECT_TRUE(sizesSaid(said, shippedStock()).empty()) << said;
}

TEST(SizesSaid, goByWhatIsInTheHandWhereTheyLeaveItOpen) {
  const PipeSize* like = shippedStock().pipe("ASME B36.10M 4 80");
  ASSERT_NE(like, nullptr);
  EXPECT_EQ(sizesSaid("6 in", shippedStock(), like).front()->name(), "ASME B36.10M 6 80");
  const PipeSize* iron = shippedStock().pipe("EN 545 100 C40");
  EXPECT_EQ(sizesSaid("DN 200", shippedStock(), iron).front()->standard, "EN 545");
}

// Said and read back: every size of the catalogue.
TEST(SizesSaid, everySizeIsUnderstoodAsItIsSpoken) {
  for (const PipeSize& size : shippedStock().pipes) {
    const auto said = sizesSaid(spoken(size), shippedStock(), &size);
    EXPECT_NE(std::find(said.begin(), said.end(), &size), said.end())
        << size.name() << " as " << spoken(size);
  }
}

TEST(WallsSaid, haveTheFiguresOfTheStock) {
  struct Row {
    const char* said;
    double mm;
  };
  // Moody 1944: commercial steel 0.0457 mm, galvanised 0.152 mm, drawn tubing 0.0015 mm.
  for (const Row& r : {Row{"commercial steel", 0.0457}, Row{"galvanised", 0.152}, Row{"copper", 0.0015}}) {
    const auto walls = wallsSaid(r.said, shippedStock());
    ASSERT_FALSE(walls.empty()) << r.said;
    EXPECT_NEAR(walls.front()->typical_m * 1000, r.mm, 1e-9) << r.said;
  }
  for (const PipeSize& size : shippedStock().pipes) {
    EXPECT_NE(wallOf(size.material, shippedStock()), nullptr) << size.material;
    EXPECT_NE(coefficientOf(size.material, shippedStock()), nullptr) << size.material;
  }
  EXPECT_EQ(coefficientOf("PVC-U", shippedStock())->typical, 150);
}

}  // namespace
}  // namespace conduit
