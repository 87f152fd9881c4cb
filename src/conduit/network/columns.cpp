#include "network/columns.h"

#include <fmt/format.h>

#include <cmath>

#include "network/put.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "quantity/words.h"
#include "say/words.h"

namespace conduit {
namespace {

// The unit a text was typed with: what follows its number.
std::string_view typedUnit(std::string_view typed) {
  std::size_t at = 0;
  while (at < typed.size()) {
    const char c = typed[at];
    const bool number =
        (c >= '0' && c <= '9') || c == '.' || c == ',' || c == '+' || c == '-' || c == ' ' || c == '/';
    const bool exponent = (c == 'e' || c == 'E') && at > 0 && at + 1 < typed.size() &&
                          (typed[at + 1] == '-' || typed[at + 1] == '+' ||
                           std::isdigit(static_cast<unsigned char>(typed[at + 1])));
    if (!number && !exponent) break;
    ++at;
  }
  return trimmed(typed.substr(at));
}

}  // namespace

bool isArithmetic(std::string_view text) {
  text = trimmed(text);
  return text.size() > 1 && (text.front() == '*' || text.front() == '/' || text.starts_with("× ") ||
                             ((text.front() == '+' || text.front() == '-') && text[1] == ' '));
}

Result<Arithmetic> readArithmetic(std::string_view raw, Measure measure, const UnitSet* units) {
  std::string_view text = trimmed(raw);
  Arithmetic a;
  a.words = std::string(text);
  if (!isArithmetic(text))
    return refused(fmt::format("\"{}\" is not arithmetic; write * 1.1, / 2, + 2 m or - 5 %", text));
  const char sign = text.starts_with("×") ? '*' : text.front();
  std::string_view rest = trimmed(text.substr(text.starts_with("×") ? std::string_view("×").size() : 1));
  if (sign == '*' || sign == '/') {
    const auto factor = parse(rest, Measure::number);
    if (!factor || !std::isfinite(factor->value) || (sign == '/' && factor->value == 0.0))
      return refused(
          fmt::format("\"{}\" is not a plain number to {} by", rest, sign == '*' ? "multiply" : "divide"));
    a.factor = sign == '*' ? factor->value : 1.0 / factor->value;
    return a;
  }
  const double way = sign == '+' ? 1.0 : -1.0;
  if (rest.ends_with('%') && measure != Measure::ratio) {
    const auto share = parse(trimmed(rest.substr(0, rest.size() - 1)), Measure::number);
    if (!share) return refused(fmt::format("\"{}\" is not a percentage", rest));
    a.factor = 1.0 + way * share->value / 100.0;
    return a;
  }
  // What is added is a difference: a height of 2 m is 2 m more, a temperature of 2 °C is 2 K more.
  const auto step = parse(rest, measure, units ? &units->unitFor(measure) : nullptr);
  if (!step)
    return refused(
        fmt::format("\"{}\" cannot be added to a {}: {}", rest, nameOf(measure), step.error().what));
  if (step->basis != Basis::direct)
    return refused(fmt::format("\"{}\" needs the liquid's properties; use the field's own unit", rest));
  const auto zero =
      parse("0 " + std::string(typedUnit(step->typed)), measure, units ? &units->unitFor(measure) : nullptr);
  a.add = way * (step->value - (zero ? zero->value : 0.0));
  return a;
}

Result<Edited> changeByArithmetic(const Network& network, std::span<const Id> ids, std::string_view key,
                                  std::string_view text, const UnitSet* units) {
  Draft draft(network);
  std::size_t done = 0;
  for (const Id id : ids) {
    const Element* e = network.find(id);
    const Field* field = e ? findField(*e->part, key) : nullptr;
    const Given* given = field && field->kind == FieldKind::quantity ? e->given(key) : nullptr;
    if (!given) continue;
    const auto a = readArithmetic(text, field->measure, units);
    if (!a) {
      Problem problem = a.error();
      problem.place = {e->name, std::string(key)};
      return Refused(std::move(problem));
    }
    // In the unit the value was typed in: its text stays the engineer's.
    const std::string unitText(typedUnit(given->typed));
    const Unit* unit = nullptr;
    for (const Unit& u : unitsOf(field->measure))
      if (!unit && (u.symbol == unitText ||
                    fmt::format(" {} ", u.aliases).find(fmt::format(" {} ", unitText)) != std::string::npos))
        unit = &u;
    if (given->basis != Basis::direct && a->add != 0.0)
      return Refused(
          Problem{{e->name, std::string(key)},
                  fmt::format("{} of {} is given as {}; adding to it needs the liquid's properties",
                              spoken(key), e->name, given->typed),
                  {}});
    const double si = given->value * a->factor + a->add;
    const double shown = unit ? (si - unit->offset) / unit->factor : si;
    const std::string typed =
        unitText.empty() ? fmt::format("{:.10g}", shown) : fmt::format("{:.10g} {}", shown, unitText);
    if (!unit && !unitText.empty())
      return Refused(Problem{{e->name, std::string(key)},
                             fmt::format("{} of {} is given as {}, which cannot be calculated with",
                                         spoken(key), e->name, given->typed),
                             {}});
    if (auto put = putText(draft, id, key, typed, nullptr, unitText.empty() ? units : nullptr); !put)
      return Refused(put.error());
    ++done;
  }
  if (done == 0)
    return Refused(Problem{{"", std::string(key)},
                           fmt::format("no element here has a given {} to calculate with", spoken(key)),
                           {}});
  return Edited{fmt::format("{} {} of {} elements", trimmed(text), spoken(key), done),
                std::move(draft).finish()};
}

Result<Edited> setTexts(const Network& network, std::span<const Id> ids, std::string_view key,
                        std::span<const std::string> texts, const Stock* stock, const UnitSet* units) {
  Draft draft(network);
  std::size_t done = 0;
  for (std::size_t i = 0; i < ids.size() && i < texts.size(); ++i) {
    if (!network.find(ids[i]) || !findField(*network.at(ids[i]).part, key)) continue;
    if (auto put = putText(draft, ids[i], key, texts[i], stock, units); !put) return Refused(put.error());
    ++done;
  }
  if (done == 0)
    return Refused(
        Problem{{"", std::string(key)}, fmt::format("no element here has a field \"{}\"", key), {}});
  return Edited{fmt::format("Set {} of {} elements", spoken(key), done), std::move(draft).finish()};
}

Result<Edited> fillDown(const Network& network, std::span<const Id> ids, std::string_view key) {
  if (ids.size() < 2)
    return Refused(Problem{{"", std::string(key)}, "select the source cell and the cells below it", {}});
  const Value* first = network.at(ids.front()).value(key);
  Draft draft(network);
  std::size_t done = 0;
  for (const Id id : ids.subspan(1)) {
    const Field* field = findField(*network.at(id).part, key);
    if (!field) continue;
    if (first) draft.values(id).set(field->key, *first);
    else draft.values(id).clear(field->key);
    ++done;
  }
  return Edited{fmt::format("Fill {} down to {} elements", spoken(key), done), std::move(draft).finish()};
}

}  // namespace conduit
