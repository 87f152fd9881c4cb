// The results of a sweep as a file: of the whole, or of one part of it on one machine; and many parts put
// together again.
#pragma once

#include <map>

#include "cases/sweep.h"
#include "say/table_cell.h"

namespace conduit {

/// What was solved, without the model it was solved for.
struct SweepRecord {
  std::string signature;  // of the model and of what is varied and watched: parts of one sweep have the same
  std::string inCase;
  std::size_t count = 0, part = 1, parts = 1;  // points of the whole; which of how many parts this is
  std::vector<std::string> columns;            // what is varied, in words
  std::vector<std::string> watched, units;     // in words; the unit each is shown in
  std::vector<double> factor, offset;          // SI = shown · factor + offset
  std::map<std::size_t, std::vector<std::string>> texts;  // of each point, from 0: the values varied
  std::map<std::size_t, SweepPoint> points;
};

[[nodiscard]] SweepRecord recordOf(const Model& model, const Sweep& sweep, const SweepResult& result,
                                   const SweepOptions& options);
/// JSON, a line a point; numbers with all their digits, so that a part read again has the same bits.
[[nodiscard]] std::string writeSweep(const SweepRecord& record);
[[nodiscard]] Result<SweepRecord> readSweep(std::string_view json);

/// Parts of one sweep in any order, some of them perhaps run twice. The Problem names what is not of this
/// sweep, and parts that differ in a point both have.
[[nodiscard]] Result<SweepRecord> gather(std::span<const SweepRecord> parts);
/// Parts (from 1) of which points are missing or ended in a fault, to be run again.
[[nodiscard]] std::vector<std::size_t> unfinished(const SweepRecord& record, std::size_t parts);
/// As tableOf a sweep.
[[nodiscard]] TableLines tableOf(const SweepRecord& record);

}  // namespace conduit
