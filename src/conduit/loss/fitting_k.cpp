#include "loss/fitting_k.h"

#include <cmath>

#include "quantity/quantity.h"

namespace conduit::fittingk {
namespace {

double radians(double degrees) { return degrees * pi / 180; }

}  // namespace

double twoK(double kInfinite, double bore_m) { return kInfinite * (1 + 0.0254 / bore_m); }
double threeK(double ki, double kd_mm03, double bore_m) {
  return ki * (1 + kd_mm03 / std::pow(bore_m * 1000, 0.3));
}

double suddenExpansion(double beta) { return (1 - beta * beta) * (1 - beta * beta); }
double suddenContraction(double beta) { return 0.5 * (1 - beta * beta); }
double coneExpansion(double beta, double angle) {
  return angle <= 45 ? 2.6 * std::sin(radians(angle) / 2) * suddenExpansion(beta) : suddenExpansion(beta);
}
double coneContraction(double beta, double angle) {
  const double half = std::sin(radians(angle) / 2);
  return angle <= 45 ? 0.8 * half * (1 - beta * beta) : 0.5 * std::sqrt(half) * (1 - beta * beta);
}

double joiningBranch(const Tee& t, double q) {
  const double c = std::cos(radians(t.angle_deg)) / t.phi;
  return -0.92 * (1 - q) * (1 - q) -
         q * q * ((1.2 - std::sqrt(t.fillet)) * (c - 1) + 0.8 * (1 - 1 / (t.phi * t.phi)) - (1 - t.phi) * c) +
         (2 - t.phi) * q * (1 - q);
}
double joiningRun(const Tee& t, double q) {
  const double c = std::cos(radians(t.angle_deg)) / t.phi;
  return 0.03 * (1 - q) * (1 - q) -
         q * q * (1 + (1.62 - std::sqrt(t.fillet)) * (c - 1) - 0.38 * (1 - t.phi)) +
         (2 - t.phi) * q * (1 - q);
}
double dividingBranch(const Tee& t, double q) {
  const double turn = std::tan(radians(t.angle_deg) / 2);
  return 0.95 * (1 - q) * (1 - q) +
         q * q * (1.3 * turn - 0.3 + (0.4 - 0.1 * t.phi) / (t.phi * t.phi)) *
             (1 - 0.9 * std::sqrt(t.fillet / t.phi)) +
         0.4 * q * (1 - q) * (1 + t.phi) / t.phi * turn;
}
double dividingRun(const Tee&, double q) {
  return 0.03 * (1 - q) * (1 - q) + 0.35 * q * q - 0.2 * q * (1 - q);
}

}  // namespace conduit::fittingk
