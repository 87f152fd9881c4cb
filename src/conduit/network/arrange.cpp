#include "network/arrange.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>

#include "network/put.h"

namespace conduit {
namespace {

using Refused = tl::unexpected<Problem>;

Result<Edited> nothing(const char* what) {
  return Refused(Problem{{}, fmt::format("select at least two things to {}", what), {}});
}

struct Extent {
  double west = 1e300, east = -1e300, south = 1e300, north = -1e300;
};
Extent extentOf(const Network& network, std::span<const Id> ids) {
  Extent x;
  for (const Id id : ids) {
    const Spot s = network.at(id).at;
    x.west = std::min(x.west, s.x), x.east = std::max(x.east, s.x), x.south = std::min(x.south, s.y),
    x.north = std::max(x.north, s.y);
  }
  return x;
}

// Each to where `place` puts it.
template <class Place>
Network placed(const Network& network, const std::vector<Id>& moved, Place place) {
  std::vector<Spot> to;
  to.reserve(moved.size());
  for (const Id id : moved) to.push_back(place(network.at(id).at));
  return moveTo(network, moved, to);
}

}  // namespace

bool toScale(const Network& network) {
  const auto* word = network.job().text("drawing");
  return !word || *word == "to scale";
}

double drawnLength_m(const Network& network, const Element& pipe) {
  const Element &a = network.at(pipe.ends[0]), &b = network.at(pipe.ends[1]);
  const auto za = givenSi(a.values, "height"), zb = givenSi(b.values, "height");
  return std::max(0.01, std::hypot(a.at.x - b.at.x, a.at.y - b.at.y, za && zb ? *zb - *za : 0.0));
}

std::vector<Id> movedBy(const Network& network, std::span<const Id> ids) {
  std::set<Id> moved;
  for (const Id id : ids) {
    const Element* e = network.find(id);
    if (!e || id == jobId) continue;
    if (e->part->ends == Ends::self || e->part->ends == Ends::many || e->part->ends == Ends::free)
      moved.insert(id);
    moved.insert(e->ends.begin(), e->ends.end());
  }
  return {moved.begin(), moved.end()};
}

Network moveTo(const Network& network, std::span<const Id> moved, std::span<const Spot> to) {
  Draft draft(network);
  std::vector<Id> followers;
  if (toScale(network) && moved.size() < network.count()) {
    std::vector<char> moves(network.bound(), 0);
    for (const Id id : moved) moves[id] = 1;
    network.each([&](Id id, const Element& e) {
      if (!e.part->geometry || e.ends.size() != 2 || !(moves[e.ends[0]] || moves[e.ends[1]])) return;
      const auto length = givenSi(e.values, "length");
      if (length && std::abs(*length - drawnLength_m(network, e)) <= 0.0051) followers.push_back(id);
    });
  }
  for (std::size_t i = 0; i < moved.size(); ++i) draft.move(moved[i], to[i]);
  for (const Id id : followers) {
    const double drawn = drawnLength_m(draft.network(), draft.network().at(id));
    if (std::abs(drawn - *givenSi(network.at(id).values, "length")) > 0.0051)
      draft.values(id).set(findField(*network.at(id).part, "length")->key, metresGiven(drawn));
  }
  return std::move(draft).finish();
}

Result<Edited> lineUp(const Network& network, std::span<const Id> ids, LineUp how) {
  const auto moved = movedBy(network, ids);
  if (moved.size() < 2) return nothing("line up");
  const Extent x = extentOf(network, moved);
  double meanX = 0, meanY = 0;
  for (const Id id : moved)
    meanX += network.at(id).at.x / static_cast<double>(moved.size()),
        meanY += network.at(id).at.y / static_cast<double>(moved.size());
  return Edited{fmt::format("Line up {} points", moved.size()), placed(network, moved, [&](Spot s) {
                  switch (how) {
                    case LineUp::left: s.x = x.west; break;
                    case LineUp::right: s.x = x.east; break;
                    case LineUp::top: s.y = x.north; break;
                    case LineUp::bottom: s.y = x.south; break;
                    case LineUp::middleAcross: s.y = meanY; break;
                    case LineUp::middleUpright: s.x = meanX; break;
                  }
                  return s;
                })};
}

Result<Edited> spaceEvenly(const Network& network, std::span<const Id> ids, Direction along) {
  auto moved = movedBy(network, ids);
  if (moved.size() < 3) return Refused(Problem{{}, "select at least three things to space evenly", {}});
  auto of = [&](Id id) { return along == Direction::across ? network.at(id).at.x : network.at(id).at.y; };
  std::stable_sort(moved.begin(), moved.end(), [&](Id a, Id b) { return of(a) < of(b); });
  const double from = of(moved.front()),
               step = (of(moved.back()) - from) / static_cast<double>(moved.size() - 1);
  std::vector<Spot> to;
  for (std::size_t i = 0; i < moved.size(); ++i) {
    Spot s = network.at(moved[i]).at;
    (along == Direction::across ? s.x : s.y) = from + step * static_cast<double>(i);
    to.push_back(s);
  }
  return Edited{fmt::format("Space {} points evenly", moved.size()), moveTo(network, moved, to)};
}

Result<Edited> mirror(const Network& network, std::span<const Id> ids, Direction how) {
  const auto moved = movedBy(network, ids);
  if (moved.size() < 2) return nothing("mirror");
  const Extent x = extentOf(network, moved);
  return Edited{fmt::format("Mirror {} points", moved.size()), placed(network, moved, [&](Spot s) {
                  return how == Direction::across ? Spot{x.west + x.east - s.x, s.y}
                                                  : Spot{s.x, x.south + x.north - s.y};
                })};
}

Result<Edited> quarterTurn(const Network& network, std::span<const Id> ids, int turns) {
  const auto moved = movedBy(network, ids);
  if (moved.size() < 2) return nothing("turn");
  const Extent x = extentOf(network, moved);
  const double cx = (x.west + x.east) / 2, cy = (x.south + x.north) / 2;
  return Edited{fmt::format("Turn {} points", moved.size()), placed(network, moved, [&](Spot s) {
                  for (int i = 0; i < ((turns % 4) + 4) % 4; ++i) s = {cx - (s.y - cy), cy + (s.x - cx)};
                  return s;
                })};
}

}  // namespace conduit
