// What one solve leaves for the next: the network as the solver saw it and the pattern of its factor. A
// saving of time and nothing else; an answer is the same with and without it, to the last bit.
#pragma once

#include <memory>
#include <mutex>

#include "solve/factor.h"
#include "solve/system.h"

namespace conduit {

struct Kept {
  Network network;
  const Stock* stock = nullptr;
  std::vector<double> widest_m;
  System system;
  Factor factor;
};

/// Where it waits, shared by the copies of a solution: whoever takes it first has it, the next sets up anew.
class KeptPlace {
 public:
  [[nodiscard]] std::unique_ptr<Kept> take() {
    const std::lock_guard lock(mutex_);
    return std::move(kept_);
  }
  void put(std::unique_ptr<Kept> kept) {
    const std::lock_guard lock(mutex_);
    kept_ = std::move(kept);
  }

 private:
  std::mutex mutex_;
  std::unique_ptr<Kept> kept_;
};

}  // namespace conduit
