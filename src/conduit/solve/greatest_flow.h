// The greatest flow from one node of a graph to another. A packaged one (Boost.Graph) would bring a library
// of headers for these lines, and its flows are counted exactly: here what is left of an arc below a
// tolerance is none.
#pragma once

#include <algorithm>
#include <deque>
#include <vector>

#include "solve/index.h"

namespace conduit {

/// Greatest flow on a graph by shortest augmenting paths (Edmonds and Karp 1972).
class GreatestFlow {
 public:
  explicit GreatestFlow(int nodes) : out_(u(nodes)) {}
  void arc(int a, int b, double most) {
    out_[u(a)].push_back(static_cast<int>(arcs_.size()));
    arcs_.push_back({b, most});
    out_[u(b)].push_back(static_cast<int>(arcs_.size()));
    arcs_.push_back({a, 0.0});
  }
  double push(int source, int sink, double tolerance) {
    double total = 0.0;
    for (;;) {
      via_.assign(out_.size(), -1);
      std::deque<int> queue{source};
      via_[u(source)] = -2;
      while (!queue.empty() && via_[u(sink)] == -1) {
        const int n = queue.front();
        queue.pop_front();
        for (const int a : out_[u(n)])
          if (arcs_[u(a)].left > tolerance && via_[u(arcs_[u(a)].to)] == -1) {
            via_[u(arcs_[u(a)].to)] = a;
            queue.push_back(arcs_[u(a)].to);
          }
      }
      if (via_[u(sink)] == -1) return total;
      double most = 1e300;
      for (int n = sink; n != source; n = arcs_[u(via_[u(n)] ^ 1)].to)
        most = std::min(most, arcs_[u(via_[u(n)])].left);
      for (int n = sink; n != source; n = arcs_[u(via_[u(n)] ^ 1)].to) {
        arcs_[u(via_[u(n)])].left -= most;
        arcs_[u(via_[u(n)] ^ 1)].left += most;
      }
      total += most;
    }
  }
  [[nodiscard]] bool reached(int node) const { return via_[u(node)] != -1; }

 private:
  struct Arc {
    int to;
    double left;
  };
  std::vector<std::vector<int>> out_;
  std::vector<Arc> arcs_;
  std::vector<int> via_;
};

}  // namespace conduit
