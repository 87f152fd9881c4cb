#include "solve_command.h"

#include <fmt/format.h>

#include <fstream>
#include <nlohmann/json.hpp>

#include "command_line.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "exchange/utf8.h"
#include "limits/limits.h"
#include "network/edits.h"
#include "parts/registry.h"
#include "pump/suction_budget.h"
#include "quantity/format.h"
#include "solve/solve.h"

namespace conduit::cli {
namespace {

using Json = nlohmann::ordered_json;

Json number(std::optional<double> v) { return v && std::isfinite(*v) ? Json(*v) : Json(nullptr); }

std::optional<double> outcomeOf(const Element& e, const Reading& r, std::string_view key) {
  for (const Outcome& o : e.part->outcomes)
    if (o.key == key) return o.of(r);
  return std::nullopt;
}

constexpr const char* severityWords[] = {"refused", "on paper only", "broken", "near", "note"};
constexpr const char* verdictWords[] = {"empty", "balanced", "cannot balance yet", "no consistent states", "not converged", "stopped"};

// A long list written entry by entry, as it would stand in the whole: the whole at once takes ten times the room of its text.
class ListOut {
 public:
  ListOut(std::ostream& out, std::string_view name) : out_(out) { out_ << ",\n \"" << name << "\": ["; }
  void put(const Json& entry) {
    const std::string text = entry.dump(1);
    out_ << (std::exchange(any_, true) ? ",\n  " : "\n  ");
    for (std::size_t at = 0; at < text.size();) {
      const std::size_t end = std::min(text.find('\n', at), text.size() - 1) + 1;
      out_.write(text.data() + at, static_cast<std::streamsize>(end - at));
      if (text[end - 1] == '\n') out_ << "  ";
      at = end;
    }
  }
  void end() { out_ << (any_ ? "\n ]" : "]"); }

