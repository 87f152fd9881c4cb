#include "parts/strainer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "quantity/format.h"

namespace conduit::strainer {
namespace {

constexpr Key<VolumeFlow> ratedFlow{"rated flow"};
constexpr Key<PressureDrop> cleanDrop{"clean drop"};
constexpr Key<Number> fouling{"fouling"};

const Field fields[] = {
    need(field(ratedFlow, 1e-9, 1e3, "flow at which the maker states the drop")),
    releasable(need(field(cleanDrop, 0, 1e7, "drop at the rated flow, screen clean"))),
    releasable(byDefault(field(fouling, 1, 1000, "how many times the clean drop it takes now"), 1.0)),
    stockItem(),
    text("note", "anything worth saying"),
};

/// Drop with the square of the flow, through the maker's point.
Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace>) {
  Prepared prepared;
  prepared.lacks = lacking(values, fields);
  if (!prepared.lacks.empty()) return prepared;
  const double q = get(values, ratedFlow, setting.medium)->si();
  const double h = get(values, cleanDrop, setting.medium)->si() / setting.weight_nm3() * getOrFallback(values, fields, fouling, setting.medium)->si();
  prepared.branches.push_back({0, 1, std::make_unique<QuadraticLaw>(h / (q * q), q, false)});
  return prepared;
}

const Outcome outcomes[] = {
    {"flow", Measure::volumeFlow, outcome::flow},
    {"head loss", Measure::headDrop, outcome::headLoss},
    {"pressure loss", Measure::pressureDrop, outcome::pressureLoss},
    {"pressure before", Measure::gaugePressure, outcome::pressureBefore},
    {"pressure after", Measure::gaugePressure, outcome::pressureAfter},
};

std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), dp = outcome::pressureLoss(r);
  if (!q || !dp) return "Its flow is not determined.";
  const double rated = get(*r.values, ratedFlow, r.setting->medium)->si();
  return fmt::format("Takes {} at {}, {} % of its rated flow.", withUnit(std::abs(*dp), Measure::pressureDrop, units, 3), withUnit(std::abs(*q), Measure::volumeFlow, units, 3),
                     digits(std::abs(*q) / rated * 100, 3));
}

constexpr std::string_view labels[] = {"pressure loss"};

}  // namespace

const Part part{
    .key = "strainer",
    .plural = "Strainers",
    .prefix = "S",
    .letter = 'S',
    .group = Group::restrain,
    .ends = Ends::two,
    .symbol = "M -9 -9 L 9 -9 L 9 9 L -9 9 Z M 0 -9 L 0 -5 M 0 -2 L 0 2 M 0 5 L 0 9",
    .fields = fields,
    .outcomes = outcomes,
    .labels = labels,
    .prepare = prepare,
    .story = story,
};

}  // namespace conduit::strainer
