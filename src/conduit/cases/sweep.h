// One case solved for one value after another of one or two of its givens, or for the rows of a table.
//
//   auto vary = readVary("B-1 speed", "2600 rpm to 2980 rpm in 20", network, stock, units);
//   Sweep sweep{.in = night, .columns = {*vary}, .watched = {margin}};
//   SweepResult r = runSweep(model, sweep, stock, {.units = units});
//
// Every point starts from its case's own answer and never from its neighbour's: points may be solved in any
// order, by any number of threads or machines (of one type), and give the same bits.
#pragma once

#include "cases/balance.h"
#include "cases/watch.h"
#include "model/watched.h"

namespace conduit {

/// A given that is varied: its texts, as they would be typed, one after another.
struct Vary {
  Id element = noId;
  std::string key;  // of a field; or an outcome that is given, when `outcome`
  bool outcome = false;
  std::vector<std::string> texts;
  std::vector<double> si;  // of each, where it is a number; empty else
  std::string words;       // "B-1 speed"
  Measure measure = Measure::number;
  bool quantity = false;
};

/// "B-1 speed is varied twice", of the first that is; empty where none is.
[[nodiscard]] std::string variedTwice(std::span<const Vary> columns);

/// "B-1 speed", "Gun 1 given pressure", "job temperature"; and its values: "2600 rpm to 2980 rpm in 20" (that
/// many steps, one more value), "100 mm, 125 mm, 150 mm", "sizes ASME B36.10M 40" (of a standard, and a
/// schedule if one is named; "from 2 to 8" by their names). At most 100,000 values.
[[nodiscard]] Result<Vary> readVary(std::string_view what, std::string_view values, const Network& network,
                                    const Stock& stock, const UnitSet& units);
inline constexpr std::size_t valuesMost = 100'000, pointsMost = 10'000'000;

/// `columns` vary each by itself where `rows` is false (the first slowest), and together, row by row, where
/// it is true: then all have the same number of texts. An empty text leaves the given as it is in the case.
struct Sweep {
  CaseId in = drawingCase;
  std::vector<Vary> columns;
  bool rows = false;
  std::vector<Watched> watched;
  [[nodiscard]] std::size_t points() const;
  /// Which text of each column point `i` has.
  [[nodiscard]] std::vector<std::size_t> at(std::size_t i) const;
};

/// The columns of a table, as its headings name them ("Gun 1 open", "job temperature [°C]"); every row a
/// point. Headings may name a unit for bare numbers. The Problem names the column or the row.
[[nodiscard]] Result<std::vector<Vary>> readColumns(std::span<const std::string> headings,
                                                    std::span<const std::vector<std::string>> rows,
                                                    const Network& network, const UnitSet& units);

/// One point solved.
struct SweepPoint {
  enum class End { missing, solved, cannotBalance, badValue, fault } end = End::missing;
  std::vector<double> si;             // what is watched; NaN where nothing determines it
  std::vector<unsigned char> broken;  // whether it breaks its limit there
  std::uint32_t limitsBroken = 0;     // of the whole network
  bool onPaperOnly = false;
  std::string why;  // where it is not solved
  friend bool operator==(const SweepPoint& a, const SweepPoint& b);
};

struct SweepOptions {
  UnitSet units = UnitSet::siWater();
  JobOptions jobs;
  std::size_t part = 1, parts = 1;  // points i with i mod parts = part − 1 alone
};

struct SweepResult {
  std::vector<SweepPoint> points;  // all of the sweep; those of other parts, or after a stop, are missing
  std::size_t solved = 0;          // however they ended
  std::string problem;             // the case itself cannot be balanced: nothing was begun
};
[[nodiscard]] SweepResult runSweep(const Model& model, const Sweep& sweep,
                                   const std::shared_ptr<const Stock>& stock,
                                   const SweepOptions& options = {});

/// Stretches of a sweep of one column in which all limits are kept (or, with its place in the list, those of
/// one watched outcome), as pairs of its values (SI), joined halfway to where they are not. Only of
/// quantities.
[[nodiscard]] std::vector<std::pair<double, double>> keptBetween(const Sweep& sweep,
                                                                 const SweepResult& result,
                                                                 std::optional<std::size_t> watched = {});

}  // namespace conduit