 private:
  std::ostream& out_;
  bool any_ = false;
};

// What stands between the braces of an object.
std::string inner(const Json& object) {
  const std::string text = object.dump(1);
  return text.substr(1, text.size() - 3);
}

void putJson(std::ostream& stream, const Network& network, const Solution& solution, const std::vector<Finding>& found, const Json& more) {
  const Summary& sum = solution.summary;
  Json out;
  out["outcome"] = verdictWords[static_cast<int>(sum.verdict)];
  out["on_paper_only"] = sum.usable() && standing(found).onPaperOnly;
  out["iterations"] = sum.iterations;
  out["residuals"] = {{"head_m", sum.headResidual_m}, {"mass_m3_s", sum.massResidual_m3s}, {"mass_share", sum.massResidualShare}, {"head_tolerance_m", sum.headTolerance_m}};
  out["summary"] = Json::array();
  for (const SummaryRow& row : sum.rows()) out["summary"].push_back({{"name", row.name}, {"value", row.value}, {"unit", row.unit}});
  out["balance"] = {{"inflow_m3_s", sum.inflow_m3s}, {"outflow_m3_s", sum.outflow_m3s}, {"by_element", Json::array()}};
  for (const SupplyShare& share : sum.shares) out["balance"]["by_element"].push_back({{"name", network.at(share.element).name}, {"inflow_m3_s", share.inflow_m3s}});
  out["liquid"] = {{"name", solution.setting.liquid},
                   {"source", solution.setting.liquidSource},
                   {"density_kg_m3", solution.setting.medium.density_kgm3},
                   {"kinematic_viscosity_m2_s", solution.setting.viscosity_m2s},
                   {"vapour_pressure_pa_absolute", solution.setting.vapour_pa},
                   {"air_pressure_pa_absolute", solution.setting.medium.atmosphere_pa}};
  stream << '{' << inner(out);
  ListOut points(stream, "points");
  network.each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::self) {
      const ReadingOf reading(network, solution, id);
      const auto outflow = e.values.get<Given>("outflow"), inflow = e.values.get<Given>("inflow");
      const auto flowOf = [&](std::string_view key, const Given* given) {  // found, else given
        return solution.foundFor(id, key).value_or(given ? resolve(*given, Measure::volumeFlow, solution.setting.medium) : 0.0);
      };
      const double drawn = flowOf("outflow", outflow) - flowOf("inflow", inflow);
      points.put({{"name", e.name},
                  {"head_m", number(reading->head_m)},
                  {"pressure_pa_gauge", number(outcomeOf(e, *reading, "pressure"))},
                  {"pressure_pa_absolute", number(outcomeOf(e, *reading, "absolute pressure"))},
                  {"outflow_m3_s", drawn}});
    }
  });
  points.end();
  ListOut elements(stream, "elements");
  network.each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::self) return;
    const ReadingOf reading(network, solution, id);
    Json o = {{"name", e.name}, {"kind", std::string(e.part->key)}};
    o["from"] = e.ends.empty() ? Json(nullptr) : Json(network.at(e.ends[0]).name);
    o["to"] = e.part->ends == Ends::two ? Json(network.at(e.ends[1]).name) : Json(nullptr);
    const auto first = reading->branches.empty() ? BranchReading{} : reading->branches[0];
    std::optional<double> flow = first.flow_m3s;
    if (e.part->ends == Ends::many) flow = outcomeOf(e, *reading, "flow out");
    if (e.part->ends == Ends::one && reading->branches.empty()) flow = outcomeOf(e, *reading, "flow in");
    o["flow_m3_s"] = number(flow);
    o["mass_flow_kg_s"] = flow ? number(*flow * solution.setting.medium.density_kgm3) : Json(nullptr);
    o["head_loss_m"] = e.part->ends == Ends::two ? number(dropOf(first)) : Json(nullptr);
    o["velocity_m_s"] = number(outcomeOf(e, *reading, "velocity"));
    o["state"] = sum.usable() && e.part->stateWord ? Json(e.part->stateWord(*reading)) : Json(nullptr);
    Json outcomes = Json::object();
    for (const Outcome& outcome : e.part->outcomes) outcomes[std::string(outcome.key)] = sum.usable() ? number(outcome.of(*reading)) : Json(nullptr);
    o["found_si"] = outcomes;
    if (e.part->kUsed && sum.usable()) {
      Json used = Json::array();
      for (const KUsed& k : e.part->kUsed(*reading)) used.push_back({{"what", k.what}, {"count", k.count}, {"method", k.method}, {"K", number(k.k)}});
      o["K_used"] = used;
    }
    elements.put(o);
  });
  elements.end();
  out = Json::object();
  out["found_fields"] = Json::array();
  for (const FoundField& f : solution.found) out["found_fields"].push_back({{"name", network.at(f.element).name}, {"field", std::string(f.field)}, {"value_si", f.value}});
  out["findings"] = Json::array();
  int number = 0;
  for (const Finding& f : found) {
    Json remedies = Json::array();
    for (const Remedy& r : f.remedies) remedies.push_back({{"number", ++number}, {"words", r.words}, {"is_edit", !r.edits.empty()}});
    out["findings"].push_back(
        {{"severity", severityWords[static_cast<int>(f.severity)]}, {"name", f.place.name}, {"field", f.place.field}, {"what", f.what}, {"remedies", remedies}});
  }
  out.update(more);
  stream << ',' << inner(out) << "\n}\n";
}

// A table of text with columns as wide as they need.
void table(std::ostream& out, const std::string& title, const std::vector<std::string>& head, const std::vector<std::vector<std::string>>& rows) {
  if (rows.empty()) return;
  auto width = [](const std::string& s) {  // columns on a terminal: bytes that begin a character
    std::size_t n = 0;
    for (const char c : s) n += (static_cast<unsigned char>(c) & 0xC0) != 0x80;
    return n;
  };
  std::vector<std::size_t> widths;
  for (const auto& h : head) widths.push_back(width(h));
  for (const auto& row : rows)
    for (std::size_t c = 0; c < row.size(); ++c) widths[c] = std::max(widths[c], width(row[c]));
  auto put = [&](const std::vector<std::string>& row) {
    std::string line = " ";
    for (std::size_t c = 0; c < row.size(); ++c) {
      const std::string pad(widths[c] - width(row[c]), ' ');
      line += " " + (c == 0 ? row[c] + pad : pad + row[c]);
    }
    while (line.ends_with(' ')) line.pop_back();
    out << line << '\n';
  };
  out << '\n' << title << '\n';
  put(head);
  for (const auto& row : rows) put(row);
}

