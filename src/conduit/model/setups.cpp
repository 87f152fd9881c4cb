#include "model/setups.h"

#include <algorithm>

namespace conduit {

bool Followed::isGone(Id id) const { return std::binary_search(gone.begin(), gone.end(), id); }

Followed followed(const Network& before, const Network& after) {
  Followed what{before, after, {}, {}};
  after.eachApart(before, [&](Id id) {
    const Element *a = before.find(id), *b = after.find(id);
    if (a && b && a->name != b->name) what.renamed[{a->part->key, a->name}] = b->name;
    if (a && (!b || a->part != b->part)) what.gone.push_back(id);
  });
  for (Id id = after.bound(); id < before.bound(); ++id)
    if (before.find(id)) what.gone.push_back(id);
  std::sort(what.gone.begin(), what.gone.end());
  return what;
}

void Setups::follow(const Followed& what) {
  const auto now = all_;
  for (const auto& [key, setup] : now) setup->follow(what, *this);
}

std::size_t Setups::bytesApart(const Setups& other) const {
  std::size_t bytes = 0;
  for (const auto& [key, setup] : all_)
    if (const auto was = other.all_.find(key);
        was == other.all_.end() || (was->second != setup && !setup->same(*was->second)))
      bytes += setup->bytes();
  return bytes;
}

bool operator==(const Setups& a, const Setups& b) {
  return std::equal(
      a.all_.begin(), a.all_.end(), b.all_.begin(), b.all_.end(), [](const auto& one, const auto& other) {
        return one.first == other.first && (one.second == other.second || one.second->same(*other.second));
      });
}

}  // namespace conduit
