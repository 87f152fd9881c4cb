#include "say/page.h"

#include <gtest/gtest.h>

namespace conduit {
namespace {

Page sheet() {
  Page page;
  page.blocks = {
      Page::Heading{"Loss of <L-1>"},
      Page::Formula{{"v", "4·Q/(π·D²)", "4·0.02/(π·0.1²)", 2.54647908947, "m/s", "continuity"}},
      Page::Table{"Suction", {"", "head"}, {{"surface", "42.00 m"}, {"lost in L-1 & L-2", "−0.5 m"}}},
      Page::Sentence{"Q is the flow found.", true}, Page::Figure{"system curve of P-1", "at 12 °C"}};
  return page;
}

// As a person would lay it out by hand: columns of one width, numbers to the right, a minus sign one column
// wide.
TEST(Page, standsInColumnsOnATerminal) {
  EXPECT_EQ(plainText(sheet()),
            "\nLoss of <L-1>\n"
            "  v = 4·Q/(π·D²)\n"
            "    = 4·0.02/(π·0.1²)\n"
            "    = 2.54648 m/s   (continuity)\n"
            "\nSuction\n"
            "                       head\n"
            "  surface           42.00 m\n"
            "  lost in L-1 & L-2  −0.5 m\n"
            "  Q is the flow found.\n"
            "  [figure: system curve of P-1] at 12 °C\n");
  EXPECT_EQ(columnsOf("−0.5 m"), 6u);
}

// Columns of words stand at the left, those of numbers at the right, in both; a dash for "none" says nothing.
TEST(Page, wordsStandLeftAndNumbersRight) {
  const Page page{
      {Page::Table{"Lines", {"line", "length", "size"}, {{"L-1", "2 m", "DN 80"}, {"L-20", "14 m", "-"}}}}};
  EXPECT_EQ(plainText(page),
            "\nLines\n"
            "  line length size\n"
            "  L-1     2 m DN 80\n"
            "  L-20   14 m -\n");
  const std::string out = html(page, {});
  EXPECT_NE(out.find("<td align='right'>14 m</td><td align='left'>-</td>"), std::string::npos) << out;
}

TEST(Page, isEscapedAndWholeInHtml) {
  const std::string out = html(sheet(), {.quietInk = "#123456"});
  EXPECT_NE(out.find("Loss of &lt;L-1&gt;"), std::string::npos);
  EXPECT_NE(out.find("lost in L-1 &amp; L-2"), std::string::npos);
  EXPECT_EQ(out.find("<L-1>"), std::string::npos) << "a name is never markup";
  EXPECT_NE(out.find("<b>2.54648</b> m/s"), std::string::npos);
  EXPECT_NE(out.find("color:#123456"), std::string::npos);
  EXPECT_NE(out.find("<img src='system curve of P-1'>"), std::string::npos);
  // What is opened is closed.
  for (const std::string tag : {"p", "table", "tr", "td", "th", "b"}) {
    const auto count = [&](const std::string& what) {
      std::size_t n = 0;
      for (std::size_t at = 0; (at = out.find(what, at)) != std::string::npos; ++at) ++n;
      return n;
    };
    EXPECT_EQ(count("<" + tag + ">") + count("<" + tag + " "), count("</" + tag + ">")) << tag;
  }
}

TEST(Page, aWorkingKeepsItsOrder) {
  const Page page = pageOf(
      Working{"Head", {{"H", "a+b", "1+2", 3, "m", ""}, {"P", "g·H", "9.8·3", 29.4, "Pa", ""}}, "Done."});
  ASSERT_EQ(page.blocks.size(), 4u);
  EXPECT_EQ(std::get<Page::Heading>(page.blocks[0]).words, "Head");
  EXPECT_EQ(std::get<Page::Formula>(page.blocks[2]).line.symbol, "P");
  EXPECT_EQ(std::get<Page::Sentence>(page.blocks[3]).words, "Done.");
  EXPECT_EQ(pageOf(Working{"Bare", {}, ""}).blocks.size(), 1u);
}

TEST(Page, aRowWithoutAllItsCellsIsAMistakeOfOurs) {
  const Page page{{Page::Table{"T", {"a", "b"}, {{"only one"}}}}};
  EXPECT_ANY_THROW((void)plainText(page));
  EXPECT_ANY_THROW((void)html(page, {}));
}

}  // namespace
}  // namespace conduit