void report(std::ostream& out, const Network& network, const Solution& solution, const std::vector<Finding>& found, const UnitSet& units) {
  const Summary& sum = solution.summary;
  const auto* title = network.job().values.get<std::string>("title");
  if (title) out << *title << '\n';
  const Standing stand = standing(found);
  if (sum.usable() && stand.onPaperOnly) out << "Balanced on paper only: " << stand.worst << ".\n";
  out << sum.brief(units) << '\n';
  if (sum.usable()) out << fmt::format("{} limits broken, {} near. {}, {} iterations.\n", stand.broken, stand.near, solution.setting.liquid, sum.iterations);
  if (!found.empty()) out << "\nFindings, worst first\n";
  int number = 0;
  for (const Finding& f : found) {
    out << fmt::format("  {:<14} {}\n", severityWords[static_cast<int>(f.severity)], f.what);
    for (const Remedy& r : f.remedies) out << fmt::format("  {:<14} remedy {}: {}\n", "", ++number, r.words);
  }
  if (!solution.found.empty() && sum.usable()) out << "\nFound\n";
  for (const FoundField& f : solution.found) {
    const Element& e = network.at(f.element);
    out << fmt::format("  {} of {}: {}\n", f.field, e.name, withUnit(f.value, findField(*e.part, f.field)->measure, units));
  }
  if (!sum.usable()) return;
  for (const Part* part : allParts()) {
    if (part->ends == Ends::none) continue;
    std::vector<std::string> head{std::string("name")};
    if (part->stateWord) head.push_back("state");
    for (const Outcome& o : part->outcomes) {
      const auto symbol = units.unitFor(o.measure).symbol;
      head.push_back(symbol.empty() ? std::string(o.key) : fmt::format("{} [{}]", o.key, symbol));
    }
    std::vector<std::vector<std::string>> rows;
    network.each([&](Id id, const Element& e) {
      if (e.part != part) return;
      const ReadingOf reading(network, solution, id);
      std::vector<std::string> row{e.name};
      if (part->stateWord) row.push_back(part->stateWord(*reading));
      for (const Outcome& o : part->outcomes) {
        const auto v = o.of(*reading);
        row.push_back(v ? asNumber(*v, o.measure, units) : "–");
      }
      rows.push_back(std::move(row));
    });
    table(out, std::string(part->plural), head, rows);
  }
}

// The suction budget of every pump that has one, in the order of the model.
std::vector<std::pair<Id, SuctionBudget>> budgetsOf(const Network& network, const Solution& solution, const Stock* stock) {
  std::vector<std::pair<Id, SuctionBudget>> budgets;
  network.each([&](Id id, const Element& e) {
    if (e.part->group != Group::lift) return;
    if (auto budget = suctionBudget(network, solution, stock, id)) budgets.emplace_back(id, std::move(*budget));
  });
  return budgets;
}

