// The face of a kind of equipment. One file pair in this folder makes a kind; registry.cpp has one line for
// each. This header knows no network and no kind.
//
//   const Part& part = *findPart("strainer");
//   Prepared law = part.prepare(values, setting, ends);   // values -> laws, once before solving
#pragma once

#include <algorithm>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "fields/field.h"
#include "fluid/water.h"
#include "friction/friction.h"
#include "parts/law.h"
#include "parts/limit.h"

namespace conduit {

struct Stock;

/// What holds for the whole job: the liquid, the place, the friction law, the engineer's limits. SI.
struct Setting {
  Medium medium;
  double viscosity_m2s = 1.0e-6;
  double vapour_pa = 2339.0;
  bool vapourKnown = true;              // false: nobody has said it, and what needs it is not judged
  std::optional<double> critical_pa;    // where it is known
  std::optional<double> temperature_c;  // likewise
  std::string liquid;                   // "water at 10 °C"
  std::string liquidSource;             // whose equations, and how good they are
  bool hazenWilliams = false, manning = false;
  double mains_hz = 50.0;
  friction::HazenWilliams hazenWilliamsLaw;
  Limits limits;                                        // of the job
  std::map<std::string, Limits, std::less<>> services;  // by name; what a service does not say is the job's
  const Stock* stock = nullptr;
  double altitude_m = 0.0,
         altitudeAt_m = 0.0;  // of the site above the sea, and the height of the drawing at which it holds
  /// Pressure of the air at a height of the drawing, Pa absolute (ISO 2533); that at the site's altitude is
  /// `medium.atmosphere_pa`.
  [[nodiscard]] double atmosphereAt(double height_m) const {
    return air::pressureAt(
               Height::fromSi(std::clamp(altitude_m + height_m - altitudeAt_m, air::least_m, air::most_m)))
        .si();
  }
  /// The medium with the air of a height: what a pressure typed as absolute is counted from there.
  [[nodiscard]] Medium mediumAt(std::optional<double> height_m) const {
    Medium there = medium;
    if (height_m) there.atmosphere_pa = atmosphereAt(*height_m);
    return there;
  }
  /// (p_atm − p_v)/(ρ g) at a height: how far below a pipe there the hydraulic grade may fall before the
  /// liquid boils, m.
  [[nodiscard]] double vapourDepth_m(double height_m) const {
    return medium.columnOf(atmosphereAt(height_m) - vapour_pa);
  }
};

/// What an element sees of the point one of its ends is joined to.
struct EndPlace {
  std::optional<double> height_m;
  std::optional<double> bore_m;  // of the widest pipe that meets there; by area where it is not round
  /// Where just two pipes meet and the point says how their bores change into one another.
  struct Change {
    double other_m = 0.0;      // bore of the other pipe
    double angle_deg = 180.0;  // full angle of the cone; 180: sudden
  };
  std::optional<Change> change{};
};

/// An inner place of an element: a tank's surface, the air outside a nozzle. Its head is known, or it takes a
/// flow.
struct Vessel {
  std::optional<double> head_m;
  double inflow_m3s = 0.0;
  double height_m = 0.0;
};

/// One path through an element. `from` and `to` >= 0 are ends, −1 − j is vessel j.
struct Branch {
  int from = 0, to = 1;
  std::unique_ptr<const Law> law;
  std::optional<double> givenFlow_m3s{};  // then the law plays no part
  bool shut = false;                      // by its own given (closed, not running)
  // Of a law that holds a head: the point where, if not its own end; the point whose head it is counted over,
  // if any.
  std::string holdsAt{}, over{};
};

/// An optional for a value that is rarely set: it takes the room of a pointer when empty.
template <class T>
class BoxedOptional {
 public:
  BoxedOptional& operator=(std::optional<T> value) {
    value_ = value ? std::make_unique<T>(std::move(*value)) : nullptr;
    return *this;
  }
  explicit operator bool() const { return value_ != nullptr; }
  const T& operator*() const { return *value_; }
  const T* operator->() const { return value_.get(); }

