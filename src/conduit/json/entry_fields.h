// The fields of one entry of a model file, an element's or a case's, out of the quick parser's tree. Nothing
// that was read before plays a part.
#pragma once

#include <simdjson.h>

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "fields/field.h"

namespace conduit::model_json {

using Json = simdjson::dom::element;
using Object = simdjson::dom::object;
using Array = simdjson::dom::array;

/// Keys that this version does not know, as the text of a JSON object.
class Extra {
 public:
  [[nodiscard]] bool empty() const { return text_.empty(); }
  [[nodiscard]] std::string text() const { return "{" + text_ + "}"; }
  void add(std::string_view key, const Json& value) { addText(key, simdjson::minify(value)); }
  void addText(std::string_view key, std::string_view json);

 private:
  std::string text_;
};

/// What is wrong with a field: said once its element is known to be good.
struct Fault {
  std::string field, what;
};

struct Fields {
  Values values;
  Extra extra;                                             // what the part does not know
  std::vector<std::pair<std::string, std::string>> given;  // outcomes, each with its text
  std::vector<Fault> faults;
  bool crowded = false;  // an object in it has more keys than any of a model has
};

/// All `fields` of `entry` but those whose keys are `handled` elsewhere, and "connections". `of` is what they
/// are of ("pipe"); `beside` keys of it say what and where it is.
[[nodiscard]] Fields fieldsOf(const Object& entry, std::span<const Field> fields, std::string_view of,
                              std::span<const std::string_view> handled, const Stock* stock,
                              std::size_t beside = 0);

/// A cell or field given as text, a plain number or a truth value, as text.
[[nodiscard]] std::optional<std::string> asText(const Json& value);

/// The cells of a row in the order of the columns; empty, with a fault, where one cannot be.
[[nodiscard]] std::optional<std::vector<std::string>> cellsOf(const Field& field, const Object& row,
                                                              std::vector<Fault>& faults);

/// Whether an object in it has more than `keysMost` keys.
[[nodiscard]] bool crowded(const Json& value);

}  // namespace conduit::model_json
