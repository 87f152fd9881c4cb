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
  // 3 elbows of 30 bores and a gate of 8 (Crane TP-410): K = fT (90 + 8), fT = 0.01628595 at 102.26 mm; and
  // K 2.5 of one's own.
  EXPECT_NEAR(t->k(0.10226), 0.01628595 * 98 + 2.5, 1e-6);
}

TEST(TakeOff, countsInEveryWay) {
  for (const char* text : {"3x elbow", "3 x elbow", "3xelbow", "elbow elbow elbow"}) {
    const auto t = parseTakeOff(text, shippedStock());
    ASSERT_TRUE(t) << text;
    EXPECT_NEAR(t->k(0.1), 3 * 30 * completeTurbulence(0.1), 1e-12) << text;
  }
}

TEST(TakeOff, namesTheWordItCannotReadAndItsPlace) {
  struct Row {
    const char *text, *word;
    std::size_t at;
  };
  for (const Row& r :
       {Row{"12 elbwo 3 up", "elbwo", 3}, Row{"3x", "3x", 0}, Row{"12 K up", "K", 3},
        Row{"99999x elbow", "count", 0}, Row{"12 -3", "-3", 3}, Row{"4 bore", "bore", 2},
        Row{"4 bore 80", "80", 7}, Row{"4 reducing (3 s)", "set point", 12},
        Row{"4 check (2 bar)", "check", 9}, Row{"+10 % 4 +5 %", "twice", 11}, Row{"elbow Le x", "Le", 6}}) {
    const auto t = parseTakeOff(r.text, shippedStock());
    ASSERT_FALSE(t) << r.text;
    EXPECT_NE((t.error().what + t.error().word).find(r.word), std::string::npos) << t.error().what;
    EXPECT_EQ(t.error().at, r.at) << r.text << ": " << t.error().what;
  }
}

TEST(TakeOff, offersTheWordsThatWereMeant) {
  for (const auto& [typed, meant] :
       std::initializer_list<std::pair<const char*, const char*>>{{"elbwo", "elbow"},
                                                                  {"gte", "gate"},
                                                                  {"chek", "check-valve"},
                                                                  {"gloeb", "globe"},
                                                                  {"branch", "tee-branch"}}) {
    const std::vector<std::string> could = parseTakeOff(typed, shippedStock()).error().could;
    EXPECT_NE(std::find(could.begin(), could.end(), meant), could.end()) << typed;
  }
  EXPECT_TRUE(parseTakeOff("xyzzy", shippedStock()).error().could.empty()) << "nothing is like it";
}

TEST(TakeOff, readsEveryPieceOfTheGrammar) {
  const auto t = parseTakeOff(
      "up 2, 3 elbows; 52 ft 6 in Le 4 m +10 % K=1.5 bore ASME B36.10M 3 40 reducing (3 bar) 2x check 1e1",
      shippedStock());
  ASSERT_TRUE(t) << t.error().what;
  ASSERT_EQ(t->pieces.size(), 10u);
  EXPECT_EQ(t->pieces[0].kind, PieceKind::up);
  EXPECT_EQ(t->pieces[1].count, 3);
  EXPECT_NEAR(t->pieces[2].value, 52.5 * 0.3048, 1e-12);
  EXPECT_NEAR(t->added_m(), 4 + 0.1 * (2 + 52.5 * 0.3048 + 10), 1e-12);
  EXPECT_NEAR(t->pieces[6].value, 0.07792, 1e-9);  // ASME B36.10M: 88.9 - 2 x 5.49
  EXPECT_EQ(t->pieces[7].device->key, "reducing valve");
  EXPECT_EQ(t->pieces[8].count, 2);
  EXPECT_TRUE(t->breaks());
}

// Text to pieces to text: the pieces are the same, and the second text is the third.
TEST(TakeOff, goesThereAndBack) {
  std::uint32_t state = 7;
  auto draw = [&](std::size_t n) {
    state = state * 1664525u + 1013904223u;
    return static_cast<std::size_t>(state >> 8) % n;
  };
  const char* words[] = {"12.4",
                         "3 up",
                         "40 ft",
                         "2 m down",
                         "elbow",
                         "3x bend",
                         "K 2.5",
                         "Le 3.2",
                         "bore 80 mm",
                         "bore ASME B36.10M 4 40",
                         "check",
                         "gate",
                         "4 globes",
                         "tee-run",
                         "0.5 down",
                         "2x K 1",
                         "reducing (3 bar)",
                         "2x 6",
                         "strainer",
                         "control-valve (40 Kv)"};
  for (int round = 0; round < 300; ++round) {
    std::string text;
    for (std::size_t i = 0, n = 1 + draw(9); i < n; ++i)
      text += std::string(words[draw(std::size(words))]) + (draw(3) ? " " : ";  ");
    if (draw(4) == 0) text += "+7.5 %";
    const auto first = parseTakeOff(text, shippedStock());
    ASSERT_TRUE(first) << text << ": " << first.error().what;
    const auto second = parseTakeOff(first->text(), shippedStock());
    ASSERT_TRUE(second) << first->text() << ": " << second.error().what;
    ASSERT_EQ(first->pieces.size(), second->pieces.size()) << text;
    for (std::size_t i = 0; i < first->pieces.size(); ++i) {
      const Piece &a = first->pieces[i], &b = second->pieces[i];
      EXPECT_TRUE(a.kind == b.kind && a.count == b.count && a.value == b.value && a.fitting == b.fitting &&
                  a.device == b.device && a.typed == b.typed)
          << text << " piece " << i;
    }
    EXPECT_EQ(first->text(), second->text());
    // Cut anywhere, the two parts have the length and the losses of the whole.
    const auto [before, after] = cutAt(*first, static_cast<double>(draw(1000)) / 999.0);
    EXPECT_NEAR(before.length_m() + after.length_m(), first->length_m(), 2e-6);
    EXPECT_NEAR(before.rise_m() + after.rise_m(), first->rise_m(), 2e-6);
    EXPECT_NEAR(before.k(0.1) + after.k(0.1), first->k(0.1), 1e-12);
  }
}

