// Where something comes to nothing between two places, by halving: the one home of it. The same middles in
// the same order on every machine.
//
//   const auto at = halved(low, high, {.times = 60}, [&](double x) { return drop(x) > wanted; });
#pragma once

#include <cmath>
#include <optional>
#include <type_traits>

namespace conduit {

struct Halving {
  int times = 60;
  double within = 0.0;  // ends once the two are no farther apart
};

/// The middle of what is left between `from` and `to` (either may be the greater). `before(x)`: x lies on the
/// side of `from`. It may give an optional; empty ends it without an answer.
template <class Before>
[[nodiscard]] auto halved(double from, double to, Halving how, const Before& before) {
  constexpr bool mayFail = !std::is_same_v<std::invoke_result_t<Before, double>, bool>;
  using Answer = std::conditional_t<mayFail, std::optional<double>, double>;
  for (int k = 0; k < how.times && std::abs(to - from) > how.within; ++k) {
    const double middle = (from + to) / 2;
    const auto side = before(middle);
    if constexpr (mayFail) {
      if (!side) return Answer();
      (*side ? from : to) = middle;
    } else {
      (side ? from : to) = middle;
    }
  }
  return Answer((from + to) / 2);
}

}  // namespace conduit
