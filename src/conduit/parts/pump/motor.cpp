#include "parts/pump/motor.h"

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
constexpr double ratings[] = {750,    1100,   1500,   2200,   3000,   4000,   5500,  7500,  11000,
                              15000,  18500,  22000,  30000,  37000,  45000,  55000, 75000, 90000,
                              110000, 132000, 160000, 200000, 250000, 315000, 355000};

}  // namespace

std::optional<double> fullLoadEfficiency(std::string_view motorClass, int poles, double rated_w) {
  if (rated_w < 750 - 1e-6) return std::nullopt;
  const double lg = std::log10(std::min(rated_w, 200e3) / 1000);
  for (const Coefficients& k : coefficients)
    if (k.motorClass == motorClass && k.poles == poles)
      return (((k.a * lg + k.b) * lg + k.c) * lg + k.d) / 100;
  return std::nullopt;
}

int polesFor(double speed_perS) {
  // An induction motor runs a little under the synchronous speed, 50 Hz over its pairs of poles.
  const int pairs = static_cast<int>(std::floor(50.0 / std::max(speed_perS, 0.1) + 1e-9));
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
