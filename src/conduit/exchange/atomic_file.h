// A file replaced at once or not at all.
#pragma once

#include <filesystem>
#include <string_view>

#include "say/say.h"

namespace conduit {

/// Written beside under a name of its own, synced and renamed, then the folder synced: the old file stays
/// whole if anything fails. Through symbolic links to what they lead to; mode and owner stay. Only regular
/// files are replaced, and none that is read-only. What killed processes of this machine left unfinished in
/// the folder is removed. The Problem says what and why.
[[nodiscard]] Result<bool> writeWhole(const std::filesystem::path& file, std::string_view text);

}  // namespace conduit
