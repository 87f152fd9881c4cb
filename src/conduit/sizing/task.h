// What a sizing is given: lines with the sizes there are for them, cases, costs.
//
//   SizingTask task = *sizingTask(model, {.objective = Objective::laid}, stock, units);
#pragma once

#include "model/sizing_setup.h"
#include "sizing/prices.h"

namespace conduit {

enum class Objective { wholeLife, laid, mass };

struct SizingOptions {
  Objective objective = Objective::wholeLife;
  std::vector<SizeRange> ranges{};      // none: each line's own standard and schedule
  std::vector<Id> kept{};               // lines left as they are
  std::vector<std::vector<Id>> tied{};  // lines that share one size
  bool pairs = true;                    // flow and return are tied too, see flowAndReturn
  std::vector<Id> alone{};              // those that are not
  std::uint64_t seed = 1;
  std::size_t trials = 0;   // searches from a beginning of their own; 0: see trialsOf
  double seconds = 0.0;     // trials not done by then do not count; 0: all trials
  double tolerance = 0.02;  // less of a delivery as drawn than this share of it is enough
  std::vector<DeliveryAsked> deliveries{};
  bool equalVolume = true;  // energy for the volume that is delivered now
};

[[nodiscard]] SizingOptions optionsOf(const SizingSetup& setup);

/// In place of a size: the line is not laid. It costs nothing, and nothing passes.
[[nodiscard]] const PipeSize& notLaid();
/// Gives lines a size, or lays them not.
void giveSize(Values& line, const PipeSize& size);
void giveSize(Draft& draft, Id line, const PipeSize& size);

/// Lines of one size, and the sizes there are for them by rising bore; the first may be `notLaid`.
struct SizingRow {
  std::vector<Id> lines;
  std::vector<const PipeSize*> sizes;
  std::optional<std::size_t> now;  // the size they have, where all have one of these
  double length_m = 0.0;
  std::vector<double> laid;  // of each size, what all the lines cost to lay
  bool pair = false;         // flow and return, tied since nobody says otherwise
};
/// What a metre of a line costs to lay in a size: the size, and the class it is laid in.
[[nodiscard]] double costOfMetre(const SizingSetup& setup, Id line, const PipeSize& size);

struct SizingTask {
  Model model;
  std::vector<CaseId> cases;      // that count, the drawing first where it counts
  std::vector<CaseId> alsoRun{};  // that do not: they run their hours, and need not keep limits
  std::vector<SizingRow> rows;
  std::vector<std::pair<Id, std::string>> left;  // lines that are not sized, and why
  std::vector<std::string>
      leftOut{};  // sizes that are not offered: the catalogue has no cost (or mass) of them
  SizingOptions options;
  Prices prices;
  std::shared_ptr<const Stock> stock;
  UnitSet units = UnitSet::siWater();
};
/// How many searches are made: as many as the options say, else 60 and 12 for each row, 320 at most.
[[nodiscard]] std::size_t trialsOf(const SizingTask& task);
/// The Problem says why nothing can be sized: no line has sizes to choose from, a cost or mass is missing.
[[nodiscard]] Result<SizingTask> sizingTask(const Model& model, const SizingOptions& options,
                                            const std::shared_ptr<const Stock>& stock, const UnitSet& units);

using SizeChoice = std::vector<std::uint16_t>;  // of each row, a place in its sizes

}  // namespace conduit
