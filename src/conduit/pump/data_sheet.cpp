#include "pump/data_sheet.h"

#include <fmt/format.h>

#include "model/costs.h"
#include "parts/pump/machine.h"
#include "quantity/format.h"

namespace conduit {
namespace {

// Over the cases, of what takers get now.
std::string leastDelivered(const Candidate& c) {
  const DeliveryChange* least = c.leastDelivery();
  return least ? fmt::format("{:.0f} %", std::max(0.0, least->share()) * 100) : "–";
}

}  // namespace
namespace {

std::string said(std::optional<double> si, Measure measure, const UnitSet& units, int significant = 4) {
  return si ? withUnit(*si, measure, units, significant) : "–";
}

}  // namespace

PumpYear yearOfPump(const Model& model, std::span<const CaseAnswerPtr> answers, Id pump) {
  PumpYear year;
  for (const CaseAnswerPtr& a : answers) {
    if (!a || !a->usable() || !a->network.find(pump)) continue;
    const double hours = hoursOf(model, a->id);
    const ReadingOf r(a->network, a->solution, pump);
    const auto flow = outcome::flow(*r);
    if (!flow || *flow <= a->solution.still_m3s) continue;
    year.hours_s += hours, year.lifted_m3 += *flow * hours;
    const auto power = atTheWire(model.costs, *a->network.at(pump).part, *r);
    if (power) year.energy_j += power->wire_w * hours;
    else if (hours > 0) year.known = false;
  }
  if (const auto tariff = costOf(model.costs, costs::tariff)) year.cost = year.energy_j / 3.6e6 * *tariff;
  if (const auto* word = model.costs.get<std::string>(costs::currency)) year.currency = *word;
  return year;
}

Page dutySheet(const Model& model, const CaseAnswer& answer, std::span<const CaseAnswerPtr> answers, Id pump,
               const SystemCurve* curve, const UnitSet& units) {
  Page page;
  const Network& n = answer.network;
  const Element& e = n.at(pump);
  const Case* which = model.cases.find(answer.id);
  const auto text = [&](std::string_view key) {
    const std::string* t = n.job().text(key);
    return t ? *t : std::string();
  };
  page.blocks.push_back(Page::Heading{"Pump " + e.name, 1});
  page.blocks.push_back(
      Page::Sentence{fmt::format("{}{}{}; case {}", text("title"), text("number").empty() ? "" : ", ",
                                 text("number"), which ? which->name : "")});
  const ReadingOf r(n, answer.solution, pump);
  const PumpDuty d = dutyOf(n, answer.solution, pump);
  page.blocks.push_back(Page::Sentence{e.part->story(*r, units)});
  Page::Table duty{.title = "Duty", .columns = {"", "value"}, .rows = {}};
  const auto row = [](Page::Table& t, std::string what, std::string value) {
    t.rows.push_back({std::move(what), std::move(value)});
  };
  row(duty, "liquid", answer.solution.setting.liquid);
  row(duty, "flow", said(d.flow_m3s, Measure::volumeFlow, units));
  row(duty, "head", said(d.head_m, Measure::headDrop, units));
  if (curve && curve->static_m)
    row(duty, "static head",
        fmt::format("{}, {}", said(curve->static_m, Measure::headDrop, units), curve->staticSaid));
  if (d.speed_perS) row(duty, "speed", said(d.speed_perS, Measure::rotation, units));
  row(duty, "efficiency", said(d.efficiency, Measure::ratio, units, 3));
  row(duty, "% of BEP flow", said(d.ofBest, Measure::ratio, units, 3));
  const CurveSheet sheet = curveSheet(n, answer.solution, pump, units);
  if (!sheet.empty) {
    row(duty, "preferred region",
        fmt::format("{} to {} of BEP flow", said(sheet.preferredLeast, Measure::ratio, units),
                    said(sheet.preferredMost, Measure::ratio, units)));
    row(duty, "shut-off head", said(sheet.shutOff_m, Measure::headDrop, units));
    row(duty, "run-out flow", said(sheet.runOut_m3s, Measure::volumeFlow, units));
    if (sheet.nq) row(duty, "specific speed nq", digits(*sheet.nq, 3));
    if (sheet.nss) row(duty, "suction specific speed nss", digits(*sheet.nss, 3));
  }
  page.blocks.push_back(std::move(duty));
  if (const auto budget = suctionBudget(n, answer.solution, answer.stock.get(), pump))
    for (auto& block : pageOf(*budget, e.name, units).blocks) page.blocks.push_back(std::move(block));
  if (const auto power = atTheWire(model.costs, *e.part, *r)) {
    Page::Table table{.title = "Power", .columns = {"", "value"}, .rows = {}};
    row(table, "shaft power", said(power->shaft_w, Measure::power, units));
    if (sheet.driver_w) row(table, "driver rating per pump", said(sheet.driver_w, Measure::power, units));
    row(table,
        fmt::format("motor input, efficiency {}{}", said(power->motorEfficiency, Measure::ratio, units, 3),
                    power->ownMotor ? "" : " (from Costs)"),
        said(power->motor_w, Measure::power, units));
    row(table,
        fmt::format("electrical input, drive {}", said(power->driveEfficiency, Measure::ratio, units, 3)),
        said(power->wire_w, Measure::power, units));
    if (d.flow_m3s && *d.flow_m3s > 0)
      row(table, "specific energy per m³",
          fmt::format("{} kWh", digits(power->wire_w / *d.flow_m3s / 3.6e6, 3)));
    const PumpYear year = yearOfPump(model, answers, pump);
    row(table, "per year, all cases",
        fmt::format("{} h, {} kWh{}", digits(year.hours_s / 3600, 4), digits(year.energy_j / 3.6e6, 4),
                    year.cost ? fmt::format(", {} {}", digits(*year.cost, 4), year.currency) : ""));
    page.blocks.push_back(std::move(table));
  }
  if (answers.size() > 1) {
    Page::Table table{.title = "By case",
                      .columns = {"case", "flow", "head", "% of BEP flow", "shaft", "NPSH margin"},
                      .rows = {}};
    for (const CaseAnswerPtr& a : answers) {
      if (!a || !a->network.find(pump)) continue;
      const Case* c = model.cases.find(a->id);
      if (!a->usable()) {
        table.rows.push_back({c ? c->name : "", "no solution", "", "", "", ""});
        continue;
      }
      const PumpDuty in = dutyOf(a->network, a->solution, pump);
      table.rows.push_back(
          {c ? c->name : "", in.runs ? said(in.flow_m3s, Measure::volumeFlow, units) : "off",
           said(in.head_m, Measure::headDrop, units), said(in.ofBest, Measure::ratio, units, 3),
           said(in.shaft_w, Measure::power, units), said(in.npshMargin_m, Measure::headDrop, units, 3)});
    }
    page.blocks.push_back(std::move(table));
  }
  for (const std::string& doubt : doubts(*r->values, answer.solution.setting, units))
    page.blocks.push_back(Page::Sentence{"Data check: " + doubt + ".", true});
  return page;
}

Page selectionSheet(const Model& model, Id place, const Selection& s, const UnitSet& units) {
  Page page;
  page.blocks.push_back(Page::Heading{fmt::format("Pumps for {}", model.drawn.at(place).name), 1});
  page.blocks.push_back(
      Page::Sentence{fmt::format("Required: {}{}; each candidate at its actual duty point, {} case{}.",
                                 withUnit(s.flow_m3s, Measure::volumeFlow, units),
                                 s.head_m ? " at " + withUnit(*s.head_m, Measure::headDrop, units) : "",
                                 s.cases.size(), s.cases.size() == 1 ? "" : "s")});
  if (s.units > 1)
    page.blocks.push_back(
        Page::Sentence{fmt::format("{:.0f} identical pumps in {}; flow, head and shaft power of all of them.",
                                   s.units, s.series ? "series" : "parallel")});
  const Page::Table empty{
      .title = "Candidates",
      .columns = {"pump", "flow", "deviation", "head", "efficiency", "% of BEP flow", "shaft", "motor",
                  "NPSH margin", "shut-off head", "for the exact duty", "lowest delivery"},
      .rows = {}};
  Page::Table good = empty, lacking = empty;
  lacking.title = "Short of NPSH margin";
  for (const Candidate& c : s.can) {
    const CandidateDuty& d = c.now();
    const CandidateDuty* worst = c.worstMargin();
    (c.shortOfMargin ? lacking : good)
        .rows.push_back({c.item, said(d.duty.flow_m3s, Measure::volumeFlow, units),
                         d.over ? fmt::format("{:+.1f} %", *d.over * 100) : "–",
                         said(d.duty.head_m, Measure::headDrop, units),
                         said(d.duty.efficiency, Measure::ratio, units, 3),
                         said(d.duty.ofBest, Measure::ratio, units, 3),
                         said(d.duty.shaft_w, Measure::power, units), said(c.motor_w, Measure::power, units),
                         worst ? said(worst->duty.npshMargin_m, Measure::headDrop, units, 3) : "–",
                         withUnit(c.shutOff_m, Measure::headDrop, units),
                         c.speedRatio && c.ratedSpeed_perS
                             ? withUnit(*c.speedRatio * *c.ratedSpeed_perS, Measure::rotation, units)
                             : "–",
                         leastDelivered(c)});
  }
  page.blocks.push_back(std::move(good));
  if (!lacking.rows.empty()) page.blocks.push_back(std::move(lacking));
  std::string others;
  for (const auto& [why, count] : s.reasons)
    others += fmt::format("{}{} {}", others.empty() ? "" : ", ", count, why);
  if (!s.cannot.empty())
    page.blocks.push_back(Page::Sentence{fmt::format("{} not suitable: {}.", s.cannot.size(), others), true});
  return page;
}

}  // namespace conduit
