// What a sizing asks of a case besides its limits: that users keep what they get, supplies their part, pumps
// their region and rated speed, branches their design flow.
#pragma once

#include <map>

#include "limits/deliveries.h"
#include "sizing/task.h"

namespace conduit {

/// What a taker must have in a case that counts, and who says so.
struct Duty {
  enum class By {
    own,       // it has a least flow of its own
    given,     // its flow is given: it is delivered or there is no answer
    drawn,     // what it takes as drawn, less the tolerance
    loosened,  // likewise, less a share of its own
    dropped,   // it may take anything
    unknown    // nobody has said what it needs, and the drawing does not: `why`
  };
  CaseId id = drawingCase;
  Id taker = noId;
  double now_m3s = 0.0;    // as drawn (with its branches balanced)
  double least_m3s = 0.0;  // where something is asked
  By by = By::drawn;
  std::string why{};
};
/// What a taker gets in a case: as drawn, and with a choice.
struct DutyMet {
  Duty duty;
  std::optional<double> then_m3s;
  [[nodiscard]] double share() const {
    return duty.now_m3s > 0 ? then_m3s.value_or(0.0) / duty.now_m3s : 1.0;
  }
};

class CaseDuties {
 public:
  CaseDuties() = default;
  /// From a case as it is solved with the present sizes. `branches`: design flows, m³/s, by valve; of those
  /// in `balanced` the answer has that flow, whatever their opening. A case that does not count asks nothing.
  CaseDuties(const SizingTask& task, CaseId id, bool counts, const Network& network, const Solution& answer,
             const std::map<Id, double>& branches, const std::map<Id, double>& balanced);
  /// Something is asked of the element.
  [[nodiscard]] bool of(Id id) const { return held_.contains(id); }
  /// Puts what is asked of it, held against a reading.
  void check(Id id, const Element& element, const Reading& reading, Checks& checks) const;
  [[nodiscard]] const std::vector<Duty>& all() const { return all_; }
  /// What takers get together with the present sizes, m³/s, and whether some of them might get another flow.
  [[nodiscard]] double taken_m3s() const { return taken_m3s_; }
  [[nodiscard]] bool freeTakers() const { return freeTakers_; }

 private:
  struct Held {
    std::optional<double> least_m3s;  // delivered
    int role = 0;                     // 1: it gives, −1: it takes
    bool region = false;
    std::optional<double> fastest_perS, branch_m3s;
    bool balanced = false;  // the branch
  };
  void readTakers(const SizingTask& task, CaseId id, const Network& network, const Solution& answer,
                  std::span<const Delivery> now, const std::string& unsaid);
  void readPumps(const Network& network, const Solution& answer);
  std::map<Id, Held> held_;
  std::vector<Duty> all_;
  double taken_m3s_ = 0.0;
  bool freeTakers_ = false;
};

}  // namespace conduit
