#include "model/watched.h"

namespace conduit {

std::string_view overWord(Watched::Over over) {
  static constexpr std::string_view words[] = {"", "least", "greatest", "sum", "mean"};
  return words[static_cast<std::size_t>(over)];
}

void WatchedResults::follow(const Followed& what) {
  if (what.gone.empty()) return;
  std::erase_if(all, [&](Watched& w) {
    if (w.elements.empty()) return false;
    std::erase_if(w.elements, [&](Id id) {
      const Element* e = what.after.find(id);
      return !e || !findOutcome(*e->part, w.outcome);
    });
    return w.elements.empty();
  });
}

}  // namespace conduit
