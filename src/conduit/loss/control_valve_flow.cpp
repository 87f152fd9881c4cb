#include "loss/control_valve_flow.h"

#include <algorithm>
#include <cmath>

namespace conduit::valveflow {
namespace {

constexpr double n2 = 0.0016, n4 = 0.0707, n32 = 140.0;
double perArea(double kv, double valve_m) { return kv / (valve_m * valve_m * 1e6); }
double fourth(double x) { return x * x * x * x; }

}  // namespace

double criticalRatio(double vapour_pa, double critical_pa) {
  return 0.96 - 0.28 * std::sqrt(vapour_pa / critical_pa);
}

double pipingFactor(double kv, double d, double before, double after) {
  const double a = 1 - d * d / (before * before), b = 1 - d * d / (after * after), c = perArea(kv, d);
  const double sum = 0.5 * a * a + b * b;
  return 1 / std::sqrt(1 + sum / n2 * c * c);
}

double recoveryWithPiping(double fl, double kv, double d, double before) {
  const double a = 1 - d * d / (before * before), c = perArea(kv, d);
  return fl / std::sqrt(1 + fl * fl / n2 * (0.5 * a * a + 1 - fourth(d / before)) * c * c);
}

double reynolds(double flow_m3s, double viscosity_m2s, double kv, double d, double fl, double fd) {
  const double c = perArea(kv, d);
  return n4 * fd * flow_m3s * 3600 / (viscosity_m2s * std::sqrt(kv * fl)) *
         std::pow(fl * fl * c * c / n2 + 1, 0.25);
}

ViscousFactor viscousFactor(double re, double kv, double d, double fl) {
  const double c = perArea(kv, d), n = c >= 0.016 * n18 ? n2 / (c * c) : 1 + n32 * std::pow(c, 2.0 / 3);
  const double laminar = 0.026 / fl * std::sqrt(n * re);
  const double perDecade = 0.33 * std::sqrt(fl) / std::pow(n, 0.25),
               transition = re < 10 ? 1.0 : 1 + perDecade * std::log10(re / 10000);
  if (laminar < transition && laminar < 1) return {laminar, 0.5};
  if (transition < 1) return {transition, perDecade / (2.302585092994046 * transition)};
  return {};
}

}  // namespace conduit::valveflow
