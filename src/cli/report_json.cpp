#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "fields/entry.h"
#include "jobs/by_parts.h"
#include "json.h"
#include "limits/limits.h"
#include "limits/not_judged.h"
#include "network/assume.h"
#include "parts/registry.h"
#include "report.h"

namespace conduit::cli {
namespace {

constexpr const char* verdictWords[] = {
    "empty", "balanced", "cannot balance yet", "no consistent states", "not converged", "stopped"};

// One entry of a long list, in one line. The JSON library's tree of each would take three times as long.
class Entry {
 public:
  explicit Entry(std::string& into) : text_(into) { text_ += "  {"; }
  void text(std::string_view key, std::string_view value) { name(key), quoted(value); }
  void number(std::string_view key, std::optional<double> value) {
    name(key);
    if (!value || !std::isfinite(*value)) {
      text_ += "null";
    } else {
      std::array<char, 32> digits;
      text_.append(digits.data(), std::to_chars(digits.data(), digits.data() + digits.size(), *value).ptr);
    }
  }
  void nothing(std::string_view key) { name(key), text_ += "null"; }
  void begin(std::string_view key, char bracket) { name(key), text_ += bracket, first_ = true; }
  void beginItem() { text_ += std::exchange(first_, false) ? "{" : ", {", first_ = true; }
  void end(char bracket) { text_ += bracket, first_ = false; }

