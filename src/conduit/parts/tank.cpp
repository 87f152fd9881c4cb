#include "parts/tank.h"

#include <fmt/format.h>

#include <cmath>

#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::tank {
namespace {

constexpr Key<Height> level{"level"};
constexpr Key<GaugePressure> surfacePressure{"surface pressure"};
constexpr Key<Area> area{"area"};
constexpr Key<VolumeFlow> inflow{"flow out"};
constexpr Key<Height> bottom{limitRow(LimitId::levelLeast).key}, top{limitRow(LimitId::levelMost).key};

constexpr Column connectionColumns[] = {
    {"height", Measure::height, false, -12000, 9000},
    {"entrance K", Measure::number, false, 0, 1000},
    {"exit K", Measure::number, false, 0, 1000},
    {"bore", Measure::bore, false, 1e-4, 20},
};
bool levelFound(const Values& v) { return v.released(level.text); }

const Field fields[] = {
    assume(releasable(need(field(level, -12000, 9000, "liquid level above datum"))), "0 m"),
    onlyWhen(need(field(inflow, -1e4, 1e4, "flow to the network when its level is to be found")), levelFound),
    releasable(byDefault(
        field(surfacePressure, -101325, 1e8, "pressure on the liquid; 0 bar g if open to atmosphere"), 0.0)),
    field(area, 1e-4, 1e9, "surface area, if the tank can fill or empty"),
    Field{.key = "connections",
          .kind = FieldKind::table,
          .help = "height, entrance K, exit K and bore of each connection; bore by default the pipe's",
          .columns = connectionColumns,
          .ofDrawing = true},
    limitField(LimitId::flowInLeast, "minimum flow into the tank"),
    limitField(LimitId::flowInMost, "maximum flow into the tank"),
    limitField(LimitId::flowOutLeast, "minimum flow out of the tank"),
    limitField(LimitId::flowOutMost, "maximum flow out of the tank"),
    limitField(LimitId::levelLeast),
    limitField(LimitId::levelMost),
    limitField(LimitId::submergenceLeast),
    waivedField(),
};

/// Loss between a tank and the pipe joined to it: entrance K when liquid leaves the tank, exit K when it
/// enters.
class ConnectionLaw final : public Law {
 public:
  ConnectionLaw(double out_s2m5, double in_s2m5, double start_m3s, bool inwardOnly)
      : out_(out_s2m5, 2.0), in_(in_s2m5, 2.0), start_(start_m3s), inwardOnly_(inwardOnly) {}
  Loss at(double q, double&) const override {
    // Free discharge runs from the pipe to the tank: forward is inward there.
    if (inwardOnly_) return in_.at(q);
    return q >= 0 ? out_.at(q) : in_.at(q);
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<ConnectionLaw>(*this); }
  double startFlow_m3s() const override { return start_; }
  bool barsBackflow() const override { return inwardOnly_; }
  bool resists(bool backward) const override { return (inwardOnly_ || backward ? in_ : out_).r > 0.0; }
  bool lossless() const override { return !inwardOnly_ && out_.r == 0.0 && in_.r == 0.0; }

