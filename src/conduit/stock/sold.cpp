#include "stock/sold.h"

#include <algorithm>
#include <span>
#include <string>

namespace conduit {
namespace {

struct Sold {
  std::string_view schedule, nominals;  // these between blanks
};
// EN 545:2010, preferred classes. Recalled, to be checked.
constexpr Sold preferred[] = {{"C40", " 40 50 60 65 80 100 125 150 200 250 300 "},
                              {"C30", " 350 400 450 500 600 "},
                              {"C25", " 700 800 900 1000 1100 1200 1400 1500 1600 1800 2000 "}};
// EN 10220, normal walls (those of DIN 2448 and EN 10216-2). Recalled, to be checked.
constexpr Sold normalSteel[] = {
    {"2.0", " 15 "},  {"2.3", " 20 "},  {"2.6", " 25 32 40 "}, {"2.9", " 50 65 "},   {"3.2", " 80 "},
    {"3.6", " 100 "}, {"4.0", " 125 "}, {"4.5", " 150 "},      {"6.3", " 200 250 "}, {"7.1", " 300 "},
    {"8.0", " 350 "}, {"8.8", " 400 "}, {"10.0", " 450 "},     {"11.0", " 500 "},    {"12.5", " 600 "}};
// ISO 1127, usual walls of merchants. Recalled, to be checked.
constexpr Sold normalStainless[] = {
    {"2.0", " 15 20 25 32 40 50 65 80 100 125 150 "}, {"2.6", " 200 250 300 350 "}, {"3.2", " 400 "}};
// EN 1057, walls after DVGW GW 392, and those usual in Britain (table X). Recalled, to be checked.
constexpr Sold copper[] = {{"1", " 6 8 10 12 15 18 22 28 "}, {"1.2", " 35 42 "}, {"1.5", " 54 "},
                           {"2", " 64 76.1 88.9 "},          {"2.5", " 108 "},   {"3", " 133 159 219 267 "}};
constexpr Sold copperX[] = {
    {"0.6", " 6 8 10 12 "},     {"0.7", " 15 "},           {"0.8", " 18 "}, {"0.9", " 22 28 "},
    {"1.2", " 35 42 54 66.7 "}, {"1.5", " 76.1 108 133 "}, {"2", " 159 "}};

bool sells(std::span<const Sold> range, const PipeSize& p) {
  const std::string nominal = " " + p.nominal + " ";
  return std::any_of(range.begin(), range.end(), [&](const Sold& s) {
    return s.schedule == p.schedule && s.nominals.find(nominal) != std::string_view::npos;
  });
}

// Of the ranges of its standard the one that has the size, else the first; none: it is sold by its schedule.
std::span<const Sold> rangeOf(const PipeSize& size) {
  if (size.standard == "EN 545" && size.schedule.starts_with("C")) return preferred;
  if (size.standard == "EN 10220") return normalSteel;
  if (size.standard == "ISO 1127") return normalStainless;
  if (size.standard != "EN 1057") return {};
  return !sells(copper, size) && sells(copperX, size) ? std::span<const Sold>(copperX) : copper;
}

bool seldomKept(const PipeSize& p) {
  return (p.standard == "ASME B36.10M" || p.standard == "ASME B36.19M") &&
         (p.nominal == "1-1/4" || p.nominal == "3-1/2" || p.nominal == "5");
}

}  // namespace

std::vector<const PipeSize*> soldWith(const PipeSize& size, const Stock& stock) {
  const std::span<const Sold> range =
      size.origin == Origin::shipped ? rangeOf(size) : std::span<const Sold>();
  std::vector<const PipeSize*> sold;
  for (const PipeSize& p : stock.pipes) {
    if (p.standard != size.standard) continue;
    const bool itself = &p == &size || (p.nominal == size.nominal && p.schedule == size.schedule);
    const bool listed = range.empty()
                            ? p.schedule == size.schedule && (p.origin != Origin::shipped || !seldomKept(p))
                            : sells(range, p) || p.origin != Origin::shipped;
    // Of the nominal size it has, its own wall stands in place of the usual one.
    if (itself || (listed && !(p.nominal == size.nominal && p.origin == Origin::shipped))) sold.push_back(&p);
  }
  std::stable_sort(sold.begin(), sold.end(), [](auto* a, auto* b) { return a->bore_m < b->bore_m; });
  return sold;
}

}  // namespace conduit
