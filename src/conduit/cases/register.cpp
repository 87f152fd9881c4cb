#include "cases/register.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>
#include <tuple>

#include "quantity/format.h"
#include "quantity/words.h"

namespace conduit {
namespace {

struct Gathered {
  RegisterRow row;
  std::set<Id> held;
};
using RowKey = std::tuple<CheckId, bool, LimitFrom, std::string, double>;

}  // namespace

std::vector<RegisterRow> limitRegister(std::span<const CaseAnswerPtr> answers, std::stop_token stop) {
  std::map<RowKey, Gathered> all;
  std::vector<Check> found;
  Checks checks(found);
  for (const CaseAnswerPtr& a : answers) {
    if (!a || !a->solution.summary.usable()) continue;
    eachWithJob(a->network, [&](Id id, const Element& e) {
      if (stop.stop_requested()) return;
      found.clear();
      checksOf(a->network, a->solution, id, checks);
      for (const Check& c : found) {
        if (c.spoken || c.severity == Severity::note) continue;
        for (const bool most : {false, true}) {
          const auto limit = most ? c.most : c.least;
          if (!limit) continue;
          const LimitFrom from = most ? c.mostFrom : c.leastFrom;
          const std::string* service = from == LimitFrom::service ? e.text(serviceKey) : nullptr;
          // What physics says may be another number at each element: one row all the same.
          Gathered& g = all[{c.id, most, from, service ? *service : std::string(),
                             from == LimitFrom::law ? 0.0 : *limit}];
          Check side = c;
          (most ? side.least : side.most).reset();
          const double beyond = side.beyond();
          if (g.held.empty() || beyond > g.row.beyond)
            g.row = {.check = c.id,
                     .most = most,
                     .limit = *limit,
                     .from = from,
                     .service = service ? *service : std::string(),
                     .severity = c.severity,
                     .kind = g.row.kind,
                     .worstAt = id,
                     .worstIn = a->id,
                     .worst = c.value,
                     .beyond = beyond};
          if (g.held.empty()) g.row.kind = e.part;
          else if (g.row.kind != e.part) g.row.kind = nullptr;
          g.held.insert(id);
        }
      }
    });
  }
  std::vector<RegisterRow> rows;
  if (stop.stop_requested()) return rows;
  for (auto& [place, g] : all) {
    g.row.elements = g.held.size();
    rows.push_back(std::move(g.row));
  }
  // Not met, then outside what is preferred, then the others.
  const auto rank = [](const RegisterRow& r) {
    return !r.broken() ? 2 : r.severity <= Severity::broken ? 0 : 1;
  };
  std::stable_sort(rows.begin(), rows.end(), [&](const RegisterRow& one, const RegisterRow& other) {
    return rank(one) != rank(other) ? rank(one) < rank(other) : one.beyond > other.beyond;
  });
  return rows;
}

std::string sourceSaid(const RegisterRow& row) {
  switch (row.from) {
    case LimitFrom::law: return "physical";
    case LimitFrom::fallback: return "default";
    case LimitFrom::job: return "job";
    case LimitFrom::service: return "service " + row.service;
    case LimitFrom::own: return "own";
    case LimitFrom::catalogue:
      return row.check == CheckId::rating || row.check == CheckId::shutOff ? "catalogue, pipe alone"
                                                                           : "catalogue";
    case LimitFrom::standard: return "standard";
  }
  return {};
}

namespace {

// A height is counted from afar.
int digitsOf(CheckId check) { return measureOf(check) == Measure::height ? 5 : 3; }

}  // namespace

std::string limitSaid(const RegisterRow& row, const UnitSet& units) {
  return fmt::format("{} {} {}", labelOf(row.check), row.most ? "≤" : "≥",
                     withUnit(row.limit, measureOf(row.check), units, digitsOf(row.check)));
}

std::string worstSaid(const RegisterRow& row, const UnitSet& units) {
  return withUnit(row.worst, measureOf(row.check), units, digitsOf(row.check));
}

std::string marginSaid(const RegisterRow& row, const UnitSet& units) {
  if (row.broken()) return row.severity <= Severity::broken ? "not met" : "outside";
  if (measureOf(row.check) == Measure::height)
    return withUnit(std::abs(row.limit - row.worst), Measure::headDrop, units, 2);
  return fmt::format("{} %", digits(std::min(-row.beyond * 100, 999.0), 2));
}

std::string heldSaid(const RegisterRow& row, const Model& model) {
  const Element* e = model.drawn.find(row.worstAt);
  if (row.elements == 1) return e ? nameOf(model.drawn, row.worstAt) : std::string();
  return fmt::format("{} {}", counted(row.elements),
                     row.kind ? lowered(row.kind->plural) : std::string("elements"));
}

Page::Table registerTable(std::span<const RegisterRow> rows, const Model& model, const UnitSet& units) {
  Page::Table table{.title = "Limits in force",
                    .columns = {"limit", "source", "holds for", "worst", "at", "case", "margin"},
                    .rows = {}};
  for (const RegisterRow& r : rows) {
    const Element* e = model.drawn.find(r.worstAt);
    const Case* in = model.cases.find(r.worstIn);
    table.rows.push_back({limitSaid(r, units), sourceSaid(r), heldSaid(r, model), worstSaid(r, units),
                          e ? nameOf(model.drawn, r.worstAt) : "-", in ? in->name : "-",
                          marginSaid(r, units)});
  }
  return table;
}

}  // namespace conduit
