// What a choice of sizes costs and whether it keeps every limit, judged by solving the whole network in every
// case that counts; what runs without counting adds its energy.
//
//   Judge judge(task, lanes);
//   SizingVerdict v = judge.evaluate(choice, lane);
#pragma once

#include <map>
#include <set>

#include "cases/balance.h"
#include "limits/not_judged.h"
#include "sizing/duties.h"

namespace conduit {

/// A limit that is broken, in the case where it is most.
struct BrokenLimit {
  CaseId id = drawingCase;
  Id element = noId;
  CheckId check = CheckId::balance;
  std::string what{};
  double by = 0.0;  // how far beyond, as a share of the limit
  [[nodiscard]] std::string label() const { return std::string(labelOf(check)); }
};

struct SizingVerdict {
  bool balanced = false;
  bool stopped = false;                   // not every case was solved to its end
  double laid = 0.0, energy_j = 0.0;      // energy of a year at the wire
  double mass_kg = 0.0;                   // NaN where the catalogue lacks that of a size
  double upkeep = 0.0, energyCost = 0.0;  // over all years
  double pumps = 0.0;                     // installed
  double wholeLife = 0.0;                 // present value
  double plainSum = 0.0;                  // the same without interest
  double objective = 0.0;                 // of what is wanted
  double violation = 0.0;                 // 0: every limit is kept
  std::optional<BrokenLimit> worst;
  bool efficiencyOfCosts = false;       // some pump says none, and counts with that of the costs
  std::vector<CaseId> withoutEnergy{};  // of `alsoRun`, that have no solution: their energy is not known
  std::vector<double> shaft_w{}, energyOf{};         // of all pumps, by case in the order they are judged
  double volume_m3 = 0.0;                            // that takers get in a year; 0 in closed circuits
  std::vector<std::pair<CaseId, double>> hoursOf{};  // s a year that each case runs for it
  std::string notJudged{};  // what applies and could not be judged, counted by check; told with its words
  /// Whole life over all that is delivered in all years; empty where nothing is.
  [[nodiscard]] std::optional<double> perCubicMetre(double years) const {
    return volume_m3 > 0 && years > 0 ? std::optional(wholeLife / (volume_m3 * years)) : std::nullopt;
  }
  [[nodiscard]] bool keeps() const { return balanced && violation <= 0.0; }
  /// Kept before broken, then cheaper; of broken ones the less broken.
  [[nodiscard]] bool betterThan(const SizingVerdict& other) const;
};

/// What a pump takes while it runs.
struct PumpPower {
  double wire_w = 0.0, shaft_w = 0.0;
  bool efficiencyOfCosts = false;  // it says none of its own: it is yet to be chosen
};
[[nodiscard]] PumpPower powerOf(const SizingTask& task, const Element& pump, const Reading& reading);

/// A limit of an element that counts, and by how much it is exceeded (as LimitExcess).
struct LimitReading {
  std::uint16_t key = 0;  // by what is checked, and where on the element
  double by = 0.0;
  bool broken = false;
  const Check* check = nullptr;
};
/// The limits among the checks of one element, by their keys.
void weigh(std::span<const Check> checks, std::vector<LimitReading>& out);

/// What one case says of a choice.
struct CaseVerdict {
  bool balanced = true;  // or need not be
  bool ran = true;       // has a solution
  bool stopped = false;  // was not solved to its end
  double violation = 0.0, energy_j = 0.0, shaft_w = 0.0;
  double taken_m3s = 0.0, hours_s = 0.0;
  std::optional<BrokenLimit> worst;
  bool efficiencyOfCosts = false;
  std::vector<NotJudged> notJudged{};
};

/// A choice as a case solves it.
struct SolvedCase {
  CaseId id;
  bool counts;  // for its limits
  Network network;
  Solution answer;
  std::map<Id, double> passes;  // branches that are balanced: what they pass
};

/// How far a limit is exceeded, as a share of it; less than nothing: that much is to spare.
struct LimitExcess {
  std::uint64_t which = 0;  // case, element and key among its limits
  double by = 0.0;
};

class Judge {
 public:
  /// `lanes` threads may judge at once, each in a lane of its own; `stop` as of stopWith.
  Judge(const SizingTask& task, std::size_t lanes, std::stop_token stop = {});
  /// What is solved from now on ends when this asks for it: a verdict is then no verdict, and says so.
  void stopWith(std::stop_token stop) { stop_ = std::move(stop); }
  [[nodiscard]] const std::stop_token& stop() const { return stop_; }
  /// What is told besides the verdict, where it is wanted.
  struct Told {
    bool words = false;                          // of the limit that is broken most
    std::vector<LimitExcess>* limits = nullptr;  // of every case, in the order of `which`
    std::vector<DutyMet>* deliveries = nullptr;  // of every case, the worst first
  };
  /// Limits and deliveries are empty where a case does not balance.
  [[nodiscard]] SizingVerdict evaluate(const SizeChoice& choice, std::size_t lane, const Told& told);
  [[nodiscard]] SizingVerdict evaluate(const SizeChoice& choice, std::size_t lane, bool words = false) {
    return evaluate(choice, lane, Told{.words = words});
  }
  [[nodiscard]] std::size_t cases() const { return bases_.size(); }
  /// The k-th case alone, in the order they are judged; what is told is put behind what is there.
  [[nodiscard]] CaseVerdict inCase(std::size_t k, const SizeChoice& choice, std::size_t lane,
                                   const Told& told);
  [[nodiscard]] SolvedCase solved(std::size_t k, const SizeChoice& choice, std::size_t lane);
  /// What is wanted least, from what is laid, what runs a year and the greatest power at the shafts.
  [[nodiscard]] double objectiveOf(double laid, double mass_kg, double energy_j, double shaft_w) const;
  /// `LimitExcess::which` of an element's limit in the k-th case judged.
  [[nodiscard]] static std::uint64_t limitOf(std::size_t k, Id id, std::uint16_t key) {
    return (static_cast<std::uint64_t>(k) << 48) + (static_cast<std::uint64_t>(id) << 16) + key;
  }
  /// What the k-th case asks besides the limits of its elements.
  [[nodiscard]] const CaseDuties& dutiesIn(std::size_t k) const { return bases_[k].duties; }
  /// How long the k-th case runs a year, s, where its takers get so much, and how that follows it.
  struct Hours {
    double s = 0.0, more = 0.0;  // s for m3/s more
  };
  [[nodiscard]] Hours hoursAt(std::size_t k, double taken_m3s) const;
  /// What is asked for every taker, by case.
  [[nodiscard]] std::vector<Duty> duties() const;
  /// What a limit is, with its words, in a choice; empty where it has none such.
  [[nodiscard]] std::optional<BrokenLimit> named(std::uint64_t which, const SizeChoice& choice,
                                                 std::size_t lane);
  /// A case has a size of its own for a line, and keeps it.
  [[nodiscard]] bool keepsOwn(CaseId id, Id line) const { return own_.contains({id, line}); }
  /// Of each row the greatest flow over its lines and all cases, m3/s; empty where a case does not balance.
  [[nodiscard]] std::vector<double> greatestFlows(const SizeChoice& choice) const;
  [[nodiscard]] Network network(CaseId id, const SizeChoice& choice) const;
  [[nodiscard]] double costLaid(const SizeChoice& choice) const;

 private:
  [[nodiscard]] Network with(CaseId id, const Network& base, const SizeChoice& choice) const;
  const SizingTask& task_;
  struct CaseBase {
    CaseId id;
    Network network;
    Solution base;  // where solving begins
    double hours_s;
    bool counts;
    std::map<Id, double> passes{};
    CaseDuties duties{};
  };
  void solveBase(CaseBase& g) const;
  [[nodiscard]] SolveOptions solving(const CaseBase& g, bool notes, Workspace* space) const;
  std::vector<CaseBase> bases_;
  std::set<std::pair<CaseId, Id>> own_;         // lines whose size a case has for itself: it keeps it
  std::vector<std::vector<Workspace>> spaces_;  // of each lane, for each case
  std::stop_token stop_;
  double stretch_ = 1.0;  // by how much each case may run longer, so that the year suffices
};

}  // namespace conduit
