// What is swept, as it is typed: one given over its values, perhaps a second; and which of what is watched is
// drawn, as typed too.
#pragma once

#include "model/setups.h"

namespace conduit {

struct SweepSetup {
  static constexpr std::string_view study = "sweep";
  std::string vary, over, varyToo, overToo, drawn, drawnToo;
  [[nodiscard]] bool empty() const { return *this == SweepSetup{}; }
  [[nodiscard]] std::size_t bytes() const { return sizeof(SweepSetup); }
  /// Names that it begins with are those of now.
  void follow(const Followed& what);
  friend bool operator==(const SweepSetup&, const SweepSetup&) = default;
};

}  // namespace conduit
