// Any bytes as a table, a clipboard, GeoJSON or a file of the catalogue: by the first byte. Refused with
// words, or imported whole.
#include <cstdint>
#include <cstdlib>
#include <string_view>

#include "exchange/import_table.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "network/lay_take_off.h"

namespace {

using namespace conduit;

void asGrid(const Grid& grid, const Dialect& dialect) {
  static const UnitSet units = UnitSet::siWater();
  const ImportPlan plan = proposePlan(grid, dialect, nullptr, units);
  const auto brought = importTable(Network(), grid, plan, &shippedStock(), units);
  if (!brought) {
    if (brought.error().what.empty()) std::abort();
    return;
  }
  const std::string text = writeModel(brought->edited.network);
  const auto again = readDrawn(text, &shippedStock());
  if (!again || writeModel(*again) != text) std::abort();  // what was imported is no model
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  if (size < 1 || size > 16 * 1024) return 0;
  const std::string_view rest(reinterpret_cast<const char*>(data) + 1, size - 1);
  switch (data[0] % 4) {
    case 0: {
      const Dialect dialect = guessDialect(rest);
      asGrid(readGrid(rest, dialect), dialect);
      break;
    }
    case 1:
      if (const auto grid = gridOfGeoJson(rest)) asGrid(*grid, {});
      break;
    case 2: {
      Stock stock;
      const auto lists = stockLists();
      const auto& list = lists[rest.empty() ? 0 : static_cast<unsigned char>(rest[0]) % lists.size()];
      (void)readStockFile(stock, list.file, rest.empty() ? rest : rest.substr(1), Origin::own);
      const std::string text = writeStockFile(stock, list.file);
      Stock again;
      if (!readStockFile(again, list.file, text, Origin::own).empty() ||
          writeStockFile(again, list.file) != text)
        std::abort();  // not what was written
      break;
    }
    default: (void)layTakeOffs(Network(), std::string(rest), shippedStock(), nullptr);
  }
  return 0;
}
