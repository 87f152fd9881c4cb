#include "cases/grid.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <set>
#include <tuple>

#include "cases/case_edits.h"
#include "cases/year.h"
#include "fields/entry.h"
#include "model/watched.h"
#include "quantity/format.h"
#include "say/words.h"

namespace conduit {
namespace {

constexpr std::string_view basedOn = "based on ";

const CaseAnswer* answerOf(std::span<const CaseAnswerPtr> answers, CaseId id) {
  for (const CaseAnswerPtr& a : answers)
    if (a && a->id == id) return a.get();
  return nullptr;
}

std::string unitOf(Measure measure, const UnitSet& units) {
  return std::string(units.unitFor(measure).symbol);
}

// In a column of one unit; what waits for the liquid stays as it was typed.
std::string numberOf(const Given& given, Measure measure, const UnitSet& units) {
  return given.basis == Basis::direct ? givenNumber(given.value, measure, units) : given.typed;
}

GridCell fieldCell(const Element& e, const Field& f, const UnitSet& units) {
  GridCell cell{.text = "–"};
  const Values::Entry* entry = e.values.entry(f.key);
  if (entry && entry->released) {
    cell.found = true;
    return cell;
  }
  cell.assumed = entry && entry->assumed;
  if (const Given* g = e.given(f.key)) {
    cell.text = numberOf(*g, f.measure, units), cell.typed = g->typed;
    if (g->basis == Basis::direct) cell.si = g->value;
  } else if (entry) {
    cell.text = cell.typed =
        f.kind == FieldKind::choice ? sayField(f, entry->value) : writeField(f, entry->value);
    if (f.kind == FieldKind::table) cell.text = fmt::format("{} rows", std::get<Rows>(entry->value).size());
  } else if (f.kind == FieldKind::flag) {
    cell.text = cell.typed = flagOf(e.values, f) ? "yes" : "no";
  } else if (f.kind == FieldKind::choice) {
    cell.text = cell.typed = spoken(choiceOf(e.values, f));
  } else if (f.fallback && f.kind == FieldKind::quantity) {
    cell.text = givenNumber(*f.fallback, f.measure, units), cell.si = *f.fallback;
  }
  return cell;
}

// The network of each case, and what each differs in.
struct CaseColumn {
  CaseId id;
  const Case* which;
  Network network;
  const CaseAnswer* answer;
};
std::vector<CaseColumn> columnsOf(const Model& model, std::span<const CaseAnswerPtr> answers) {
  std::vector<CaseColumn> columns;
  for (const CaseId id : model.cases.ids())
    columns.push_back({id, model.cases.find(id), networkOf(model, id), answerOf(answers, id)});
  return columns;
}

GridRow rowOf(const std::vector<CaseColumn>& columns, Id id, const std::string& key, bool outcome,
              const UnitSet& units) {
  const Network& drawn = columns.front().network;
  const Element& e = drawn.at(id);
  GridRow row{.kind = outcome ? GridRow::Kind::given : GridRow::Kind::field,
              .elements = {id},
              .whose = id == jobId ? "Job" : e.name};
  const Field* f = outcome ? nullptr : findField(*e.part, key);
  const Outcome* o = outcome ? findOutcome(*e.part, key) : nullptr;
  row.key = f ? f->key : o->key;
  row.measure = f ? f->measure : o->measure;
  row.quantity = o || f->kind == FieldKind::quantity;
  row.releasable = f && f->releasable;
  row.what = spoken(row.key);
  if (row.quantity) row.unit = unitOf(row.measure, units);
  for (const CaseColumn& c : columns) {
    const Element& here = c.network.at(id);
    GridCell cell;
    if (f) {
      cell = fieldCell(here, *f, units);
      if (cell.found && c.answer && c.answer->usable())
        if (const auto v = c.answer->solution.foundFor(id, f->key))
          cell.si = *v, cell.text = asNumber(*v, f->measure, units);
    } else if (const Given* g = here.values.goal(o->key)) {
      cell.text = numberOf(*g, o->measure, units), cell.typed = g->typed;
      if (g->basis == Basis::direct) cell.si = g->value;
    } else {
      cell.found = true, cell.text = "–";
      if (c.answer)
        if (const auto reading = c.answer->reading(id, here.part))
          if (const auto v = outcomeOf(*here.part, o->key, **reading))
            cell.si = *v, cell.text = asShown(*shownOf(*o, **reading), o->measure, units, 4, false);
    }
    cell.own = c.id == drawingCase || c.which->differs.at(id, row.key, outcome) != nullptr;
    row.cells.push_back(std::move(cell));
  }
  return row;
}

// What a catalogue item brings and takes away differs where the item does: those rows follow the item's own.
void gatherUnderItems(std::vector<GridRow>& rows) {
  std::vector<GridRow> gathered;
  const auto isItem = [](const GridRow& r) {
    return r.kind == GridRow::Kind::field && r.key == stockItemKey;
  };
  const auto comesWith = [&](const GridRow& r, const GridRow& item) {
    if (r.kind != GridRow::Kind::field || isItem(r) || r.elements != item.elements) return false;
    for (std::size_t i = 1; i < r.cells.size(); ++i)  // the first is the drawing
      if (r.cells[i].own && !item.cells[i].own) return false;
    return true;
  };
  for (GridRow& row : rows) {
    if (std::any_of(rows.begin(), rows.end(),
                    [&](const GridRow& o) { return isItem(o) && comesWith(row, o); }))
      continue;
    gathered.push_back(row);
    if (!isItem(row)) continue;
    const std::size_t at = gathered.size() - 1;
    for (const GridRow& other : rows)
      if (comesWith(other, row)) {
        gathered.push_back(other);
        gathered.back().brought = true;
        ++gathered[at].brings;
      }
  }
  rows = std::move(gathered);
}

bool sameCells(const GridRow& a, const GridRow& b) {
  for (std::size_t i = 0; i < a.cells.size(); ++i) {
    const GridCell &x = a.cells[i], &y = b.cells[i];
    if (x.text != y.text || x.typed != y.typed || x.own != y.own || x.found || y.found) return false;
  }
  return a.cells.size() == b.cells.size();
}

GridRow hoursRow(const Model& model) {
  GridRow row{.kind = GridRow::Kind::about,
              .elements = {},
              .key = cases::hours,
              .whose = "Hours",
              .what = "per year",
              .unit = "h",
              .measure = Measure::duration,
              .quantity = true};
  for (const CaseId id : model.cases.ids()) {
    GridCell cell;
    const Case& c = *model.cases.find(id);
    const Given* given =
        id == drawingCase ? model.costs.get<Given>(cases::hours) : c.about.get<Given>(cases::hours);
    cell.si = hoursOf(model, id);
    cell.text = withoutZeros(digits(*cell.si / 3600.0, 5));
    cell.own = given != nullptr;
    if (given) cell.typed = given->typed;
    row.cells.push_back(std::move(cell));
  }
  return row;
}

GridHeading headingOf(const Model& model, const CaseColumn& c) {
  GridHeading h{.id = c.id, .name = c.which->name, .remark = {}, .parent = {}, .verdict = {}};
  if (const auto* remark = c.which->about.get<std::string>(cases::remark)) h.remark = *remark;
  const Case* parent = model.cases.find(c.which->parent);
  h.parent = c.id == drawingCase ? "base case" : fmt::format("{}{}", basedOn, parent ? parent->name : "?");
  if (!c.answer) {
    h.verdict = "…";
  } else if (!c.answer->usable()) {
    h.bad = true;
    h.verdict = c.answer->solution.summary.verdict == Verdict::empty       ? "nothing to solve"
                : c.answer->solution.summary.verdict == Verdict::cannotYet ? "cannot be solved yet"
                                                                           : "no solution";
  } else {
    h.solved = true;
    const Standing& s = c.answer->standing;
    h.bad = s.onPaperOnly || s.broken > 0;
    h.verdict = s.onPaperOnly ? "physically impossible"
                : s.broken    ? fmt::format("{} not met", s.broken)
                : s.near      ? fmt::format("met, {} near", s.near)
                              : "limits met";
  }
  return h;
}

}  // namespace

std::string namesTogether(const Network& network, std::span<const Id> ids) {
  const auto name = [&](std::size_t i) { return network.at(ids[i]).name; };
  if (ids.size() == 1) return name(0);
  // A stem and a number, each: "Gun 5 … 11".
  const auto stem = [](const std::string& n) {
    std::size_t end = n.size();
    while (end > 0 && std::isdigit(static_cast<unsigned char>(n[end - 1]))) --end;
    return n.substr(0, end);
  };
  bool alike = true;
  std::vector<long> numbers;
  for (std::size_t i = 0; i < ids.size(); ++i) {
    const std::string n = name(i), s = stem(n);
    alike = alike && s == stem(name(0)) && s.size() < n.size() && n.size() - s.size() < 10;
    if (alike) numbers.push_back(std::stol(n.substr(s.size())));
  }
  if (alike) {
    std::sort(numbers.begin(), numbers.end());
    std::string text = stem(name(0));
    for (std::size_t i = 0, end; i < numbers.size(); i = end) {
      end = i + 1;
      while (end < numbers.size() && numbers[end] == numbers[end - 1] + 1) ++end;
      if (i > 0) text += ", ";
      text +=
          end - i > 2 ? fmt::format("{} … {}", numbers[i], numbers[end - 1]) : fmt::format("{}", numbers[i]);
      if (end - i == 2) text += fmt::format(", {}", numbers[i + 1]);
    }
    if (text.size() < 30) return text;
  }
  if (ids.size() <= 3) {
    std::string text;
    for (std::size_t i = 0; i < ids.size(); ++i) text += (i ? ", " : "") + name(i);
    return text;
  }
  return fmt::format("{} and {} others", name(0), ids.size() - 1);
}

CaseGrid gridOf(const Model& model, std::span<const CaseAnswerPtr> answers, const UnitSet& units,
                std::span<const ExtraRow> extra) {
  CaseGrid grid;
  const auto columns = columnsOf(model, answers);
  for (const CaseColumn& c : columns) grid.cases.push_back(headingOf(model, c));
  // Every field and given outcome that differs anywhere, by kind and key, then in the order of the model.
  std::set<std::tuple<Id, bool, std::string>> keys;
  for (const Case& c : model.cases.others)
    for (const Difference& d : c.differs.all()) {
      const Element* e = model.drawn.find(d.element);
      if (!e) continue;
      const bool known =
          d.ofOutcome() ? findOutcome(*e->part, d.key) != nullptr : findField(*e->part, d.key) != nullptr;
      if (known) keys.insert({d.element, d.ofOutcome(), std::string(d.key)});
    }
  for (const ExtraRow& e : extra)
    if (const Element* there = model.drawn.find(e.element); there && findField(*there->part, e.key))
      keys.insert({e.element, false, std::string(e.key)});
  for (const auto& [id, outcome, field] : keys) {
    const Id whose = id;
    GridRow row = rowOf(columns, whose, field, outcome, units);
    const auto same = std::find_if(grid.differ.begin(), grid.differ.end(), [&](const GridRow& r) {
      return r.kind == row.kind && r.key == row.key && whose != jobId && r.elements.front() != jobId &&
             model.drawn.at(r.elements.front()).part == model.drawn.at(whose).part && sameCells(r, row);
    });
    if (same == grid.differ.end()) {
      grid.differ.push_back(std::move(row));
    } else {
      same->elements.push_back(whose);
    }
  }
  for (GridRow& row : grid.differ)
    if (row.elements.front() != jobId) row.whose = namesTogether(model.drawn, row.elements);
  gatherUnderItems(grid.differ);
  if (!model.cases.others.empty()) grid.differ.push_back(hoursRow(model));
  const std::vector<Watched>& watched = model.of<WatchedResults>().all;
  for (std::size_t i = 0; i < watched.size(); ++i) {
    const Watched& w = watched[i];
    const WatchedWords words = wordsOf(w, model.drawn);
    const auto measure = measureOf(w, model.drawn);
    GridRow row{.kind = GridRow::Kind::watched,
                .elements = w.elements,
                .whose = words.whose,
                .what = words.what,
                .unit = measure ? unitOf(*measure, units) : std::string(),
                .measure = measure.value_or(Measure::number),
                .quantity = true,
                .watched = i};
    std::vector<WatchedValue> values;
    for (const CaseColumn& c : columns)
      values.push_back(c.answer ? valueOf(w, c.answer->network, c.answer->solution, units) : WatchedValue{});
    for (const WatchedValue& v : values)
      row.cells.push_back({.text = v.si ? v.shown : "–",
                           .typed = {},
                           .si = v.si,
                           .found = true,
                           .least = v.least,
                           .most = v.most,
                           .broken = v.broken(),
                           .where = v.where});
    if (const auto worst = worstOf(w, measure, values)) row.cells[*worst].worst = true;
    grid.watched.push_back(std::move(row));
  }
  return grid;
}

std::vector<std::string> differencesInWords(const Model& model, CaseId from, CaseId to,
                                            const UnitSet& units) {
  const Network before = networkOf(model, from), after = networkOf(model, to);
  const Case *a = model.cases.find(from), *b = model.cases.find(to);
  if (!a || !b) return {};
  struct Said {
    std::string what, is, was;
    std::vector<Id> ids;
  };
  std::vector<Said> all;
  const Overlay overlay = differences(before, after);
  for (const Difference& d : overlay.all()) {
    const Element &x = before.at(d.element), &y = after.at(d.element);
    Said said{spoken(d.key), {}, {}, {d.element}};
    if (d.ofOutcome()) {
      const Given *was = x.values.goal(d.key), *is = y.values.goal(d.key);
      said.is = is ? is->typed : "found", said.was = was ? was->typed : "found";
    } else {
      const Field& f = *findField(*y.part, d.key);
      const auto words = [&](const Element& e) {
        const GridCell cell = fieldCell(e, f, units);
        if (cell.found) return std::string("found");
        if (!cell.typed.empty()) return f.kind == FieldKind::table ? cell.text : cell.typed;
        return cell.si ? givenWithUnit(*cell.si, f.measure, units) : std::string("not given");
      };
      said.is = words(y), said.was = words(x);
    }
    const auto same = std::find_if(all.begin(), all.end(), [&](const Said& s) {
      return s.what == said.what && s.is == said.is && s.was == said.was && s.ids.front() != jobId &&
             d.element != jobId && after.at(s.ids.front()).part == y.part;
    });
    if (same == all.end()) all.push_back(std::move(said));
    else same->ids.push_back(d.element);
  }
  std::vector<std::string> words;
  for (const Said& s : all)
    words.push_back(fmt::format("{} {}: {} ({}: {})",
                                s.ids.front() == jobId ? "Job" : namesTogether(after, s.ids), s.what, s.is,
                                a->name, s.was));
  return words;
}

std::vector<WatchedChange> changesBetween(const Model& model, const CaseAnswer& from, const CaseAnswer& to,
                                          const UnitSet& units) {
  struct RankedChange {
    WatchedChange change;
    double by;
  };
  std::vector<RankedChange> all;
  for (const Watched& w : model.of<WatchedResults>().all) {
    const WatchedValue a = valueOf(w, from.network, from.solution, units),
                       b = valueOf(w, to.network, to.solution, units);
    const auto measure = measureOf(w, model.drawn);
    if (!measure || (!a.si && !b.si)) continue;
    WatchedChange c{wordsOf(w, model.drawn).all(), a.si ? a.shown : "–", b.si ? b.shown : "–",
                    unitOf(*measure, units), std::nullopt};
    double by = 1e9;  // from nothing to something is the greatest change
    if (a.si && b.si) {
      by = std::abs(*b.si - *a.si) / std::max(std::abs(*a.si), 1e-12);
      // What both take, or both lose, is compared by its size, as it is shown.
      const double sign = *a.si < 0 && *b.si < 0 ? -1.0 : 1.0;
      if (std::abs(*a.si) > 1e-12) c.share = sign * (*b.si - *a.si) / std::abs(*a.si);
      if (std::abs(*b.si - *a.si) <= 1e-9 * std::max(std::abs(*a.si), std::abs(*b.si))) continue;
    }
    all.push_back({std::move(c), by});
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const RankedChange& a, const RankedChange& b) { return a.by > b.by; });
  std::vector<WatchedChange> changes;
  for (RankedChange& w : all) changes.push_back(std::move(w.change));
  return changes;
}