 private:
  PowerLoss out_, in_;
  double start_;
  bool inwardOnly_;
};

struct Connection {
  std::optional<double> height_m;       // its own, else that of the point
  std::optional<double> bore_m;         // its own, else that of the pipe joined there
  double entranceK = 0.5, exitK = 1.0;  // sharp entrance, full loss of the velocity head: Crane TP-410 (1988)
  /// Above the liquid the pipe ends in the air: free discharge into the tank, or dry. Its branch is then
  /// written from the pipe to the tank. Of a level that is to be found nothing ends in the air.
  bool inward = false;
};

Connection connection(const Values& values, std::size_t i, const Medium& medium,
                      std::span<const EndPlace> ends) {
  Connection c;
  if (i < ends.size()) c.height_m = ends[i].height_m, c.bore_m = ends[i].bore_m;
  if (const Rows* rows = values.get<Rows>("connections"); rows && i < rows->size()) {
    const auto& row = (*rows)[i];
    if (row.size() > 0 && row[0]) c.height_m = resolve(*row[0], Measure::height, medium);
    if (row.size() > 1 && row[1]) c.entranceK = row[1]->value;
    if (row.size() > 2 && row[2]) c.exitK = row[2]->value;
    if (row.size() > 3 && row[3]) c.bore_m = resolve(*row[3], Measure::bore, medium);
  }
  const auto z = get(values, level, medium);
  c.inward = z && c.height_m && *c.height_m > z->si();
  return c;
}

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  if (!prepared.missing.empty()) return prepared;
  const auto z = get(values, level, setting.medium);
  const double surfaceHead =
      setting.medium.columnOf(getOrFallback(values, fields, surfacePressure,
                                            setting.mediumAt(z ? std::optional(z->si()) : std::nullopt))
                                  ->si());
  Vessel surface;
  if (z) {
    surface.head_m = z->si() + surfaceHead;
    surface.height_m = z->si();
  } else {
    surface.inflow_m3s = get(values, inflow, setting.medium)->si();
  }
  prepared.vessels.push_back(surface);
  for (std::size_t i = 0; i < ends.size(); ++i) {
    const Connection c = connection(values, i, setting.medium, ends);
    const double bore = c.bore_m.value_or(0.0);
    const double factor = bore > 0 ? velocityHeadFactor(bore, setting.medium.gravity_ms2)
                                   : 0.0;  // nothing says how fast: not judged (lacks)
    const double start = bore > 0 ? pi / 4 * bore * bore : 0.01;
    if (c.inward) {
      prepared.vessels.push_back({*c.height_m + surfaceHead, 0.0, *c.height_m});
      prepared.branches.push_back(
          {static_cast<int>(i), -static_cast<int>(prepared.vessels.size()),
           std::make_unique<ConnectionLaw>(c.entranceK * factor, c.exitK * factor, start, true)});
    } else {
      prepared.branches.push_back(
          {-1, static_cast<int>(i),
           std::make_unique<ConnectionLaw>(c.entranceK * factor, c.exitK * factor, start, false)});
    }
  }
  return prepared;
}

std::optional<double> flowOut(const Reading& r) {
  double sum = 0.0;
  for (std::size_t i = 0; i < r.branches.size(); ++i) {
    if (!r.branches[i].flow_m3s) return std::nullopt;
    const bool inward = connection(*r.values, i, r.setting->medium, r.ends).inward;
    sum += inward ? -*r.branches[i].flow_m3s : *r.branches[i].flow_m3s;
  }
  return sum;
}
std::optional<double> foundLevel(const Reading& r) {
  if (const auto z = get(*r.values, level, r.setting->medium)) return z->si();
  if (r.vesselHeads.empty() || !r.vesselHeads[0]) return std::nullopt;
  return *r.vesselHeads[0] - r.setting->medium.columnOf(
                                 getOrFallback(*r.values, fields, surfacePressure, r.setting->medium)->si());
}
std::optional<double> surfaceHead(const Reading& r) {
  return r.vesselHeads.empty() ? std::nullopt : r.vesselHeads[0];
}
std::optional<double> rise(const Reading& r) {
  const auto a = get(*r.values, area, r.setting->medium);
  const auto q = flowOut(r);
  return a && q ? std::optional(-*q / a->si()) : std::nullopt;
}

// How long the level takes to its top or bottom at the present flow, s.
std::optional<double> timeTo(const Reading& r, const Key<Height>& end, bool rising) {
  const auto z = foundLevel(r), to = get(*r.values, end, r.setting->medium)
                                         ? std::optional(get(*r.values, end, r.setting->medium)->si())
                                         : std::nullopt;
  const auto speed = rise(r);
  if (!z || !to || !speed || std::abs(*speed) < 1e-12 || (*speed > 0) != rising) return std::nullopt;
  return std::max(0.0, (*to - *z) / *speed);
}
std::optional<double> timeToFull(const Reading& r) { return timeTo(r, top, true); }
std::optional<double> timeToEmpty(const Reading& r) { return timeTo(r, bottom, false); }

const Outcome outcomes[] = {
    {"flow out", Measure::volumeFlow, flowOut, SignBy::giving},
    {"level", Measure::height, foundLevel},
    {"head", Measure::head, surfaceHead},
    {"level rises by", Measure::velocity, rise, SignBy::rising},
    {"time until full", Measure::duration, timeToFull},
    {"time until empty", Measure::duration, timeToEmpty},
};
const Swap swaps[] = {{"flow out", "level", "flow out"}};

