#include "pump/duty.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "cases/case_edits.h"
#include "fields/keys.h"
#include "parts/pump/machine.h"
#include "pump/way.h"
#include "quantity/parse.h"
#include "quantity/root.h"

namespace conduit {
namespace {

bool isPump(const Element& e) { return e.part->lifts; }

// The curve at a speed or trim is taken as it would run; heads rise with either.
template <class HeadAt>
std::optional<double> rootOf(const HeadAt& headAt, double low, double high, double head) {
  const double a = headAt(low) - head, b = headAt(high) - head;
  if (std::isnan(a) || std::isnan(b) || a > 0 || b < 0) return std::nullopt;
  return halved(low, high, {.times = 100, .within = 1e-13}, [&](double x) { return headAt(x) < head; });
}

}  // namespace

PumpDuty dutyOf(const Network& network, const Solution& solution, Id id) {
  PumpDuty d{.pump = id};
  const ReadingOf r(network, solution, id);
  d.runs = pump::running(*r), d.shutIn = pump::shutIn(*r);
  d.units =
      pump::parallelUnits(*r->values, r->setting->medium) * pump::seriesUnits(*r->values, r->setting->medium);
  d.flow_m3s = outcome::flow(*r), d.head_m = pump::head(*r), d.efficiency = pump::efficiency(*r);
  d.shaft_w = pump::shaftPower(*r), d.ofBest = pump::ofBest(*r), d.npshAvailable_m = pump::npshAvailable(*r);
  d.npshRequired_m = pump::npshRequired(*r), d.npshMargin_m = pump::npshMargin(*r);
  d.speed_perS = pump::runningSpeed(*r), d.motor_w = pump::motorPower(*r);
  d.back = d.flow_m3s && *d.flow_m3s < -solution.still_m3s;
  for (const Check& c : checksOf(network, solution, id))
    if (c.broken()) d.worst = std::min(d.worst, c.severity);
  return d;
}

std::vector<PumpDuty> dutiesOf(const Network& network, const Solution& solution) {
  std::vector<PumpDuty> all;
  network.each([&](Id id, const Element& e) {
    if (isPump(e)) all.push_back(dutyOf(network, solution, id));
  });
  if (!solution.summary.usable()) return all;
  // Down the way from each: pumps met on it are behind; ways that meet before a pump are side by side.
  std::vector<Way> ways;
  for (const PumpDuty& d : all) ways.push_back(wayDown(network, solution, network.at(d.pump).ends[1]));
  const auto flows = [&](const PumpDuty& d) { return d.flow_m3s && *d.flow_m3s > solution.still_m3s; };
  std::vector<std::vector<Id>> points;  // on the way, up to the first pump
  for (const Way& way : ways) {
    std::vector<Id> on{way.from};
    for (const Step& s : way.steps) {
      if (isPump(network.at(s.element))) break;
      if (s.point != noId) on.push_back(s.point);
    }
    std::sort(on.begin(), on.end());
    points.push_back(std::move(on));
  }
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (!flows(all[i])) continue;
    for (std::size_t j = 0; j < all.size(); ++j) {
      if (i == j || !flows(all[j])) continue;
      const auto& steps = ways[i].steps;
      if (std::any_of(steps.begin(), steps.end(), [&](const Step& s) { return s.element == all[j].pump; })) {
        all[i].behind.push_back(all[j].pump), all[j].before.push_back(all[i].pump);
        continue;
      }
      // The water joins, rather than both merely feeding the same far tank.
      const bool meet = std::any_of(points[i].begin(), points[i].end(), [&](Id p) {
        return std::binary_search(points[j].begin(), points[j].end(), p);
      });
      if (meet && i < j) all[i].beside.push_back(all[j].pump), all[j].beside.push_back(all[i].pump);
    }
  }
  // One that is shut in is held up by whoever feeds the line it stands at.
  for (PumpDuty& d : all) {
    if (!d.shutIn || !d.runs) continue;
    std::vector<char> seen(network.bound(), 0);
    std::vector<Id> front{network.at(d.pump).ends[1]};
    while (!front.empty() && d.pushedOffBy == noId) {
      std::vector<Id> next;
      for (const Id p : front) {
        if (seen[p]) continue;
        seen[p] = 1;
        const Way up = wayUp(network, solution, p);
        for (const Step& s : up.steps)
          if (isPump(network.at(s.element)) && s.element != d.pump) {
            d.pushedOffBy = s.element;
            break;
          }
        if (d.pushedOffBy != noId || !up.steps.empty()) continue;  // a way that no pump feeds: a tank does
        for (const Id id : network.elementsAt(p)) {                // at rest: on to where something flows
          const Element& e = network.at(id);
          if (e.part->ends != Ends::two || id == d.pump) continue;
          next.push_back(e.ends[0] == p ? e.ends[1] : e.ends[0]);
        }
      }
      front = std::move(next);
    }
  }
  return all;
}

std::string placeSaid(const Network& network, const PumpDuty& d) {
  const auto names = [&](const std::vector<Id>& ids) {
    std::string said;
    for (std::size_t i = 0; i < ids.size(); ++i) {
      if (i == 3) return said + fmt::format(" and {} more", ids.size() - 3);
      said += (i ? ", " : "") + network.at(ids[i]).name;
    }
    return said;
  };
  std::string said;
  const auto add = [&](const std::string& words) { said += (said.empty() ? "" : ", ") + words; };
  if (!d.beside.empty()) add("in parallel with " + names(d.beside));
  if (!d.before.empty()) add("downstream of " + names(d.before));
  if (!d.behind.empty()) add("upstream of " + names(d.behind));
  if (d.pushedOffBy != noId) add("dead-headed by " + network.at(d.pushedOffBy).name);
  return said;
}

