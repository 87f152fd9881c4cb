#include "solve/solve.h"

#include <fmt/format.h>

#include <chrono>

#include "solve/determinacy.h"
#include "solve/read_out.h"
#include "solve/released.h"
#include "solve/shut_off.h"
#include "solve/states.h"
#include "solve/system.h"
#include "solve/tees.h"

namespace conduit {
namespace {

void tell(const StatesFound& found, const Network& network, const System& s, Summary& sum) {
  if (found.end == Newton::End::stopped) {
    sum.verdict = Verdict::stopped;
  } else if (found.named()) {
    sum.verdict = Verdict::noStates;
    sum.problems.push_back(contradiction(found, network, s));
  } else if (found.end != Newton::End::converged || !found.consistent || !found.fighting.empty()) {
    sum.verdict = Verdict::notConverged;
  } else {
    sum.verdict = Verdict::balanced;
  }
}

void measure(Newton& newton, const StatesFound& found, const System& s, Summary& sum) {
  const Residuals r = newton.residuals();
  sum.iterations += newton.iterations();
  sum.flips = found.flips;
  sum.overChoked = found.overChoked;
  sum.headResidual_m = r.head_m;
  sum.massResidual_m3s = r.mass_m3s;
  sum.massResidualShare = r.massShare;
  sum.headTolerance_m = r.headTolerance_m;
  sum.unknowns = static_cast<std::size_t>(s.freeCount);
  sum.links = s.links.size();
  sum.factorEntries = newton.factorEntries();
  const StageTimes& t = newton.times();
  sum.seconds.order += t.order, sum.seconds.laws += t.laws, sum.seconds.factor += t.factor;
}

}  // namespace

Solution solve(const Network& network, const Stock* stock, const SolveOptions& options) {
  const auto begin = std::chrono::steady_clock::now();
  auto since = [&] {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
  };
  Solution out;
  Summary& sum = out.summary;
  makeRoom(network, System{}, out);
  out.widestBore_m.assign(network.bound(), 0.0);
  network.each([&](Id, const Element& e) { ++(e.part->ends == Ends::self ? sum.points : sum.elements); });
  const auto setting = settingOf(network, stock);
  if (!setting) {
    sum.verdict = Verdict::cannotYet;
    sum.problems.push_back(setting.error());
    return out;
  }
  out.setting = *setting;
  if (sum.elements == 0) return out;
  if (const Wanted wanted = wantedOf(network, *setting); !wanted.empty()) {
    Released released(network, *setting, wanted, options);
    released.run(out);
    if (options.shutOff) out.shutOff = shutOff(network, out);
    sum.seconds.total = since();
    return out;
  }
  // What the last solve left, changed to this network; set up from scratch where there is nothing or it does
  // not fit.
  Workspace own;
  Workspace& space = options.workspace && options.passes.empty() ? *options.workspace : own;
  std::unique_ptr<Workspace::Kept> kept = std::move(space.kept_);
  sum.refitted =
      kept && kept->stock == stock && refit(kept->system, kept->widest_m, kept->network, network, *setting);
  if (!sum.refitted) {
    kept = std::make_unique<Workspace::Kept>();
    kept->widest_m = widestBores(network, *setting);
    GivenInstead instead;
    instead.flows = options.passes;
    SetUp set = setUp(network, *setting, kept->widest_m, instead);
    kept->system = std::move(set.system);
    sum.problems = std::move(set.problems);
  }
  const System& s = kept->system;
  out.widestBore_m = kept->widest_m;
  makeRoom(network, s, out);
  if (sum.problems.empty()) sum.problems = determinacy(network, s, options.units);
  sum.seconds.setUp = since();
  if (!sum.problems.empty()) {
    sum.verdict = Verdict::cannotYet;
    sum.seconds.total = since();
    return out;
  }
  Newton newton(s, std::move(kept->factor));
  if (options.record) newton.keepRecord(&out.steps);
  Iterate x = newton.coldStart();
  sum.warm = options.startFrom != nullptr;
  if (sum.warm) startFrom(*options.startFrom, s, x);
  StatesFound found = settleWithTees(newton, s, x, options.stop, setting->medium.gravity_ms2);
  if (sum.warm && found.end != Newton::End::stopped &&
      (found.end != Newton::End::converged || !found.consistent || !found.fighting.empty())) {
    x = newton.coldStart();  // the last answer led astray: begin afresh
    sum.warm = false;
    found = settleWithTees(newton, s, x, options.stop, setting->medium.gravity_ms2);
  }
  measure(newton, found, s, sum);
  tell(found, network, s, sum);
  if (sum.verdict == Verdict::balanced)
    if (auto ring = shortCircuit(network, s, x.flow_m3s, flowing(x)))
      sum.verdict = Verdict::cannotYet, sum.problems.push_back(std::move(*ring));
  if (sum.verdict == Verdict::balanced) sum.notes = couldRun(found, network, s, options.units);
  if (sum.verdict == Verdict::balanced) {
    readOut(network, s, x, newton.hanging(), out);
    if (auto lifts = liftsWithoutDrive(network, s, out, options.passes))
      sum.verdict = Verdict::cannotYet, sum.problems.push_back(std::move(*lifts));
    checkBoundary(out);
  }
  if (options.shutOff) {
    if (kept->shutOff) out.shutOff = shutOffAsBefore(kept->network, kept->shutOff, network, out);
    if (!out.shutOff) out.shutOff = shutOff(network, out);
  }
  if (&space != &own) {
    kept->shutOff = out.shutOff;
    kept->network = network;
    kept->stock = stock;
    kept->factor = std::move(newton).takeFactor();
    space.kept_ = std::move(kept);
  }
  sum.seconds.total = since();
  return out;
}

}  // namespace conduit
