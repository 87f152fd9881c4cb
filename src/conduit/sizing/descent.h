// One descent: mends what is broken, then goes cheaper line by line and pair by pair, each judged by solving.
#pragma once

#include <unordered_map>

#include "sizing/steps.h"

namespace conduit {

class Descent {
 public:
  Descent(const SizingTask& task, Judge& judge, std::size_t lane, std::stop_token stop, std::size_t most)
      : task_(task), judge_(judge), lane_(lane), stop_(std::move(stop)), most_(most) {}
  [[nodiscard]] Judged from(SizeChoice choice);
  [[nodiscard]] std::size_t judged() const { return known_.size(); }

 private:
  struct Hash {
    std::size_t operator()(const SizeChoice& c) const {
      std::size_t h = 1469598103934665603ull;
      for (const std::uint16_t v : c) h = (h ^ v) * 1099511628211ull;
      return h;
    }
  };
  const SizingVerdict& verdict(const SizeChoice& c);
  const SizingVerdict& verdict(const SizeChoice& c, const SizingVerdict& stands);
  [[nodiscard]] bool spent() const { return stop_.stop_requested() || known_.size() > most_; }
  void mend(Judged& at);
  bool singles(Judged& at);
  bool pairs(Judged& at);

  const SizingTask& task_;
  Judge& judge_;
  std::size_t lane_;
  std::stop_token stop_;
  std::size_t most_;
  std::unordered_map<SizeChoice, SizingVerdict, Hash> known_;  // what it has judged it knows
};

}  // namespace conduit