 private:
  std::unique_ptr<T> value_;
};

struct Prepared {
  std::vector<MissingField> missing;  // not empty: nothing else counts
  BoxedOptional<Problem> problem;     // a given that cannot be used at all
  std::vector<Vessel> vessels;
  std::vector<Branch> branches;
  std::optional<double> holdsHead_m;  // of the point at end 0
  double inflow_m3s = 0.0;            // into the point at end 0 (or into the point itself)
};

enum class BranchState { open, shut, acting };

struct BranchReading {
  std::optional<double> flow_m3s, headFrom_m, headTo_m;
  BranchState state = BranchState::open;
};

/// A solved element as its part sees it. Heads and flows that are not determined are empty.
struct Reading {
  std::string name;
  std::span<const std::string> endNames;  // of the points its ends are joined to
  const Values* values = nullptr;
  const Setting* setting = nullptr;
  std::span<const EndPlace> ends;
  std::span<const BranchReading> branches;
  std::span<const std::optional<double>> vesselHeads;
  std::optional<double> head_m;      // of a point
  std::optional<double> inflow_m3s;  // into the point at end 0, where the part holds its head
};

/// What the sign of a found number goes by: nothing but its own kind; the direction in which an element is
/// drawn; what is given to the network (less than nothing: it takes); a level that rises or falls.
enum class SignBy { itself, drawing, giving, rising };

/// Something that is found: one row under "Found", one column of the ledger, one key in the results.
struct Outcome {
  std::string_view key;
  Measure measure;
  std::optional<double> (*of)(const Reading&);
  SignBy sign = SignBy::itself;
};

/// A found number as people are shown it: a flow has a size and a direction, never a minus because of how a
/// pipe was drawn. Files and JSON keep the sign.
struct Shown {
  double si = 0.0;
  bool against = false;  // the drawing's direction
  bool taken = false;    // from the network
  bool falling = false;
};
[[nodiscard]] std::optional<Shown> shownOf(const Outcome& outcome, const Reading& reading);
/// "10.8", "← 10.8", "takes 10.8", with the unit if asked for.
[[nodiscard]] std::string asShown(const Shown& shown, Measure measure, const UnitSet& units, int significant,
                                  bool unit);

/// An outcome that may be given, and the field that is then found instead.
struct Swap {
  std::string_view give;     // a field: "duty flow"
  std::string_view release;  // "curve"
  std::string_view outcome;  // the found number that fills `give` when it is swapped in
};

/// What stands on the drawing and is nothing that water passes.
enum class Paper { none, remark, dimension, picture };

enum class Group { none, supply, line, lift, restrain, inLine, drawOff, drawing };
/// `free` stands on the drawing and is joined to nothing.
enum class Ends { none, self, one, two, many, free };

/// The curve family that a card may draw: points of (flow, value) for "head", "efficiency", "NPSH required".
struct FigureCurve {
  std::string label;
  Measure measure;
  std::vector<std::pair<double, double>> points;
};

/// Lengths and bores that drawings, routes and neighbours need; empty where the kind has none. The bore of a
/// section that is not round is that of the round one of the same area: velocities at its ends and in what is
/// set into it follow from it.
struct Geometry {
  std::optional<double> bore_m, length_m, rating_pa;
};

/// How the fittings of a line were counted: the K used at the flow that was found, all of `count` together on
/// the velocity in the line, and where it comes from.
struct KUsed {
  std::string what;
  int count = 1;
  std::string method;
  double k = 0.0;
};

/// What an element is judged by, read from its values once: each answer more costs only its numbers.
class Gauge {
 public:
  virtual ~Gauge() = default;
  virtual void look(const Reading& reading, Checks& checks) const = 0;
};

/// A check that applies to an element and cannot be judged, and the field, of the element or of the job, that
/// would say what is lacking.
struct Lack {
  CheckId check;
  std::string_view field;
  bool ofJob = false;
};

/// How an element stands when nothing flows, for the greatest pressure that its neighbours can come to.
struct NoFlow {
  enum class Way : std::uint8_t {
    passes,   // a head passes both ways
    forward,  // from its start to its end alone
    shut,
    keeps,      // forward, to no more than `head_m` over the height of `sensedAt` (of its end, where empty)
    relieves,   // lets nothing stand higher than `head_m` over the height of its start
    lifts,      // by `head_m`
    displaces,  // whatever stands against it
    unknown     // it lifts, by what nothing says
  };
  Way way = Way::passes;
  double head_m = 0.0;
  std::string sensedAt{};
};

struct Part {
  std::string_view key;     // in files: "reducing valve"
  std::string_view plural;  // "Reducing valves"
  std::string_view prefix;  // of names: "V"
  char letter = 0;          // on the rack and while drawing; 0: none
  Group group = Group::none;
  Ends ends = Ends::two;
  /// Strokes in a box of ±16 about the middle, flow to the right. M x y, L x y, Z, O x y r (circle), A x y w
  /// h start span (degrees); a leading F fills with ink, W with the liquid.
  std::string_view symbol;
  std::span<const Field> fields;
  std::span<const Outcome> outcomes;
  std::span<const Swap> swaps;
  std::span<const std::string_view> labels;  // outcomes shown beside it in Plan
  std::string_view labelsJoin = ", ";
  std::span<const std::string_view> workings;  // outcomes that can show their working, the main one first
  Prepared (*prepare)(const Values&, const Setting&, std::span<const EndPlace>) = nullptr;
  std::string (*story)(const Reading&, const UnitSet&) = nullptr;
  void (*check)(const Reading&, Checks&) = nullptr;
  // What applies to it and cannot be judged, since something is not known.
  std::vector<Lack> (*lacks)(const Reading&) = nullptr;
  // Of a kind with two ends; where there is none a head passes both ways, unless it is shut by its givens.
  NoFlow (*atNoFlow)(const Reading&) = nullptr;
  // In place of `check`, for kinds of which there are thousands.
  std::unique_ptr<const Gauge> (*gauge)(const Values&, const Setting&, std::span<const EndPlace>) = nullptr;
  std::optional<Working> (*working)(const Reading&, std::string_view outcome) = nullptr;
  std::string (*stateWord)(const Reading&) = nullptr;
  Geometry (*geometry)(const Values&, const Setting&) = nullptr;
  std::vector<FigureCurve> (*figure)(const Reading&) = nullptr;
  std::vector<KUsed> (*kUsed)(const Reading&) = nullptr;

