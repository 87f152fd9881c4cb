#include "parts/pipe/working.h"

#include <fmt/format.h>

#include <cmath>

#include "parts/pipe/laws.h"
#include "parts/pipe/readings.h"

namespace conduit::pipe {

std::vector<KUsed> kUsed(const Reading& r) {
  std::vector<KUsed> used;
  const auto line = lineOf(*r.values, *r.setting, r.ends);
  const auto q = outcome::flow(r), v = velocity(r), re = reynolds(r);
  if (!line || !q) return used;
  if (const auto own = get(*r.values, extraK, r.setting->medium); own && own->si() > 0)
    used.push_back({"K", 1, "given", own->si()});
  if (const auto takeOff = takeOffOf(*r.values, *r.setting))
    for (const Piece& p : takeOff->pieces) {
      const double falling = p.fitting && p.fitting->k1 && *re > 0 ? p.count * *p.fitting->k1 / *re : 0.0,
                   k = p.k(line->bore_m) + falling;
      if (p.kind == PieceKind::fitting)
        used.push_back({p.word, p.count, std::string(p.fitting->method()), k});
      if (p.kind == PieceKind::ownK) used.push_back({"K", p.count, "given in the take-off", k});
    }
  if (const double change = *q < 0 ? line->backwardK : line->forwardK; change > 0)
    used.push_back({"changes of bore at ends", 1, "Borda 1766 and Carnot 1803; Crane TP-410", change});
  // What it loses more than by its own law is what tees at its ends take.
  const auto whole = outcome::headLoss(r);
  if (whole && v && *v > 0) {
    double memory = 0;
    const double beside = (*whole - lawOf(*line, *r.setting)->at(*q, memory).drop_m) * (*q < 0 ? -1 : 1);
    if (std::abs(beside) > 1e-5 + 1e-6 * std::abs(*whole))
      used.push_back({"tees at its ends", 1, "by flow split, Gardel 1957",
                      beside * 2 * r.setting->medium.gravity_ms2 / (*v * *v)});
  }
  return used;
}

std::optional<Working> working(const Reading& r, std::string_view outcomeKey) {
  const auto q = outcome::flow(r);
  const auto line = lineOf(*r.values, *r.setting, r.ends);
  if (outcomeKey == "loss per metre" && q && line && line->length_m > 0)
    if (const auto h = outcome::headLoss(r)) {
      Working w{.title = fmt::format("Gradient of {}", r.name)};
      w.lines.push_back({"i", "h/L", fmt::format("{:.12g}/{:.12g}", std::abs(*h), line->length_m),
                         std::abs(*h) / line->length_m, "",
                         "head loss over the length including equivalent lengths"});
      return w;
    }
  if (outcomeKey == "Reynolds number" && q && line)
    if (const auto v = velocity(r)) {
      Working w{.title = fmt::format("Reynolds number of {}", r.name)};
      w.lines.push_back({"v", "Q/A", fmt::format("{:.12g}/{:.12g}", std::abs(*q), line->section.area_m2), *v,
                         "m/s", "continuity"});
      w.lines.push_back({"Re", "v·D/ν",
                         fmt::format("{:.12g}·{:.12g}/{:.12g}", *v, line->bore_m, r.setting->viscosity_m2s),
                         *v * line->bore_m / r.setting->viscosity_m2s, "",
                         "Reynolds 1883; D the hydraulic diameter, ν the kinematic viscosity"});
      return w;
    }
  if (outcomeKey == "sum of K" && line)
    if (const auto sum = sumOfK(r)) {
      Working w{.title = fmt::format("Total K of {}", r.name)};
      std::string numbers, names;
      double counted = 0;
      for (const KUsed& used : kUsed(r)) {
        if (used.what.starts_with("tees")) continue;  // by the shares of the flow, beside the sum
        counted += used.k;
        numbers += fmt::format("{}{:.12g}", numbers.empty() ? "" : " + ", used.k);
        names += fmt::format("{}{}{} ({})", names.empty() ? "" : "; ",
                             used.count > 1 ? fmt::format("{} × ", used.count) : "", used.what, used.method);
      }
      if (std::abs(counted - *sum) > 1e-6 * *sum + 1e-9) return std::nullopt;
      w.lines.push_back({"ΣK", "ΣK of its fittings", numbers.empty() ? "0" : numbers, *sum, "",
                         names.empty() ? "no fittings" : names});
      return w;
    }
  if ((outcomeKey != "head loss" && outcomeKey != "velocity") || !q || !line) return std::nullopt;
  const double flow = std::abs(*q), area = line->section.area_m2, v = flow / area,
               g = r.setting->medium.gravity_ms2;
  const bool round = isSection(*r.values, 0);
  const double sumK = sumOfK(r).value_or(0.0);
  Working w{.title = fmt::format("{} of {}", outcomeKey == "velocity" ? "Velocity" : "Head loss", r.name)};
  if (round)
    w.lines.push_back(
        {"v", "4·Q/(π·D²)", fmt::format("4·{:.6g}/(π·{:.6g}²)", flow, line->bore_m), v, "m/s", "continuity"});
  else w.lines.push_back({"v", "Q/A", fmt::format("{:.6g}/{:.6g}", flow, area), v, "m/s", "continuity"});
  if (outcomeKey == "velocity") return w;
  if (r.setting->manning) {
    const double radius = line->bore_m / 4,
                 h = line->n * line->n * line->length_m * v * v / std::pow(radius, 4.0 / 3),
                 local = sumK * v * v / (2 * g);
    w.lines.push_back(
        {"h_f", "n²·L·v²/(D/4)^(4/3)",
         fmt::format("{:.6g}²·{:.6g}·{:.8g}²/({:.8g}/4)^(4/3)", line->n, line->length_m, v, line->bore_m), h,
         "m", "Manning 1891, hydraulic radius D/4"});
    w.lines.push_back({"h_K", "ΣK·v²/(2·g)", fmt::format("{:.8g}·{:.8g}²/(2·{:.6g})", sumK, v, g), local, "m",
                       "fittings and take-off"});
    w.lines.push_back({"h", "h_f + h_K", fmt::format("{:.8g} + {:.8g}", h, local), h + local, "m", ""});
    return w;
  }
  if (r.setting->hazenWilliams) {
    const auto& law = r.setting->hazenWilliamsLaw;
    const double h = hazenWilliamsResistance(*line, law) * std::pow(flow, law.flowExponent),
                 counted = flow * asRound(*line);
    if (!round)
      w.lines.push_back({"Q'", "Q·(π·D²/4)/A",
                         fmt::format("{:.8g}·(π·{:.8g}²/4)/{:.8g}", flow, line->bore_m, area), counted,
                         "m³/s", "the flow at this velocity in a round pipe of its hydraulic diameter D"});
    w.lines.push_back({"h_f", round ? "c·L·Q^n/(C^n·D^m)" : "c·L·Q'^n/(C^n·D^m)",
                       fmt::format("{:.6g}·{:.6g}·{:.8g}^{:.6g}/({:.6g}^{:.6g}·{:.8g}^{:.6g})",
                                   law.coefficient, line->length_m, counted, law.flowExponent, line->c,
                                   law.flowExponent, line->bore_m, law.boreExponent),
                       h, "m", "Williams and Hazen 1905, in SI"});
    const double local = sumK * v * v / (2 * g);
    w.lines.push_back({"h_K", "ΣK·v²/(2·g)", fmt::format("{:.8g}·{:.8g}²/(2·{:.6g})", sumK, v, g), local, "m",
                       "fittings and take-off"});
    w.lines.push_back({"h", "h_f + h_K", fmt::format("{:.6g} + {:.6g}", h, local), h + local, "m", ""});
    return w;
  }
  const double re = line->section.phi * v * line->bore_m / r.setting->viscosity_m2s;
  if (round)
    w.lines.push_back({"Re", "v·D/ν",
                       fmt::format("{:.6g}·{:.6g}/{:.6g}", v, line->bore_m, r.setting->viscosity_m2s), re, "",
                       "Reynolds 1883"});
  else
    w.lines.push_back(
        {"Re", "φ·v·D/ν",
         fmt::format("{:.8g}·{:.8g}·{:.8g}/{:.6g}", line->section.phi, v, line->bore_m,
                     r.setting->viscosity_m2s),
         re, "", "hydraulic diameter D = 4A/P; φ = 64/(f·Re) of the laminar flow (Shah and London 1978)"});
  double memory = 0, relative = line->roughness_m / line->bore_m;
  const double f = flow > 0 ? friction::factor(re, relative, memory).f : 0.0;
  if (re <= friction::laminarEnd_re) {
    w.lines.push_back({"f", "64/Re", flow > 0 ? fmt::format("64/{:.6g}", re) : "0", f, "",
                       "Hagen-Poiseuille, Re up to 2000"});
  } else if (re >= friction::turbulentBegin_re) {
    w.lines.push_back({"f", "1/(2·lg(ε/(3.7·D) + 2.51/(Re·√f)))²",
                       fmt::format("1/(2·lg({:.6g}/(3.7·{:.6g}) + 2.51/({:.6g}·√{:.8g})))²",
                                   line->roughness_m, line->bore_m, re, f),
                       f, "", "Colebrook 1939, solved iteratively (f on both sides)"});
  } else {
    double fresh = 0;
    const auto end = friction::colebrook(friction::turbulentBegin_re, relative, fresh);
    const double s = std::log(re / friction::laminarEnd_re) / std::log(2.0);
    w.lines.push_back({"f₄", "1/(2·lg(ε/(3.7·D) + 2.51/(4000·√f₄)))²",
                       fmt::format("1/(2·lg({:.6g}/(3.7·{:.6g}) + 2.51/(4000·√{:.8g})))²", line->roughness_m,
                                   line->bore_m, end.f),
                       end.f, "", "Colebrook 1939 at Re 4000"});
    w.lines.push_back({"s", "ln(Re/2000)/ln(2)", fmt::format("ln({:.6g}/2000)/ln(2)", re), s, "",
                       "position between Re 2000 and 4000"});
    w.lines.push_back(
        {"f", "e^((2s³−3s²+1)·ln 0.032 − (s³−2s²+s)·ln 2 + (3s²−2s³)·ln f₄ + (s³−s²)·m·ln 2)",
         fmt::format("exp((2·{0:.6g}³−3·{0:.6g}²+1)·ln(0.032) − ({0:.6g}³−2·{0:.6g}²+{0:.6g})·ln(2) + "
                     "(3·{0:.6g}²−2·{0:.6g}³)·ln({1:.6g}) + ({0:.6g}³−{0:.6g}²)·({2:.6g})·ln(2))",
                     s, end.f, end.logSlope),
         f, "",
         "program's own interpolation between laminar and turbulent laws; m = d ln f/d ln Re at Re 4000"});
  }
  const double h = (f * line->length_m / line->bore_m + sumK) * v * v / (2 * g);
  w.lines.push_back({"h", "(f·L/D + ΣK)·v²/(2·g)",
                     fmt::format("({:.8g}·{:.6g}/{:.6g} + {:.8g})·{:.6g}²/(2·{:.6g})", f, line->length_m,
                                 line->bore_m, sumK, v, g),
                     h, "m", "Darcy 1857, Weisbach 1845"});
  for (const KUsed& used : kUsed(r))
    w.remark +=
        fmt::format("{}{}{} {:.4g} ({})", w.remark.empty() ? "K: " : "; ",
                    used.count > 1 ? fmt::format("{} × ", used.count) : "", used.what, used.k, used.method);
  if (!w.remark.empty()) w.remark += ".";
  if (line->added_m > 0)
    w.remark += fmt::format("{}L includes {:.6g} m of equivalent length.", w.remark.empty() ? "" : " ",
                            line->added_m);
  if (const auto whole = outcome::headLoss(r)) {
    const double beside = (*q < 0 ? -*whole : *whole) - h;
    if (std::abs(beside) > 1e-5 + 1e-6 * h) {
      w.lines.push_back({"h_T", "H₁ − H₂ − h", fmt::format("{:.9g} − {:.9g}", *q < 0 ? -*whole : *whole, h),
                         beside, "m", "tees at its ends, by flow split (Gardel 1957)"});
    }
  }
  return w;
}

}  // namespace conduit::pipe
