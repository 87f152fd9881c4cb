// The pumps of the shipped stock against the relations they say they are made from, worked out here anew.
#include <gtest/gtest.h>

#include <cmath>
#include <map>

#include "model_text.h"
#include "network/setting.h"
#include "parts/pump/machine.h"
#include "parts/pump/motor.h"
#include "parts/registry.h"

namespace conduit::test {
namespace {

struct Made {
  std::string name, construction;
  std::vector<pump::CurveRow> rows;
  double rpm, stages, best, head, eta, npsh, nq;  // at the best row, of one stage and eye where it is nq
  std::optional<double> driver_w, impeller_m, solids_m;
};

std::vector<Made> shippedPumps() {
  std::vector<Made> all;
  const Medium water;
  for (const StockItem& item : shippedStock().items) {
    if (item.kind != "pump") continue;
    Element e{.part = findPart("pump")};
    e.values.set(stockItemKey, item.item);
    Values scratch;
    const Values& v = valuesOf(e, &shippedStock(), scratch);
    Made m{.name = item.item, .construction = pump::word(v, pump::constructionKey, "")};
    m.rows = pump::makersRows(v, water);
    m.rpm = get(v, pump::ratedSpeed, water)->si() * 60;
    m.stages = getOrFallback(v, pump::fields, pump::stageCount, water)->si();
    const auto best = std::max_element(m.rows.begin(), m.rows.end(), [](const auto& a, const auto& b) {
      return *a.efficiency < *b.efficiency;
    });
    m.best = best->flow_m3s, m.head = best->head_m, m.eta = *best->efficiency, m.npsh = *best->npsh_m;
    const double eye = m.construction == "double suction" ? m.best / 2 : m.best;
    m.nq = m.rpm * std::sqrt(eye) / std::pow(m.head / m.stages, 0.75);
    if (const auto d = get(v, pump::driver, water)) m.driver_w = d->si();
    if (const auto d = get(v, pump::ratedImpeller, water)) m.impeller_m = d->si();
    if (const auto d = get(v, pump::solidsPassage, water)) m.solids_m = d->si();
    all.push_back(std::move(m));
  }
  return all;
}

TEST(ShippedPumps, coverTheRangeInEveryConstruction) {
  std::map<std::string, int> of;
  double least = 1e9, most = 0, low = 1e9, high = 0;
  std::map<double, int> speeds;
  for (const Made& m : shippedPumps()) {
    ++of[m.construction], ++speeds[m.rpm];
    least = std::min(least, m.best), most = std::max(most, m.best);
    low = std::min(low, m.head), high = std::max(high, m.head);
    EXPECT_GE(m.nq, 10) << m.name;
    EXPECT_LE(m.nq, 200) << m.name;
    if (m.construction == "double suction") EXPECT_GE(m.best, 0.150) << m.name;
    if (m.construction == "multistage") EXPECT_GE(m.stages, 2) << m.name;
    EXPECT_EQ(m.solids_m.has_value(), m.construction == "sewage") << m.name;
  }
  int all = 0;
  for (const auto& [construction, count] : of) {
    all += count;
    EXPECT_GE(count, 15) << construction;
  }
  EXPECT_EQ(of.size(), 5u);
  EXPECT_GE(all, 120);
  EXPECT_EQ(speeds.size(), 4u) << "2 to 8 poles";
  EXPECT_NEAR(least, 0.5e-3, 1e-9);
  EXPECT_NEAR(most, 1.0, 1e-9);
  EXPECT_NEAR(low, 4, 0.01);
  EXPECT_NEAR(high, 300, 0.1);
}

// Shapes of head and power by nq: the table of docs/theory.md (after the pictures of Stepanoff 1957 and
// Gülich 2010), linear in ln nq. Values are printed to four figures.
TEST(ShippedPumps, haveTheShapeOfTheirSpecificSpeed) {
  const std::vector<double> nqs{10, 20, 30, 40, 60, 80, 100, 150, 200},
      h0s{1.14, 1.18, 1.24, 1.30, 1.42, 1.57, 1.75, 2.25, 2.80},
      ms{2.2, 2.1, 2.0, 1.9, 1.75, 1.6, 1.5, 1.25, 1.1},
      p0s{0.42, 0.48, 0.54, 0.60, 0.74, 0.90, 1.05, 1.45, 1.90};
  for (const Made& m : shippedPumps()) {
    std::size_t i = 0;
    while (i + 2 < nqs.size() && m.nq > nqs[i + 1]) ++i;
    const double t = std::log(m.nq / nqs[i]) / std::log(nqs[i + 1] / nqs[i]);
    const auto mix = [&](const std::vector<double>& v) { return v[i] + t * (v[i + 1] - v[i]); };
    const double h0 = mix(h0s), e = mix(ms), p0 = mix(p0s), b = p0 - (h0 - 1) * e;
    for (const pump::CurveRow& r : m.rows) {
      const double q = r.flow_m3s / m.best, h = h0 - (h0 - 1) * std::pow(q, e),
                   p = p0 + (1 - p0 - b) * q + b * q * q;
      EXPECT_NEAR(r.head_m / m.head, h, 1.5e-3) << m.name << " at " << q;
      EXPECT_NEAR(*r.efficiency, m.eta * q * h / p, 1.5e-3 * m.eta + 1e-4) << m.name << " at " << q;
    }
  }
}

// Gülich's estimate for single stages; below 2 L/s, where it does not hold, that at 2 L/s times (Q/2
// L/s)^0.2. Submersible pumps 2 or 3 points under it, sewage pumps 7.
TEST(ShippedPumps, haveTheEfficiencyOfTheirFlowAndSpecificSpeed) {
  for (const Made& m : shippedPumps()) {
    const double q = std::max(m.best, 0.002), a = q <= 1 ? 1.0 : 0.5,
                 exponent = 0.1 * a * std::pow(q, -0.15) * std::pow(45 / m.nq, 0.06);
    double eta = 1 - 0.095 * std::pow(q, -exponent) -
                 0.3 * std::pow(0.35 - std::log10(m.nq / 23), 2) * std::pow(q, -0.05);
    if (m.best < 0.002) eta *= std::pow(m.best / 0.002, 0.2);
    const double under = eta - m.eta;
    if (m.construction == "sewage") EXPECT_NEAR(under, 0.07, 2e-3) << m.name;
    else if (m.construction == "submersible") EXPECT_NEAR(under, 0.025, 7e-3) << m.name;
    else EXPECT_NEAR(under, 0, 2e-3) << m.name;
  }
}

// NPSH required at best flow by nss = 160 of one eye, and no less than 1.8 m up to 10 L/s, beyond that 1.8
// (10 L/s / Q)^0.25.
TEST(ShippedPumps, needTheHeadAtTheirSuctionThatPumpsOfTheirKindDo) {
  int byFloor = 0;
  for (const Made& m : shippedPumps()) {
    const double eye = m.construction == "double suction" ? m.best / 2 : m.best;
    const double bySpeed = std::pow(m.rpm * std::sqrt(eye) / 160, 4.0 / 3),
                 floor = 1.8 * std::min(1.0, std::pow(0.010 / eye, 0.25));
    byFloor += floor > bySpeed;
    EXPECT_NEAR(m.npsh, std::max(bySpeed, floor), 3e-3 * m.npsh) << m.name;
    for (std::size_t i = 1; i < m.rows.size(); ++i)
      EXPECT_GE(*m.rows[i].npsh_m, *m.rows[i - 1].npsh_m) << m.name;
  }
  EXPECT_GT(byFloor, 20);
}

TEST(ShippedPumps, haveADriverThatCarriesTheirWholeCurve) {
  for (const Made& m : shippedPumps()) {
    ASSERT_TRUE(m.driver_w.has_value()) << m.name;
    double most = 0;
    for (const pump::CurveRow& r : m.rows)
      if (*r.efficiency > 0.02) most = std::max(most, 1000 * 9.80665 * r.flow_m3s * r.head_m / *r.efficiency);
    EXPECT_GE(*m.driver_w, most) << m.name;
    if (*m.driver_w <= 355e3)
      EXPECT_EQ(pump::ratingFor(*m.driver_w), *m.driver_w) << m.name << ": of the standard series";
    // Head coefficient ψ = 2 g h/u² near 1.21 e^(−0.77 nq/100) (Gülich).
    ASSERT_TRUE(m.impeller_m.has_value()) << m.name;
    const double u = M_PI * *m.impeller_m * m.rpm / 60;
    EXPECT_NEAR(2 * 9.80665 * m.head / m.stages / (u * u) / (1.21 * std::exp(-0.0077 * m.nq)), 1, 0.02)
        << m.name;
  }
}

// IEC 60034-30-1:2014, 50 Hz: nominal efficiencies as its tables print them, %.
TEST(Motors, haveTheEfficiencyOfTheirClass) {
  struct Row {
    const char* motorClass;
    int poles;
    double kw, percent;
  };
  for (const Row& r :
       {Row{"IE3", 4, 0.75, 82.5}, Row{"IE3", 4, 1.1, 84.1}, Row{"IE3", 4, 4, 88.6}, Row{"IE3", 4, 11, 91.4},
        Row{"IE3", 4, 37, 93.9}, Row{"IE3", 4, 110, 95.4}, Row{"IE3", 4, 200, 96.0}, Row{"IE3", 4, 355, 96.0},
        Row{"IE3", 2, 7.5, 90.1}, Row{"IE3", 2, 75, 94.7}, Row{"IE3", 6, 7.5, 89.1}, Row{"IE3", 6, 75, 94.6},
        Row{"IE2", 4, 7.5, 88.7}, Row{"IE2", 2, 22, 91.3}, Row{"IE1", 4, 7.5, 86.0}, Row{"IE4", 4, 7.5, 92.6},
        Row{"IE4", 4, 75, 96.0}}) {
    const auto eta = pump::fullLoadEfficiency(r.motorClass, r.poles, r.kw * 1000);
    ASSERT_TRUE(eta.has_value()) << r.motorClass << r.kw;
    EXPECT_NEAR(*eta * 100, r.percent, 0.06) << r.motorClass << " " << r.poles << " poles " << r.kw << " kW";
  }
  // The tables, as recalled: eight poles of IE3 88.6 % at 11 kW; 60 Hz, IE3, 91.7 % of 7.5 kW with four
  // poles.
  EXPECT_NEAR(*pump::fullLoadEfficiency("IE3", 8, 11000), 0.886, 1e-12);
  EXPECT_NEAR(*pump::fullLoadEfficiency("IE2", 8, 75000), 0.916, 1e-12);
  EXPECT_NEAR(*pump::fullLoadEfficiency("IE3", 4, 7500, 60), 0.917, 1e-12);
  EXPECT_NEAR(*pump::fullLoadEfficiency("IE3", 2, 355000, 60), 0.958, 1e-12);
  EXPECT_FALSE(pump::fullLoadEfficiency("IE1", 8, 5000));
  EXPECT_FALSE(pump::fullLoadEfficiency("IE4", 4, 5000, 60));
  EXPECT_EQ(pump::polesFor(1780 / 60.0, 60), 4);
  EXPECT_EQ(pump::polesFor(1180 / 60.0, 60), 6);
  EXPECT_FALSE(pump::fullLoadEfficiency("IE3", 4, 500));
  EXPECT_EQ(pump::polesFor(2950 / 60.0), 2);
  EXPECT_EQ(pump::polesFor(1450 / 60.0), 4);
  EXPECT_EQ(pump::polesFor(725 / 60.0), 8);
  // At full load what it says; constant losses 0.4 of all: at half load (1/0.9 − 1)(0.4 + 0.15) of the
  // shaft's 0.5.
  EXPECT_NEAR(pump::partLoadEfficiency(0.9, 1.0), 0.9, 1e-12);
  EXPECT_NEAR(pump::partLoadEfficiency(0.9, 0.5), 0.5 / (0.5 + 0.55 / 9), 1e-12);
}

}  // namespace
}  // namespace conduit::test
