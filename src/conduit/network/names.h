// Names: the engineer's own pattern for each kind, renumbering along an order, find and replace. Always
// unique; references are by number of element, so they follow by themselves.
#pragma once

#include <span>

#include "network/edits.h"
#include "parts/name_pattern.h"

namespace conduit {

/// The pattern of a kind: from the job's "name patterns", else its prefix and a dash.
[[nodiscard]] NamePattern patternFor(const Network& network, const Part& part);

/// Ids from left to right and top to bottom as one reads, by where they stand; rows are as deep as
/// `rowDepth_m` (0: a twentieth of the extent).
[[nodiscard]] std::vector<Id> readingOrder(const Network& network, std::span<const Id> ids,
                                           double rowDepth_m = 0.0);

/// Renumbers `ordered`, each kind by its own pattern; numbers held by elements outside are passed over.
[[nodiscard]] Result<Edited> renumber(const Network& network, std::span<const Id> ordered);

/// `find` in the names of `ids` becomes `with`. Refused whole if a new name is taken or cannot be one.
[[nodiscard]] Result<Edited> replaceInNames(const Network& network, std::span<const Id> ids,
                                            std::string_view find, std::string_view with);

}  // namespace conduit