Json budgetJson(const Network& network, const std::vector<std::pair<Id, SuctionBudget>>& budgets) {
  Json all = Json::array();
  for (const auto& [id, b] : budgets) {
    Json items = Json::array();
    for (const SuctionBudget::Item& item : b.items) items.push_back({{"what", item.what}, {"head_m", number(item.head_m)}});
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

void reportBudgets(std::ostream& out, const Network& network, const std::vector<std::pair<Id, SuctionBudget>>& budgets, const UnitSet& units) {
  const auto head = [&](double m) { return withUnit(m, Measure::headDrop, units); };
  for (const auto& [id, b] : budgets) {
    std::vector<std::vector<std::string>> rows;
    for (const SuctionBudget::Item& item : b.items) rows.push_back({item.what, head(item.head_m)});
    rows.push_back({"NPSH available", head(b.available_m)});
    if (b.required_m) rows.push_back({"NPSH required", head(*b.required_m)});
    if (b.margin_m) rows.push_back({fmt::format("margin, of {} asked for", head(b.leastMargin_m)), head(*b.margin_m)});
    if (b.higher_m) rows.push_back({*b.higher_m >= 0 ? "could stand higher by" : "should stand lower by", head(std::abs(*b.higher_m))});
    if (b.greatestLift_m) rows.push_back({"greatest lift over the surface", head(*b.greatestLift_m)});
    if (b.flowLeft_m3s) rows.push_back({"flow with just the margin asked for", withUnit(*b.flowLeft_m3s, Measure::volumeFlow, units)});
    table(out, fmt::format("Suction of {}", network.at(id).name), {"", "head"}, rows);
  }
}

std::string recordText(const Network& network, const Solution& solution) {
  std::string text = "Record of a solution\n\n" + solution.summary.full() +
                     "\nSteps: set of states, step, largest head residual [m], largest mass residual over throughput, share of the step taken\n";
  for (const StepRecord& s : solution.steps) {
    if (s.step == 0) {
      std::string states;
      for (const auto& [id, state] : s.notOpen) states += fmt::format("{}{} {}", states.empty() ? "" : ", ", network.at(id).name, state == BranchState::shut ? "shut" : "acting");
      text += fmt::format("  set {}: {}\n", s.run, states.empty() ? "all open" : states);
    }
    text += fmt::format("{:>6} {:>6} {:>12.3e} {:>12.3e} {:>8.4g}{}\n", s.run, s.step, s.head_m, s.massShare, s.share, s.exact ? " exact" : "");
  }
  text += "\nDevice states at the end\n";
  for (const std::string& s : solution.summary.states) text += "  " + s + "\n";
  return text + "\nThe model\n\n" + writeModel(network);
}

}  // namespace

int SolveCommand::run(std::ostream& out, std::ostream& err) const {
  auto network = loadModel(file, &shippedStock());
  if (!network) {
    for (const Problem& p : network.error()) err << plainUtf8(p.what) << '\n';
    return unusableInput;
  }
  const auto* own = network->job().values.get<std::string>("units");
  const std::string wanted = units.empty() ? (own ? *own : "SI water") : units;
  const UnitSet* set = UnitSet::find(wanted);
  if (!set && !units.empty()) {
    err << fmt::format("there is no set of units \"{}\"; there are", wanted);
    for (const UnitSet& s : UnitSet::all()) err << " \"" << s.name() << '"';
    err << '\n';
    return unusableInput;
  }
  if (!set) set = &UnitSet::siWater();
  const auto* single = network->job().values.get<std::string>("own units");
  const UnitSet shown = units.empty() && single ? set->with(*single) : *set;  // what was asked for on the command line stands
  SolveOptions options;
  options.units = shown;
  const auto stock = stockFor(*network, shippedStock());
  options.record = !record.empty();
  Solution solution = solve(*network, stock.get(), options);
  auto found = findings(*network, solution, shown);
  if (remedy) {
    std::vector<const Remedy*> all;
    for (const Finding& f : found)
      for (const Remedy& r : f.remedies) all.push_back(&r);
    if (*remedy < 1 || static_cast<std::size_t>(*remedy) > all.size()) {
      err << fmt::format("there is no remedy {}: {}\n", *remedy, all.empty() ? "the report has none" : fmt::format("the report has those from 1 to {}", all.size()));
      return unusableInput;
    }
    const Remedy chosen = *all[static_cast<std::size_t>(*remedy) - 1];
    if (chosen.edits.empty()) {
      err << fmt::format("remedy {} ({}) leads to a place and changes nothing\n", *remedy, chosen.words);
      return unusableInput;
    }
    const auto edited = applyRemedy(*network, chosen, stock.get(), &shown);
    if (!edited) {
      err << edited.error().what << '\n';
      return unusableInput;
    }
    network = edited->network;
    if (!write.empty())
      if (const auto saved = saveModel(*network, write); !saved) {
        err << saved.error().what << '\n';
        return unusableInput;
      }
    if (!json) out << "Applied: " << chosen.words << "\n\n";
    solution = solve(*network, stock.get(), options);
    found = findings(*network, solution, shown);
  }
  if (!record.empty()) {
    if (std::ofstream file(record); !(file << recordText(*network, solution)) || !file.flush()) {
      err << fmt::format("the record cannot be written to {}\n", record);
      return unusableInput;
    }
  }
  const auto budgets = suction ? budgetsOf(*network, solution, stock.get()) : std::vector<std::pair<Id, SuctionBudget>>();
  if (json) {
    putJson(out, *network, solution, found, suction ? Json{{"suction", budgetJson(*network, budgets)}} : Json::object());
  } else {
    report(out, *network, solution, found, shown);
    reportBudgets(out, *network, budgets, shown);
  }
  if (!out.flush()) {
    err << "the report could not be written to the end: the place it goes to takes no more\n";
    return unusableInput;
  }
  if (solution.summary.verdict == Verdict::notConverged) {
    err << solution.summary.brief(shown) << '\n';
    return internalFault;
  }
  if (!solution.summary.usable()) return cannotBalance;
  return standing(found).broken > 0 ? limitBroken : limitsKept;
}

}  // namespace conduit::cli
