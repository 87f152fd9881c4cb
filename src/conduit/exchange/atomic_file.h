// A file replaced at once or not at all.
#pragma once

#include <filesystem>
#include <string_view>

#include "say/say.h"

namespace conduit {

/// Written beside, synced and renamed: the old file stays whole if anything fails. The Problem says what and why.
[[nodiscard]] Result<bool> writeWhole(const std::filesystem::path& file, std::string_view text);

}  // namespace conduit
