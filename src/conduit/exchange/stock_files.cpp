#include "exchange/stock_files.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <fstream>
#include <functional>
#include <sstream>

#include "exchange/atomic_file.h"
#include "json/limits.h"
#include "network/setting.h"
#include "quantity/format.h"
#include "say/ensure.h"

namespace conduit {
namespace {

/// What a cell of a column means, and how it is turned into the entry's own number.
template <class Entry>
struct ColumnOf {
  std::string_view heading;
  std::function<std::string(const Entry&)> text;
  std::function<std::string(Entry&, const std::string&)> put;  // why not, or empty
};

std::string shown(double v) { return fmt::format("{:.10g}", v); }

std::optional<double> number(std::string_view text) {
  double v = 0.0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), v);
  if (error != std::errc() || end != text.data() + text.size() || !std::isfinite(v)) return std::nullopt;
  return v;
}

template <class Entry>
ColumnOf<Entry> words(std::string_view heading, std::string Entry::*member, bool needed) {
  return {heading, [member](const Entry& e) { return e.*member; },
          [member, needed](Entry& e, const std::string& cell) {
            if (needed && cell.empty()) return std::string("is required");
            if (cell.find_first_of("\n\"\\") != std::string::npos)
              return std::string("may hold no quote, backslash or line break");
            e.*member = cell;
            return std::string();
          }};
}

/// Puts a number of the file, times `factor`, into `into`; it must lie from `least` to `most` (of the file).
std::string putNumber(const std::string& cell, double factor, double least, double most, double& into) {
  const auto v = number(cell);
  if (!v) return fmt::format("\"{}\" is not a number with a decimal point", cell);
  if (*v < least || *v > most) return fmt::format("{} is not between {} and {}", cell, least, most);
  into = *v * factor;
  return {};
}

template <class Entry>
ColumnOf<Entry> figure(std::string_view heading, double Entry::*member, double factor, double least,
                       double most) {
  return {heading, [=](const Entry& e) { return shown(e.*member / factor); },
          [=](Entry& e, const std::string& cell) { return putNumber(cell, factor, least, most, e.*member); }};
}
/// An empty cell is not known.
template <class Entry>
ColumnOf<Entry> figure(std::string_view heading, std::optional<double> Entry::*member, double factor,
                       double least, double most) {
  return {heading, [=](const Entry& e) { return e.*member ? shown(*(e.*member) / factor) : std::string(); },
          [=](Entry& e, const std::string& cell) {
            (e.*member).reset();
            if (cell.empty()) return std::string();
            return putNumber(cell, factor, least, most, (e.*member).emplace(0.0));
          }};
}

/// A list with the place where its entries live. `fault` judges a whole row.
template <class Entry>
struct ListOf {
  std::string_view file, title;
  std::vector<Entry> Stock::*entries;
  std::vector<ColumnOf<Entry>> columns;
  std::string (*fault)(const Entry&) = nullptr;
};

constexpr double mm = 1e-3, bar = 1e5, mm2s = 1e-6, kPa = 1e3;

const ListOf<PipeSize> pipes{
    "pipes.csv",
    "Pipe sizes",
    &Stock::pipes,
    {words("standard", &PipeSize::standard, true), words("nominal", &PipeSize::nominal, true),
     words("schedule", &PipeSize::schedule, false), words("material", &PipeSize::material, false),
     figure("outside_mm", &PipeSize::outside_m, mm, 0.1, 20000),
     figure("wall_mm", &PipeSize::wall_m, mm, 0.001, 1000),
     figure("bore_mm", &PipeSize::bore_m, mm, 0.1, 20000),
     figure("kg_per_m", &PipeSize::mass_kgm, 1.0, 0, 1e5),
     figure("rating_bar", &PipeSize::rating_pa, bar, 0, 1e5),
     figure("cost_per_m", &PipeSize::costPerMetre, 1.0, 0, 1e9), words("source", &PipeSize::source, false)},
    [](const PipeSize& p) {
      return p.bore_m < p.outside_m ? std::string() : std::string("the bore is not smaller than the outside");
    }};
