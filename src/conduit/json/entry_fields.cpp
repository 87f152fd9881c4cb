#include "json/entry_fields.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <nlohmann/json.hpp>

#include "fields/entry.h"
#include "fields/keys.h"
#include "json/limits.h"

namespace conduit::model_json {

void Extra::addText(std::string_view key, std::string_view json) {
  text_ += fmt::format("{}{}:{}", text_.empty() ? "" : ",", nlohmann::ordered_json(key).dump(), json);
}

bool crowded(const Json& value) {
  if (Array list; !value.get(list))
    return std::any_of(list.begin(), list.end(), [](const Json& v) { return crowded(v); });
  Object o;
  if (value.get(o)) return false;
  return o.size() > keysMost ||
         std::any_of(o.begin(), o.end(), [](const auto& member) { return crowded(member.value); });
}

std::optional<std::string> asText(const Json& v) {
  switch (v.type()) {
    case simdjson::dom::element_type::STRING: return std::string(std::string_view(v));
    case simdjson::dom::element_type::BOOL: return bool(v) ? "yes" : "no";
    case simdjson::dom::element_type::INT64: return fmt::format("{}", std::int64_t(v));
    case simdjson::dom::element_type::UINT64: return fmt::format("{}", std::uint64_t(v));
    case simdjson::dom::element_type::DOUBLE: return fmt::format("{}", double(v));
    default: return std::nullopt;
  }
}

std::optional<std::vector<std::string>> cellsOf(const Field& field, const Object& row,
                                                std::vector<Fault>& faults) {
  std::vector<std::string> cells;
  for (const Column& column : field.columns) {
    Json value;
    const auto cell = row.at_key(column.key).get(value) ? std::optional(std::string()) : asText(value);
    if (!cell) {
      faults.push_back(
          {std::string(field.key), fmt::format("\"{}\" of a row must be a text with a unit", column.key)});
      return std::nullopt;
    }
    cells.push_back(*cell);
  }
  return cells;
}

namespace {

std::optional<TypedRows> rowsOf(const Field& field, const Json& value, std::vector<Fault>& faults) {
  Array rows;
  if (value.get(rows)) {
    faults.push_back({std::string(field.key), fmt::format("\"{}\" must be a list of rows", field.key)});
    return std::nullopt;
  }
  TypedRows typed;
  for (const Json row : rows) {
    Object cells;
    if (row.get(cells)) {
      faults.push_back(
          {std::string(field.key), fmt::format("each row of \"{}\" must be an object", field.key)});
      return std::nullopt;
    }
    auto read = cellsOf(field, cells, faults);
    if (!read) return std::nullopt;
    typed.push_back(std::move(*read));
  }
  return typed;
}

// The field of that key, looked for from `next` on, which is then behind it: files are written in the order
// of the field table.
const Field* fieldFrom(std::span<const Field> fields, std::string_view key, std::size_t& next) {
  const std::size_t count = fields.size();
  for (std::size_t i = 0; i < count; ++i) {
    const std::size_t at = next + i < count ? next + i : next + i - count;
    if (fields[at].key == key) {
      next = at + 1;
      return &fields[at];
    }
  }
  return nullptr;
}

// A key of an entry that is no field of its part.
void readBeside(std::string_view key, const Json& value, Fields& read, std::vector<std::string>& found,
                std::vector<std::string>& assumed) {
  Array list;
  Object outcomes;
  if (key == "found") {
    if (value.get(list)) return;
    for (const Json f : list)
      if (std::string_view text; !f.get(text)) found.emplace_back(text);
  } else if (key == "assumed") {
    if (value.get(list)) {
      read.faults.push_back({"assumed", "\"assumed\" must be a list of fields such as [\"size\"]"});
      return;
    }
    for (const Json f : list)
      if (std::string_view text; !f.get(text)) assumed.emplace_back(text);
  } else if (key == "given" && !value.get(outcomes)) {
    for (const auto& [outcome, text] : outcomes) read.given.emplace_back(outcome, asText(text).value_or("?"));
  } else {
    read.extra.add(key, value);
  }
}

}  // namespace

Fields fieldsOf(const Object& o, std::span<const Field> fields, std::string_view of,
                std::span<const std::string_view> handled, const Stock* stock, std::size_t beside) {
  Fields read;
  read.crowded = o.size() > keysMost;
  read.values.reserve(o.size() - std::min(o.size(), beside));
  std::vector<std::string> found, assumed;
  std::array<std::string_view, 64> keys;
  std::size_t seen = 0, next = 0;
  for (const auto& [key, value] : o) {
    // Which of two is meant nobody can say. (Of very many keys none is this program's.)
    if (seen < keys.size()) {
      if (std::find(keys.begin(), keys.begin() + seen, key) != keys.begin() + seen)
        read.faults.push_back({std::string(key), fmt::format("\"{}\" is given twice", key)});
      keys[seen++] = key;
    }
    if (std::find(handled.begin(), handled.end(), key) != handled.end()) continue;
    if (!value.is_string()) read.crowded = read.crowded || crowded(value);
    const Field* field = fieldFrom(fields, key, next);
    if (!field) {
      readBeside(key, value, read, found, assumed);
      continue;
    }
    if (field->key == key::connections) continue;
    if (field->kind == FieldKind::table) {
      const auto typed = rowsOf(*field, value, read.faults);
      if (!typed || typed->empty()) continue;
      if (auto rows = readRows(*field, *typed, nullptr)) read.values.set(field->key, std::move(*rows));
      else read.faults.push_back({std::string(key), fmt::format("{}: {}", key, rows.error().what)});
      continue;
    }
    std::optional<std::string> made;
    std::string_view text;
    if (value.get(text)) {
      made = asText(value);
      if (!made) {
        read.faults.push_back(
            {std::string(key), fmt::format("\"{}\" must be a text such as \"{}\"", key,
                                           field->kind == FieldKind::flag ? "yes" : "120 mm")});
        continue;
      }
      text = *made;
    }
    if (text.empty()) continue;
    auto into = readField(*field, text, stock, nullptr);
    if (!into) read.faults.push_back({std::string(key), fmt::format("{}: {}", key, into.error().what)});
    else read.values.set(field->key, std::move(*into));
  }
  for (const std::string& f : assumed)
    if (const Field* field = findField(fields, f); !field || !read.values.assume(field->key))
      read.faults.push_back({"assumed", fmt::format("\"{}\" is not given, so it cannot be assumed", f)});
  for (const std::string& f : found) {
    const Field* field = findField(fields, f);
    if (!field || !field->releasable)
      read.faults.push_back({"found", fmt::format("\"{}\" cannot be solved for in a {}", f, of)});
    else read.values.release(field->key);
  }
  return read;
}

}  // namespace conduit::model_json
