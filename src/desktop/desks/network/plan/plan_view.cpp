#include "plan/plan_view.h"

#include <QTimer>
#include <algorithm>
#include <cmath>
#include <unordered_map>

#include "fields/keys.h"
#include "look/round_numbers.h"
#include "look/symbol.h"
#include "network/put.h"
#include "parts/pipe/line.h"
#include "plan/pipe_strip.h"
#include "quantity/format.h"

namespace conduit::desktop {
PlanView::PlanView(Document& document, QWidget* parent)
    : QWidget(parent), doc_(document), look_(Look::light()) {
  setObjectName("plan");
  setAttribute(Qt::WA_OpaquePaintEvent);  // every pixel is painted: nothing behind it need be
  setAccessibleName(tr("Plan"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(240, 100);
  strip_ = new PipeStrip(doc_, this);
  strip_->hide();
  connect(strip_, &PipeStrip::done, this, [this] { setFocus(); });
  connect(&doc_, &Document::changed, this, [this] {
    if (lineFrom_ != noId && !doc_.network().find(lineFrom_)) endMode();
    // The answer is mostly there within a few milliseconds: one picture of both rather than two.
    outdated_ = true;
    QTimer::singleShot(45, this, [this] {
      if (outdated_) update();
    });
    if (fitted_ && drag_ == Drag::none && mode_ == Mode::look) fit();
  });
  connect(&doc_, &Document::replaced, this, [this] {
    pictures_.forget();
    endMode();
    lineLike_ = noId;
    drag_ = Drag::none;
    fitted_ = true;
  });
  rest_.setSingleShot(true);
  rest_.setInterval(140);
  connect(&rest_, &QTimer::timeout, this, [this] { update(); });
  connect(&doc_, &Document::answered, this, &PlanView::outdate);
  connect(&doc_, &Document::unitsChanged, this, &PlanView::outdate);
  connect(&doc_, &Document::selectionChanged, this, [this] {
    if (!outdated_) update();  // else the picture of the edit shows it
  });
}

void PlanView::setLook(const Look& look) {
  look_ = look;
  strip_->setLook(look);
  update();
}

void PlanView::setHeights(bool on) {
  heights_ = on;
  update();
}

void PlanView::showElement(Id id) {
  const Spot at = spotOf(doc_.network(), id);
  freshen();
  if (spacing_ < 20) scale_ = std::clamp(scale_ * 40 / std::max(spacing_, 1.0), 1e-5, 60.0);
  const QPointF now = toScreen(at);
  if (!QRectF(rect()).adjusted(60, 60, -60, -60).contains(now))
    origin_ += QPointF(width() / 2.0, height() / 2.0) - now;
  fitted_ = false;
  update();
}

void PlanView::keepInSight(Id id) {
  if (fitted_) return;
  const QPointF now = toScreen(spotOf(doc_.network(), id));
  const QRectF room = QRectF(rect()).adjusted(40, 40, -40, -40);
  if (room.contains(now) || room.isEmpty()) return;
  origin_ += QPointF(std::clamp(now.x(), room.left(), room.right()),
                     std::clamp(now.y(), room.top(), room.bottom())) -
             now;
  update();
}

void PlanView::setColouring(Colouring colouring) {
  colouring_ = colouring;
  outdate();
}

QPointF PlanView::toScreen(Spot at) const {
  return {origin_.x() + at.x * scale_, origin_.y() - at.y * scale_};
}
Spot PlanView::toPlan(QPointF at) const {
  return {(at.x() - origin_.x()) / scale_, (origin_.y() - at.y()) / scale_};
}

void PlanView::fit() {
  fitted_ = true;
  double x0 = 1e300, x1 = -1e300, y0 = 1e300, y1 = -1e300;
  auto grow = [&](Spot s) {
    x0 = std::min(x0, s.x), x1 = std::max(x1, s.x), y0 = std::min(y0, s.y), y1 = std::max(y1, s.y);
  };
  doc_.network().each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::self || e.part->ends == Ends::many ||
        (e.part->ends == Ends::free && e.part->group == Group::drawing))
      grow(doc_.network().at(id).at);
    if (e.part->paper == Paper::picture)
      for (const QPointF& corner : pictureFrame(e)) grow(toPlan(corner));
  });
  if (x0 > x1) x0 = 0, x1 = 120, y0 = 0, y1 = 80;
  const double left = 62, right = 84, top = 62, bottom = 52;  // room for labels, legend and scale
  const double w = std::max(40.0, width() - left - right), h = std::max(40.0, height() - top - bottom);
  scale_ = std::min(w / std::max(x1 - x0, 1.0), h / std::max(y1 - y0, 1.0));
  scale_ = std::clamp(scale_, 1e-5, 60.0);
  origin_ = {left + w / 2 - (x0 + x1) / 2 * scale_, top + h / 2 + (y0 + y1) / 2 * scale_};
  update();
}

