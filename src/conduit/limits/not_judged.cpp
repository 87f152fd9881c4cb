#include "limits/not_judged.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "quantity/words.h"
#include "say/words.h"
#include "solve/shut_off.h"

namespace conduit {

std::vector<NotJudged> notJudged(const Network& network, const Solution& answer) {
  std::vector<NotJudged> gaps;
  if (!answer.summary.usable()) return gaps;
  network.each([&](Id id, const Element& e) {
    if (!e.part->lacks || id + 1 >= answer.branchBegin.size()) return;
    for (const Lack& l : e.part->lacks(*ReadingOf(network, answer, id)))
      gaps.push_back({l.check, id, l.ofJob ? jobId : id, l.field});
  });
  if (const ShutOff* off = answer.shutOff.get()) {
    for (const Id id : off->unknown)
      gaps.push_back(
          {CheckId::shutOff, id, id, network.at(id).part->group == Group::lift ? "described by" : "outflow"});
    if (!off->complete) gaps.push_back({CheckId::shutOff, jobId, jobId, ""});
  }
  // Whether the liquid boils anywhere.
  if (!answer.setting.vapourKnown) gaps.push_back({CheckId::vapour, jobId, jobId, "vapour pressure"});
  std::stable_sort(gaps.begin(), gaps.end(),
                   [](const NotJudged& a, const NotJudged& b) { return a.check < b.check; });
  return gaps;
}

std::string notJudgedSaid(const Network& network, std::span<const NotJudged> gaps) {
  std::string words;
  for (std::size_t i = 0; i < gaps.size();) {
    const CheckId check = gaps[i].check;
    words += fmt::format("{}{}", words.empty() ? "" : "; ", labelOf(check));
    std::map<const Part*, std::size_t> kinds;
    bool job = false;
    for (; i < gaps.size() && gaps[i].check == check; ++i)
      if (gaps[i].element == jobId) job = true;
      else ++kinds[network.at(gaps[i].element).part];
    bool first = true;
    for (const auto& [part, count] : kinds) {
      std::string plural = lowered(part->plural);
      if (count == 1) plural.pop_back();
      words += fmt::format("{} {} {}", first ? ":" : ",", count, plural);
      first = false;
    }
    if (job && kinds.empty()) words += ": all points";
  }
  return words;
}

std::string lackSaid(const NotJudged& gap) {
  if (gap.field == "vapour pressure") return "the vapour pressure of the liquid is not given";
  if (gap.check == CheckId::npshMargin) return "no NPSH required is given";
  if (gap.check == CheckId::choking) return fmt::format("no pressure recovery factor {} is given", gap.field);
  if (gap.check == CheckId::shutOff)
    return gap.element == jobId ? "there are more ways through pumps in series than were tried"
                                : "nothing says how far its pressure rises when flow stops";
  return fmt::format("no {} is given", spoken(gap.field));
}

}  // namespace conduit
