#include "model/sizing_setup.h"

#include <fmt/format.h>

#include <algorithm>

#include "quantity/parse.h"
#include "say/ensure.h"

namespace conduit {
namespace {

constexpr Field number(std::string_view key, double least, double most, double fallback,
                       std::string_view help) {
  return {.key = key,
          .measure = Measure::number,
          .least = least,
          .most = most,
          .fallback = fallback,
          .help = help};
}
const Field setupFields[] = {
    choice(sizing::least, sizing::wanted, "quantity to minimise"),
    number(sizing::trials, 0, 1e6, 0, "independent search starts; 0: by the number of lines, up to 320"),
    number(sizing::seed, 0, 4e9, 1, "random seed; the same seed repeats the proposal"),
    number(sizing::seconds, 0, 1e6, 60, "time limit of the search; 0: none"),
    Field{.key = sizing::tolerance,
          .measure = Measure::ratio,
          .least = 0,
          .most = 1,
          .fallback = 0.02,
          .help = "reduction allowed in each present delivery that has no minimum flow of its own"},
    flag(sizing::equalVolume, true,
         "energy for the volume delivered now: operating hours are adjusted where deliveries change"),
};

}  // namespace

std::span<const Field> sizingFields() { return setupFields; }

std::string said(const SizeRange& r) {
  std::string words = r.standard;
  if (!r.schedule.empty()) words += " " + r.schedule;
  if (!r.from.empty()) words += " from " + r.from;
  if (!r.to.empty()) words += " to " + r.to;
  if (!r.service.empty()) words += " for " + r.service;
  return words;
}

std::optional<LayingClass> layingFrom(std::string_view text, std::span<const LayingClass> known) {
  const auto trimmed = [](std::string_view t) {
    while (!t.empty() && t.front() == ' ') t.remove_prefix(1);
    while (!t.empty() && t.back() == ' ') t.remove_suffix(1);
    return std::string(t);
  };
  const auto money = [&](std::string_view t) -> std::optional<double> {
    const auto read = parse(trimmed(t), Measure::number, nullptr);
    return read && read->value >= 0 && read->value < 1e9 ? std::optional(read->value) : std::nullopt;
  };
  LayingClass c{.name = trimmed(text)};
  if (c.name.empty()) return std::nullopt;
  for (const LayingClass& k : known)
    if (k.name == c.name) return k;
  // From the end: "+ 12", "40", and the rest is the name.
  if (const std::size_t plus = c.name.rfind('+'); plus != std::string::npos) {
    const auto by = money(std::string_view(c.name).substr(plus + 1));
    if (!by) return std::nullopt;
    c.byDiameter = *by / 0.1;
    c.name = trimmed(std::string_view(c.name).substr(0, plus));
  }
  const std::size_t blank = c.name.rfind(' ');
  if (blank == std::string::npos) return std::nullopt;
  const auto each = money(std::string_view(c.name).substr(blank + 1));
  if (!each) return std::nullopt;
  c.perMetre = *each;
  c.name = trimmed(std::string_view(c.name).substr(0, blank));
  return c.name.empty() ? std::nullopt : std::optional(c);
}

std::string said(const LayingClass& c) {
  const std::string each = fmt::format("{} {:.6g}", c.name, c.perMetre);
  return c.byDiameter > 0 ? fmt::format("{} + {:.6g}", each, c.byDiameter * 0.1) : each;
}

const LayingClass* SizingSetup::layingOf(Id line) const {
  for (const LayingClass& c : laying)
    if (std::find(c.lines.begin(), c.lines.end(), line) != c.lines.end()) return &c;
  return nullptr;
}

bool SizingSetup::empty() const { return *this == SizingSetup{}; }

void SizingSetup::follow(const Followed& what) {
  if (what.gone.empty()) return;
  const auto noLine = [&](Id id) {
    const Element* e = what.after.find(id);
    return !e || !e->part->line;
  };
  std::erase_if(left, noLine);
  std::erase_if(alone, noLine);
  for (TiedLines& t : tied) std::erase_if(t.lines, noLine);
  std::erase_if(tied, [](const TiedLines& t) { return t.lines.size() < 2; });
  for (LayingClass& c : laying) std::erase_if(c.lines, noLine);
  std::erase_if(branches, [&](const BranchGoal& b) {
    const Element* e = what.after.find(b.valve);
    return !e || !e->part->balances;
  });
  std::erase_if(deliveries, [&](const DeliveryAsked& d) { return !what.after.find(d.taker); });
}

std::size_t SizingSetup::bytes() const {
  std::size_t n = 100 * about.entries().size() + 200 * ranges.size() +
                  sizeof(Id) * (left.size() + alone.size()) + 100 * branches.size() + 40 * deliveries.size() +
                  extra.size();
  for (const TiedLines& t : tied) n += 50 + sizeof(Id) * t.lines.size();
  for (const LayingClass& c : laying) n += 60 + sizeof(Id) * c.lines.size();
  for (const KeptSizes& k : kept) n += 50 + 60 * k.sizes.size();
  return n;
}

double sizingNumber(const Values& about, std::string_view key) {
  const auto field = std::find_if(std::begin(setupFields), std::end(setupFields),
                                  [&](const Field& f) { return f.key == key; });
  ensure(field != std::end(setupFields) && field->fallback, "the sizing has no number of that name");
  if (const Given* given = about.get<Given>(key)) return given->value;
  return *field->fallback;
}

}  // namespace conduit
