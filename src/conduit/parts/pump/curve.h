// The curve of a pump as rows, as a head at any flow and speed, and as the laws the solver walks.
#pragma once

#include <algorithm>
#include <cmath>
#include <limits>

#include "curve/monotone.h"
#include "parts/law.h"

namespace conduit::pump {

struct CurveRow {
  double flow_m3s, head_m;
  std::optional<double> efficiency, npsh_m;
};

/// The family of sample curves of this project by specific speed nq [1/min, m³/s, m]: H/H* = h0 − (h0 − 1)
/// q^m and P/P* = p0 + (1 − p0 − b) q + b q², b = p0 − (h0 − 1) m, so that the best efficiency stands at q
/// = 1. Set to the usual handbook pictures (Stepanoff 1957, Gülich 2010), about 15 %; linear in ln nq between
/// rows.
struct Shape {
  double h0, m, p0;
};
[[nodiscard]] Shape shapeAt(double nq);

/// ANSI/HI 9.6.7-2010 (ISO/TR 17766): B = 16.5 ν^0.5 H^0.0625/(Q^0.375 n^0.25), ν in mm²/s, H m per stage, Q
/// m³/h, n 1/min, of the water's best point. 1 < B < 40: CQ = 2.71^(−0.165 (lg B)^3.15), CH = 1 − (1 −
/// CQ)(Q/Q_best)^0.75, Cη = B^(−0.0547 B^0.69).
struct Viscous {
  double b = 0, cq = 1, ceta = 1;
};
/// Cη where B ≤ 1: [1 − (1 − η)(ν/ν_w)^0.07]/η, η of water at its best point, ν_w = 1 mm²/s (ANSI/HI
/// 9.6.7-2010; recalled, to be checked). CQ and CH are then 1.
[[nodiscard]] double slightlyViscous(double efficiency, double viscosity_m2s);
[[nodiscard]] Viscous viscousFactors(double viscosity_m2s, double best_m3s, double head_m, double speed_perS);

/// The curve measured at one speed or with one impeller, as a share of those of the main curve.
struct MeasuredAt {
  double ratio = 1.0;
  std::vector<CurveRow> rows;
};
/// The curve at `ratio` of the main one's speed (or impeller), from curves measured at several, by rising
/// ratio; these powers of it scale flow, head and NPSH required (affinity: 1, 2 and 2). Between two curves
/// each is scaled to the ratio and points at like shares of their last flow are joined straight; beyond them
/// the nearest is scaled.
[[nodiscard]] std::vector<CurveRow> between(const std::vector<MeasuredAt>& curves, double ratio,
                                            double ofFlow, double ofHead, double ofNpsh);

/// Flow of the row of greatest efficiency.
[[nodiscard]] std::optional<double> bestOf(const std::vector<CurveRow>& rows);

/// H = H0 − a Q^b through three points of which the first is at no flow: b = ln((H0−H2)/(H0−H1))/ln(Q2/Q1), a
/// = (H0−H1)/Q1^b.
struct ThreePoint {
  double h0, a, b;
};
[[nodiscard]] std::optional<ThreePoint> threePoint(const std::vector<CurveRow>& rows);

/// Affinity: flow with the speed, head with its square. Head at flow q and speed ratio s, and its slope.
class HeadCurve {
 public:
  HeadCurve(const std::vector<CurveRow>& rows, double s) : s_(s), last_(rows.back().flow_m3s * s) {
    if (const auto three = threePoint(rows)) {
      h0_ = s * s * three->h0;
      loss_ = PowerLoss(three->a * std::pow(s, 2 - three->b), three->b);
    } else {
      std::vector<CurvePoint> points;
      for (const CurveRow& r : rows) points.push_back({r.flow_m3s * s, r.head_m * s * s});
      table_.emplace(std::move(points));
      h0_ = table_->at(0.0).value;
      // A curve may be flat or rise near no flow; the solver still wants a falling line to step along.
      leastFall_ = 0.02 * std::max(h0_, 1e-3) / last_;
    }
  }
  [[nodiscard]] CurveValue at(double q) const {
    if (!table_) {
      const Loss fall = loss_.at(q);
      return {h0_ - fall.drop_m, -fall.slope_sm2};
    }
    if (q < 0) {  // mirrored about the head at no flow
      const CurveValue m = table_->at(-q);
      return {2 * h0_ - m.value, std::min(m.slope, -leastFall_)};
    }
    const CurveValue v = table_->at(q);
    return {v.value, std::min(v.slope, -leastFall_)};
  }
  [[nodiscard]] double shutOff() const { return h0_; }
  /// Whether it gives more at some flow than at rest.
  [[nodiscard]] bool rises() const {
    if (!table_) return false;
    for (int i = 1; i < 40; ++i)
      if (table_->at(last_ * i / 40).value > h0_ * (1 + 1e-9)) return true;
    return false;
  }
  [[nodiscard]] double last() const { return last_; }

