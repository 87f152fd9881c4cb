// The model file, version 2: JSON, described in docs/file-format.md. Only what is given is written, as it was
// given.
//
//   auto model = loadModel("samples/millpond.lconduit", stock);
//   if (!model) for (const Problem& p : model.error()) ...
#pragma once

#include <filesystem>

#include "model/model.h"
#include "model/sweep_setup.h"

namespace conduit {

inline constexpr int modelVersion = 2;  // 1 is read too

using ModelProblems = std::vector<Problem>;

/// Reads the whole text or nothing; all problems that can be found at once are returned, each with element
/// and line.
[[nodiscard]] tl::expected<Model, ModelProblems> readModel(std::string_view text, const Stock* stock);
/// The same where at least `roomBehind` bytes that may be looked at lie behind the text: it is not copied.
[[nodiscard]] tl::expected<Model, ModelProblems> readPadded(std::string_view text, const Stock* stock);
inline constexpr std::size_t roomBehind = 64;
/// Of the same text what is drawn, alone.
[[nodiscard]] tl::expected<Network, ModelProblems> readDrawn(std::string_view text, const Stock* stock);
/// The same model gives the same text, byte for byte: names sorted, one element a line.
[[nodiscard]] std::string writeModel(const Model& model);
[[nodiscard]] std::string writeModel(const Network& drawn);

[[nodiscard]] tl::expected<Model, ModelProblems> loadModel(const std::filesystem::path& file,
                                                           const Stock* stock);
/// Written beside, synced and renamed: the old file stays whole if anything fails.
[[nodiscard]] Result<bool> saveModel(const Model& model, const std::filesystem::path& file);

/// JSON Schema (draft 7) of the file, made from the field tables.
[[nodiscard]] std::string modelSchema();

}  // namespace conduit
