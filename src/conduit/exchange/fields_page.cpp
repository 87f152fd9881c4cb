#include "exchange/fields_page.h"

#include <fmt/format.h>

#include "parts/registry.h"
#include "quantity/format.h"

namespace conduit {
namespace {

std::string inItsUnit(double si, const Unit& unit) {
  std::string number = digits((si - unit.offset) / unit.factor, 6);
  if (number.find('.') != std::string::npos) {
    while (number.ends_with('0')) number.pop_back();
    if (number.ends_with('.')) number.pop_back();
  }
  return unit.symbol.empty() ? number : fmt::format("{} {}", number, unit.symbol);
}
std::string range(double least, double most, Measure measure) {
  const Unit& unit = unitsOf(measure).front();
  return fmt::format("{} to {}", inItsUnit(least, unit), inItsUnit(most, unit));
}

std::string what(const Field& f) {
  switch (f.kind) {
    case FieldKind::quantity: return range(f.least, f.most, f.measure);
    case FieldKind::flag: return "yes or no";
    case FieldKind::takeOff: return "a take-off";
    case FieldKind::text: return f.names.empty() ? "text" : fmt::format("the name of a {}", f.names);
    case FieldKind::choice: {
      std::string words;
      for (const auto& c : f.choices) words += fmt::format("{}`{}`", words.empty() ? "" : ", ", c);
      return words;
    }
    case FieldKind::table: {
      std::string words = "rows of ";
      bool first = true;
      for (const Column& c : f.columns) {
        words += fmt::format("{}`{}` ({}{})", first ? "" : ", ", c.key, range(c.least, c.most, c.measure),
                             c.needed ? "" : "; optional");
        first = false;
      }
      return words;
    }
  }
  return {};
}

std::string fallback(const Field& f) {
  if (f.fallback) return inItsUnit(*f.fallback, unitsOf(f.measure).front());
  if (f.fallbackFlag) return *f.fallbackFlag ? "yes" : "no";
  if (!f.choices.empty()) return std::string(f.choices.front());
  return f.needed ? "**needed**" : "";
}

// Beside the default: what a new one takes on the drawing until somebody says it.
std::string whenDrawn(const Field& f) {
  return f.assumed.empty()
             ? std::string()
             : fmt::format("{}assumed when drawn: {}", fallback(f).empty() ? "" : "; ", f.assumed);
}

}  // namespace

std::string fieldsPage() {
  std::string page =
      "# Every kind and its fields\n\nMade by `level-conduit-cli fields` from the tables of the program: the "
      "keys are those of the model file, the card, the ledger and\nthe "
      "stock. "
      "A field can be *found* in place of an outcome given where that is said; every outcome can be *given* "
      "unless it is a\nproperty of what is given already. Ranges hold "
      "both ends; any unit of the quantity may be typed.\n";
  for (const Part* part : allParts()) {
    page += fmt::format(
        "\n## {}\n**{}**{}\n\n| field | value | default | can be solved for | help "
        "|\n|---|---|---|---|---|\n",
        part->plural, part->key, part->letter ? fmt::format(", placed with {}", part->letter) : "");
    for (const Field& f : part->fields)
      page += fmt::format("| `{}` | {} | {} | {} | {}{} |\n", f.key, what(f), fallback(f) + whenDrawn(f),
                          f.releasable ? "yes" : "", f.applies ? "where applicable: " : "", f.help);
    if (part->outcomes.empty()) continue;
    page += "\nResults: ";
    for (std::size_t i = 0; i < part->outcomes.size(); ++i)
      page += fmt::format("{}{}", i ? ", " : "", part->outcomes[i].key);
    page += ".\n";
  }
  return page;
}

}  // namespace conduit
