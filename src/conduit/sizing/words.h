// What a sizing says in words: the same on the desk, on the sheet and at the command line.
#pragma once

#include "say/page.h"
#include "sizing/search.h"

namespace conduit {

/// "L-1, L-2, L-3, L-4 and 3 more".
[[nodiscard]] std::string linesSaid(const SizingTask& task, const SizingRow& row, std::size_t most = 4);
/// Why a row is not smaller: "a size down: velocity at L-3, Cold night".
[[nodiscard]] std::string governedSaid(const SizingTask& task, const Governed& governed);
/// The same in a table's cell: "Velocity, Cold night" of the row itself, "Pressure Gun 9, Refill",
/// "smallest".
[[nodiscard]] std::string governedShort(const SizingTask& task, const SizingRow& row,
                                        const Governed& governed);
/// What the energy does not stand on: pumps that count with the efficiency of the costs, since they say none;
/// cases that run without counting and have no solution. Else empty.
[[nodiscard]] std::string energySaid(const SizingTask& task, const SizingVerdict& verdict);
/// "12.4 t"; "mass unknown" where the catalogue lacks that of a size.
[[nodiscard]] std::string massSaid(const SizingVerdict& verdict);
/// Sizes that were not offered, and why; empty where there are none.
[[nodiscard]] std::string leftOutSaid(const SizingTask& task);
/// Where rows have the smallest size there is, because no limit asks more of them; empty where there are
/// none. Flows that are free then fall as far as nobody minds.
[[nodiscard]] std::string smallestSaid(const SizingTask& task, const SizingProposal& proposal);
/// "L-3: 120 m of ASME B36.10M 6 40, then 80 m of ASME B36.10M 5 40", seen from the source.
[[nodiscard]] std::string twoSaid(const SizingTask& task, const TwoSizeLine& line);
/// "With lines of two sizes 96 400, 2.1 % less; every limit is kept".
[[nodiscard]] std::string twoSaid(const SizingTask& task, const SizingProposal& proposal);
/// "L-3 a size up would mend Pressure at N-3, Refill, and break Velocity at L-7, Night".
[[nodiscard]] std::string conflictSaid(const SizingTask& task, const SizingProposal& proposal);
/// "Not judged: Pressure rating: 12 lines"; empty where everything could be.
[[nodiscard]] std::string notJudgedSaid(const SizingVerdict& verdict);
/// Of one that keeps its limits: "all limits met", or as far as they could be judged.
[[nodiscard]] std::string_view limitsMetSaid(const SizingVerdict& verdict);
/// "No choice of these sizes keeps every limit, proved: even with the least losses …"; empty where that is
/// not proved.
[[nodiscard]] std::string noneSaid(const SizingProposal& proposal);
/// Why a taker must have so much: "own minimum flow", "present flow less 2 %", "not required".
[[nodiscard]] std::string dutySaid(const SizingTask& task, const Duty& duty);
/// "Least of the present deliveries: Gun 4 98.2 %, Cold night", of a proposal; empty where nobody takes.
[[nodiscard]] std::string worstDeliverySaid(const SizingTask& task, std::span<const DutyMet> delivered);
/// Takers of which nobody has said what they need; empty where there are none.
[[nodiscard]] std::string unknownDeliveriesSaid(const SizingTask& task, std::span<const DutyMet> delivered);
/// By case and taker: now, proposed, share, required, why; `most` rows of them, the worst first.
[[nodiscard]] Page::Table deliveriesTable(const SizingTask& task, std::span<const DutyMet> delivered,
                                          std::size_t most = 100'000);
/// "Hours for the volume delivered now: Cold night 420 → 424 h"; empty where hours stay.
[[nodiscard]] std::string hoursSaid(const SizingTask& task, const SizingVerdict& verdict);
/// "0.46 EUR/m³", or empty where nothing is delivered.
[[nodiscard]] std::string perCubicMetreSaid(const SizingTask& task, const SizingVerdict& verdict);
/// "Not resized with their lines: C-13 (202.7 mm) in L-5"; empty where all follow.
[[nodiscard]] std::string stayingSaid(const SizingTask& task, std::span<const Staying> staying);
/// "Flow and return are of one size: L-1, L-2; L-3, L-4"; empty where none are tied by default.
[[nodiscard]] std::string pairsSaid(const SizingTask& task);
/// "No reducer loss is counted at 3 points where bores change".
[[nodiscard]] std::string notCountedSaid(std::span<const Id> points);
/// Runs that narrow and widen again; empty where none does.
[[nodiscard]] std::string narrowingsSaid(const SizingProposal& proposal);
/// That sums rest on the made-up prices of the shipped catalogue; empty where none does.
[[nodiscard]] std::string madeUpSaid(const SizingTask& task);
/// "least pressure at N-3, Refill".
[[nodiscard]] std::string brokenSaid(const SizingTask& task, const BrokenLimit& broken);

}  // namespace conduit