QString PlanView::value(const Reading& reading, const Part& part, std::string_view key) const {
  const Outcome* outcome = findOutcome(part, key);
  auto shown = outcome ? shownOf(*outcome, reading) : std::nullopt;
  if (!shown) return {};
  shown->against = false;  // the arrow on the drawing says it
  return QString::fromStdString(asShown(*shown, outcome->measure, doc_.units(), 3, true));
}

void PlanView::outdate() {
  outdated_ = true;
  update();
}

void PlanView::freshen() {
  if (std::exchange(outdated_, false)) rebuild();
}

void PlanView::rebuild() {
  bands_.clear();
  symbols_.clear();
  labels_.clear();
  points_.clear();
  onPaper_.clear();
  const Network& net = doc_.network();
  const SolvedPtr& solved = doc_.solved();
  const bool usable = solved && solved->solution.summary.usable();
  const Solution& solution = usable ? solved->solution : Solution::none();
  lacking_.clear();
  if (solved && !usable)
    for (const Problem& p : solved->solution.summary.problems) lacking_.emplace(p.place.name, p.what);
  jointDegree_.assign(net.bound(), 0);
  double widest = 0;
  Setting plain;
  plain.stock = doc_.stock();
  const Setting& setting = solved && solved->solution.setting.stock ? solved->solution.setting : plain;
  const std::vector<double> bores = widestBores(net, setting);
  for (const double b : bores) widest = std::max(widest, b);
  auto widthOf = [&](double bore) {
    return bore > 0 && widest > 0 ? 4 + 8 * std::sqrt(bore / widest) * bore / widest : 4.0;
  };
  double top = 0;
  auto scaled = [&](const Reading& r, const Part& part) -> std::optional<double> {
    if (colouring_ == Colouring::pressure) {
      const auto a = endPressure_pa(r, 0), b = endPressure_pa(r, 1);
      return a && b ? std::optional((*a + *b) / 2) : std::nullopt;
    }
    return outcomeOf(part, colouring_ == Colouring::velocity ? "velocity" : "loss per metre", r);
  };
  std::vector<QPointF> away(net.bound());  // sum of directions from the other ends of what meets at a point
  net.each([&](Id id, const Element& e) {
    if (e.part->group == Group::drawing) {
      onPaper_.push_back(id);
      return;
    }
    for (const Id end : e.ends) ++jointDegree_[end];
    if (e.part->ends == Ends::self) points_.emplace_back(id, e.at);
    if (e.part->ends != Ends::two) return;
    const Spot a = net.at(e.ends[0]).at, b = net.at(e.ends[1]).at;
    const double d = std::hypot(b.x - a.x, b.y - a.y);
    if (d > 0)
      away[e.ends[1]] += QPointF((b.x - a.x) / d, (b.y - a.y) / d),
          away[e.ends[0]] -= QPointF((b.x - a.x) / d, (b.y - a.y) / d);
  });
  std::unordered_map<std::uint64_t, int> stacks;  // lines between the same two places
  auto placeKey = [](Spot a, Spot b) {
    auto one = [](Spot q) {
      return static_cast<std::uint64_t>(std::llround(q.x * 100) * 73856093LL ^
                                        std::llround(q.y * 100) * 19349663LL);
    };
    return one(a) + one(b);  // the same both ways
  };
  net.each([&](Id id, const Element& e) {
    if (e.part->group == Group::drawing || e.part->ends == Ends::free) return;
    const bool incomplete = !lacking_.empty() && lacking_.contains(e.name);
    const Part& part = *e.part;
    Label label;
    label.id = id;
    if (part.ends == Ends::two) {
      const Spot a = net.at(e.ends[0]).at, b = net.at(e.ends[1]).at;
      Band band{id, a, b};
      // What is only planned is drawn broken too.
      const bool* laid = e.values.get<bool>(pipe::laidKey);
      band.incomplete = incomplete || (laid && !*laid);
      const Geometry g = part.geometry ? part.geometry(e.values, setting) : Geometry{};
      band.width = widthOf(g.bore_m.value_or(std::min(bores[e.ends[0]], bores[e.ends[1]])));
      std::optional<ReadingOf> reading;
      if (usable && solved->element(id, e.part)) reading.emplace(solved->network, solution, id);
      if (reading && !(*reading)->branches.empty())
        band.flow = (*reading)->branches[0].flow_m3s.value_or(0.0);
      if (const auto v = reading ? scaled(**reading, part) : std::nullopt) {
        band.share =
            std::max(0.0, *v);  // a suction below the open air's pressure is the lightest step, not unknown
        top = std::max(top, *v);
      }
      band.stacked = stacks[placeKey(a, b)]++;
      if (band.stacked > 0 &&
          part.geometry) {  // to both sides in turn, always counted from the same direction
        const double side = (band.stacked % 2 ? 1.0 : -1.0) * ((band.stacked + 1) / 2),
                     way = a.x < b.x || (a.x == b.x && a.y < b.y) ? 1.0 : -1.0;
        band.offset = side * way * (band.width + 4);
      }
      const auto za = givenSi(net.at(e.ends[0]).values, key::height),
                 zb = givenSi(net.at(e.ends[1]).values, key::height);
      if (za && zb) band.rise = *zb - *za;
      const double onPlan = std::hypot(a.x - b.x, a.y - b.y);
      band.riser = part.geometry && (onPlan < 0.02 || std::abs(band.rise) > 8 * onPlan);
      bands_.push_back(band);
      const QPointF along(b.x - a.x, -(b.y - a.y));
      const double length = std::hypot(along.x(), along.y());
      label.at = {(a.x + b.x) / 2, (a.y + b.y) / 2};
      label.normal = length > 0 ? QPointF(along.y() / length, -along.x() / length) : QPointF(0, -1);
      if (label.normal.y() > 0.3) label.normal = -label.normal;
      if (part.geometry) {
        label.rank = 4;
        label.room = length / 2;
      } else {
        Symbol s{id, label.at, std::atan2(along.y(), along.x()) * 180 / M_PI, incomplete};
        symbols_.push_back(s);
        label.rank = part.lifts ? 1 : 2;
      }
    } else if (part.ends == Ends::one || part.ends == Ends::many) {
      Symbol s{id, spotOf(net, id), 0, incomplete};
      if (part.ends == Ends::one) {
        // Away from what it is joined to.
        const double dx = away[e.ends[0]].x(), dy = away[e.ends[0]].y();
        s.angle = std::atan2(-dy, dx == 0 && dy == 0 ? 1 : dx) * 180 / M_PI;
        if (part.group == Group::supply) s.angle += 180;
      }
      symbols_.push_back(s);
      label.at = s.at;
      label.normal = part.ends == Ends::many
                         ? QPointF(0, 1)
                         : QPointF(std::cos(s.angle * M_PI / 180), std::sin(s.angle * M_PI / 180));
      label.rank = part.ends == Ends::many ? 0 : 2;
    } else {
      const bool draws = e.value(key::outflow) || e.value(key::inflow);
      const bool named = !e.name.starts_with("N-");
      if (!draws && !named) return;
      label.at = e.at;
      label.normal = {1, 0};
      label.rank = 3;
    }
    if (incomplete) label.rank = -1;
    labels_.push_back(label);
  });
  found_.clear();
  if (solved)
    for (const Finding& f : solved->findings) {
      const Id id = f.severity > Severity::broken ? noId : net.byName(f.place.name);
      if (id != noId) found_.emplace_back(id, spotOf(net, id));
    }
  scaleTop_ = roundUp(top);
  scaleMeasure_ = colouring_ == Colouring::velocity   ? Measure::velocity
                  : colouring_ == Colouring::pressure ? Measure::gaugePressure
                                                      : Measure::number;
  if (colouring_ != Colouring::gradient) {
    const Unit& unit = doc_.units().unitFor(scaleMeasure_);
    scaleTop_ = roundUp(top / unit.factor) * unit.factor;
  }
  for (Band& b : bands_)
    if (b.share >= 0) b.share = std::min(1.0, b.share / scaleTop_);
  std::stable_sort(labels_.begin(), labels_.end(),
                   [](const Label& a, const Label& b) { return a.rank < b.rank; });
}

