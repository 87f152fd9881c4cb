// A take-off laid along a line: what only loses head stays in the pipe; a device or a change of bore ends the
// pipe there, and the rest goes on behind it.
#pragma once

#include "network/edits.h"
#include "parts/take_off.h"

namespace conduit {

/// Gives `pipe` the take-off. Where a device or a change of bore stands in it, the pipe is split properly: it
/// keeps the pieces before, then come the device and a further pipe with the same size, roughness, C and
/// rating. Heights follow the rises from the start; the far end stays joined where it was. The Problem names
/// the word that cannot be read.
[[nodiscard]] Result<Edited> layTakeOff(const Network& network, Id pipe, std::string_view text,
                                        const Stock& stock, const UnitSet* units);

/// The same in a draft that goes on.
[[nodiscard]] Result<bool> layInto(Draft& draft, Id pipe, std::string_view text, const Stock& stock,
                                   const UnitSet* units);

/// Lines of "name: take-off", one for each pipe; all or none.
[[nodiscard]] Result<Edited> layTakeOffs(const Network& network, std::string_view lines, const Stock& stock,
                                         const UnitSet* units);
/// True for a text of such lines.
[[nodiscard]] bool isTakeOffLines(std::string_view text);

/// What a pipe's take-off comes to.
struct ReadBack {
  double length_m = 0.0, rise_m = 0.0, k = 0.0;
  double equivalent_m =
      0.0;  // of the fittings, as straight pipe in complete turbulence, with "Le" and the allowance
  std::optional<double> bore_m, mass_kg;
  [[nodiscard]] std::string words(const UnitSet& units) const;
};
/// `bore_m` of the pipe (changes of bore within the take-off count from where they stand).
[[nodiscard]] ReadBack readBack(const TakeOff& takeOff, std::optional<double> bore_m,
                                std::optional<double> mass_kgm, const Stock& stock);

}  // namespace conduit
