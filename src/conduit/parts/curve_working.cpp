#include "parts/curve_working.h"

#include <fmt/format.h>

namespace conduit {

void addCurveLines(Working& working, const MonotoneCurve& curve, double x, const std::string& symbol,
                   const std::string& unit, double factor, const std::string& factorSource) {
  const MonotoneCurve::Piece p = curve.pieceAt(x);
  const double value = curve.at(x).value;
  const std::string name = factor == 1.0 ? symbol : symbol + "\u2032";
  if (p.beyond) {
    working.lines.push_back(
        {name, "y + m·(x − x\u2080)",
         fmt::format("{:.12g} + {:.12g}·({:.12g} − {:.12g})", p.from.y, p.slopeFrom, x, p.from.x), value,
         unit, "beyond the given points: straight at the end slope"});
  } else {
    const double span = p.to.x - p.from.x, t = (x - p.from.x) / span;
    working.lines.push_back(
        {"t", "(x − x\u2080)/(x\u2081 − x\u2080)",
         fmt::format("({:.12g} − {:.12g})/({:.12g} − {:.12g})", x, p.from.x, p.to.x, p.from.x), t, "",
         "position between two given curve points"});
    working.lines.push_back(
        {name,
         "(2t³ − 3t² + 1)·y\u2080 + (t³ − 2t² + t)·Δx·m\u2080 + (3t² − 2t³)·y\u2081 + (t³ − t²)·Δx·m\u2081",
         fmt::format("(2·{0:.12g}³ − 3·{0:.12g}² + 1)·{1:.12g} + ({0:.12g}³ − 2·{0:.12g}² + "
                     "{0:.12g})·{2:.12g}·({3:.12g}) + "
                     "(3·{0:.12g}² − 2·{0:.12g}³)·{4:.12g} + ({0:.12g}³ − {0:.12g}²)·{2:.12g}·({5:.12g})",
                     t, p.from.y, span, p.slopeFrom, p.to.y, p.slopeTo),
         value, unit, "monotone cubic through the given points, slopes after Fritsch and Butland 1984"});
  }
  if (factor != 1.0)
    working.lines.push_back({symbol, name + "·s", fmt::format("{:.12g}·{:.12g}", value, factor),
                             value * factor, unit, factorSource});
}

}  // namespace conduit