  // What the rest of the program asks of a kind, in place of its word.
  bool line = false;          // a length of pipe: it has a size, is laid and priced by the metre
  bool lifts = false;         // a pump: it has a duty, a suction, candidates
  bool holdsHead = false;     // a boundary: it provides or takes the flow that its head needs
  bool balances = false;      // it is opened so far that its branch has its flow
  bool barsBackflow = false;  // it shuts against the flow
  bool exchanges = false;     // what is supplied is used in it, and returns
  bool service = false;       // limits by name
  Paper paper = Paper::none;
};

/// Bore that a device is set into: its own if given, else the narrower of the pipes that meet it.
[[nodiscard]] std::optional<double> seatBore(std::optional<double> own_m, std::span<const EndPlace> ends);

/// The two ends of a branch read out, if both are determined: head lost from start to end.
[[nodiscard]] std::optional<double> dropOf(const BranchReading& branch);

/// Findings every element shares are made by limits/; this is the pressure at the point of end `i`, Pa gauge.
[[nodiscard]] std::optional<double> endPressure_pa(const Reading& reading, std::size_t i);

/// What a gauge on the wall of the pipe joined at end `i` shows: the pressure of still water less ρ v²/2
/// there, Pa gauge. Empty where no pipe is joined or the flow is not determined.
[[nodiscard]] std::optional<double> gaugeReading_pa(const Reading& reading, std::size_t i);

/// The row every link shows: flow, drop, the bore's velocity. Used in outcome tables of two-ended parts.
namespace outcome {
[[nodiscard]] std::optional<double> flow(const Reading& reading);
[[nodiscard]] std::optional<double> headLoss(const Reading& reading);
[[nodiscard]] std::optional<double> pressureLoss(const Reading& reading);
[[nodiscard]] std::optional<double> pressureBefore(const Reading& reading);
[[nodiscard]] std::optional<double> pressureAfter(const Reading& reading);
[[nodiscard]] std::optional<double> gaugeBefore(const Reading& reading);
[[nodiscard]] std::optional<double> gaugeAfter(const Reading& reading);
}  // namespace outcome

/// The limits that hold for an element: its own fields first (a pressure typed as absolute is counted from
/// the air at `height_m`), then those of the service it names, then the job's.
[[nodiscard]] Limits limitsFor(const Values& values, const Setting& setting,
                               std::optional<double> height_m = std::nullopt);
/// What does not apply to an element: as it says itself, its service or the job.
[[nodiscard]] CheckSet waivedFor(const Values& values, const Setting& setting);
/// The sentence of a pressure above a rating.
void tellRating(const Reading& reading, Check& check, const UnitSet& units);
/// Everything that is judged of one element by itself: what its kind says, and its own limits of flow.
void checkElement(const Part& part, const Reading& reading, Checks& checks);
/// An element that its own givens keep shut (closed, stopped, not laid) need not pass a least flow.
[[nodiscard]] bool isShutByGivens(const Values& values);
/// A flow held against the element's own `flow at least` and `flow at most`; `passes`: the verb of the
/// sentence.
void checkFlow(const Reading& reading, double flow_m3s, Limit least, Limit most, std::string_view passes,
               Checks& checks);
/// The field that names the service whose limits hold.
inline constexpr std::string_view serviceKey = "service";

[[nodiscard]] const Field* findField(const Part& part, std::string_view key);
[[nodiscard]] const Outcome* findOutcome(const Part& part, std::string_view key);
/// What that outcome is, SI; empty where the part has none of that key or nothing determines it.
[[nodiscard]] std::optional<double> outcomeOf(const Part& part, std::string_view key, const Reading& reading);

}  // namespace conduit