const ListOf<Fitting> fittings{
    "fittings.csv",
    "Fittings",
    &Stock::fittings,
    {words("word", &Fitting::word, true), words("description", &Fitting::description, false),
     figure("k", &Fitting::k, 1.0, 0, 1e6), figure("bores_long", &Fitting::boresLong, 1.0, 0, 1e6),
     figure("k1", &Fitting::k1, 1.0, 0, 1e6), figure("k_infinite", &Fitting::kInfinite, 1.0, 0, 1e6),
     figure("ki", &Fitting::ki, 1.0, 0, 1e6), figure("kd_mm03", &Fitting::kd, 1.0, 0, 1e4),
     words("source", &Fitting::source, false)},
    [](const Fitting& f) {
      if (f.k.has_value() + f.boresLong.has_value() + f.kInfinite.has_value() + f.ki.has_value() != 1)
        return std::string("a fitting needs exactly one of k, bores_long, or k1 with k_infinite or ki");
      if ((f.kInfinite || f.ki) != f.k1.has_value() || f.ki.has_value() != f.kd.has_value())
        return std::string("k1 needs k_infinite or ki; ki needs kd_mm03");
      const bool plain = std::all_of(f.word.begin(), f.word.end(), [](char c) {
        return std::isalnum(static_cast<unsigned char>(c)) || c == '-';
      });
      if (!plain || std::isdigit(static_cast<unsigned char>(f.word[0])))
        return std::string("a fitting's word has letters, digits and dashes and begins with a letter");
      return std::string();
    }};
std::string rising(double low, double typical, double high) {
  return low <= typical && typical <= high ? std::string()
                                           : std::string("low, typical and high must increase");
}
const ListOf<RoughnessEntry> roughnesses{
    "roughness.csv",
    "Roughness",
    &Stock::roughness,
    {words("material", &RoughnessEntry::material, true), words("condition", &RoughnessEntry::condition, true),
     figure("low_mm", &RoughnessEntry::low_m, mm, 0, 1000),
     figure("typical_mm", &RoughnessEntry::typical_m, mm, 0, 1000),
     figure("high_mm", &RoughnessEntry::high_m, mm, 0, 1000),
     words("source", &RoughnessEntry::source, false)},
    [](const RoughnessEntry& r) { return rising(r.low_m, r.typical_m, r.high_m); }};
const ListOf<CoefficientEntry> coefficients{
    "hazen_c.csv",
    "Hazen-Williams C",
    &Stock::coefficients,
    {words("material", &CoefficientEntry::material, true),
     words("condition", &CoefficientEntry::condition, true),
     figure("low", &CoefficientEntry::low, 1.0, 10, 200),
     figure("typical", &CoefficientEntry::typical, 1.0, 10, 200),
     figure("high", &CoefficientEntry::high, 1.0, 10, 200),
     words("source", &CoefficientEntry::source, false)},
    [](const CoefficientEntry& r) { return rising(r.low, r.typical, r.high); }};
const ListOf<LiquidEntry> liquids{
    "liquids.csv",
    "Liquids",
    &Stock::liquids,
    {words("liquid", &LiquidEntry::liquid, true),
     figure("density_kg_m3", &LiquidEntry::density_kgm3, 1.0, 1, 25000),
     figure("at_density_c", &LiquidEntry::densityAt_c, 1.0, -200, 500),
     figure("viscosity1_mm2_s", &LiquidEntry::viscosity1_m2s, mm2s, 0.01, 1e7),
     figure("at1_c", &LiquidEntry::at1_c, 1.0, -200, 500),
     figure("viscosity2_mm2_s", &LiquidEntry::viscosity2_m2s, mm2s, 0.01, 1e7),
     figure("at2_c", &LiquidEntry::at2_c, 1.0, -200, 500),
     figure("expansion_per_k", &LiquidEntry::expansion_perK, 1.0, -0.01, 0.05),
     figure("vapour_kpa_abs", &LiquidEntry::vapour_pa, kPa, 0, 1e5),
     figure("at_vapour_c", &LiquidEntry::vapourAt_c, 1.0, -200, 500),
     figure("boils_at_c", &LiquidEntry::boilsAt_c, 1.0, -270, 1000),
     figure("freezes_at_c", &LiquidEntry::freezesAt_c, 1.0, -270, 500),
     figure("critical_mpa", &LiquidEntry::critical_pa, 1e6, 0.01, 1000),
     figure("water_activity", &LiquidEntry::waterActivity, 1.0, 0, 1),
     words("reid_formula", &LiquidEntry::reid, false), words("source", &LiquidEntry::source, false)},
    [](const LiquidEntry& l) {
      if (!l.reid.empty() && l.reid != "crude" && l.reid != "gasoline" && l.reid != "naphtha")
        return std::string("reid_formula is crude, gasoline, naphtha or blank");
      if (!l.reid.empty() && !l.vapour_pa)
        return std::string("a reid_formula needs the Reid vapour pressure in vapour_kpa_abs");
      return l.at1_c < l.at2_c && l.viscosity1_m2s >= l.viscosity2_m2s
                 ? std::string()
                 : std::string("the second viscosity must be at the higher temperature and be the smaller");
    }};

