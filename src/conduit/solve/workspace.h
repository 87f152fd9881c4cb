// What one solve leaves for the next: the network as the solver saw it and the pattern of its factor. A
// saving of time and nothing else; an answer is the same with and without it, to the last bit.
//
//   Workspace space;
//   for (const Network& n : variants) answers.push_back(solve(n, stock, {.startFrom = &base, .workspace =
//   &space}));
#pragma once

#include <memory>
#include <vector>

#include "solve/factor.h"
#include "solve/system.h"

namespace conduit {

struct Solution;
struct ShutOff;
struct SolveOptions;

/// The caller's, for one solve at a time; some 600 bytes a link. A network that differs in numbers only from
/// the one it was last used for is spared setting up. The stock of the last solve must live as long.
class Workspace {
 public:
  [[nodiscard]] bool empty() const { return kept_ == nullptr; }
  void clear() { kept_.reset(); }

 private:
  friend Solution solve(const Network&, const Stock*, const SolveOptions&);
  struct Kept {
    Network network;
    const Stock* stock = nullptr;
    std::vector<double> widest_m;
    System system;
    Factor factor;
    std::shared_ptr<const ShutOff> shutOff;  // of the last answer
  };
  std::unique_ptr<Kept> kept_;
};

}  // namespace conduit
