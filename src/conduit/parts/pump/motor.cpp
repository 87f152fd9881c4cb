#include "parts/pump/motor.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace conduit::pump {
namespace {

struct Coefficients {
  std::string_view motorClass;
  int poles;
  double a, b, c, d;
};
constexpr Coefficients coefficients[] = {
    {"IE1", 2, 0.5234, -5.0499, 17.4180, 74.3171}, {"IE1", 4, 0.5234, -5.0499, 17.4180, 74.3171},
    {"IE1", 6, 0.0786, -3.5838, 17.2918, 72.2383}, {"IE2", 2, 0.2972, -3.3454, 13.0651, 79.0770},
    {"IE2", 4, 0.0278, -1.9247, 10.4395, 80.9761}, {"IE2", 6, 0.0148, -2.4978, 13.2470, 77.5603},
    {"IE3", 2, 0.3569, -3.3076, 11.6108, 82.2503}, {"IE3", 4, 0.0773, -1.8951, 9.2984, 83.7025},
    {"IE3", 6, 0.1252, -2.6130, 11.9963, 80.4769}, {"IE4", 2, 0.3400, -3.0479, 10.2930, 84.8208},
    {"IE4", 4, 0.2412, -2.3608, 8.4460, 86.8321},  {"IE4", 6, 0.3598, -3.2107, 10.7933, 84.1066},
};
// Tables, %, at the ratings of each, kW.
constexpr double eightAt_kw[] = {0.75, 1.1, 1.5, 2.2, 3,  4,  5.5, 7.5, 11,  15,  18.5,
                                 22,   30,  37,  45,  55, 75, 90,  110, 132, 160, 200};
constexpr double eightIe2[] = {66.2, 70.8, 74.1, 77.6, 80.0, 81.9, 83.8, 85.3, 86.9, 88.0, 88.6,
                               89.1, 89.8, 90.3, 90.7, 91.0, 91.6, 91.9, 92.3, 92.6, 93.0, 93.5};
constexpr double eightIe3[] = {75.0, 77.7, 79.7, 81.9, 83.5, 84.8, 86.2, 87.3, 88.6, 89.6, 90.1,
                               90.6, 91.3, 91.8, 92.2, 92.5, 93.1, 93.4, 93.7, 94.0, 94.3, 94.6};
constexpr double eightIe4[] = {78.4, 80.8, 82.6, 84.5, 85.9, 87.1, 88.3, 89.3, 90.4, 91.2, 91.7,
                               92.1, 92.7, 93.1, 93.4, 93.7, 94.2, 94.4, 94.7, 94.9, 95.1, 95.4};
constexpr double sixtyAt_kw[] = {0.75, 1.1, 1.5, 2.2, 3.7, 5.5, 7.5, 11,  15,  18.5,
                                 22,   30,  37,  45,  55,  75,  90,  110, 150, 185};
constexpr double sixty2Ie2[] = {75.5, 82.5, 84.0, 85.5, 87.5, 88.5, 89.5, 90.2, 90.2, 91.0,
                                91.0, 91.7, 92.4, 93.0, 93.0, 93.6, 94.5, 94.5, 95.0, 95.4};
constexpr double sixty2Ie3[] = {77.0, 84.0, 85.5, 86.5, 88.5, 89.5, 90.2, 91.0, 91.0, 91.7,
                                91.7, 92.4, 93.0, 93.6, 93.6, 94.1, 95.0, 95.0, 95.4, 95.8};
constexpr double sixty4Ie2[] = {82.5, 84.0, 84.0, 87.5, 87.5, 89.5, 89.5, 91.0, 91.0, 92.4,
                                92.4, 93.0, 93.0, 93.6, 94.1, 94.5, 94.5, 95.0, 95.0, 95.4};
constexpr double sixty4Ie3[] = {85.5, 86.5, 86.5, 89.5, 89.5, 91.7, 91.7, 92.4, 93.0, 93.6,
                                93.6, 94.1, 94.5, 95.0, 95.4, 95.4, 95.4, 95.8, 96.2, 96.2};
constexpr double sixty6Ie2[] = {80.0, 85.5, 86.5, 87.5, 87.5, 89.5, 89.5, 90.2, 90.2, 91.7,
                                91.7, 93.0, 93.0, 93.6, 93.6, 94.1, 94.1, 95.0, 95.0, 95.0};
constexpr double sixty6Ie3[] = {82.5, 87.5, 88.5, 89.5, 89.5, 91.0, 91.0, 91.7, 91.7, 93.0,
                                93.0, 94.1, 94.1, 94.5, 94.5, 95.0, 95.0, 95.8, 95.8, 95.8};
struct Table {
  std::string_view motorClass;
  int poles;
  double mains_hz;
  std::span<const double> at_kw, percent;
};
constexpr Table tables[] = {
    {"IE2", 8, 50, eightAt_kw, eightIe2},  {"IE3", 8, 50, eightAt_kw, eightIe3},
    {"IE4", 8, 50, eightAt_kw, eightIe4},  {"IE2", 2, 60, sixtyAt_kw, sixty2Ie2},
    {"IE3", 2, 60, sixtyAt_kw, sixty2Ie3}, {"IE2", 4, 60, sixtyAt_kw, sixty4Ie2},
    {"IE3", 4, 60, sixtyAt_kw, sixty4Ie3}, {"IE2", 6, 60, sixtyAt_kw, sixty6Ie2},
    {"IE3", 6, 60, sixtyAt_kw, sixty6Ie3},
};
// The row at or below a rating; the last but one at and above the last.
std::size_t rowAt(const Table& t, double kw) {
  const auto next = std::upper_bound(t.at_kw.begin(), t.at_kw.end(), kw);
  return static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(
             next - t.at_kw.begin(), 1, static_cast<std::ptrdiff_t>(t.at_kw.size()) - 1)) -
         1;
}
double straight(const Table& t, double kw) {
  const std::size_t i = rowAt(t, kw);
  return t.percent[i] + std::log(kw / t.at_kw[i]) / std::log(t.at_kw[i + 1] / t.at_kw[i]) *
                            (t.percent[i + 1] - t.percent[i]);
}
// Within the rows of its table; within the range of the interpolation.
double ratingIn(const Table& t, double rated_w) {
  return std::clamp(rated_w / 1000, t.at_kw.front(), t.at_kw.back());
}
double ratingInRange(double rated_w) { return std::min(rated_w, 200e3) / 1000; }

