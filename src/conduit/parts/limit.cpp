#include "parts/limit.h"

#include <algorithm>

#include "parts/waiver.h"

namespace conduit {

const LimitRow* limitOfField(std::string_view key) {
  const auto row =
      std::find_if(limitTable.begin(), limitTable.end(), [&](const LimitRow& r) { return r.key == key; });
  return row == limitTable.end() ? nullptr : &*row;
}

void Limits::read(const Values& values, const Medium& medium, LimitFrom from) {
  // Few entries, and seldom one of a limit among them.
  for (const Values::Entry& e : values.entries()) {
    const auto* given = std::get_if<Given>(&e.value);
    if (!given || e.released) continue;
    for (std::size_t i = 0; i < sharedLimits; ++i)
      if (limitTable[i].key == e.key)
        set(limitTable[i].id, resolve(*given, measureOf(limitTable[i].id), medium), from);
  }
  if (const auto* joints = values.get<std::string>(jointsKey)) threaded = *joints == jointKinds[1];
  if (const auto* words = values.get<std::string>(waivedKey)) waived |= checksIn(*words);
}

Limit ownLimit(const Values& values, LimitId id, const Medium& medium) {
  const Given* given = values.get<Given>(limitRow(id).key);
  if (!given) return {};
  return {resolve(*given, measureOf(id), medium), LimitFrom::own};
}

Limit ownOrUsual(const Values& values, std::span<const Field> fields, LimitId id, const Medium& medium) {
  if (const Limit own = ownLimit(values, id, medium)) return own;
  for (const Field& f : fields)
    if (f.key == limitRow(id).key) return {f.fallback, LimitFrom::fallback};
  return {};
}

}  // namespace conduit
