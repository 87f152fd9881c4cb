// What a sizing is asked for, as it stands in the model file.
#pragma once

#include <functional>
#include <nlohmann/json.hpp>

#include "exchange/entry_fields.h"
#include "model/model.h"

namespace conduit {

/// A word of JSON Schema.
inline constexpr const char* schemaProperties = "properties";

/// The object of the key "sizing"; empty where nothing is asked.
[[nodiscard]] std::string sizingText(const Model& model);
/// Reads it; what cannot be read is said, each with the list it stands in.
[[nodiscard]] std::vector<Problem> sizingOf(const model_json::Json& value, const Network& network,
                                            SizingSetup& into);
[[nodiscard]] nlohmann::ordered_json sizingSchema(
    const std::function<nlohmann::ordered_json(const Field&)>& fieldSchema);

}  // namespace conduit
