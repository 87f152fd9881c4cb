// What every reader of the program takes at most. Beyond that it refuses with a sentence; docs/reading.md
// lists them.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>

namespace conduit {

constexpr std::uintmax_t modelBytesMost = std::uintmax_t{512} << 20;
constexpr std::size_t nestingMost = 60;              // of objects and lists in one another, in JSON
constexpr std::size_t keysMost = 1000;               // of one object of JSON
constexpr std::size_t enclosedBytesMost = 64 << 20;  // of all files that travel in a model, decoded
constexpr std::size_t stockRowsMost = 20000;         // of one list of a stock
constexpr std::size_t stockBytesMost = 16 << 20;     // of one file of a stock
constexpr std::size_t columnsMost = 500;             // of an imported table
constexpr std::size_t cellsMost = 5'000'000;         // of an imported table

/// Whether JSON is nested deeper than `nestingMost` or has an object of more than `keysMost` keys, judged
/// before it is parsed; what stands in texts does not count. A sentence that names the line and says that
/// `what` ("a model") is not like that; empty when all is well. One walk over the text.
[[nodiscard]] std::string beyondShape(std::string_view json, std::string_view what);

}  // namespace conduit
