// Finds what was released so that what was given in its place comes true: fields of any kind, outcomes of any
// kind, by a few ways that need no code for each.
#pragma once

#include "solve/goals.h"
#include "solve/solve.h"
#include "solve/tees.h"

namespace conduit {

/// The words for devices that cannot agree.
[[nodiscard]] Problem contradiction(const StatesFound& found, const Network& network, const System& system);

/// The words for pumps that cannot start, each with the duty it could keep up once it ran.
[[nodiscard]] std::vector<Problem> couldRun(const StatesFound& found, const Network& network,
                                            const System& system, const UnitSet& units);

/// Three ways, in this order.
/// 1. A pair that decides itself (the flow of an element and one of its own fields) is given as a flow; a
/// field that a law
///    reads, or a head, or a flow in, is set free in the network and the outcome wanted put in its place as a
///    relation. One balance then finds all flows and heads at once, whatever the fields were and whatever
///    states their devices began in. Each field is worked out afterwards from its own law.
/// 2. Where an outcome depends on the field itself, or a field changes what neighbours see, or that answer
/// does not hold:
///    Newton's method over the fields outside a balanced network, from several starts, and all over the range
///    of a single one.
/// 3. What is found is judged with its value in place: every inequality of the device, and, where other
/// elements feel the
///    field, the network with the values given.
class Released {
 public:
  Released(const Network& network, const Setting& setting, Wanted wanted, const SolveOptions& options);
  void run(Solution& out);

 private:
  struct Trial {
    std::optional<Network> network;  // with values
    std::unique_ptr<System> system;
    std::vector<std::unique_ptr<Relation>> relations;
    std::unique_ptr<Newton> newton;
    Iterate x;
    StatesFound found;
    Solution solution;
    std::vector<Problem> problems;
    std::vector<double> miss;  // of each goal, in its own scale
    bool good = false;
    [[nodiscard]] double worst() const;
  };
  /// How a field acts: through the law of its one branch, as a head that is known, as a flow in.
  struct Lever {
    Free::Kind kind = Free::Kind::flow;
    bool felt = false;  // by other elements too: what is set into the pipes it meets
  };
  enum class Way { decided, refused, elsewhere };

  [[nodiscard]] Trial attempt(const std::vector<Unknown>& unknowns, const Trial* near,
                              const GivenInstead& instead, const std::vector<Goal>& goals,
                              const Solution* from = nullptr);
  [[nodiscard]] double read(const Goal& goal, const Solution& solution, const Network& network) const;
  void writeResult(Trial& best, const std::vector<Unknown>& unknowns, Solution& out);

  // released_fields.cpp and released_free.cpp
  [[nodiscard]] std::optional<Lever> leverOf(const Unknown& unknown,
                                             const std::vector<EndPlace>& places) const;
  [[nodiscard]] bool hangsOnField(const Goal& goal, const Trial& trial) const;
  [[nodiscard]] bool solveFree(Trial& trial, const std::vector<Unknown>& unknowns, const Solution* from,
                               int steps);
  [[nodiscard]] bool settleFree(Trial& best, std::vector<Unknown>& unknowns, const Solution* from, int steps,
                                bool& felt);
  [[nodiscard]] std::vector<Unknown> scattered(std::vector<Unknown> unknowns, int place) const;
  void raiseLevels(std::vector<Unknown>& unknowns) const;
  [[nodiscard]] Way findFree(Trial& best, std::vector<Unknown>& unknowns);
  [[nodiscard]] std::optional<double> fieldFor(const Trial& trial, const Unknown& unknown) const;
  [[nodiscard]] std::optional<double> heldBy(const Trial& trial, const Branch& branch, const Hold& hold,
                                             double from_m, double to_m) const;
  [[nodiscard]] std::optional<BranchState> stateWith(const Trial& trial, const Unknown& unknown) const;
  [[nodiscard]] bool sharesItsHead(const Trial& trial, const Unknown& unknown) const;
  [[nodiscard]] double netInflow(const Local& local) const;
  [[nodiscard]] double leftOver(const Trial& trial, const Unknown& unknown) const;
  [[nodiscard]] bool settleLocal(Trial& trial, std::vector<Problem>& problems);
  [[nodiscard]] bool confirm(Trial& best, const std::vector<Unknown>& unknowns);

  // released_search.cpp
  [[nodiscard]] std::vector<std::vector<double>> slopes(Trial& trial, const std::vector<Unknown>& unknowns);
  [[nodiscard]] std::optional<std::size_t> idle(std::vector<std::vector<double>> rows,
                                                const std::vector<Unknown>& unknowns) const;
  [[nodiscard]] bool advance(Trial& best, std::vector<Unknown>& unknowns, const std::vector<double>& step,
                             int trials);
  [[nodiscard]] bool search(Trial& best, std::vector<Unknown>& unknowns);
  [[nodiscard]] bool bracket(Trial& best, std::vector<Unknown>& unknowns);
  [[nodiscard]] bool find(Trial& best, std::vector<Unknown>& unknowns);
  [[nodiscard]] std::vector<Problem> beyond(Trial& best, const std::vector<Unknown>& unknowns, bool met);
  /// Another value of the one unknown that meets the one goal too, where the miss at an end of its range says
  /// that there must be one between there and the answer.
  [[nodiscard]] std::optional<double> another(Trial& answer, const Unknown& unknown);

  // released_words.cpp
  [[nodiscard]] Problem decidesNothing(const Unknown& unknown) const;
  [[nodiscard]] Problem withinRange(const Unknown& unknown, const Goal& goal, double value,
                                    double reached) const;
  [[nodiscard]] Problem notFound(Trial& nearest, const std::vector<Unknown>& unknowns, std::size_t worst);
  [[nodiscard]] Problem alsoMetBy(const Unknown& unknown, double other) const;
  [[nodiscard]] Problem outOfReach(const Unknown& unknown, std::optional<double> needed, const Goal& goal,
                                   double atLeast, double atMost);

  [[nodiscard]] bool spent() const { return work_ > 5e9; }

  const Network& network_;
  const Setting& setting_;
  const SolveOptions& options_;
  Wanted wanted_;  // what is left to be found when the local pairs are taken out
  GivenInstead instead_;
  std::vector<Local> local_;
  std::vector<Problem> singular_;  // of an answer that some field does not decide
  std::vector<Problem> kept_;      // what was said of the local pairs before they were searched for
  std::vector<StepRecord> steps_;
  int iterations_ = 0, trials_ = 0;
  double work_ = 0.0;  // counted, in some nanoseconds: what a search of very many fields may take has an end
  bool confirmed_ = false;  // the answer is that of the network with every value given
  std::optional<std::pair<double, double>>
      nearest_;        // value and miss, where a single field comes nearest to its goal
  bool warm_ = false;  // trials begin from the earlier answer
};

/// What an element holds with one field at a trial value.
[[nodiscard]] Values valuesWith(const Element& element, const Stock* stock, const Unknown& unknown,
                                double value);

/// Whether a value lies in the legal range of a field, by no more than the search's own slack beyond.
[[nodiscard]] bool within(const Unknown& unknown, double value);
/// Puts the state of a device whose field was found into the answer and its summary.
void mark(Solution& solution, const Network& network, Id id, BranchState state);

}  // namespace conduit
