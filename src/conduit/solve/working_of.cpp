#include "solve/working_of.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "fields/keys.h"
#include "parts/law.h"
#include "say/words.h"

namespace conduit {
namespace {

constexpr double pi = 3.14159265358979323846;

class Shared {
 public:
  Shared(const Network& network, const Solution& solution, Id id, std::string_view key)
      : network_(network),
        solution_(solution),
        id_(id),
        e_(network.at(id)),
        reading_(network, solution, id),
        key_(key),
        rho_(solution.setting.medium.density_kgm3),
        g_(solution.setting.medium.gravity_ms2) {
    w_.title = fmt::format("{} of {}", spoken(key), e_.name);
    if (!w_.title.empty())
      w_.title[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(w_.title[0])));
  }

  std::optional<Working> make() {
    bool made = false;
    const bool point = e_.part->ends == Ends::self;
    if (e_.part->working) {
      if (auto own = e_.part->working(*reading_, key_)) return own;
    }
    if (key_ == key::flow) made = flowByBalance();
    else if (key_ == key::flowIn) made = heldFlow();
    else if (key_ == "head loss") made = byLaw() || headLoss();
    else if (key_ == "pressure loss") made = pressureLoss();
    else if (key_ == "pressure before" || key_ == "suction pressure") made = pressure(0);
    else if (key_ == "pressure after" || key_ == "discharge pressure") made = pressure(1);
    else if (key_ == "gauge reading before" || key_ == "gauge reading at start") made = gauge(0);
    else if (key_ == "gauge reading after" || key_ == "gauge reading at end") made = gauge(1);
    else if (key_ == "greatest pressure") made = greatest();
    else if (point && key_ == "head") made = headOfPoint();
    else if (key_ == key::pressure) made = pressure(0);
    else if (point && key_ == "absolute pressure") made = absolute();
    if (!made || w_.lines.empty()) return std::nullopt;
    return std::move(w_);
  }

 private:
  void line(std::string symbol, std::string formula, std::string numbers, double value, std::string unit,
            std::string source = "") {
    w_.lines.push_back({std::move(symbol), std::move(formula), std::move(numbers), value, std::move(unit),
                        std::move(source)});
  }
  [[nodiscard]] const BranchReading* branch() const {
    return reading_->branches.empty() ? nullptr : &reading_->branches[0];
  }
  [[nodiscard]] std::optional<double> headAt(std::size_t end) const {
    if (e_.part->ends == Ends::self) return reading_->head_m;
    if (const BranchReading* b = branch()) return end == 0 ? b->headFrom_m : b->headTo_m;
    return reading_->head_m;
  }
  [[nodiscard]] std::optional<double> heightAt(std::size_t end) const {
    if (e_.part->ends == Ends::self) {
      const Given* z = e_.given(key::height);
      return z ? std::optional(z->value) : std::nullopt;
    }
    return end < reading_->ends.size() ? reading_->ends[end].height_m : std::nullopt;
  }

