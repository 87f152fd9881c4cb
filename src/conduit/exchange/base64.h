// Bytes as text and back (RFC 4648, section 4).
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace conduit {

[[nodiscard]] std::string toBase64(std::string_view bytes);
/// Empty when the text is not base64; line breaks and blanks are passed over.
[[nodiscard]] std::optional<std::string> fromBase64(std::string_view text);

}  // namespace conduit
