#include "json/text.h"

#include <fmt/format.h>

#include <utility>

namespace conduit::model_json {

Text valueOf(const Field& field, const Value& value) {
  if (const auto* given = std::get_if<Given>(&value)) return given->typed;
  if (const auto* text = std::get_if<std::string>(&value)) return *text;
  if (const bool* on = std::get_if<bool>(&value)) return *on;
  Text rows = Text::array();
  for (const auto& row : std::get<Rows>(value)) {
    Text r = Text::object();
    for (std::size_t c = 0; c < row.size() && c < field.columns.size(); ++c)
      if (row[c]) r[std::string(field.columns[c].key)] = row[c]->typed;
    rows.push_back(std::move(r));
  }
  return rows;
}

void putFields(const Values& values, std::span<const Field> fields, Text& out) {
  for (const Field& f : fields)
    if (const Value* v = values.find(f.key)) out[std::string(f.key)] = valueOf(f, *v);
}

void addExtra(const std::string& text, Text& out) {
  if (text.empty()) return;
  const Text extra = Text::parse(text, nullptr, false);
  if (!extra.is_object()) return;
  for (const auto& [key, value] : extra.items())
    if (!out.contains(key)) out[key] = value;
}

Text schemaOf(const Field& f) {
  Text s;
  switch (f.kind) {
    case FieldKind::flag: s["type"] = Text::array({"boolean", "string"}); break;
    case FieldKind::table: {
      Text row = {{"type", "object"}, {schemaProperties, Text::object()}};
      Text required = Text::array();
      for (const Column& c : f.columns) {
        row[schemaProperties][std::string(c.key)] = {{"type", Text::array({"string", "number"})},
                                                     {"description", std::string(nameOf(c.measure))}};
        if (c.needed) required.push_back(std::string(c.key));
      }
      if (!required.empty()) row["required"] = required;
      s = {{"type", "array"}, {"items", row}};
      break;
    }
    case FieldKind::choice:
      s["enum"] = Text::array();
      for (const std::string_view c : f.choices) s["enum"].push_back(std::string(c));
      break;
    case FieldKind::quantity:
      s["type"] = f.measure == Measure::number || f.measure == Measure::ratio
                      ? Text::array({"string", "number"})
                      : Text("string");
      break;
    default: s["type"] = "string";
  }
  s["description"] =
      std::string(f.help) +
      (f.kind == FieldKind::quantity ? fmt::format(" ({})", nameOf(f.measure)) : std::string());
  return s;
}

std::string line(const Text& o) {
  std::string out = "{";
  bool first = true;
  for (const auto& [key, value] : o.items()) {
    out += fmt::format("{}{}: {}", std::exchange(first, false) ? "" : ", ", Text(key).dump(), value.dump());
  }
  return out + "}";
}

}  // namespace conduit::model_json
