// A linear programme of the package, kept as long as it is used.
#pragma once

#include <glpk.h>

#include <memory>

namespace conduit {

struct EndOfProgramme {
  void operator()(glp_prob* p) const { glp_delete_prob(p); }
};
using Programme = std::unique_ptr<glp_prob, EndOfProgramme>;

/// An empty one that says nothing on the terminal. The package keeps some memory for every thread that uses
/// it, which is given back when the thread ends.
[[nodiscard]] Programme emptyProgramme();

}  // namespace conduit
