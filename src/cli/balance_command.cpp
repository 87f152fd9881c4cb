#include "balance_command.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>

#include "cases/case_edits.h"
#include "command_line.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "json.h"
#include "json/utf8.h"
#include "model/sizing_setup.h"
#include "network/setting.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "read_model.h"
#include "say/page.h"
#include "sizing/balance_flows.h"

namespace conduit::cli {

CLI::App* BalanceCommand::addTo(CLI::App& app) {
  CLI::App* c = app.add_subcommand("balance",
                                   "Find the control valve openings that give every branch its design flow.");
  c->add_option("FILE", file_, "a model file (.lconduit)")->required();
  c->add_option("--flow", flows_,
                "valve and design flow, \"V-3 5 L/s\"; default: the branches of the model's set-up, else "
                "every control valve with a given flow");
  c->add_option("--case", case_, "case to use; default: the base case");
  c->add_option("--write", write_, "write the model with the openings to this file");
  c->add_flag("--json", json_, "as JSON on standard output, SI values (docs/cli.md)");
  c->add_option("--units", units_, "unit set: SI water, SI process, US");
  return c;
}

int BalanceCommand::run(std::ostream& out, std::ostream& err) const {
  auto open = opened(file_, case_, units_, err);
  if (!open) return unusableInput;
  Model* const model = &open->model;
  const UnitSet* const shown = &open->units;
  const CaseId in = open->in;
  const Network network = networkOf(*model, in);
  const auto stock = readAndShared(laidOver(shippedStock(), model->drawn.enclosed().stock));
  const Medium medium = mediumOf(network, stock.get());
  std::vector<BranchFlow> flows;
  for (const std::string& text : flows_) {
    // The name may hold blanks: it is the longest beginning that names a valve.
    Id valve = noId;
    std::size_t end = 0;
    for (std::size_t at = text.find(' '); at != std::string::npos; at = text.find(' ', at + 1))
      if (const Id id = network.byName(text.substr(0, at)); id != noId) valve = id, end = at;
    if (valve != noId && !network.at(valve).part->balances)
      return unusable(
          err, fmt::format("--flow {}: {} is not a control valve", quotedJson(text), network.at(valve).name));
    const Unit& unit = shown->unitFor(Measure::volumeFlow);
    const auto flow = parseIn(medium, valve == noId ? "" : text.substr(end + 1), Measure::volumeFlow, &unit);
    if (!flow)
      return unusable(err, fmt::format("--flow {}: {}", quotedJson(text),
                                       valve == noId ? "it must begin with a control valve of this model"
                                                     : flow.error().what));
    for (const BranchFlow& f : flows)
      if (f.valve == valve)
        return unusable(err, fmt::format("--flow {}: {} has a design flow already", quotedJson(text),
                                         network.at(valve).name));
    flows.push_back({valve, *flow});
  }
  if (flows_.empty())
    for (const BranchGoal& b : model->of<SizingSetup>().branches) {
      if (!network.find(b.valve)) continue;
      const auto flow = parseIn(medium, b.flow.typed, Measure::volumeFlow);
      if (!flow)
        return unusable(
            err, fmt::format("the design flow of {}: {}", network.at(b.valve).name, flow.error().what));
      flows.push_back({b.valve, *flow});
    }
  if (flows.empty())
    network.each([&](Id id, const Element& e) {
      if (!e.part->balances) return;
      if (const Given* given = e.values.goal("flow"))
        flows.push_back({id, resolve(*given, Measure::volumeFlow, medium)});
    });
  if (flows.empty())
    return unusable(
        err, "no design flows: use --flow \"V-3 5 L/s\", or set the flow of control valves in the model");
  const FlowBalance b = balanceFlows(network, flows, stock, *shown);
  const auto say = [&](std::optional<double> v, Measure m, int figures = 4) {
    return shownIn(*shown, v, m, figures);
  };
  Json json = {{"balanced", b.balanced},
               {"why", b.why},
               {"index", b.index == noId ? Json(nullptr) : Json(network.at(b.index).name)},
               {"could_save_m", b.index == noId ? Json(nullptr) : Json(b.save_m)},
               {"farthest_off", b.worst},
               {"let_go", Json::array()},
               {"branches", Json::array()}};
  for (const Id id : b.letGo) json["let_go"].push_back(network.at(id).name);
  Page::Table table{
      .title = "Branches",
      .columns = {"valve", "design flow", "available head", "drop wide open", "opening", "Kv", "authority",
                  "orifice bore", "PRV set point", "catalogue valve", "flow all open"},
      .rows = {}};
  for (const BalancedBranch& branch : b.branches) {
    const std::string name = network.at(branch.valve).name;
    json["branches"].push_back({{"valve", name},
                                {"flow_m3s", branch.flow_m3s},
                                {"there_is_m", number(branch.there_m)},
                                {"wide_open_m", branch.wideOpen_m},
                                {"opening", number(branch.opening)},
                                {"kv_si", number(branch.kv)},
                                {"authority", number(branch.authority)},
                                {"orifice_m", number(branch.orifice_m)},
                                {"orifice_pipe_m", number(branch.platePipe_m)},
                                {"reducing_set_point_pa", number(branch.setPoint_pa)},
                                {"stock_valve", branch.stockValve},
                                {"without_balance_m3s", number(branch.without_m3s)},
                                {"again_m3s", number(branch.again_m3s)}});
    table.rows.push_back(
        {name + (branch.valve == b.index ? " (index)" : ""), say(branch.flow_m3s, Measure::volumeFlow),
         say(branch.there_m, Measure::headDrop), say(branch.wideOpen_m, Measure::headDrop, 3),
         say(branch.opening, Measure::ratio, 4), say(branch.kv, Measure::flowCoefficient, 4),
         branch.authority ? digits(*branch.authority, 2) : "-",
         branch.orifice_m
             ? say(branch.orifice_m, Measure::bore, 3) + " in " + say(branch.platePipe_m, Measure::bore, 3)
             : "-",
         say(branch.setPoint_pa, Measure::gaugePressure, 4),
         branch.stockValve.empty() ? "-" : branch.stockValve,
         branch.without_m3s ? fmt::format("{} ({:+.0f} %)", say(branch.without_m3s, Measure::volumeFlow, 3),
                                          (*branch.without_m3s / branch.flow_m3s - 1) * 100)
                            : "-"});
  }
  json["deliveries"] = Json::array();
  for (const DeliveryChange& d : b.deliveries)
    json["deliveries"].push_back(
        {{"at", network.at(d.taker).name}, {"now_m3s", d.now_m3s}, {"then_m3s", d.then_m3s}});
  if (json_) {
    print(out, json);
  } else {
    if (!table.rows.empty()) out << plainUtf8(plainText({{table}}));
    if (b.balanced)
      out << plainUtf8(
          fmt::format("{} is the index circuit; with its valve wide open the supply head can be {} lower. "
                      "Check solution with these openings: flows within {:.2g} % of design.\n",
                      network.at(b.index).name, say(b.save_m, Measure::headDrop), b.worst * 100));
    for (const DeliveryChange& d : b.deliveries)
      out << plainUtf8(fmt::format("  {} gets {} now, {} when balanced\n", network.at(d.taker).name,
                                   say(d.now_m3s, Measure::volumeFlow, 3),
                                   say(d.then_m3s, Measure::volumeFlow, 3)));
  }
  if (!b.balanced) err << plainUtf8(b.why) << '\n';
  if (!b.letGo.empty()) {
    std::string names;
    for (const Id id : b.letGo) names += (names.empty() ? "" : ", ") + network.at(id).name;
    err << plainUtf8(
        fmt::format("clear the design flow of one of these and the others can be met: {}\n", names));
  }
  for (const Remedy& r : b.remedies)
    if (!r.edits.empty()) err << plainUtf8(fmt::format("possible fix: {}\n", r.words));
  if (b.balanced && !write_.empty())
    if (const auto saved = saveModel(withEdit(*model, in, b.network), write_); !saved) {
      return unusable(err, saved.error().what);
    }
  return ended(b.balanced ? limitsKept : cannotBalance, out, err);
}

}  // namespace conduit::cli
