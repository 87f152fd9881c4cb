// Any bytes as a model file, most of them models changed by their structure: refused with words, or read,
// written again to the same network, solved and judged by the limits, without a crash. Run by ./check
// --sanitize.
#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <cstdlib>
#include <string_view>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "fuzz/shape.h"
#include "limits/limits.h"
#include "solve/solve.h"

extern "C" std::size_t LLVMFuzzerMutate(std::uint8_t* data, std::size_t size, std::size_t most);

// Three times of four by structure, else by bytes as ever.
extern "C" std::size_t LLVMFuzzerCustomMutator(std::uint8_t* data, std::size_t size, std::size_t most,
                                               unsigned seed) {
  if (seed % 4 == 0) return LLVMFuzzerMutate(data, size, most);
  auto root = conduit::fuzz::Shape::Json::parse(data, data + size, nullptr, false);
  if (root.is_discarded()) return LLVMFuzzerMutate(data, size, most);
  conduit::fuzz::Shape(seed).change(root);
  const std::string text = root.dump(-1, ' ', false, conduit::fuzz::Shape::Json::error_handler_t::replace);
  if (text.size() > most) return LLVMFuzzerMutate(data, size, most);
  std::copy(text.begin(), text.end(), data);
  return text.size();
}

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace conduit;
  if (size > 64 * 1024) return 0;
  const auto network =
      readDrawn(std::string_view(reinterpret_cast<const char*>(data), size), &shippedStock());
  if (!network) {
    if (network.error().empty()) std::abort();  // refused without a word
    return 0;
  }
  const std::string text = writeModel(*network);
  const auto again = readDrawn(text, &shippedStock());
  if (!again || writeModel(*again) != text) std::abort();  // not what was written
  if (network->count() > 150) return 0;
  const auto stock = stockFor(*network, shippedStock());
  const Solution solution = solve(*network, stock.get());
  (void)findings(*network, solution, UnitSet::siWater());
  if (!solution.summary.usable() && solution.summary.verdict == Verdict::cannotYet &&
      solution.summary.problems.empty())
    std::abort();
  return 0;
}
