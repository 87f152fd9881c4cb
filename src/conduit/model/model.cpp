#include "model/model.h"

namespace conduit {

std::size_t Model::bytesApart(const Model& other) const {
  std::size_t bytes = drawn.bytesApart(other.drawn);
  if (!(costs == other.costs)) bytes += 100 * costs.entries().size();
  if (!(cases == other.cases)) bytes += cases.bytes();
  bytes += setups.bytesApart(other.setups);
  if (!(costsExtra == other.costsExtra)) bytes += costsExtra.str().size();
  return bytes;
}

}  // namespace conduit
