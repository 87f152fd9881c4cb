#include "cases/watch.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>

#include "find/condition.h"
#include "limits/limits.h"
#include "model/watched.h"
#include "parts/registry.h"
#include "quantity/format.h"
#include "quantity/words.h"
#include "say/words.h"

namespace conduit {
namespace {

using Over = Watched::Over;

constexpr std::pair<std::string_view, Over> overWords[] = {
    {"least", Over::least},  {"minimum", Over::least},     {"min", Over::least},
    {"lowest", Over::least}, {"greatest", Over::greatest}, {"maximum", Over::greatest},
    {"max", Over::greatest}, {"highest", Over::greatest},  {"sum", Over::sum},
    {"total", Over::sum},    {"mean", Over::mean},         {"average", Over::mean}};
constexpr std::array<std::string_view, 5> spokenOver{"", "minimum", "maximum", "sum of", "mean"};

bool isWordChar(char c) { return std::isalnum(static_cast<unsigned char>(c)) || (c & '\x80'); }

// Where `word` stands in `text` as words of its own, from behind.
std::size_t findWord(const std::string& text, const std::string& word) {
  for (std::size_t at = text.rfind(word); at != std::string::npos; at = at ? text.rfind(word, at - 1) : at) {
    const std::size_t end = at + word.size();
    const bool before = at == 0 || !isWordChar(text[at - 1]),
               after = end >= text.size() || !isWordChar(text[end]);
    if (before && after) return at;
    if (at == 0) break;
  }
  return std::string::npos;
}

std::string without(const std::string& text, std::size_t at, std::size_t size) {
  return std::string(trimmed(text.substr(0, at))) + " " + std::string(trimmed(text.substr(at + size)));
}

// Without the small words that may stand about a name or a condition.
std::string bare(std::string text) {
  for (bool more = true; more;) {
    more = false;
    text = std::string(trimmed(text, " \t,:"));
    const std::string small = lowered(text);
    for (const std::string_view filler : {"of ", "at ", "in ", "over ", "the ", "all "})
      if (small.starts_with(filler)) text = text.substr(filler.size()), more = true;
    for (const std::string_view filler : {" of", " at", " in", " over", " the", " all"})
      if (!more && small.ends_with(filler)) text = text.substr(0, text.size() - filler.size()), more = true;
    for (const std::string_view filler : {"of", "at", "in", "over", "the", "all"})
      if (!more && small == filler) text.clear();
  }
  return text;
}

Id named(const Network& network, std::string_view name) {
  if (const Id id = network.byName(name); id != noId) return id;
  const std::string wanted = lowered(name);
  Id found = noId;
  network.each([&](Id id, const Element& e) {
    if (found == noId && lowered(e.name) == wanted) found = id;
  });
  return found;
}

// "Gun 1, Gun 2 and Gun 3"; empty where one of them is none.
std::vector<Id> namesIn(const Network& network, const std::string& text) {
  std::vector<Id> ids;
  std::string rest = text;
  while (!rest.empty()) {
    std::size_t cut = rest.find(','), skip = 1;
    if (const auto word = lowered(rest).find(" and "); word < cut) cut = word, skip = 5;
    const Id id = named(network, trimmed(rest.substr(0, cut)));
    if (id == noId) return {};
    ids.push_back(id);
    rest = cut == std::string::npos ? std::string() : std::string(trimmed(rest.substr(cut + skip)));
  }
  return ids;
}

std::string outcomesOf(const Part& part) {
  std::string all;
  for (const Outcome& o : part.outcomes) all += (all.empty() ? "" : ", ") + spoken(o.key);
  return all;
}

struct Mention {
  std::string key;
  std::size_t at, size;
};
// Every outcome that is named, the longest words first.
std::vector<Mention> outcomesNamed(const std::string& text) {
  const std::string small = lowered(text);
  std::vector<Mention> all;
  for (const Part* part : allParts())
    for (const Outcome& o : part->outcomes)
      for (const std::string& word : {lowered(o.key), lowered(spoken(o.key))})
        if (const std::size_t at = findWord(small, word);
            at != std::string::npos && std::none_of(all.begin(), all.end(), [&](const Mention& m) {
              return m.key == o.key && m.at == at && m.size == word.size();
            }))
          all.push_back({std::string(o.key), at, word.size()});
  std::stable_sort(all.begin(), all.end(),
                   [](const Mention& a, const Mention& b) { return a.size > b.size; });
  return all;
}

double sizeOf(const Outcome& o, double si) { return o.sign == SignBy::drawing ? std::abs(si) : si; }

bool countsOut(const Part& part, const Reading& reading) {
  if (!part.stateWord) return false;
  const std::string word = part.stateWord(reading);
  return word == "closed" || word == "off";
}

bool sameLabel(std::string_view label, std::string_view key) {
  return lowered(label) == lowered(spoken(key));
}

}  // namespace

Result<Watched> readWatched(std::string_view typed, const Network& network, const UnitSet& units,
                            std::span<const Id> selection) {
  std::string text(trimmed(typed));
  if (text.empty()) return refused("name an element and one of its results: P-1 NPSH margin");
  std::optional<Problem> first;
  const auto mentions = outcomesNamed(text);
  for (const Mention& m : mentions) {
    Watched w{.outcome = m.key};
    std::string rest = without(text, m.at, m.size);
    // An element may have any name: what is left is looked at as a name before words are taken out of it.
    if (const Id id = named(network, bare(rest)); id != noId && findOutcome(*network.at(id).part, m.key)) {
      w.elements = {id};
      return w;
    }
    for (const auto& [word, over] : overWords)
      if (const std::size_t at = findWord(lowered(rest), std::string(word));
          at != std::string::npos && w.over == Over::one)
        w.over = over, rest = without(rest, at, word.size());
    rest = bare(rest);
    const auto keep = [&](std::string what) {
      if (!first) first = Problem{{}, std::move(what), {}};
    };
    const bool selected = rest.empty() || lowered(rest) == "selection" || lowered(rest) == "selected";
    if (selected) {
      w.elements.assign(selection.begin(), selection.end());
      if (w.elements.empty()) {
        keep(fmt::format("specify whose {}: an element, or a kind with minimum, maximum, sum or mean",
                         spoken(m.key)));
        continue;
      }
    } else {
      w.elements = namesIn(network, rest);
    }
    if (!w.elements.empty()) {
      const Id id = w.elements.front();
      std::erase_if(w.elements, [&](Id each) { return !findOutcome(*network.at(each).part, m.key); });
      if (w.elements.empty()) {
        keep(selected ? fmt::format("nothing selected has the result {}", spoken(m.key))
                      : fmt::format("{} has no result {}; results: {}", network.at(id).name, spoken(m.key),
                                    outcomesOf(*network.at(id).part)));
        continue;
      }
      if (w.elements.size() == 1) w.over = Over::one;
      else if (w.over == Over::one) {
        keep(fmt::format("for {} of {} elements choose minimum, maximum, sum or mean", spoken(m.key),
                         w.elements.size()));
        continue;
      }
      return w;
    }
    const auto condition = readCondition(rest, units);
    if (!condition) {
      keep(condition.error().what);
      continue;
    }
    if (condition->kind && !findOutcome(*condition->kind, m.key)) {
      keep(fmt::format("a {} has no result {}; results: {}", spoken(condition->kind->key), spoken(m.key),
                       outcomesOf(*condition->kind)));
      continue;
    }
    if (w.over == Over::one) {
      keep(fmt::format("for {} of {} choose minimum, maximum, sum or mean", spoken(m.key), rest));
      continue;
    }
    w.condition = rest;
    return w;
  }
  if (first) return Refused(std::move(*first));
  // An element alone: say what it finds.
  for (std::string_view rest = text; !rest.empty();) {
    if (const Id id = named(network, rest); id != noId)
      return refused(fmt::format("\"{}\" is not a result of {}; results: {}", typed, network.at(id).name,
                                 outcomesOf(*network.at(id).part)));
    const auto cut = rest.rfind(' ');
    rest = cut == std::string_view::npos ? std::string_view() : rest.substr(0, cut);
  }
  return refused(fmt::format("\"{}\" is not a result such as pressure, velocity or NPSH margin", typed));
}

WatchedWords wordsOf(const Watched& w, const Network& network) {
  WatchedWords words;
  const std::string_view over = spokenOver[static_cast<std::size_t>(w.over)];
  words.what = fmt::format("{}{}{}", over, over.empty() ? "" : " ", spoken(w.outcome));
  if (!w.condition.empty()) {
    words.whose = w.condition;
    words.whose.front() = static_cast<char>(std::toupper(static_cast<unsigned char>(words.whose.front())));
  } else if (w.elements.size() > 3) {
    const Element* a = network.find(w.elements.front());
    const Element* b = network.find(w.elements.back());
    words.whose = fmt::format("{} … {} ({})", a ? a->name : "?", b ? b->name : "?", w.elements.size());
  } else {
    for (const Id id : w.elements) {
      const Element* e = network.find(id);
      words.whose += (words.whose.empty() ? "" : ", ") + (e ? e->name : std::string("?"));
    }
  }
  return words;
}

std::string typedText(const Watched& w, const Network& network) {
  std::string whose = w.condition;
  if (whose.empty())
    for (const Id id : w.elements)
      if (const Element* e = network.find(id)) whose += (whose.empty() ? "" : ", ") + e->name;
  constexpr std::array<std::string_view, 5> words{"", " minimum", " maximum", " sum", " mean"};
  return fmt::format("{} {}{}", whose, w.outcome, words[static_cast<std::size_t>(w.over)]);
}

std::optional<Measure> measureOf(const Watched& w, const Network& network) {
  for (const Id id : w.elements)
    if (const Element* e = network.find(id))
      if (const Outcome* o = findOutcome(*e->part, w.outcome)) return o->measure;
  if (!w.elements.empty()) return std::nullopt;
  const auto condition = readCondition(w.condition, UnitSet::siWater());
  for (const Part* part : allParts())
    if (!condition || !condition->kind || condition->kind == part)
      if (const Outcome* o = findOutcome(*part, w.outcome)) return o->measure;
  return std::nullopt;
}

WatchedValue valueOf(const Watched& w, const Network& network, const Solution& solution,
                     const UnitSet& units) {
  WatchedValue value;
  if (!solution.summary.usable()) return value;
  std::vector<Id> ids = w.elements;
  if (ids.empty())
    if (const auto condition = readCondition(w.condition, units))
      ids = elementsThat(*condition, network, solution);
  double sum = 0.0;
  Shown last;
  Measure measure = Measure::number;
  for (const Id id : ids) {
    const Element* e = network.find(id);
    const Outcome* o = e ? findOutcome(*e->part, w.outcome) : nullptr;
    if (!o) continue;
    const ReadingOf reading(network, solution, id);
    const auto found = outcomeOf(*e->part, w.outcome, *reading);
    if (!found || (w.over != Over::one && countsOut(*e->part, *reading))) continue;
    measure = o->measure;
    const double v = sizeOf(*o, *found);
    sum += v;
    ++value.of;
    const bool better = value.where == noId || (w.over == Over::least && v < *value.si) ||
                        (w.over == Over::greatest && v > *value.si);
    if (w.over != Over::one && !better) continue;
    value.si = v, value.where = id;
    if (w.over == Over::one) value.si = *found;
    last = shownOf(*o, *reading).value_or(Shown{v});
  }
  if (value.of == 0) return value;
  if (w.over == Over::sum || w.over == Over::mean) {
    value.si = w.over == Over::sum ? sum : sum / static_cast<double>(value.of);
    value.where = noId;
    value.shown = asNumber(*value.si, measure, units, 3);
    return value;
  }
  value.shown = asShown(last, measure, units, 3, false);
  // The check of that name, else one that looks at the very number (a driver at the shaft power).
  const auto checks = checksOf(network, solution, value.where);
  for (const bool byName : {true, false})
    for (const Check& c : checks) {
      if (c.spoken || c.measure() != measure || sameLabel(c.label(), w.outcome) != byName || value.least ||
          value.most)
        continue;
      if (std::abs(c.value - *value.si) > 1e-9 * std::max(std::abs(c.value), 1e-9)) continue;
      value.least = c.least, value.most = c.most;
    }
  return value;
}

std::optional<std::size_t> worstOf(const Watched& w, std::optional<Measure> measure,
                                   std::span<const WatchedValue> values) {
  const bool least = std::any_of(values.begin(), values.end(), [](const auto&v) { return v.least; }),
             most = std::any_of(values.begin(), values.end(), [](const auto&v) { return v.most; });
  int sign = 0;  // of what is worse: more or less
  if (least != most) sign = least ? -1 : 1;
  else if (w.over == Over::least) sign = -1;
  else if (w.over == Over::greatest || measure == Measure::power) sign = 1;
  std::optional<std::size_t> worst;
  double by = 0.0;
  bool differ = false;
  for (std::size_t i = 0; i < values.size(); ++i) {
    if (!values[i].si) continue;
    // Against the limit of its own case where both sides have one.
    const WatchedValue& v = values[i];
    double bad = sign * *v.si;
    if (least && most) {
      const double low = v.least ? (*v.least - *v.si) / std::max(std::abs(*v.least), 1e-9) : -1e300;
      const double high = v.most ? (*v.si - *v.most) / std::max(std::abs(*v.most), 1e-9) : -1e300;
      bad = std::max(low, high);
    } else if (sign != 0 && (least || most)) {
      const auto limit = least ? v.least : v.most;
      if (!limit) continue;
      bad = sign * (*v.si - *limit);
    } else if (sign == 0) {
      return std::nullopt;
    }
    if (worst && std::abs(bad - by) > 1e-9 * std::max(std::abs(bad), std::abs(by))) differ = true;
    if (!worst || bad > by) worst = i, by = bad;
  }
  return differ ? worst : std::nullopt;
}

}  // namespace conduit
