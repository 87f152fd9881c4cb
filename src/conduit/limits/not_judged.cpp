#include "limits/not_judged.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "fields/keys.h"
#include "parts/flange.h"
#include "parts/waiver.h"
#include "quantity/words.h"
#include "say/words.h"
#include "solve/shut_off.h"

namespace conduit {

std::vector<NotJudged> notJudged(const Network& network, const Solution& answer) {
  std::vector<NotJudged> gaps;
  if (!answer.summary.usable()) return gaps;
  network.each([&](Id id, const Element& e) {
    if (flange::unknown(e.values, answer.setting))
      gaps.push_back({CheckId::rating, id, id, flange::classKey});
    if (!e.part->lacks || id + 1 >= answer.branchBegin.size()) return;
    for (const Lack& l : e.part->lacks(*ReadingOf(network, answer, id)))
      gaps.push_back({l.check, id, l.ofJob ? jobId : id, l.field});
  });
  if (const ShutOff* off = answer.shutOff.get()) {
    for (const Id id : off->unknown)
      gaps.push_back({CheckId::shutOff, id, id, network.at(id).part->lifts ? "described by" : key::outflow});
    if (!off->complete) gaps.push_back({CheckId::shutOff, jobId, jobId, ""});
  }
  // Whether the liquid boils anywhere.
  if (!answer.setting.vapourKnown) gaps.push_back({CheckId::vapour, jobId, jobId, key::vapourPressure});
  std::erase_if(gaps, [&](const NotJudged& gap) {
    const CheckSet waived = gap.element == jobId ? answer.setting.limits.waived
                                                 : waivedFor(network.at(gap.element).values, answer.setting);
    return waived[static_cast<std::size_t>(gap.check)];
  });
  std::stable_sort(gaps.begin(), gaps.end(),
                   [](const NotJudged& a, const NotJudged& b) { return a.check < b.check; });
  return gaps;
}

std::vector<LeftOut> notApplicable(const Network& network) {
  std::vector<LeftOut> all;
  eachWithJob(network, [&](Id id, const Element& e) {
    if (const auto* text = e.text(waivedKey))
      for (Waiver& w : waiversIn(*text)) all.push_back({id, w.check, std::move(w.why)});
  });
  return all;
}

std::string leftOutSaid(const Network& network, const LeftOut& out) {
  return out.element == jobId ? fmt::format("{}: {}", out.check, out.why)
                              : fmt::format("{} of {}: {}", out.check, network.at(out.element).name, out.why);
}

namespace {

// "Pressure rating: 12 lines, 1 pump; Vapour pressure: all points", in the order in which they come.
class Counted {
 public:
  void add(std::string_view check, const Part* part) {
    auto at = std::find_if(checks_.begin(), checks_.end(), [&](const auto& c) { return c.first == check; });
    if (at == checks_.end()) at = checks_.insert(at, {check, {}});
    ++at->second[part];
  }
  [[nodiscard]] std::string said(std::string_view ofJob) const {
    std::string words;
    for (const auto& [check, kinds] : checks_) {
      words += fmt::format("{}{}", words.empty() ? "" : "; ", check);
      bool first = true;
      for (const auto& [part, count] : kinds) {
        if (part->ends == Ends::none) {
          if (kinds.size() == 1 && !ofJob.empty()) words += fmt::format(": {}", ofJob);
          continue;
        }
        std::string plural = lowered(part->plural);
        if (count == 1) plural.pop_back();
        words += fmt::format("{} {} {}", first ? ":" : ",", count, plural);
        first = false;
      }
    }
    return words;
  }

 private:
  std::vector<std::pair<std::string_view, std::map<const Part*, std::size_t>>> checks_;
};

}  // namespace

std::string doubtfulSaid(const Network& network, std::span<const Finding> findings) {
  Counted counted;
  for (const Finding& f : findings) {
    if (!f.doubtful) continue;
    const Id id = network.byName(f.place.name);
    counted.add(f.check, network.at(id == noId ? jobId : id).part);
  }
  return counted.said("");
}

std::string notJudgedSaid(const Network& network, std::span<const NotJudged> gaps) {
  Counted counted;
  for (const NotJudged& gap : gaps) counted.add(labelOf(gap.check), network.at(gap.element).part);
  return counted.said("all points");
}

std::string lackSaid(const NotJudged& gap) {
  if (gap.field == key::vapourPressure) return "the vapour pressure of the liquid is not given";
  if (gap.check == CheckId::npshMargin) return "no NPSH required is given";
  if (gap.check == CheckId::driver && gap.field != key::driver) return "no efficiency is given";
  if (gap.check == CheckId::entranceLoss) return "no bore is given, and no pipe is joined there";
  if (gap.check == CheckId::rating && gap.field == flange::classKey)
    return "nothing is known of that flange class at the temperature of the liquid";
  if (gap.check == CheckId::choking) return fmt::format("no pressure recovery factor {} is given", gap.field);
  if (gap.check == CheckId::shutOff)
    return gap.element == jobId ? "there are more ways through pumps in series than were tried"
                                : "nothing says how far its pressure rises when flow stops";
  return fmt::format("no {} is given", spoken(gap.field));
}

}  // namespace conduit
