// Newton's method on flows and heads together, for one set of device states.
#pragma once

#include <functional>
#include <span>
#include <stop_token>

#include "solve/factor.h"
#include "solve/solution.h"
#include "solve/sparse_lu.h"
#include "solve/system.h"

namespace conduit {

/// `flowing` follows its law (a barring link may be held open or pressed shut softly), `acting` keeps its
/// held head or is choked, `shut` passes nothing, `limiting` passes the most it may.
enum class LinkState : unsigned char { flowing, acting, shut, limiting };

/// Flows, heads and states; the unknowns of the solver and where a solution starts from.
struct Iterate {
  std::vector<double> flow_m3s;    // by link
  std::vector<double> head_m;      // by solver node, fixed ones too
  std::vector<LinkState> state;    // by link
  std::vector<double> inflow_m3s;  // by free quantity, of those that are inflows
  /// The flows are only a guess: the first step then takes each law's secant through nothing in place of its
  /// slope, as the linear theory method does (Wood and Charles, J. Hydraulics Div. ASCE 98, 1972, 1157),
  /// which forgets the guess; Newton's own step would carry half of it on.
  bool guessed = false;
};

/// Which links follow their law.
[[nodiscard]] inline std::vector<char> flowing(const Iterate& x) {
  std::vector<char> by;
  by.reserve(x.state.size());
  for (const LinkState state : x.state) by.push_back(state == LinkState::flowing);
  return by;
}

struct Residuals {
  double head_m = 0.0;     // greatest, over links that follow a law
  double mass_m3s = 0.0;   // greatest
  double massShare = 0.0;  // greatest of mass residual over that node's throughput
  double headTolerance_m = 1e-7;
};

/// Times of the parts of the work, s.
struct StageTimes {
  double order = 0, laws = 0, factor = 0;
};

/// Flow of a choked link under the heads at its ends, in the direction of `q`, its slope by the head
/// upstream.
struct Choked {
  double flow_m3s = 0.0, slope_m2s = 0.0;
  bool forward = true;
};
[[nodiscard]] Choked choked(const Choke& choke, double q_m3s, double headFrom_m, double headTo_m);

/// What is wanted of an answer besides its laws: a number that must come to nothing, and how it follows the
/// unknowns.
class Relation {
 public:
  struct Terms {
    double miss = 0.0;                                   // in a scale in which 1e-7 is nothing
    std::vector<std::pair<std::size_t, double>> byFlow;  // link, d miss / d flow
    std::vector<std::pair<int, double>> byHead;          // node, d miss / d head
  };
  virtual ~Relation() = default;
  [[nodiscard]] virtual Terms at(const Iterate& x) const = 0;
  virtual void spare(double miss) = 0;
};

/// A quantity set free so that a relation may hold in its place: the flow of a link, whatever its law; a
/// known head; what flows in at a free node.
struct Free {
  enum class Kind { flow, head, inflow } kind = Kind::flow;
  std::size_t link = 0;
  int node = -1;
  const Relation* relation = nullptr;
};

class Newton {
 public:
  /// Flow below which a node's mass residual is not held against its throughput: this, m3/s, or this share of
  /// the greatest throughput of any node, whichever is more (the rounding of great flows is felt in small
  /// ones).
  static constexpr double smallestFlow_m3s = 1e-7, smallestShare = 1e-4;
  static constexpr double headTolerance_m = 1e-7, massTolerance = 1e-9;
  enum class Mode { soft, exact };
  enum class End {
    converged,
    stalled,
    notDefinite,
    cutOff,  // a piece that no head is joined to has flows that cannot balance
    broken,  // off, as whoever watched wished
    stopped
  };

  explicit Newton(const System& system) : Newton(system, {}) {}
  /// With the factor of an earlier one for the same graph; an empty one is made from scratch.
  Newton(const System& system, Factor factor);
  [[nodiscard]] Factor takeFactor() && { return std::move(factor_); }

  /// The flows of a moderate velocity, heads midway: a start that needs no guess.
  [[nodiscard]] Iterate coldStart() const;

  /// Iterates to convergence. Soft: barring links have a stiff law backward instead of shutting, shut ones a
  /// stiff law both ways, so that the matrix stays definite and the whole has one minimum. Exact: shut links
  /// are gone, pieces left hanging are pinned at a base node (`hanging` lists their nodes). `enough_m`: a
  /// head residual with which the answer will do, above the tolerance (0: none); the balance may be as rough.
  /// `breakOff` is asked after each step, with what it led to in `x` and `residuals`; true: no more of them.
  End run(Iterate& x, Mode mode, std::stop_token stop, double enough_m = 0.0,
          const std::function<bool()>& breakOff = {});

  /// As at the start of an exact run: who is shut passes nothing, `hanging` is marked again. Balances
  /// nothing.
  void takeStates(Iterate& x) { prepareStates(x, Mode::exact); }

  /// The same by two loops, slower and surer where devices act: with the flows of acting devices kept the
  /// rest has one minimum, which `run` finds; outside, those few flows are corrected until every acting
  /// device has its relation.
  End runNested(Iterate& x, Mode mode, std::stop_token stop);

  /// The soft run where many links stand near their bounds: first with a mild law past them, then a stiffer
  /// one, each from the answer of the last, so that a step is not cut short at every bound it meets.
  End runEased(Iterate& x, std::stop_token stop, double enough_m);

