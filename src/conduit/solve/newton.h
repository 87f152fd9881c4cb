// Newton's method on flows and heads together, for one set of device states.
#pragma once

#include <stop_token>

#include "solve/factor.h"
#include "solve/system.h"

namespace conduit {

/// `flowing` follows its law (a barring link may be held open or pressed shut softly), `acting` keeps its held head or is
/// choked, `shut` passes nothing, `limiting` passes the most it may.
enum class LinkState : unsigned char { flowing, acting, shut, limiting };

/// Flows, heads and states; the unknowns of the solver and where a solution starts from.
struct Iterate {
  std::vector<double> flow_m3s;  // by link
  std::vector<double> head_m;    // by solver node, fixed ones too
  std::vector<LinkState> state;  // by link
};

struct Residuals {
  double head_m = 0.0;     // greatest, over links that follow a law
  double mass_m3s = 0.0;   // greatest
  double massShare = 0.0;  // greatest of mass residual over that node's throughput
  double headTolerance_m = 1e-7;
};

/// Times of the parts of the work, s.
struct StageTimes {
  double setUp = 0, order = 0, law = 0, assembly = 0, factor = 0, solve = 0, other = 0;
};

/// Flow of a choked link under the heads at its ends, in the direction of `q`, its slope by the head upstream.
struct Choked {
  double flow_m3s = 0.0, slope_m2s = 0.0;
  bool forward = true;
};
[[nodiscard]] Choked choked(const Choke& choke, double q_m3s, double headFrom_m, double headTo_m);

class Newton {
 public:
  /// Flow below which a node's mass residual is not held against its throughput: this, m3/s, or this share of the greatest
  /// throughput of any node, whichever is more (the rounding of great flows is felt in small ones).
  static constexpr double smallestFlow_m3s = 1e-7, smallestShare = 1e-4;
  static constexpr double headTolerance_m = 1e-7, massTolerance = 1e-9;
  enum class Mode { soft, exact };
  enum class End { converged, stalled, notDefinite, stopped };

  explicit Newton(const System& system);

  /// The flows of a moderate velocity, heads midway: a start that needs no guess.
  [[nodiscard]] Iterate coldStart() const;

  /// Iterates to convergence. Soft: barring links have a stiff law backward instead of shutting, shut ones a stiff law
  /// both ways, so that the matrix stays definite and the whole has one minimum. Exact: shut links are gone, pieces left
  /// hanging are pinned at a base node (`hanging` lists their nodes).
  /// `enough_m`: a head residual with which the answer will do, above the tolerance (0: none).
  End run(Iterate& x, Mode mode, std::stop_token stop, double enough_m = 0.0);

  /// The same by two loops, slower and surer where devices act: with the flows of acting devices kept the rest has one
  /// minimum, which `run` finds; outside, those few flows are corrected until every acting device has its relation.
  End runNested(Iterate& x, Mode mode, std::stop_token stop);

  [[nodiscard]] Residuals residuals(const Iterate& x);
  [[nodiscard]] int iterations() const { return iterations_; }
  [[nodiscard]] std::size_t factorEntries() const { return factor_.entries(); }
  [[nodiscard]] const std::vector<char>& hanging() const { return hanging_; }
  [[nodiscard]] StageTimes& times() { return times_; }

 private:
  /// Links whose law is replaced by one relation; their flow has an unknown of its own, bordering the definite matrix.
  struct ActingGroup {
    int node = -1;  // pinned to its held head; -1: a relation between two heads, or between flow and head, and the links
                    // keep their conductance in the matrix so that it stays definite
    std::vector<std::size_t> links;
    std::vector<double> shares;
    std::vector<std::size_t> beside;  // links that meet the pinned node
    double change_m3s = 0.0;
  };
  bool border(const Iterate& x, std::vector<double>& b);
  void evaluate(const Iterate& x, Mode mode);
  void prepareStates(Iterate& x, Mode mode);
  bool step(Iterate& x, Mode mode);

  /// What the inner loops need of a link, close together.
  struct Slim {
    int from, to, edge;
    bool bars;
    double flowMost;
  };

  const System& s_;
  std::vector<Slim> slim_;
  Factor factor_;
  int iterations_ = 0;
  bool frozen_ = false;  // the flows of acting devices are kept
  bool anyPinned_ = false;
  bool pockets_ = false;   // some nodes hang on no head, whatever the states
  bool balanced_ = false;  // the flows keep every node's balance, so that the line search may lean on it
  std::vector<double> drop_, slope_, across_, memory_, stiff_, conductance_, mass_, rhs_, newFlow_, throughput_;
  std::vector<char> pinned_, hanging_;
  std::vector<int> actingGroup_;
  std::vector<ActingGroup> acting_;
  std::vector<double> deltaHead_;
  StageTimes times_;
};

}  // namespace conduit