  bool pressure(std::size_t end) {
    const auto h = headAt(end), z = heightAt(end);
    if (!h || !z) return false;
    line("p", "ρ·g·(H − z)", fmt::format("{:.10g}·{:.10g}·({:.12g} − {:.12g})", rho_, g_, *h, *z),
         rho_ * g_ * (*h - *z), "Pa", "hydrostatics; H is the energy head, z the height");
    return true;
  }
  bool absolute() {
    if (!pressure(0)) return false;
    const double air = solution_.setting.atmosphereAt(*heightAt(0)), p = w_.lines.back().value;
    line("p_abs", "p + p_atm", fmt::format("{:.12g} + {:.12g}", p, air), p + air, "Pa",
         "atmospheric pressure by height, ISO 2533");
    return true;
  }
  bool gauge(std::size_t end) {
    const BranchReading* b = branch();
    if (!b || !b->flow_m3s || end >= reading_->ends.size()) return false;
    const bool own = e_.part->geometry != nullptr;
    const auto bore =
        own ? e_.part->geometry(*reading_->values, solution_.setting).bore_m : reading_->ends[end].bore_m;
    if (!bore || !pressure(end)) return false;
    const double p = w_.lines.back().value, q = std::abs(*b->flow_m3s), v = q / (pi / 4 * *bore * *bore);
    line("v", "4·Q/(π·D²)", fmt::format("4·{:.10g}/(π·{:.10g}²)", q, *bore), v, "m/s", "continuity");
    line("p_gauge", "p − ρ·v²/2", fmt::format("{:.12g} − {:.10g}·{:.10g}²/2", p, rho_, v),
         p - rho_ * v * v / 2, "Pa", "a wall gauge does not read the velocity head (Bernoulli 1738)");
    return true;
  }
  bool greatest() {
    const auto a = gaugeValue(0), b = gaugeValue(1);
    if (!a || !b) return false;
    w_.remark = fmt::format("At the {} of the line; at the other end it is {:.6g} Pa.",
                            *a >= *b ? "start" : "end", std::min(*a, *b));
    return gauge(*a >= *b ? 0 : 1);
  }
  std::optional<double> gaugeValue(std::size_t end) {
    Working kept = std::exchange(w_, {});
    const bool made = gauge(end);
    const double v = made ? w_.lines.back().value : 0.0;
    w_ = std::move(kept);
    return made ? std::optional(v) : std::nullopt;
  }
  bool headLoss() {
    const BranchReading* b = branch();
    if (!b || !b->headFrom_m || !b->headTo_m) return false;
    const bool against = b->flow_m3s && *b->flow_m3s < 0;
    const double from = against ? *b->headTo_m : *b->headFrom_m, to = against ? *b->headFrom_m : *b->headTo_m;
    line("h", "H₁ − H₂", fmt::format("{:.12g} − {:.12g}", from, to), from - to, "m",
         "energy heads before and after, in the direction of the flow");
    if (b->state == BranchState::acting)
      w_.remark = "Throttling: its loss is the difference between the incoming and the held pressure.";
    return true;
  }
  bool pressureLoss() {
    if (!headLoss()) return false;
    const double h = w_.lines.back().value;
    line("Δp", "ρ·g·h", fmt::format("{:.10g}·{:.10g}·{:.12g}", rho_, g_, h), rho_ * g_ * h, "Pa",
         "head of liquid as pressure, at one height");
    return true;
  }

