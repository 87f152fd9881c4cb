// The model file, version 1: JSON, described in docs/file-format.md. Only what is given is written, as it was
// given.
//
//   auto network = loadModel("samples/millpond.lconduit", stock);
//   if (!network) for (const Problem& p : network.error()) ...
#pragma once

#include <filesystem>

#include "network/network.h"

namespace conduit {

inline constexpr int modelVersion = 1;

using ModelProblems = std::vector<Problem>;

/// Reads the whole text or nothing; all problems that can be found at once are returned, each with element
/// and line.
[[nodiscard]] tl::expected<Network, ModelProblems> readModel(std::string_view text, const Stock* stock);
/// The same network gives the same text, byte for byte: names sorted, one element a line.
[[nodiscard]] std::string writeModel(const Network& network);

[[nodiscard]] tl::expected<Network, ModelProblems> loadModel(const std::filesystem::path& file,
                                                             const Stock* stock);
/// Written beside, synced and renamed: the old file stays whole if anything fails.
[[nodiscard]] Result<bool> saveModel(const Network& network, const std::filesystem::path& file);

/// JSON Schema (draft 7) of the file, made from the field tables.
[[nodiscard]] std::string modelSchema();

}  // namespace conduit
