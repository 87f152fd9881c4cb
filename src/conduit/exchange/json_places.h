// Where things stand in the text of a JSON object of lists, for messages that name a line.
#pragma once

#include <cstddef>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <vector>

namespace conduit {

/// The line of a place in a text, from 1.
[[nodiscard]] std::size_t lineOfOffset(std::string_view text, std::size_t offset);

/// A text that a quick reader refuses, read slowly: what is wrong with it and in which line; where nothing is
/// but a number too long for the quick one, the text with that number shortened.
[[nodiscard]] tl::expected<std::string, std::string> readSlowly(std::string_view text);

/// The values of the top keys, and the entries of their lists: found in one walk over the text, which must
/// live as long.
class JsonPlaces {
 public:
  explicit JsonPlaces(std::string_view text);
  /// Where `field` stands in the entry (from 1; 0: the whole value) under a top key, else where the entry
  /// begins; empty where there is no such key.
  [[nodiscard]] std::optional<std::size_t> find(const std::string& key, std::size_t entry,
                                                std::string_view field) const;

 private:
  struct Stretch {
    std::size_t begin = 0, end = 0;
  };
  struct Region {
    Stretch whole;
    std::vector<Stretch> entries;
  };
  std::string_view text_;
  std::map<std::string, Region> regions_;
};

}  // namespace conduit
