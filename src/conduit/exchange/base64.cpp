#include "exchange/base64.h"

#include <array>
#include <cstdint>

namespace conduit {
namespace {

constexpr std::string_view letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";

}  // namespace

std::string toBase64(std::string_view bytes) {
  std::string text;
  text.reserve((bytes.size() + 2) / 3 * 4);
  for (std::size_t i = 0; i < bytes.size(); i += 3) {
    std::uint32_t three = 0;
    for (std::size_t k = 0; k < 3; ++k)
      three = (three << 8) | (i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0u);
    for (std::size_t k = 0; k < 4; ++k)
      text += i + k <= bytes.size() ? letters[(three >> (18 - 6 * k)) & 63] : '=';
  }
  return text;
}

std::optional<std::string> fromBase64(std::string_view text) {
  std::array<int, 256> value{};
  value.fill(-1);
  for (std::size_t i = 0; i < letters.size(); ++i)
    value[static_cast<unsigned char>(letters[i])] = static_cast<int>(i);
  std::string bytes;
  std::uint32_t bits = 0;
  int count = 0, padding = 0;
  std::size_t digits = 0;
  for (const char c : text) {
    if (c == ' ' || c == '\n' || c == '\r' || c == '\t') continue;
    ++digits;
    if (c == '=') {
      ++padding;
      continue;
    }
    const int v = value[static_cast<unsigned char>(c)];
    if (v < 0 || padding > 0) return std::nullopt;
    bits = (bits << 6) | static_cast<std::uint32_t>(v);
    if ((count += 6) >= 8) {
      count -= 8;
      bytes += static_cast<char>((bits >> count) & 0xff);
    }
  }
  if (digits % 4 != 0 || padding > 2) return std::nullopt;
  return bytes;
}

}  // namespace conduit
