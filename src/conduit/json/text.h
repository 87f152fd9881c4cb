// Values of fields as JSON: written, and described in a schema.
#pragma once

#include <nlohmann/json.hpp>
#include <string>

#include "fields/field.h"

namespace conduit::model_json {

using Text = nlohmann::ordered_json;
/// A word of JSON Schema.
inline constexpr const char* schemaProperties = "properties";

[[nodiscard]] Text valueOf(const Field& field, const Value& value);
/// Those of the fields that are given, in their order.
void putFields(const Values& values, std::span<const Field> fields, Text& out);
/// What the file had that this version does not know: the text of an object, or none.
void addExtra(const std::string& text, Text& out);
/// A field in a schema.
[[nodiscard]] Text schemaOf(const Field& field);
/// One object in one line, a blank after each mark.
[[nodiscard]] std::string line(const Text& object);

}  // namespace conduit::model_json