// Equipment has a row for each field of an item; its cells are kind, name, field, value, source.
constexpr std::string_view equipmentFile = "equipment.csv";

const std::vector<StockList>& lists() {
  static const std::vector<StockList> all = [] {
    std::vector<StockList> made;
    auto add = [&](const auto& list) {
      StockList l{list.file, list.title, {}};
      for (const auto& c : list.columns) l.columns.push_back(c.heading);
      made.push_back(std::move(l));
    };
    add(pipes), add(fittings), add(roughnesses), add(coefficients), add(liquids);
    made.push_back({equipmentFile, "Equipment", {"kind", "name", "field", "value", "source"}});
    return made;
  }();
  return all;
}

/// Calls `use` with the list of that file; equipment goes to `other`.
template <class Use, class Other>
auto withList(std::string_view file, Use use, Other other) {
  if (file == pipes.file) return use(pipes);
  if (file == fittings.file) return use(fittings);
  if (file == roughnesses.file) return use(roughnesses);
  if (file == coefficients.file) return use(coefficients);
  if (file == liquids.file) return use(liquids);
  return other();
}

// Equipment row i: the item and which of its fields.
std::pair<const StockItem*, std::size_t> itemRow(const Stock& stock, std::size_t i) {
  for (const StockItem& item : stock.items) {
    if (i < item.fields.size()) return {&item, i};
    i -= item.fields.size();
  }
  return {nullptr, 0};
}

// `replace`: an entry of the same name gives way; else the row is added at the end.
Result<bool> put(Stock& stock, std::string_view file, std::span<const std::string> cells, Origin origin,
                 bool replace, StockIndex& index) {
  auto refused = [&](std::string_view column, const std::string& what) {
    return tl::unexpected(Problem{{"", std::string(column)}, fmt::format("{}: {}", column, what), {}});
  };
  return withList(
      file,
      [&](const auto& list) -> Result<bool> {
        using Entry = typename std::decay_t<decltype(stock.*list.entries)>::value_type;
        Entry entry{};
        entry.origin = origin;
        for (std::size_t c = 0; c < list.columns.size(); ++c)
          if (const std::string why = list.columns[c].put(entry, c < cells.size() ? cells[c] : std::string());
              !why.empty())
            return refused(list.columns[c].heading, why);
        if (list.fault)
          if (const std::string why = list.fault(entry); !why.empty())
            return refused(list.columns.front().heading, why);
        auto& entries = stock.*list.entries;
        for (std::size_t i = index.seen; i < entries.size(); ++i) index.at.emplace(entries[i].name(), i);
        const auto [old, fresh] = index.at.emplace(entry.name(), entries.size());
        if (!fresh && replace) entries[old->second] = std::move(entry);
        else entries.push_back(std::move(entry));
        index.seen = entries.size();
        return true;
      },
      [&]() -> Result<bool> {
        static constexpr std::string_view headings[] = {"kind", "name", "field", "value"};
        for (std::size_t c = 0; c < 4; ++c)
          if (c >= cells.size() || cells[c].empty()) return refused(headings[c], "is required");
        const auto keyOf = [](std::string_view kind, std::string_view item) {
          return fmt::format("{}\n{}", kind, item);
        };
        for (std::size_t i = index.seen; i < stock.items.size(); ++i)
          index.at.emplace(keyOf(stock.items[i].kind, stock.items[i].item), i);
        index.seen = stock.items.size();
        const auto [old, fresh] = index.at.emplace(keyOf(cells[0], cells[1]), stock.items.size());
        if (fresh) {
          stock.items.push_back({cells[0],
                                 cells[1],
                                 {{cells[2], cells[3]}},
                                 cells.size() > 4 ? cells[4] : std::string(),
                                 origin});
          index.seen = stock.items.size();
          return true;
        }
        StockItem& item = stock.items[old->second];
        item.origin = origin;
        for (auto& [field, value] : item.fields)
          if (field == cells[2]) {
            value = cells[3];
            return true;
          }
        if (item.fields.size() >= 500) return refused("field", "an item has at most 500 fields");
        item.fields.emplace_back(cells[2], cells[3]);
        return true;
      });
}

}  // namespace

