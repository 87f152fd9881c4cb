// Any bytes as a model file: refused with words, or read, written again to the same network, solved and judged by the limits,
// without a crash. Run by ./check --sanitize.
#include <cstddef>
#include <cstdint>
#include <cstdlib>
#include <string_view>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "limits/limits.h"
#include "solve/solve.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace conduit;
  if (size > 64 * 1024) return 0;
  const auto network = readModel(std::string_view(reinterpret_cast<const char*>(data), size), &shippedStock());
  if (!network) {
    if (network.error().empty()) std::abort();  // refused without a word
    return 0;
  }
  const std::string text = writeModel(*network);
  const auto again = readModel(text, &shippedStock());
  if (!again || writeModel(*again) != text) std::abort();  // not what was written
  if (network->count() > 150) return 0;
  const auto stock = stockFor(*network, shippedStock());
  const Solution solution = solve(*network, stock.get());
  (void)findings(*network, solution, UnitSet::siWater());
  if (!solution.summary.usable() && solution.summary.verdict == Verdict::cannotYet && solution.summary.problems.empty()) std::abort();
  return 0;
}
