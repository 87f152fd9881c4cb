// What is made of a liquid of the stock: density, viscosity and vapour pressure at a temperature from the few
// figures its entry holds.
#pragma once

#include <string>

#include "quantity/quantity.h"
#include "stock/stock.h"

namespace conduit::stockliquid {

/// Temperatures for which the figures are trusted: 20 K beyond the two at which the viscosity is known.
inline constexpr double beyond_k = 20.0;
[[nodiscard]] double least_c(const LiquidEntry& liquid);
[[nodiscard]] double most_c(const LiquidEntry& liquid);

/// ρ = ρ₁/(1 + β (t − t₁)), β the entry's volume expansion; within 1 % for β (t − t₁) under 0.05.
[[nodiscard]] Density density(const LiquidEntry& liquid, Temperature t);

/// Through the two known points: lg lg(ν + 0.7) linear in lg T where both are at least 2 mm²/s (ASTM D341),
/// else ln ν linear in 1/T (Andrade 1930). Exact at the points; 5 % between, 10 % beyond.
[[nodiscard]] Viscosity viscosity(const LiquidEntry& liquid, Temperature t);

/// Clausius–Clapeyron, ln p linear in 1/T, through the known point and the boiling point under 101.325 kPa (5
/// % between them); where that is not known, with the heat of evaporation of Trouton's rule (88 J/(mol K) at
/// the boiling point), good for hydrocarbons, some 10 % within 30 K of the point. A solution in water: its
/// activity times the vapour pressure of water (where that was worked out on the moles of ions it errs to the
/// high side). Of a Reid vapour pressure the true one by the formulas of AP-42, section 7.1, figures 7.1-13b
/// and 7.1-14b (recalled, to be checked), with a distillation slope of 3.0 for gasoline, 2.5 for naphtha.
/// Nothing where the entry says neither: then it is not known.
[[nodiscard]] AbsolutePressure vapourPressure(const LiquidEntry& liquid, Temperature t);

}  // namespace conduit::stockliquid
