#include "pumps_command.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>

#include "cases/case_edits.h"
#include "command_line.h"
#include "exchange/stock_files.h"
#include "json.h"
#include "json/utf8.h"
#include "model/pump_request.h"
#include "network/setting.h"
#include "parts/pump/machine.h"
#include "pump/cavitation.h"
#include "pump/data_sheet.h"
#include "pump/supply_curve.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "read_model.h"

namespace conduit::cli {

// What the command knows once the model is read.
struct PumpsOpened {
  Model model;
  UnitSet units = UnitSet::siWater();
  CaseId in = drawingCase;
  std::vector<CaseAnswerPtr> answers;
  std::shared_ptr<const Stock> stock;
  Network network;  // of the case
  [[nodiscard]] const CaseAnswer& answer() const {
    for (const CaseAnswerPtr& a : answers)
      if (a && a->id == in) return *a;
    return *answers.front();
  }
  [[nodiscard]] std::string name(Id id) const { return network.find(id) ? network.at(id).name : ""; }
  [[nodiscard]] std::string say(std::optional<double> si, Measure m, int significant = 4) const {
    return shownIn(units, si, m, significant);
  }
};

namespace {

Json dutyJson(const PumpsOpened& s, const PumpDuty& d) {
  const auto names = [&](const std::vector<Id>& ids) {
    Json list = Json::array();
    for (const Id id : ids) list.push_back(s.name(id));
    return list;
  };
  return {{"pump", s.name(d.pump)},
          {"runs", d.runs},
          {"shut_in", d.shutIn},
          {"pushed_off_by", d.pushedOffBy == noId ? Json(nullptr) : Json(s.name(d.pushedOffBy))},
          {"beside", names(d.beside)},
          {"before", names(d.before)},
          {"behind", names(d.behind)},
          {"flow_m3s", number(d.flow_m3s)},
          {"head_m", number(d.head_m)},
          {"efficiency", number(d.efficiency)},
          {"share_of_best_flow", number(d.ofBest)},
          {"shaft_w", number(d.shaft_w)},
          {"motor_w", number(d.motor_w)},
          {"speed_per_s", number(d.speed_perS)},
          {"npsh_available_m", number(d.npshAvailable_m)},
          {"npsh_required_m", number(d.npshRequired_m)},
          {"npsh_margin_m", number(d.npshMargin_m)}};
}

Json curveJson(const PumpsOpened& s, const TracedCurve& curve) {
  Json o = {{"points", Json::array()}, {"breaks", Json::array()}, {"left_out", Json::array()}};
  for (std::size_t i = 0; i < curve.points.size(); ++i) {
    const DutyPoint& p = curve.points[i];
    if (!std::isfinite(p.head_m)) continue;
    Json point = {{"flow_m3s", p.flow_m3s}, {"head_m", p.head_m}};
    if (const Id governs = i < curve.probes.size() ? curve.probes[i].governs : noId; governs != noId)
      point["governed_by"] = s.name(governs);
    o["points"].push_back(std::move(point));
  }
  for (const CurveBreak& b : curve.breaks)
    o["breaks"].push_back({{"flow_m3s", b.flow_m3s},
                           {"head_before_m", b.before_m},
                           {"head_after_m", b.after_m},
                           {"step", b.step},
                           {"what", b.what}});
  for (const FlowGap& g : curve.gaps)
    o["left_out"].push_back({{"from_m3s", g.from_m3s}, {"to_m3s", g.to_m3s}, {"why", g.why}});
  o["solves"] = curve.solves, o["coarse"] = curve.coarse;
  return o;
}

void printCurve(const PumpsOpened& s, const TracedCurve& curve, std::ostream& out) {
  std::size_t breaks = 0;
  for (std::size_t i = 0; i < curve.points.size(); ++i) {
    const DutyPoint& p = curve.points[i];
    if (!std::isfinite(p.head_m)) continue;
    std::string line = fmt::format("  {:>14} {:>14}", s.say(p.flow_m3s, Measure::volumeFlow, 5),
                                   s.say(p.head_m, Measure::headDrop, 5));
    if (const Id governs = curve.probes[i].governs; governs != noId) line += "  " + s.name(governs);
    out << plainUtf8(line) << '\n';
  }
  for (; breaks < curve.breaks.size(); ++breaks) {
    const CurveBreak& b = curve.breaks[breaks];
    out << plainUtf8(fmt::format("  {} at {}: {}\n", b.step ? "step" : "kink",
                                 s.say(b.flow_m3s, Measure::volumeFlow, 4), b.what));
  }
  for (const FlowGap& g : curve.gaps)
    out << plainUtf8(fmt::format("  no solution from {} to {}: {}\n",
                                 s.say(g.from_m3s, Measure::volumeFlow, 4),
                                 s.say(g.to_m3s, Measure::volumeFlow, 4), g.why));
  if (curve.coarse) out << "  interpolation error may exceed 0.2 %: solve limit reached\n";
}

Json candidateJson(const PumpsOpened& s, const Candidate& c) {
  Json o = {{"pump", c.item},
            {"in_place", c.inPlace},
            {"short_of_npsh_margin", c.shortOfMargin},
            {"head_at_no_flow_m", c.shutOff_m},
            {"run_out_m3s", number(c.runOut_m3s)},
            {"best_flow_m3s", number(c.bestFlow_m3s)},
            {"most_shaft_w_of_a_unit", number(c.runOutShaft_w)},
            {"motor_rating_w", number(c.motor_w)},
            {"speed_for_the_duty", number(c.speedRatio)},
            {"trim_for_the_duty", number(c.trimRatio)},
            {"score", c.score},
            {"cases", Json::array()}};
  for (const CandidateDuty& d : c.cases) {
    Json in = dutyJson(s, d.duty);
    in.erase("pump");
    in["case"] = s.model.cases.find(d.id)->name;
    in["balanced"] = d.solved;
    in["over"] = number(d.over);
    in["npsh_ratio"] = number(d.npshRatio);
    in["preferred_region"] = d.preferred;
    in["allowable_region"] = d.allowed ? Json(*d.allowed) : Json(nullptr);
    in["under_least_continuous_flow"] = d.underLeastFlow;
    in["rating_to_spare_at_no_flow_pa"] = number(d.ratingSpare_pa);
    in["least_delivery_share"] = d.leastDelivery ? Json(d.leastDelivery->share()) : Json(nullptr);
    in["least_delivery_at"] = d.leastDelivery ? Json(s.name(d.leastDelivery->taker)) : Json(nullptr);
    in["weakest_behind"] = d.weakest == noId ? Json(nullptr) : Json(s.name(d.weakest));
    o["cases"].push_back(std::move(in));
  }
  return o;
}

}  // namespace

CLI::App* PumpsCommand::addTo(CLI::App& app) {
  CLI::App* c = app.add_subcommand(
      "pumps", "Pump studies: duty points, system curves, candidates, suction, speeds, cost.");
  c->add_option("FILE", file_, "a model file (.lconduit)")->required();
  auto* pump = c->add_option("--pump", pump_, "one pump, or several separated by commas as a group");
  c->add_option("--at", at_, "a tank, fixed pressure, point or line, as a notional pump")->excludes(pump);
  c->add_option("--case", case_, "case to use; default: the base case");
  c->add_flag("--curve", curve_, "print the system curve, each point solved");
  c->add_option("--most", most_, "maximum flow of the curve");
  c->add_flag("--candidates", candidates_, "suitable catalogue pumps, ranked");
  c->add_option("--flow", flow_, "required flow; with --curve alone: read the head at this flow");
  c->add_option("--head", head_, "required head; with --curve alone: read the flow at this head");
  auto* part =
      c->add_option("--share", share_, "scale all draw-offs together; the supply (--at) provides this share");
  c->add_option("--other", other_,
                "supply that provides the rest; without --share the others keep their flow");
  c->add_option("--least-pressure", leastPressure_, "minimum pressure at every point")->needs(part);
  c->add_option(
      "--hold", hold_,
      "find the speed in every case for a pressure (\"4 bar\", \"4 bar at N-3\") or a flow (\"12 L/s\")");
  c->add_flag("--sheet", sheet_, "print the data sheet of a pump, or of the selection with --candidates");
  c->add_flag("--json", json_, "as JSON on standard output, SI values (docs/cli.md)");
  c->add_option("--units", units_, "unit set: SI water, SI process, US");
  return c;
}

// Once the model is read and its cases are solved.
class PumpsCommand::Run {
 public:
  const PumpsCommand& asked;
  PumpsOpened& s;
  const Medium& medium;
  std::ostream &out, &err;
  std::vector<Id> members;
  std::optional<double> flow, head, most, share, least;
  const CaseAnswer& answer;
  Json json = Json::object();
  int status = limitsKept;

