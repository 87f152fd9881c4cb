// What there is to choose from: sizes of a range, lines that would rather be of one size.
#pragma once

#include "model/offered_sizes.h"
#include "model/sizing_setup.h"

namespace conduit {

/// "ASME B36.10M 40 from 2 to 10 for Mains" read. The Problem says what the stock has not (the standard with
/// such a schedule, a size in it), or that the first size is the larger.
[[nodiscard]] Result<SizeRange> rangeFrom(const std::string& text, const Stock& stock);

/// Pipes from an element's end on, past equipment, until something branches off, feeds, draws or lifts.
[[nodiscard]] std::vector<Id> pipesFrom(const Network& network, Id start, Id point);
/// Lines that are mostly laid of one size: the suction and the discharge of each pump, both sides of each
/// exchanger, lines one after another with nothing leaving between. Those that are tied already are left out.
[[nodiscard]] std::vector<TiedLines> tiesOffered(const Network& network,
                                                 std::span<const TiedLines> tied = {});

/// The pipes on the way with the fewest elements between two points, in its order; empty where there is none.
[[nodiscard]] std::vector<Id> linesAlong(const Network& network, Id from, Id to);

}  // namespace conduit