  /// A small change of what is given, link or node by number.
  struct Change {
    std::vector<std::pair<std::size_t, double>> drop;   // of a link's loss at its flow, m
    std::vector<std::pair<std::size_t, double>> held;   // of the head an acting link holds, m
    std::vector<std::pair<std::size_t, double>> limit;  // of the flow a limiting link lets pass, m3/s
    std::vector<std::pair<int, double>> head;           // of a fixed node, m
    std::vector<std::pair<int, double>> outflow;        // of a free node, m3/s
  };
  /// Linearises about an answer, for `respond`. False when the matrix is not definite or the acting devices
  /// are at odds.
  [[nodiscard]] bool linearise(Iterate& x, Mode mode);
  /// To first order, what a change does to every head (by node) and flow (by link); after `linearise`.
  void respond(const Iterate& x, const Change& change, std::vector<double>& head_m,
               std::vector<double>& flow_m3s);

  /// Of the flows and heads last looked at: those a run ended with, or was linearised about.
  [[nodiscard]] const Residuals& residuals() const { return last_; }
  [[nodiscard]] int iterations() const { return iterations_; }
  [[nodiscard]] std::size_t factorEntries() const { return factor_.entries(); }
  [[nodiscard]] const std::vector<char>& hanging() const { return hanging_; }
  [[nodiscard]] StageTimes& times() { return times_; }
  /// A loss that a link has besides its law, in the direction from its start to its end, whatever flows; m.
  void setBeside(std::size_t link, double loss_m) {
    beside_.resize(slim_.size());
    beside_[link] = loss_m;
  }
  [[nodiscard]] double beside(std::size_t link) const { return beside_.empty() ? 0.0 : beside_[link]; }
  /// Steps that were made elsewhere for this system count here.
  void countSteps(int steps) { iterations_ += steps; }
  /// Sets quantities free; each brings its relation. The links among them must be marked free in the system.
  void setFree(std::vector<Free> free) { free_ = std::move(free); }
  [[nodiscard]] bool anyFree() const { return !free_.empty(); }
  /// Every step from now on is put down there; null: none.
  void keepRecord(std::vector<StepRecord>* into) { record_ = into; }

 private:
  /// Links whose law is replaced by one relation; their flow has an unknown of its own, bordering the
  /// definite matrix.
  struct ActingGroup {
    int node = -1;  // pinned to its held head; -1: a relation between two heads, or between flow and head,
                    // and the links keep their conductance in the matrix so that it stays definite
    std::vector<std::size_t> links;
    std::vector<double> shares;
    std::vector<std::size_t> beside;  // links that meet the pinned node
    int free = -1;                    // one of the quantities set free, with its relation
    double change_m3s = 0.0;          // of the flow; of a head set free, m
  };
  [[nodiscard]] bool wide() const { return acting_.size() > fewMost && !frozen_; }
  [[nodiscard]] double missOf(const Iterate& x, std::size_t group) const;
  void borderColumns(const Iterate& x);
  bool border(const Iterate& x, std::vector<double>& change, const std::function<double(std::size_t)>& miss);
  bool factorWide(const Iterate& x);
  void solveWide(const Iterate& x, const std::vector<double>& known,
                 const std::function<double(std::size_t)>& miss, std::vector<double>& change);
  void spreadPinned(const std::vector<double>& change, std::span<double> b) const;
  void look(const Iterate& x, Mode mode);
  void ease(double share);
  [[nodiscard]] Loss lossInState(const Iterate& x, std::size_t i, Mode mode);
  void closeNodes();
  static constexpr std::size_t fewMost =
      16;  // dense columns up to that many: measured, the matrix of all is the quicker from there on
  [[nodiscard]] double relation(const Iterate& x, const ActingGroup& group, std::span<const double> change,
                                int column) const;
  void prepareStates(Iterate& x, Mode mode);
  bool step(const Iterate& x);
  bool drawBack(Iterate& x);

  /// What the inner loops need of a link, close together.
  struct Slim {
    const Law* law;
    int from, to, slot;  // slot: in the factor, -1 when an end is fixed
    bool bounded;        // bars backflow or lets pass no more than so much
  };
  /// What they gather at a node: what is left of its balance, what passes through it, what the links'
  /// residuals push into it, its place on the diagonal.
  struct Sum {
    double mass = 0.0, throughput = 0.0, push = 0.0, diagonal = 0.0;
  };

  const System& s_;
  std::vector<Slim> slim_;
  Factor factor_;
  int iterations_ = 0, runs_ = 0;
  std::vector<StepRecord>* record_ = nullptr;
  std::vector<double> beside_;  // by link; empty where nothing is lost besides the laws
  double ease_ = 1.0;           // share of the full stiffness past a bound
  bool frozen_ = false;         // the flows of acting devices are kept
  bool anyPinned_ = false;
  bool pockets_ = false;  // some nodes have no head to stand on, whatever the states
  std::vector<double> drop_, across_, memory_, stiff_, conductance_, direction_;  // by link
  std::vector<Sum> sum_;                                                          // by node
  std::vector<double> rhs_;
  Residuals last_;
  std::vector<char> pinned_, hanging_;
  std::vector<int> actingGroup_;
  std::vector<ActingGroup> acting_;
  std::vector<Free> free_;
  std::vector<Relation::Terms> terms_;  // by free quantity, of what was last looked at
  std::vector<double> deltaHead_;
  std::vector<std::vector<double>> borderHeads_,
      borderMatrix_;     // what a unit of each acting flow does; the small system
  SparseLu wideFactor_;  // of the whole, where there are many of them
  std::vector<SparseLu::Entry> entries_;
  std::vector<char> wasZero_;  // nodes that nothing but an acting device joins
  StageTimes times_;
};

}  // namespace conduit
