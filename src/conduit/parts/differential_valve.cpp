#include "parts/differential_valve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "parts/flange.h"
#include "parts/seat.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::differentialvalve {
namespace {

using seat::bore, seat::lossK;
constexpr Key<PressureDrop> difference{"difference"};
// Where the difference is kept: a controller in the flow pipe, one in the return pipe, an overflow between
// both.
constexpr std::string_view places[] = {"outlet over a point", "point over its inlet", "across itself"};
constexpr std::string_view keepsKey = "keeps", pointKey = "other place";
bool elsewhere(const Values& v) {
  const auto* word = v.get<std::string>(keepsKey);
  return !word || *word != "across itself";
}

const Field fields[] = {
    assume(adjusts(releasable(
               need(field(difference, 0, 1e8, "differential pressure set point, referred to one height")))),
           "0.5 bar"),
    assume(
        inSight(choice(keepsKey, places,
                       "controlled difference: the valve closes as it rises, or opens if across the valve")),
        "across itself"),
    onlyWhen(need(nameOf(pointKey, "point", "reference point")), elsewhere),
    releasable(byDefault(field(lossK, 0, 1e6, "K wide open, on v²/2g in its bore"), 4.0)),
    field(bore, 1e-4, 20, "bore the K refers to; default: the narrower pipe's"),
    limitField(LimitId::flowLeast),
    limitField(LimitId::flowMost),
    byDefault(limitField(LimitId::bodyVelocityMost), 6.0),
    limitField(LimitId::ratingMost),
    flange::classField(),
    flange::materialField(),
    waivedField(),
    stockItem(),
    text("note", "free text"),
};

/// An overflow valve opens when the difference across itself exceeds its set one, and takes that until it is
/// wide open; nothing passes before, and nothing backward.
class OverflowLaw final : public Law {
 public:
  OverflowLaw(double resistance_s2m5, double start_m3s, double set_m)
      : loss_(resistance_s2m5, 2.0), start_(start_m3s), set_(set_m) {}
  Loss at(double q, double&) const override {
    const Loss open = loss_.at(q), kept{set_ + PowerLoss::leastSlope_sm2 * q, PowerLoss::leastSlope_sm2};
    return open.drop_m > kept.drop_m ? open : kept;
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<OverflowLaw>(*this); }
  double startFlow_m3s() const override { return start_; }
  bool barsBackflow() const override { return true; }
  bool resists(bool) const override { return loss_.r > 0.0; }

 private:
  PowerLoss loss_;
  double start_, set_;
};

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  const seat::Seated seated = seat::seated(values, fields, setting, ends);
  prepared.missing.insert(prepared.missing.end(), seated.missing.begin(), seated.missing.end());
  if (!prepared.missing.empty()) return prepared;
  const double h = setting.medium.columnOf(get(values, difference, setting.medium)->si());
  const std::string keeps = choiceOf(values, fields[1]);
  Branch branch{.from = 0, .to = 1};
  const auto law = [&](Hold hold) {
    return std::make_unique<HoldingLaw>(seated.resistance_s2m5, seated.start_m3s, hold);
  };
  if (keeps == places[0]) {  // H_out <= H_point + h
    branch.law = law({false, h});
    branch.over = seat::named(values, pointKey);
  } else if (keeps == places[1]) {  // H_point − H_in <= h, so H_in >= H_point − h
    branch.law = law({true, -h});
    branch.over = seat::named(values, pointKey);
  } else {
    branch.law = std::make_unique<OverflowLaw>(seated.resistance_s2m5, seated.start_m3s, h);
  }
  prepared.branches.push_back(std::move(branch));
  return prepared;
}

std::string stateWord(const Reading& r) {
  const std::string word = seat::stateWord(r);
  if (elsewhere(*r.values) || word != "wide open") return word;
  const auto dp = outcome::pressureLoss(r);  // the law itself says whether it still throttles
  return dp && *dp > get(*r.values, difference, r.setting->medium)->si() + 1.0 ? word : "acting";
}
std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), dp = outcome::pressureLoss(r);
  if (!q || !dp) return "Flow not determined.";
  const std::string state = stateWord(r), set = withUnit(get(*r.values, difference, r.setting->medium)->si(),
                                                         Measure::pressureDrop, units, 3);
  const std::string where =
      elsewhere(*r.values) ? (choiceOf(*r.values, fields[1]) == places[0]
                                  ? fmt::format("between its outlet and {}", seat::named(*r.values, pointKey))
                                  : fmt::format("between {} and its inlet", seat::named(*r.values, pointKey)))
                           : "across the valve";
  if (state == "shut") return fmt::format("Shut: {} {} is held without flow.", set, where);
  if (state == "acting")
    return fmt::format("Controlling: holds {} {}, passes {}, pressure drop {}.", set, where,
                       withUnit(*q, Measure::volumeFlow, units, 3),
                       withUnit(*dp, Measure::pressureDrop, units, 3));
  return fmt::format("Wide open: passes {}, pressure drop {}.", withUnit(*q, Measure::volumeFlow, units, 3),
                     withUnit(*dp, Measure::pressureDrop, units, 3));
}

constexpr std::string_view labels[] = {"pressure loss"};

}  // namespace

const Part part{
    .key = "differential valve",
    .plural = "Differential pressure valves",
    .prefix = "V",
    .letter = 'Y',
    .group = Group::restrain,
    .ends = Ends::two,
    .symbol = "M -10 -6 L -10 6 L 10 -6 L 10 6 Z M 0 0 L 0 -8 M -6 -8 L 6 -8 L 0 -15 Z",
    .fields = fields,
    .outcomes = seat::outcomes(),
    .labels = labels,
    .prepare = prepare,
    .story = story,
    .stateWord = stateWord,
};

}  // namespace conduit::differentialvalve
