// What is given in place of what is to be found: any outcome for any field that may be released. Which of
// them decide one another by themselves, and whether the rest can be decided at all.
#pragma once

#include "solve/system.h"

namespace conduit {

/// A field that is to be found. Its legal range is the field's; `start` is where the search begins: the value
/// kept, the field's default, or a common size of its measure.
struct Unknown {
  Id element = noId;
  const Field* field = nullptr;
  double start = 0.0, value = 0.0;  // SI
};

/// An outcome that is given, SI.
struct Goal {
  Id element = noId;
  const Outcome* outcome = nullptr;
  double target = 0.0;
};

struct Wanted {
  std::vector<Unknown> unknowns;
  std::vector<Goal> goals;
  [[nodiscard]] bool empty() const { return unknowns.empty() && goals.empty(); }
};

/// Everything that is released and given in a network, in the order of elements; what a part swaps by itself
/// (a tank's level for its outflow) is not among it.
[[nodiscard]] Wanted wantedOf(const Network& network, const Setting& setting);

/// A pair that needs no search: the flow of an element given and one of its own fields found, or the pressure
/// of a point given and its outflow or inflow found.
struct Local {
  Unknown unknown;
  Goal goal;
};
/// Takes the local pairs out of `wanted`. `given` gets their flows and heads.
[[nodiscard]] std::vector<Local> takeLocal(const Network& network, const Setting& setting, Wanted& wanted,
                                           GivenInstead& given);

/// The network with every unknown at its present value.
[[nodiscard]] Network filled(const Network& network, std::span<const Unknown> unknowns);

/// Structure: matches equations with unknowns (augmenting paths over the spanning forest of the network), and
/// speaks of the too tight part (givens of which one must go) and the too loose one (quantities of which one
/// must be given) in the sense of Dulmage and Mendelsohn (Canad. J. Math. 10, 1958, 517).
[[nodiscard]] std::vector<Problem> undecided(const Network& network, const System& system,
                                             const Wanted& wanted, std::size_t offers = 3);

}  // namespace conduit
