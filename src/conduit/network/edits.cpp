#include "network/edits.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "fields/keys.h"
#include "network/arrange.h"
#include "network/lay_take_off.h"
#include "network/put.h"
#include "parts/picture.h"
#include "parts/pipe/pipe.h"
#include "parts/registry.h"
#include "parts/take_off.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "say/words.h"

namespace conduit {
namespace {

const Field& known(const Part& part, std::string_view key) { return *findField(part, key); }
void setGiven(Draft& draft, Id id, std::string_view key, Given given, bool assumed = false) {
  draft.values(id).set(known(*draft.network().at(id).part, key).key, std::move(given), assumed);
}
// The height of one point for another; what was assumed of the one is assumed of the other.
void carryHeight(Draft& draft, Id from, Id to, double rise_m = 0.0) {
  const Element& start = draft.network().at(from);
  const Given* height = start.given(key::height);
  if (!height) return;
  const bool assumed = start.values.assumed(key::height);
  setGiven(draft, to, key::height, rise_m == 0.0 ? *height : metresGiven(height->value + rise_m), assumed);
}
double distance(Spot a, Spot b) { return std::hypot(a.x - b.x, a.y - b.y); }
Spot between(Spot a, Spot b, double share) { return {a.x + (b.x - a.x) * share, a.y + (b.y - a.y) * share}; }

// The row of a tank's connections that belongs to its last end: at the height of the pipe that comes.
Id tankPoint(Draft& draft, Id tank) {
  const Element& t = draft.network().at(tank);
  const double angle = static_cast<double>(t.ends.size()) * 0.9;
  const Id point = draft.addPoint("", {t.at.x + 1.0 + 0.5 * std::sin(angle), t.at.y});
  if (const auto level = givenSi(draft.network().at(tank).values, key::level))
    setGiven(draft, point, key::height, metresGiven(*level - 1.0),
             draft.network().at(tank).values.assumed(key::level));
  draft.addEnd(tank, point);
  return point;
}

}  // namespace

Spot spotOf(const Network& network, Id id) {
  const Element& e = network.at(id);
  if (e.ends.empty() || e.part->ends == Ends::many) return e.at;
  if (e.ends.size() == 1) return network.at(e.ends[0]).at;
  return between(network.at(e.ends[0]).at, network.at(e.ends[1]).at, 0.5);
}

Result<Edited> setField(const Network& network, Id id, std::string_view key, std::string_view text,
                        const Stock* stock, const UnitSet* units) {
  return setFieldOfAll(network, std::span(&id, 1), key, text, stock, units);
}

Result<Edited> setFieldOfAll(const Network& network, std::span<const Id> ids, std::string_view key,
                             std::string_view text, const Stock* stock, const UnitSet* units) {
  Draft draft(network);
  std::size_t done = 0;
  std::string whose;
  const bool cleared = text.find_first_not_of(" \t") == std::string_view::npos;
  for (const Id id : ids) {
    if (key.starts_with(givenPrefix) && network.find(id)) {
      if (auto put = putText(draft, id, key, text, stock, units); !put) return Refused(put.error());
      whose = network.at(id).name;
      ++done;
      continue;
    }
    const Field* field = network.find(id) ? findField(*network.at(id).part, key) : nullptr;
    if (!field) continue;
    const bool lays = field->kind == FieldKind::takeOff && stock && !cleared;
    if (lays && ids.size() == 1) return layTakeOff(network, id, text, *stock, units);
    if (auto put =
            lays ? layInto(draft, id, text, *stock, units) : putText(draft, id, key, text, stock, units);
        !put)
      return Refused(put.error());
    whose = network.at(id).name;
    ++done;
  }
  if (done == 0)
    return Refused(
        Problem{{"", std::string(key)}, fmt::format("nothing selected has a field \"{}\"", key), {}});
  if (done > 1) whose = fmt::format("{} elements", done);
  std::string shown(text.substr(0, 40));
  return Edited{cleared ? fmt::format("Clear {} of {}", spoken(key), whose)
                        : fmt::format("Set {} of {} to {}", spoken(key), whose, shown),
                std::move(draft).finish()};
}

Result<Edited> swapGiven(const Network& network, Id id, const Swap& swap, std::string_view text,
                         const Stock* stock, const UnitSet* units) {
  Draft draft(network);
  const Element& e = network.at(id);
  const bool back = text.empty();
  if (back) {
    const Values::Entry* kept = e.values.entry(swap.release);
    const Field& field = known(*e.part, swap.release);
    Values& values = draft.values(id);
    values.clear(known(*e.part, swap.give).key);
    const auto* words = kept ? std::get_if<std::string>(&kept->value) : nullptr;
    if (kept && !(words && words->empty())) values.set(field.key, Value(kept->value));
    else values.clear(field.key);
    return Edited{fmt::format("Restore {} of {}", spoken(swap.release), e.name), std::move(draft).finish()};
  }
  if (auto put = putText(draft, id, swap.give, text, stock, units); !put) return Refused(put.error());
  draft.values(id).release(known(*e.part, swap.release).key);
  return Edited{
      fmt::format("Set {} of {}, solve for its {}", spoken(swap.give), e.name, spoken(swap.release)),
      std::move(draft).finish()};
}

Result<Edited> applyRemedy(const Network& network, const Remedy& remedy, const Stock* stock,
                           const UnitSet* units) {
  Draft draft(network);
  for (const FieldEdit& edit : remedy.edits) {
    const Id id = edit.name == "job" ? jobId : network.byName(edit.name);
    if (id == noId)
      return Refused(Problem{{edit.name, edit.field}, fmt::format("{} no longer exists", edit.name), {}});
    Id target = id;
    std::string_view field = edit.field;
    if (field == reversedKey) {  // turned the other way round where it stands
      if (network.at(id).part->ends != Ends::two)
        return Refused(Problem{{edit.name, edit.field}, "this fix no longer applies", {}});
      draft.reverse(id);
      continue;
    }
    if (field.starts_with('+')) {  // a new element at this point, with its first field given
      const Part* part = findPart(field.substr(1));
      if (!part || part->ends != Ends::one || network.at(id).part->ends != Ends::self)
        return Refused(Problem{{edit.name, edit.field}, "this fix no longer applies", {}});
      target = draft.add(*part, "", {id});
      field = part->fields[0].key;
    }
    if (auto put = putText(draft, target, field, edit.text, stock, units); !put) return Refused(put.error());
  }
  return Edited{remedy.words, std::move(draft).finish()};
}

std::string nameFault(std::string_view name) {
  const auto characters = std::count_if(name.begin(), name.end(), [](char c) {
    return (static_cast<unsigned char>(c) & 0xC0) != 0x80;
  });  // UTF-8
  if (name.empty() || characters > 60 || name.find_first_of("\n\r\t\"\\") != std::string_view::npos ||
      name == "job")
    return "a name has 1 to 60 characters, without quotes, backslashes or line breaks";
  return {};
}

Result<Edited> rename(const Network& network, Id id, std::string_view name) {
  const Element& e = network.at(id);
  std::string wanted(name);
  if (const std::string fault = nameFault(wanted); !fault.empty())
    return Refused(Problem{{e.name, "name"}, fault, {}});
  if (wanted == e.name) return Edited{fmt::format("Rename {}", e.name), network};
  if (network.byName(wanted) != noId) {
    const std::string free = network.freeName(*e.part);
    return Refused(Problem{{e.name, "name"},
                           fmt::format("{} is already in use; {} is free", wanted, free),
                           {{free, {}, {e.name, "name"}}}});
  }
  Draft draft(network);
  network.each([&](Id other, const Element& o) {  // who speaks of it by name goes on doing so
    for (const Field& f : o.part->fields)
      if (const auto* named = f.names == e.part->key ? o.text(f.key) : nullptr; named && *named == e.name)
        draft.values(other).set(f.key, wanted);
  });
  draft.rename(id, wanted);
  return Edited{fmt::format("Rename {} to {}", e.name, wanted), std::move(draft).finish(), id};
}

Result<Edited> place(const Network& network, const Part& part, Spot at, std::string_view height,
                     const Stock* stock, const UnitSet* units) {
  Draft draft(network);
  Id made = noId;
  const std::string_view heightKey = part.ends == Ends::many ? key::level : key::height;
  if (part.ends == Ends::self || part.ends == Ends::many || part.ends == Ends::free) {
    made = draft.add(part, "", {}, at);
    if (!height.empty() && part.ends != Ends::free)
      if (auto put = putText(draft, made, heightKey, height, stock, units); !put) return Refused(put.error());
  } else if (part.ends == Ends::one) {
    const Id point = draft.addPoint("", at);
    if (!height.empty())
      if (auto put = putText(draft, point, key::height, height, stock, units); !put)
        return Refused(put.error());
    made = draft.add(part, "", {point}, at);
  } else {
    return Refused(Problem{{}, fmt::format("{} must be placed in a line", spokenOne(part.key)), {}});
  }
  const std::string name = draft.network().at(made).name;
  return Edited{fmt::format("Place {}", name), std::move(draft).finish(), made};
}

Result<Edited> drawPipe(const Network& network, Id from, Id to, Spot toSpot, const LineEntry& entry,
                        const Stock* stock, const UnitSet* units) {
  Draft draft(network);
  if (network.at(from).part->ends == Ends::many) from = tankPoint(draft, from);
  const auto fromHeight = givenSi(draft.network().at(from).values, key::height);
  double rise = 0.0;
  if (!entry.rise.empty()) {
    const auto read =
        parse(entry.rise, Measure::headDrop, units ? &units->unitFor(Measure::headDrop) : nullptr);
    if (!read) return Refused(Problem{{"", "rise"}, read.error().what, {}});
    if (read->basis != Basis::direct)
      return Refused(Problem{{"", "rise"}, fmt::format("\"{}\" is not a height", entry.rise), {}});
    rise = read->value;
  }
  if (to == noId) {
    to = draft.addPoint("", toSpot);
    // A new pipe's far end stands where the last one ended, plus what was typed as a rise.
    carryHeight(draft, from, to, rise);
  } else if (network.at(to).part->ends == Ends::many) {
    to = tankPoint(draft, to);
    if (fromHeight && rise != 0.0) carryHeight(draft, from, to, rise);
  }
  if (from == to)
    return Refused(Problem{{network.at(from).name, ""}, "a pipe needs two different points", {}});
  const Id pipe = draft.add(pipe::part, "", {from, to});
  if (!entry.length.empty()) {
    if (auto put = putText(draft, pipe, key::length, entry.length, stock, units); !put)
      return Refused(put.error());
  } else if (toScale(network)) {
    setGiven(draft, pipe, key::length, metresGiven(drawnLength_m(draft.network(), draft.network().at(pipe))));
  }
  if (entry.like != noId && network.find(entry.like)) {
    const Element& like = network.at(entry.like);
    for (const std::string_view key : {key::bore, key::size, key::roughness, key::hazenC, key::rating})
      if (const Value* v = like.value(key))
        draft.values(pipe).set(known(*draft.network().at(pipe).part, key).key, *v, like.values.assumed(key));
  }
  const std::string name = draft.network().at(pipe).name;
  return Edited{fmt::format("Draw {}", name), std::move(draft).finish(), pipe};
}

namespace {

// Cuts the pipe and returns the new point; the second half is a new pipe from there to the old end.
std::pair<Id, Id> cut(Draft& draft, Id pipe, double share, const Stock* stock) {
  const Element e = draft.network().at(pipe);
  const Drawn drawn = drawnAs(draft.network(), e);
  const Element a = draft.network().at(e.ends[0]), b = draft.network().at(e.ends[1]);
  const Id point = draft.addPoint("", between(a.at, b.at, share));
  const auto za = givenSi(a.values, key::height), zb = givenSi(b.values, key::height);
  if (za && zb)
    setGiven(draft, point, key::height,
             *za == *zb ? *a.given(key::height) : metresGiven(*za + (*zb - *za) * share),
             a.values.assumed(key::height) || b.values.assumed(key::height));
  const Id second = draft.add(*e.part, "", {point, e.ends[1]});
  draft.joinEnd(pipe, 1, point);
  for (const Values::Entry& entry : e.values.entries()) {
    if (entry.key == key::takeOff || entry.key == key::lossK || entry.key == key::note)
      continue;  // what stands in the line stays with the first half
    const auto* none = std::get_if<std::string>(&entry.value);
    if (entry.released && none && none->empty())
      continue;  // found, and never given: so it stays with one half
    draft.values(second).set(entry.key, entry.value, entry.assumed);
  }
  if (const auto* words = e.text(key::takeOff); words && stock)
    if (const auto taken = takeOffRead(*words, *stock); taken->read) {
      const auto [before, after] = cutAt(*taken->read, share);
      const std::string_view key = known(*e.part, key::takeOff).key;
      if (before.pieces.empty()) draft.values(pipe).set(key, std::string("0"));
      else draft.values(pipe).set(key, before.text());
      draft.values(second).set(key, after.pieces.empty() ? std::string("0") : after.text());
    }
  if (const auto length = givenSi(e.values, key::length)) {
    const bool assumed = e.values.assumed(key::length);
    setGiven(draft, pipe, key::length, metresGiven(*length * share), assumed);
    setGiven(draft, second, key::length, metresGiven(*length - std::round(*length * share * 100) / 100),
             assumed);
  }
  for (const Id part : {pipe, second}) followDrawing(draft, part, drawn);
  return {point, second};
}

}  // namespace

Result<Edited> splitPipe(const Network& network, Id pipe, double share, const Stock* stock) {
  const Element& e = network.at(pipe);
  if (!e.part->line)
    return Refused(Problem{{e.name, ""}, fmt::format("{} is not a pipe and cannot be split", e.name), {}});
  Draft draft(network);
  const auto [point, second] = cut(draft, pipe, std::clamp(share, 0.01, 0.99), stock);
  return Edited{fmt::format("Split {}", e.name), std::move(draft).finish(), point};
}

Result<Edited> setInto(const Network& network, Id pipe, double share, const Part& device, const Stock* stock,
                       bool against) {
  const Element& e = network.at(pipe);
  if (!e.part->line) return Refused(Problem{{e.name, ""}, "equipment can be inserted in a pipe only", {}});
  Draft draft(network);
  Id made = noId;
  if (device.ends == Ends::one) {
    const auto [point, second] = cut(draft, pipe, std::clamp(share, 0.01, 0.99), stock);
    made = draft.add(device, "", {point});
  } else if (device.ends == Ends::two) {
    const Spot a = network.at(e.ends[0]).at, b = network.at(e.ends[1]).at;
    const double whole = std::max(distance(a, b), 1e-6), half = std::min(0.12, 4.0 / whole);
    const auto [first, second] = cut(draft, pipe, std::clamp(share - half, 0.02, 0.96), stock);
    // The device stands between the cut and a second point a little further on.
    const Spot at = draft.network().at(first).at;
    const Id after = draft.addPoint("", between(at, b, std::min(0.5, 2 * half)));
    carryHeight(draft, first, after);
    draft.joinEnd(second, 0, after);
    made = draft.add(device, "", {first, after});
    if (against) draft.reverse(made);
    // Counted from end to end the halves would lose what the device takes on the drawing: they keep their
    // sum.
    if (drawnAs(network, e) == Drawn::toMiddles)
      for (const Id part : {pipe, second}) followDrawing(draft, part, Drawn::toMiddles);
  } else {
    return Refused(Problem{{}, fmt::format("a {} cannot be inserted in a line", spoken(device.key)), {}});
  }
  const std::string name = draft.network().at(made).name;
  return Edited{fmt::format("Insert {} in {}", name, e.name), std::move(draft).finish(), made};
}

Result<Edited> setAfter(const Network& network, Id point, Spot to, const Part& device) {
  Draft draft(network);
  Id made = noId;
  if (network.at(point).part->ends == Ends::many) point = tankPoint(draft, point);
  if (device.ends == Ends::one) {
    made = draft.add(device, "", {point});
  } else if (device.ends == Ends::two) {
    const Id after = draft.addPoint("", to);
    carryHeight(draft, point, after);
    made = draft.add(device, "", {point, after});
  } else if (device.ends == Ends::many) {
    made = draft.add(device, "", {point}, to);
    if (const Given* z = draft.network().at(point).given(key::height))
      setGiven(draft, made, key::level, metresGiven(z->value + 1.0),
               draft.network().at(point).values.assumed(key::height));
  } else {
    return Refused(Problem{{}, fmt::format("a {} cannot be placed here", spoken(device.key)), {}});
  }
  const std::string name = draft.network().at(made).name;
  return Edited{fmt::format("Place {}", name), std::move(draft).finish(), made};
}

Result<Edited> placeBetween(const Network& network, const Part& device, Spot from, Spot to) {
  if (device.ends != Ends::two)
    return Refused(Problem{{}, fmt::format("a {} does not have two ends", spoken(device.key)), {}});
  Draft draft(network);
  const Id a = draft.addPoint("", from), b = draft.addPoint("", to);
  const Id made = draft.add(device, "", {a, b});
  const std::string name = draft.network().at(made).name;
  return Edited{fmt::format("Place {}", name), std::move(draft).finish(), made};
}

Result<Edited> setHeight(const Network& network, Id point, std::string_view text, const Stock* stock,
                         const UnitSet* units) {
  auto edited = setField(network, point, key::height, text, stock, units);
  const auto before = givenSi(network.at(point).values, key::height);
  if (!edited || !before) return edited;
  const Given* now = edited->network.at(point).given(key::height);
  if (!now) return edited;
  std::vector<Id> together{point};
  for (std::size_t i = 0; i < together.size(); ++i)
    for (const Id joined : network.elementsAt(together[i])) {
      const Element& e = network.at(joined);
      if (!isDevice(*e.part)) continue;
      for (const Id end : e.ends)
        if (std::find(together.begin(), together.end(), end) == together.end()) together.push_back(end);
    }
  Draft draft(std::move(edited->network));
  const Given level = *now;
  for (const Id other : together) {
    const auto own = givenSi(network.at(other).values, key::height);
    if (other == point || !own) continue;
    const double apart = *own - *before;
    setGiven(draft, other, key::height, apart == 0.0 ? level : metresGiven(level.value + apart),
             apart != 0.0 && network.at(other).values.assumed(key::height));
  }
  edited->network = std::move(draft).finish();
  return edited;
}

Result<Edited> joinPoints(const Network& network, const Part& part, Id from, Id to) {
  if (part.ends != Ends::two || from == to || network.at(from).part->ends != Ends::self ||
      network.at(to).part->ends != Ends::self)
    return Refused(Problem{
        {network.at(from).name, ""}, fmt::format("a {} needs two different points", spoken(part.key)), {}});
  Draft draft(network);
  const Id made = draft.add(part, "", {from, to});
  const std::string name = draft.network().at(made).name;
  return Edited{fmt::format("Place {}", name), std::move(draft).finish(), made};
}

Result<Edited> addPicture(const Network& network, const std::string& file, std::string bytes, Spot middle,
                          double width_m) {
  Draft draft(network);
  if (!bytes.empty()) {
    Enclosed enclosed = network.enclosed();
    enclosed.files[file] = std::move(bytes);
    draft.enclose(std::move(enclosed));
  }
  const Id made = draft.add(picture::part, "", {}, middle);
  if (auto put = putText(draft, made, key::file, file, nullptr, nullptr); !put) return Refused(put.error());
  setGiven(draft, made, key::width, metresGiven(std::max(0.01, width_m)));
  return Edited{fmt::format("Add picture {}", file), std::move(draft).finish(), made};
}

Edited scaleDrawn(const Network& network, Id id, std::string_view key, double metres, Spot to) {
  Draft draft(network);
  setGiven(draft, id, key, metresGiven(metres));
  draft.move(id, to);
  return {fmt::format("Scale {}", network.at(id).name), std::move(draft).finish()};
}

Result<Edited> removeAll(const Network& network, std::span<const Id> ids) {
  Draft draft(network);
  std::size_t gone = 0;
  std::string name;
  std::set<Id> points;
  for (const Id id : ids) {
    if (id == jobId || !draft.network().find(id)) continue;
    name = network.at(id).name;
    for (const Id end : network.at(id).ends) points.insert(end);
    draft.remove(id);
    ++gone;
  }
  if (gone == 0) return Refused(Problem{{}, "nothing selected can be deleted", {}});
  // Points that served only what is gone go with it, unless they say something of their own.
  for (const Id point : points) {
    const Element* p = draft.network().find(point);
    if (!p || p->value(key::outflow) || p->value(key::inflow)) continue;
    const auto left = draft.network().elementsAt(point);
    if (std::all_of(left.begin(), left.end(),
                    [&](Id id) { return draft.network().at(id).part->group == Group::drawing; }))
      draft.remove(point);
  }
  return Edited{gone == 1 ? fmt::format("Delete {}", name) : fmt::format("Delete {} elements", gone),
                std::move(draft).finish()};
}

Edited moveAll(const Network& network, std::span<const Id> ids, double dx, double dy) {
  const std::vector<Id> moved = movedBy(network, ids);
  std::vector<Spot> to;
  for (const Id id : moved) to.push_back({network.at(id).at.x + dx, network.at(id).at.y + dy});
  return {moved.size() == 1 ? fmt::format("Move {}", network.at(moved.front()).name)
                            : fmt::format("Move {} points", moved.size()),
          moveTo(network, moved, to)};
}

Edited reverseAll(const Network& network, std::span<const Id> ids) {
  Draft draft(network);
  std::string name;
  std::size_t count = 0;
  for (const Id id : ids)
    if (const Element* e = network.find(id); e && e->part->ends == Ends::two) {
      draft.reverse(id);
      name = e->name;
      ++count;
    }
  return {count == 1 ? fmt::format("Reverse {}", name) : fmt::format("Reverse {} elements", count),
          std::move(draft).finish()};
}

Network cutOut(const Network& network, std::span<const Id> ids) {
  Draft draft{Network()};
  std::map<Id, Id> as;
  auto copy = [&](Id id) {
    const Element& e = network.at(id);
    std::vector<Id> ends;
    for (const Id end : e.ends) ends.push_back(as.at(end));
    const Id made = draft.add(*e.part, e.name, ends, e.at);
    draft.values(made) = e.values;
    draft.keepExtra(made, e.extra);
    as[id] = made;
  };
  std::set<Id> points, others;
  for (const Id id : ids) {
    const Element* e = network.find(id);
    if (!e || id == jobId) continue;
    (e->part->ends == Ends::self ? points : others).insert(id);
    points.insert(e->ends.begin(), e->ends.end());
  }
  for (const Id id : points) copy(id);
  for (const Id id : others) copy(id);
  return std::move(draft).finish();
}

Edited insert(const Network& network, const Network& piece, double dx, double dy, std::vector<Id>* placed) {
  Draft draft(network);
  std::map<Id, Id> as;
  auto copy = [&](Id id, const Element& e) {
    std::vector<Id> ends;
    for (const Id end : e.ends) ends.push_back(as.at(end));
    const Id made = draft.add(*e.part, draft.network().byName(e.name) == noId ? e.name : std::string(), ends,
                              {e.at.x + dx, e.at.y + dy});
    draft.values(made) = e.values;
    draft.keepExtra(made, e.extra);
    as[id] = made;
    if (placed) placed->push_back(made);
  };
  piece.each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::self) copy(id, e);
  });
  piece.each([&](Id id, const Element& e) {
    if (e.part->ends != Ends::self) copy(id, e);
  });
  return {fmt::format("Paste {} elements", piece.count()), std::move(draft).finish()};
}

}  // namespace conduit
