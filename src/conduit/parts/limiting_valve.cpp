#include "parts/limiting_valve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "parts/flange.h"
#include "parts/seat.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::limitingvalve {
namespace {

using seat::bore, seat::lossK;
constexpr Key<VolumeFlow> most{"flow at most"};

const Field fields[] = {
    adjusts(assume(releasable(need(field(most, 0, 1e4, "maximum flow set point"))), "10 L/s")),
    releasable(byDefault(field(lossK, 0, 1e6, "K wide open, on v²/2g in its bore"), 2.0)),
    field(bore, 1e-4, 20, "bore the K refers to; default: the narrower pipe's"),
    limitField(LimitId::flowLeast),
    byDefault(limitField(LimitId::bodyVelocityMost), 6.0),
    limitField(LimitId::ratingMost),
    flange::classField(),
    flange::materialField(),
    waivedField(),
    stockItem(),
    text("note", "free text"),
};

/// Wide open h = K v²/2g, both ways; forward no more than its set flow, at whatever drop.
class LimitingLaw final : public Law {
 public:
  LimitingLaw(double resistance_s2m5, double start_m3s, double most_m3s)
      : loss_(resistance_s2m5, 2.0), start_(start_m3s), most_(most_m3s) {}
  Loss at(double q, double&) const override { return loss_.at(q); }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<LimitingLaw>(*this); }
  double startFlow_m3s() const override { return start_; }
  double flowMost_m3s() const override { return most_; }
  bool resists(bool backward) const override { return !backward || loss_.r > 0.0; }

 private:
  PowerLoss loss_;
  double start_, most_;
};

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  const seat::Seated seated = seat::seated(values, fields, setting, ends);
  prepared.missing.insert(prepared.missing.end(), seated.missing.begin(), seated.missing.end());
  if (!prepared.missing.empty()) return prepared;
  const double limit = get(values, most, setting.medium)->si();
  prepared.branches.push_back(
      {0, 1,
       std::make_unique<LimitingLaw>(seated.resistance_s2m5,
                                     std::max(std::min(seated.start_m3s, limit), 1e-6), limit)});
  return prepared;
}

std::string stateWord(const Reading& r) {
  const std::string word = seat::stateWord(r);
  return word == "acting" ? "limiting" : word;
}
std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), dp = outcome::pressureLoss(r);
  if (!q) return "Flow not determined.";
  const std::string flow = withUnit(std::abs(*q), Measure::volumeFlow, units, 3);
  if (stateWord(r) == "limiting")
    return dp ? fmt::format("Limiting: flow held at {}, pressure drop {}.", flow,
                            withUnit(*dp, Measure::pressureDrop, units, 3))
              : "Limiting.";
  return fmt::format(
      "Wide open: passes {}{}.", flow,
      *q < 0 ? ", reverse flow"
             : fmt::format(", below its limit of {}", withUnit(get(*r.values, most, r.setting->medium)->si(),
                                                               Measure::volumeFlow, units, 3)));
}

constexpr std::string_view labels[] = {"flow"};

}  // namespace

const Part part{
    .key = "limiting valve",
    .plural = "Limiting valves",
    .prefix = "V",
    .letter = 'I',
    .group = Group::restrain,
    .ends = Ends::two,
    .symbol = "M -10 -6 L -10 6 L 10 -6 L 10 6 Z M 0 0 L 0 -8 O 0 -12 4 M -2 -12 L 2 -12",
    .fields = fields,
    .outcomes = seat::outcomes(),
    .labels = labels,
    .prepare = prepare,
    .story = story,
    .stateWord = stateWord,
};

}  // namespace conduit::limitingvalve
