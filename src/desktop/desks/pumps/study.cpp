#include "desks/pumps/study.h"

#include <chrono>

#include "cases/case_edits.h"
#include "model/offered_sizes.h"
#include "model/sizing_setup.h"
#include "parts/pump/machine.h"

namespace conduit::desktop {

PumpStudy::PumpStudy(Document& document, QObject* parent)
    : QObject(parent), work_(tr("The pump study"), this) {
  document.watch(work_);
}

namespace {

using Tell = std::function<void(StudyResult)>;
using Progress = std::function<void(std::size_t done, std::size_t of)>;

void workOut(const StudyWork& w, const Tell& tell, const Progress& progress, std::stop_token stop) {
  StudyResult r{.work = w};
  const auto finish = [&] {
    r.done = true, r.stopped = stop.stop_requested();
    tell(r);
  };
  try {
    const Stock* stock = w.stock.get();
    Network now = networkOf(w.model, w.in);
    if (w.rest != noId && w.answer && w.answer->usable())
      now = restFrom(now, w.answer->solution, w.place, w.rest);
    auto there = standIn(now, w.place);
    if (!there) {
      r.problem = there.error().what;
      return finish();
    }
    r.network = std::move(there->network), r.pump = there->pump, r.made = there->made;
    if (!r.made && w.answer && w.answer->usable()) r.base = w.answer->solution;
    else r.base = solve(r.network, stock, {.units = w.units, .stop = stop, .offers = 0});
    if (stop.stop_requested()) return finish();
    r.group = {.members = {r.pump}};
    if (!r.made && w.together.size() > 1) {
      auto group = groupOf(r.network, r.base, w.together);
      if (group) r.group = std::move(*group);
      else r.problem = group.error().what;
    }
    r.sheet = curveSheet(r.network, r.base, r.pump, w.units);
    if (r.group.members.size() > 1)
      r.groupCurve = groupCurve(r.network, stock, r.base, r.group, {.stop = stop});
    tell(r);

    if (w.growing && w.shared.supply != noId) {
      const Solution& base = w.answer && w.answer->usable() ? w.answer->solution : Solution::none();
      auto curve = sharedCurve(now, stock, base, w.shared, {.jobs = {.stop = stop}});
      if (curve) r.shared = std::move(*curve);
      else r.problem = curve.error().what;
      tell(r);
    } else {
      double most = r.groupCurve.empty() ? 1.05 * r.sheet.runOut_m3s : 1.05 * r.groupCurve.last();
      if (!(most > 0)) {
        const double flow =
            r.base.summary.usable() ? std::abs(r.base.branch(r.pump, 0).flow_m3s.value_or(0.0)) : 0.0;
        const double drawn = w.answer ? w.answer->solution.summary.outflow_m3s : 0.0;
        most = std::max({1.6 * flow, 1.5 * drawn, 1e-4});
      }
      std::vector<CaseId> ids{w.in};
      for (const CaseId id : w.ticked)
        if (id != w.in) ids.push_back(id);
      for (const CaseId id : ids) {
        const CurveOptions options{.most_m3s = most, .units = w.units, .jobs = {.stop = stop}};
        if (id == w.in) {
          r.curves.push_back({id, systemCurve(r.network, stock, r.base, r.group, options)});
        } else if (auto in = standIn(networkOf(w.model, id), w.place)) {
          const Solution base = solve(in->network, stock, {.units = w.units, .stop = stop, .offers = 0});
          r.curves.push_back({id, systemCurve(in->network, stock, base, r.group, options)});
        }
        if (stop.stop_requested()) return finish();
        tell(r);
      }
    }
    if (r.base.summary.usable() && r.network.at(r.pump).part->lifts) {
      const double most =
          std::max(r.sheet.runOut_m3s, 1.2 * std::abs(r.base.branch(r.pump, 0).flow_m3s.value_or(0.0)));
      if (most > 0 && !r.made) {
        r.npshAvailable = npshAvailable(r.network, stock, r.base, r.pump, most, {.stop = stop});
        tell(r);
        r.budget = suctionBudget(r.network, r.base, stock, r.pump, stop);
        if (stop.stop_requested()) return finish();
        tell(r);
        r.remedies = suctionRemedies(r.network, r.base, stock, w.units, r.pump, stop);
        // With another size the remedy would not be the one that was tried.
        std::erase_if(r.remedies, [&](const TriedRemedy& tried) {
          return !isOffered(tried.remedy, r.network, stock, w.model.of<SizingSetup>().ranges);
        });
      }
    }
    if (stop.stop_requested()) return finish();
    tell(r);
    if (!r.made) r.vapour = vapourMargins(r.network, r.base, stock, 1, stop);
    if (stop.stop_requested()) return finish();
    if (w.hold && !r.made) {
      const auto ids = w.model.cases.ids();
      r.speeds = speedsOver(w.model, ids, w.stock, r.pump, *w.hold, w.units, {.stop = stop});
      tell(r);
    }
    if (w.candidates && r.network.at(r.pump).part->lifts) {
      SelectOptions options{.current = w.in, .units = w.units};
      options.jobs.stop = stop;
      options.jobs.progress = [&, last = std::chrono::steady_clock::time_point()](std::size_t done,
                                                                                  std::size_t of) mutable {
        const auto at = std::chrono::steady_clock::now();
        if (at - last < std::chrono::milliseconds(100) && done < of) return;
        last = at;
        progress(done, of);
      };
      r.selection = select(w.model, w.place, w.request, w.stock, options);
    }
  } catch (...) {
    r.problem = jobs::wordsOfException();
    finish();
    throw;
  }
  finish();
}

}  // namespace

void PumpStudy::begin(StudyWork next) {
  work_.begin([this, next = std::move(next)](const Background::Post& post, std::stop_token stop) {
    workOut(
        next,
        [&](StudyResult r) {
          post([this, result = std::make_shared<const StudyResult>(std::move(r))] { emit found(result); });
        },
        [&](std::size_t done, std::size_t of) {
          post([this, done, of] { emit progress(static_cast<int>(done), static_cast<int>(of)); });
        },
        std::move(stop));
  });
}

}  // namespace conduit::desktop
