#include "model/sizing_setup.h"

#include <algorithm>

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
const Field table[] = {
    choice(sizing::least, sizing::wanted, "what is to be least"),
    number(sizing::trials, 0, 1e6, 0,
           "searches from beginnings of their own; 0: as the number of lines asks for, up to 320"),
    number(sizing::seed, 0, 4e9, 1, "another one begins elsewhere; the same gives the same proposal"),
    number(sizing::seconds, 0, 1e6, 60, "no new round of trials after these; 0: all trials"),
};

}  // namespace

std::span<const Field> sizingFields() { return table; }

std::string said(const SizeRange& r) {
  std::string words = r.standard;
  if (!r.schedule.empty()) words += " " + r.schedule;
  if (!r.from.empty()) words += " from " + r.from;
  if (!r.to.empty()) words += " to " + r.to;
  if (!r.service.empty()) words += " for " + r.service;
  return words;
}

bool SizingSetup::empty() const { return *this == SizingSetup{}; }

std::size_t SizingSetup::bytes() const {
  std::size_t n = 100 * about.entries().size() + 200 * ranges.size() + sizeof(Id) * left.size() +
                  100 * branches.size() + extra.size();
  for (const TiedLines& t : tied) n += 50 + sizeof(Id) * t.lines.size();
  for (const KeptSizes& k : kept) n += 50 + 60 * k.sizes.size();
  return n;
}

double sizingNumber(const Values& about, std::string_view key) {
  const auto field =
      std::find_if(std::begin(table), std::end(table), [&](const Field& f) { return f.key == key; });
  ensure(field != std::end(table) && field->fallback, "the sizing has no number of that name");
  if (const Given* given = about.get<Given>(key)) return given->value;
  return *field->fallback;
}

}  // namespace conduit
