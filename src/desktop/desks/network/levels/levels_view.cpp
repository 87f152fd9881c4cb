#include "levels/levels_view.h"

#include <QTimer>
#include <algorithm>
#include <cmath>

#include "fields/keys.h"
#include "look/round_numbers.h"
#include "quantity/format.h"

namespace conduit::desktop {
LevelsView::LevelsView(Document& document, QWidget* parent)
    : QWidget(parent), doc_(document), look_(Look::light()) {
  setObjectName("levels");
  setAttribute(Qt::WA_OpaquePaintEvent);
  setAccessibleName(tr("Levels"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(240, 90);
  connect(&doc_, &Document::changed, this, [this] {
    const auto gone = [&](const RouteStep& s) { return !doc_.network().find(s.element); };
    if (std::any_of(route_.begin(), route_.end(), gone)) {  // nothing may be painted of what is no more
      route_.clear();
      profile_ = {};
      handles_.clear();
      chosen_ = false;
    }
    // Mostly the answer follows within a few milliseconds and brings the new picture.
    if (!dragged_)
      QTimer::singleShot(45, this, [this] {
        if (!doc_.current()) rebuild();
      });
  });
  connect(&doc_, &Document::answered, this, [this] {
    retrace_ = true;  // flows may have turned
    rebuild();
    retrace_ = false;
  });
  connect(&doc_, &Document::selectionChanged, this, [this] {
    if (!dragged_ && (doc_.current() || route_.empty())) rebuild();  // else the answer on its way brings it
  });
  connect(&doc_, &Document::unitsChanged, this, [this] { rebuild(); });
}

void LevelsView::setLook(const Look& look) {
  look_ = look;
  update();
}

void LevelsView::choose(Route route) {
  chosen_ = !route.empty();
  route_ = std::move(route);
  rebuild();
}

void LevelsView::rebuild() {
  const SolvedPtr& solved = doc_.solved();
  const Network& net = doc_.network();
  // An answer of a network with other elements has no place on this one's route.
  const bool same =
      solved && solved->usable() && std::all_of(route_.begin(), route_.end(), [&](const RouteStep& s) {
        const Element* now = net.find(s.element);
        const Element* then = now ? solved->element(s.element, now->part) : nullptr;
        return then && then->ends == now->ends;
      });
  if (!solved) {
    route_.clear();
    profile_ = {};
  } else {
    if (!dragged_ && !chosen_) {
      // What is selected on the present route leaves it as it is; else a route through it is found.
      const Id id = doc_.selected();
      const bool on = id != noId && std::any_of(route_.begin(), route_.end(), [&](const RouteStep& s) {
                        return s.element == id || s.from == id || s.to == id;
                      });
      if (solved->usable() && doc_.current() && (!on || retrace_)) {
        Route found = traceRoute(net, solved->solution, id == noId ? noId : id);
        if (found.empty() && id != noId) found = traceRoute(net, solved->solution, noId);
        // Where nothing flows there is still a way, and a level along it.
        if (found.empty()) found = drawnRoute(net, id);
        route_ = std::move(found);
      }
      // Not balanced yet: the way by the drawing alone, so that heights are seen and what is incomplete
      // shows.
      if (!(solved->usable() && (doc_.current() || same)) && (!on || route_.empty()))
        route_ = drawnRoute(net, id);
    }
    const bool fits = doc_.current() || same;
    profile_ = fits && solved->usable()
                   ? profileOf(doc_.current() ? net : solved->network, solved->solution, route_)
                   : profileOf(net, Solution::none(), route_);
  }
  handles_.clear();
  for (const Station& s : profile_.stations)
    if (s.point != noId && net.find(s.point) && (handles_.empty() || handles_.back().id != s.point))
      handles_.push_back({s.point, key::height, s.along_m, s.height_m});
  for (const TankMark& t : profile_.tanks) handles_.push_back({t.tank, key::level, t.along_m, t.level_m});
  if (!dragged_) scaleToFit(size());
  emit routeChanged();
  update();
}

void LevelsView::scaleToFit(const QSize& size) {
  size_ = size;
  double low = 1e300, high = -1e300;
  auto grow = [&](double v) { low = std::min(low, v), high = std::max(high, v); };
  for (const Station& s : profile_.stations) {
    grow(s.height_m);
    if (s.energy_m) grow(*s.energy_m);
  }
  for (const TankMark& t : profile_.tanks) grow(t.level_m);
  if (low > high) low = 0, high = 10;
  // The floor is worth seeing when it is not far below; the ceiling too.
  const double span = std::max(high - low, 2.0);
  low -= std::max(0.08 * span, std::min(profile_.floorDepth_m * 1.06, 0.28 * span));
  double ceiling = -1e300;
  for (const Station& s : profile_.stations)
    if (s.ceiling_m) ceiling = std::max(ceiling, *s.ceiling_m);
  high += 0.10 * span;
  if (ceiling > high && ceiling < high + 0.6 * span) high = ceiling + 0.05 * span;
  low_ = low, high_ = high;
}

QPointF LevelsView::toScreen(double along_m, double level_m) const {
  const double w = std::max(10.0, size_.width() - left_ - right_),
               h = std::max(10.0, size_.height() - top_ - bottom_);
  return {left_ + (profile_.length_m > 0 ? along_m / profile_.length_m : 0.0) * w,
          top_ + (high_ - level_m) / (high_ - low_) * h};
}

QString LevelsView::routeWords() const {
  if (route_.empty()) return tr("no route yet");
  QStringList names;
  const Network& net = doc_.network();
  for (std::size_t i = 0; i < route_.size(); ++i) {
    if (!net.find(route_[i].element)) continue;
    const Element& e = net.at(route_[i].element);
    const bool end = i == 0 || i + 1 == route_.size();
    if (end || e.part->lifts || e.part->group == Group::supply) {
      const Id where = i + 1 == route_.size() && e.part->geometry ? route_[i].to : noId;
      names << QString::fromStdString(where != noId ? net.at(where).name : e.name);
    }
  }
  if (names.size() > 6) names = names.mid(0, 3) + QStringList{"…"} + names.mid(names.size() - 2);
  return tr("along %1").arg(names.join(" → ")) + "    " +
         QString::fromStdString(withUnit(profile_.length_m, Measure::length, doc_.units()));
}

QString LevelsView::sumWords() const {
  if (profile_.stations.empty() || !doc_.solved() || !doc_.solved()->solution.summary.usable()) return {};
  const double factor = doc_.units().unitFor(Measure::headDrop).factor;
  const int decimals =
      std::abs(profile_.sum.pumped_m) / factor >= 20 ? 1 : 2;  // all alike, so that the sum can be followed
  const auto text = [&](double v) { return withThousands(QString::number(v / factor, 'f', decimals)); };
  const HeadSum& s = profile_.sum;
  const Unit& unit = doc_.units().unitFor(Measure::headDrop);
  const QString symbol = QString::fromUtf8(unit.symbol.data(), static_cast<int>(unit.symbol.size()));
  QStringList losses{tr("lines %1").arg(text(s.pipes_m))};
  if (std::abs(s.equipment_m) > 0.005) losses << tr("equipment %1").arg(text(s.equipment_m));
  if (std::abs(s.restrained_m) > 0.005) losses << tr("throttled %1").arg(text(s.restrained_m));
  std::optional<double> start, end;  // the first and the last that are known
  for (const Station& station : profile_.stations)
    if (station.energy_m) {
      if (!start) start = station.energy_m;
      end = station.energy_m;
    }
  if (std::abs(s.pumped_m) > 0.005 || !start || !end)
    return tr("static lift %1").arg(text(s.lift_m)) + " + " + losses.join(" + ") +
           tr(" = %1 %2 pump head").arg(text(s.pumped_m), symbol);
  // Nothing is pumped: from the head at its beginning down to that at its end.
  const Id last = profile_.stations.back().point != noId ? profile_.stations.back().point
                  : route_.empty()                       ? noId
                                                         : route_.back().element;
  return QString("%1 %2 − ").arg(text(*start), symbol) + losses.join(" − ") +
         QString(" = %1 %2").arg(text(*end), symbol) +
         (last != noId && doc_.network().find(last)
              ? tr(" at %1").arg(QString::fromStdString(doc_.network().at(last).name))
              : QString());
}

}  // namespace conduit::desktop
