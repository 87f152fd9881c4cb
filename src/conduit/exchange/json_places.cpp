#include "exchange/json_places.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

namespace conduit {

std::size_t lineOfOffset(std::string_view text, std::size_t offset) {
  return 1 +
         static_cast<std::size_t>(std::count(
             text.begin(), text.begin() + static_cast<std::ptrdiff_t>(std::min(offset, text.size())), '\n'));
}

tl::expected<std::string, std::string> readSlowly(std::string_view text) {
  try {
    return nlohmann::ordered_json::parse(text.begin(), text.end()).dump();
  } catch (const nlohmann::json::parse_error& error) {
    std::string why = error.what();
    if (const auto colon = why.find(": "); colon != std::string::npos) why = why.substr(colon + 2);
    for (char& c : why)
      if (static_cast<unsigned char>(c) < 32 || static_cast<unsigned char>(c) > 126) c = '?';
    return tl::unexpected(fmt::format("line {}: this is not JSON: {}",
                                      lineOfOffset(text, error.byte > 0 ? error.byte - 1 : 0), why));
  } catch (const nlohmann::json::exception& error) {  // a number that no computer holds
    const std::string why = error.what();
    const auto open = why.find('\''), close = why.rfind('\'');
    const std::string number =
        open < close && close != std::string::npos ? why.substr(open + 1, close - open - 1) : std::string();
    return tl::unexpected(fmt::format(
        "line {}: number {} is too large",
        lineOfOffset(text, number.empty() ? 0 : std::min(text.find(number), text.size())), number));
  }
}

JsonPlaces::JsonPlaces(std::string_view text) : text_(text) {
  std::vector<char> open;
  std::string key, last;
  std::size_t textBegin = 0, begin = 0;
  bool inText = false;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (inText) {
      if (c == '\\') ++i;
      else if (c == '"')
        inText = false,
        last = open.size() == 1 ? std::string(text.substr(textBegin, i - textBegin)) : std::string();
    } else if (c == '"') {
      inText = true, textBegin = i + 1;
    } else if (c == ':' && open.size() == 1) {
      key = last;
      regions_[key].whole.begin = i;
    } else if (c == '{' || c == '[') {
      if (open.size() == 2 && open[1] == '[' && c == '{') begin = i;
      open.push_back(c);
    } else if ((c == '}' || c == ']') && !open.empty()) {
      open.pop_back();
      if (open.size() == 2 && open[1] == '[' && c == '}') regions_[key].entries.push_back({begin, i});
      if (open.size() == 1) regions_[key].whole.end = i;
    }
  }
}

std::optional<std::size_t> JsonPlaces::find(const std::string& key, std::size_t entry,
                                            std::string_view field) const {
  const auto region = regions_.find(key);
  if (region == regions_.end()) return std::nullopt;
  const auto& entries = region->second.entries;
  const Stretch now = entry > 0 && entry <= entries.size() ? entries[entry - 1] : region->second.whole;
  if (field.empty()) return now.begin;
  const std::size_t at =
      text_.substr(0, now.end).find('"' + std::string(field) + '"', std::min(now.begin, text_.size()));
  return at == std::string_view::npos ? now.begin : at;
}

}  // namespace conduit
