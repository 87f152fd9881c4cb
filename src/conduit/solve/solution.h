// What solving answers: every head and flow that is determined, and a Summary that can print itself.
#pragma once

#include <array>
#include <cmath>
#include <cstddef>
#include <memory>
#include <memory_resource>

#include "network/setting.h"

namespace conduit {

enum class Verdict {
  empty,  // nothing to solve yet
  balanced,
  cannotYet,     // too little, too much, or contradicting givens: see problems
  noStates,      // the devices named in problems cannot agree
  notConverged,  // our own failing, said as such
  stopped
};

struct SupplyShare {
  Id element = noId;
  double inflow_m3s = 0.0;  // into the network; negative: out of it
};

/// One line of the summary: name, value, unit ("" where there is none).
struct SummaryRow {
  std::string name, value, unit;
};

struct Summary {
  Verdict verdict = Verdict::empty;
  std::vector<Problem> problems;
  std::vector<Problem> notes;  // of a balanced network, what is worth knowing of the answer as a whole
  int iterations = 0, flips = 0;
  double headResidual_m = 0.0, massResidual_m3s = 0.0, massResidualShare = 0.0, headTolerance_m = 1e-7;
  std::size_t points = 0, elements = 0, unknowns = 0, links = 0, factorEntries = 0, undetermined = 0;
  std::size_t shut = 0, acting = 0;
  std::vector<std::string> states;  // "V-1 acting", of every device that does not simply stand open
  double inflow_m3s = 0.0, outflow_m3s = 0.0;
  std::vector<SupplyShare> shares;  // by Id; their sums are the two above
  bool warm = false;
  bool refitted = false;    // the system of the last solve, with other numbers
  bool overChoked = false;  // a valve would have to pass more than it can: on paper only
  struct {
    double setUp = 0, order = 0, laws = 0, factor = 0, total = 0;
  } seconds;

  [[nodiscard]] bool usable() const { return verdict == Verdict::balanced; }
  /// Sets what an element gives the network on the whole, m³/s, in place of what stood there.
  void setShare(Id element, double inflow_m3s);
  void sumShares();
  /// The balance line: "Balanced: 36.5 L/s in, 36.5 L/s out, largest residual 2e-9 m."
  [[nodiscard]] std::string brief(const UnitSet& units) const;
  [[nodiscard]] std::vector<SummaryRow> rows() const;
  /// Every row in a table of text, for the log and for a report.
  [[nodiscard]] std::string full() const;
};

/// One step of the solver, for the record.
struct StepRecord {
  int run = 0, step = 0;  // which set of states (or trial), which step in it
  double head_m = 0.0, massShare = 0.0;
  double share = 1.0;                               // of the step that was taken
  bool exact = false;                               // shut devices taken out
  std::vector<std::pair<Id, BranchState>> notOpen;  // of the first step of a run: the states it was made with
};

/// A released field that was found, SI.
struct FoundField {
  Id element = noId;
  std::string_view field;
  double value = 0.0;
};

struct ShutOff;

/// Heads and flows by Id; NaN where nothing determines them. Values, so that a solution can be handed between
/// threads.
class Solution {
 public:
  /// Where nothing is solved: every reading is empty.
  [[nodiscard]] static const Solution& none();

  Summary summary;
  Setting setting;

  /// Energy head of a point, m.
  [[nodiscard]] std::optional<double> head(Id point) const;
  [[nodiscard]] std::size_t branchCount(Id element) const;
  [[nodiscard]] BranchReading branch(Id element, std::size_t i) const;
  /// The same as it is told: what creeps where the widest bore at its ends is `bore_m` is at rest.
  [[nodiscard]] BranchReading branchAsRead(Id element, std::size_t i, double bore_m) const;
  /// What flows no more than this in such a bore is at rest, m³/s.
  [[nodiscard]] double stillBelow(double bore_m) const;

  struct BranchValue {
    double flow_m3s = NAN, headFrom_m = NAN, headTo_m = NAN;
    BranchState state = BranchState::open;
  };
  // Filled by solve(); by Id.
  std::vector<double> pointHead_m, heldInflow_m3s;
  std::vector<std::uint32_t> branchBegin, vesselBegin;  // into the flat lists; one more than bound
  std::vector<BranchValue> branches;
  std::vector<double> vesselHead_m;
  std::vector<double> widestBore_m;
  double still_m3s = 0.0;         // what flows less than this is at rest, as far as the balance can tell
  std::vector<FoundField> found;  // by element
  std::vector<StepRecord> steps;  // when a record was asked for
  /// What stands when nothing flows; null where it was not asked for or nothing has a rating.
  std::shared_ptr<const ShutOff> shutOff;
  /// What was found for a released field.
  [[nodiscard]] std::optional<double> foundFor(Id element, std::string_view field) const;
};

/// An element's values with what was found of it standing like a given; kept in `scratch` where they are not
/// its own.
[[nodiscard]] const Values& valuesWithFound(const Element& element, Id id, const Solution& solution,
                                            Values& scratch);

/// Everything a part needs to speak of one solved (or unsolved) element. Holds what the spans of the reading
/// point to.
class ReadingOf {
 public:
  ReadingOf(const Network& network, const Solution& solution, Id id);
  ReadingOf(const ReadingOf&) = delete;
  ReadingOf& operator=(const ReadingOf&) = delete;
  [[nodiscard]] const Reading& operator*() const { return reading_; }
  [[nodiscard]] const Reading* operator->() const { return &reading_; }

 private:
  // Of nearly every element all fits in here, and nothing need be asked of the heap.
  std::array<std::byte, 512> room_;
  std::pmr::monotonic_buffer_resource memory_{room_.data(), room_.size()};
  std::pmr::vector<EndPlace> ends_{&memory_};
  std::pmr::vector<std::string> endNames_{&memory_};
  std::pmr::vector<BranchReading> branches_{&memory_};
  std::pmr::vector<std::optional<double>> vessels_{&memory_};
  Values scratch_;
  Reading reading_;
};

}  // namespace conduit
