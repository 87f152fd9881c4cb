#include "limits/deliveries.h"
#include "fields/keys.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace conduit {

bool takesGiven(const Element& e) {
  if (e.part->ends == Ends::self) return !e.values.released(key::outflow);
  if (e.part->group == Group::drawOff) return e.values.goal(key::flow) != nullptr;
  return e.values.released(key::pressure) || e.values.released(key::level);
}

std::optional<double> takenBy(const Element& e, const Reading& r) {
  if (e.part->ends == Ends::self) {
    const Medium& medium = r.setting->medium;
    const auto out = get(*r.values, Key<VolumeFlow>{key::outflow}, medium),
               in = get(*r.values, Key<VolumeFlow>{key::inflow}, medium);
    if (!out && !in) return std::nullopt;
    const double flow = (out ? out->si() : 0.0) - (in ? in->si() : 0.0);
    if (flow <= 0) return flow;
    const auto pressure = outcomeOf(*e.part, key::pressure, r);
    const auto height = get(*r.values, Key<Height>{key::height}, medium);
    if (!pressure || !height) return std::nullopt;
    const double required =
        limitsFor(*r.values, *r.setting, height->si())[LimitId::pressureLeast].si.value_or(0.0);
    return *pressure >= required - 1.0 ? flow : 0.0;
  }
  if (e.part->group == Group::drawOff) return outcome::flow(r);
  if (e.part->group != Group::supply) return std::nullopt;
  if (const auto in = outcomeOf(*e.part, key::flowIn, r)) return -*in;
  if (const auto out = outcomeOf(*e.part, key::flowOut, r)) return -*out;
  return std::nullopt;
}

std::vector<Delivery> deliveriesOf(const Network& network, const Solution& answer) {
  std::vector<Delivery> all;
  if (!answer.summary.usable()) return all;
  network.each([&](Id id, const Element& e) {
    const bool point = e.part->ends == Ends::self;
    if (point ? !e.values.entry(key::outflow) && !e.values.entry(key::inflow)
              : e.part->group != Group::drawOff && e.part->group != Group::supply)
      return;
    if (const auto flow = takenBy(e, *ReadingOf(network, answer, id)))
      all.push_back({id, *flow, takesGiven(e)});
  });
  return all;
}

double taken(std::span<const Delivery> deliveries) {
  double sum = 0.0;
  for (const Delivery& d : deliveries) sum += std::max(0.0, d.flow_m3s);
  return sum;
}

std::vector<DeliveryChange> deliveryChanges(std::span<const Delivery> now, std::span<const Delivery> then) {
  std::map<Id, DeliveryChange> of;
  for (const Delivery& d : now) of[d.taker].now_m3s = d.flow_m3s;
  for (const Delivery& d : then) of[d.taker].then_m3s = d.flow_m3s;
  std::vector<DeliveryChange> changes;
  for (auto& [id, change] : of) {
    change.taker = id;
    if (change.now_m3s > 0 || change.then_m3s > 0) changes.push_back(change);
  }
  std::stable_sort(changes.begin(), changes.end(),
                   [](const auto& a, const auto& b) { return a.share() < b.share(); });
  return changes;
}

std::string lossSaid(const Network& network, std::span<const DeliveryChange> changes) {
  const Element* e = changes.empty() || changes[0].kept() ? nullptr : network.find(changes[0].taker);
  if (!e) return {};
  return changes[0].then_m3s <= 0
             ? e->name + " gets nothing"
             : fmt::format("{} gets {:.0f} % of its present flow", e->name, changes[0].share() * 100);
}

}  // namespace conduit