// What a label says: a bold first line and a quiet second one.
std::pair<QString, QString> PlanView::labelText(const Label& label) const {
  const Network& net = doc_.network();
  const Element& e = net.at(label.id);
  const Part& part = *e.part;
  const SolvedPtr& solved = doc_.solved();
  const QString name = QString::fromStdString(e.name);
  const bool usable = solved && solved->solution.summary.usable();
  if (const auto it = label.rank < 0 ? lacking_.find(e.name) : lacking_.end(); it != lacking_.end()) {
    QString what = QString::fromStdString(it->second);
    if (what.startsWith(name + " ")) what = what.mid(name.size() + 1);
    return {name, what.size() > 44 ? what.left(43) + "…" : what};
  }
  QStringList texts;
  if (const auto reading = usable ? solved->reading(label.id, &part) : nullptr)
    for (const std::string_view key : part.labels)
      if (const QString t = value(**reading, part, key); !t.isEmpty()) texts << t;
  const QString join = QString::fromUtf8(part.labelsJoin.data(), static_cast<int>(part.labelsJoin.size()));
  if (texts.size() == 2 && join != ", ")
    texts[0] = texts[0].section(' ', 0, 0);  // one unit is enough: 22.2 → 8.5 bar g
  if (part.geometry) return {texts.value(0), texts.value(1)};
  if (part.group == Group::drawOff) return {texts.isEmpty() ? name : texts[0], QString()};
  if (part.ends == Ends::self) {
    QStringList second;
    for (const auto& [key, word] : {std::pair{key::outflow, tr(" out")}, std::pair{key::inflow, tr(" in")}})
      if (const Given* q = e.given(key))
        second << QString::fromStdString(withUnit(
                      resolve(*q, Measure::volumeFlow, solved ? solved->solution.setting.medium : Medium{}),
                      Measure::volumeFlow, doc_.units(), 3)) +
                      word;
    return {name, (second + texts).join(", ")};
  }
  return {name, texts.join(join)};
}

}  // namespace conduit::desktop
