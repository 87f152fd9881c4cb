#include "network/lay_take_off.h"

#include <fmt/format.h>

#include <algorithm>

#include "fields/keys.h"
#include "network/put.h"
#include "quantity/format.h"
#include "quantity/words.h"
#include "say/words.h"

namespace conduit {
namespace {

constexpr std::string_view likewise[] = {key::bore, key::size, key::roughness, key::hazenC, key::rating};

// Where the pieces end: each but the last has what breaks there.
struct Stretch {
  TakeOff pieces;
  std::vector<Piece> then;  // devices and changes of bore that follow it
};

std::vector<Stretch> stretchesOf(const TakeOff& takeOff) {
  std::vector<Stretch> stretches(1);
  const Piece* allowance = nullptr;
  for (const Piece& p : takeOff.pieces) {
    if (p.kind == PieceKind::allowance) {  // on the straight length of every stretch
      allowance = &p;
      continue;
    }
    if (p.breaks()) {
      stretches.back().then.push_back(p);
      continue;
    }
    if (!stretches.back().then.empty()) stretches.emplace_back();
    stretches.back().pieces.pieces.push_back(p);
  }
  if (allowance)
    for (Stretch& s : stretches)
      if (s.pieces.length_m() > 0) s.pieces.pieces.push_back(*allowance);
  return stretches;
}

Result<bool> giveBore(Draft& draft, Id pipe, const Piece& bore, const Stock& stock, const UnitSet* units) {
  const bool size = bore.typed.starts_with('"');
  const std::string text = size ? bore.typed.substr(1, bore.typed.size() - 2) : bore.typed;
  for (const std::string_view key : {key::bore, key::size})
    draft.values(pipe).clear(findField(*draft.network().at(pipe).part, key)->key);
  return putText(draft, pipe, size ? key::size : key::bore, text, &stock, units);
}

// "L-1: 12.4 elbow": the name before the first colon that a take-off could not hold.
std::optional<std::pair<std::string, std::string>> nameAndTakeOff(std::string_view line) {
  const auto colon = line.find(':');
  if (colon == std::string_view::npos || colon == 0) return std::nullopt;
  return std::pair{std::string(trimmed(line.substr(0, colon))), std::string(trimmed(line.substr(colon + 1)))};
}

}  // namespace

Result<bool> layInto(Draft& draft, Id pipe, std::string_view text, const Stock& stock, const UnitSet* units) {
  const Element line = draft.network().at(pipe);
  auto refused = [&](const std::string& what) {
    return Refused(Problem{{line.name, key::takeOff}, what, {}});
  };
  if (!findField(*line.part, key::takeOff))
    return refused(fmt::format("{} is {}: a take-off needs a pipe", line.name, spokenOne(line.part->key)));
  const auto parsed = parseTakeOff(text, stock);
  if (!parsed) {
    Problem problem{{line.name, key::takeOff}, parsed.error().what, {}};
    for (const std::string& could : parsed.error().could) {
      std::string mended(text);
      mended.replace(parsed.error().at, parsed.error().word.size(), could);
      problem.remedies.push_back({could, {{line.name, key::takeOff, mended}}, {line.name, key::takeOff}});
    }
    return Refused(std::move(problem));
  }
  if (!parsed->breaks()) {
    // The pieces now say how long it is; a length of its own would go before them.
    if (parsed->length_m() > 0) draft.values(pipe).clear(findField(*line.part, key::length)->key);
    return putText(draft, pipe, key::takeOff, text, &stock, units);
  }

  std::vector<Stretch> stretches = stretchesOf(*parsed);
  if (stretches.size() == 1 && !stretches.front().then.empty()) stretches.emplace_back();
  // A change of bore at the very beginning is simply the bore of the line.
  while (stretches.front().pieces.pieces.empty() && !stretches.front().then.empty() &&
         stretches.front().then.front().kind == PieceKind::bore) {
    if (auto put = giveBore(draft, pipe, stretches.front().then.front(), stock, units); !put) return put;
    stretches.front().then.erase(stretches.front().then.begin());
    if (stretches.front().then.empty()) stretches.erase(stretches.begin());
  }
  const double whole = std::max(parsed->length_m(), 1e-9);
  const Id start = line.ends[0], end = line.ends[1];
  const Spot from = draft.network().at(start).at, to = draft.network().at(end).at;
  const auto startHeight = givenSi(draft.network().at(start).values, key::height);
  // Places along the line: by length, with room for each device.
  std::size_t devices = 0;
  for (const Stretch& s : stretches)
    devices += static_cast<std::size_t>(std::count_if(
        s.then.begin(), s.then.end(), [](const Piece& p) { return p.kind == PieceKind::device; }));
  const double room = std::min(0.5, 0.08 * static_cast<double>(devices)) /
                      std::max<double>(1.0, static_cast<double>(devices));
  const double straight = 1.0 - room * static_cast<double>(devices);
  double gone_m = 0.0, rise_m = 0.0, roomTaken = 0.0;
  auto here = [&] {
    const double share = gone_m / whole * straight + roomTaken;
    return Spot{from.x + (to.x - from.x) * share, from.y + (to.y - from.y) * share};
  };
  auto newPoint = [&] {
    const Id point = draft.addPoint("", here());
    if (startHeight) {
      const Given* given = draft.network().at(start).given(key::height);
      draft.values(point).set(findField(*draft.network().at(point).part, key::height)->key,
                              rise_m == 0.0 ? *given : metresGiven(*startHeight + rise_m));
    }
    return point;
  };
  Id current = pipe;  // the pipe that takes the stretch at hand
  Id at = start;
  for (std::size_t i = 0; i < stretches.size(); ++i) {
    Stretch& s = stretches[i];
    const bool last = i + 1 == stretches.size();
    if (i > 0) {
      current = draft.add(*line.part, "", {at, end});
      for (const std::string_view key : likewise)
        if (const Value* v = draft.network().at(pipe).value(key))
          draft.values(current).set(findField(*line.part, key)->key, *v);
      for (std::size_t back = i; back-- > 0;) {  // the latest change of bore before it
        const auto bore = std::find_if(stretches[back].then.rbegin(), stretches[back].then.rend(),
                                       [](const Piece& p) { return p.kind == PieceKind::bore; });
        if (bore == stretches[back].then.rend()) continue;
        if (auto put = giveBore(draft, current, *bore, stock, units); !put) return put;
        break;
      }
    }
    draft.values(current).clear(findField(*line.part, key::length)->key);
    // Nothing stands before the first device, or behind the last one: a pipe of no length joins them without
    // loss.
    const std::string words = s.pieces.text();
    if (auto put = putText(draft, current, key::takeOff, words.empty() ? "0" : words, &stock, units); !put)
      return put;
    gone_m += s.pieces.length_m();
    rise_m += s.pieces.rise_m();
    if (last && s.then.empty()) {
      draft.joinEnd(current, 1, end);
      break;
    }
    at = newPoint();
    draft.joinEnd(current, 1, at);
    for (const Piece& p : s.then) {
      if (p.kind != PieceKind::device) continue;
      for (int n = 0; n < p.count; ++n) {
        Id made = noId;
        if (p.device->ends == Ends::one) {
          made = draft.add(*p.device, "", {at});
        } else {
          roomTaken += room / p.count;
          const Id after = newPoint();
          made = draft.add(*p.device, "", {at, after});
          at = after;
        }
        if (!p.typed.empty())
          if (auto put = putText(draft, made, p.device->fields.front().key, p.typed, &stock, units); !put)
            return put;
      }
    }
    if (last) {  // devices at the very end: the last of them is joined to the line's end
      for (const Id joined : draft.network().elementsAt(at))
        if (draft.network().at(joined).part->ends == Ends::two && draft.network().at(joined).ends[1] == at) {
          draft.joinEnd(joined, 1, end);
          draft.remove(at);
          break;
        }
      break;
    }
  }
  if (startHeight && !draft.network().at(end).value(key::height))
    draft.values(end).set(findField(*draft.network().at(end).part, key::height)->key,
                          metresGiven(*startHeight + rise_m));
  return true;
}

Result<Edited> layTakeOff(const Network& network, Id pipe, std::string_view text, const Stock& stock,
                          const UnitSet* units) {
  Draft draft(network);
  if (auto done = layInto(draft, pipe, text, stock, units); !done) return Refused(done.error());
  const std::size_t more = draft.network().count() - network.count();
  const std::string name = network.at(pipe).name;
  return Edited{
      more > 0 ? fmt::format("Take off {} in {} pieces", name, more + 1) : fmt::format("Take off {}", name),
      std::move(draft).finish()};
}

bool isTakeOffLines(std::string_view text) {
  bool any = false;
  while (!text.empty()) {
    const auto end = text.find('\n');
    const std::string_view line = text.substr(0, end);
    text = end == std::string_view::npos ? std::string_view() : text.substr(end + 1);
    if (line.find_first_not_of(" \t\r") == std::string_view::npos) continue;
    if (!nameAndTakeOff(line)) return false;
    any = true;
  }
  return any;
}

Result<Edited> layTakeOffs(const Network& network, std::string_view lines, const Stock& stock,
                           const UnitSet* units) {
  Draft draft(network);
  std::size_t count = 0, number = 0;
  while (!lines.empty()) {
    const auto end = lines.find('\n');
    const std::string_view line = lines.substr(0, end);
    lines = end == std::string_view::npos ? std::string_view() : lines.substr(end + 1);
    ++number;
    if (line.find_first_not_of(" \t\r") == std::string_view::npos) continue;
    const auto parts = nameAndTakeOff(line);
    if (!parts)
      return Refused(Problem{
          {},
          fmt::format("line {}: a line is \"name: take-off\", as in \"L-1: 12.4 elbow 3 up\"", number),
          {}});
    const Id id = draft.network().byName(parts->first);
    if (id == noId)
      return Refused(Problem{{}, fmt::format("line {}: there is no {}", number, parts->first), {}});
    if (auto done = layInto(draft, id, parts->second, stock, units); !done) {
      Problem problem = done.error();
      problem.what = fmt::format("line {}: {}", number, problem.what);
      problem.remedies.clear();
      return Refused(std::move(problem));
    }
    ++count;
  }
  if (count == 0) return Refused(Problem{{}, "no take-off line found", {}});
  return Edited{fmt::format("Take off {} lines", count), std::move(draft).finish()};
}

ReadBack readBack(const TakeOff& takeOff, std::optional<double> bore_m, std::optional<double> mass_kgm,
                  const Stock& stock) {
  ReadBack back;
  back.length_m = takeOff.length_m();
  back.rise_m = takeOff.rise_m();
  back.bore_m = bore_m;
  double mass = 0.0;
  bool weighed = true;
  for (const Piece& p : takeOff.pieces) {
    if (p.kind == PieceKind::bore) {
      bore_m = p.value;
      const PipeSize* size =
          p.typed.starts_with('"') ? stock.pipe(p.typed.substr(1, p.typed.size() - 2)) : nullptr;
      mass_kgm = size ? size->mass_kgm : std::nullopt;
      if (!back.bore_m) back.bore_m = bore_m;
    }
    if (p.length_m() > 0) {
      if (mass_kgm) mass += *mass_kgm * p.length_m();
      else weighed = false;
    }
    if (!bore_m) continue;
    const double k = p.k(*bore_m);
    back.k += k;
    back.equivalent_m += k * *bore_m / completeTurbulence(*bore_m);
  }
  back.equivalent_m += takeOff.added_m();
  if (weighed && mass > 0) back.mass_kg = mass;
  return back;
}

std::string ReadBack::words(const UnitSet& units) const {
  std::string words = withUnit(length_m, Measure::length, units, 4);
  if (rise_m != 0.0)
    words += fmt::format(", {}{}", rise_m > 0 ? "up " : "down ",
                         withUnit(std::abs(rise_m), Measure::headDrop, units, 4));
  words +=
      bore_m ? fmt::format(", ΣK {} (Le {})", digits(k, 3), withUnit(equivalent_m, Measure::length, units, 3))
             : std::string(", K needs a bore");
  if (bore_m) words += fmt::format(", bore {}", withUnit(*bore_m, Measure::bore, units, 4));
  if (mass_kg) words += fmt::format(", {}", withUnit(*mass_kg, Measure::mass, units, 3));
  return words;
}

}  // namespace conduit
