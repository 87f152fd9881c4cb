#include "parts/pipe/laws.h"

#include <algorithm>
#include <cmath>

namespace conduit::pipe {
namespace {

/// What fittings and changes of bore lose: (K + k₁/Re) v²/2g, K by the direction of the flow.
class LocalLoss {
 public:
  LocalLoss(const Line& line, double viscosity_m2s, double gravity_ms2)
      : forward_((line.k + line.forwardK) * factor(line, gravity_ms2), 2.0),
        backward_((line.k + line.backwardK) * factor(line, gravity_ms2), 2.0),
        linear_(line.perRe * factor(line, gravity_ms2) * line.section.area_m2 * viscosity_m2s / line.bore_m) {
  }
  [[nodiscard]] static double factor(const Line& line, double gravity_ms2) {
    return 1.0 / (2 * gravity_ms2 * line.section.area_m2 * line.section.area_m2);
  }
  [[nodiscard]] Loss at(double q) const {
    Loss loss = (q < 0 ? backward_ : forward_).at(q);
    loss.drop_m += linear_ * q, loss.slope_sm2 += linear_;
    return loss;
  }
  [[nodiscard]] bool resists(bool backward) const {
    return linear_ > 0.0 || (backward ? backward_ : forward_).r > 0.0;
  }
  [[nodiscard]] bool none() const { return forward_.r == 0.0 && backward_.r == 0.0 && linear_ == 0.0; }

 private:
  PowerLoss forward_, backward_;
  double linear_;  // m/(m3/s): K = k1/Re has a loss in proportion to the flow
};

/// Darcy–Weisbach: h = (f L/D + ΣK) v²/2g with the friction factor of friction.h; slope exact. A pipe has
/// length, so that in creeping flow the friction gives the slope and K needs no law of its own. Small: the
/// solver walks over many.
class DarcyLaw final : public Law {
 public:
  DarcyLaw(const Line& line, double viscosity_m2s, double gravity_ms2)
      : perFlow2_(LocalLoss::factor(line, gravity_ms2)),
        bores_(line.length_m / line.bore_m),
        k_(line.k + line.forwardK),
        reynoldsPerFlow_(line.section.phi * line.bore_m / (line.section.area_m2 * viscosity_m2s)),
        relative_(line.roughness_m / line.bore_m),
        start_(line.section.area_m2) {}

  Loss at(double q, double& memory) const override {
    const double size = std::abs(q), re = reynoldsPerFlow_ * size, perFlow = perFlow2_ * size;
    if (re <= friction::laminarEnd_re) {  // linear friction, no division by the flow
      const double laminar = 64.0 / reynoldsPerFlow_ * bores_ * perFlow2_;
      return {(laminar + k_ * perFlow) * q, std::max(laminar + 2 * k_ * perFlow, PowerLoss::leastSlope_sm2)};
    }
    const friction::Factor f = friction::factor(re, relative_, memory);
    const double whole = f.f * bores_ + k_;
    return {whole * perFlow * q,
            std::max((2 * whole + f.f * bores_ * f.logSlope) * perFlow, PowerLoss::leastSlope_sm2)};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<DarcyLaw>(*this); }
  double startFlow_m3s() const override { return start_; }  // 1 m/s

 private:
  double perFlow2_, bores_, k_, reynoldsPerFlow_, relative_, start_;
};

/// The same with what a K alone does not say: other losses backward than forward, losses by Reynolds number,
/// no length.
class UnevenDarcyLaw final : public Law {
 public:
  UnevenDarcyLaw(const Line& line, double viscosity_m2s, double gravity_ms2)
      : friction_(frictionAlone(line), viscosity_m2s, gravity_ms2),
        local_(line, viscosity_m2s, gravity_ms2),
        length_(line.length_m > 0) {}

  Loss at(double q, double& memory) const override {
    const Loss local = local_.at(q);
    if (!length_) return local;
    const Loss friction = friction_.at(q, memory);
    return {friction.drop_m + local.drop_m, friction.slope_sm2 + local.slope_sm2};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<UnevenDarcyLaw>(*this); }
  double startFlow_m3s() const override { return friction_.startFlow_m3s(); }
  bool resists(bool backward) const override { return length_ || local_.resists(backward); }
  bool lossless() const override { return !length_ && local_.none(); }

 private:
  static Line frictionAlone(Line line) {
    line.k = line.forwardK = line.backwardK = line.perRe = 0.0;
    return line;
  }
  DarcyLaw friction_;
  LocalLoss local_;
  bool length_;
};

/// Hazen–Williams or Manning for the straight pipe, K for the fittings.
class PowerPipeLaw final : public Law {
 public:
  PowerPipeLaw(const Line& line, double resistance, double exponent, double viscosity_m2s, double gravity_ms2)
      : pipe_(resistance, exponent), local_(line, viscosity_m2s, gravity_ms2), start_(line.section.area_m2) {}
  Loss at(double q, double&) const override {
    const Loss p = pipe_.at(q);
    if (local_.none()) return p;
    const Loss k = local_.at(q);
    return {p.drop_m + k.drop_m, p.slope_sm2 + k.slope_sm2};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<PowerPipeLaw>(*this); }
  double startFlow_m3s() const override { return start_; }
  bool resists(bool backward) const override { return pipe_.r > 0.0 || local_.resists(backward); }
  bool lossless() const override { return pipe_.r == 0.0 && local_.none(); }

 private:
  PowerLoss pipe_;
  LocalLoss local_;
  double start_;
};

}  // namespace

double asRound(const Line& line) { return pi / 4 * line.bore_m * line.bore_m / line.section.area_m2; }
double hazenWilliamsResistance(const Line& line, const friction::HazenWilliams& law) {
  return friction::resistance(law, line.length_m, line.bore_m, line.c) *
         std::pow(asRound(line), law.flowExponent);
}

std::unique_ptr<const Law> lawOf(const Line& line, const Setting& setting) {
  const double nu = setting.viscosity_m2s, g = setting.medium.gravity_ms2;
  if (setting.manning)
    return std::make_unique<PowerPipeLaw>(
        line, friction::manningResistance(line.n, line.length_m, line.section), 2.0, nu, g);
  if (setting.hazenWilliams)
    return std::make_unique<PowerPipeLaw>(line, hazenWilliamsResistance(line, setting.hazenWilliamsLaw),
                                          setting.hazenWilliamsLaw.flowExponent, nu, g);
  if (line.length_m > 0 && line.forwardK == line.backwardK && line.perRe == 0.0)
    return std::make_unique<DarcyLaw>(line, nu, g);
  return std::make_unique<UnevenDarcyLaw>(line, nu, g);
}

}  // namespace conduit::pipe
