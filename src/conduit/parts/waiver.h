// Checks that the engineer says do not apply, each with the reason that is kept and printed.
//
//   "not applicable": "NPSH margin: flooded suction, 4 m; Pressure rating: checked by the piping contractor"
#pragma once

#include <string>
#include <vector>

#include "fields/field.h"
#include "parts/check.h"

namespace conduit {

/// The field of job, service and elements that says them.
inline constexpr std::string_view waivedKey = "not applicable";

struct Waiver {
  std::string_view check;  // a label of checkTable
  std::string why;
};
/// Those that can be read.
[[nodiscard]] std::vector<Waiver> waiversIn(std::string_view text);
/// Why the text cannot be used; empty when it can.
[[nodiscard]] std::string waiverFault(std::string_view text);
/// The checks that carry those labels.
[[nodiscard]] CheckSet checksIn(std::string_view text);

[[nodiscard]] constexpr Field waivedField(
    std::string_view help = "checks that do not apply here, each with its reason") {
  Field f = text(waivedKey, help);
  f.fault = waiverFault;
  return f;
}

}  // namespace conduit
