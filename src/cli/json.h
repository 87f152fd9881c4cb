// What every command's JSON is made of.
#pragma once

#include <cmath>
#include <nlohmann/json.hpp>
#include <optional>
#include <ostream>

namespace conduit::cli {

using Json = nlohmann::ordered_json;

/// null where nothing determines the number.
[[nodiscard]] inline Json number(std::optional<double> v) {
  return v && std::isfinite(*v) ? Json(*v) : Json(nullptr);
}

/// On lines of its own, text that is not UTF-8 mended.
inline void print(std::ostream& out, const Json& json) {
  out << json.dump(1, ' ', false, Json::error_handler_t::replace) << '\n';
}

}  // namespace conduit::cli
