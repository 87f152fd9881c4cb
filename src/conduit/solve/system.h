// The network as the solver sees it: nodes with one unknown head each, links with one law each, all in plain
// numbers. What the links' laws relate is a potential at the nodes and a conserved flow through the links;
// for a liquid of one density these are the energy head and the volume flow. Here a double carries its unit
// in its name: _m, _m3s.
#pragma once

#include <limits>
#include <map>
#include <memory>
#include <set>
#include <span>
#include <vector>

#include "loss/fitting_k.h"
#include "network/setting.h"

namespace conduit {

/// Which branch of which element.
struct BranchOf {
  Id element = noId;
  int branch = 0;
};

struct Link {
  int from = 0, to = 0;  // solver nodes
  int rawFrom = 0, rawTo = 0;
  const Law* law = nullptr;
  BranchOf of;
  bool bars = false;          // bars backflow
  double noFlowDrop_m = 0.0;  // head lost at no flow: below it a barring link is shut
  double flowMost_m3s = std::numeric_limits<double>::infinity();
  bool holds = false,
       holdsBefore = false;  // keeps the head of node `held`: at most, or at least when `holdsBefore`
  int rawHeld = -1, rawOver = -1, held = -1, over = -1;
  double held_m = 0.0;  // that head, or what it stands over the head of node `over`
  std::optional<Choke> choke;
  bool free = false;  // its flow is whatever a relation elsewhere wants; its law only steers the search
};

/// A branch whose flow is known beforehand: given, or nothing because it is closed.
struct KnownBranch {
  int rawFrom = 0, rawTo = 0;
  double flow_m3s = 0.0;
  bool shut = false;
  BranchOf of;
};

/// A branch without loss: both its ends are one solver node; its flow follows from the balance.
struct Join {
  int rawFrom = 0, rawTo = 0;
  BranchOf of;
};

/// Three pipes at a point, whose losses depend on how the flow is shared between them.
struct TeeAt {
  std::size_t legs[3];  // links; the first is the branch
  int raw = -1;         // the point
  double area_m2[3];
  fittingk::Tee shape;
};

/// Raw nodes are points and vessels as they stand; solver nodes are what is left when joins are merged, the
/// free ones first, in the order of the factorisation.
struct System {
  double altitudeAt_m = 0.0;  // of the setting it was made with: the air depends on it
  int freeCount = 0;
  std::vector<double> fixedHead_m;  // of solver nodes from freeCount on
  std::vector<double> outflow_m3s;  // of solver nodes, what leaves the network there
  std::vector<int> rawToNode;       // -1: plays no part
  std::vector<Id> rawOwner;         // point, or the element a vessel belongs to
  std::vector<double> rawOutflow_m3s;
  std::vector<char> rawHolds;     // a known head: takes or gives what is needed
  std::vector<double> rawHead_m;  // that head
  std::vector<int> pointRaw;      // by Id, -1 where there is no point
  std::vector<int> vesselBegin;   // by Id, first raw node of an element's vessels, -1 if none
  std::vector<Link> links;        // sorted for memory order
  std::vector<KnownBranch> known;
  std::vector<Join> joins;
  std::vector<TeeAt> tees;
  std::vector<Prepared> prepared;                // by Id
  std::vector<std::unique_ptr<const Law>> laws;  // by link, laid out in the order of links
  std::vector<std::pair<int, int>> edges;        // of links between free nodes, in order of `linkEdge`
  std::vector<int> linkEdge;                     // by link, -1 when an end is fixed

  [[nodiscard]] int nodeCount() const { return freeCount + static_cast<int>(fixedHead_m.size()); }
  [[nodiscard]] bool isFree(int node) const { return node < freeCount; }
};

/// Everything that keeps a network from being set up: what elements lack, givens that contradict.
struct SetUp {
  System system;
  std::vector<Problem> problems;
};

/// What is given instead of what the elements themselves say.
struct GivenInstead {
  std::map<Id, double> flows;  // of elements of one branch, m3/s
  std::map<Id, double> heads;  // of points, m; what leaves there is then found
  std::set<Id>
      free;  // elements of one branch whose flow is to be found, whatever their law, bounds and states
  std::set<Id> whole;  // elements of which outcomes are asked: they stay links even without loss
};

/// `widest` as widestBores gives it.
[[nodiscard]] SetUp setUp(const Network& network, const Setting& setting, const std::vector<double>& widest,
                          const GivenInstead& instead = {});

/// Makes of a system that was set up for `before` (with nothing given instead) what setUp would make of
/// `now`, to the last bit, by looking at what changed alone; `widest` follows. False when more changed than
/// numbers: elements come or gone, joined elsewhere, opened or shut, the job; or when something is wrong with
/// a value. The system is then spoilt.
[[nodiscard]] bool refit(System& system, std::vector<double>& widest, const Network& before,
                         const Network& now, const Setting& setting);

}  // namespace conduit
