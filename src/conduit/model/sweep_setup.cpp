#include "model/sweep_setup.h"

namespace conduit {

void SweepSetup::follow(const Followed& what) {
  for (std::string* words : {&vary, &varyToo, &drawn, &drawnToo})
    for (const auto& [was, is] : what.renamed)
      if (words->starts_with(was.second + " ")) {
        *words = is + words->substr(was.second.size());
        break;
      }
}

}  // namespace conduit