const Table* tableOf(std::string_view motorClass, int poles, double mains_hz) {
  for (const Table& t : tables)
    if (t.motorClass == motorClass && t.poles == poles && t.mains_hz == mains_hz) return &t;
  return nullptr;
}
const Coefficients* coefficientsOf(std::string_view motorClass, int poles, double mains_hz) {
  for (const Coefficients& k : coefficients)
    if (mains_hz == 50.0 && k.motorClass == motorClass && k.poles == poles) return &k;
  return nullptr;
}

constexpr double ratings[] = {750,    1100,   1500,   2200,   3000,   4000,   5500,   7500,   11000,
                              15000,  18500,  22000,  30000,  37000,  45000,  55000,  75000,  90000,
                              110000, 132000, 160000, 200000, 250000, 315000, 355000, 400000, 450000,
                              500000, 560000, 630000, 710000, 800000, 900000, 1000000};

}  // namespace

std::optional<double> fullLoadEfficiency(std::string_view motorClass, int poles, double rated_w,
                                         double mains_hz) {
  if (rated_w < 750 - 1e-6) return std::nullopt;
  if (const Table* t = tableOf(motorClass, poles, mains_hz)) return straight(*t, ratingIn(*t, rated_w)) / 100;
  if (const Coefficients* k = coefficientsOf(motorClass, poles, mains_hz)) {
    const double lg = std::log10(ratingInRange(rated_w));
    return (((k->a * lg + k->b) * lg + k->c) * lg + k->d) / 100;
  }
  return std::nullopt;
}

void addFullLoadLine(Working& working, std::string_view motorClass, int poles, double rated_w,
                     double mains_hz) {
  const auto full = fullLoadEfficiency(motorClass, poles, rated_w, mains_hz);
  if (!full) return;
  if (const Table* t = tableOf(motorClass, poles, mains_hz)) {
    const std::size_t i = rowAt(*t, ratingIn(*t, rated_w));
    working.lines.push_back(
        {"η₁", "(y₀ + ln(P/P₀)/ln(P₁/P₀)·(y₁ − y₀))/100",
         fmt::format("({1:.12g} + ln({0:.12g}/{2:.12g})/ln({4:.12g}/{2:.12g})·({3:.12g} − {1:.12g}))/100",
                     ratingIn(*t, rated_w), t->percent[i], t->at_kw[i], t->percent[i + 1], t->at_kw[i + 1]),
         *full, "",
         fmt::format("table of IEC 60034-30-1, {}, {} poles, {:g} Hz, P in kW; recalled, to be checked",
                     motorClass, poles, mains_hz)});
  } else if (const Coefficients* k = coefficientsOf(motorClass, poles, mains_hz)) {
    working.lines.push_back(
        {"η₁", "(A·lg³P + B·lg²P + C·lg P + D)/100",
         fmt::format("({1}·lg({0:.12g})³ + ({2})·lg({0:.12g})² + {3}·lg({0:.12g}) + {4})/100",
                     ratingInRange(rated_w), k->a, k->b, k->c, k->d),
         *full, "",
         fmt::format("IEC 60034-30-1:2014, {}, {} poles, {:g} Hz, P in kW{}", motorClass, poles, mains_hz,
                     rated_w > 200e3 ? "; above 200 kW as at 200 kW" : "")});
  }
}

int polesFor(double speed_perS, double mains_hz) {
  // An induction motor runs a little under the synchronous speed, that of the mains over its pairs of poles.
  const int pairs = static_cast<int>(std::floor(mains_hz / std::max(speed_perS, 0.1) + 1e-9));
  return 2 * std::max(pairs, 1);
}

double partLoadEfficiency(double full, double load) {
  const double losses = (1 / full - 1) * (0.4 + 0.6 * load * load);
  return load <= 0 ? 0.0 : load / (load + losses);
}

std::span<const double> motorRatings() { return ratings; }

std::optional<double> ratingFor(double shaft_w) {
  for (const double r : ratings)
    if (shaft_w <= r) return r;
  return std::nullopt;
}

}  // namespace conduit::pump
