#include "find/remedies.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <set>

#include "fields/keys.h"
#include "limits/deliveries.h"
#include "limits/limits.h"
#include "network/edits.h"
#include "network/onward.h"
#include "network/put.h"
#include "parts/pump/machine.h"
#include "quantity/format.h"
#include "route/route.h"
#include "stock/wider.h"

namespace conduit {
namespace {

// Beyond this many elements a trial costs more than somebody waits for.
constexpr std::size_t mostElements = 20000;

std::optional<double> absoluteAt(const Network& network, const Solution& solution, Id point) {
  const auto head = solution.head(point);
  const auto height = givenSi(network.at(point).values, key::height);
  if (!head || !height) return std::nullopt;
  return solution.setting.medium.pressureOf(*head - *height) + solution.setting.atmosphereAt(*height);
}

std::size_t impossible(const std::vector<Finding>& findings) {
  return static_cast<std::size_t>(std::count_if(
      findings.begin(), findings.end(), [](const Finding& f) { return f.severity == Severity::paper; }));
}

class Trials {
 public:
  /// What a trial gives where it mends: "1.02 bar a at N-3"; empty where it does not.
  using Mends = std::function<std::string(const Network&, const Solution&)>;
  Trials(const Network& network, const Solution& solution, const Stock* stock, const UnitSet& units,
         Mends mends, std::size_t fewer, std::stop_token stop)
      : network_(network),
        solution_(solution),
        stock_(stock),
        units_(units),
        mends_(std::move(mends)),
        fewer_(fewer),
        stop_(std::move(stop)),
        before_(impossible(findings(network, solution, units))) {}

  // True when it mends and makes nothing else impossible; then it is offered with what it gives.
  bool offer(std::string words, std::vector<FieldEdit> edits) {
    if (stop_.stop_requested()) return false;
    Remedy remedy{std::move(words), std::move(edits), {}};
    const auto edited = applyRemedy(network_, remedy, stock_, &units_);
    if (!edited) return false;
    const Solution solved =
        solve(edited->network, stock_, {.startFrom = &solution_, .units = units_, .stop = stop_});
    if (!solved.summary.usable()) return false;
    const std::string gives = mends_(edited->network, solved);
    if (gives.empty() || impossible(findings(edited->network, solved, units_)) + fewer_ > before_)
      return false;
    remedy.words += ": " + gives;
    if (now_.empty()) now_ = deliveriesOf(network_, solution_);
    if (const std::string loss =
            lossSaid(network_, deliveryChanges(now_, deliveriesOf(edited->network, solved)));
        !loss.empty())
      remedy.words += "; " + loss;
    remedy.goTo = {remedy.edits.front().name, remedy.edits.front().field};
    remedies.push_back(std::move(remedy));
    return true;
  }
  std::vector<Remedy> remedies;