TableLines tableOf(const CaseGrid& grid, const UnitSet& units) {
  TableLines lines;
  std::vector<TableCell> heading{{""}, {"unit"}}, from{{"based on"}, {""}}, verdict{{"status"}, {""}};
  for (const GridHeading& h : grid.cases) {
    heading.push_back({h.name});
    from.push_back({h.parent.starts_with(basedOn) ? h.parent.substr(basedOn.size()) : "–"});
    verdict.push_back({h.verdict});
  }
  lines = {std::move(heading), std::move(from), std::move(verdict)};
  for (const auto* part : {&grid.differ, &grid.watched})
    for (const GridRow& row : *part) {
      if (row.brought) continue;
      std::vector<TableCell> line{{row.whose + " " + row.what}, {row.unit}};
      if (row.brings > 0) line[0].text += fmt::format(" (and {} of its fields)", row.brings);
      for (const GridCell& c : row.cells)
        line.push_back({.text = c.text + (c.worst ? " (worst)" : "") + (c.broken ? " (not met)" : ""),
                        .number = c.si && row.quantity
                                      ? std::optional(inUnit(*c.si, units.unitFor(row.measure)))
                                      : std::nullopt,
                        .bad = c.broken,
                        .worst = c.worst});
      lines.push_back(std::move(line));
    }
  return lines;
}

}  // namespace conduit
