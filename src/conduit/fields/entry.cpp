#include "fields/entry.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "quantity/format.h"
#include "quantity/parse.h"
#include "quantity/words.h"
#include "say/words.h"

namespace conduit {
namespace {

std::vector<std::string> parted(std::string_view text, char by) {
  std::vector<std::string> parts;
  for (std::size_t at = 0;;) {
    const auto end = text.find(by, at);
    parts.emplace_back(trimmed(text.substr(at, end == std::string_view::npos ? end : end - at)));
    if (end == std::string_view::npos) return parts;
    at = end + 1;
  }
}

Result<Given> readGiven(std::string_view key, Measure measure, double least, double most,
                        std::string_view text, const UnitSet* units) {
  auto given = parse(text, measure, units ? &units->unitFor(measure) : nullptr);
  if (!given) return Refused(problemOf(key, given.error()));
  // Ranges are in the field's own unit; other bases (mass flow, a column of liquid) wait for the liquid and
  // are held to a range as wide as water and one atmosphere would give.
  const double si = resolve(*given, measure, Medium{});
  if (least < most && (si < least * (least < 0 ? 1.0000001 : 0.9999999) || si > most * 1.0000001)) {
    const UnitSet& shown = units ? *units : UnitSet::siWater();
    return Refused(Problem{{"", std::string(key)},
                           fmt::format("{} is out of range for the {}: {} to {}", trimmed(text), spoken(key),
                                       withUnit(least, measure, shown), withUnit(most, measure, shown)),
                           {}});
  }
  return *given;
}

// Without regard to capitals.
bool alike(std::string_view a, std::string_view b) {
  return a.size() == b.size() && lowered(a) == lowered(b);
}

}  // namespace

Problem problemOf(std::string_view key, const ParseError& error) {
  Problem problem{{"", std::string(key)}, error.what, {}};
  if (!error.could.empty()) {
    problem.what += "; try ";
    for (std::size_t i = 0; i < error.could.size(); ++i)
      problem.what += fmt::format("{}\"{}\"", i ? ", " : "", error.could[i]);
  }
  for (const std::string& could : error.could)
    problem.remedies.push_back({could, {{"", std::string(key), could}}, {"", std::string(key)}});
  return problem;
}

Result<Rows> readRows(const Field& field, const TypedRows& typed, const UnitSet* units) {
  const std::string key(field.key);
  const auto refused = [&](std::string what) { return Refused(Problem{{"", key}, std::move(what), {}}); };
  if (typed.size() > 500) return refused(fmt::format("the {} has more than 500 rows", spoken(key)));
  std::size_t length = 0;
  for (const auto& cells : typed)
    for (const std::string& cell : cells) length += cell.size();
  if (length > 200'000) return refused(fmt::format("the {} is longer than 200 000 characters", spoken(key)));
  Rows rows;
  for (const auto& cells : typed) {
    const std::string where = fmt::format("row {} of the {}", rows.size() + 1, spoken(key));
    std::size_t count = cells.size();
    while (count > 0 && cells[count - 1].empty()) --count;
    if (count > field.columns.size())
      return refused(fmt::format("{} has {} cells; it has {} columns", where, count, field.columns.size()));
    std::vector<std::optional<Given>> row(field.columns.size());
    for (std::size_t c = 0; c < field.columns.size(); ++c) {
      const Column& column = field.columns[c];
      if (c >= count || cells[c].empty()) {
        if (column.needed) return refused(fmt::format("{} has no {}", where, spoken(column.key)));
        continue;
      }
      auto given = readGiven(column.key, column.measure, column.least, column.most, cells[c], units);
      if (!given) return refused(fmt::format("{}: {}", where, given.error().what));
      row[c] = std::move(*given);
    }
    rows.push_back(std::move(row));
  }
  return rows;
}

Result<Value> readField(const Field& field, std::string_view raw, const Stock* stock, const UnitSet* units) {
  const std::string_view text = trimmed(raw);
  if (field.kind == FieldKind::quantity && text.size() <= 200) {
    auto given = readGiven(field.key, field.measure, field.least, field.most, text, units);
    if (!given) return Refused(std::move(given.error()));
    return Value(std::move(*given));
  }
  const std::string key(field.key);
  if (const std::size_t most = field.kind == FieldKind::table ? 200000 : 10000; text.size() > most)
    return Refused(Problem{{"", key},
                           fmt::format("the {} is longer than {} characters",
                                       field.kind == FieldKind::text ? std::string("text") : spoken(key),
                                       most == 10000 ? "10 000" : "200 000"),
                           {}});
  switch (field.kind) {
    case FieldKind::quantity: return Refused(Problem{{"", key}, "the text is too long for a quantity", {}});
    case FieldKind::choice:
      for (const std::string_view word : field.choices)
        if (alike(word, text) || alike(spoken(word), text)) return Value(std::string(word));
      {
        Problem problem{{"", key}, {}, {}};
        std::string choices;
        for (const std::string_view word : field.choices) {
          choices += (choices.empty() ? "" : ", ") + spoken(word);
          problem.remedies.push_back({spoken(word), {{"", key, std::string(word)}}, {"", key}});
        }
        problem.what = fmt::format("\"{}\" is not one of the choices for {}: {}", text, spoken(key), choices);
        return Refused(std::move(problem));
      }
    case FieldKind::flag:
      for (const std::string_view word : {"yes", "true", "on"})
        if (alike(word, text)) return Value(true);
      for (const std::string_view word : {"no", "false", "off"})
        if (alike(word, text)) return Value(false);
      return Refused(Problem{{"", key},
                             fmt::format("\"{}\" is not yes or no", text),
                             {{"yes", {{"", key, "yes"}}, {"", key}}, {"no", {{"", key, "no"}}, {"", key}}}});
    case FieldKind::text:
      if (field.fault)
        if (const std::string fault = field.fault(text); !fault.empty())
          return Refused(Problem{{"", key}, fault, {}});
      return Value(std::string(text));
    case FieldKind::takeOff:
      if (stock && field.unfit)
        if (auto problem = field.unfit(text, *stock)) return Refused(std::move(*problem));
      return Value(std::string(text));
    case FieldKind::table: {
      TypedRows typed;
      // An empty row of "|" alone stays: a connection without a word of its own.
      for (const std::string& line : parted(text, ';'))
        if (!line.empty()) typed.push_back(parted(line, '|'));
      auto rows = readRows(field, typed, units);
      if (!rows) return Refused(std::move(rows.error()));
      return Value(std::move(*rows));
    }
  }
  return Refused(Problem{{"", key}, "this field cannot be read", {}});
}

std::string writeField(const Field&, const Value& value) {
  if (const auto* given = std::get_if<Given>(&value)) return given->typed;
  if (const auto* text = std::get_if<std::string>(&value)) return *text;
  if (const bool* on = std::get_if<bool>(&value)) return *on ? "yes" : "no";
  std::string out;
  for (const auto& row : std::get<Rows>(value)) {
    if (!out.empty()) out += "; ";
    std::string line;
    for (std::size_t c = 0; c < row.size(); ++c)
      line += (c ? " | " : "") + (row[c] ? row[c]->typed : std::string());
    while (line.ends_with(" | ") || line.ends_with(" |") || line.ends_with(' ')) line.pop_back();
    out += line;
  }
  return out;
}

std::string sayField(const Field& field, const Value& value) {
  if (const auto* given = std::get_if<Given>(&value)) return sayBack(*given, field.measure);
  if (const auto* rows = std::get_if<Rows>(&value)) return fmt::format("{} rows", rows->size());
  return field.kind == FieldKind::choice ? spoken(writeField(field, value)) : writeField(field, value);
}

}  // namespace conduit
