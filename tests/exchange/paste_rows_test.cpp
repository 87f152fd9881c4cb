#include "exchange/paste_rows.h"

#include <gtest/gtest.h>

#include "parts/registry.h"

namespace conduit {
namespace {

Result<std::string> pasted(std::string_view block, std::vector<std::vector<std::string>> there = {},
                           std::size_t row = 0, std::size_t column = 0, const char* field = "curve") {
  return rowsFromBlock(block, *findField(*findPart("pump"), field), there, row, column, UnitSet::siWater());
}

TEST(PasteRows, aBlockGoesFromTheCurrentCellOn) {
  EXPECT_EQ(*pasted("0\t40\n10\t38.5\n"), "0 L/s | 40 m |  |  | ; 10 L/s | 38.5 m |  |  | ");
  EXPECT_EQ(*pasted("65\n70\n", {{"0 L/s", "40 m", "", "", ""}, {"10 L/s", "38 m", "", "", ""}}, 0, 2),
            "0 L/s | 40 m | 65 % |  | ; 10 L/s | 38 m | 70 % |  | ");
  EXPECT_EQ(*pasted("0 m3/h;40 m;;1.5 m"), "0 m3/h | 40 m |  | 1.5 m | ");
}

TEST(PasteRows, headingsSayWhichColumnAndUnit) {
  EXPECT_EQ(
      *pasted("Head (ft);Flow [gpm];NPSHr [ft];Power (kW)\n100;0;5;3\n90;200;6;4,5\n", {{"9 L/s", "9 m"}}),
      "0 gpm | 100 ft |  | 5 ft | 3 kW; 200 gpm | 90 ft |  | 6 ft | 4.5 kW");
  EXPECT_EQ(*pasted("rpm\tFlow\tHead\n1450\t0\t20\n1450\t8\t15\n", {}, 0, 0, "other curves"),
            "1450 rpm |  | 0 L/s | 20 m |  |  | ; 1450 rpm |  | 8 L/s | 15 m |  |  | ");
}

TEST(PasteRows, whatCannotBeReadIsNamed) {
  for (const auto& [block, part] :
       {std::pair{"", "nothing"}, std::pair{"0\tfast\n", "row 1, head"},
        std::pair{"colour\ttaste\nred\t4\n", "no heading"}, std::pair{"0\t40 bar g\n", "row 1, head"},
        std::pair{"-5\t40\n", "out of range"}}) {
    const auto r = pasted(block);
    ASSERT_FALSE(r.has_value()) << block;
    EXPECT_NE(r.error().what.find(part), std::string::npos) << r.error().what;
  }
  std::string many;
  for (int i = 0; i < 600; ++i) many += std::to_string(i) + "\t4\n";
  EXPECT_FALSE(pasted(many).has_value());
}

}  // namespace
}  // namespace conduit
