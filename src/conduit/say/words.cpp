#include "say/words.h"

#include <utility>

namespace conduit {

std::string spoken(std::string_view key) {
  constexpr std::pair<std::string_view, std::string_view> words[] = {
      {"a flow", "constant flow"},
      {"a pressure", "constant pressure"},
      {"across itself", "across the valve"},
      {"acting", "controlling"},
      {"altitude holds at", "altitude reference height"},
      {"air pressure", "atmospheric pressure"},
      {"bore ratio", "diameter ratio"},
      {"broken", "not met"},
      {"clean drop", "clean pressure drop"},
      {"cone", "tapered"},
      {"cost to lay", "installed cost"},
      {"counts for sizing", "use for sizing"},
      {"described by", "defined by"},
      {"difference", "differential set point"},
      {"drop", "pressure drop"},
      {"drop at choking", "choked pressure drop"},
      {"efficiency factor", "efficiency correction factor"},
      {"efficiency of its motor", "motor efficiency at duty"},
      {"exchanger", "heat exchanger"},
      {"flow of best at least", "minimum % of BEP flow"},
      {"flow of best at most", "maximum % of BEP flow"},
      {"flow over by at most", "flow tolerance, plus"},
      {"flow short by at most", "flow tolerance, minus"},
      {"fouling", "fouling factor"},
      {"gauge reading after", "outlet gauge reading"},
      {"gauge reading before", "inlet gauge reading"},
      {"greatest pressure", "maximum pressure"},
      {"growth of tariff", "tariff escalation"},
      {"head factor", "head correction factor"},
      {"height of new points", "new point height"},
      {"hours in a year", "hours per year"},
      {"impeller", "impeller diameter"},
      {"interest", "discount rate"},
      {"its speed", "fixed speed"},
      {"keeps", "controls"},
      {"kept at", "sensing point"},
      {"kept flow", "flow set point"},
      {"kept pressure", "pressure set point"},
      {"laid", "installed"},
      {"least", "minimise"},
      {"least continuous flow", "minimum continuous flow"},
      {"level rises by", "rises by"},
      {"limiting valve", "flow-limiting valve"},
      {"liquid of the stock", "catalogue liquid"},
      {"loss per metre", "gradient"},
      {"metered difference", "differential pressure"},
      {"motor at part load", "part-load motor efficiency"},
      {"motor power", "motor input power"},
      {"near", "near limit"},
      {"not counted", "ignored"},
      {"not said", "unspecified"},
      {"on paper only", "impossible"},
      {"on the sheet", "print on sheet"},
      {"other curves", "other speeds or diameters"},
      {"other place", "reference point"},
      {"outlet over a point", "outlet to reference point"},
      {"own liquid", "user-defined liquid"},
      {"own loss", "user-defined loss"},
      {"own table", "user-defined table"},
      {"own units", "unit overrides"},
      {"point over its inlet", "reference point to inlet"},
      {"power to the liquid", "hydraulic power"},
      {"pressure after", "outlet pressure"},
      {"pressure before", "inlet pressure"},
      {"pump cost for 1 kW", "pump cost per kW"},
      {"rated drop", "rated pressure drop"},
      {"rated impeller", "rated impeller diameter"},
      {"reducing valve", "pressure-reducing valve"},
      {"refused", "no solution"},
      {"senses", "sensing point"},
      {"service of new lines", "new line service"},
      {"share", "concentration"},
      {"share of best flow", "% of BEP flow"},
      {"share of Kv", "% of Kv"},
      {"shut in", "dead-headed"},
      {"size of new lines", "new line size"},
      {"solids share", "solids concentration"},
      {"standby", "standby power"},
      {"stock item", "catalogue item"},
      {"stock liquid", "catalogue liquid"},
      {"strength", "opacity"},
      {"sum of K", "total K"},
      {"sustaining valve", "pressure-sustaining valve"},
      {"turned", "rotation"},
      {"units running", "pumps running"},
      {"upkeep", "maintenance"},
      {"viscous correction", "viscosity correction"},
      {"viscous parameter B", "viscosity parameter B"},
      {"wall of new lines", "new line roughness"},
      {"weight of driver size", "weight: driver size"},
      {"weight of efficiency", "weight: efficiency"},
      {"weight of nearness", "weight: closeness to duty"},
      {"weight of NPSH margin", "weight: NPSH margin"},
      {"years", "evaluation period"},
  };
  for (const auto& [of, say] : words)
    if (of == key) return std::string(say);
  constexpr std::pair<std::string_view, std::string_view> ends[] = {{" at least", "minimum "},
                                                                    {" at most", "maximum "}};
  for (const auto& [end, before] : ends)
    if (key.ends_with(end)) return std::string(before) + std::string(key.substr(0, key.size() - end.size()));
  return std::string(key);
}

std::string spokenOne(std::string_view key) {
  const std::string words = spoken(key);
  const bool vowel = !words.empty() && std::string_view("aeio").find(words[0]) != std::string_view::npos;
  return (vowel ? "an " : "a ") + words;
}

}  // namespace conduit
