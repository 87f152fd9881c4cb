#include "model/costs.h"

#include <algorithm>

#include "say/ensure.h"

namespace conduit {
namespace {

constexpr double hour_s = 3600.0;

const Field costFields_[] = {
    text(costs::currency, "currency name or symbol"),
    Field{.key = costs::tariff, .measure = Measure::number, .least = 0, .most = 1e6, .help = "price per kWh"},
    Field{.key = costs::hours,
          .measure = Measure::duration,
          .least = 0,
          .most = costs::leapYear_s,
          .fallback = 8760 * hour_s,
          .help = "operating hours per year of the base case"},
    // A moderate induction motor (class IE3 of IEC 60034-30-1, four poles, some 10 kW: 91 %), no gear or
    // converter.
    Field{.key = costs::motorEfficiency,
          .measure = Measure::ratio,
          .least = 0.05,
          .most = 1,
          .fallback = 0.91,
          .help = "shaft power / electrical input of the pump motors"},
    Field{.key = costs::driveEfficiency,
          .measure = Measure::ratio,
          .least = 0.05,
          .most = 1,
          .fallback = 1.0,
          .help = "efficiency of frequency converter, gearbox or belt"},
    Field{.key = costs::years,
          .measure = Measure::number,
          .least = 1,
          .most = 200,
          .fallback = 20,
          .help = "evaluation period of the whole-life cost"},
    Field{.key = costs::interest,
          .measure = Measure::ratio,
          .least = 0,
          .most = 1,
          .fallback = 0.0,
          .help = "discount rate per year; 0: undiscounted"},
    Field{.key = costs::growth,
          .measure = Measure::ratio,
          .least = -0.5,
          .most = 1,
          .fallback = 0.0,
          .help = "tariff escalation per year"},
    Field{.key = costs::upkeep,
          .measure = Measure::ratio,
          .least = 0,
          .most = 1,
          .fallback = 0.0,
          .help = "maintenance per year, % of installed cost"},
    Field{.key = costs::pumpEfficiency,
          .measure = Measure::ratio,
          .least = 0.05,
          .most = 1,
          .fallback = 0.75,
          .help = "used in sizing for pumps without efficiency data, such as pumps not yet selected"},
    Field{.key = costs::pumpPrice,
          .measure = Measure::number,
          .least = 0,
          .most = 1e9,
          .help = "installed cost per kW of driver"},
    Field{.key = costs::standby,
          .measure = Measure::ratio,
          .least = 0,
          .most = 5,
          .fallback = 0.0,
          .help = "standby pump power, % of running pump power"},
};

}  // namespace

std::span<const Field> costFields() { return costFields_; }

std::optional<double> costOf(const Values& costs, std::string_view key) {
  const auto field = std::find_if(std::begin(costFields_), std::end(costFields_),
                                  [&](const Field& f) { return f.key == key; });
  ensure(field != std::end(costFields_) && field->kind == FieldKind::quantity, "no such cost");
  if (const Given* given = costs.get<Given>(key)) return given->value;
  return field->fallback;
}

}  // namespace conduit
