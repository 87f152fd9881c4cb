#include "plot/pump_figure.h"

#include <QCoreApplication>
#include <cmath>

#include "look/round_numbers.h"
#include "look/words.h"
#include "quantity/format.h"

namespace conduit::desktop {
namespace {

QString tr(const char* words) { return QCoreApplication::translate("PumpFigure", words); }

struct Scale {
  const Unit& flow;
  const Unit& value;
  StackCurve operator()(const Line& line, QString name, Tone tone, double width, bool dashed = false) const {
    StackCurve c{.name = std::move(name), .tone = tone, .width = width, .dashed = dashed};
    for (const DutyPoint& p : line) {
      c.x.push_back(inUnit(p.flow_m3s, flow));
      c.y.push_back(std::isfinite(p.head_m) ? inUnit(p.head_m, value) : NAN);
    }
    return c;
  }
};

}  // namespace

StackData stackOf(const PumpFigure& f, const UnitSet& units, bool small) {
  StackData data;
  data.small = small;
  const Unit &flow = units.unitFor(Measure::volumeFlow), &head = units.unitFor(Measure::headDrop),
             &power = units.unitFor(Measure::power);
  data.unit = text(flow.symbol);
  const bool curved = f.sheet && !f.sheet->empty;
  double most = curved ? f.sheet->runOut_m3s : 0.0;
  if (f.duty_m3s) most = std::max(most, *f.duty_m3s * 1.15);
  for (const PumpFigure::Laid& l : f.laid) most = std::max(most, l.sheet.runOut_m3s);
  if (!curved)
    for (const PumpFigure::System& s : f.systems)
      if (s.curve) most = std::max(most, s.curve->last());
  data.most = inUnit(most, flow) * 1.05;
  const Scale toHead{flow, head};

  StackPane heads{.label = tr("head"), .unit = text(head.symbol), .share = small ? 2.2 : 3.6};
  if (curved) {
    const CurveSheet& s = *f.sheet;
    if (s.best_m3s) {
      if (s.allowedLeast || s.allowedMost)
        data.bands.push_back({inUnit(s.allowedLeast.value_or(0.0) * *s.best_m3s, flow),
                              std::min(inUnit(s.allowedMost.value_or(9.0) * *s.best_m3s, flow), data.most),
                              {},
                              false});
      data.bands.push_back({inUnit(s.preferredLeast * *s.best_m3s, flow),
                            inUnit(s.preferredMost * *s.best_m3s, flow),
                            tr("preferred %1–%2 %")
                                .arg(s.preferredLeast * 100, 0, 'f', 0)
                                .arg(s.preferredMost * 100, 0, 'f', 0),
                            true});
    }
    if (f.families && !small) {
      for (const EqualEfficiency& e : s.equal) {
        StackCurve line =
            toHead(e.points, QString("%1 %").arg(e.efficiency * 100, 0, 'f', 0), Tone::other3, 1.0);
        line.sorted = false;
        heads.curves.push_back(std::move(line));
      }
      for (const NamedLine& l : s.speeds)
        heads.curves.push_back(toHead(l.points, QString::fromStdString(l.name), Tone::quiet, 1.1, true));
      for (const NamedLine& l : s.trims)
        heads.curves.push_back(toHead(l.points, QString::fromStdString(l.name), Tone::quiet, 0.9, true));
      if (!s.oneUnit.empty()) heads.curves.push_back(toHead(s.oneUnit, tr("one unit"), Tone::quiet, 1.4));
    }
    heads.curves.push_back(toHead(s.head, small ? QString() : f.name, Tone::ink, 2.4));
  }
  for (const PumpFigure::Laid& l : f.laid) {
    heads.curves.push_back(toHead(l.sheet.head, l.name, Tone::other2, 1.7));
    if (l.flow_m3s && l.head_m)
      heads.marks.push_back({.id = "laid",
                             .x = inUnit(*l.flow_m3s, flow),
                             .y = inUnit(*l.head_m, head),
                             .tone = Tone::other2,
                             .ring = true});
  }
  bool first = true;
  for (const PumpFigure::System& s : f.systems) {
    if (s.curve)
      heads.curves.push_back(
          toHead(s.curve->points, small ? QString() : s.name, Tone::water, first ? 2.2 : 1.4, !first));
    first = false;
  }
  if (f.duty_m3s && f.dutyHead_m) {
    heads.marks.push_back({.id = "duty",
                           .x = inUnit(*f.duty_m3s, flow),
                           .y = inUnit(*f.dutyHead_m, head),
                           .draggable = !small});
    if (!small) data.lines.push_back({.at = inUnit(*f.duty_m3s, flow)});
  }
  if (f.read_m3s && f.readHead_m)
    heads.marks.push_back({.id = "read",
                           .x = inUnit(*f.read_m3s, flow),
                           .y = inUnit(*f.readHead_m, head),
                           .draggable = true,
                           .ring = true});
  // Lines of other speeds may lie far over what matters.
  double top = 0.0;
  for (const StackCurve& c : heads.curves)
    if (c.width >= 1.35)
      for (std::size_t k = 0; k < c.y.size(); ++k)
        if (std::isfinite(c.y[k]) && c.x[k] <= data.most) top = std::max(top, c.y[k]);
  if (top > 0) heads.most = roundUp(top * 1.04);
  data.panes.push_back(std::move(heads));

  const bool npsh =
      (curved && !f.sheet->npshRequired.empty()) || (f.npshAvailable && !f.npshAvailable->empty());
  if (npsh) {
    StackPane pane{.label = tr("NPSH"), .unit = text(head.symbol), .share = small ? 1.0 : 1.2};
    if (f.npshAvailable && !f.npshAvailable->empty())
      pane.curves.push_back(toHead(*f.npshAvailable, small ? QString() : tr("available"), Tone::water, 1.8));
    if (curved && !f.sheet->npshRequired.empty()) {
      if (!pane.curves.empty()) pane.curves.front().shadeTo = 1;
      pane.curves.push_back(
          toHead(f.sheet->npshRequired, small ? QString() : tr("required"), Tone::ink, 1.8));
    }
    for (const PumpFigure::Laid& l : f.laid)
      if (!l.sheet.npshRequired.empty())
        pane.curves.push_back(toHead(l.sheet.npshRequired, {}, Tone::other2, 1.4));
    if (f.marginGone_m3s && inUnit(*f.marginGone_m3s, flow) < data.most && !small)
      data.lines.push_back({.at = inUnit(*f.marginGone_m3s, flow),
                            .name = tr("margin limit at %1")
                                        .arg(QString::fromStdString(
                                            withUnit(*f.marginGone_m3s, Measure::volumeFlow, units, 3))),
                            .tone = Tone::warning,
                            .pane = 1});
    data.panes.push_back(std::move(pane));
  }
  if (!small && curved && !f.sheet->efficiency.empty()) {
    StackPane pane{.label = tr("efficiency"), .unit = "%", .share = 1.1};
    const Unit percent{.symbol = "%", .factor = 0.01};
    pane.curves.push_back(Scale{flow, percent}(f.sheet->efficiency, {}, Tone::ink, 1.8));
    for (const PumpFigure::Laid& l : f.laid)
      if (!l.sheet.efficiency.empty())
        pane.curves.push_back(Scale{flow, percent}(l.sheet.efficiency, {}, Tone::other2, 1.4));
    pane.most = 100;
    data.panes.push_back(std::move(pane));
    StackPane shaft{.label = tr("power"), .unit = text(power.symbol), .share = 1.1};
    shaft.curves.push_back(Scale{flow, power}(f.sheet->shaft_w, {}, Tone::ink, 1.8));
    for (const PumpFigure::Laid& l : f.laid)
      if (!l.sheet.shaft_w.empty())
        shaft.curves.push_back(Scale{flow, power}(l.sheet.shaft_w, {}, Tone::other2, 1.4));
    if (f.sheet->driver_w) {
      data.lines.push_back({.at = inUnit(*f.sheet->driver_w * f.sheet->units, power),
                            .name = tr("driver"),
                            .tone = Tone::warning,
                            .pane = static_cast<int>(data.panes.size()),
                            .level = true});
      shaft.most = std::max(roundUp(inUnit(*f.sheet->driver_w * f.sheet->units, power) * 1.15), 0.0);
    }
    data.panes.push_back(std::move(shaft));
  }
  return data;
}

}  // namespace conduit::desktop
