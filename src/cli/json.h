// What every command's JSON is made of.
#pragma once

#include <cmath>
#include <nlohmann/json.hpp>
#include <optional>

namespace conduit::cli {

using Json = nlohmann::ordered_json;

/// null where nothing determines the number.
[[nodiscard]] inline Json number(std::optional<double> v) {
  return v && std::isfinite(*v) ? Json(*v) : Json(nullptr);
}

}  // namespace conduit::cli
