// The face of a loss law: head lost against flow, value and slope together.
#pragma once

#include <limits>
#include <memory>
#include <optional>

namespace conduit {

/// What a law has not said: found at once where debugging, as no sum with it is a number.
#ifdef NDEBUG
inline constexpr double unsaid = 0.0;
#else
inline constexpr double unsaid = std::numeric_limits<double>::quiet_NaN();
#endif

/// Head lost from the branch's start to its end at a flow (negative for a lift), and its slope by the flow.
struct Loss {
  double drop_m = unsaid;
  double slope_sm2 = unsaid;  // d drop / d flow, m/(m3/s), > 0 everywhere
};

/// A head that a branch keeps by throttling (or a pump by its speed) for as long as it can; its law then says
/// the least it takes. Behind it: no more than this head there, more flow raises it. Before it: no less, more
/// flow lowers it.
struct Hold {
  bool before = false;
  double head_m = 0.0;  // counted from the point's height, or another point's head, where Branch::holdsAt or
                        // ::over says one
};

/// Flow cannot rise further once the liquid boils in the throat: Q = c √(H − base), H the head upstream,
/// m³/s.
struct Choke {
  double coefficient = 0.0, backward = 0.0;  // m³/s at 1 m of energy head, with the flow forward and backward
  double baseFrom_m = 0.0, baseTo_m = 0.0;   // likewise
};

/// A branch's law. Pure: the same flow gives the same loss. `memory` is a starting number that a law may keep
/// between calls to save time (0: none yet); it never changes the answer by more than rounding.
class Law {
 public:
  virtual ~Law() = default;
  [[nodiscard]] virtual Loss at(double flow_m3s, double& memory) const = 0;
  /// The same law somewhere else in memory: the solver lays them out in the order in which it walks.
  [[nodiscard]] virtual std::unique_ptr<const Law> copy() const = 0;
  /// A believable flow to begin from, m3/s, > 0.
  [[nodiscard]] virtual double startFlow_m3s() const = 0;
  /// True when nothing can pass from end to start; the branch shuts instead. Shut is true when the head lost
  /// would be no more than the loss at no flow.
  [[nodiscard]] virtual bool barsBackflow() const { return false; }
  /// What the branch keeps as long as it can (a reducing or sustaining valve, a pump on a controller).
  [[nodiscard]] virtual std::optional<Hold> hold() const { return std::nullopt; }
  /// The most it lets pass from start to end, m3/s, >= 0; beyond its law it then takes whatever head is left.
  [[nodiscard]] virtual double flowMost_m3s() const { return std::numeric_limits<double>::infinity(); }
  /// The flow at which it chokes.
  [[nodiscard]] virtual std::optional<Choke> choke() const { return std::nullopt; }
  /// True when it lifts more at some flow than at rest and begins at rest: against more than its head at rest
  /// it does not start.
  [[nodiscard]] virtual bool mayNotStart() const { return false; }
  /// False when its loss does not grow with a flow from start to end (from end to start where `backward`): it
  /// opposes none, however great.
  [[nodiscard]] virtual bool resists(bool /*backward*/) const { return true; }
  /// True when both ends always have one head.
  [[nodiscard]] virtual bool lossless() const { return false; }
};

/// h = r |Q|^n with the sign of Q. Such a law has no slope at Q = 0; below the flow at which it loses
/// `smallLoss_m` it is therefore h = Q (a + b Q²), which meets it there in value and slope. The difference is
/// never more than 0.074 · 1e-8 m for n = 2, far below the tolerance to which a network is balanced.
struct PowerLoss {
  static constexpr double smallLoss_m = 1e-8;
  /// Least slope that a law may have, so that a fitting of no resistance stays a number: 1e-7 m at 1 m3/s.
  static constexpr double leastSlope_sm2 = 1e-7;

  PowerLoss() = default;
  PowerLoss(double resistance, double exponent);
  [[nodiscard]] Loss at(double flow_m3s) const;

  double r = 0.0, n = 2.0;
  double lowFlow_m3s = 0.0, a = 0.0, b = 0.0;
};

/// Velocity head over flow squared: 1/(2 g A²), s2/m5.
[[nodiscard]] double velocityHeadFactor(double bore_m, double gravity_ms2);

/// Loss of a device with h = K v²/2g or Kv; one flow direction or both.
class QuadraticLaw final : public Law {
 public:
  QuadraticLaw(double resistance_s2m5, double startFlow_m3s, bool barsBackflow)
      : loss_(resistance_s2m5, 2.0), start_(startFlow_m3s), bars_(barsBackflow) {}
  [[nodiscard]] Loss at(double flow_m3s, double&) const override { return loss_.at(flow_m3s); }
  [[nodiscard]] std::unique_ptr<const Law> copy() const override {
    return std::make_unique<QuadraticLaw>(*this);
  }
  [[nodiscard]] double startFlow_m3s() const override { return start_; }
  [[nodiscard]] bool barsBackflow() const override { return bars_; }
  [[nodiscard]] bool resists(bool) const override { return loss_.r > 0.0; }
  [[nodiscard]] bool lossless() const override { return loss_.r == 0.0 && !bars_; }

 private:
  PowerLoss loss_;
  double start_;
  bool bars_;
};

/// h = r |Q|^n, both ways.
class PowerLaw final : public Law {
 public:
  PowerLaw(double resistance, double exponent, double startFlow_m3s)
      : loss_(resistance, exponent), start_(startFlow_m3s) {}
  [[nodiscard]] Loss at(double flow_m3s, double&) const override { return loss_.at(flow_m3s); }
  [[nodiscard]] std::unique_ptr<const Law> copy() const override { return std::make_unique<PowerLaw>(*this); }
  [[nodiscard]] double startFlow_m3s() const override { return start_; }
  [[nodiscard]] bool resists(bool) const override { return loss_.r > 0.0; }
  [[nodiscard]] bool lossless() const override { return loss_.r == 0.0; }

 private:
  PowerLoss loss_;
  double start_;
};

/// A valve wide open with h = K v²/2g or Kv, forward only, that keeps a head by throttling further.
class HoldingLaw final : public Law {
 public:
  HoldingLaw(double resistance_s2m5, double startFlow_m3s, Hold hold)
      : loss_(resistance_s2m5, 2.0), start_(startFlow_m3s), hold_(hold) {}
  [[nodiscard]] Loss at(double flow_m3s, double&) const override { return loss_.at(flow_m3s); }
  [[nodiscard]] std::unique_ptr<const Law> copy() const override {
    return std::make_unique<HoldingLaw>(*this);
  }
  [[nodiscard]] double startFlow_m3s() const override { return start_; }
  [[nodiscard]] bool barsBackflow() const override { return true; }
  [[nodiscard]] bool resists(bool) const override { return loss_.r > 0.0; }
  [[nodiscard]] std::optional<Hold> hold() const override { return hold_; }

 private:
  PowerLoss loss_;
  double start_;
  Hold hold_;
};

/// Drop with the definition of Kv (IEC 60534-1): Δp[bar] = (ρ/1000)(Q[m3/h]/Kv)², so h = 1e5·3600²/(1000 g
/// Kv²) Q², s2/m5.
[[nodiscard]] constexpr double kvResistance(double kv, double gravity_ms2) {
  return 1e5 * 3600.0 * 3600.0 / (1000.0 * gravity_ms2 * kv * kv);
}

}  // namespace conduit