std::string story(const Reading& r, const UnitSet& units) {
  const auto q = flowOut(r), z = foundLevel(r);
  if (!q || !z) return "Flow not determined.";
  std::string text;
  if (std::abs(*q) < 1e-9) {
    text = fmt::format("Level {}, no flow.", withUnit(*z, Measure::height, units));
  } else {
    text = fmt::format("{} {} at a {}level of {}.", *q > 0 ? "Supplies" : "Takes",
                       withUnit(std::abs(*q), Measure::volumeFlow, units, 3),
                       levelFound(*r.values) ? "calculated " : "", withUnit(*z, Measure::height, units));
  }
  if (const auto speed = rise(r); speed && std::abs(*speed) > 1e-9)
    text += fmt::format(" The level {} {} m/h.", *speed > 0 ? "rises" : "falls",
                        digits(std::abs(*speed) * 3600, 3));
  for (const auto& [time, word] : {std::pair(timeToFull(r), "full"), std::pair(timeToEmpty(r), "empty")})
    if (time)
      text +=
          fmt::format(" At this rate it is {} in {}.", word, withUnit(*time, Measure::duration, units, 3));
  return text;
}

std::string stateWord(const Reading& r) {
  std::string words;
  for (std::size_t i = 0; i < r.branches.size(); ++i) {
    if (!words.empty()) words += ", ";
    words += !connection(*r.values, i, r.setting->medium, r.ends).inward ? "wetted"
             : r.branches[i].state == BranchState::shut                  ? "dry"
                                                                         : "free discharge";
  }
  return words;
}

// An open end draws air from the surface unless it lies deep enough: S = D (1 + 2.3 F_D), F_D = v/√(g D)
// (ANSI/HI 9.8-2018; recalled, to be checked). Counted from the middle of the connection.
void checkSubmergence(const Reading& r, double level_m, std::size_t i, Checks& checks) {
  const Connection c = connection(*r.values, i, r.setting->medium, r.ends);
  const auto q = i < r.branches.size() ? r.branches[i].flow_m3s : std::nullopt;
  if (c.inward || !c.height_m || !q || *q < 1e-9 || level_m < *c.height_m) return;
  Limit least = ownLimit(*r.values, LimitId::submergenceLeast, r.setting->medium);
  if (!least && c.bore_m) {
    const double v = *q / (pi / 4 * *c.bore_m * *c.bore_m);
    least = {*c.bore_m * (1 + 2.3 * v / std::sqrt(r.setting->medium.gravity_ms2 * *c.bore_m)),
             LimitFrom::standard};
  }
  if (!least) return;
  Check& check = checks.hold(CheckId::submergence, level_m - *c.height_m, least, {}, severityOf(least));
  check.at = static_cast<std::uint8_t>(std::min<std::size_t>(i, 255));
  if (checks.told(check))
    check.what = fmt::format("{} lies {} under the level of {}; {} {}",
                             i < r.endNames.size() ? r.endNames[i] : "an outlet",
                             withUnit(check.value, Measure::headDrop, checks.units(), 2), r.name,
                             withUnit(*check.least, Measure::headDrop, checks.units(), 2),
                             least.from == LimitFrom::own ? "specified" : "keep air out (ANSI/HI 9.8)");
}

// What its entrance takes, where nothing says how wide it is.
std::vector<Lack> lacks(const Reading& r) {
  for (std::size_t i = 0; i < r.branches.size(); ++i) {
    const Connection c = connection(*r.values, i, r.setting->medium, r.ends);
    const auto q = r.branches[i].flow_m3s;
    if (!q || std::abs(*q) < 1e-9 || c.bore_m) continue;
    if ((*q > 0) != c.inward ? c.entranceK > 0 : c.exitK > 0) return {{CheckId::entranceLoss, "connections"}};
  }
  return {};
}

void check(const Reading& r, Checks& checks) {
  const auto z = foundLevel(r);
  if (z) {
    const Limit least = ownLimit(*r.values, LimitId::levelLeast, r.setting->medium),
                most = ownLimit(*r.values, LimitId::levelMost, r.setting->medium);
    if (least || most) {
      Check& c = checks.hold(CheckId::level, *z, least, most);
      if (checks.told(c))
        c.what = fmt::format("level of {} is {}, {} its {} at {}", r.name,
                             withUnit(*z, Measure::height, checks.units()), c.low() ? "below" : "above",
                             c.low() ? "bottom" : "top",
                             withUnit(c.low() ? *c.least : *c.most, Measure::height, checks.units()));
    }
    for (std::size_t i = 0; i < r.ends.size(); ++i) checkSubmergence(r, *z, i, checks);
  }
  if (!levelFound(*r.values)) return;
  for (std::size_t i = 0; z && i < r.ends.size(); ++i) {
    const auto height = connection(*r.values, i, r.setting->medium, r.ends).height_m;
    if (!height || *z >= *height) continue;
    Check& c = checks.hold(CheckId::level, *z, {*height, LimitFrom::law}, {}, Severity::paper);
    c.at = static_cast<std::uint8_t>(std::min<std::size_t>(i, 255));
    if (checks.told(c))
      c.what = fmt::format("the calculated level of {} ({}) is below its connection at {}", r.name,
                           withUnit(*z, Measure::height, checks.units()),
                           withUnit(*height, Measure::height, checks.units()));
  }
}

