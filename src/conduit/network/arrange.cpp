#include "network/arrange.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>

#include "fields/keys.h"
#include "network/put.h"

namespace conduit {
namespace {

Result<Edited> nothing(const char* what) {
  return Refused(Problem{{}, fmt::format("select at least two elements to {}", what), {}});
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

bool isDevice(const Part& part) {
  return part.ends == Ends::two && !part.geometry && part.group != Group::drawing;
}

namespace {

// Where a pipe ends on the drawing: at the point, or in the middle of the one device that goes on from there.
Spot drawnEnd(const Network& network, Id point) {
  const Spot at = network.at(point).at;
  Id device = noId;
  int pipes = 0;
  for (const Id id : network.elementsAt(point)) {
    const Element& e = network.at(id);
    if (e.part->geometry) ++pipes;
    else if (isDevice(*e.part) && device == noId) device = id;
    else if (e.part->group != Group::drawing) return at;
  }
  if (pipes != 1 || device == noId) return at;
  const Spot a = network.at(network.at(device).ends[0]).at, b = network.at(network.at(device).ends[1]).at;
  return {(a.x + b.x) / 2, (a.y + b.y) / 2};
}

double drawnBetween(const Network& network, const Element& pipe, Spot a, Spot b) {
  const auto za = givenSi(network.at(pipe.ends[0]).values, key::height),
             zb = givenSi(network.at(pipe.ends[1]).values, key::height);
  return std::max(0.01, std::hypot(a.x - b.x, a.y - b.y, za && zb ? *zb - *za : 0.0));
}

}  // namespace

double drawnLength_m(const Network& network, const Element& pipe) {
  return drawnBetween(network, pipe, drawnEnd(network, pipe.ends[0]), drawnEnd(network, pipe.ends[1]));
}

namespace {

double drawnEndToEnd(const Network& network, const Element& pipe) {
  return drawnBetween(network, pipe, network.at(pipe.ends[0]).at, network.at(pipe.ends[1]).at);
}

}  // namespace

Drawn drawnAs(const Network& network, const Element& pipe) {
  if (!toScale(network) || !pipe.part->geometry || pipe.ends.size() != 2) return Drawn::no;
  const auto length = givenSi(pipe.values, key::length);
  if (!length) return Drawn::no;
  if (std::abs(*length - drawnLength_m(network, pipe)) <= 0.0051) return Drawn::toMiddles;
  return std::abs(*length - drawnEndToEnd(network, pipe)) <= 0.0051 ? Drawn::toEnds : Drawn::no;
}

void followDrawing(Draft& draft, Id id, Drawn as) {
  if (as == Drawn::no) return;
  const Element& pipe = draft.network().at(id);
  const double drawn =
      as == Drawn::toEnds ? drawnEndToEnd(draft.network(), pipe) : drawnLength_m(draft.network(), pipe);
  const std::string_view key = findField(*pipe.part, key::length)->key;
  const auto now = givenSi(pipe.values, key::length);
  const bool assumed = pipe.values.assumed(key::length);
  if (!now || std::abs(drawn - *now) > 0.0051) draft.values(id).set(key, metresGiven(drawn), assumed);
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
  std::vector<std::pair<Id, Drawn>> followers;
  if (toScale(network) && moved.size() < network.count()) {
    std::vector<char> moves(network.bound(), 0);
    for (const Id id : moved) moves[id] = 1;
    network.each([&](Id id, const Element& e) {
      if (!e.part->geometry || e.ends.size() != 2) return;
      // A device beside it may move at its other end alone.
      const auto near = [&](Id point) {
        if (moves[point]) return true;
        const Element& p = network.at(point);
        return p.joined.size() == 2 && std::any_of(p.joined.begin(), p.joined.end(), [&](Id other) {
                 const Element& device = network.at(other);
                 return isDevice(*device.part) && (moves[device.ends[0]] || moves[device.ends[1]]);
               });
      };
      if (!near(e.ends[0]) && !near(e.ends[1])) return;
      if (const Drawn as = drawnAs(network, e); as != Drawn::no) followers.emplace_back(id, as);
    });
  }
  for (std::size_t i = 0; i < moved.size(); ++i) draft.move(moved[i], to[i]);
  for (const auto& [id, as] : followers) followDrawing(draft, id, as);
  return std::move(draft).finish();
}

Result<Edited> lineUp(const Network& network, std::span<const Id> ids, LineUp how) {
  const auto moved = movedBy(network, ids);
  if (moved.size() < 2) return nothing("align");
  const Extent x = extentOf(network, moved);
  double meanX = 0, meanY = 0;
  for (const Id id : moved)
    meanX += network.at(id).at.x / static_cast<double>(moved.size()),
        meanY += network.at(id).at.y / static_cast<double>(moved.size());
  return Edited{fmt::format("Align {} points", moved.size()), placed(network, moved, [&](Spot s) {
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
  if (moved.size() < 3) return Refused(Problem{{}, "select at least three elements to distribute", {}});
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
  return Edited{fmt::format("Distribute {} points", moved.size()), moveTo(network, moved, to)};
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
  if (moved.size() < 2) return nothing("rotate");
  const Extent x = extentOf(network, moved);
  const double cx = (x.west + x.east) / 2, cy = (x.south + x.north) / 2;
  return Edited{fmt::format("Rotate {} points", moved.size()), placed(network, moved, [&](Spot s) {
                  for (int i = 0; i < ((turns % 4) + 4) % 4; ++i) s = {cx - (s.y - cy), cy + (s.x - cx)};
                  return s;
                })};
}

}  // namespace conduit
