#include "parts/own_loss.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "curve/monotone.h"
#include "parts/flange.h"
#include "parts/seat.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::ownloss {
namespace {

using seat::bore, seat::lossK;
constexpr Key<FlowCoefficient> kv{"Kv"};
constexpr Key<VolumeFlow> ratedFlow{"rated flow"};
constexpr Key<PressureDrop> ratedDrop{"rated drop"}, fixedDrop{"drop"};
constexpr Key<Number> exponent{"exponent"};
constexpr std::string_view laws[] = {"K", "Kv", "power law", "table", "fixed drop"};
constexpr std::string_view lawKey = "law", tableKey = "table";
constexpr Column columns[] = {{"flow", Measure::volumeFlow, true, 0, 1e4},
                              {"drop", Measure::pressureDrop, true, 0, 1e9}};

std::string law(const Values& v) {
  const auto* word = v.get<std::string>(lawKey);
  return word ? *word : std::string(laws[0]);
}
bool byK(const Values& v) { return law(v) == laws[0]; }
bool byKv(const Values& v) { return law(v) == laws[1]; }
bool byPower(const Values& v) { return law(v) == laws[2]; }
bool byTable(const Values& v) { return law(v) == laws[3]; }
bool byDrop(const Values& v) { return law(v) == laws[4]; }

const Field fields[] = {
    inSight(choice(lawKey, laws, "loss law")),
    assume(onlyWhen(releasable(need(field(lossK, 0, 1e9, "K on v²/2g in its bore"))), byK), "1"),
    onlyWhen(field(bore, 1e-4, 20, "bore the K refers to; default: the narrower pipe's"), byK),
    onlyWhen(releasable(need(field(kv, 1e-6, 1e7, "flow of water in m³/h at 1 bar drop"))), byKv),
    onlyWhen(need(field(ratedFlow, 1e-9, 1e4, "flow of the known drop")), byPower),
    onlyWhen(releasable(need(field(ratedDrop, 0, 1e9, "drop at that flow"))), byPower),
    onlyWhen(byDefault(field(exponent, 1, 3, "exponent of the flow"), 2.0), byPower),
    onlyWhen(Field{.key = tableKey,
                   .kind = FieldKind::table,
                   .needed = true,
                   .help = "pressure drop against flow, both increasing, from zero flow",
                   .columns = columns},
             byTable),
    onlyWhen(
        releasable(need(field(fixedDrop, 0, 1e9, "constant drop for any forward flow; no flow below it"))),
        byDrop),
    limitField(LimitId::flowLeast),
    limitField(LimitId::flowMost),
    limitField(LimitId::ratingMost),
    flange::classField(),
    flange::materialField(),
    waivedField(),
    stockItem(),
    text("note", "free text"),
};

/// Drop by a monotone cubic through the given points and the origin, the same backward; beyond the last point
/// by the straight line of the end slope.
class TableLaw final : public Law {
 public:
  TableLaw(std::vector<CurvePoint> points, double start_m3s) : curve_(std::move(points)), start_(start_m3s) {}
  Loss at(double q, double&) const override {
    // Where the table is level its loss still has a slope, so that a flow beyond it is a number.
    const CurveValue v = curve_.at(std::abs(q));
    const double drop = v.value + PowerLoss::leastSlope_sm2 * std::abs(q);
    return {q < 0 ? -drop : drop, v.slope + PowerLoss::leastSlope_sm2};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<TableLaw>(*this); }
  double startFlow_m3s() const override { return start_; }
  bool resists(bool) const override { return curve_.at(1e30).slope > 0.0; }  // beyond its last point

 private:
  MonotoneCurve curve_;
  double start_;
};

/// A drop that does not depend on the flow. Nothing passes until the heads at its ends differ by it, and
/// nothing backward.
class FixedDropLaw final : public Law {
 public:
  FixedDropLaw(double drop_m, double start_m3s) : drop_(drop_m), start_(start_m3s) {}
  Loss at(double q, double&) const override {
    return {drop_ + PowerLoss::leastSlope_sm2 * q, PowerLoss::leastSlope_sm2};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<FixedDropLaw>(*this); }
  double startFlow_m3s() const override { return start_; }
  bool barsBackflow() const override { return true; }
  bool resists(bool) const override { return false; }