  // Each gives an exit status where it cannot go on.
  std::optional<int> list();
  std::optional<int> shareOf();
  std::optional<int> hold();
  std::optional<int> place();

 private:
  std::optional<int> showCurve(const StandIn& there, const Solution& base, const PumpGroup& group,
                               const SystemCurve& curve, const TracedCurve& together);
  std::optional<int> select();
};

std::optional<int> PumpsCommand::Run::list() {
  bool any = false;
  s.network.each([&](Id, const Element& e) { any = any || e.part->lifts; });
  if (!any) err << "there is no pump in this model; for a notional pump at a supply use --at NAME\n";
  json["pumps"] = Json::array(), json["vapour"] = Json::array();
  for (const PumpDuty& d : dutiesOf(s.network, answer.solution)) {
    Json o = dutyJson(s, d);
    const PumpYear year = yearOfPump(s.model, s.answers, d.pump);
    o["year"] = {
        {"hours", year.hours_s / 3600}, {"energy_at_the_wire_j", year.energy_j}, {"cost", number(year.cost)}};
    json["pumps"].push_back(std::move(o));
    if (asked.json_) continue;
    std::string line =
        d.runs ? fmt::format("{:<12} {:>12} {:>10}  {:>7} of BEP flow, {:>8} shaft power, NPSH margin {}",
                             s.name(d.pump), s.say(d.flow_m3s, Measure::volumeFlow, 3),
                             s.say(d.head_m, Measure::headDrop), s.say(d.ofBest, Measure::ratio, 3),
                             s.say(d.shaft_w, Measure::power, 3), s.say(d.npshMargin_m, Measure::headDrop, 3))
               : fmt::format("{:<12} {:>12}", s.name(d.pump), "off");
    if (const std::string place = placeSaid(s.network, d); !place.empty()) line += "; " + place;
    out << plainUtf8(line) << '\n';
  }
  for (const VapourMargin& v : vapourMargins(s.network, answer.solution, s.stock.get())) {
    static constexpr const char* of[] = {"pump", "valve", "point"};
    json["vapour"].push_back({{"at", s.name(v.element)},
                              {"of", of[static_cast<int>(v.of)]},
                              {"margin_pa", v.margin_pa},
                              {"temperature_c", number(v.temperature_c)}});
    if (!asked.json_)
      out << plainUtf8(fmt::format(
          "{} {}: {} above vapour pressure{}\n", of[static_cast<int>(v.of)], s.name(v.element),
          withUnit(v.margin_pa, Measure::pressureDrop, s.units, 3),
          v.temperature_c ? ", zero at " + withUnit(*v.temperature_c, Measure::temperature, s.units, 3)
                          : ""));
  }
  return std::nullopt;
}

// A supply that provides a share of all draw-offs.
std::optional<int> PumpsCommand::Run::shareOf() {
  SharedSupply shared{.supply = members.front()};
  shared.share = *share, shared.least_pa = least.value_or(0.0);
  if (!asked.other_.empty()) {
    const auto other = idsIn(s.network, asked.other_, err);
    if (!other) return unusableInput;
    shared.other = other->front();
  } else if (shared.share < 1) {
    std::vector<Id> others;
    s.network.each([&](Id id, const Element& e) {
      if (id != shared.supply && e.part->holdsHead) others.push_back(id);
    });
    if (others.size() != 1) return unusable(err, "name the supply that provides the rest: --other NAME");
    shared.other = others.front();
  }
  SharedOptions options;
  options.most_m3s = most.value_or(0.0);
  const auto curve = sharedCurve(s.network, s.stock.get(), answer.solution, shared, options);
  if (!curve)
    return unusable(err, fmt::format("{}{}{}", curve.error().place.name,
                                     curve.error().place.name.empty() ? "" : ": ", curve.error().what));
  json["supply_curve"] = curveJson(s, *curve);
  json["draw_offs_m3s"] = curve->drawn_m3s;
  if (!asked.json_) {
    out << plainUtf8(
        fmt::format("{}: head above its point, and the governing point; it provides {} of all draw-offs "
                    "({} at present)\n",
                    s.name(shared.supply), s.say(shared.share, Measure::ratio, 3),
                    s.say(curve->drawn_m3s, Measure::volumeFlow)));
    printCurve(s, *curve, out);
  }
  std::optional<Result<SharedPoint>> read;
  if (flow) read = sharedAtFlow(s.network, s.stock.get(), answer.solution, shared, *flow);
  else if (head) read = sharedAtHead(s.network, s.stock.get(), answer.solution, shared, *curve, *head);
  if (read && !*read) {
    err << plainUtf8(read->error().what) << '\n';
    return cannotBalance;
  }
  if (read) {
    const SharedPoint& p = **read;
    json["read"] = {
        {"flow_m3s", p.flow_m3s},           {"head_m", p.head_m},       {"level_m", p.level_m},
        {"draw_offs_times", p.factor},      {"other_m3s", p.other_m3s}, {"other_level_m", p.otherLevel_m},
        {"governed_by", s.name(p.governs)}, {"besides", Json::array()}};
    for (const auto& [id, gives] : p.besides)
      json["read"]["besides"].push_back({{"supply", s.name(id)}, {"flow_m3s", gives}});
    if (!asked.json_) {
      out << plainUtf8(fmt::format("{} at {} above its point, level {}: {} governs; all draw-offs times {}\n",
                                   s.say(p.flow_m3s, Measure::volumeFlow), s.say(p.head_m, Measure::headDrop),
                                   s.say(p.level_m, Measure::height), s.name(p.governs),
                                   digits(p.factor, 4)));
      if (shared.other != noId)
        out << plainUtf8(fmt::format("{} at level {}\n",
                                     providesSaid(s.network, shared.other, p.other_m3s, s.units),
                                     s.say(p.otherLevel_m, Measure::height)));
      for (const auto& [id, gives] : p.besides)
        out << plainUtf8(
            fmt::format("{} at the head it holds\n", providesSaid(s.network, id, gives, s.units)));
    }
  }
  status = limitsKept;
  return std::nullopt;
}

// The speed that holds a pressure or flow, in every case.
std::optional<int> PumpsCommand::Run::hold() {
  SpeedGoal goal;
  std::string value = asked.hold_;
  if (const auto cut = asked.hold_.find(" at "); cut != std::string::npos) {
    const auto point = idsIn(s.network, asked.hold_.substr(cut + 4), err);
    if (!point) return unusableInput;
    goal.at = point->front(), value = asked.hold_.substr(0, cut);
  }
  const auto pressure = parseIn(medium, value, Measure::gaugePressure);
  const auto through = parseIn(medium, value, Measure::volumeFlow);
  if (!pressure && !through)
    return unusable(err, fmt::format("--hold: \"{}\" is neither a pressure nor a flow with its unit", value));
  goal.flow = !pressure, goal.value_si = pressure ? *pressure : *through;
  json["speeds"] = Json::array();
  for (const SpeedRow& row :
       speedsOver(s.model, s.model.cases.ids(), s.stock, members.front(), goal, s.units)) {
    Json o = dutyJson(s, row.duty);
    o["case"] = s.model.cases.find(row.id)->name;
    o["held"] = row.held, o["why_not"] = row.why, o["of_rated_speed"] = row.ratio;
    o["too_slow"] = row.tooSlow, o["too_fast"] = row.tooFast;
    json["speeds"].push_back(std::move(o));
    if (!asked.json_)
      out << plainUtf8(fmt::format("{:<24} {:>10}  {:>10} {:>10}  {}\n", s.model.cases.find(row.id)->name,
                                   s.say(row.duty.speed_perS, Measure::rotation),
                                   s.say(row.duty.flow_m3s, Measure::volumeFlow, 3),
                                   s.say(row.duty.head_m, Measure::headDrop),
                                   row.held ? row.tooSlow   ? "below minimum speed"
                                              : row.tooFast ? "above maximum speed"
                                                            : "held"
                                            : row.why));
    if (!row.solved) status = cannotBalance;
  }
  return std::nullopt;
}

std::optional<int> PumpsCommand::Run::showCurve(const StandIn& there, const Solution& base,
                                                const PumpGroup& group, const SystemCurve& curve,
                                                const TracedCurve& together) {
  json["system_curve"] = curveJson(s, curve);
  json["system_curve"]["static_m"] = number(curve.static_m);
  json["system_curve"]["static_said"] = curve.staticSaid;
  if (members.size() > 1 && !together.empty()) {
    json["combined_curve"] = curveJson(s, together);
    json["combined_curve"]["at_present_shares"] = !group.series && !group.block;
  }
  if (!asked.json_) {
    if (curve.static_m)
      out << plainUtf8(
          fmt::format("static head: {}, {}\n", s.say(curve.static_m, Measure::headDrop), curve.staticSaid));
    if (curve.empty()) out << "no solution at any flow\n";
    printCurve(s, curve, out);
    if (members.size() > 1 && !together.empty()) {
      out << (group.series || group.block ? "combined curve\n"
                                          : "combined curve, at the present shares of the flow: "
                                            "correct at the duty point only\n");
      printCurve(s, together, out);
    }
  }
  if (curve.empty()) {
    // Why, at one flow.
    SolveOptions options{.units = s.units};
    options.passes[group.members.front()] = 1e-4;
    const Solution tried = solve(there.network, s.stock.get(), options);
    if (!tried.summary.problems.empty()) err << plainUtf8(tried.summary.problems.front().what) << '\n';
    status = cannotBalance;
  }
  if (!asked.candidates_ && (flow || head)) {
    const std::optional<DutyPoint> read =
        flow ? readAtFlow(there.network, s.stock.get(), base, group, *flow)
             : readAtHead(there.network, s.stock.get(), base, group, curve, *head, 0.0);
    if (!read) {
      err << "the curve has no such point\n";
      return cannotBalance;
    }
    json["read"] = {{"flow_m3s", read->flow_m3s}, {"head_m", read->head_m}};
    // Of a notional supply also as a level: what it lifts from stands at rest.
    const auto level = there.made ? liftsTo(there.network, base, there.pump, read->head_m) : std::nullopt;
    if (level) json["read"]["level_m"] = *level;
    if (!asked.json_)
      out << plainUtf8(fmt::format("read: {} at {}{}\n", s.say(read->flow_m3s, Measure::volumeFlow, 5),
                                   s.say(read->head_m, Measure::headDrop, 5),
                                   level ? ", level " + s.say(level, Measure::height) : ""));
  }
  return std::nullopt;
}

// Candidates of the catalogue for the place.
std::optional<int> PumpsCommand::Run::select() {
  PumpRequest request{.at = members.front()};
  if (const PumpRequest* kept = requestAt(s.model.of<PumpRequests>().all, members.front())) request = *kept;
  if (flow)
    request.about.set(request::flow,
                      *parse(asked.flow_, Measure::volumeFlow, &s.units.unitFor(Measure::volumeFlow)));
  if (head)
    request.about.set(request::head,
                      *parse(asked.head_, Measure::headDrop, &s.units.unitFor(Measure::headDrop)));
  const Selection chosen = conduit::select(s.model, members.front(), request, s.stock,
                                           {.current = s.in, .units = s.units, .jobs = {}});
  if (!chosen.problem.empty()) return unusable(err, chosen.problem);
  json["asked"] = {
      {"flow_m3s", chosen.flow_m3s}, {"head_m", number(chosen.head_m)}, {"npsh_margin_m", chosen.margin_m}};
  json["candidates"] = Json::array(), json["left_out"] = Json::array(), json["reasons"] = Json::array();
  for (const Candidate& c : chosen.can) json["candidates"].push_back(candidateJson(s, c));
  for (const Candidate& c : chosen.cannot) json["left_out"].push_back({{"pump", c.item}, {"why", c.leftOut}});
  for (const auto& [why, count] : chosen.reasons) json["reasons"].push_back({{"why", why}, {"count", count}});
  if (!asked.json_) out << plainUtf8(plainText(selectionSheet(s.model, members.front(), chosen, s.units)));
  if (chosen.suitable() == 0) status = std::max<int>(status, limitBroken);
  return std::nullopt;
}

// One place: a pump, several as one, or what stands in for a supply.
std::optional<int> PumpsCommand::Run::place() {
  if (!asked.other_.empty()) {
    const auto other = idsIn(s.network, asked.other_, err);
    if (!other) return unusableInput;
    s.network = restFrom(s.network, answer.solution, members.front(), other->front());
  }
  const auto there = standIn(s.network, members.front());
  if (!there) return unusable(err, there.error().what);
  Solution base = answer.solution;
  if (there->made) base = solve(there->network, s.stock.get(), {.units = s.units, .offers = 0});
  Result<PumpGroup> group = there->made ? Result<PumpGroup>(PumpGroup{.members = {there->pump}})
                                        : groupOf(s.network, answer.solution, members);
  if (!group) return unusable(err, group.error().what);
  std::optional<SystemCurve> curve;
  TracedCurve together;
  if (asked.curve_ || asked.sheet_) {
    CurveOptions options{.units = s.units};
    together = groupCurve(there->network, s.stock.get(), base, *group);
    if (most) {
      options.most_m3s = *most;
    } else if (!together.empty()) {
      options.most_m3s = 1.05 * together.last();
    } else {
      options.most_m3s = 1.5 * std::max(answer.solution.summary.outflow_m3s, 1e-6);
    }
    curve = systemCurve(there->network, s.stock.get(), base, *group, options);
  }
  if (asked.curve_)
    if (const auto end = showCurve(*there, base, *group, *curve, together)) return end;
  if (asked.candidates_)
    if (const auto end = select()) return end;
  if (asked.sheet_ && !asked.candidates_) {
    if (there->made) return unusable(err, "a data sheet needs a pump in the model");
    if (!asked.json_)
      out << plainUtf8(plainText(dutySheet(s.model, answer, s.answers, members.front(), &*curve, s.units)));
  }
  if (!asked.curve_ && !asked.candidates_ && !asked.sheet_) {
    json["pumps"] = Json::array();
    for (const PumpDuty& d : dutiesOf(s.network, answer.solution))
      if (std::find(members.begin(), members.end(), d.pump) != members.end())
        json["pumps"].push_back(dutyJson(s, d));
    if (!asked.json_)
      for (const Id id : members)
        out << plainUtf8(plainText(dutySheet(s.model, answer, s.answers, id, nullptr, s.units)));
  }
  return std::nullopt;
}

int PumpsCommand::run(std::ostream& out, std::ostream& err) const {
  auto open = opened(file_, case_, units_, err);
  if (!open) return unusableInput;
  PumpsOpened s{.model = std::move(open->model), .units = open->units, .in = open->in};
  s.network = networkOf(s.model, s.in);
  s.stock = stockFor(s.model.drawn, shippedStock());
  // What is asked, read before anything is solved.
  std::optional<double> most, flow, head, share, least;
  const Medium medium = mediumOf(s.network, s.stock.get());
  for (const auto& [text, into, measure, option] :
       {std::tuple{&most_, &most, Measure::volumeFlow, "--most"},
        std::tuple{&flow_, &flow, Measure::volumeFlow, "--flow"},
        std::tuple{&head_, &head, Measure::headDrop, "--head"},
        std::tuple{&share_, &share, Measure::ratio, "--share"},
        std::tuple{&leastPressure_, &least, Measure::gaugePressure, "--least-pressure"}}) {
    if (text->empty()) continue;
    const auto given = parseIn(medium, *text, measure, &s.units.unitFor(measure));
    if (!given) return unusable(err, fmt::format("{}: {}", option, given.error().what));
    *into = *given;
  }
  if (most && !(*most > 0)) return unusable(err, "--most: the maximum flow must be above zero");
  if ((flow || head) && !curve_ && !candidates_ && !share)
    return unusable(err,
                    fmt::format("{} needs --curve, --candidates or --share", flow ? "--flow" : "--head"));
  const bool wantsPlace = curve_ || candidates_ || sheet_ || !share_.empty() || !hold_.empty();
  if (wantsPlace && pump_.empty() && at_.empty())
    return unusable(err, "name a pump (--pump NAME) or a supply (--at NAME)");
  std::vector<Id> members;
  if (!pump_.empty() || !at_.empty()) {
    const auto ids = idsIn(s.network, pump_.empty() ? at_ : pump_, err);
    if (!ids) return unusableInput;
    members = *ids;
    for (const Id id : members)
      if (!pump_.empty() && !s.network.at(id).part->lifts)
        return unusable(err, fmt::format("{} is not a pump; for a notional pump there use --at {}",
                                         s.name(id), quotedJson(s.name(id))));
  }
  s.answers = balanceCases(s.model, s.model.cases.ids(), s.stock, {.units = s.units, .jobs = {}});
  const CaseAnswer& answer = s.answer();
  Run run{.asked = *this,
          .s = s,
          .medium = medium,
          .out = out,
          .err = err,
          .members = std::move(members),
          .flow = flow,
          .head = head,
          .most = most,
          .share = share,
          .least = least,
          .answer = answer};
  run.status = !answer.usable() ? cannotBalance : answer.standing.broken > 0 ? limitBroken : limitsKept;
  run.json["case"] = s.model.cases.find(s.in)->name;
  run.json["balanced"] = answer.usable();
  if (const auto end = run.members.empty() ? run.list()
                       : share             ? run.shareOf()
                       : !hold_.empty()    ? run.hold()
                                           : run.place())
    return *end;
  if (json_) print(out, run.json);
  if (!answer.usable() && !answer.solution.summary.problems.empty())
    err << plainUtf8(answer.solution.summary.problems.front().what) << '\n';
  return ended(run.status, out, err);
}

}  // namespace conduit::cli
