#include "parts/orifice_plate.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "loss/orifice.h"
#include "parts/across.h"
#include "parts/flange.h"
#include "parts/seat.h"
#include "parts/waiver.h"
#include "quantity/format.h"

namespace conduit::orificeplate {
namespace {

constexpr Key<Bore> bore{"bore"}, pipeBore{"pipe bore"};
constexpr std::string_view tappings[] = {"corner", "flange", "D and D/2"};

const Field fields[] = {
    assume(releasable(need(field(bore, 1e-4, 20, "orifice bore"))), "50 mm"),
    field(pipeBore, 1e-4, 20, "bore of the pipe; default: the narrower pipe's"),
    choice("tappings", tappings, "position of the pressure tappings"),
    limitField(LimitId::flowLeast),
    limitField(LimitId::flowMost),
    limitField(LimitId::cavitationIndexLeast),
    limitField(LimitId::dropRatioMost),
    limitField(LimitId::ratingMost),
    flange::classField(),
    flange::materialField(),
    waivedField(),
    stockItem(),
    text("note", "free text"),
};

struct Plate {
  double pipe_m, ratio;
  orifice::Taps taps;
};
std::optional<Plate> plateOf(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  const auto d = get(values, bore, setting.medium), own = get(values, pipeBore, setting.medium);
  const auto pipe = seatBore(own ? std::optional(own->si()) : std::nullopt, ends);
  if (!d || !pipe) return std::nullopt;
  const std::string word = choiceOf(values, fields[2]);
  return Plate{*pipe, d->si() / *pipe,
               word == tappings[0]   ? orifice::Taps::corner
               : word == tappings[1] ? orifice::Taps::flange
                                     : orifice::Taps::halfway};
}

/// Permanent loss of ISO 5167-2:2003 as K on the pipe's velocity, the discharge coefficient at the flow's own
/// Reynolds number; below the least one the standard knows the coefficient stays what it is there.
class PlateLaw final : public Law {
 public:
  PlateLaw(const Plate& p, double viscosity_m2s, double gravity_ms2)
      : plate_(p),
        perFlow2_(velocityHeadFactor(p.pipe_m, gravity_ms2)),
        rePerFlow_(4 / (pi * p.pipe_m * viscosity_m2s)),
        least_(orifice::leastReynolds(p.ratio, p.pipe_m, p.taps)),
        low_(orifice::permanentK(p.ratio, orifice::coefficient(p.ratio, least_, p.pipe_m, p.taps).c).k *
                 perFlow2_,
             2.0) {}
  Loss at(double q, double&) const override {
    const double size = std::abs(q), re = size * rePerFlow_;
    if (re <= least_) return low_.at(q);
    const auto c = orifice::coefficient(plate_.ratio, re, plate_.pipe_m, plate_.taps);
    const auto k = orifice::permanentK(plate_.ratio, c.c);
    return {k.k * perFlow2_ * q * size,
            std::max((2 * k.k + k.byC * c.slope * re) * perFlow2_ * size, PowerLoss::leastSlope_sm2)};
  }
  std::unique_ptr<const Law> copy() const override { return std::make_unique<PlateLaw>(*this); }
  double startFlow_m3s() const override { return pi / 4 * plate_.pipe_m * plate_.pipe_m; }