  // By the law of what is set into the line, where that alone gives the loss that was found.
  bool byLaw() {
    const BranchReading* b = branch();
    if (!b || !b->flow_m3s || !b->headFrom_m || !b->headTo_m || b->state != BranchState::open ||
        *b->flow_m3s == 0)
      return false;
    const double q = std::abs(*b->flow_m3s);
    const double loss = (*b->flow_m3s < 0 ? -1 : 1) * (*b->headFrom_m - *b->headTo_m);
    const auto quantity = [&](std::string_view key) -> std::optional<double> {
      const Field* f = findField(*e_.part, key);
      if (!f || f->kind != FieldKind::quantity || (f->applies && !f->applies(*reading_->values)))
        return std::nullopt;
      if (const Given* given = reading_->values->get<Given>(key))
        return resolve(*given, f->measure, solution_.setting.medium);
      return f->fallback;
    };
    const auto agrees = [&](double h) { return std::abs(h - loss) <= 2e-6 * std::abs(loss) + 2e-7; };
    const auto k = quantity(key::lossK);
    const auto bore = seatBore(quantity(key::bore), reading_->ends);
    if (k && bore) {
      const double v = q / (pi / 4 * *bore * *bore), h = *k * v * v / (2 * g_);
      if (agrees(h)) {
        line("v", "4·Q/(π·D²)", fmt::format("4·{:.10g}/(π·{:.10g}²)", q, *bore), v, "m/s",
             "continuity, in its bore");
        line("h", "K·v²/(2·g)", fmt::format("{:.10g}·{:.10g}²/(2·{:.10g})", *k, v, g_), h, "m",
             "definition of K");
        return true;
      }
    }
    const auto rated = quantity("rated flow");
    for (const std::string_view key : {"rated drop", "clean drop"}) {
      const auto drop = quantity(key);
      if (!rated || !drop) continue;
      const double n = quantity("exponent").value_or(2.0), fouling = quantity("fouling").value_or(1.0);
      const double p = *drop * fouling * std::pow(q / *rated, n), h = p / (rho_ * g_);
      if (!agrees(h)) continue;
      line("Δp", "Δp_r·f·(Q/Q_r)^n",
           fmt::format("{:.10g}·{:.10g}·({:.10g}/{:.10g})^{:.10g}", *drop, fouling, q, *rated, n), p, "Pa",
           "through the rated point; f = fouling factor");
      line("h", "Δp/(ρ·g)", fmt::format("{:.12g}/({:.10g}·{:.10g})", p, rho_, g_), h, "m");
      return true;
    }
    // Water at 1 bar: Q in m³/h over Kv, squared, is bar; as a head of the liquid its density falls out.
    auto kv = outcomeOf(*e_.part, "Kv at this opening", *reading_);
    if (!kv) kv = quantity(key::kv);
    if (kv && *kv > 0) {
      const double h = kvResistance(*kv, g_) * q * q;
      if (agrees(h)) {
        line("h", "(3600·Q/Kv)²·10⁵/(1000·g)",
             fmt::format("(3600·{:.10g}/{:.10g})²·100000/(1000·{:.10g})", q, *kv, g_), h, "m",
             "IEC 60534-2-1: Kv is the flow in m³/h at 1 bar of water");
        return true;
      }
    }
    return false;
  }

  // What else comes to or leaves one end of it.
  bool flowByBalance() {
    const BranchReading* b = branch();
    if (!b || !b->flow_m3s || e_.ends.empty()) return false;
    std::size_t best = e_.ends.size(), fewest = 0;
    for (std::size_t i = 0; i < e_.ends.size() && i < 2; ++i) {
      const auto joined = network_.elementsAt(e_.ends[i]).size();
      if (balanceAt(e_.ends[i]) && (best == e_.ends.size() || joined < fewest)) best = i, fewest = joined;
    }
    if (best == e_.ends.size()) return false;
    // Into the point from the others, out of it through this one (or the other way).
    return sumOthers(e_.ends[best], *b->flow_m3s * (best == 0 ? 1.0 : -1.0));
  }
  bool heldFlow() {
    if (e_.ends.empty() || !reading_->inflow_m3s) return false;
    return balanceAt(e_.ends[0]) && sumOthers(e_.ends[0], -*reading_->inflow_m3s);
  }

