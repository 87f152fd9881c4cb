#include "cases/sweep.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "cases/case_edits.h"
#include "cases/grid_edits.h"
#include "fields/entry.h"
#include "fields/keys.h"
#include "network/put.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "quantity/words.h"
#include "say/words.h"

namespace conduit {
namespace {

// The given that a text names: a field of an element, or "given" and an outcome.
Result<Vary> target(std::string_view what, const Network& network) {
  const std::string text(trimmed(what, " \t"));
  if (text.empty())
    return refused("enter the value to vary, such as B-1 speed, Top tank level or job temperature");
  const std::string small = lowered(text);
  // An outcome that is given: "Gun 1 given pressure" or "Gun 1 pressure given".
  Vary best;
  std::size_t length = 0;
  network.each([&](Id id, const Element& e) {
    const std::string name = lowered(e.name);
    if (!small.starts_with(name + " ") || name.size() <= length) return;
    std::string rest(trimmed(std::string_view(small).substr(name.size()), " \t"));
    bool given = false;
    if (rest.starts_with("given ")) given = true, rest = rest.substr(6);
    else if (rest.ends_with(" given")) given = true, rest = rest.substr(0, rest.size() - 6);
    if (!given) return;
    for (const Outcome& o : e.part->outcomes)
      if (rest == lowered(o.key) || rest == lowered(spoken(o.key))) {
        length = name.size();
        best = {id, std::string(o.key), true, {}, {}, e.name + " " + spoken(o.key), o.measure, true};
      }
  });
  if (best.element != noId) return best;
  const auto row = readRow(text, network);
  if (!row || !row->text.empty()) {
    // Whose name it begins with decides what is said.
    Id id = noId;
    network.each([&](Id each, const Element& e) {
      if (small.starts_with(lowered(e.name) + " ") &&
          (id == noId || e.name.size() > network.at(id).name.size()))
        id = each;
    });
    if (id == noId) return refused(fmt::format("\"{}\" is not an element and field such as B-1 speed", text));
    std::string known;
    for (const Field& f : network.at(id).part->fields)
      if (f.kind != FieldKind::table && !f.ofDrawing) known += (known.empty() ? "" : ", ") + spoken(f.key);
    return refused(fmt::format("\"{}\" is not a field of {}; fields: {}", text, network.at(id).name, known));
  }
  const Field& f = *findField(*network.at(row->element).part, row->key);
  return Vary{row->element, std::string(row->key),
              false,        {},
              {},           nameOf(network, row->element) + " " + spoken(row->key),
              f.measure,    f.kind == FieldKind::quantity};
}

const Field* fieldOf(const Vary& vary, const Network& network) {
  return vary.outcome ? nullptr : findField(*network.at(vary.element).part, vary.key);
}

// One text read as the field reads it; its number, where it is one.
Result<std::optional<double>> check(const Vary& vary, const std::string& text, const Network& network,
                                    const Stock* stock, const UnitSet* units) {
  if (vary.outcome) {
    auto given = parse(text, vary.measure, units ? &units->unitFor(vary.measure) : nullptr);
    if (!given) return refused(fmt::format("{}: {}", vary.words, given.error().what));
    return given->basis == Basis::direct ? std::optional(given->value) : std::nullopt;
  }
  Draft draft(network);
  if (auto put = putText(draft, vary.element, vary.key, text, stock, units); !put)
    return Refused(put.error());
  const Given* given = draft.network().at(vary.element).given(vary.key);
  return given && given->basis == Basis::direct ? std::optional(given->value) : std::nullopt;
}

bool wordAt(std::string_view small, std::string_view word, std::size_t& at) {
  at = small.find(word);
  return at != std::string_view::npos;
}

// "2600 rpm to 2980 rpm in 20": evenly, in the unit of the first.
Result<bool> readRange(std::string_view values, Vary& vary, const UnitSet& units) {
  const std::string text(values), small = lowered(text);
  const auto to = small.find(" to "), in = small.find(" in ", to == std::string::npos ? 0 : to + 4);
  if (to == std::string::npos) return false;
  if (!vary.quantity)
    return refused(fmt::format("{} is not numeric: list its values, separated by commas", vary.words));
  const Unit* bare = &units.unitFor(vary.measure);
  const auto first = parse(trimmed(std::string_view(text).substr(0, to)), vary.measure, bare);
  const std::string_view behind =
      std::string_view(text).substr(to + 4, in == std::string::npos ? in : in - to - 4);
  const auto last = parse(trimmed(behind), vary.measure, bare);
  if (!first) return refused(fmt::format("from: {}", first.error().what));
  if (!last) return refused(fmt::format("to: {}", last.error().what));
  if (first->basis != last->basis) return refused("both ends of the range must use the same kind of unit");
  std::size_t steps = 20;
  if (in != std::string::npos) {
    std::string count(trimmed(std::string_view(text).substr(in + 4)));
    if (const auto word = count.find(" step"); word != std::string::npos) count = count.substr(0, word);
    if (count.find_first_not_of("0123456789") != std::string::npos ||
        count.find_first_not_of('0') == std::string::npos)
      return refused(fmt::format("\"{}\" is not a number of steps: enter a whole number from 1", count));
    steps = count.size() > 9 ? valuesMost : std::stoul(count);
  }
  if (steps >= valuesMost) return refused(fmt::format("maximum {} values", digits(valuesMost, 1)));
  // The unit as it stands behind the first number, else behind the last, else the unit shown.
  const auto unitIn = [](const std::string& typed) {
    const auto at = typed.find_first_not_of("0123456789.,+-eE \t");
    return at == std::string::npos ? std::string() : typed.substr(at);
  };
  std::string unit = unitIn(first->typed);
  if (unit.empty()) unit = unitIn(last->typed);
  if (unit.empty()) unit = std::string(bare->symbol);
  // Steps in the numbers as typed, so that 2600 rpm is 2600 rpm.
  const auto a = parse("1 " + unit, vary.measure, bare), zero = parse("0 " + unit, vary.measure, bare);
  if (!a || !zero) return refused(fmt::format("\"{}\" is not a unit of {}", unit, vary.words));
  const double factor = a->value - zero->value, offset = zero->value;
  for (std::size_t i = 0; i <= steps; ++i) {
    const double share = static_cast<double>(i) / static_cast<double>(steps);
    const double si = first->value + (last->value - first->value) * share;
    vary.texts.push_back(fmt::format("{:.9g} {}", (si - offset) / factor, unit));
  }
  return true;
}

// "sizes ASME B36.10M 40 from 2 to 8": sizes of the catalogue in their order.
Result<bool> readSizes(std::string_view values, Vary& vary, const Network& network, const Stock& stock) {
  const std::string text(trimmed(values));
  if (!lowered(text).starts_with("sizes")) return false;
  const Field* f = fieldOf(vary, network);
  if (!f || (f->key != key::size && f->key != key::bore))
    return refused("sizes can be varied only for the size of a line");
  if (!network.at(vary.element).part->line) return refused("sizes can be varied only for the size of a line");
  vary.key = key::size, vary.quantity = false;
  std::string wanted = lowered(trimmed(std::string_view(text).substr(5)));
  std::string from, to;
  if (std::size_t at = 0; wordAt(wanted, " from ", at)) {
    const std::string range = wanted.substr(at + 6);
    wanted = wanted.substr(0, at);
    const auto middle = range.find(" to ");
    from = std::string(trimmed(range.substr(0, middle)));
    if (middle != std::string::npos) to = std::string(trimmed(range.substr(middle + 4)));
  }
  std::vector<const PipeSize*> all;
  for (const PipeSize& p : stock.pipes) {
    const std::string name = lowered(p.name());
    bool fits = true;
    std::size_t begin = 0;
    while (fits && begin < wanted.size()) {
      const auto end = std::min(wanted.find(' ', begin), wanted.size());
      const std::string word = " " + wanted.substr(begin, end - begin) + " ";
      fits = word == "  " || (" " + name + " ").find(word) != std::string::npos;
      begin = end + 1;
    }
    if (fits) all.push_back(&p);
  }
  std::stable_sort(all.begin(), all.end(), [](auto a, auto b) { return a->bore_m < b->bore_m; });
  const auto ofName = [&](const std::string& word) {
    return std::find_if(all.begin(), all.end(), [&](const PipeSize* p) {
      return (" " + lowered(p->name()) + " ").find(" " + word + " ") != std::string::npos;
    });
  };
  auto begin = from.empty() ? all.begin() : ofName(from), end = all.end();
  if (begin == all.end())
    return refused(fmt::format("no catalogue size matches \"{}\"", from.empty() ? wanted : from));
  if (!to.empty()) {
    end = ofName(to);
    if (end == all.end()) return refused(fmt::format("no catalogue size matches \"{}\"", to));
    ++end;
  }
  for (auto at = begin; at < end; ++at) vary.texts.push_back((*at)->name());
  if (vary.texts.empty()) return refused("the size range is empty: its first size is after its last");
  return true;
}

// What the point differs in, laid over the network of its case.
Result<Network> networkAt(const Network& base, const Sweep& sweep, std::size_t i, const Stock* stock,
                          const UnitSet* units) {
  Draft draft(base);
  const auto at = sweep.at(i);
  for (std::size_t c = 0; c < sweep.columns.size(); ++c) {
    const Vary& vary = sweep.columns[c];
    const std::string& text = vary.texts[at[c]];
    if (trimmed(text).empty()) continue;
    const std::string key = vary.outcome ? std::string(givenPrefix) + vary.key : vary.key;
    if (auto put = putText(draft, vary.element, key, text, stock, units); !put) return Refused(put.error());
  }
  return std::move(draft).finish();
}

}  // namespace

bool operator==(const SweepPoint& a, const SweepPoint& b) {
  const auto same = [](double x, double y) { return x == y || (std::isnan(x) && std::isnan(y)); };
  return a.end == b.end && a.broken == b.broken && a.limitsBroken == b.limitsBroken &&
         a.onPaperOnly == b.onPaperOnly && a.why == b.why &&
         std::equal(a.si.begin(), a.si.end(), b.si.begin(), b.si.end(), same);
}

std::size_t Sweep::points() const {
  if (columns.empty()) return 0;
  if (rows) return columns.front().texts.size();
  std::size_t all = 1;
  for (const Vary& v : columns) all *= v.texts.size();
  return all;
}

std::vector<std::size_t> Sweep::at(std::size_t i) const {
  std::vector<std::size_t> which(columns.size(), i);
  if (rows) return which;
  for (std::size_t c = columns.size(); c-- > 0;) {
    which[c] = i % columns[c].texts.size();
    i /= columns[c].texts.size();
  }
  return which;
}

Result<Vary> readVary(std::string_view what, std::string_view values, const Network& network,
                      const Stock& stock, const UnitSet& units) {
  auto vary = target(what, network);
  if (!vary) return vary;
  if (trimmed(values).empty())
    return refused(fmt::format("enter the values of {}: a range or a list", vary->words));
  auto done = readSizes(values, *vary, network, stock);
  if (done && !*done) done = readRange(values, *vary, units);
  if (!done) return Refused(done.error());
  if (!*done) {
    // A list, parted by commas or semicolons; a comma within a number is not followed by a blank.
    std::string item;
    const std::string text = std::string(values) + ";";
    for (std::size_t i = 0; i < text.size(); ++i) {
      const bool comma = text[i] == ',' && (i + 1 >= text.size() || text[i + 1] == ' ');
      if (text[i] != ';' && text[i] != '\n' && !comma) {
        item += text[i];
        continue;
      }
      if (const auto bare = trimmed(item); !bare.empty()) vary->texts.emplace_back(bare);
      item.clear();
    }
  }
  if (vary->texts.empty())
    return refused(fmt::format("enter the values of {}: a range or a list", vary->words));
  if (vary->texts.size() > valuesMost)
    return refused(fmt::format("maximum {} values", digits(valuesMost, 1)));
  for (const std::string& text : vary->texts) {
    const auto number = check(*vary, text, network, &stock, &units);
    if (!number) return refused(fmt::format("\"{}\": {}", text.substr(0, 40), number.error().what));
    if (*number) vary->si.push_back(**number);
  }
  if (vary->si.size() != vary->texts.size()) vary->si.clear();
  return vary;
}

std::string variedTwice(std::span<const Vary> columns) {
  for (std::size_t i = 0; i < columns.size(); ++i)
    for (std::size_t k = 0; k < i; ++k)
      if (columns[i].element == columns[k].element && columns[i].key == columns[k].key &&
          columns[i].outcome == columns[k].outcome)
        return columns[i].words + " is varied twice";
  return {};
}

Result<std::vector<Vary>> readColumns(std::span<const std::string> headings,
                                      std::span<const std::vector<std::string>> rows, const Network& network,
                                      const UnitSet& units) {
  std::vector<Vary> columns;
  for (std::size_t c = 0; c < headings.size(); ++c) {
    std::string heading(trimmed(headings[c])), unit;
    if (heading.empty()) continue;
    // "speed [rpm]", "level (m)".
    for (const auto& [open, close] : {std::pair{'[', ']'}, std::pair{'(', ')'}})
      if (heading.ends_with(close))
        if (const auto at = heading.rfind(open); at != std::string::npos && at > 0 && unit.empty()) {
          unit = heading.substr(at + 1, heading.size() - at - 2);
          heading = std::string(trimmed(heading.substr(0, at)));
        }
    auto vary = target(heading, network);
    if (!vary) return refused(fmt::format("column {}: {}", c + 1, vary.error().what));
    for (std::size_t r = 0; r < rows.size(); ++r) {
      std::string text = c < rows[r].size() ? std::string(trimmed(rows[r][c])) : std::string();
      if (!text.empty()) {
        // A bare number takes the unit of the heading.
        if (!unit.empty() && text.find_first_not_of("0123456789.+-eE") == std::string::npos)
          text += " " + unit;
        const auto number = check(*vary, text, network, nullptr, &units);
        if (!number) return refused(fmt::format("row {}, {}: {}", r + 1, heading, number.error().what));
        if (*number) vary->si.push_back(**number);
      }
      vary->texts.push_back(std::move(text));
    }
    if (vary->si.size() != vary->texts.size()) vary->si.clear();
    columns.push_back(std::move(*vary));
  }
  if (columns.empty() || rows.empty())
    return refused("the table has no rows, or no heading that names a given value");
  if (auto twice = variedTwice(columns); !twice.empty()) return refused(std::move(twice));
  return columns;
}

SweepResult runSweep(const Model& model, const Sweep& sweep, const std::shared_ptr<const Stock>& stock,
                     const SweepOptions& options) {
  SweepResult result;
  const std::size_t count = sweep.points();
  result.points.resize(count);
  const Network base = networkOf(model, sweep.in);
  // The case's own answer, cold: where every point begins.
  SolveOptions cold;
  cold.units = options.units;
  cold.stop = options.jobs.stop;
  Solution start = solve(base, stock.get(), cold);
  if (start.summary.verdict == Verdict::stopped) return result;
  const Solution* from = start.summary.usable() ? &start : nullptr;
  std::optional<Gauges> gauges;
  if (from) gauges.emplace(base, start);
  std::vector<std::size_t> mine;
  for (std::size_t i = options.part - 1; i < count; i += options.parts) mine.push_back(i);
  std::vector<Workspace> spaces(lanes(options.jobs));
  const auto solved = runJobs(
      mine.size(),
      [&](std::size_t job, std::size_t lane, std::stop_token stop) {
        SweepPoint point;
        point.si.assign(sweep.watched.size(), NAN);
        point.broken.assign(sweep.watched.size(), 0);
        const auto network = networkAt(base, sweep, mine[job], stock.get(), &options.units);
        if (!network) {
          point.end = SweepPoint::End::badValue, point.why = network.error().what;
          return point;
        }
        SolveOptions solving;
        solving.units = options.units;
        solving.stop = stop;
        solving.startFrom = from;
        solving.workspace = &spaces[lane];
        solving.notes = false;
        const Solution solution = solve(*network, stock.get(), solving);
        if (solution.summary.verdict == Verdict::stopped) return point;
        if (!solution.summary.usable()) {
          point.end = SweepPoint::End::cannotBalance;
          point.why = solution.summary.problems.empty() ? solution.summary.brief(options.units)
                                                        : solution.summary.problems.front().what;
          return point;
        }
        point.end = SweepPoint::End::solved;
        for (std::size_t w = 0; w < sweep.watched.size(); ++w) {
          const WatchedValue v = valueOf(sweep.watched[w], *network, solution, options.units);
          if (v.si) point.si[w] = *v.si;
          point.broken[w] = v.broken();
        }
        const Standing all = gauges ? gauges->standing(*network, solution) : standing(*network, solution);
        point.limitsBroken = static_cast<std::uint32_t>(all.broken), point.onPaperOnly = all.onPaperOnly;
        return point;
      },
      options.jobs);
  for (std::size_t k = 0; k < mine.size(); ++k) {
    SweepPoint& point = result.points[mine[k]];
    if (solved[k]) {
      point = *solved[k];
    } else if (!solved[k].error().stopped) {
      point.end = SweepPoint::End::fault, point.why = solved[k].error().what;
    }
    if (point.end != SweepPoint::End::missing) ++result.solved;
  }
  return result;
}

std::vector<std::pair<double, double>> keptBetween(const Sweep& sweep, const SweepResult& result,
                                                   std::optional<std::size_t> watched) {
  std::vector<std::pair<double, double>> kept;
  if (sweep.columns.empty() || sweep.rows || sweep.columns.size() > 1 || sweep.columns.front().si.empty())
    return kept;
  const Vary& x = sweep.columns.front();
  // In the order of the values, whatever that of the list.
  std::vector<std::size_t> order(x.si.size());
  for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return x.si[a] < x.si[b]; });
  const auto keeps = [&](std::size_t k) {
    const SweepPoint& p = result.points[order[k]];
    return p.end == SweepPoint::End::solved && !p.onPaperOnly &&
           (watched ? !p.broken[*watched] && std::isfinite(p.si[*watched]) : p.limitsBroken == 0);
  };
  for (std::size_t k = 0; k < order.size(); ++k) {
    if (!keeps(k)) continue;
    const std::size_t first = k;
    while (k + 1 < order.size() && keeps(k + 1)) ++k;
    const auto half = [&](std::size_t a, std::size_t b) { return (x.si[order[a]] + x.si[order[b]]) / 2; };
    kept.emplace_back(first > 0 ? half(first - 1, first) : x.si[order[first]],
                      k + 1 < order.size() ? half(k, k + 1) : x.si[order[k]]);
  }
  return kept;
}

}  // namespace conduit
