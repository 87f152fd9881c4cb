#include "fields/entry.h"

#include <gtest/gtest.h>

#include "exchange/stock_files.h"
#include "network/setting.h"
#include "parts/registry.h"

namespace conduit {
namespace {

const Field& field(const char* part, const char* key) { return *findField(*findPart(part), key); }

TEST(Entry, tablesAreReadRowByRow) {
  const auto v = readField(field("pump", "curve"), "0 L/s | 50 m; 10 L/s|45 m|70 %|2 m ;20 L/s|30 m||3 m",
                           &shippedStock(), nullptr);
  ASSERT_TRUE(v) << v.error().what;
  const Rows& rows = std::get<Rows>(*v);
  ASSERT_EQ(rows.size(), 3u);
  EXPECT_FALSE(rows[0][2]);
  EXPECT_DOUBLE_EQ(rows[1][2]->value, 0.7);
  EXPECT_FALSE(rows[2][2]);
  EXPECT_DOUBLE_EQ(rows[2][3]->value, 3.0);
  const auto again =
      readField(field("pump", "curve"), writeField(field("pump", "curve"), *v), &shippedStock(), nullptr);
  ASSERT_TRUE(again);
  EXPECT_EQ(*again, *v);
}

TEST(Entry, tablesNameTheRowThatIsWrong) {
  for (const auto& [text, words] : std::initializer_list<std::pair<const char*, const char*>>{
           {"0 L/s|50 m;10 L/s", "row 2 of the curve has no head"},
           {"0 L/s|50 m;ten|5 m", "row 2 of the curve: \"ten\""},
           {"0 L/s|50 m|1|2|3|4", "has 6 cells"},
           {"0 L/s|-5 m", "row 1 of the curve"}}) {
    const auto v = readField(field("pump", "curve"), text, &shippedStock(), nullptr);
    ASSERT_FALSE(v) << text;
    EXPECT_NE(v.error().what.find(words), std::string::npos) << v.error().what;
  }
}

TEST(Entry, flagsAndChoicesOfferTheirWords) {
  EXPECT_EQ(std::get<bool>(*readField(field("pump", "running"), "no", nullptr, nullptr)), false);
  const auto flag = readField(field("pump", "running"), "perhaps", nullptr, nullptr);
  ASSERT_FALSE(flag);
  EXPECT_EQ(flag.error().remedies.size(), 2u);
  const auto choice = readField(field("control valve", "characteristic"), "s-shaped", nullptr, nullptr);
  ASSERT_FALSE(choice);
  EXPECT_EQ(choice.error().remedies.size(), 4u);
  EXPECT_EQ(choice.error().what,
            "\"s-shaped\" is not one of the choices for characteristic: linear, equal percentage, quick "
            "opening, table");
  for (const char* yes : {"Yes", "TRUE", "on"})
    EXPECT_TRUE(std::get<bool>(*readField(field("pump", "running"), yes, nullptr, nullptr))) << yes;
  for (const char* no : {"No", "FALSE", "Off"})
    EXPECT_FALSE(std::get<bool>(*readField(field("pump", "running"), no, nullptr, nullptr))) << no;
}

TEST(Entry, bareNumbersTakeTheUnitShown) {
  EXPECT_DOUBLE_EQ(
      std::get<Given>(*readField(field("pipe", "length"), "100", nullptr, UnitSet::find("US"))).value, 30.48);
  EXPECT_FALSE(readField(field("pipe", "length"), "100", nullptr, nullptr))
      << "in a file the unit is written";
}

TEST(Setting, comesFromTheJob) {
  Draft d{Network()};
  auto put = [&](const char* key, const char* text) {
    d.values(jobId).set(field("job", key).key, *readField(field("job", key), text, nullptr, nullptr));
  };
  put("temperature", "20 °C");
  put("altitude", "500 m");
  put("velocity at most", "2 m/s");
  const auto s = settingOf(d.network(), nullptr);
  ASSERT_TRUE(s);
  EXPECT_NEAR(s->medium.density_kgm3, 998.2041, 1e-3);
  EXPECT_NEAR(s->medium.atmosphere_pa, 95460.84, 0.1);
  EXPECT_DOUBLE_EQ(*s->limits[LimitId::velocityMost].si, 2.0);
  EXPECT_FALSE(s->limits[LimitId::pressureLeast]);
  EXPECT_EQ(s->liquid, "water at 20 °C");
}

TEST(Setting, anOwnLiquidMustBeWhole) {
  Draft d{Network()};
  auto put = [&](const char* key, const char* text) {
    d.values(jobId).set(field("job", key).key, *readField(field("job", key), text, nullptr, nullptr));
  };
  put("liquid", "own liquid");
  put("density", "880 kg/m3");
  const auto s = settingOf(d.network(), nullptr);
  ASSERT_FALSE(s);
  EXPECT_EQ(s.error().place, (Place{"job", "viscosity"}));
  put("viscosity", "100 cSt");
  ASSERT_TRUE(settingOf(d.network(), nullptr));
  EXPECT_DOUBLE_EQ(settingOf(d.network(), nullptr)->viscosity_m2s, 1e-4);
}

// An item of the stock is read once; when its text is changed afterwards, what was read is no longer
// believed.
TEST(StockItems, areReadOnceAndNeverStale) {
  Stock stock;
  stock.items.push_back(
      {"reducing valve", "pilot 80", {{"K", "4"}, {"note", "fine"}, {"colour", "red"}}, "", {}});
  const Part& valve = *findPart("reducing valve");
  Element e{.part = &valve, .name = "S"};
  const Field& item = *findField(valve, stockItemKey);
  e.values.set(item.key, std::string("pilot 80"));
  Values scratch;
  const auto k = [&] { return valuesOf(e, &stock, scratch).get<Given>("K")->value; };
  EXPECT_EQ(k(), 4) << "not read beforehand";
  readItems(stock);
  ASSERT_TRUE(stock.items[0].read);
  const auto once = stock.items[0].read;
  readItems(stock);
  EXPECT_EQ(stock.items[0].read, once) << "what is read is not read again";
  EXPECT_EQ(k(), 4);
  EXPECT_EQ(*valuesOf(e, &stock, scratch).get<std::string>("note"), "fine");
  stock.items[0].fields[0].second = "7";
  EXPECT_EQ(k(), 7) << "changed since it was read";
  e.values.set(findField(valve, "K")->key, Given{9, Basis::direct, "9"});
  EXPECT_EQ(k(), 9) << "the element's own comes first";
}

}  // namespace
}  // namespace conduit
