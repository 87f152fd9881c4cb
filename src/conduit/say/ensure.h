// An always-on check for mistakes of our own. Bad input never comes here: it is a Problem.
#pragma once

#include <stdexcept>
#include <string>

namespace conduit {

/// Thrown by `ensure` alone; caught by the worker and by main alone (exit 4, the model is safe).
struct OwnMistake : std::logic_error {
  using std::logic_error::logic_error;
};

inline void ensure(bool holds, const char* why) {
  if (!holds) throw OwnMistake(std::string("internal fault: ") + why);
}

}  // namespace conduit