TEST(TakeOff, completesWhatIsBegun) {
  auto has = [](std::string_view before, std::string_view word) {
    for (const Completion& c : completionsFor(before, shippedStock()))
      if (c.word == word) return true;
    return false;
  };
  EXPECT_TRUE(has("12.4 el", "elbow"));
  EXPECT_TRUE(has("12.4 3xel", "elbow-45"));
  EXPECT_TRUE(has("3.1 ", "up"));
  EXPECT_TRUE(has("3.1 d", "down"));
  EXPECT_TRUE(has("4 red", "reducing-valve"));
  EXPECT_TRUE(has("4 bo", "bore"));
  EXPECT_FALSE(has("elbow ", "up"));
  EXPECT_FALSE(has("elbow 3", "up"));
  EXPECT_FALSE(has("4 pi", "pipe")) << "a pipe does not stand in a pipe";
}

TEST(TakeOff, isReadOnceWithTheFittingsOfItsStock) {
  Stock stock;
  stock.fittings = {{.word = "dogleg", .description = "", .k = 2.0}};
  const auto first = takeOffRead("4 dogleg", stock);
  ASSERT_TRUE(first->read) << first->read.error().what;
  EXPECT_EQ(takeOffRead("4 dogleg", stock), first);
  EXPECT_FALSE(takeOffRead("4 swan-neck", stock)->read);

  // A copy reads with its own fittings, and one that has got another fitting reads again.
  Stock copy = stock;
  copy.fittings.front().k = 7.0;
  EXPECT_EQ(takeOffRead("4 dogleg", copy)->read->k(0.1), 7.0);
  EXPECT_EQ(takeOffRead("4 dogleg", stock)->read->k(0.1), 2.0);
  stock.fittings.push_back({.word = "swan-neck", .description = "", .k = 3.0});
  ASSERT_TRUE(takeOffRead("4 swan-neck", stock)->read);
  EXPECT_EQ(takeOffRead("4 swan-neck", stock)->read->k(0.1), 3.0);
  const Stock moved = std::move(stock);
  EXPECT_EQ(takeOffRead("4 dogleg swan-neck", moved)->read->k(0.1), 5.0);
}

TEST(Stock, aSizeFoundOnceIsThatOfTheStockThatIsAsked) {
  Stock stock;
  stock.pipes = {{.standard = "X",
                  .nominal = "1",
                  .schedule = "a",
                  .material = "",
                  .outside_m = 0,
                  .wall_m = 0,
                  .bore_m = 0.1},
                 {.standard = "X",
                  .nominal = "2",
                  .schedule = "a",
                  .material = "",
                  .outside_m = 0,
                  .wall_m = 0,
                  .bore_m = 0.2}};
  for (int again = 0; again < 2; ++again) EXPECT_EQ(stock.pipe("x 2 A"), &stock.pipes[1]);
  Stock copy = stock;
  copy.pipes[1].bore_m = 0.3;
  EXPECT_EQ(copy.pipe("x 2 A")->bore_m, 0.3);
  // Renamed, moved or gone, it is looked for again.
  stock.pipes[1].nominal = "3";
  EXPECT_EQ(stock.pipe("x 2 A"), nullptr);
  stock.pipes.insert(stock.pipes.begin(), copy.pipes[1]);
  EXPECT_EQ(stock.pipe("x 2 A"), &stock.pipes[0]);
  stock.pipes.clear();
  EXPECT_EQ(stock.pipe("x 2 A"), nullptr);
}

TEST(Stock, holdsTheStandards) {
  const Stock& s = shippedStock();
  // ASME B36.10M: NPS 4 schedule 40 is 114.3 x 6.02; ISO 4427: dn 110 SDR 11 has a
  // wall of 10.0 to 11.1 mm in 110.0 to 110.7: on average 110.35 − 2·10.55 mm.
  ASSERT_NE(s.pipe("ASME B36.10M 4 40"), nullptr);
  EXPECT_NEAR(s.pipe("asme b36.10m 4 sch 40")->bore_m, 0.10226, 1e-9);
  ASSERT_NE(s.pipe("ISO 4427 PE100 110 SDR 11"), nullptr);
  EXPECT_NEAR(s.pipe("ISO 4427 PE100 110 SDR 11")->bore_m, 0.08925, 1e-9);
  EXPECT_NE(s.pipe("EN 545 100 C40"), nullptr);
  for (const PipeSize& p : s.pipes) {
    EXPECT_GT(p.bore_m, 0) << p.name();
    EXPECT_LE(p.bore_m, p.outside_m - 2 * p.wall_m + 2e-6) << p.name();
    EXPECT_FALSE(p.source.empty());
  }
}

}  // namespace
}  // namespace conduit
