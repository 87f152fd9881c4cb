// Says before solving whether the givens can decide the network, in words, by structure alone.
#pragma once

#include "solve/system.h"

namespace conduit {

/// Pieces that hang together must have a level or pressure, or nothing flowing in them; what is drawn off
/// must be able to arrive the way the one-way devices point. Each problem names its place and the edits that
/// would fix it. Pockets between shut devices are no problem: they stay undetermined.
[[nodiscard]] std::vector<Problem> determinacy(const Network& network, const System& system,
                                               const UnitSet& units);

/// A ring (or a way from one known head to another) along which every flow meets laws that oppose none:
/// nothing limits what runs there. `flow_m3s` and `flowing` by link of an answer. The first such ring, or
/// nothing.
[[nodiscard]] std::optional<Problem> shortCircuit(const Network& network, const System& system,
                                                  std::span<const double> flow_m3s,
                                                  std::span<const char> flowing);

/// Fewest of `links` without all of which what is given could not be met: at least one of them must pass some
/// flow. Empty when it could.
[[nodiscard]] std::vector<std::size_t> flowForcedOn(const System& system, std::vector<std::size_t> links);

}  // namespace conduit
