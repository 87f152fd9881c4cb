// A pipe as it is read off an isometric: straight pieces, rises and fittings in their order.
//
//   12.4  elbow  3.1 up  elbow  gate  2x elbow  8 tee-run  K 2.5
//
// A number is a length (m unless a unit follows), "up" or "down" after it makes it a rise; a word is a fitting of the
// stock; "2x" counts; "K 2.5" is a loss of the engineer's own.
#pragma once

#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <vector>

#include "quantity/parse.h"
#include "stock/stock.h"

namespace conduit {

struct Piece {
  std::string word;       // "straight", "up", "down", "K" or the fitting's word
  double length_m = 0.0;  // of a straight piece or a rise
  int count = 1;
  double ownK = 0.0;                 // of "K"
  const Fitting* fitting = nullptr;  // of a fitting
  [[nodiscard]] double k(double bore_m) const { return count * (fitting ? fitting->kAt(bore_m) : ownK); }
};

struct TakeOff {
  std::vector<Piece> pieces;
  [[nodiscard]] double length_m() const;
  [[nodiscard]] double rise_m() const;
  [[nodiscard]] double k(double bore_m) const;
};

[[nodiscard]] tl::expected<TakeOff, ParseError> parseTakeOff(std::string_view text, const Stock& stock);

}  // namespace conduit
