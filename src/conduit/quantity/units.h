// One table of units for each kind of quantity; the sets of units a person may read in; and a number as it
// was given.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "quantity/medium.h"
#include "quantity/quantity.h"

namespace conduit {

/// How the number in SI relates to what the field holds. Mass and molar flow, pressures given as a column of
/// the liquid and absolute pressures wait for the liquid and the altitude before they become the field's own
/// quantity.
enum class Basis : unsigned char { direct, mass, molar, column, columnPressure, absolute, gauge };

struct Unit {
  std::string_view symbol;   // as shown: "m³/h"
  std::string_view aliases;  // blank-separated, without superscripts: "m3/h cmh"
  double factor;             // SI = number * factor + offset
  double offset = 0.0;
  Basis basis = Basis::direct;
};

[[nodiscard]] std::span<const Unit> unitsOf(Measure measure);
[[nodiscard]] std::string_view nameOf(Measure measure);  // "flow", "gauge pressure" …

/// A number as the engineer gave it. Nothing is rounded: `typed` goes to the file as it stands.
struct Given {
  double value = 0.0;  // in SI for its basis: m3/s, or kg/s for Basis::mass, kmol/s for Basis::molar, m for
                       // Basis::column …
  Basis basis = Basis::direct;
  std::string typed;  // "250 m3/h"
  friend bool operator==(const Given&, const Given&) = default;
};

/// The given in the field's own SI unit. `measure` is the field's.
[[nodiscard]] double resolve(const Given& given, Measure measure, const Medium& medium);

/// Ready sets: which unit each measure is shown in.
class UnitSet {
 public:
  [[nodiscard]] static std::span<const UnitSet> all();
  [[nodiscard]] static const UnitSet* find(std::string_view name);  // null when there is none of that name
  [[nodiscard]] static const UnitSet& siWater();

  UnitSet(std::string name, std::vector<std::pair<Measure, std::string_view>> choice);
  [[nodiscard]] const std::string& name() const { return name_; }
  [[nodiscard]] const Unit& unitFor(Measure measure) const;
  /// The same set with other units for single quantities: "flow gpm; gauge pressure kPa". What cannot be read
  /// is passed over; see ownUnitsFault.
  [[nodiscard]] UnitSet with(std::string_view own) const;
  friend bool operator==(const UnitSet&, const UnitSet&) = default;

 private:
  std::string name_;
  std::vector<const Unit*> units_;
};

/// Why a text of own units cannot be used ("flow gpm; head ft"); empty when it can.
[[nodiscard]] std::string ownUnitsFault(std::string_view own);

}  // namespace conduit