 private:
  double drop_, start_;
};

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  if (!prepared.missing.empty()) return prepared;
  const double g = setting.medium.gravity_ms2;
  std::unique_ptr<const Law> made;
  if (byK(values)) {
    const seat::Seated seated = seat::seated(values, fields, setting, ends);
    prepared.missing = seated.missing;
    made = std::make_unique<PowerLaw>(seated.resistance_s2m5, 2.0, seated.start_m3s);
  } else if (byKv(values)) {
    const double k = get(values, kv, setting.medium)->si();
    made = std::make_unique<PowerLaw>(kvResistance(k, g), 2.0, k / 3600);
  } else if (byPower(values)) {
    const double q = get(values, ratedFlow, setting.medium)->si(),
                 n = getOrFallback(values, fields, exponent, setting.medium)->si();
    made = std::make_unique<PowerLaw>(
        setting.medium.columnOf(get(values, ratedDrop, setting.medium)->si()) / std::pow(q, n), n, q);
  } else if (byTable(values)) {
    std::vector<CurvePoint> points;
    std::size_t number = 0;
    for (const auto& row : *values.get<Rows>(tableKey)) {
      ++number;
      if (row.size() < 2 || !row[0] || !row[1]) continue;
      const CurvePoint p{resolve(*row[0], Measure::volumeFlow, setting.medium),
                         setting.medium.columnOf(resolve(*row[1], Measure::pressureDrop, setting.medium))};
      if (points.empty() && p.x > 0) points.push_back({0, 0});
      if (p.x == 0 && p.y > 0)
        prepared.problem =
            Problem{{"", std::string(tableKey)}, "a drop at zero flow is a fixed drop: choose that law", {}};
      if (!points.empty() && (p.x <= points.back().x || p.y < points.back().y))
        prepared.problem =
            Problem{{"", std::string(tableKey)},
                    fmt::format("flow and drop must increase down the table: see row {}", number),
                    {}};
      points.push_back(p);
    }
    if (points.size() < 2) prepared.missing.push_back({std::string(tableKey), "two points in its table"});
    if (prepared.problem || !prepared.missing.empty()) return prepared;
    const double start = 0.7 * points.back().x;
    made = std::make_unique<TableLaw>(std::move(points), start);
  } else {
    const seat::Seated seated = seat::seated(Values(), fields, setting, ends);
    made = std::make_unique<FixedDropLaw>(
        setting.medium.columnOf(get(values, fixedDrop, setting.medium)->si()), seated.start_m3s);
  }
  prepared.branches.push_back({0, 1, std::move(made)});
  return prepared;
}

std::string stateWord(const Reading& r) {
  return !r.branches.empty() && r.branches[0].state == BranchState::shut ? "shut" : "open";
}
std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), dp = outcome::pressureLoss(r);
  if (!q || !dp) return "Flow not determined.";
  if (stateWord(r) == "shut") return "Shut: the head difference is below its fixed drop.";
  return fmt::format("Pressure drop {} at {} (law: {}).",
                     withUnit(std::abs(*dp), Measure::pressureDrop, units, 3),
                     withUnit(std::abs(*q), Measure::volumeFlow, units, 3), law(*r.values));
}

void check(const Reading& r, Checks& checks) {
  const auto q = outcome::flow(r);
  const Rows* rows = byTable(*r.values) ? r.values->get<Rows>(tableKey) : nullptr;
  if (!q || !rows || rows->empty() || !rows->back()[0]) return;
  const double last = resolve(*rows->back()[0], Measure::volumeFlow, r.setting->medium);
  Check& c = checks.hold(CheckId::endOfTable, std::abs(*q), {}, {last, LimitFrom::own}, Severity::near);
  if (checks.told(c))
    c.what = fmt::format("{} passes {}, beyond the end of its table at {}", r.name,
                         withUnit(c.value, Measure::volumeFlow, checks.units(), 3),
                         withUnit(last, Measure::volumeFlow, checks.units(), 3));
}

constexpr std::string_view labels[] = {"pressure loss"};

}  // namespace

const Part part{
    .key = "own loss",
    .plural = "User-defined losses",
    .prefix = "X",
    .letter = 'W',
    .group = Group::inLine,
    .ends = Ends::two,
    .symbol = "M -10 -7 L 10 -7 L 10 7 L -10 7 Z M -6 3 L -2 3 L 2 -3 L 6 -3",
    .fields = fields,
    .outcomes = seat::outcomes(),
    .labels = labels,
    .prepare = prepare,
    .story = story,
    .check = check,
    .stateWord = stateWord,
};

}  // namespace conduit::ownloss
