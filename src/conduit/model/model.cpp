#include "model/model.h"

namespace conduit {

std::size_t Model::bytesApart(const Model& other) const {
  std::size_t bytes = drawn.bytesApart(other.drawn);
  if (!(costs == other.costs)) bytes += 100 * costs.entries().size();
  if (studies != other.studies)
    for (const auto& [key, text] : studies) bytes += key.size() + text.size();
  return bytes;
}

std::span<const std::string_view> studyKeys() {
  static constexpr std::string_view keys[] = {"cases", "watched outcomes", "pump requests", "sizing",
                                              "sheet"};
  return keys;
}

}  // namespace conduit
