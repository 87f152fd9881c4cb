// The cases of a model: states in which the same network is looked at, side by side. Each is a list of
// differences from another; the drawing is the first and the root of all.
#pragma once

#include <span>
#include <string>
#include <vector>

#include "network/overlay.h"

namespace conduit {

/// Number of a case within its model, stable through edits; 0 is the drawing.
using CaseId = std::uint32_t;
inline constexpr CaseId drawingCase = 0, noCase = 0xffffffff;

struct Case {
  CaseId id = drawingCase;
  std::string name;
  CaseId parent = drawingCase;  // what it differs from; of the drawing: itself
  Values about{};               // see caseFields; the drawing's hours stand with the costs
  Overlay differs{};            // empty for the drawing
  std::string extra{};          // keys of the file that this version does not know, as JSON text
  friend bool operator==(const Case&, const Case&) = default;
};

class CaseSet {
 public:
  Case drawing{.name = "Base case"};
  std::vector<Case> others;  // as they stand side by side

  [[nodiscard]] const Case* find(CaseId id) const;
  [[nodiscard]] Case* find(CaseId id);
  [[nodiscard]] const Case* byName(std::string_view name) const;  // without regard to capitals
  // "Base case" and "As drawn" are the drawing where no other case is called so.
  [[nodiscard]] std::size_t count() const { return others.size() + 1; }
  /// Every case, the drawing first.
  [[nodiscard]] std::vector<CaseId> ids() const;
  /// From the drawing (left out) down to the case itself. A ring of parents ends where it closes.
  [[nodiscard]] std::vector<const Case*> chain(CaseId id) const;
  /// Whether `id` is `above` or derives from it.
  [[nodiscard]] bool derives(CaseId id, CaseId above) const;
  /// All that differs from the drawing.
  [[nodiscard]] Overlay whole(CaseId id) const;
  [[nodiscard]] std::size_t bytes() const;  // roughly, for undo's memory
  friend bool operator==(const CaseSet&, const CaseSet&) = default;
};

/// What can be said of a case beside its differences: hours in a year, remark, whether it counts for sizing
/// and is issued on the sheet.
[[nodiscard]] std::span<const Field> caseFields();
namespace cases {
inline constexpr std::string_view hours = "hours in a year", remark = "remark", counts = "counts for sizing",
                                  issued = "on the sheet";
}  // namespace cases

/// Whether a case counts for sizing (yes unless said otherwise), or is issued on the sheet.
[[nodiscard]] bool flagOf(const Case& which, std::string_view key);

}  // namespace conduit
