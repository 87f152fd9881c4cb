// The core's words as the window shows them.
#pragma once

#include <QString>
#include <string_view>

namespace conduit::desktop {

[[nodiscard]] inline QString text(std::string_view s) {
  return QString::fromUtf8(s.data(), static_cast<int>(s.size()));
}

/// With a capital at its beginning.
[[nodiscard]] inline QString sentence(std::string_view s) {
  QString t = text(s);
  if (!t.isEmpty()) t[0] = t[0].toUpper();
  return t;
}

}  // namespace conduit::desktop
