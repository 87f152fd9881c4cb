#include "sizing/choices.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "model/sizing_setup.h"
#include "network/onward.h"
#include "route/route.h"

namespace conduit {
std::vector<Id> pipesFrom(const Network& n, Id start, Id point) {
  std::vector<Id> pipes = lateralFrom(n, start, point).elements;
  std::erase_if(pipes, [&](Id id) { return !n.at(id).part->geometry; });
  return pipes;
}

Result<SizeRange> rangeFrom(const std::string& text, const Stock& stock) {
  SizeRange range;
  std::string rest = text;
  const auto cut = [&](const std::string& word) {
    const auto at = rest.rfind(" " + word + " ");
    if (at == std::string::npos) return std::string();
    std::string value = rest.substr(at + word.size() + 2);
    rest.erase(at);
    return value;
  };
  range.service = cut("for"), range.to = cut("to"), range.from = cut("from");
  const auto whole = std::find_if(stock.pipes.begin(), stock.pipes.end(), [&](const PipeSize& p) {
    return rest == p.standard + " " + p.schedule || rest == p.standard;
  });
  if (whole == stock.pipes.end())
    return refused(fmt::format("no standard and schedule \"{}\" in the catalogue", rest));
  range.standard = whole->standard;
  if (rest != whole->standard) range.schedule = whole->schedule;
  const auto boreOf = [&](const std::string& nominal) -> std::optional<double> {
    for (const PipeSize& p : stock.pipes)
      if (p.standard == range.standard && p.nominal == nominal &&
          (range.schedule.empty() || p.schedule == range.schedule))
        return p.bore_m;
    return std::nullopt;
  };
  for (const std::string& nominal : {range.from, range.to})
    if (!nominal.empty() && !boreOf(nominal))
      return refused(fmt::format("no size {} of {} in the catalogue", nominal, rest));
  if (!range.from.empty() && !range.to.empty() && *boreOf(range.from) > *boreOf(range.to))
    return refused(fmt::format("size {} is larger than {}: enter the smaller first", range.from, range.to));
  return range;
}

std::vector<TiedLines> tiesOffered(const Network& n, std::span<const TiedLines> tied) {
  std::set<Id> taken;
  for (const TiedLines& t : tied) taken.insert(t.lines.begin(), t.lines.end());
  std::vector<TiedLines> offers;
  const auto offer = [&](std::string name, std::vector<Id> lines) {
    std::erase_if(lines, [&](Id id) { return taken.contains(id); });
    std::sort(lines.begin(), lines.end());
    lines.erase(std::unique(lines.begin(), lines.end()), lines.end());
    if (lines.size() < 2) return;
    taken.insert(lines.begin(), lines.end());
    offers.push_back({std::move(name), std::move(lines)});
  };
  n.each([&](Id id, const Element& e) {
    if (!e.part->lifts || e.ends.size() < 2) return;
    offer("suction of " + e.name, pipesFrom(n, id, e.ends[0]));
    offer("discharge of " + e.name, pipesFrom(n, id, e.ends[1]));
  });
  n.each([&](Id id, const Element& e) {
    if (!e.part->exchanges || e.ends.size() < 2) return;
    auto lines = pipesFrom(n, id, e.ends[0]);
    const auto after = pipesFrom(n, id, e.ends[1]);
    lines.insert(lines.end(), after.begin(), after.end());
    offer("both sides of " + e.name, std::move(lines));
  });
  n.each([&](Id id, const Element& e) {
    if (!e.part->line || taken.contains(id)) return;
    std::vector<Id> lines = pipesFrom(n, id, e.ends[0]);
    const auto after = pipesFrom(n, id, e.ends[1]);
    lines.insert(lines.end(), after.begin(), after.end());
    lines.push_back(id);
    const std::string last = n.at(after.empty() ? lines.front() : after.back()).name;
    offer(e.name + " … " + last, std::move(lines));
  });
  return offers;
}

std::vector<Id> linesAlong(const Network& network, Id from, Id to) {
  std::vector<Id> lines;
  for (const RouteStep& step : routeBetween(network, from, to))
    if (network.at(step.element).part->line) lines.push_back(step.element);
  return lines;
}

}  // namespace conduit
