#include "stock/wider.h"

#include "stock/sold.h"

namespace conduit {

std::vector<const PipeSize*> widerThan(const PipeSize& size, const Stock& stock) {
  std::vector<const PipeSize*> wider = soldWith(size, stock);
  std::erase_if(wider, [&](const PipeSize* p) { return p->bore_m <= size.bore_m * 1.001; });
  return wider;
}

}  // namespace conduit