  struct Share {
    std::string name;
    double into_m3s;
  };
  // What every other element brings into a point; empty where one of them cannot be told.
  std::optional<std::vector<Share>> balanceAt(Id point) const {
    std::vector<Share> shares;
    for (const Id other : network_.elementsAt(point)) {
      const Element& o = network_.at(other);
      if (other == id_ || o.part->group == Group::drawing) continue;
      if (o.part->ends == Ends::many) return std::nullopt;
      const ReadingOf r(network_, solution_, other);
      if (o.part->ends == Ends::one && r->inflow_m3s && r->branches.empty()) {
        shares.push_back({o.name, *r->inflow_m3s});
        continue;
      }
      if (r->branches.size() != 1 || !r->branches[0].flow_m3s) return std::nullopt;
      const double q = *r->branches[0].flow_m3s;
      shares.push_back({o.name, o.ends[0] == point ? -q : q});
    }
    const Element& p = network_.at(point);
    const Medium& medium = solution_.setting.medium;
    for (const auto& [key, sign] : {std::pair{key::outflow, -1.0}, std::pair{key::inflow, 1.0}}) {
      if (p.values.released(key)) return std::nullopt;
      if (const Given* q = p.given(key))
        shares.push_back(
            {fmt::format("{} at {}", key, p.name), sign * resolve(*q, Measure::volumeFlow, medium)});
    }
    if (shares.empty() || shares.size() > 8) return std::nullopt;
    return shares;
  }
  bool sumOthers(Id point, double out_m3s) {
    const auto shares = balanceAt(point);
    if (!shares) return false;
    double sum = 0, most = 0;
    std::string numbers, names;
    const double sign = out_m3s < 0 ? -1 : 1;  // the size, whichever way it flows
    for (const Share& s : *shares) {
      const double v = sign * s.into_m3s;
      sum += v, most = std::max(most, std::abs(v));
      numbers += numbers.empty() ? fmt::format("{:.12g}", v)
                                 : fmt::format(" {} {:.12g}", v < 0 ? "−" : "+", std::abs(v));
      names += (names.empty() ? "" : ", ") + s.name;
    }
    // Rounding of large flows leaves nothing of a small one.
    if (std::abs(sum - std::abs(out_m3s)) > 1e-6 * std::abs(out_m3s) + 1e-9 * most) return false;
    line("Q", "ΣQ of the other flows", std::move(numbers), sum, "m³/s",
         fmt::format("flow balance at {}: {}", network_.at(point).name, names));
    w_.remark = "The flow follows from the whole network; see the working of its head loss for its loss law.";
    return true;
  }

  // From the point before it, by what stands between.
  bool headOfPoint() {
    if (!reading_->head_m) return false;
    for (const Id other : network_.elementsAt(id_)) {
      const Element& o = network_.at(other);
      if (o.part->group == Group::drawing) continue;
      const ReadingOf r(network_, solution_, other);
      if (o.part->ends == Ends::one && r->branches.empty() && r->head_m && o.given(key::pressure)) {
        const auto z = heightAt(0);
        const double p =
            resolve(*o.given(key::pressure), Measure::gaugePressure, solution_.setting.mediumAt(z));
        if (!z || std::abs(*z + p / (rho_ * g_) - *reading_->head_m) > 1e-6) continue;
        line("H", "z + p/(ρ·g)", fmt::format("{:.12g} + {:.12g}/({:.10g}·{:.10g})", *z, p, rho_, g_),
             *reading_->head_m, "m", fmt::format("fixed by {}", o.name));
        return true;
      }
    }
    for (const Id other : network_.elementsAt(id_)) {
      const Element& o = network_.at(other);
      if (o.part->ends != Ends::two || o.part->group == Group::drawing) continue;
      const ReadingOf r(network_, solution_, other);
      if (r->branches.size() != 1 || !r->branches[0].headFrom_m || !r->branches[0].headTo_m) continue;
      const bool first = o.ends[0] == id_;
      const double there = first ? *r->branches[0].headTo_m : *r->branches[0].headFrom_m;
      const double change = *reading_->head_m - there;
      const std::string& name = network_.at(o.ends[first ? 1 : 0]).name;
      line("H", change < 0 ? "H′ − h" : "H′ + h",
           fmt::format("{:.12g} {} {:.12g}", there, change < 0 ? "−" : "+", std::abs(change)),
           *reading_->head_m, "m",
           fmt::format("H′ = head at {}, h = head that {} {}", name, o.name,
                       o.part->lifts ? "adds" : "loses"));
      return true;
    }
    return false;
  }

  const Network& network_;
  const Solution& solution_;
  Id id_;
  const Element& e_;
  ReadingOf reading_;
  std::string_view key_;
  double rho_, g_;
  Working w_;
};

}  // namespace

std::optional<Working> workingOf(const Network& network, const Solution& solution, Id id,
                                 std::string_view outcome) {
  const Element* e = network.find(id);
  const Outcome* o = e ? findOutcome(*e->part, outcome) : nullptr;
  if (!o || !solution.summary.usable()) return std::nullopt;
  const ReadingOf reading(network, solution, id);
  if (!o->of(*reading)) return std::nullopt;
  return Shared(network, solution, id, outcome).make();
}

}  // namespace conduit
