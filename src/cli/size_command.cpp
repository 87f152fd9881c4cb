#include "size_command.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>

#include <algorithm>

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
#include "sizing/choices.h"
#include "sizing/data_sheet.h"
#include "sizing/one_line.h"
#include "sizing/words.h"

namespace conduit::cli {
namespace {

Json verdictJson(const SizingTask& task, const SizingVerdict& v) {
  Json o = {{"keeps_all_limits", v.keeps()},
            {"balanced", v.balanced},
            {"laid", v.laid},
            {"pumps", v.pumps},
            {"upkeep", v.upkeep},
            {"energy", v.energyCost},
            {"whole_life", v.wholeLife},
            {"whole_life_plain_sum", v.plainSum},
            {"mass_kg", number(v.mass_kg)},
            {"energy_a_year_j", v.energy_j},
            {"violation", v.violation},
            {"volume_a_year_m3", v.volume_m3},
            {"whole_life_per_m3", number(v.perCubicMetre(task.prices.years))},
            {"hours_a_year", Json::array()},
            {"worst", nullptr}};
  for (const auto& [id, seconds] : v.hoursOf)
    o["hours_a_year"].push_back({{"case", task.model.cases.find(id)->name}, {"s", seconds}});
  if (v.worst)
    o["worst"] = {
        {"case", task.model.cases.find(v.worst->id)->name},
        {"at", v.worst->element == noId ? Json(nullptr) : Json(task.model.drawn.at(v.worst->element).name)},
        {"limit", v.worst->label()},
        {"what", v.worst->what},
        {"by", v.worst->by}};
  return o;
}

Json deliveriesJson(const SizingTask& task, std::span<const DutyMet> delivered) {
  constexpr const char* by[] = {"own", "given", "present", "loosened", "dropped", "unknown"};
  Json all = Json::array();
  for (const DutyMet& d : delivered)
    all.push_back({{"case", task.model.cases.find(d.duty.id)->name},
                   {"at", task.model.drawn.at(d.duty.taker).name},
                   {"now_m3s", d.duty.now_m3s},
                   {"proposed_m3s", number(d.then_m3s)},
                   {"share", d.duty.now_m3s > 0 ? Json(d.share()) : Json(nullptr)},
                   {"required_m3s", d.duty.least_m3s > 0 ? Json(d.duty.least_m3s) : Json(nullptr)},
                   {"basis", by[static_cast<std::size_t>(d.duty.by)]},
                   {"basis_in_words", dutySaid(task, d.duty)}});
  return all;
}

}  // namespace

CLI::App* SizeCommand::addTo(CLI::App& app) {
  CLI::App* c = app.add_subcommand(
      "size", "Size a whole network at minimum cost within all limits, or list every size for one line.");
  c->add_option("FILE", file_, "a model file (.lconduit)")->required();
  c->add_option("--least", least_,
                "minimise whole-life, laid (installed cost) or mass; default: the model's set-up")
      ->check(CLI::IsMember({"whole-life", "laid", "mass"}));
  c->add_option("--sizes", sizes_,
                "available sizes: \"ASME B36.10M 40 from 2 to 10\", \"… for SERVICE\"; default: the model's "
                "set-up, else each line's own standard and schedule");
  c->add_option("--keep", keep_, "fixed lines, separated by commas");
  c->add_option("--tie", tie_,
                "lines of equal size, separated by commas, or a route, \"N-1 to N-9\"; repeatable");
  c->add_option("--untie", untie_,
                "flow and return lines, separated by commas, that need not be of equal size; \"all\": none "
                "of them; repeatable");
  c->add_option("--trials", trials_,
                "independent search starts; default: the model's, else by the number of lines, up to 320")
      ->check(CLI::Range(1, 1000000));
  c->add_option("--seconds", seconds_, "time limit of the search; default: the model's, else 60; 0: none")
      ->check(CLI::NonNegativeNumber);
  c->add_option("--seed", seed_, "random seed; the same seed repeats the proposal")
      ->check(CLI::NonNegativeNumber);
  c->add_option(
      "--delivery-tolerance", tolerance_,
      "reduction allowed in each present delivery that has no minimum flow of its own; default: the "
      "model's, else 2 %");
  c->add_option("--drop-delivery", drop_,
                "users, separated by commas, that may get any flow (they keep their own limits); repeatable");
  auto* line = c->add_option("--line", line_,
                             "list every size for one line (or several of equal size, separated by commas)");
  c->add_option("--for", for_,
                "with --line: the exact bore for a velocity, gradient, loss or a pressure: \"velocity 1.5 "
                "m/s\", \"N-3 pressure 2 bar\"")
      ->needs(line);
  c->add_option("--case", case_, "with --line: case shown; default: the base case")->needs(line);
  auto* apply = c->add_flag("--apply", apply_, "apply the proposal; needs --write FILE")->excludes(line);
  c->add_flag("--two-sizes", twoSizes_, "branched networks, with --apply: lines in two sizes where cheaper")
      ->needs(apply);
  c->add_option("--write", write_, "write the model with the proposal applied")->needs(apply);
  c->add_flag("--sheet", sheet_, "print the data sheet of the proposal instead of the tables");
  c->add_flag("--json", json_, "as JSON on standard output, SI values (docs/cli.md)");
  c->add_option("--units", units_, "unit set: SI water, SI process, US");
  return c;
}

int SizeCommand::run(std::ostream& out, std::ostream& err) const {
  auto open = opened(file_, case_, units_, err);
  if (!open) return unusableInput;
  Model* const model = &open->model;
  const UnitSet& units = open->units;
  const CaseId in = open->in;
  if (apply_ && write_.empty())
    return unusable(err, "--apply needs --write FILE: the input file is never changed");
  const auto stock = readAndShared(laidOver(shippedStock(), model->drawn.enclosed().stock));
  const auto ids = [&](const std::string& names) { return idsIn(model->drawn, names, err, "pipe", "line"); };
  // What the model asks, and over it what is said here.
  SizingOptions options = optionsOf(model->of<SizingSetup>());
  if (!least_.empty())
    options.objective = least_ == "laid"   ? Objective::laid
                        : least_ == "mass" ? Objective::mass
                                           : Objective::wholeLife;
  if (seed_) options.seed = *seed_;
  if (trials_) options.trials = *trials_;
  if (seconds_) options.seconds = *seconds_;
  if (!sizes_.empty()) options.ranges.clear();
  for (const std::string& text : sizes_) {
    const auto range = rangeFrom(text, *stock);
    if (!range) return unusable(err, fmt::format("--sizes {}: {}", quotedJson(text), range.error().what));
    options.ranges.push_back(*range);
  }
  if (!tolerance_.empty()) {
    const auto share = parse(tolerance_, Measure::ratio, nullptr);
    if (!share || share->value < 0 || share->value > 1)
      return unusable(err, fmt::format("--delivery-tolerance {}: {}", quotedJson(tolerance_),
                                       share ? "it must be from 0 to 100 %" : share.error().what));
    options.tolerance = share->value;
  }
  for (const std::string& names : drop_) {
    const auto dropped = idsIn(model->drawn, names, err, "", "user");
    if (!dropped) return unusableInput;
    for (const Id id : *dropped) {
      const Element& e = model->drawn.at(id);
      if (e.part->ends != Ends::self && e.part->group != Group::supply && e.part->group != Group::drawOff)
        return unusable(err, fmt::format("--drop-delivery {}: {} takes nothing from the network: name a "
                                         "nozzle, point, tank or fixed pressure",
                                         quotedJson(names), e.name));
      std::erase_if(options.deliveries, [&](const DeliveryAsked& d) { return d.taker == id; });
      options.deliveries.push_back({id, std::nullopt});
    }
  }
  for (const std::string& names : keep_) {
    const auto kept = ids(names);
    if (!kept) return unusableInput;
    options.kept.insert(options.kept.end(), kept->begin(), kept->end());
  }
  for (const std::string& names : untie_) {
    if (names == "all") {
      options.pairs = false;
      continue;
    }
    const auto alone = ids(names);
    if (!alone) return unusableInput;
    options.alone.insert(options.alone.end(), alone->begin(), alone->end());
  }
  for (const std::string& names : tie_) {
    // "A to B": the way from one point to another.
    const std::size_t to = names.find(" to ");
    const Id begin = to == std::string::npos ? noId : model->drawn.byName(names.substr(0, to)),
             end = to == std::string::npos ? noId : model->drawn.byName(names.substr(to + 4));
    if (begin != noId && end != noId) {
      options.tied.push_back(linesAlong(model->drawn, begin, end));
      if (!options.tied.back().empty()) continue;
      return unusable(err, fmt::format("--tie {}: no line on this route", quotedJson(names)));
    }
    const auto tied = ids(names);
    if (!tied) return unusableInput;
    options.tied.push_back(*tied);
  }
  const auto say = [&](std::optional<double> v, Measure m, int figures = 3) {
    return shownIn(units, v, m, figures);
  };
  Json json = Json::object();
  int status = limitsKept;
  if (sheet_ && !line_.empty())
    return unusable(err, "--sheet needs the whole network; it does not go with --line");
  if (!line_.empty()) {
    const auto lines = ids(line_);
    if (!lines) return unusableInput;
    if (!for_.empty()) {
      const auto goal = boreGoal(for_, model->drawn, lines->front(), units);
      if (!goal) return unusable(err, fmt::format("--for {}: {}", quotedJson(for_), goal.error().what));
      const auto exact = exactBore(networkOf(*model, in), lines->front(), goal->element, goal->outcome,
                                   goal->wanted, stock, units);
      if (!exact) {
        err << plainUtf8(exact.error().what) << '\n';
        return cannotBalance;
      }
      json["exact_bore_m"] = exact->bore_m;
      json["size_below"] = exact->below ? Json(exact->below->name()) : Json(nullptr);
      json["size_above"] = exact->above ? Json(exact->above->name()) : Json(nullptr);
      if (!json_)
        out << plainUtf8(fmt::format("{}: a bore of {}{}{}\n", for_, say(exact->bore_m, Measure::bore, 5),
                                     exact->below ? "; next size down " + exact->below->name() : "",
                                     exact->above ? "; next size up " + exact->above->name() : ""));
    }
    const auto table = sizesOfLine(*model, in, *lines, options, stock, units);
    if (!table) return unusable(err, table.error().what);
    json["sizes"] = Json::array();
    Page::Table rows{
        .title = "Sizes of " + line_,
        .columns = {"size", "bore", "velocity", "Reynolds", "loss", "gradient", "end pressure", "installed",
                    "pumps", "energy", "maintenance", "whole-life", "undiscounted", "deliveries", "limits"},
        .rows = {}};
    // By rising bore, those that are folded among them.
    std::vector<std::pair<const LineSize*, bool>> all;
    for (const LineSize& size : table->sizes) all.push_back({&size, false});
    for (const LineSize& size : table->folded) all.push_back({&size, true});
    std::stable_sort(all.begin(), all.end(), [](const auto& one, const auto& other) {
      return one.first->size->bore_m < other.first->size->bore_m;
    });
    const LineSize* cheapest = table->cheapest ? &table->sizes[*table->cheapest] : nullptr;
    const std::size_t folded = table->folded.size();
    for (const auto& [size, isFolded] : all) {
      const LineSize& s = *size;
      json["sizes"].push_back(
          {{"size", s.size->name()},
           {"bore_m", s.size->bore_m},
           {"now", s.now},
           {"cheapest", cheapest == size},
           {"breaks_more", s.breaksMore},
           {"folded", isFolded},
           {"least_delivery_share", s.leastDelivery ? Json(s.leastDelivery->share()) : Json(nullptr)},
           {"least_delivery_at",
            s.leastDelivery ? Json(model->drawn.at(s.leastDelivery->duty.taker).name) : Json(nullptr)},
           {"velocity_ms", number(s.velocity_ms)},
           {"reynolds", number(s.reynolds)},
           {"loss_m", number(s.loss_m)},
           {"gradient", number(s.gradient)},
           {"end_pressure_pa", number(s.endPressure_pa)},
           {"least_npsh_margin_m", number(s.leastMargin_m)},
           {"laid", s.verdict.laid},
           {"energy", s.verdict.energyCost},
           {"pumps", s.verdict.pumps},
           {"upkeep", s.verdict.upkeep},
           {"whole_life", s.verdict.wholeLife},
           {"whole_life_plain_sum", s.verdict.plainSum},
           {"mass_kg", number(s.verdict.mass_kg)},
           {"keeps_all_limits", s.verdict.keeps()},
           {"worst", s.verdict.worst ? Json(s.verdict.worst->what) : Json(nullptr)}});
      if (isFolded) continue;
      rows.rows.push_back(
          {s.size->name() + (s.now && cheapest == size ? " (now, cheapest)"
                             : s.now                   ? " (now)"
                             : cheapest == size        ? " (cheapest)"
                                                       : ""),
           say(s.size->bore_m, Measure::bore, 4), say(s.velocity_ms, Measure::velocity),
           s.reynolds ? digits(*s.reynolds, 3) : "-", say(s.loss_m, Measure::headDrop),
           say(s.gradient, Measure::ratio), say(s.endPressure_pa, Measure::gaugePressure),
           digits(s.verdict.laid, 4), digits(s.verdict.pumps, 4), digits(s.verdict.energyCost, 4),
           digits(s.verdict.upkeep, 4), digits(s.verdict.wholeLife, 4), digits(s.verdict.plainSum, 4),
           s.leastDelivery ? digits(std::max(0.0, s.leastDelivery->share()) * 100, 3) + " %" : "-",
           s.verdict.keeps() ? "met"
           : s.verdict.worst ? s.verdict.worst->label() + ", " + model->cases.find(s.verdict.worst->id)->name
                             : "not met"});
    }
    json["economic_bore_m"] = table->economic ? Json(table->economic->bore_m) : Json(nullptr);
    json["economic_bore_with_pumps_m"] =
        table->economic ? number(table->economic->withPumps_m) : Json(nullptr);
    if (!json_) {
      out << plainUtf8(plainText({{rows}}));
      if (folded > 0)
        out << fmt::format("{} {} left out: users would starve, or at many times the cost\n", folded,
                           folded == 1 ? "size" : "sizes");
      if (table->economic)
        out << plainUtf8(
            fmt::format("economic bore at this flow: {}: (5 B/(m a))^(1/(m+5)) with a {}, m {}, B {}\n",
                        say(table->economic->bore_m, Measure::bore, 4), digits(table->economic->a, 4),
                        digits(table->economic->m, 4), digits(table->economic->b, 4)));
      else out << plainUtf8(fmt::format("no economic bore: {}\n", table->whyNoEconomic));
      if (table->economic && table->economic->withPumps_m)
        out << plainUtf8(
            fmt::format("with the cost of pumps: {}\n", say(table->economic->withPumps_m, Measure::bore, 4)));
    }
  } else {
    const auto task = sizingTask(*model, options, stock, units);
    if (!task) return unusable(err, task.error().what);
    const SizingProposal best = searchSizes(*task);
    json["seed"] = options.seed, json["trials"] = best.trials, json["judged"] = best.judged,
    json["how"] = best.how, json["proved"] = best.proved;
    json["bound"] = number(best.bound);
    json["no_bound"] = best.noBound;
    json["none_can"] = best.noneCan.empty() ? Json(nullptr) : Json(best.noneCan);
    json["now"] = best.now ? verdictJson(*task, *best.now) : Json(nullptr);
    json["proposed"] = verdictJson(*task, best.verdict);
    json["lines"] = Json::array(), json["left"] = Json::array(), json["course"] = Json::array();
    Page::Table rows{
        .title = "Proposed", .columns = {"line", "now", "proposed", "installed", "governed by"}, .rows = {}};
    for (std::size_t r = 0; r < task->rows.size(); ++r) {
      const SizingRow& row = task->rows[r];
      const PipeSize& size = *row.sizes[best.choice[r]];
      Json lines = Json::array();
      for (const Id id : row.lines) lines.push_back(model->drawn.at(id).name);
      const std::string governed = governedSaid(*task, best.governed[r]);
      json["lines"].push_back({{"lines", lines},
                               {"flow_and_return", row.pair},
                               {"now", row.now ? Json(row.sizes[*row.now]->name()) : Json(nullptr)},
                               {"proposed", size.name()},
                               {"laid", row.laid[best.choice[r]]},
                               {"governed_by", governed}});
      rows.rows.push_back({linesSaid(*task, row), row.now ? row.sizes[*row.now]->name() : "-", size.name(),
                           digits(row.laid[best.choice[r]], 4), governed});
    }
    json["deliveries"] = deliveriesJson(*task, best.delivered);
    json["staying"] = Json::array(), json["changes_of_bore_not_counted"] = Json::array();
    for (const Staying& s : best.staying)
      json["staying"].push_back({{"device", model->drawn.at(s.device).name},
                                 {"line", model->drawn.at(s.line).name},
                                 {"bore_m", number(s.bore_m)}});
    for (const Id id : best.notCounted)
      json["changes_of_bore_not_counted"].push_back(model->drawn.at(id).name);
    json["runs_that_narrow"] = best.narrowings;
    json["made_up_prices"] = !madeUpSaid(*task).empty();
    json["sizes_left_out"] = task->leftOut;
    for (const auto& [id, why] : task->left)
      json["left"].push_back({{"line", model->drawn.at(id).name}, {"why", why}});
    for (const auto& [trials, cost] : best.course) json["course"].push_back({trials, cost});
    json["fight"] = best.conflict ? Json(conflictSaid(*task, best)) : Json(nullptr);
    json["two_sizes"] = nullptr;
    if (best.two) {
      json["two_sizes"] = {{"cost", best.two->objective}, {"lines", Json::array()}};
      for (const TwoSizeLine& line : best.two->lines) {
        const SizingRow& row = task->rows[line.row];
        json["two_sizes"]["lines"].push_back({{"line", linesSaid(*task, row)},
                                              {"nearer", row.sizes[line.nearer]->name()},
                                              {"nearer_m", line.nearer_m},
                                              {"farther", row.sizes[line.farther]->name()},
                                              {"farther_m", row.length_m - line.nearer_m}});
      }
    }
    if (sheet_ && !json_) out << plainUtf8(plainText(sizingSheet(*task, best)));
    if (!json_ && !sheet_) {
      out << plainUtf8(plainText({{rows}}));
      constexpr std::size_t shown = 12;
      if (!best.delivered.empty()) {
        out << plainUtf8(plainText({{deliveriesTable(*task, best.delivered, shown)}}));
        if (best.delivered.size() > shown)
          out << fmt::format("  and {} more, none below {} % of now (--sheet lists all)\n",
                             best.delivered.size() - shown, digits(best.delivered[shown].share() * 100, 4));
      }
      const auto totals = [&](const char* what, const SizingVerdict& v) {
        out << plainUtf8(fmt::format(
            "{}: installed {}, energy {}, maintenance {}, pumps {}, whole-life {}{}{}, {}; {}\n", what,
            digits(v.laid, 4), digits(v.energyCost, 4), digits(v.upkeep, 4), digits(v.pumps, 4),
            digits(v.wholeLife, 4),
            task->prices.currency.empty() ? std::string() : " " + task->prices.currency,
            v.volume_m3 > 0 ? " (" + perCubicMetreSaid(*task, v) + ")" : std::string(), massSaid(v),
            v.keeps() ? std::string(limitsMetSaid(v))
            : v.worst ? "worst: " + v.worst->what
                      : std::string("limits not met")));
      };
      if (best.now) totals("now", *best.now);
      totals("proposed", best.verdict);
      out << plainUtf8(best.how) << '\n';
      for (const std::string& said :
           {notJudgedSaid(best.verdict), worstDeliverySaid(*task, best.delivered),
            unknownDeliveriesSaid(*task, best.delivered), hoursSaid(*task, best.verdict), pairsSaid(*task),
            narrowingsSaid(best), stayingSaid(*task, best.staying), notCountedSaid(best.notCounted),
            madeUpSaid(*task), noneSaid(best), conflictSaid(*task, best), smallestSaid(*task, best),
            energySaid(*task, best.verdict)})
        if (!said.empty()) out << plainUtf8(said) << '\n';
      if (best.trials > 0 && best.trials < trialsOf(*task))
        out << fmt::format("{} of {} trials completed: time limit reached\n", counted(best.trials),
                           counted(trialsOf(*task)));
      if (best.proved)
        out << "proven optimum: no selection of these sizes that meets all limits costs less\n";
      else if (best.bound)
        out << plainUtf8(fmt::format("lower bound with all limits met: {}\n", digits(*best.bound, 4)));
      else if (best.noneCan.empty())
        out << plainUtf8(fmt::format("no lower bound{}\n", best.noBound.empty() ? "" : ": " + best.noBound));
      if (best.two) {
        out << plainUtf8(twoSaid(*task, best)) << ":\n";
        for (const TwoSizeLine& line : best.two->lines) out << plainUtf8("  " + twoSaid(*task, line)) << '\n';
      }
      if (const std::string said = leftOutSaid(*task); !said.empty()) out << plainUtf8(said) << '\n';
      for (const auto& [id, why] : task->left)
        out << plainUtf8(fmt::format("  not sized: {}: {}\n", model->drawn.at(id).name, why));
    }
    status = !best.verdict.balanced ? cannotBalance : best.verdict.keeps() ? limitsKept : limitBroken;
    if (apply_) {
      if (twoSizes_ && !best.two)
        return unusable(err, best.proved ? "--two-sizes: no saving from two sizes in a line"
                                         : "--two-sizes needs a branched network with given draw-offs, with "
                                           "its cheapest sizes proven");
      if (const auto done = saveModel(twoSizes_ ? best.two->model : withSizes(*task, best.choice), write_);
          !done) {
        return unusable(err, done.error().what);
      }
    }
  }
  if (json_) print(out, json);
  return ended(status, out, err);
}

}  // namespace conduit::cli
