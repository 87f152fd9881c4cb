// Sizes and walls as an engineer says them: "4 in sch 40", "DN 100", "110 PE SDR 11", "commercial steel".
#pragma once

#include "stock/stock.h"

namespace conduit {

/// The sizes that a text can mean, the likeliest first; none when it says no size. A nominal size is read as
/// inches ("4 in", "NPS 4"), as DN or as the outside diameter of tubes and plastics, a schedule by its word
/// or number, a material or standard by the beginning of its words. What is left open goes by `like` (its
/// standard and schedule), then by the usual schedule of each standard.
[[nodiscard]] std::vector<const PipeSize*> sizesSaid(std::string_view text, const Stock& stock,
                                                     const PipeSize* like = nullptr);

/// As it would be said: "4 in sch 40", "110 polyethylene SDR 11".
[[nodiscard]] std::string spoken(const PipeSize& size);

/// Entries whose words begin with those of the text, the likeliest first (new before aged).
[[nodiscard]] std::vector<const RoughnessEntry*> wallsSaid(std::string_view text, const Stock& stock);
[[nodiscard]] std::vector<const CoefficientEntry*> coefficientsSaid(std::string_view text,
                                                                    const Stock& stock);
/// What is usual for the material of a size ("carbon steel"); null when the stock has none.
[[nodiscard]] const RoughnessEntry* wallOf(std::string_view material, const Stock& stock);
[[nodiscard]] const CoefficientEntry* coefficientOf(std::string_view material, const Stock& stock);
/// Manning's n of a clean wall: 0.012 welded steel, 0.010 smooth brass, copper and plastics, 0.013 cement
/// mortar (Chow, Open-Channel Hydraulics, 1959, table 5-6, normal values; plastics as its smoothest walls).
[[nodiscard]] double manningOf(std::string_view material);

}  // namespace conduit
