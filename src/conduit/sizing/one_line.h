// One line (or several of one size): what each size of the standard would do there, each solved in the whole
// network in every case that counts; and the exact bore for something wanted.
#pragma once

#include "sizing/judge.h"

namespace conduit {

struct LineSize {
  const PipeSize* size = nullptr;
  bool now = false;
  SizingVerdict verdict;  // of the whole network, all else as drawn
  // Of the first line in the case looked at; empty where it does not balance there.
  std::optional<double> velocity_ms, reynolds, loss_m, gradient, endPressure_pa;
  std::optional<double> leastMargin_m;  // of NPSH, over all pumps of that case
  std::optional<DutyMet>
      leastDelivery;        // the taker, over all cases, that gets the least share of what it has
  bool breaksMore = false;  // a limit that the present size meets, or one further than that breaks it
};

struct OneLine {
  std::vector<Id> lines;
  std::vector<LineSize> sizes;          // by rising bore
  std::vector<LineSize> folded;         // that nobody would lay: users starve, or at many times the cost
  std::optional<std::size_t> cheapest;  // of those that break nothing more
  std::optional<EconomicBore> economic;
  std::string whyNoEconomic;
};
/// The bore of least cost of a line at the flow an answer of the case `in` gives it, with the sizes of its
/// own standard and schedule; or why there is none.
struct EconomicHere {
  std::optional<EconomicBore> bore;
  std::string why;
  Id pump = noId;             // that lifts the line
  double upkeepFactor = 1.0;  // by which upkeep makes the pipe dearer
};
[[nodiscard]] EconomicHere economicAt(const Model& model, CaseId in, const Network& network,
                                      const Solution& answer, Id line, const Stock& stock,
                                      std::span<const PipeSize* const> sizes = {});

/// What a size would do at a flow that stays as it is: velocity, m/s, and loss per metre with its fittings.
struct SizeAtFlow {
  double velocity_ms = 0.0, gradient = 0.0;
};
[[nodiscard]] std::optional<SizeAtFlow> sizeAtFlow(const Element& pipe, const Setting& setting,
                                                   const PipeSize& size, double flow_m3s);

/// In the case `in`; the sizes are those of the options' ranges, else of the line's own standard and
/// schedule.
[[nodiscard]] Result<OneLine> sizesOfLine(const Model& model, CaseId in, std::vector<Id> lines,
                                          const SizingOptions& options,
                                          const std::shared_ptr<const Stock>& stock, const UnitSet& units,
                                          JobOptions jobs = {});

/// What a bore is wanted for, as typed: "velocity 1.5 m/s" of the line itself, "N-3 pressure 2 bar".
struct BoreGoal {
  Id element = noId;
  std::string outcome;
  Given wanted{};
};
/// The Problem says which part of the text is not understood.
[[nodiscard]] Result<BoreGoal> boreGoal(const std::string& text, const Network& network, Id line,
                                        const UnitSet& units);

/// The bore at which an outcome of an element is what is wanted: found by solving, as when it is given and
/// the bore is to be found. With the stock sizes of the line's standard on both sides.
struct ExactBore {
  double bore_m = 0.0;
  const PipeSize* below = nullptr;
  const PipeSize* above = nullptr;
};
[[nodiscard]] Result<ExactBore> exactBore(const Network& network, Id line, Id element,
                                          std::string_view outcome, const Given& wanted,
                                          const std::shared_ptr<const Stock>& stock, const UnitSet& units,
                                          std::stop_token stop = {});

}  // namespace conduit