 private:
  const Network& network_;
  const Solution& solution_;
  const Stock* stock_;
  const UnitSet& units_;
  Mends mends_;
  std::size_t fewer_;  // things that are impossible
  std::stop_token stop_;
  std::size_t before_;
  std::vector<Delivery> now_;  // once it is asked for
};

void tryWider(Trials& trials, const Network& network, const Solution& solution, const Stock* stock,
              const UnitSet& units, const Route& upstream) {
  const RouteStep* worst = nullptr;
  double most = 0.0;
  for (const RouteStep& step : upstream) {
    const Element& e = network.at(step.element);
    if (!e.part->geometry) continue;
    const ReadingOf reading(network, solution, step.element);
    const auto loss = outcome::headLoss(*reading);
    if (loss && std::abs(*loss) > most) most = std::abs(*loss), worst = &step;
  }
  if (!worst) return;
  const Element& line = network.at(worst->element);
  const auto* name = line.text(key::size);
  const PipeSize* size = name && stock ? stock->pipe(*name) : nullptr;
  if (size && !line.given(key::bore)) {
    int tried = 0;
    for (const PipeSize* wider : widerThan(*size, *stock)) {
      if (++tried > 4) return;
      if (trials.offer(fmt::format("Resize {} to {}, bore {}", line.name, wider->name(),
                                   withUnit(wider->bore_m, Measure::bore, units, 4)),
                       {{line.name, key::size, wider->name()}}))
        return;
    }
    return;
  }
  const Given* bore = line.given(key::bore);
  for (const double factor : {1.25, 1.5, 2.0}) {
    if (!bore) return;
    const double wider_m = std::ceil(bore->value * factor * 200) / 200;  // to 5 mm
    if (trials.offer(fmt::format("Resize {} to {}", line.name, withUnit(wider_m, Measure::bore, units, 4)),
                     {{line.name, key::bore, fmt::format("{:.6g} mm", wider_m * 1000)}}))
      return;
  }
}

void tryLower(Trials& trials, const Network& network, const Solution& solution, const Stock* stock,
              const UnitSet& units, Id point, double short_pa) {
  std::string what = network.at(point).name;
  for (const Id id : network.elementsAt(point))
    if (network.at(id).part->lifts) what = network.at(id).name;
  // A few steps: the flow changes with what it now is above.
  for (const double more : {1.1, 1.6, 2.5}) {
    const double by = std::ceil(solution.setting.medium.columnOf(short_pa) * more * 10) / 10;
    const auto height = givenSi(network.at(point).values, key::height);
    if (!height || by > 50) return;
    const auto lowered = setHeight(network, point, metresGiven(*height - by).typed, stock, nullptr);
    if (!lowered) return;
    std::vector<FieldEdit> edits;
    lowered->network.eachApart(network, [&](Id id) {
      const Element *now = lowered->network.find(id), *then = network.find(id);
      if (now && then && now->part->ends == Ends::self && !(now->values == then->values))
        edits.push_back({now->name, key::height, now->given(key::height)->typed});
    });
    if (!edits.empty() &&
        trials.offer(fmt::format("Lower {} by {}", what, withUnit(by, Measure::headDrop, units, 3)), edits))
      return;
  }
}

void tryLess(Trials& trials, const Network& network, const Solution& solution, const UnitSet& units,
             const Route& downstream) {
  for (auto step = downstream.rbegin(); step != downstream.rend(); ++step) {
    if (step->to == noId) continue;
    const Element& end = network.at(step->to);
    const Given* draw = end.given(key::outflow);
    if (!draw) continue;
    const double now = resolve(*draw, Measure::volumeFlow, solution.setting.medium);
    for (const double share : {0.9, 0.8, 0.7, 0.6, 0.5, 0.35, 0.2})
      if (const std::string less = withUnit(now * share, Measure::volumeFlow, units, 3);
          trials.offer(fmt::format("Reduce outflow to {} at {} (now {})", less, end.name, draw->typed),
                       {{end.name, key::outflow, exactText(now * share, Measure::volumeFlow, units)}}))
        return;
    return;
  }
}

}  // namespace

std::vector<Remedy> remediesForLowPressure(const Network& network, const Solution& solution,
                                           const Stock* stock, const UnitSet& units, Id point,
                                           std::stop_token stop) {
  const Element* e = network.find(point);
  if (!e || e->part->ends != Ends::self || !solution.summary.usable() || network.count() > mostElements)
    return {};
  const auto p = absoluteAt(network, solution, point);
  if (!p || *p >= solution.setting.vapour_pa) return {};
  const Route route = traceRoute(network, solution, point);
  const auto at = std::find_if(route.begin(), route.end(), [&](const RouteStep& s) { return s.to == point; });
  const Route upstream(route.begin(), at == route.end() ? at : at + 1);
  const Route downstream(at == route.end() ? route.begin() : at + 1, route.end());
  const auto mends = [&](const Network& edited, const Solution& solved) -> std::string {
    const auto then = absoluteAt(edited, solved, point);
    if (!then || *then < solved.setting.vapour_pa) return {};
    return fmt::format("{} at {}", withUnit(*then, Measure::absolutePressure, units, 3), e->name);
  };
  // One thing less is impossible then: the point itself.
  Trials trials(network, solution, stock, units, mends, 1, std::move(stop));
  tryWider(trials, network, solution, stock, units, upstream);
  tryLower(trials, network, solution, stock, units, point, solution.setting.vapour_pa - *p);
  tryLess(trials, network, solution, units, downstream);
  return std::move(trials.remedies);
}

namespace {

// The surfaces that water could reach from a point without passing the pump.
std::vector<Id> tanksFrom(const Network& network, Id start, Id pump) {
  std::vector<Id> front{start}, tanks;
  std::set<Id> seen{start, pump};
  while (!front.empty()) {
    const Id point = front.back();
    front.pop_back();
    for (const Id id : waterAt(network, point)) {
      if (!seen.insert(id).second) continue;
      const Element& e = network.at(id);
      if (e.part->ends == Ends::many && e.given(key::level)) tanks.push_back(id);
      if (e.part->ends != Ends::two) continue;
      if (const Id next = otherEnd(e, point); seen.insert(next).second) front.push_back(next);
    }
  }
  return tanks;
}

bool isDeadHeaded(const Network& network, const Solution& solution, Id pump) {
  const auto checks = checksOf(network, solution, pump);
  return std::any_of(checks.begin(), checks.end(), [](const Check& c) { return c.id == CheckId::deadHead; });
}

}  // namespace

std::vector<Remedy> remediesForDeadHead(const Network& network, const Solution& solution, const Stock* stock,
                                        const UnitSet& units, Id id, std::stop_token stop) {
  const Element* e = network.find(id);
  if (!e || !e->part->lifts || !solution.summary.usable() || network.count() > mostElements ||
      !isDeadHeaded(network, solution, id))
    return {};
  const ReadingOf r(network, solution, id);
  const double s = pump::ratioNow(*r);
  const auto rows = pump::rowsOf(*r->values, *r->setting, s);
  const auto before = solution.head(e->ends[0]), after = solution.head(e->ends[1]);
  if (rows.size() < 2 || !before || !after) return {};
  const double own = pump::HeadCurve(rows, s).shutOff(), wanted = *after - *before;
  if (own <= 0 || wanted <= own) return {};
  const auto mends = [&](const Network& edited, const Solution& solved) -> std::string {
    const auto q = solved.branch(id, 0).flow_m3s;
    if (!q || *q < 1e-7 || isDeadHeaded(edited, solved, id)) return {};
    return "passes " + withUnit(*q, Measure::volumeFlow, units, 3);
  };
  Trials trials(network, solution, stock, units, mends, 0, stop);
  if (pump::byPoint(*r->values))
    for (const double more : {1.1, 1.3, 1.6}) {
      const Given* head = e->given(pump::dutyHead.text);
      if (!head) break;
      const double to =
          std::ceil(resolve(*head, Measure::headDrop, r->setting->medium) * wanted / own * more);
      if (trials.offer(
              fmt::format("Raise the duty head of {} to {}", e->name, withUnit(to, Measure::headDrop, units)),
              {{e->name, std::string(pump::dutyHead.text), fmt::format("{:.6g} m", to)}}))
        break;
    }
  const auto rated = givenSi(*r->values, pump::ratedSpeed.text),
             fastest = givenSi(*r->values, limitRow(LimitId::speedMost).key);
  if (rated && !pump::keepsSomething(*r->values))
    for (const double more : {1.05, 1.15, 1.3}) {
      const double rpm = std::ceil(*rated * s * std::sqrt(wanted / own) * more * 6) * 10;
      if (rpm / 60 > fastest.value_or(*rated) * (1 + 1e-9)) break;
      if (trials.offer(fmt::format("Run {} at {}", e->name, withUnit(rpm / 60, Measure::rotation, units)),
                       {{e->name, std::string(pump::speed.text), fmt::format("{:.0f} rpm", rpm)}}))
        break;
    }
  for (const Id tank : tanksFrom(network, e->ends[1], id)) {
    const Element& t = network.at(tank);
    bool done = false;
    for (const double more : {1.1, 1.5, 2.5}) {
      const double to = std::floor((*givenSi(t.values, key::level) - (wanted - own) * more) * 10) / 10;
      done = trials.offer(
          fmt::format("Lower the level of {} to {}", t.name, withUnit(to, Measure::height, units)),
          {{t.name, key::level, fmt::format("{:.6g} m", to)}});
      if (done) break;
    }
    if (done) break;
  }
  if (!stop.stop_requested() && pump::described(*r->values, 0))
    trials.remedies.push_back({fmt::format("Select another pump: shut-off head above {}",
                                           withUnit(wanted, Measure::headDrop, units, 3)),
                               {},
                               {e->name, std::string(pump::curveKey)}});
  return std::move(trials.remedies);
}

void addTriedRemedies(std::vector<Finding>& findings, const Network& network, const Solution& solution,
                      const Stock* stock, const UnitSet& units, std::stop_token stop) {
  for (Finding& finding : findings) {
    if (finding.severity > Severity::broken) break;
    const Id id = finding.check == labelOf(CheckId::deadHead) ? network.byName(finding.place.name) : noId;
    if (id == noId || !network.at(id).part->lifts) continue;
    auto remedies = remediesForDeadHead(network, solution, stock, units, id, stop);
    if (remedies.empty()) continue;
    finding.remedies.insert(finding.remedies.begin(), std::make_move_iterator(remedies.begin()),
                            std::make_move_iterator(remedies.end()));
    break;  // one is enough to wait for
  }
  for (Finding& finding : findings) {
    if (finding.severity != Severity::paper) return;  // they stand first
    const Id point = network.byName(finding.place.name);
    if (point == noId || network.at(point).part->ends != Ends::self) continue;
    auto remedies = remediesForLowPressure(network, solution, stock, units, point, stop);
    finding.remedies.insert(finding.remedies.begin(), std::make_move_iterator(remedies.begin()),
                            std::make_move_iterator(remedies.end()));
    return;
  }
}

}  // namespace conduit
