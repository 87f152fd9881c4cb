#include "say/words.h"

#include <utility>

namespace conduit {

std::string spoken(std::string_view key) {
  constexpr std::pair<std::string_view, std::string_view> words[] = {
      {"reducing valve", "pressure-reducing valve"},
      {"sustaining valve", "pressure-sustaining valve"},
      {"limiting valve", "flow-limiting valve"},
      {"own loss", "user-defined loss"},
      {"exchanger", "heat exchanger"},
      {"share of best flow", "% of BEP flow"},
      {"flow of best at least", "minimum % of BEP flow"},
      {"flow of best at most", "maximum % of BEP flow"},
      {"level rises by", "rises by"},
      {"greatest pressure", "maximum pressure"},
      {"stock item", "catalogue item"},
      {"liquid of the stock", "liquid of the catalogue"},
      {"shut in", "dead-headed"},
      {"on paper only", "impossible"},
      {"own units", "units of single quantities"},
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