 private:
  Plate plate_;
  double perFlow2_, rePerFlow_, least_;
  PowerLoss low_;
};

Prepared prepare(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  Prepared prepared;
  prepared.missing = lacking(values, fields);
  const auto plate = plateOf(values, setting, ends);
  if (prepared.missing.empty() && !plate)
    prepared.missing.push_back({"pipe bore", "a pipe bore, as no pipe is connected"});
  if (!prepared.missing.empty()) return prepared;
  if (plate->ratio < orifice::leastRatio || plate->ratio > orifice::mostRatio) {
    prepared.problem = Problem{{"", std::string(bore.text)},
                               fmt::format("diameter ratio is {}; ISO 5167-2 covers {} to {}",
                                           digits(plate->ratio, 3), orifice::leastRatio, orifice::mostRatio),
                               {}};
    return prepared;
  }
  prepared.branches.push_back(
      {0, 1, std::make_unique<PlateLaw>(*plate, setting.viscosity_m2s, setting.medium.gravity_ms2)});
  return prepared;
}

std::optional<double> reynolds(const Reading& r) {
  const auto q = outcome::flow(r);
  const auto plate = plateOf(*r.values, *r.setting, r.ends);
  return q && plate ? std::optional(std::abs(*q) * 4 / (pi * plate->pipe_m * r.setting->viscosity_m2s))
                    : std::nullopt;
}
std::optional<double> coefficient(const Reading& r) {
  const auto re = reynolds(r);
  const auto plate = plateOf(*r.values, *r.setting, r.ends);
  if (!re || !plate) return std::nullopt;
  return orifice::coefficient(plate->ratio,
                              std::max(*re, orifice::leastReynolds(plate->ratio, plate->pipe_m, plate->taps)),
                              plate->pipe_m, plate->taps)
      .c;
}
std::optional<double> metered(const Reading& r) {
  const auto q = outcome::flow(r), c = coefficient(r);
  const auto plate = plateOf(*r.values, *r.setting, r.ends);
  return q && c && plate ? std::optional(orifice::meteredDrop_pa(std::abs(*q), r.setting->medium.density_kgm3,
                                                                 plate->ratio, plate->pipe_m, *c))
                         : std::nullopt;
}
std::optional<double> ratio(const Reading& r) {
  const auto plate = plateOf(*r.values, *r.setting, r.ends);
  return plate ? std::optional(plate->ratio) : std::nullopt;
}
std::optional<double> kOfPipe(const Reading& r) {
  const auto c = coefficient(r), b = ratio(r);
  return c && b ? std::optional(orifice::permanentK(*b, *c).k) : std::nullopt;
}
const Outcome outcomes[] = {
    {"flow", Measure::volumeFlow, outcome::flow, SignBy::drawing},
    {"metered difference", Measure::pressureDrop, metered},
    {"pressure loss", Measure::pressureDrop, outcome::pressureLoss, SignBy::drawing},
    {"head loss", Measure::headDrop, outcome::headLoss, SignBy::drawing},
    {"discharge coefficient", Measure::number, coefficient},
    {"K", Measure::number, kOfPipe},
    {"bore ratio", Measure::number, ratio},
    {"Reynolds number", Measure::number, reynolds},
    {"cavitation index", Measure::number, across::cavitationIndex},
    {"pressure ratio", Measure::number, across::pressureRatio},
    {"pressure before", Measure::gaugePressure, outcome::pressureBefore},
    {"pressure after", Measure::gaugePressure, outcome::pressureAfter},
    {"gauge reading before", Measure::gaugePressure, outcome::gaugeBefore},
    {"gauge reading after", Measure::gaugePressure, outcome::gaugeAfter},
};

std::string story(const Reading& r, const UnitSet& units) {
  const auto q = outcome::flow(r), dp = metered(r), loss = outcome::pressureLoss(r);
  if (!q || !dp || !loss) return "Flow not determined.";
  return fmt::format("Passes {}, differential pressure {}, permanent loss {}.",
                     withUnit(std::abs(*q), Measure::volumeFlow, units, 3),
                     withUnit(*dp, Measure::pressureDrop, units, 3),
                     withUnit(std::abs(*loss), Measure::pressureDrop, units, 3));
}

void check(const Reading& r, Checks& checks) {
  across::check(r, fields, checks);
  const auto p = r.setting->vapourKnown ? across::of(r) : std::nullopt;
  if (const auto dp = metered(r); p && dp && *dp > 1.0) {
    // The metered difference is very nearly that to the narrowest of the jet.
    const Limit most{std::max(0.0, p->before_pa - r.setting->vapour_pa), LimitFrom::law};
    Check& c = checks.hold(CheckId::choking, *dp, {}, most, Severity::near);
    if (checks.told(c))
      c.what = fmt::format(
          "the liquid vaporises in the jet of {}: {} below the pressure before it, of which {} may be taken; "
          "its coefficient does not hold",
          r.name, withUnit(c.value, Measure::pressureDrop, checks.units(), 3),
          withUnit(*c.most, Measure::pressureDrop, checks.units(), 3));
  }
  const auto re = reynolds(r);
  const auto plate = plateOf(*r.values, *r.setting, r.ends);
  if (!re || !plate || *re <= 0) return;
  const double least = orifice::leastReynolds(plate->ratio, plate->pipe_m, plate->taps);
  Check& c = checks.hold(CheckId::reynolds, *re, {least, LimitFrom::standard}, {}, Severity::note);
  if (checks.told(c))
    c.what = fmt::format("{} is at Re {}; the ISO 5167-2 coefficient is valid from {}", r.name,
                         digits(*re, 3), digits(least, 3));
  if (plate->pipe_m < orifice::leastPipe_m || plate->pipe_m > orifice::mostPipe_m ||
      plate->ratio * plate->pipe_m < orifice::leastBore_m) {
    Check& size = checks.say(CheckId::plateSize, Severity::note);
    if (checks.told(size))
      size.what =
          fmt::format("{} is outside the range of ISO 5167-2: pipe 50 to 1000 mm, bore from 12.5 mm", r.name);
  }
}

std::vector<Lack> lacks(const Reading& r) {
  auto gaps = across::lacks(r, fields);
  const auto dp = metered(r);
  if (!r.setting->vapourKnown && dp && *dp > 1.0) gaps.push_back({CheckId::choking, "vapour pressure", true});
  return gaps;
}

std::optional<Working> working(const Reading& r, std::string_view key) {
  if (auto w = across::working(r, key)) return w;
  const auto q = outcome::flow(r), c = coefficient(r), k = kOfPipe(r), b = ratio(r);
  const auto plate = plateOf(*r.values, *r.setting, r.ends);
  if (!q || !c || !k || !b || !plate) return std::nullopt;
  const double rho = r.setting->medium.density_kgm3, nu = r.setting->viscosity_m2s;
  const auto one = [&](std::string title, WorkingLine line) {
    Working w{.title = fmt::format("{} of {}", title, r.name)};
    w.lines.push_back(std::move(line));
    return w;
  };
  if (key == "bore ratio")
    return one("Diameter ratio",
               {"β", "d/D", fmt::format("{:.12g}/{:.12g}", *b * plate->pipe_m, plate->pipe_m), *b, "",
                "ISO 5167-2"});
  if (key == "Reynolds number")
    return one(
        "Reynolds number",
        {"Re", "4·Q/(π·D·ν)", fmt::format("4·{:.12g}/(π·{:.12g}·{:.12g})", std::abs(*q), plate->pipe_m, nu),
         *reynolds(r), "", "in the pipe"});
  if (key == "metered difference" && metered(r))
    return one("Differential pressure",
               {"Δp", "(4·Q/(π·D²·β²·C))²·ρ·(1 − β⁴)/2",
                fmt::format("(4·{:.12g}/(π·{:.12g}²·{:.12g}²·{:.12g}))²·{:.12g}·(1 − {:.12g}^4)/2",
                            std::abs(*q), plate->pipe_m, *b, *c, rho, *b),
                *metered(r), "Pa", "ISO 5167-2:2003, 4; liquid: expansibility factor 1"});
  if (key == "K") {
    const double s = std::sqrt(1 - std::pow(*b, 4) * (1 - *c * *c));
    Working w = one("K", {"s", "√(1 − β⁴·(1 − C²))", fmt::format("√(1 − {0:.12g}^4·(1 − {1:.12g}²))", *b, *c),
                          s, "", "ISO 5167-2:2003, 5.4"});
    w.lines.push_back(
        {"K", "(s/(C·β²) − 1)²", fmt::format("({:.12g}/({:.12g}·{:.12g}²) − 1)²", s, *c, *b), *k, "", ""});
    return w;
  }
  if (key == "discharge coefficient") {
    const double re =
                     std::max(*reynolds(r), orifice::leastReynolds(plate->ratio, plate->pipe_m, plate->taps)),
                 mm = plate->pipe_m * 1000;
    const bool corner = plate->taps == orifice::Taps::corner, halfway = plate->taps == orifice::Taps::halfway;
    const double l1 = corner    ? 0.0
                      : halfway ? 1.0
                                : 25.4 / mm,
                 l2 = corner    ? 0.0
                      : halfway ? 0.47
                                : 25.4 / mm;
    const double A = std::pow(19000 * *b / re, 0.8), M = 2 * l2 / (1 - *b);
    Working w = one("Discharge coefficient",
                    {"A", "(19000·β/Re)^0.8", fmt::format("(19000·{:.12g}/{:.12g})^0.8", *b, re), A, "",
                     "Reader-Harris and Gallagher 1998, ISO 5167-2"});
    w.lines.push_back({"M", "2·L₂/(1 − β)", fmt::format("2·{:.12g}/(1 − {:.12g})", l2, *b), M, "",
                       "for the tapping position"});
    w.lines.push_back(
        {"C",
         "0.5961 + 0.0261·β² − 0.216·β⁸ + 0.000521·(10⁶·β/Re)^0.7 + (0.0188 + 0.0063·A)·β^3.5·(10⁶/Re)^0.3 + "
         "(0.043 + "
         "0.08·e^(−10·L₁) − 0.123·e^(−7·L₁))·(1 − 0.11·A)·β⁴/(1 − β⁴) − 0.031·(M − 0.8·M^1.1)·β^1.3",
         fmt::format(
             "0.5961 + 0.0261·{0:.12g}² − 0.216·{0:.12g}^8 + 0.000521·(1000000·{0:.12g}/{1:.12g})^0.7 + "
             "(0.0188 + "
             "0.0063·{2:.12g})·{0:.12g}^3.5·(1000000/{1:.12g})^0.3 + (0.043 + 0.08·exp(−10·{3:.12g}) − "
             "0.123·exp(−7·{3:.12g}))·(1 − 0.11·{2:.12g})·{0:.12g}^4/(1 − {0:.12g}^4) − 0.031·({4:.12g} − "
             "0.8·{4:.12g}^1.1)·{0:.12g}^1.3{5}",
             *b, re, A, l1, M,
             mm < 71.12 ? fmt::format(" + 0.011·(0.75 − {:.12g})·(2.8 − {:.12g}/25.4)", *b, mm) : ""),
         *c, "", mm < 71.12 ? "and 0.011·(0.75 − β)·(2.8 − D/25.4 mm) below 71.12 mm" : ""});
    return w;
  }
  if (key != "head loss") return std::nullopt;
  const double g = r.setting->medium.gravity_ms2, v = std::abs(*q) / (pi / 4 * plate->pipe_m * plate->pipe_m);
  Working w{.title = fmt::format("Permanent loss of {}", r.name)};
  w.lines.push_back({"v", "4·Q/(π·D²)", fmt::format("4·{:.8g}/(π·{:.6g}²)", std::abs(*q), plate->pipe_m), v,
                     "m/s", "continuity, in the pipe"});
  w.lines.push_back({"s", "√(1 − β⁴·(1 − C²))", fmt::format("√(1 − {0:.8g}^4·(1 − {1:.8g}²))", *b, *c),
                     std::sqrt(1 - std::pow(*b, 4) * (1 - *c * *c)), "", "ISO 5167-2:2003, 5.4"});
  w.lines.push_back(
      {"K", "(s/(C·β²) − 1)²",
       fmt::format("({:.9g}/({:.8g}·{:.8g}²) − 1)²", std::sqrt(1 - std::pow(*b, 4) * (1 - *c * *c)), *c, *b),
       *k, "", "ISO 5167-2:2003, 5.4"});
  w.lines.push_back(
      {"h", "K·v²/(2·g)", fmt::format("{:.8g}·{:.8g}²/(2·{:.7g})", *k, v, g), *k * v * v / (2 * g), "m", ""});
  w.remark = fmt::format(
      "C = {:.6g} after Reader-Harris and Gallagher 1998 at the Reynolds number of the pipe.", *c);
  return w;
}

constexpr std::string_view labels[] = {"flow", "metered difference"};
constexpr std::string_view workings[] = {"head loss"};

}  // namespace

const Part part{
    .key = "orifice plate",
    .plural = "Orifice plates",
    .prefix = "O",
    .letter = 'O',
    .group = Group::inLine,
    .ends = Ends::two,
    .symbol = "M -12 0 L -3 0 M 3 0 L 12 0 M -3 -9 L -3 -2 M 3 -9 L 3 -2 M -3 9 L -3 2 M 3 9 L 3 2",
    .fields = fields,
    .outcomes = outcomes,
    .labels = labels,
    .workings = workings,
    .prepare = prepare,
    .story = story,
    .check = check,
    .lacks = lacks,
    .working = working,
};

}  // namespace conduit::orificeplate
