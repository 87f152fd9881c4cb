#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <map>

#include "fields/entry.h"
#include "jobs/by_parts.h"
#include "limits/limits.h"
#include "limits/not_judged.h"
#include "network/assume.h"
#include "parts/registry.h"
#include "quantity/format.h"
#include "report.h"
#include "say/words.h"

namespace conduit::cli {
namespace {

// Rows of a table, their cells one after another in one text: a table of a million rows is no million lists
// of texts.
class Rows {
 public:
  explicit Rows(std::size_t columns, std::size_t rows = 1) : widths_(columns, 0) {
    cells_.reserve(columns * rows);
    text_.reserve(columns * rows * 7);  // about what a name and numbers of four figures take
  }
  void cell(std::string_view text) {
    text_ += text;
    const std::size_t width = columnsOf(text);
    widths_[column_] = std::max(widths_[column_], width);
    if (++column_ == widths_.size()) column_ = 0;
    cells_.push_back({static_cast<std::uint32_t>(text_.size()), static_cast<std::uint32_t>(width)});
  }
  [[nodiscard]] std::size_t count() const { return cells_.size() / widths_.size(); }
  [[nodiscard]] const std::vector<std::size_t>& widths() const { return widths_; }
  // The first column to the left, the others to the right.
  void line(std::size_t row, const std::vector<std::size_t>& widths, std::string& into) const {
    into += ' ';
    for (std::size_t c = 0, at = row * widths.size(); c < widths.size(); ++c, ++at) {
      const std::size_t begin = at == 0 ? 0 : cells_[at - 1].end;
      into += ' ';
      if (c > 0) into.append(widths[c] - cells_[at].width, ' ');
      into.append(text_, begin, cells_[at].end - begin);
      if (c == 0) into.append(widths[c] - cells_[at].width, ' ');
    }
    while (into.back() == ' ') into.pop_back();
    into += '\n';
  }

 private:
  struct Cell {
    std::uint32_t end, width;
  };
  std::string text_;
  std::vector<Cell> cells_;
  std::vector<std::size_t> widths_;
  std::size_t column_ = 0;  // of the next cell
};

// A table with columns as wide as they need; its rows come in parts, the first with the heading.
void table(std::ostream& out, const std::string& title, const Rows& head, const std::vector<Rows>& parts) {
  std::vector<std::size_t> widths = head.widths();
  for (const Rows& rows : parts)
    for (std::size_t c = 0; c < widths.size(); ++c) widths[c] = std::max(widths[c], rows.widths()[c]);
  std::string text;
  head.line(0, widths, text);
  out << '\n' << title << '\n' << text;
  for (const Rows& rows : parts)
    writeByParts(out, rows.count(), [&](std::size_t i, std::string& into) { rows.line(i, widths, into); });
}

}  // namespace

void reportText(std::ostream& out, const Network& network, const Solution& solution,
                const std::vector<Finding>& found, const UnitSet& units) {
  const Summary& sum = solution.summary;
  const auto* title = network.job().text("title");
  if (title) out << *title << '\n';
  const Standing stand = standing(found);
  if (sum.usable() && stand.onPaperOnly) out << "Solved, but physically impossible: " << stand.worst << ".\n";
  out << sum.brief(units) << '\n';
  if (sum.usable())
    out << fmt::format("{} {} not met, {} near limit. {}, {} iterations.\n", stand.broken,
                       stand.broken == 1 ? "limit" : "limits", stand.near, solution.setting.liquid,
                       sum.iterations);
  if (const auto gaps = notJudged(network, solution); !gaps.empty())
    out << "Not judged: " << notJudgedSaid(network, gaps) << ".\n";
  if (const std::string doubts = doubtfulSaid(network, found); !doubts.empty())
    out << "Doubtful, law outside its range: " << doubts << ".\n";
  for (const LeftOut& l : notApplicable(network))
    out << "Does not apply: " << leftOutSaid(network, l) << ".\n";
  if (!found.empty()) out << "\nFindings, worst first\n";
  int number = 0;
  for (const Finding& f : found) {
    out << fmt::format("  {:<14} {}\n", spoken(severityWords[static_cast<int>(f.severity)]), f.what);
    for (const Remedy& r : f.remedies) out << fmt::format("  {:<14} remedy {}: {}\n", "", ++number, r.words);
  }
  const auto assumed = assumedIn(network);
  if (!assumed.empty()) out << fmt::format("\nAssumed values: {}\n", assumed.size());
  for (const AssumedValue& a : assumed) {
    const Element& e = network.at(a.element);
    out << fmt::format("  {} of {}: {}\n", spoken(a.key), e.name,
                       sayField(*findField(*e.part, a.key), *e.value(a.key)));
  }
  if (!solution.found.empty() && sum.usable()) out << "\nFound\n";
  for (const FoundField& f : solution.found) {
    const Element& e = network.at(f.element);
    out << fmt::format("  {} of {}: {}\n", spoken(f.field), e.name,
                       withUnit(f.value, findField(*e.part, f.field)->measure, units));
  }
  if (!sum.usable()) return;
  std::map<const Part*, std::vector<Id>> byPart;
  const Part* last = nullptr;  // elements of one kind mostly follow each other
  std::vector<Id>* those = nullptr;
  network.each([&](Id id, const Element& e) {
    if (e.part != last) those = &byPart[last = e.part];
    those->push_back(id);
  });
  for (const Part* part : allParts()) {
    const std::vector<Id>& ids = byPart[part];
    if (part->ends == Ends::none || ids.empty()) continue;
    const std::size_t columns = 1 + (part->stateWord ? 1 : 0) + part->outcomes.size();
    Rows head(columns);
    head.cell("name");
    if (part->stateWord) head.cell("state");
    for (const Outcome& o : part->outcomes) {
      const auto symbol = units.unitFor(o.measure).symbol;
      head.cell(symbol.empty() ? spoken(o.key) : fmt::format("{} [{}]", spoken(o.key), symbol));
    }
    table(out, std::string(part->plural), head, byParts(ids.size(), [&](std::size_t begin, std::size_t end) {
            Rows rows(columns, end - begin);
            for (std::size_t i = begin; i < end; ++i) {
              const ReadingOf reading(network, solution, ids[i]);
              rows.cell(network.at(ids[i]).name);
              if (part->stateWord) rows.cell(spoken(part->stateWord(*reading)));
              for (const Outcome& o : part->outcomes) {
                const auto shown = shownOf(o, *reading);
                rows.cell(shown ? asShown(*shown, o.measure, units, 4, false) : "–");
              }
            }
            return rows;
          }));
  }
}

void reportSuction(std::ostream& out, const Network& network, const Budgets& budgets, const UnitSet& units) {
  for (const auto& [id, budget] : budgets) out << plainText(pageOf(budget, network.at(id).name, units));
}

}  // namespace conduit::cli
