#include "fluid/stock_liquid.h"

#include <gtest/gtest.h>

#include "exchange/stock_files.h"

namespace conduit {
namespace {

// ASTM D341 from (40 °C, 46) and (100 °C, 6.8) mm²/s: values of the independent reference, 7 figures.
TEST(StockLiquid, viscosityByTheStandardsLaw) {
  const LiquidEntry& oil = *shippedStock().liquid("mineral oil ISO VG 46");
  for (const auto& [t, nu] : {std::pair{60.0, 20.62275e-6},
                              {80.0, 11.10261e-6},
                              {40.0, 46e-6},
                              {100.0, 6.8e-6},
                              {20.0, 133.8382e-6}})
    EXPECT_NEAR(stockliquid::viscosity(oil, Temperature::fromSi(t)).si(), nu, nu * 1e-6) << t;
}

TEST(StockLiquid, everyShippedLiquidKeepsItsPointsAndThinsWithWarmth) {
  for (const LiquidEntry& l : shippedStock().liquids) {
    EXPECT_NEAR(stockliquid::viscosity(l, Temperature::fromSi(l.at1_c)).si(), l.viscosity1_m2s,
                l.viscosity1_m2s * 1e-9)
        << l.liquid;
    EXPECT_NEAR(stockliquid::density(l, Temperature::fromSi(l.densityAt_c)).si(), l.density_kgm3, 1e-9)
        << l.liquid;
    if (l.vapour_pa && l.reid.empty())
      EXPECT_NEAR(stockliquid::vapourPressure(l, Temperature::fromSi(*l.vapourAt_c)).si(), *l.vapour_pa,
                  *l.vapour_pa * 1e-9)
          << l.liquid;
    EXPECT_TRUE(l.vapour_pa || l.waterActivity) << l.liquid;
    double last = 1e9;
    for (double t = stockliquid::least_c(l); t <= stockliquid::most_c(l); t += 5) {
      const double nu = stockliquid::viscosity(l, Temperature::fromSi(t)).si();
      EXPECT_LT(nu, last) << l.liquid << " at " << t;
      last = nu;
    }
  }
}

// Handbook values between the points: ethanol 29.5 kPa at 50 °C, water-free acetone 56.4 kPa at 40 °C (CRC
// Handbook); 5 %.
TEST(StockLiquid, vapourPressureBetweenTwoPoints) {
  EXPECT_NEAR(stockliquid::vapourPressure(*shippedStock().liquid("ethanol"), Temperature::fromSi(50)).si(),
              29.5e3, 0.05 * 29.5e3);
  EXPECT_NEAR(stockliquid::vapourPressure(*shippedStock().liquid("acetone"), Temperature::fromSi(40)).si(),
              56.4e3, 0.05 * 56.4e3);
}

// Without a boiling point, by Trouton's rule: n-heptane, 4.7 kPa at 20 °C, has 12.3 kPa at 40 °C (CRC
// Handbook); 10 %.
TEST(StockLiquid, vapourPressureByTroutonsRule) {
  LiquidEntry heptane = *shippedStock().liquid("n-heptane");
  heptane.boilsAt_c.reset();
  EXPECT_NEAR(stockliquid::vapourPressure(heptane, Temperature::fromSi(40)).si(), 12.3e3, 1.23e3);
}

// Salts, caustic and milk: water boils out of them. Sodium chloride 20 % (4.28 mol/kg) has an activity of
// 0.839 (Robinson and Stokes), calcium chloride 20 % some 0.833 and 29 % 0.66; water at 60 °C 19.95 kPa.
// Never less than that, and no more than 8 % over it.
TEST(StockLiquid, solutionsBoilNearlyAsWaterDoes) {
  for (const auto& [liquid, activity] : {std::pair("sodium chloride brine 20 % by mass", 0.839),
                                         {"calcium chloride brine 20 % by mass", 0.833},
                                         {"calcium chloride brine 29 % by mass", 0.66},
                                         {"milk, whole", 0.993}}) {
    const double p =
        stockliquid::vapourPressure(*shippedStock().liquid(liquid), Temperature::fromSi(60)).si();
    EXPECT_GE(p, activity * 19.95e3) << liquid;
    EXPECT_LE(p, activity * 19.95e3 * 1.08) << liquid;
  }
}

// Reid 10 psi gasoline stands at 5.2 psi at 60 °F, 7 psi at 3.5; crude of 5 psi at 2.8 (AP-42, table 7.1-2);
// 3 %.
TEST(StockLiquid, trueVapourPressureOfReid) {
  constexpr double psi = 6894.757;
  for (const auto& [kind, reid, is] :
       {std::tuple("gasoline", 10.0, 5.2), {"gasoline", 7.0, 3.5}, {"crude", 5.0, 2.8}}) {
    LiquidEntry l = *shippedStock().liquid("motor gasoline, summer");
    l.reid = kind, l.vapour_pa = reid * psi;
    EXPECT_NEAR(stockliquid::vapourPressure(l, Temperature::fromSi((60 - 32) / 1.8)).si() / psi, is,
                0.03 * is)
        << kind << " " << reid;
  }
}

}  // namespace
}  // namespace conduit
