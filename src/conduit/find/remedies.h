// What an engineer would try where the pressure falls too far: each solved on a copy before it is offered,
// with what it would give.
#pragma once

#include <stop_token>

#include "solve/solve.h"

namespace conduit {

/// For a point whose absolute pressure is below the vapour pressure (or below nothing): a wider size of the
/// line that loses most on the way to it, the point (or the device it belongs to) lower, less flow drawn
/// behind it. Only what fixes that point and makes nothing else impossible that was not. Empty for any other
/// place, where nothing does, or when stopped.
[[nodiscard]] std::vector<Remedy> remediesForLowPressure(const Network& network, const Solution& solution,
                                                         const Stock* stock, const UnitSet& units, Id point,
                                                         std::stop_token stop = {});

/// For a pump whose network stands above its head at no flow: more speed (to its limit, else the rated one),
/// more head where its duty is given, the level it lifts to lower. Only what makes it pass water and makes
/// nothing else impossible.
[[nodiscard]] std::vector<Remedy> remediesForDeadHead(const Network& network, const Solution& solution,
                                                      const Stock* stock, const UnitSet& units, Id pump,
                                                      std::stop_token stop = {});

/// Puts such remedies into the first of these findings that they are for.
void addTriedRemedies(std::vector<Finding>& findings, const Network& network, const Solution& solution,
                      const Stock* stock, const UnitSet& units, std::stop_token stop = {});

}  // namespace conduit
