#include "solve/random_network.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "fields/entry.h"
#include "parts/registry.h"

namespace conduit::test {

std::uint64_t Chance::next() {
  std::uint64_t z = (state += 0x9e3779b97f4a7c15ULL);
  z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
  z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
  return z ^ (z >> 31);
}
double Chance::between(double low, double high) {
  return low + (high - low) * static_cast<double>(next() >> 11) * 0x1.0p-53;
}
int Chance::below(int n) { return static_cast<int>(next() % static_cast<std::uint64_t>(n)); }

namespace {

void put(Draft& d, Id id, std::string_view key, const std::string& text) {
  const Field* f = findField(*d.network().at(id).part, key);
  d.values(id).set(f->key, *readField(*f, text, nullptr, nullptr));
}
std::string m(double v) { return fmt::format("{:.4f} m", v); }

Id pipe(Draft& d, Chance& c, Id a, Id b) {
  static constexpr double bores[] = {0.0525, 0.0779, 0.1023, 0.1541, 0.2027, 0.3033};
  const Id id = d.add(*findPart("pipe"), "", {a, b});
  put(d, id, "length", m(c.between(5, 400)));
  put(d, id, "bore", m(bores[c.below(6)]));
  put(d, id, "roughness", fmt::format("{:.4f} mm", c.between(0.005, 1.0)));
  if (c.oneIn(3)) put(d, id, "K", fmt::format("{:.2f}", c.between(0, 12)));
  return id;
}

// Puts a device of this kind between a point and a new one, so that pipe, device and pipe stand in series.
void setDevice(Draft& d, Chance& c, Id pipeId, std::string_view kind) {
  const Id to = d.network().at(pipeId).ends[1], from = d.network().at(pipeId).ends[0];
  const double z = d.network().at(from).given("height")->value;
  const Id a = d.addPoint("", {}), b = d.addPoint("", {});
  put(d, a, "height", m(z));
  put(d, b, "height", m(z));
  d.joinEnd(pipeId, 1, a);
  pipe(d, c, b, to);
  const bool turned = c.oneIn(2);
  const Id id = d.add(*findPart(kind), "", turned ? std::vector<Id>{b, a} : std::vector<Id>{a, b});
  if (kind == "pump") {
    const double h0 = c.between(8, 60), q = c.between(0.002, 0.05);
    if (c.oneIn(2))
      put(d, id, "curve",
          fmt::format("0 L/s|{:.3f} m;{:.6f} m3/s|{:.3f} m;{:.6f} m3/s|{:.3f} m", h0, q, h0 * 0.86, 1.8 * q,
                      h0 * 0.5));
    else
      put(d, id, "curve",
          fmt::format("0 L/s|{:.3f} m;{:.6f} m3/s|{:.3f} m;{:.6f} m3/s|{:.3f} m;{:.6f} m3/s|{:.3f} m", h0,
                      0.5 * q, h0 * 0.96, q, h0 * 0.85, 1.9 * q, h0 * 0.4));
    if (c.oneIn(5)) put(d, id, "running", "no");
    if (c.oneIn(4)) put(d, id, "check valve", "no");
    if (c.oneIn(4))
      put(d, id, "rated speed", "1450 rpm"),
          put(d, id, "speed", fmt::format("{:.1f} rpm", c.between(900, 1700)));
  } else if (kind == "isolating valve") {
    if (c.oneIn(3)) put(d, id, "open", "no");
    if (c.oneIn(3)) put(d, id, "K", "0");
  } else if (kind == "control valve") {
    put(d, id, "Kv", fmt::format("{:.2f} Kv", c.between(5, 300)));
    put(d, id, "opening", fmt::format("{:.1f} %", c.oneIn(6) ? 0.0 : c.between(5, 100)));
    static constexpr const char* words[] = {"linear", "equal percentage", "quick opening"};
    put(d, id, "characteristic", words[c.below(3)]);
    if (c.oneIn(3)) put(d, id, "FL", fmt::format("{:.2f}", c.between(0.4, 0.95)));
  } else if (kind == "sustaining valve") {
    put(d, id, "set point", fmt::format("{:.3f} m", c.between(2, 40)));
  } else if (kind == "limiting valve") {
    put(d, id, "flow at most", fmt::format("{:.4f} L/s", c.between(0.5, 30)));
  } else if (kind == "relief valve") {
    put(d, id, "set point", fmt::format("{:.3f} m", c.between(10, 70)));
    put(d, id, "Kv", fmt::format("{:.2f} Kv", c.between(5, 100)));
  } else if (kind == "differential valve") {
    put(d, id, "keeps", "across itself");
    put(d, id, "difference", fmt::format("{:.3f} m", c.between(0.5, 20)));
  } else if (kind == "own loss") {
    static constexpr const char* laws[] = {"K", "power law", "table", "fixed drop"};
    const int which = c.below(4);
    put(d, id, "law", laws[which]);
    if (which == 0) put(d, id, "K", fmt::format("{:.3f}", c.between(0.1, 30)));
    if (which == 1)
      put(d, id, "rated flow", "20 L/s"),
          put(d, id, "rated drop", fmt::format("{:.3f} m", c.between(0.1, 6))),
          put(d, id, "exponent", fmt::format("{:.2f}", c.between(1, 2.2)));
    if (which == 2)
      put(d, id, "table",
          fmt::format("10 L/s|{0:.3f} m;20 L/s|{1:.3f} m;40 L/s|{2:.3f} m", c.between(0.2, 1),
                      c.between(1, 4), c.between(4, 15)));
    if (which == 3) put(d, id, "drop", fmt::format("{:.3f} m", c.between(0.1, 5)));
  } else if (kind == "orifice plate") {
    put(d, id, "pipe bore", "102.3 mm");
    put(d, id, "bore", fmt::format("{:.2f} mm", c.between(20, 75)));
    put(d, id, "tappings", c.oneIn(2) ? "corner" : "D and D/2");
  } else if (kind == "reducing valve") {
    put(d, id, "set point", fmt::format("{:.3f} m", c.between(2, 60)));
  } else if (kind == "strainer") {
    put(d, id, "rated flow", fmt::format("{:.4f} L/s", c.between(1, 60)));
    put(d, id, "clean drop", fmt::format("{:.4f} bar", c.between(0.01, 0.4)));
  }
}

}  // namespace

Network randomNetwork(std::uint64_t seed, int pipes) {
  Chance c{seed};
  Draft d{Network()};
  const int columns = std::max(2, static_cast<int>(std::sqrt(pipes / 1.6))),
            rows = std::max(2, static_cast<int>(pipes / 1.6 / columns));
  std::vector<Id> points;
  for (int i = 0; i < columns * rows; ++i) {
    points.push_back(
        d.addPoint("", {static_cast<double>(i % columns) * 100, static_cast<double>(i / columns) * 100}));
    put(d, points.back(), "height", m(c.between(0, 30)));
    if (c.oneIn(3))
      put(d, points.back(), c.oneIn(12) ? "inflow" : "outflow",
          fmt::format("{:.4f} L/s", c.between(0.05, 3)));
  }
  std::vector<Id> lines;
  for (int i = 0; i < columns * rows; ++i) {
    if (i % columns + 1 < columns && !c.oneIn(16))
      lines.push_back(
          pipe(d, c, points[static_cast<std::size_t>(i)], points[static_cast<std::size_t>(i + 1)]));
    if (i / columns + 1 < rows && !c.oneIn(16))
      lines.push_back(
          pipe(d, c, points[static_cast<std::size_t>(i)], points[static_cast<std::size_t>(i + columns)]));
  }
  // Devices: each kind in turn, so that none is missing once there are enough.
  static constexpr const char* kinds[] = {
      "pump",          "reducing valve", "check valve", "control valve",      "isolating valve",
      "strainer",      "reducing valve", "check valve", "sustaining valve",   "limiting valve",
      "own loss",      "relief valve",   "pump",        "differential valve", "orifice plate",
      "reducing valve"};
  const int devices =
      std::max(3, static_cast<int>(lines.size()) / 15 + 1);  // the least density: one for fifteen lines
  const int first = c.below(16);
  for (int k = 0; k < devices; ++k)
    setDevice(d, c, lines[static_cast<std::size_t>(c.below(static_cast<int>(lines.size())))],
              kinds[(k + first) % 16]);
  // A chain of reducing valves on one line now and then, and two feeding one zone.
  if (c.oneIn(3)) {
    const Id line = lines[static_cast<std::size_t>(c.below(static_cast<int>(lines.size())))];
    for (int k = 0; k < 3; ++k) setDevice(d, c, line, "reducing valve");
  }
  if (c.oneIn(4)) {  // reducing against sustaining, a limiter in series with a reducing valve
    const Id line = lines[static_cast<std::size_t>(c.below(static_cast<int>(lines.size())))];
    for (const char* kind : {"sustaining valve", "reducing valve", "limiting valve"})
      setDevice(d, c, line, kind);
  }
  auto anyPoint = [&] { return points[static_cast<std::size_t>(c.below(static_cast<int>(points.size())))]; };
  const int nozzles = c.below(3) + static_cast<int>(points.size()) / 60;
  for (int k = 0; k < nozzles; ++k) {
    const Id id = d.add(*findPart("nozzle"), "", {anyPoint()});
    put(d, id, "K-factor", fmt::format("{:.2f} L/min/bar^0.5", c.between(20, 200)));
    if (c.oneIn(5)) put(d, id, "open", "no");
  }
  // Supplies: now and then none at all, which must be refused.
  const int tanks = c.oneIn(12) ? 0 : 1 + c.below(3) + static_cast<int>(points.size()) / 300;
  std::vector<char> held(d.network().bound(), 0);
  for (int k = 0; k < tanks; ++k) {
    if (c.oneIn(4)) {
      const Id at = anyPoint();
      if (held[at]) continue;
      held[at] = 1;
      put(d, d.add(*findPart("fixed pressure"), "", {at}), "pressure",
          fmt::format("{:.3f} bar", c.between(1, 6)));
    } else {
      std::vector<Id> ends{anyPoint()};
      if (c.oneIn(3)) ends.push_back(anyPoint());
      if (ends.size() == 2 && ends[0] == ends[1]) ends.pop_back();
      bool free = true;
      for (const Id end : ends) free = free && !held[end];
      if (!free) continue;
      for (const Id end : ends) held[end] = 1;
      const Id id = d.add(*findPart("tank"), "", ends);
      const double level = c.between(25, 80);
      put(d, id, "level", m(level));
      std::string rows_;
      for (std::size_t e = 0; e < ends.size(); ++e)
        rows_ +=
            c.oneIn(4) ? m(level + c.between(0.1, 3)) + "|0.5|1;" : m(level - c.between(0.1, 3)) + "|0.5|1;";
      put(d, id, "connections", rows_);
    }
  }
  // Impossible on purpose now and then: a piece shut off that draws.
  if (c.oneIn(8)) {
    const Id a = d.addPoint("", {}), b = anyPoint();
    put(d, a, "height", "5 m");
    put(d, a, "outflow", "2 L/s");
    const Id v = d.add(*findPart(c.oneIn(2) ? "isolating valve" : "check valve"), "", {a, b});
    put(d, v, "bore", "100 mm");
    if (d.network().at(v).part->key == "isolating valve") put(d, v, "open", "no");
  }
  return std::move(d).finish();
}

Network richNetwork(std::uint64_t seed, int pipes) {
  const Network plain = randomNetwork(seed, pipes);
  Chance c{seed * 131 + 17};
  Draft d(plain);
  std::vector<Id> points, lines;
  std::vector<int> pipesAt(plain.bound(), 0), othersAt(plain.bound(), 0);
  plain.each([&](Id id, const Element& e) {
    if (e.part->key == "point") points.push_back(id);
    if (e.part->key == "pipe") lines.push_back(id);
    if (e.part->ends != Ends::self)
      for (const Id end : e.ends) ++(e.part->key == "pipe" ? pipesAt : othersAt)[end];
  });
  for (const Id id : lines) {
    if (c.oneIn(14)) {
      put(d, id, "section", "rectangular");
      put(d, id, "section width", m(c.between(0.05, 0.5)));
      put(d, id, "section height", m(c.between(0.05, 0.3)));
      d.values(id).clear("bore");
    } else if (c.oneIn(20)) {
      put(d, id, "section", "annular");
      put(d, id, "inner pipe", m(plain.at(id).given("bore")->value * c.between(0.2, 0.7)));
    } else if (c.oneIn(40)) {
      put(d, id, "length", "0 m");
      d.values(id).clear("K");
    }
  }
  plain.each([&](Id id, const Element& e) {
    if (e.part->key == "pump") {
      const double q = c.between(0.002, 0.04), h = c.between(8, 60);
      if (c.oneIn(2)) d.values(id).clear("speed"), d.values(id).clear("rated speed");
      put(d, id, "viscous correction", "no");
      switch (c.below(7)) {
        case 0: put(d, id, "described by", "given head"), put(d, id, "duty head", m(h)); break;
        case 1:
          put(d, id, "described by", "given power"),
              put(d, id, "power to the liquid", fmt::format("{:.3f} kW", c.between(0.3, 12)));
          break;
        case 2:
          d.values(id).clear("speed"), d.values(id).clear("rated speed");
          put(d, id, "described by", "duty point"), put(d, id, "duty flow", fmt::format("{:.4f} m3/s", q)),
              put(d, id, "duty head", m(h));
          if (c.oneIn(2)) put(d, id, "rated speed", "1450 rpm"), put(d, id, "stages", c.oneIn(2) ? "3" : "1");
          break;
        case 3:
          put(d, id, "units", c.oneIn(2) ? "2" : "3");
          if (c.oneIn(2)) put(d, id, "arrangement", "series");
          break;
        case 4:
          put(d, id, "keeps", "a flow"),
              put(d, id, "kept flow", fmt::format("{:.4f} L/s", c.between(0.5, 30)));
          break;
        case 5: put(d, id, "keeps", "a pressure"), put(d, id, "kept pressure", m(c.between(5, 60))); break;
        default: break;
      }
      if (d.network().at(id).value("described by") && c.oneIn(3) &&
          *d.network().at(id).text("described by") != "duty point")
        put(d, id, "units", "2");
    }
    if (e.part->key == "isolating valve" && c.oneIn(3))
      pipe(d, c, e.ends[0], e.ends[1]);  // a way round it, with it open a ring of no loss
    if (e.part->key != "point") return;
    if (pipesAt[id] == 2 && othersAt[id] == 0 && c.oneIn(10)) {
      put(d, id, "change of bore", c.oneIn(2) ? "sudden" : "cone");
      if (c.oneIn(2)) put(d, id, "cone angle", "60");
    }
  });
  // Nothing flows behind these: each holds, bars or passes what stands there.
  static constexpr const char* kinds[] = {
      "reducing valve", "sustaining valve", "check valve",   "relief valve", "limiting valve",
      "control valve",  "strainer",         "orifice plate", "own loss",     "pump"};
  for (int k = 0; k < 2; ++k) {
    const Id at = points[static_cast<std::size_t>(c.below(static_cast<int>(points.size())))],
             end = d.addPoint("", {});
    put(d, end, "height", m(plain.at(at).given("height")->value));
    const Id line = pipe(d, c, at, end);
    setDevice(d, c, line, kinds[(seed + static_cast<std::uint64_t>(k)) % 10]);
  }
  if (c.oneIn(40)) {  // a given head with a valve of no loss round it
    const Id at = points[static_cast<std::size_t>(c.below(static_cast<int>(points.size())))],
             behind = d.addPoint("", {});
    put(d, behind, "height", "3 m");
    const Id pump = d.add(*findPart("pump"), "", {at, behind}),
             valve = d.add(*findPart("isolating valve"), "", {behind, at});
    put(d, pump, "described by", "given head"), put(d, pump, "duty head", "12 m");
    put(d, valve, "K", "0"), put(d, valve, "bore", "80 mm");
  }
  // Tees last, where three pipes of some length meet and nothing else.
  for (const Id at : points) {
    if (pipesAt[at] != 3 || othersAt[at] != 0 || !c.oneIn(25)) continue;
    const Network now = d.network();
    const auto legs = now.elementsAt(at);
    bool fits = legs.size() == 3;
    for (const Id leg : legs)
      fits = fits && now.at(leg).part->key == "pipe" && now.at(leg).ends[0] != now.at(leg).ends[1] &&
             now.at(leg).given("length")->value > 0;
    if (fits) put(d, at, "tee branch", now.at(legs[static_cast<std::size_t>(c.below(3))]).name);
  }
  switch (c.below(10)) {
    case 0:
      put(d, jobId, "liquid", "ethylene glycol"), put(d, jobId, "share", "30 %"),
          put(d, jobId, "temperature", "-9 °C");
      break;
    case 1:
      put(d, jobId, "liquid", "sea water"), put(d, jobId, "share", "3.5 %"),
          put(d, jobId, "temperature", "0 °C");
      break;
    case 2: put(d, jobId, "altitude", "900 m"), put(d, jobId, "altitude holds at", "20 m"); break;
    default: break;
  }
  return std::move(d).finish();
}

Network gridNetwork(int pipes, std::uint64_t seed) {
  Chance c{seed};
  Draft d{Network()};
  const int columns = std::max(2, static_cast<int>(std::sqrt(pipes / 1.3))),
            rows = std::max(2, static_cast<int>(pipes / 1.3 / columns));
  std::vector<Id> points;
  const Field& height = *findField(*findPart("point"), "height");
  const Field& outflow = *findField(*findPart("point"), "outflow");
  const Part& line = *findPart("pipe");
  const Field &length = *findField(line, "length"), &bore = *findField(line, "bore"),
              &roughness = *findField(line, "roughness");
  static constexpr double bores[] = {0.1023, 0.1541, 0.2027, 0.3033};
  for (int i = 0; i < columns * rows; ++i) {
    points.push_back(
        d.addPoint("", {static_cast<double>(i % columns) * 100, static_cast<double>(i / columns) * 100}));
    const double z = std::round(c.between(0, 20) * 100) / 100,
                 q = std::round(c.between(0.01, 0.4) * 1000) / 1000;
    d.values(points.back()).set(height.key, Given{z, Basis::direct, fmt::format("{} m", z)});
    d.values(points.back()).set(outflow.key, Given{q / 1000, Basis::direct, fmt::format("{} L/s", q)});
  }
  auto add = [&](int a, int b) {
    const Id id = d.add(line, "", {points[static_cast<std::size_t>(a)], points[static_cast<std::size_t>(b)]});
    const double l = std::round(c.between(60, 200)), bore_m = bores[c.below(4)];
    d.values(id).set(length.key, Given{l, Basis::direct, fmt::format("{} m", l)});
    d.values(id).set(bore.key, Given{bore_m, Basis::direct, fmt::format("{} m", bore_m)});
    d.values(id).set(roughness.key, Given{1e-4, Basis::direct, "0.1 mm"});
  };
  for (int i = 0; i < columns * rows; ++i) {
    if (i % columns + 1 < columns && (i / columns == 0 || c.below(10) < 3)) add(i, i + 1);
    if (i / columns + 1 < rows) add(i, i + columns);
  }
  for (std::size_t i = 0; i < points.size(); i += 200) {
    const Id id = d.add(*findPart("tank"), "", {points[i]});
    put(d, id, "level", m(c.between(60, 64)));
  }
  return std::move(d).finish();
}

}  // namespace conduit::test