std::optional<double> speedForDuty(const Values& values, const Setting& setting, double flow, double head) {
  const auto rated = get(values, pump::ratedSpeed, setting.medium);
  const auto headAt = [&](double s) {
    Values v = values;
    // The viscous correction goes by the speed it runs at.
    if (rated) v.set(pump::speed.text, Given{.value = rated->si() * s});
    const auto rows = pump::rowsOf(v, setting, s);
    return rows.size() < 2 ? NAN : pump::HeadCurve(rows, s).at(flow).value;
  };
  return rootOf(headAt, 0.2, 2.0, head);
}

std::optional<double> trimForDuty(const Values& values, const Setting& setting, double flow, double head) {
  const auto rated = get(values, pump::ratedImpeller, setting.medium);
  const double s = pump::speedRatio(values, setting.medium);
  const auto headAt = [&](double t) {
    Values v = values;
    const double full = rated ? rated->si() : 1.0;
    v.set(pump::ratedImpeller.text, Given{.value = full});
    v.set(pump::impeller.text, Given{.value = full * t});
    const auto rows = pump::rowsOf(v, setting, s);
    return rows.size() < 2 ? NAN : pump::HeadCurve(rows, s).at(flow).value;
  };
  return rootOf(headAt, 0.7, 1.0, head);
}

namespace {

// Of a pump at full speed that does not come to what its speed is to hold.
std::string whyNotHeld(const Network& n, const Solution& answer, Id id, const SpeedGoal& goal,
                       const PumpDuty& duty) {
  std::optional<double> there = duty.flow_m3s;
  if (!goal.flow) {
    const Id at = goal.at == noId ? n.at(id).ends[1] : goal.at;
    const auto head = answer.head(at);
    const Given* z = n.at(at).given(key::height);
    there = head && z ? std::optional(answer.setting.medium.pressureOf(*head - z->value)) : std::nullopt;
  }
  if (!there) return "not determined there";
  return *there > goal.value_si ? "already exceeded without the pump" : "not reached at full speed";
}

}  // namespace

std::vector<SpeedRow> speedsOver(const Model& model, std::span<const CaseId> cases,
                                 const std::shared_ptr<const Stock>& stock, Id id, const SpeedGoal& goal,
                                 const UnitSet& units, JobOptions jobs) {
  const auto results = runJobs(
      cases.size(),
      [&](std::size_t i, std::size_t, std::stop_token stop) {
        SpeedRow row{.id = cases[i]};
        Draft draft(networkOf(model, cases[i]));
        if (!draft.network().find(id)) return row;
        Values& v = draft.values(id);
        v.set(key::running, true);
        v.set(pump::keepsKey, std::string(pump::kept[goal.flow ? 2 : 1]));
        v.clear(pump::keptAtKey);
        const auto given = v.goals();  // of its own: the speed is now for something else
        for (const Values::Goal& g : given) v.ungive(g.outcome);
        if (goal.flow) {
          v.set(pump::keptFlow.text,
                *parse(fmt::format("{:.15g} L/s", goal.value_si * 1000), Measure::volumeFlow));
        } else {
          v.set(pump::keptPressure.text,
                *parse(fmt::format("{:.15g} Pa", goal.value_si), Measure::gaugePressure));
          if (goal.at != noId && goal.at != draft.network().at(id).ends[1])
            v.set(pump::keptAtKey, draft.network().at(goal.at).name);
        }
        // It may use all the speed it is allowed, not only what it runs at now.
        if (const Given* most = v.get<Given>(limitRow(LimitId::speedMost).key))
          v.set(pump::speed.text, *most);
        else v.clear(pump::speed.text);
        const Network n = std::move(draft).finish();
        const Solution answer = solve(n, stock.get(), {.units = units, .stop = stop});
        row.solved = answer.summary.usable();
        if (!row.solved) {
          row.why =
              answer.summary.problems.empty() ? "no solution found" : answer.summary.problems.front().what;
          return row;
        }
        row.duty = dutyOf(n, answer, id);
        const ReadingOf r(n, answer, id);
        row.ratio = pump::ratioNow(*r);
        row.held = !r->branches.empty() && r->branches[0].state == BranchState::acting;
        if (!row.held) row.why = whyNotHeld(n, answer, id, goal, row.duty);
        const auto least = ownLimit(*r->values, LimitId::speedLeast, r->setting->medium).si,
                   most = ownLimit(*r->values, LimitId::speedMost, r->setting->medium).si;
        row.tooSlow = least && row.duty.speed_perS && *row.duty.speed_perS < *least * (1 - 1e-9);
        row.tooFast = most && row.duty.speed_perS && *row.duty.speed_perS > *most * (1 + 1e-9);
        return row;
      },
      jobs);
  std::vector<SpeedRow> rows;
  for (std::size_t i = 0; i < results.size(); ++i) {
    if (results[i]) rows.push_back(*results[i]);
    else
      rows.push_back(
          {.id = cases[i], .why = results[i].error().stopped ? "stopped" : results[i].error().what});
  }
  return rows;
}

}  // namespace conduit