std::span<const StockList> stockLists() { return lists(); }

std::vector<std::string> csvCells(std::string_view line) {
  std::vector<std::string> cells(1);
  bool quoted = false;
  for (std::size_t i = 0; i < line.size(); ++i) {
    const char c = line[i];
    if (c == '"' && quoted && i + 1 < line.size() && line[i + 1] == '"') {
      cells.back() += '"';
      ++i;
    } else if (c == '"') {
      quoted = !quoted;
    } else if (c == ',' && !quoted) {
      cells.emplace_back();
    } else if (c != '\r' || quoted) {
      cells.back() += c;
    }
  }
  return cells;
}

std::string csvLine(std::span<const std::string> cells) {
  std::string line;
  for (std::size_t i = 0; i < cells.size(); ++i) {
    if (i) line += ',';
    const bool likeRemark = i == 0 && cells[i].starts_with('#');
    if (!likeRemark && cells[i].find_first_of(",\"\n\r") == std::string::npos) {
      line += cells[i];
      continue;
    }
    line += '"';
    for (const char c : cells[i]) line += c == '"' ? std::string("\"\"") : std::string(1, c);
    line += '"';
  }
  return line;
}

std::size_t stockSize(const Stock& stock, std::string_view file) {
  return withList(
      file, [&](const auto& list) { return (stock.*list.entries).size(); },
      [&] {
        std::size_t rows = 0;
        for (const StockItem& item : stock.items) rows += item.fields.size();
        return rows;
      });
}

std::vector<std::string> stockRow(const Stock& stock, std::string_view file, std::size_t i) {
  return withList(
      file,
      [&](const auto& list) {
        std::vector<std::string> cells;
        for (const auto& c : list.columns) cells.push_back(c.text((stock.*list.entries)[i]));
        return cells;
      },
      [&] {
        const auto [item, f] = itemRow(stock, i);
        ensure(item != nullptr, "no such row of the catalogue");
        return std::vector<std::string>{item->kind, item->item, item->fields[f].first, item->fields[f].second,
                                        item->source};
      });
}

Origin stockOrigin(const Stock& stock, std::string_view file, std::size_t i) {
  return withList(
      file, [&](const auto& list) { return (stock.*list.entries)[i].origin; },
      [&] { return itemRow(stock, i).first->origin; });
}

std::string stockName(const Stock& stock, std::string_view file, std::size_t i) {
  return withList(
      file, [&](const auto& list) { return std::string((stock.*list.entries)[i].name()); },
      [&] { return itemRow(stock, i).first->item; });
}

Result<bool> putStockRow(Stock& stock, std::string_view file, std::span<const std::string> cells,
                         Origin origin, StockIndex* index) {
  StockIndex once;
  return put(stock, file, cells, origin, true, index ? *index : once);
}

bool dropStockRow(Stock& stock, std::string_view file, std::string_view name) {
  return withList(
      file,
      [&](const auto& list) {
        return std::erase_if(stock.*list.entries, [&](const auto& e) { return e.name() == name; }) > 0;
      },
      [&] { return std::erase_if(stock.items, [&](const StockItem& e) { return e.item == name; }) > 0; });
}

