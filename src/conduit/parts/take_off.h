// A pipe as it is read off an isometric: straight pieces, rises, fittings, changes of bore and devices in
// their order. The grammar, with examples, is docs/take-off.md.
//
//   12.4  elbow  3.1 up  elbow  gate  2x elbow  8 tee-run  K 2.5  bore 80 mm  check  4 m
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <vector>

#include "quantity/parse.h"
#include "say/say.h"
#include "stock/stock.h"

namespace conduit {

struct Part;

/// `bore` and `device` end one pipe and begin the next; all others belong to the pipe they stand in.
enum class PieceKind { straight, up, down, fitting, ownK, equivalent, allowance, bore, device };

struct Piece {
  PieceKind kind = PieceKind::straight;
  int count = 1;
  std::string word;   // of a fitting or device; "straight", "up", "down", "K", "Le", "+", "bore" for the rest
  std::string typed;  // number, size or given as it was typed: "12.4", "8 ft", "80 mm"
  double value = 0.0;  // m of a length or bore, K, share of an allowance
  const Fitting* fitting = nullptr;
  const Part* device = nullptr;
  std::size_t at = 0, length = 0;  // bytes of the text it was read from
  [[nodiscard]] double length_m() const {
    return kind == PieceKind::straight || kind == PieceKind::up || kind == PieceKind::down ? count * value
                                                                                           : 0.0;
  }
  [[nodiscard]] double k(double bore_m) const {
    return kind == PieceKind::fitting ? count * fitting->kAt(bore_m)
           : kind == PieceKind::ownK  ? count * value
                                      : 0.0;
  }
  [[nodiscard]] bool breaks() const { return kind == PieceKind::bore || kind == PieceKind::device; }
  /// As it would be typed.
  [[nodiscard]] std::string text() const;
};

struct TakeOff {
  std::vector<Piece> pieces;
  [[nodiscard]] double length_m() const;
  [[nodiscard]] double rise_m() const;
  [[nodiscard]] double k(double bore_m) const;
  /// Sum of the k₁ of fittings by two or three coefficients: they lose k₁/Re more than their K.
  [[nodiscard]] double perReynolds() const;
  /// Length to be added for friction: "Le" pieces and the allowance on the straight length.
  [[nodiscard]] double added_m() const;
  /// True when the line is to be split: a device or a change of bore stands in it.
  [[nodiscard]] bool breaks() const;
  /// Reads back to the same pieces.
  [[nodiscard]] std::string text() const;
};

/// Reads a take-off. The error names the word and its place in the text (`at`, bytes).
[[nodiscard]] tl::expected<TakeOff, ParseError> parseTakeOff(std::string_view text, const Stock& stock);

struct TakeOffRead {
  tl::expected<TakeOff, ParseError> read;
};
/// As parseTakeOff, for a text that an element holds: read once and kept with the stock. Never null.
[[nodiscard]] std::shared_ptr<const TakeOffRead> takeOffRead(std::string_view text, const Stock& stock);
/// Why a field of that key cannot hold it: it cannot be read, or a device or change of bore stands in it.
[[nodiscard]] std::optional<Problem> takeOffUnfit(std::string_view key, std::string_view text,
                                                  const Stock& stock);

/// The part before and after `share` (0…1) of the length; a straight piece in which the cut falls is divided.
[[nodiscard]] std::pair<TakeOff, TakeOff> cutAt(const TakeOff& takeOff, double share);

/// What could stand at the cursor: words that go on from the letters before it, each with what it is.
struct Completion {
  std::string word, meaning;
};
[[nodiscard]] std::vector<Completion> completionsFor(std::string_view beforeCursor, const Stock& stock);
/// The letters before the cursor that a completion takes the place of.
[[nodiscard]] std::string_view wordAtEnd(std::string_view beforeCursor);

/// The part a take-off word means, such as "check" or "reducing-valve"; null when it is none.
[[nodiscard]] const Part* deviceOf(std::string_view word);

}  // namespace conduit
