#include "stock/wider.h"

#include <algorithm>

namespace conduit {

std::vector<const PipeSize*> widerThan(const PipeSize& size, const Stock& stock) {
  std::vector<const PipeSize*> wider;
  for (const PipeSize& p : stock.pipes)
    if (p.standard == size.standard && p.schedule == size.schedule && p.bore_m > size.bore_m * 1.001)
      wider.push_back(&p);
  std::sort(wider.begin(), wider.end(), [](auto* a, auto* b) { return a->bore_m < b->bore_m; });
  return wider;
}

}  // namespace conduit
