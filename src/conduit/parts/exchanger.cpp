#include "parts/exchanger.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "parts/seat.h"
#include "quantity/format.h"

namespace conduit::exchanger {
namespace {

constexpr Key<VolumeFlow> ratedFlow{"rated flow"};
constexpr Key<PressureDrop> ratedDrop{"rated drop"}, mostDrop{"drop at most"};
constexpr Key<Number> exponent{"exponent"}, fouling{"fouling"};

const Field fields[] = {
    need(field(ratedFlow, 1e-9, 1e3, "flow at which the maker states the drop")),
    releasable(need(field(ratedDrop, 0, 1e8, "drop at the rated flow, clean"))),
    byDefault(field(exponent, 1, 2.5, "of the flow: 2 for nozzles and headers, some 1.8 for long smooth tubes, 1 for creeping flow"), 2.0),
    releasable(byDefault(field(fouling, 1, 1000, "how many times the clean drop it takes now"), 1.0)),
    field(mostDrop, 0, 1e8, "the drop that may be spent on it"),
    stockItem(),
    text("note", "anything worth saying"),
};

/// Δp = Δp_rated · fouling · (Q/Q_rated)^n, a fit through the maker's point.
Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace>) {
  Prepared prepared;
  prepared.lacks = lacking(values, fields);
  if (!prepared.lacks.empty()) return prepared;
  const double q = get(values, ratedFlow, setting.medium)->si(), n = getOrFallback(values, fields, exponent, setting.medium)->si();
  const double h = get(values, ratedDrop, setting.medium)->si() / setting.weight_nm3() * getOrFallback(values, fields, fouling, setting.medium)->si();
  prepared.branches.push_back({0, 1, std::make_unique<PowerLaw>(h / std::pow(q, n), n, q)});
  return prepared;
}

std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), dp = outcome::pressureLoss(r);
  if (!q || !dp) return "Its flow is not determined.";
  return fmt::format("Takes {} at {}, {} % of its rated flow.", withUnit(std::abs(*dp), Measure::pressureDrop, units, 3), withUnit(std::abs(*q), Measure::volumeFlow, units, 3),
                     digits(std::abs(*q) / get(*r.values, ratedFlow, r.setting->medium)->si() * 100, 3));
}

void check(const Reading& r, const UnitSet& units, std::vector<Check>& checks) {
  const auto most = get(*r.values, mostDrop, r.setting->medium);
  const auto dp = outcome::pressureLoss(r);
  if (!most || !dp) return;
  Check c{.label = "Drop", .measure = Measure::pressureDrop, .value = std::abs(*dp), .most = most->si()};
  if (c.broken())
    c.what = fmt::format("{} takes {}, over the {} allowed for it", r.name, withUnit(std::abs(*dp), Measure::pressureDrop, units, 3),
                         withUnit(most->si(), Measure::pressureDrop, units, 3));
  checks.push_back(std::move(c));
}

constexpr std::string_view labels[] = {"pressure loss"};

}  // namespace

const Part part{
    .key = "exchanger",
    .plural = "Exchangers",
    .prefix = "E",
    .letter = 'H',
    .group = Group::restrain,
    .ends = Ends::two,
    .symbol = "O 0 0 10 M -12 0 L -5 0 L -2 -6 L 2 6 L 5 0 L 12 0",
    .fields = fields,
    .outcomes = seat::outcomes(),
    .labels = labels,
    .prepare = prepare,
    .story = story,
    .check = check,
};

}  // namespace conduit::exchanger
