#include "sizing/balance_flows.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "fields/keys.h"
#include "loss/orifice.h"
#include "network/setting.h"
#include "parts/orifice_plate.h"
#include "parts/registry.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "quantity/root.h"
#include "sizing/choices.h"

namespace conduit {
namespace {

constexpr std::string_view openingKey = key::opening;

std::optional<double> dropAcross(const Solution& answer, Id valve) {
  const BranchReading b = answer.branch(valve, 0);
  return b.headFrom_m && b.headTo_m ? std::optional(*b.headFrom_m - *b.headTo_m) : std::nullopt;
}
Network withOpening(const Network& network, std::span<const BranchFlow> flows, const char* opening) {
  Draft draft(network);
  for (const BranchFlow& f : flows) {
    draft.values(f.valve).ungive(key::flow);
    draft.values(f.valve).set(openingKey, *parse(opening, Measure::ratio));
  }
  return std::move(draft).finish();
}
std::string whyOf(const Solution& answer) {
  return answer.summary.problems.empty() ? "no solution found" : answer.summary.problems.front().what;
}

// The bore of the valve's own branch: the narrower of the pipes that are first on each side, past equipment,
// up to where the branch ends on a header or at something that takes. A pipe of the header is not its branch.
// Where no pipe belongs to it, the narrowest that meets it; else the valve's own.
double branchBore(const Network& n, const Setting& setting, Id valve, std::span<const EndPlace> ends) {
  double pipe = 1e300;
  for (const Id end : n.at(valve).ends)
    if (const auto pipes = pipesFrom(n, valve, end); !pipes.empty()) {
      const Element& first = n.at(pipes.front());
      Values scratch;
      pipe = std::min(
          pipe,
          first.part->geometry(valuesOf(first, setting.stock, scratch), setting).bore_m.value_or(1e300));
    }
  if (pipe < 1e299) return pipe;
  for (const EndPlace& e : ends) pipe = std::min(pipe, e.bore_m.value_or(1e300));
  if (const Given* own = n.at(valve).given(key::bore); own && !(pipe < 1e299)) pipe = own->value;
  return pipe;
}

// Its loss falls as the hole grows: closed in on from both sides.
std::optional<double> orificeFor(const Network& n, const Solution& there, const std::vector<double>& widest,
                                 BalancedBranch& b) {
  const auto ends = endPlaces(n, n.at(b.valve), there.setting, widest);
  const double pipe = branchBore(n, there.setting, b.valve, ends);
  const Part* plate = &orificeplate::part;
  if (!plate || !(pipe < 1e299) || !(b.spare_m > 0)) return std::nullopt;
  b.platePipe_m = pipe;
  const auto drop = [&](double bore) {
    Values v;
    v.set(key::bore, Given{.value = bore, .typed = {}});
    v.set("pipe bore", Given{.value = pipe, .typed = {}});
    const Prepared p = plate->prepare(v, there.setting, ends);
    double memory = 0.0;
    return p.branches.empty() || !p.branches[0].law ? NAN : p.branches[0].law->at(b.flow_m3s, memory).drop_m;
  };
  const double low = orifice::leastRatio * pipe * (1 + 1e-9), high = orifice::mostRatio * pipe * (1 - 1e-9);
  if (!(drop(low) > b.spare_m) || !(drop(high) < b.spare_m)) return std::nullopt;
  return halved(low, high, {}, [&](double bore) { return drop(bore) > b.spare_m; });
}

std::string stockValveFor(const Stock& stock, double kv) {
  std::string name;
  double least = 1e300;
  for (const StockItem& item : stock.items) {
    if (item.kind != "control valve") continue;
    const auto field = std::find_if(item.fields.begin(), item.fields.end(),
                                    [](const auto& f) { return f.first == key::kv; });
    if (field == item.fields.end()) continue;
    const auto of = parse(field->second, Measure::flowCoefficient, nullptr);
    if (of && 0.9 * of->value >= kv && of->value < least) least = of->value, name = item.item;
  }
  return name;
}

// Too many flows are given: which of them can be let go, by trying.
void letGo(const Network& open, std::span<const BranchFlow> flows, const std::shared_ptr<const Stock>& stock,
           const UnitSet& units, const std::stop_token& stop, FlowBalance& out) {
  constexpr std::size_t tries = 200, most = 5;
  for (const BranchFlow& one : flows) {
    if (stop.stop_requested() || flows.size() < 2 || out.triedToLetGo == tries || out.letGo.size() == most)
      return;
    ++out.triedToLetGo;
    SolveOptions others{.units = units, .stop = stop, .offers = 0, .notes = false};
    for (const BranchFlow& f : flows)
      if (f.valve != one.valve) others.passes[f.valve] = f.flow_m3s;
    if (solve(open, stock.get(), others).summary.usable()) out.letGo.push_back(one.valve);
  }
}

}  // namespace

FlowBalance balanceFlows(const Network& network, std::span<const BranchFlow> flows,
                         const std::shared_ptr<const Stock>& stock, const UnitSet& units,
                         std::stop_token stop) {
  FlowBalance out;
  out.network = network;
  for (const BranchFlow& f : flows) {
    const Element* e = network.find(f.valve);
    if (!e || !e->part->balances) {
      out.why = "only control valves can balance branches";
      return out;
    }
    if (!(f.flow_m3s > 0)) {
      out.why = fmt::format("the design flow of {} must be above zero in its drawn direction", e->name);
      return out;
    }
    if (std::any_of(out.branches.begin(), out.branches.end(),
                    [&](const BalancedBranch& b) { return b.valve == f.valve; })) {
      out.why = fmt::format("{} has two design flows", e->name);
      return out;
    }
    out.branches.push_back({.valve = f.valve, .flow_m3s = f.flow_m3s});
  }
  if (out.branches.empty()) {
    out.why = "no branch has a design flow";
    return out;
  }
  // What there is for each valve where all pass what they should.
  const Network open = withOpening(network, flows, "100 %");
  SolveOptions given{.units = units, .stop = stop};
  for (const BranchFlow& f : flows) given.passes[f.valve] = f.flow_m3s;
  const Solution there = solve(open, stock.get(), given);
  const Solution without = solve(open, stock.get(), {.units = units, .stop = stop});
  if (!there.summary.usable()) {
    out.why = whyOf(there);
    if (without.summary.usable()) letGo(open, flows, stock, units, stop, out);
    else if (!without.summary.problems.empty()) out.remedies = without.summary.problems.front().remedies;
    return out;
  }
  const auto widest = widestBores(open, there.setting);
  for (BalancedBranch& b : out.branches) {
    b.there_m = dropAcross(there, b.valve).value_or(NAN);
    // What the valve itself takes wide open, by its own law.
    const Element& e = open.at(b.valve);
    Values scratch;
    const Prepared prepared = e.part->prepare(valuesOf(e, stock.get(), scratch), there.setting,
                                              endPlaces(open, e, there.setting, widest));
    if (prepared.branches.empty() || !prepared.branches[0].law) {
      out.why = fmt::format("{} is incomplete", e.name);
      return out;
    }
    double memory = 0.0;
    b.wideOpen_m = prepared.branches[0].law->at(b.flow_m3s, memory).drop_m;
    b.spare_m = b.there_m - b.wideOpen_m;
    const Id behind = e.ends[1];
    b.setPoint_pa = outcomeOf(*open.at(behind).part, key::pressure, *ReadingOf(open, there, behind));
    if (without.summary.usable()) b.without_m3s = without.branch(b.valve, 0).flow_m3s;
  }
  const auto least = std::min_element(
      out.branches.begin(), out.branches.end(),
      [](const BalancedBranch& a, const BalancedBranch& b) { return a.spare_m < b.spare_m; });
  out.index = least->valve, out.save_m = least->spare_m;
  if (out.save_m < 0) {
    out.why = fmt::format("{} is the index circuit: wide open it is short of head by {:.3g} m",
                          network.at(out.index).name, -out.save_m);
    return out;
  }
  for (BalancedBranch& b : out.branches) b.orifice_m = orificeFor(open, there, widest, b);
  // The openings, as found for flows that are given.
  Draft draft(open);
  for (const BranchFlow& f : flows) {
    draft.values(f.valve).set(openingKey, *parse("50 %", Measure::ratio));
    draft.values(f.valve).release(openingKey);
    draft.values(f.valve).give(key::flow,
                               *parse(fmt::format("{:.15g} L/s", f.flow_m3s * 1000), Measure::volumeFlow));
  }
  const Network asked = std::move(draft).finish();
  const Solution found = solve(asked, stock.get(), {.units = units, .stop = stop});
  if (!found.summary.usable()) {
    out.why = whyOf(found);
    return out;
  }
  Draft set(open);
  for (BalancedBranch& b : out.branches) {
    b.opening = found.foundFor(b.valve, openingKey);
    if (!b.opening) continue;
    const ReadingOf r(asked, found, b.valve);
    b.kv = outcomeOf(*asked.at(b.valve).part, "Kv at this opening", *r);
    if (b.kv) b.stockValve = stockValveFor(*stock, *b.kv);
    set.values(b.valve).set(openingKey, exactGiven(*b.opening, Measure::ratio));
  }
  out.network = std::move(set).finish();
  const Solution again = solve(out.network, stock.get(), {.units = units, .stop = stop});
  if (!again.summary.usable()) {
    out.why = whyOf(again);
    return out;
  }
  out.balanced = true;
  if (const Solution before =
          solve(network, stock.get(), {.units = units, .stop = stop, .offers = 0, .notes = false});
      before.summary.usable())
    out.deliveries = deliveryChanges(deliveriesOf(network, before), deliveriesOf(out.network, again));
  const auto shut =
      runJobs(out.branches.size(),
              [&](std::size_t i, std::size_t, std::stop_token) -> std::optional<double> {
                SolveOptions options{.startFrom = &again, .units = units, .stop = stop, .offers = 0};
                options.passes[out.branches[i].valve] = 0.0;
                const Solution closed = solve(out.network, stock.get(), options);
                return closed.summary.usable() ? dropAcross(closed, out.branches[i].valve) : std::nullopt;
              },
              {.stop = stop});
  for (std::size_t i = 0; i < out.branches.size(); ++i) {
    BalancedBranch& b = out.branches[i];
    b.again_m3s = again.branch(b.valve, 0).flow_m3s;
    if (b.again_m3s) out.worst = std::max(out.worst, std::abs(*b.again_m3s / b.flow_m3s - 1));
    // What it takes wide open at its flow over what it bears when it is shut.
    if (shut[i] && *shut[i] && **shut[i] > 0) b.authority = b.wideOpen_m / **shut[i];
  }
  return out;
}

}  // namespace conduit
