#include "model/costs.h"

#include <algorithm>

#include "say/ensure.h"

namespace conduit {
namespace {

constexpr double hour_s = 3600.0, year_s = 8784 * hour_s;  // a leap year's: no year has more

const Field fields[] = {
    text(costs::currency, "the word or sign of the job's money"),
    Field{.key = costs::tariff,
          .measure = Measure::number,
          .least = 0,
          .most = 1e6,
          .help = "money for a kilowatt-hour"},
    Field{.key = costs::hours,
          .measure = Measure::duration,
          .least = 0,
          .most = year_s,
          .fallback = 8760 * hour_s,
          .help = "that the drawing runs as it stands"},
    // A moderate induction motor (class IE3 of IEC 60034-30-1, four poles, some 10 kW: 91 %), no gear or
    // converter.
    Field{.key = costs::motorEfficiency,
          .measure = Measure::ratio,
          .least = 0.05,
          .most = 1,
          .fallback = 0.91,
          .help = "shaft power over electric power of the pumps' motors"},
    Field{.key = costs::driveEfficiency,
          .measure = Measure::ratio,
          .least = 0.05,
          .most = 1,
          .fallback = 1.0,
          .help = "of what stands between mains and motor or motor and pump: converter, gear, belt"},
    Field{.key = costs::years,
          .measure = Measure::number,
          .least = 1,
          .most = 200,
          .fallback = 20,
          .help = "over which whole-life cost is counted"},
    Field{.key = costs::interest,
          .measure = Measure::ratio,
          .least = 0,
          .most = 1,
          .fallback = 0.0,
          .help = "a year, by which later money is worth less; nothing: a plain sum"},
    Field{.key = costs::growth,
          .measure = Measure::ratio,
          .least = -0.5,
          .most = 1,
          .fallback = 0.0,
          .help = "of the tariff, a year"},
    Field{.key = costs::upkeep,
          .measure = Measure::ratio,
          .least = 0,
          .most = 1,
          .fallback = 0.0,
          .help = "a year, as a share of what was laid and installed"},
    Field{.key = costs::pumpEfficiency,
          .measure = Measure::ratio,
          .least = 0.05,
          .most = 1,
          .fallback = 0.75,
          .help =
              "of pumps that say none, such as those with a flow or head given that are yet to be chosen; "
              "for sizing"},
    Field{.key = costs::pumpPrice,
          .measure = Measure::number,
          .least = 0,
          .most = 1e9,
          .help = "money for a kilowatt of driver, installed"},
    Field{.key = costs::standby,
          .measure = Measure::ratio,
          .least = 0,
          .most = 5,
          .fallback = 0.0,
          .help = "pumps installed beside those that run, as a share of their power"},
};

}  // namespace

std::span<const Field> costFields() { return fields; }

std::optional<double> costOf(const Values& costs, std::string_view key) {
  const auto field =
      std::find_if(std::begin(fields), std::end(fields), [&](const Field& f) { return f.key == key; });
  ensure(field != std::end(fields) && field->kind == FieldKind::quantity, "no such cost");
  if (const Given* given = costs.get<Given>(key)) return given->value;
  return field->fallback;
}

}  // namespace conduit