std::optional<Working> working(const Reading& r, std::string_view key) {
  const Medium& m = r.setting->medium;
  const double on = getOrFallback(*r.values, fields, surfacePressure, m)->si();
  const double g = m.gravity_ms2, rho = m.density_kgm3;
  Working w;
  if (const auto z = foundLevel(r), h = surfaceHead(r); (key == "head" || key == "level") && z && h) {
    const bool head = key == "head";
    w.title = fmt::format("{} of {}", head ? "Head" : "Level", r.name);
    w.lines.push_back(
        {head ? "H" : "z", head ? "z + p/(ρ·g)" : "H − p/(ρ·g)",
         fmt::format("{:.12g} {} {:.12g}/({:.10g}·{:.10g})", head ? *z : *h, head ? "+" : "−", on, rho, g),
         head ? *z + on / (rho * g) : *h - on / (rho * g), "m",
         "p is the gauge pressure on the liquid; the surface is at rest"});
    return w;
  }
  const auto q = flowOut(r);
  for (const bool full : {true, false})
    if (const auto time = full ? timeToFull(r) : timeToEmpty(r);
        time && key == (full ? "time until full" : "time until empty")) {
      const double z = *foundLevel(r), to = get(*r.values, full ? top : bottom, m)->si();
      w.title = fmt::format("Time until {} is {}", r.name, full ? "full" : "empty");
      w.lines.push_back({"t", full ? "(z_top − z)·A/Q" : "(z − z_bottom)·A/Q",
                         fmt::format("({:.12g} − {:.12g})·{:.10g}/{:.12g}", full ? to : z, full ? z : to,
                                     get(*r.values, area, m)->si(), std::abs(*q)),
                         *time, "s", "continuity, at the present flow"});
      return w;
    }
  if (!q || (key != "flow out" && key != "level rises by")) return std::nullopt;
  w.title = fmt::format("{} {}", key == "flow out" ? "Flow out of" : "Rate of rise of", r.name);
  const double sign = key == "flow out" && *q < 0 ? -1 : 1;
  std::string numbers;
  for (std::size_t i = 0; i < r.branches.size(); ++i) {
    const double v = sign * *r.branches[i].flow_m3s * (connection(*r.values, i, m, r.ends).inward ? -1 : 1);
    numbers += numbers.empty() ? fmt::format("{:.12g}", v)
                               : fmt::format(" {} {:.12g}", v < 0 ? "−" : "+", std::abs(v));
  }
  if (numbers.empty()) return std::nullopt;
  w.lines.push_back(
      {"Q", "ΣQ of its connections", numbers, sign * *q, "m³/s", "sum of flows leaving through its lines"});
  if (key == "flow out") return w;
  const auto a = get(*r.values, area, m);
  if (!a) return std::nullopt;
  w.lines.push_back({"dz/dt", "Q/A", fmt::format("{:.12g}/{:.10g}", std::abs(*q), a->si()),
                     std::abs(*q) / a->si(), "m/s", "continuity, over the area of the surface"});
  return w;
}

constexpr std::string_view labels[] = {"level", "flow out"};

}  // namespace

const Part part{
    .key = "tank",
    .plural = "Tanks",
    .prefix = "T",
    .letter = 'T',
    .group = Group::supply,
    .ends = Ends::many,
    .symbol =
        "W M -15 -3 L 15 -3 L 15 11 L -15 11 Z M -15 -12 L -15 11 L 15 11 L 15 -12 F M -4 -9 L 4 -9 L 0 -3 Z",
    .fields = fields,
    .outcomes = outcomes,
    .swaps = swaps,
    .labels = labels,
    .prepare = prepare,
    .story = story,
    .check = check,
    .lacks = lacks,
    .working = working,
    .stateWord = stateWord,
    .holdsHead = true};

}  // namespace conduit::tank
