// The register of limits: every limit that is in force, who says it, what it holds, and its worst value over
// all cases.
#pragma once

#include "cases/balance.h"
#include "say/page.h"

namespace conduit {

/// One limit of one number and side, said by one source, with all the elements it holds.
struct RegisterRow {
  CheckId check{};
  bool most = false;   // at most; else at least
  double limit = 0.0;  // SI; where it differs by element (a choking drop), that of the worst
  LimitFrom from = LimitFrom::law;
  std::string service;  // of `LimitFrom::service`
  Severity severity = Severity::broken;
  std::size_t elements = 0;    // that it holds
  const Part* kind = nullptr;  // of all of them; null: of more than one kind
  Id worstAt = noId;
  CaseId worstIn = drawingCase;
  double worst = 0.0;   // SI
  double beyond = 0.0;  // of the worst, as Check::beyond; less than nothing: to spare
  [[nodiscard]] bool broken() const { return most ? worst > limit : worst < limit; }
};

/// Those not met first, then what is outside a preferred range, then by how little is to spare. Notes are
/// left out, and what no number says.
/// Empty when it is stopped.
[[nodiscard]] std::vector<RegisterRow> limitRegister(std::span<const CaseAnswerPtr> answers,
                                                     std::stop_token stop = {});
/// "job", "default", "service Mains", "own", "catalogue", "standard", "physical".
[[nodiscard]] std::string sourceSaid(const RegisterRow& row);
/// "Velocity ≤ 3.00 m/s".
[[nodiscard]] std::string limitSaid(const RegisterRow& row, const UnitSet& units);
/// Its worst value, with its unit.
[[nodiscard]] std::string worstSaid(const RegisterRow& row, const UnitSet& units);
/// What is to spare: "12 %" of the limit; of a level, whose datum is anywhere, "0.40 m". "not met",
/// "outside".
[[nodiscard]] std::string marginSaid(const RegisterRow& row, const UnitSet& units);
/// What the limit holds: the one element's name, or "28 pipes", "12 elements".
[[nodiscard]] std::string heldSaid(const RegisterRow& row, const Model& model);
[[nodiscard]] Page::Table registerTable(std::span<const RegisterRow> rows, const Model& model,
                                        const UnitSet& units);

}  // namespace conduit
