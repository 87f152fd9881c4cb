// The core's words as the window shows them.
#pragma once

#include <QString>
#include <string>
#include <string_view>

#include "say/words.h"

namespace conduit::desktop {

[[nodiscard]] inline QString text(std::string_view s) {
  return QString::fromUtf8(s.data(), static_cast<int>(s.size()));
}

/// A key as people read it.
[[nodiscard]] inline QString spokenText(std::string_view key) { return QString::fromStdString(spoken(key)); }

/// A key as people read it, with a capital at its beginning.
[[nodiscard]] inline QString sentence(std::string_view s) {
  QString t = spokenText(s);
  if (!t.isEmpty()) t[0] = t[0].toUpper();
  return t;
}

}  // namespace conduit::desktop
