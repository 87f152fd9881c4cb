#include "network/names.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

namespace conduit {
namespace {}  // namespace

NamePattern patternFor(const Network& network, const Part& part) {
  const auto* patterns = network.job().text("name patterns");
  return patternIn(patterns ? *patterns : std::string_view(), part);
}

std::vector<Id> readingOrder(const Network& network, std::span<const Id> ids, double rowDepth_m) {
  std::vector<std::pair<Spot, Id>> placed;
  double top = -1e300, bottom = 1e300;
  for (const Id id : ids)
    if (network.find(id) && id != jobId) {
      placed.emplace_back(spotOf(network, id), id);
      top = std::max(top, placed.back().first.y), bottom = std::min(bottom, placed.back().first.y);
    }
  const double depth = rowDepth_m > 0 ? rowDepth_m : std::max((top - bottom) / 20, 1e-9);
  std::stable_sort(placed.begin(), placed.end(), [&](const auto& a, const auto& b) {
    const auto row = [&](const auto& p) { return static_cast<long>((top - p.first.y) / depth); };
    if (row(a) != row(b)) return row(a) < row(b);
    if (a.first.x != b.first.x) return a.first.x < b.first.x;
    return a.second < b.second;
  });
  std::vector<Id> ordered;
  for (const auto& [spot, id] : placed) ordered.push_back(id);
  return ordered;
}

Result<Edited> renumber(const Network& network, std::span<const Id> ordered) {
  std::set<Id> inside;
  std::vector<Id> unique;
  for (const Id id : ordered)
    if (network.find(id) && id != jobId && inside.insert(id).second) unique.push_back(id);
  if (unique.empty()) return Refused(Problem{{}, "select elements to renumber", {}});
  struct Row {
    NamePattern pattern;
    int next;
  };
  std::map<const Part*, Row> rows;
  std::vector<std::pair<Id, std::string>> names;
  std::set<std::string> given;
  for (const Id id : unique) {
    const Part& part = *network.at(id).part;
    if (!rows.contains(&part)) {
      const NamePattern pattern = patternFor(network, part);
      rows.emplace(&part, Row{pattern, pattern.first});
    }
    Row& row = rows.at(&part);
    std::string name;
    for (;; ++row.next) {
      name = row.pattern.name(row.next);
      const Id holder = network.byName(name);
      if (!given.contains(name) && (holder == noId || inside.contains(holder))) break;
    }
    ++row.next;
    given.insert(name);
    if (name != network.at(id).name) names.emplace_back(id, name);
  }
  Draft draft(network);
  // Through names nobody has, so that two may change places.
  for (const auto& [id, name] : names) draft.rename(id, fmt::format("\t{}", id));
  for (const auto& [id, name] : names) draft.rename(id, name);
  return Edited{fmt::format("Renumber {} elements", unique.size()), std::move(draft).finish()};
}

Result<Edited> replaceInNames(const Network& network, std::span<const Id> ids, std::string_view find,
                              std::string_view with) {
  if (find.empty()) return Refused(Problem{{}, "enter the text to replace", {}});
  std::vector<std::pair<Id, std::string>> names;
  std::set<Id> changing;
  for (const Id id : ids) {
    const Element* e = network.find(id);
    if (!e || id == jobId || e->name.find(find) == std::string::npos || !changing.insert(id).second) continue;
    std::string name = e->name;
    for (std::size_t at = 0; (at = name.find(find, at)) != std::string::npos; at += with.size())
      name.replace(at, find.size(), with);
    names.emplace_back(id, name);
  }
  if (names.empty()) return Refused(Problem{{}, fmt::format("no name contains \"{}\"", find), {}});
  std::set<std::string> given;
  for (const auto& [id, name] : names) {
    const std::string& old = network.at(id).name;
    if (!nameFault(name).empty())
      return Refused(
          Problem{{old, "name"}, fmt::format("{} would become \"{}\": {}", old, name, nameFault(name)), {}});
    const Id holder = network.byName(name);
    if (!given.insert(name).second || (holder != noId && !changing.contains(holder)))
      return Refused(
          Problem{{old, "name"}, fmt::format("{} would become {}, which is taken", old, name), {}});
  }
  Draft draft(network);
  for (const auto& [id, name] : names) draft.rename(id, fmt::format("\t{}", id));
  for (const auto& [id, name] : names) draft.rename(id, name);
  return Edited{fmt::format("Replace \"{}\" with \"{}\" in {} names", find, with, names.size()),
                std::move(draft).finish()};
}

}  // namespace conduit
