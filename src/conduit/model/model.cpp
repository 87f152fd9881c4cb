#include "model/model.h"

namespace conduit {

std::size_t Model::bytesApart(const Model& other) const {
  std::size_t bytes = drawn.bytesApart(other.drawn);
  if (!(costs == other.costs)) bytes += 100 * costs.entries().size();
  for (const auto& [key, text] : studies)
    if (const auto was = other.studies.find(key); was == other.studies.end() || !(was->second == text))
      bytes += key.size() + text.str().size();
  if (!(cases == other.cases)) bytes += cases.bytes();
  if (!(pumpRequests == other.pumpRequests)) bytes += 1000 * pumpRequests.size();
  if (!(sizing == other.sizing)) bytes += sizing.bytes();
  if (!(costsExtra == other.costsExtra)) bytes += costsExtra.str().size();
  return bytes;
}

std::span<const std::string_view> studyKeys() {
  static constexpr std::string_view keys[] = {"sheet"};
  return keys;
}

}  // namespace conduit