std::vector<Problem> readStockFile(Stock& stock, std::string_view file, std::string_view text,
                                   Origin origin) {
  std::vector<Problem> problems;
  const auto list =
      std::find_if(lists().begin(), lists().end(), [&](const StockList& l) { return l.file == file; });
  if (list == lists().end()) return {{{}, fmt::format("{} is not a catalogue file", file), {}}};
  if (text.size() > stockBytesMost)
    return {{{}, fmt::format("{}: larger than {} MiB", file, stockBytesMost >> 20), {}}};
  bool header = true;
  std::size_t headings = 0;
  std::vector<std::size_t> order;  // of the list's columns in the file
  Stock fresh;
  StockIndex index;
  std::size_t rows = 0;
  for (std::size_t line = 1, next = 1; !text.empty(); line = next) {
    std::size_t end = 0;  // of the record: a line break within quotes belongs to it
    for (bool quoted = false; end < text.size() && (quoted || text[end] != '\n'); ++end) {
      if (text[end] == '"') quoted = !quoted;
      if (text[end] == '\n') ++next;
    }
    ++next;
    std::string_view row = text.substr(0, end);
    text = end >= text.size() ? std::string_view{} : text.substr(end + 1);
    if (row.ends_with('\r')) row.remove_suffix(1);
    if (row.empty() || row.front() == '#') continue;
    const auto cells = csvCells(row);
    if (std::exchange(header, false)) {
      headings = cells.size();
      for (const std::string_view column : list->columns) {
        const auto at = std::find(cells.begin(), cells.end(), column);
        order.push_back(at == cells.end() ? std::string::npos : static_cast<std::size_t>(at - cells.begin()));
      }
      if (order.front() == std::string::npos)
        return {{{},
                 fmt::format("{}: line {}: heading \"{}\" is missing", file, line, list->columns.front()),
                 {}}};
      continue;
    }
    if (++rows > stockRowsMost) {
      problems.push_back({{},
                          fmt::format("{}: line {}: more than {} rows; the rest are ignored", file, line,
                                      digits(stockRowsMost, 1)),
                          {}});
      break;
    }
    if (cells.size() > headings &&
        std::any_of(cells.begin() + static_cast<std::ptrdiff_t>(headings), cells.end(),
                    [](const std::string& cell) { return !cell.empty(); })) {
      if (problems.size() < 100)
        problems.push_back(
            {{},
             fmt::format("{}: line {}: {} cells under {} headings; enclose a text with a comma in "
                         "quotes",
                         file, line, cells.size(), headings),
             {}});
      continue;
    }
    std::vector<std::string> ordered;
    for (const std::size_t at : order) ordered.push_back(at < cells.size() ? cells[at] : std::string());
    if (const auto done = put(fresh, file, ordered, origin, false, index); !done && problems.size() < 100)
      problems.push_back(
          {done.error().place, fmt::format("{}: line {}: {}", file, line, done.error().what), {}});
  }
  stock = laidOver(stock, fresh);
  return problems;
}

std::string writeStockFile(const Stock& stock, std::string_view file) {
  std::string text;
  for (const StockList& list : lists())
    if (list.file == file) {
      std::vector<std::string> headings(list.columns.begin(), list.columns.end());
      text = csvLine(headings) + "\n";
    }
  for (std::size_t i = 0; i < stockSize(stock, file); ++i) text += csvLine(stockRow(stock, file, i)) + "\n";
  return text;
}

const Stock& shippedStock() {
  static const Stock stock = [] {
    Stock s;
    for (const StockList& list : lists()) {
      ensure(!shippedStock(list.file).empty(), "a built-in catalogue file is missing");
      const auto problems = readStockFile(s, list.file, shippedStock(list.file), Origin::shipped);
      ensure(problems.empty(), problems.empty() ? "" : problems.front().what.c_str());
    }
    readItems(s);
    return s;
  }();
  return stock;
}

Stock readOwnStock(const std::filesystem::path& folder, std::vector<Problem>* problems) {
  Stock own;
  for (const StockList& list : lists()) {
    std::ifstream in(folder / std::string(list.file), std::ios::binary);
    if (!in) continue;
    std::error_code error;
    const auto size = std::filesystem::is_regular_file(folder / std::string(list.file), error)
                          ? std::filesystem::file_size(folder / std::string(list.file), error)
                          : stockBytesMost + 1;
    if (size > stockBytesMost) {
      if (problems)
        problems->push_back({{},
                             fmt::format("{}: not a regular file of at most {} MiB",
                                         (folder / std::string(list.file)).string(), stockBytesMost >> 20),
                             {}});
      continue;
    }
    std::ostringstream text;
    text << in.rdbuf();
    auto found = readStockFile(own, list.file, text.str(), Origin::own);
    if (problems) problems->insert(problems->end(), found.begin(), found.end());
  }
  return own;
}

Result<bool> writeOwnStock(const Stock& stock, const std::filesystem::path& folder) {
  std::error_code error;
  std::filesystem::create_directories(folder, error);
  for (const StockList& list : lists()) {
    const auto file = folder / std::string(list.file);
    if (stockSize(stock, list.file) == 0) {
      std::filesystem::remove(file, error);
      continue;
    }
    if (auto done = writeWhole(file, writeStockFile(stock, list.file)); !done) return done;
  }
  return true;
}

}  // namespace conduit
