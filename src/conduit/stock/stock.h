// Catalogue values: pipe sizes, fittings, roughness. Filled by exchange/ from the files in stock/; here they are plain data.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace conduit {

struct PipeSize {
  std::string standard;  // "ASME B36.10M"
  std::string nominal;   // NPS "4", dn "110"
  std::string schedule;  // "40", "SDR 11", "C40"
  double outside_m = 0.0, wall_m = 0.0, bore_m = 0.0;
  std::string source;
  [[nodiscard]] std::string name() const { return standard + " " + nominal + " " + schedule; }
};

/// A fitting has a fixed K, or an equivalent length in bores whose K is that times the friction factor of complete
/// turbulence in clean steel of its bore (Crane TP-410, 1988).
struct Fitting {
  std::string word;  // as typed in a take-off: "elbow"
  std::string description;
  std::optional<double> k, boresLong;
  std::string source;
  [[nodiscard]] double kAt(double bore_m) const;
};

struct RoughnessEntry {
  std::string material, condition;
  double low_m = 0.0, typical_m = 0.0, high_m = 0.0;
  std::string source;
};

struct Stock {
  std::vector<PipeSize> pipes;
  std::vector<Fitting> fittings;
  std::vector<RoughnessEntry> roughness;
  [[nodiscard]] const Fitting* fitting(std::string_view word) const;
  /// By its name, blanks and case apart: "ASME B36.10M 4 40", "asme b36.10m 4 sch 40".
  [[nodiscard]] const PipeSize* pipe(std::string_view name) const;
};

/// Friction factor of complete turbulence in clean commercial steel, ε = 0.0457 mm (Crane TP-410, 1988, and Moody 1944):
/// f_T = 0.25 / lg²(ε/(3.7 D)).
[[nodiscard]] double completeTurbulence(double bore_m);

}  // namespace conduit