 private:
  // Keys are this program's own and need nothing put before their letters.
  void name(std::string_view key) {
    text_.append(std::exchange(first_, false) ? "\"" : ", \"").append(key).append("\": ");
  }
  void quoted(std::string_view value) {
    unsigned odd = 0;
    for (const char c : value)
      odd |= static_cast<unsigned>(static_cast<unsigned char>(c) < 0x20) | static_cast<unsigned>(c == '"') |
             static_cast<unsigned>(c == '\\') | static_cast<unsigned>(c == 0x7f);
    if (odd) {
      text_ += Json(value).dump();
      return;
    }
    text_.append(1, '"').append(value).append(1, '"');
  }
  std::string& text_;
  bool first_ = true;
};

// What stands between the braces of an object.
std::string inner(const Json& object) {
  const std::string text = object.dump(1);
  return text.substr(1, text.size() - 3);
}

void putPoint(Entry o, const Network& network, const Solution& solution, Id id) {
  const Element& e = network.at(id);
  const ReadingOf reading(network, solution, id);
  const auto flowOf = [&](std::string_view key) {  // found, else given
    const auto* given = e.given(key);
    return solution.foundFor(id, key).value_or(
        given ? resolve(*given, Measure::volumeFlow, solution.setting.medium) : 0.0);
  };
  o.text("name", e.name);
  o.number("head_m", reading->head_m);
  o.number("pressure_pa_gauge", outcomeOf(*e.part, "pressure", *reading));
  o.number("pressure_pa_absolute", outcomeOf(*e.part, "absolute pressure", *reading));
  o.number("outflow_m3_s", flowOf("outflow") - flowOf("inflow"));
  o.end('}');
}

void putElement(Entry o, const Network& network, const Solution& solution, Id id) {
  const Element& e = network.at(id);
  const bool usable = solution.summary.usable();
  const ReadingOf reading(network, solution, id);
  const auto nameOf = [&](const char* key, bool there, std::size_t end) {
    if (there) o.text(key, network.at(e.ends[end]).name);
    else o.nothing(key);
  };
  o.text("name", e.name);
  o.text("kind", e.part->key);
  nameOf("from", !e.ends.empty(), 0);
  nameOf("to", e.part->ends == Ends::two, 1);
  const auto first = reading->branches.empty() ? BranchReading{} : reading->branches[0];
  // As it was solved: a reading for people calls a creeping flow none.
  std::optional<double> flow = reading->branches.empty() ? first.flow_m3s : solution.branch(id, 0).flow_m3s;
  if (e.part->ends == Ends::many) flow = outcomeOf(*e.part, "flow out", *reading);
  if (e.part->ends == Ends::one && reading->branches.empty()) flow = outcomeOf(*e.part, "flow in", *reading);
  o.number("flow_m3_s", flow);
  o.number("mass_flow_kg_s", flow ? std::optional(solution.setting.medium.massFlowOf(*flow)) : std::nullopt);
  o.number("head_loss_m", e.part->ends == Ends::two ? dropOf(first) : std::nullopt);
  o.number("velocity_m_s", outcomeOf(*e.part, "velocity", *reading));
  if (usable && e.part->stateWord) o.text("state", e.part->stateWord(*reading));
  else o.nothing("state");
  o.begin("found_si", '{');
  for (const Outcome& outcome : e.part->outcomes)
    o.number(outcome.key, usable ? outcome.of(*reading) : std::nullopt);
  o.end('}');
  if (e.part->kUsed && usable) {
    o.begin("K_used", '[');
    for (const KUsed& k : e.part->kUsed(*reading)) {
      o.beginItem();
      o.text("what", k.what);
      o.number("count", k.count);
      o.text("method", k.method);
      o.number("K", k.k);
      o.end('}');
    }
    o.end(']');
  }
  o.end('}');
}

// A long list entry by entry, `put(entry, i)` for each of its `count`: the whole in memory would take ten
// times the room of its text.
template <class Put>
void list(std::ostream& out, std::string_view key, std::size_t count, Put put) {
  out << "\"" << key << "\": [";
  writeByParts(out, count, [&](std::size_t i, std::string& into) {
    into += i ? ",\n" : "\n";
    put(Entry(into), i);
  });
  out << (count == 0 ? "]" : "\n ]");
}

Json suctionJson(const Network& network, const Budgets& budgets) {
  Json all = Json::array();
  for (const auto& [id, b] : budgets) {
    Json items = Json::array();
    for (const SuctionBudget::Item& item : b.items)
      items.push_back({{"what", item.what}, {"head_m", number(item.head_m)}});
    all.push_back({{"name", network.at(id).name},
                   {"items", items},
                   {"available_m", number(b.available_m)},
                   {"required_m", number(b.required_m)},
                   {"margin_m", number(b.margin_m)},
                   {"ratio", number(b.ratio)},
                   {"least_margin_m", number(b.leastMargin_m)},
                   {"could_stand_higher_m", number(b.higher_m)},
                   {"greatest_lift_m", number(b.greatestLift_m)},
                   {"flow_with_least_margin_m3_s", number(b.flowLeft_m3s)}});
  }
  return all;
}

}  // namespace

void reportJson(std::ostream& stream, const Network& network, const Solution& solution,
                const std::vector<Finding>& found, const Budgets* suction) {
  const Summary& sum = solution.summary;
  Json out;
  out["outcome"] = verdictWords[static_cast<int>(sum.verdict)];
  out["on_paper_only"] = sum.usable() && standing(found).onPaperOnly;
  out["iterations"] = sum.iterations;
  out["residuals"] = {{"head_m", sum.headResidual_m},
                      {"mass_m3_s", sum.massResidual_m3s},
                      {"mass_share", sum.massResidualShare},
                      {"head_tolerance_m", sum.headTolerance_m}};
  out["summary"] = Json::array();
  for (const SummaryRow& row : sum.rows())
    out["summary"].push_back({{"name", row.name}, {"value", row.value}, {"unit", row.unit}});
  out["liquid"] = {{"name", solution.setting.liquid},
                   {"source", solution.setting.liquidSource},
                   {"density_kg_m3", solution.setting.medium.density_kgm3},
                   {"kinematic_viscosity_m2_s", solution.setting.viscosity_m2s},
                   {"vapour_pressure_pa_absolute", solution.setting.vapour_pa},
                   {"air_pressure_pa_absolute", solution.setting.medium.atmosphere_pa}};
  stream << '{' << inner(out);
  std::string sums;
  Entry balance(sums);
  balance.number("inflow_m3_s", sum.inflow_m3s);
  balance.number("outflow_m3_s", sum.outflow_m3s);
  stream << ",\n \"balance\":" << sums << ", ";
  list(stream, "by_element", sum.shares.size(), [&](Entry o, std::size_t i) {
    o.text("name", network.at(sum.shares[i].element).name);
    o.number("inflow_m3_s", sum.shares[i].inflow_m3s);
    o.end('}');
  });
  stream << "}";
  std::vector<Id> points, elements;
  network.each(
      [&](Id id, const Element& e) { (e.part->ends == Ends::self ? points : elements).push_back(id); });
  stream << ",\n ";
  list(stream, "points", points.size(),
       [&](Entry o, std::size_t i) { putPoint(o, network, solution, points[i]); });
  stream << ",\n ";
  list(stream, "elements", elements.size(),
       [&](Entry o, std::size_t i) { putElement(o, network, solution, elements[i]); });
  out = Json::object();
  out["found_fields"] = Json::array();
  for (const FoundField& f : solution.found)
    out["found_fields"].push_back(
        {{"name", network.at(f.element).name}, {"field", std::string(f.field)}, {"value_si", f.value}});
  out["assumed"] = Json::array();
  for (const AssumedValue& a : assumedIn(network)) {
    const Element& e = network.at(a.element);
    out["assumed"].push_back({{"name", e.name},
                              {"field", std::string(a.key)},
                              {"value", writeField(*findField(*e.part, a.key), *e.value(a.key))}});
  }
  out["not_judged"] = Json::array();
  for (const NotJudged& g : notJudged(network, solution))
    out["not_judged"].push_back({{"check", labelOf(g.check)},
                                 {"name", nameOf(network, g.element)},
                                 {"why", lackSaid(g)},
                                 {"give", std::string(g.field)},
                                 {"at", nameOf(network, g.place)}});
  out["doubtful"] = Json::array();
  for (const Finding& f : found)
    if (f.doubtful) out["doubtful"].push_back({{"check", f.check}, {"name", f.place.name}, {"what", f.what}});
  out["not_applicable"] = Json::array();
  for (const LeftOut& l : notApplicable(network))
    out["not_applicable"].push_back(
        {{"check", l.check}, {"name", nameOf(network, l.element)}, {"why", l.why}});
  out["findings"] = Json::array();
  int number = 0;
  for (const Finding& f : found) {
    Json remedies = Json::array();
    for (const Remedy& r : f.remedies)
      remedies.push_back({{"number", ++number}, {"words", r.words}, {"is_edit", !r.edits.empty()}});
    out["findings"].push_back({{"severity", severityWords[static_cast<int>(f.severity)]},
                               {"name", f.place.name},
                               {"field", f.place.field},
                               {"what", f.what},
                               {"remedies", remedies}});
  }
  if (suction) out["suction"] = suctionJson(network, *suction);
  stream << ',' << inner(out) << "\n}\n";
}

}  // namespace conduit::cli