 private:
  double s_, last_, h0_ = 0, leastFall_ = 0;
  PowerLoss loss_;
  std::optional<MonotoneCurve> table_;
};

/// A curve with its check valve, and what its speed is held for.
class PumpLaw final : public Law {
 public:
  PumpLaw(HeadCurve curve, double start_m3s, bool checkValve, std::optional<Hold> hold, double most_m3s,
          bool fromRest)
      : curve_(std::move(curve)),
        start_(start_m3s),
        checkValve_(checkValve),
        hold_(hold),
        most_(most_m3s),
        mayNotStart_(fromRest && curve_.rises()) {}
  Loss at(double q, double&) const override {
    const CurveValue v = curve_.at(q);
    return {-v.value, std::max(-v.slope, PowerLoss::leastSlope_sm2)};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<PumpLaw>(*this); }
  double startFlow_m3s() const override { return start_; }
  bool barsBackflow() const override { return checkValve_ || hold_; }
  std::optional<Hold> hold() const override { return hold_; }
  double flowMost_m3s() const override { return most_; }
  bool mayNotStart() const override { return mayNotStart_; }

 private:
  HeadCurve curve_;
  double start_;
  bool checkValve_;
  std::optional<Hold> hold_;
  double most_;
  bool mayNotStart_;
};

/// One head whatever flows, forward only.
class FixedHeadLaw final : public Law {
 public:
  explicit FixedHeadLaw(double head_m) : head_(head_m) {}
  Loss at(double q, double&) const override {
    return {-head_ + PowerLoss::leastSlope_sm2 * q, PowerLoss::leastSlope_sm2};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<FixedHeadLaw>(*this); }
  double startFlow_m3s() const override { return 0.01; }
  bool barsBackflow() const override { return true; }
  bool resists(bool) const override { return false; }

 private:
  double head_;
};

/// H = P/(ρ g Q), but no more than its greatest head when little flows.
class FixedPowerLaw final : public Law {
 public:
  FixedPowerLaw(double power_w, double weight_nm3, double most_m)
      : perFlow_(power_w / weight_nm3), most_(most_m) {}
  Loss at(double q, double&) const override {
    if (q * most_ <= perFlow_) return {-most_ + PowerLoss::leastSlope_sm2 * q, PowerLoss::leastSlope_sm2};
    return {-perFlow_ / q + PowerLoss::leastSlope_sm2 * q,
            std::max(perFlow_ / (q * q), PowerLoss::leastSlope_sm2)};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<FixedPowerLaw>(*this); }
  double startFlow_m3s() const override { return std::max(perFlow_ / std::min(most_, 30.0), 1e-6); }
  bool barsBackflow() const override { return true; }
  bool resists(bool) const override { return false; }

 private:
  double perFlow_, most_;
};

/// Flow of best efficiency at speed ratio s: the top of a parabola through the best row and its neighbours.
[[nodiscard]] std::optional<double> bestFlow(const std::vector<CurveRow>& rows, double s);

}  // namespace conduit::pump
