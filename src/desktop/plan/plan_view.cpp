#include "plan/plan_view.h"

#include <QPainter>
#include <QPainterPath>
#include <QTimer>
#include <algorithm>
#include <cmath>
#include <map>
#include <unordered_map>

#include "look/symbol.h"
#include "network/put.h"
#include "plan/label_room.h"
#include "quantity/format.h"

namespace conduit::desktop {
namespace {

// A round number at or above v: 1, 2, 2.5, 3, 4, 5, 6, 8 times a power of ten.
double roundUp(double v) {
  if (!(v > 0)) return 1.0;
  const double power = std::pow(10.0, std::floor(std::log10(v)));
  for (const double f : {1.0, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0})
    if (f * power >= v * 0.999) return f * power;
  return 10 * power;
}

}  // namespace

PlanView::PlanView(Document& document, QWidget* parent)
    : QWidget(parent), doc_(document), look_(Look::light()) {
  setObjectName("plan");
  setAttribute(Qt::WA_OpaquePaintEvent);  // every pixel is painted: nothing behind it need be
  setAccessibleName(tr("Plan"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(240, 100);
  connect(&doc_, &Document::changed, this, [this] {
    if (lineFrom_ != noId && !doc_.network().find(lineFrom_)) endMode();
    // The answer is mostly there within a few milliseconds: one picture of both rather than two.
    outdated_ = true;
    QTimer::singleShot(45, this, [this] {
      if (outdated_) update();
    });
    if (fitted_ && drag_ == Drag::none && mode_ == Mode::look) fit();
  });
  pictures_.tell(this, [this] {
    if (fitted_ && drag_ == Drag::none && mode_ == Mode::look) fit();
    update();
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
    if (e.part->key == "picture")
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
  const auto v = outcomeOf(part, key, reading);
  return v ? QString::fromStdString(withUnit(*v, findOutcome(part, key)->measure, doc_.units(), 3))
           : QString();
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
      band.incomplete = incomplete;
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
          part.geometry) {  // to both sides by turns, always counted from the same direction
        const double side = (band.stacked % 2 ? 1.0 : -1.0) * ((band.stacked + 1) / 2),
                     way = a.x < b.x || (a.x == b.x && a.y < b.y) ? 1.0 : -1.0;
        band.offset = side * way * (band.width + 4);
      }
      const auto za = givenSi(net.at(e.ends[0]).values, "height"),
                 zb = givenSi(net.at(e.ends[1]).values, "height");
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
        label.rank = part.group == Group::lift ? 1 : 2;
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
      const bool draws = e.values.find("outflow") || e.values.find("inflow");
      const bool named = !e.name.starts_with("N-");
      if (!draws && !named) return;
      label.at = e.at;
      label.normal = {1, 0};
      label.rank = 3;
    }
    if (incomplete) label.rank = -1;
    labels_.push_back(label);
  });
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
    for (const auto& [key, word] : {std::pair{"outflow", tr(" out")}, std::pair{"inflow", tr(" in")}})
      if (const Given* q = e.values.get<Given>(key))
        second << QString::fromStdString(withUnit(
                      resolve(*q, Measure::volumeFlow, solved ? solved->solution.setting.medium : Medium{}),
                      Measure::volumeFlow, doc_.units(), 3)) +
                      word;
    return {name, (second + texts).join(", ")};
  }
  return {name, texts.join(join)};
}

// A band on screen, beside others that lie between the same places.
QLineF PlanView::bandLine(const Band& band) const {
  QLineF line(toScreen(band.a), toScreen(band.b));
  const double length = line.length();
  if (band.offset != 0.0 && length > 14) {
    // A bend at both ends would be truer; at the widths drawn a parallel line that begins a little inside
    // reads as well.
    const QPointF u(line.dx() / length, line.dy() / length), n(-u.y(), u.x());
    line = QLineF(line.p1() + n * band.offset + u * 5, line.p2() + n * band.offset - u * 5);
  }
  return line;
}

void PlanView::drawBands(QPainter& p, const QRectF& visible) {
  // Leads of tanks first: from the tank to the point of each connection.
  const Network& net = doc_.network();
  for (const Symbol& s : symbols_) {
    const Element& e = net.at(s.id);
    if (e.part->ends != Ends::many) continue;
    for (const Id end : e.ends) {
      p.setPen(QPen(look_.ink, 5, Qt::SolidLine, Qt::FlatCap));
      p.drawLine(toScreen(e.at), toScreen(net.at(end).at));
      p.setPen(QPen(look_.flow[1], 3, Qt::SolidLine, Qt::FlatCap));
      p.drawLine(toScreen(e.at), toScreen(net.at(end).at));
    }
  }
  const bool many = bands_.size() > 3000;
  p.setRenderHint(QPainter::Antialiasing, bands_.size() < 8000 && !inMotion());
  const bool rough = inMotion() && bands_.size() > 15000;  // colours alone until the hand rests
  auto inView = [&](const Band& b) {
    const QPointF s = toScreen(b.a), t = toScreen(b.b);
    const QRectF box = QRectF(s, t).normalized().adjusted(-8, -8, 8, 8);
    return box.intersects(visible) && (!many || std::hypot(s.x() - t.x(), s.y() - t.y()) > 0.7);
  };
  // Batched by pen: outline of every width, then fills of every width and colour.
  std::vector<QVector<QLineF>> outline(9), fill(9 * 6);
  std::vector<const Band*> broken, shown;
  // Round ends cost a curve each; among hundreds of short bands square ones look the same.
  const Qt::PenCapStyle cap = bands_.size() > 300 ? Qt::SquareCap : Qt::RoundCap;
  const double thin = many ? std::min(1.0, 0.35 + scale_ / 4) : 1.0;
  for (const Band& b : bands_) {
    if (!inView(b)) continue;
    if (b.incomplete) {
      broken.push_back(&b);
      continue;
    }
    const auto w = static_cast<std::size_t>(std::clamp(static_cast<int>(b.width + 0.5) - 4, 0, 8));
    const auto c = b.share < 0 ? std::size_t{5}
                               : static_cast<std::size_t>(std::clamp(static_cast<int>(b.share * 5), 0, 4));
    const QLineF line = b.offset == 0.0 ? QLineF(toScreen(b.a), toScreen(b.b)) : bandLine(b);
    if (!rough) outline[w].append(line);
    fill[w * 6 + c].append(line);
    shown.push_back(&b);
  }
  for (std::size_t w = 0; w < 9 && !rough; ++w) {
    p.setPen(QPen(look_.ink, (static_cast<double>(w) + 4) * thin, Qt::SolidLine, cap));
    p.drawLines(outline[w]);
  }
  for (std::size_t w = 0; w < 9; ++w)
    for (std::size_t c = 0; c < 6; ++c) {
      if (fill[w * 6 + c].isEmpty()) continue;
      const QColor colour = c == 5 ? (rough ? look_.ink2 : look_.field) : look_.flow[c];
      p.setPen(QPen(colour, std::max(0.6, (static_cast<double>(w) + 4) * thin - 2), Qt::SolidLine, cap));
      p.drawLines(fill[w * 6 + c]);
    }
  for (const Band* b : broken) {
    p.setPen(QPen(look_.ink2, 3, Qt::CustomDashLine, Qt::FlatCap));
    QPen pen = p.pen();
    pen.setDashPattern({3, 2.2});
    p.setPen(pen);
    p.drawLine(bandLine(*b));
  }
  // Arrows in the true direction of flow, one about every 130 px.
  if (!inMotion() || bands_.size() < 400)
    for (const Band* b : shown) {
      if (std::abs(b->flow) < 1e-9) continue;
      const QLineF line = bandLine(*b);
      QPointF s = line.p1(), t = line.p2();
      const double length = std::hypot(t.x() - s.x(), t.y() - s.y());
      if (length < 34) continue;
      const int count = std::max(1, static_cast<int>(length / 150));
      if (b->flow < 0) std::swap(s, t);
      const QPointF u = (t - s) / length, n(-u.y(), u.x());
      const double size = std::clamp(b->width * 0.42, 2.6, 4.2);
      p.setPen(Qt::NoPen);
      p.setBrush(b->share >= 0.4 ? look_.sheet : look_.ink);
      for (int k = 0; k < count; ++k) {
        const QPointF at = s + (t - s) * ((k + 0.5) / count);
        if (!visible.contains(at)) continue;
        p.drawPolygon(
            QPolygonF({at + u * size * 1.5, at - u * size * 1.1 + n * size, at - u * size * 1.1 - n * size}));
      }
    }
  p.setRenderHint(QPainter::Antialiasing, true);
}

// From its beginning to its end: a small open arrow on what is selected. Where it points, a flow counts
// positive.
void PlanView::drawWay(QPainter& p, QPointF at, double angle, double out) {
  p.save();
  p.translate(at);
  p.rotate(angle);
  p.setPen(QPen(look_.ink, 1.8, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  p.drawPolyline(QPolygonF({{out, -5}, {out + 6, 0}, {out, 5}}));
  p.restore();
}

void PlanView::drawSymbols(QPainter& p, const QRectF& visible) {
  const Network& net = doc_.network();
  const bool crowded = symbols_.size() > 400 && scale_ < 0.5;
  const bool dense = spacing_ < 30;  // then points are dots, and a draw-off shows when one comes nearer
  QVector<QPointF> dots;
  for (const auto& [id, at] : points_) {
    const QPointF s = toScreen(at);
    if (!visible.contains(s)) continue;
    const Element& e = net.at(id);
    const bool selected = doc_.isSelected(id);
    if (dense && !selected) {
      if (spacing_ > 9 && jointDegree_[id] != 2) dots << s;
      continue;
    }
    const bool draws = e.values.find("outflow") != nullptr;
    if (draws) {
      p.setPen(QPen(look_.ink, 1.5));
      p.drawLine(s, s + QPointF(0, 17));
      p.drawLine(s + QPointF(-4, 12), s + QPointF(0, 17));
      p.drawLine(s + QPointF(4, 12), s + QPointF(0, 17));
    }
    const int degree = jointDegree_[id];
    if (!(degree != 2 || selected || draws || scale_ > 8)) continue;
    p.setPen(QPen(look_.ink, 1.2));
    p.setBrush(selected ? look_.water : look_.sheet);
    const double r = selected ? 4.5 : 3.0;
    p.drawEllipse(s, r, r);
  }
  p.setPen(QPen(look_.ink, 3.4, Qt::SolidLine, Qt::SquareCap));
  p.drawPoints(dots.constData(), static_cast<int>(dots.size()));
  for (const Symbol& sym : symbols_) {
    const QPointF s = toScreen(sym.at);
    if (!visible.adjusted(-30, -30, 30, 30).contains(s)) continue;
    const Element& e = net.at(sym.id);
    p.save();
    p.translate(s);
    if (e.part->ends != Ends::many) {
      double angle = sym.angle;
      p.rotate(angle);
      // A symbol that runs to the left is mirrored rather than turned upside down: its actuator stays on top.
      if (e.part->ends == Ends::two && std::abs(std::remainder(angle, 360.0)) > 90.5) p.scale(1, -1);
    }
    const double size = e.part->ends == Ends::many ? 1.45 : crowded ? 0.55 : 1.15;
    paintSymbol(p, e.part->symbol, look_, size, sym.incomplete ? look_.ink2 : look_.ink);
    p.restore();
    // Which way it was set in: a small point before it, where it begins.
    if (e.part->ends == Ends::two && !crowded && spacing_ >= 30) {
      const double way = sym.angle * M_PI / 180;
      p.setPen(QPen(look_.sheet, 0.8));
      p.setBrush(look_.ink);
      p.drawEllipse(s - QPointF(std::cos(way), std::sin(way)) * 15.5, 2.4, 2.4);
    }
    // What is shut or closed says so by a stroke across.
    const SolvedPtr& solved = doc_.solved();
    if (solved && solved->usable() && solved->element(sym.id, e.part) && e.part->ends == Ends::two &&
        solved->solution.branchCount(sym.id) > 0 &&
        solved->solution.branch(sym.id, 0).state == BranchState::shut) {
      p.setPen(QPen(look_.warning, 2));
      p.drawLine(s + QPointF(-7, 9), s + QPointF(7, -9));
    }
    if (doc_.isSelected(sym.id)) {
      QPen ring(look_.ink, 1.4, Qt::DotLine);
      p.setPen(ring);
      p.setBrush(Qt::NoBrush);
      const double r = e.part->ends == Ends::many ? 27 : 19;
      p.drawEllipse(s, r, r);
      if (e.part->ends == Ends::two) drawWay(p, s, sym.angle, r + 2);
    }
  }
  for (const Band& b : bands_)
    if (doc_.isSelected(b.id) && doc_.network().at(b.id).part->geometry) {
      const QLineF line = bandLine(b);
      const QPointF s = line.p1(), t = line.p2();
      const double length = std::max(1.0, std::hypot(t.x() - s.x(), t.y() - s.y()));
      const QPointF n = QPointF(-(t - s).y(), (t - s).x()) / length * (b.width / 2 + 5);
      p.setPen(QPen(look_.ink, 1.4, Qt::DotLine));
      p.drawLine(s + n, t + n);
      p.drawLine(s - n, t - n);
      if (length > 50) drawWay(p, t, std::atan2(t.y() - s.y(), t.x() - s.x()) * 180 / M_PI, -16);
    }
  for (const QPointF& mark : marks()) {
    if (!visible.contains(mark)) continue;
    p.setPen(Qt::NoPen);
    p.setBrush(look_.warning);
    p.drawPolygon(QPolygonF({mark + QPointF(0, -8), mark + QPointF(8, 6), mark + QPointF(-8, 6)}));
    p.setPen(QPen(look_.sheet, 1.8));
    p.drawLine(mark + QPointF(0, -3.5), mark + QPointF(0, 1.5));
    p.drawPoint(mark + QPointF(0, 4));
  }
}

// Beside every place a finding speaks of, so that the eye lands there.
std::vector<QPointF> PlanView::marks() const {
  std::vector<QPointF> at;
  if (const SolvedPtr& solved = doc_.solved())
    for (const Finding& f : solved->findings) {
      if (at.size() >= 300) break;  // the worst come first; more would only cover the drawing
      const Id id = f.severity > Severity::broken ? noId : doc_.network().byName(f.place.name);
      if (id != noId) at.push_back(toScreen(spotOf(doc_.network(), id)) + QPointF(17, -18));
    }
  return at;
}

void PlanView::drawLabels(QPainter& p) {
  if (inMotion() && labels_.size() > 400) return;  // at rest they are there again
  const bool stale = !doc_.current();
  const QFont bold = face(12, true), quiet = face(11.5);
  const QFontMetricsF boldWidth(bold), quietWidth(quiet);
  // Symbols, bands and the legend are taken; what would lie on them or on an earlier label is tried
  // elsewhere, then left out.
  LabelRoom room(size());
  room.take(QRectF(0, 0, 250, 50));
  const QRectF frame(2, 2, width() - 4, height() - 4);
  for (const Symbol& s : symbols_) {
    const double r = doc_.network().at(s.id).part->ends == Ends::many ? 22 : 12;
    room.take(QRectF(toScreen(s.at) - QPointF(r, r), QSizeF(2 * r, 2 * r)));
  }
  for (const QPointF& mark : marks()) room.take(QRectF(mark - QPointF(9, 9), QSizeF(18, 16)));
  for (const auto& [id, at] : points_) {
    const QPointF s = toScreen(at);
    if (!frame.contains(s)) continue;
    if (doc_.network().at(id).values.find("outflow")) room.take(QRectF(s - QPointF(7, 6), QSizeF(14, 26)));
  }
  for (const Band& b : bands_) {
    const QLineF line = bandLine(b);
    if (QRectF(line.p1(), line.p2()).normalized().adjusted(-1, -1, 1, 1).intersects(frame)) room.take(line);
    if (b.riser && line.length() < 14)
      room.take(QRectF(riserSpot(b) - QPointF(80, 9), QSizeF(89, 18)));  // its ring and its words
  }
  for (const Id id : onPaper_) {
    const Element& e = doc_.network().at(id);
    if (e.part->key == "remark") room.take(remarkBox(e));
    if (e.part->key == "dimension") room.take(dimensionLine(e));
  }
  // Zoomed away the lesser labels go: first those of lines and points, then those of devices.
  const int leastOf = spacing_ < 16 ? 0 : spacing_ < 30 ? 1 : spacing_ < 42 ? 2 : 4;
  // A label belongs to the symbol it is nearest to; no other may be about as near.
  auto nearest = [&](const QRectF& box, QPointF own, const Label& label) {
    auto away = [&](QPointF q) {
      return std::hypot(std::max({box.left() - q.x(), 0.0, q.x() - box.right()}),
                        std::max({box.top() - q.y(), 0.0, q.y() - box.bottom()}));
    };
    const double mine = away(own), slack = label.rank < 2 ? -0.5 : 2.0;
    return symbols_.size() > 300 || std::none_of(symbols_.begin(), symbols_.end(), [&](const Symbol& sym) {
             return sym.id != label.id && away(toScreen(sym.at)) < mine + slack;
           });
  };
  int placed = 0, tried = 0;
  for (const Label& label : labels_) {
    if (label.rank > leastOf || placed > 250) break;
    const QPointF at = toScreen(label.at);
    if (!frame.contains(at)) continue;
    if (++tried > 800) break;  // among so many there is no room left
    if (label.rank == 4 && label.room * scale_ < 34) continue;
    const auto [first, second] = labelText(label);
    if (first.isEmpty()) continue;
    const double w = std::max(boldWidth.horizontalAdvance(first), quietWidth.horizontalAdvance(second)) + 6;
    const double h = second.isEmpty() ? 16 : 30;
    const double gap = label.rank == 4 ? 7 : label.rank == 3 ? 11 : 21;
    QRectF box;
    bool good = false;
    const QPointF n = label.normal;
    const QPointF sides[] = {n,       -n,          {0, -1},      {0, 1},     {1, 0},
                             {-1, 0}, {0.8, -0.8}, {-0.8, -0.8}, {0.8, 0.8}, {-0.8, 0.8}};
    for (int pass = 0; pass < 3 && !good; ++pass)
      for (const QPointF& side : sides) {
        const double reach = gap + pass * 9;
        const QPointF c = at + QPointF(side.x() * (reach + w / 2), side.y() * (reach + h / 2));
        box = QRectF(c.x() - w / 2, c.y() - h / 2, w, h);
        good = room.free(box.adjusted(3, 2, -3, -2)) && nearest(box, at, label);
        if (good) break;
      }
    if (!good) continue;
    room.take(box);
    ++placed;
    const QColor tone = stale ? look_.ink2 : look_.ink;
    p.setFont(bold);
    p.setPen(label.rank < 0 ? look_.warning : tone);
    p.drawText(QRectF(box.x() + 3, box.y(), w, 16), Qt::AlignLeft | Qt::AlignVCenter, first);
    if (!second.isEmpty()) {
      p.setFont(quiet);
      p.setPen(label.rank < 0 ? look_.warning : look_.ink2);
      p.drawText(QRectF(box.x() + 3, box.y() + 14, w, 16), Qt::AlignLeft | Qt::AlignVCenter, second);
    }
  }
}

void PlanView::drawLegend(QPainter& p) {
  if (std::any_of(bands_.begin(), bands_.end(), [](const Band& b) { return b.share >= 0; })) drawScale(p);
  drawDistance(p);
}

void PlanView::drawScale(QPainter& p) {
  const QPointF at(17, 16);
  const char* names[] = {QT_TR_NOOP("Velocity"), QT_TR_NOOP("Pressure"), QT_TR_NOOP("Loss")};
  const Unit& unit = doc_.units().unitFor(scaleMeasure_);
  const QString symbol = colouring_ == Colouring::gradient
                             ? QString("m/100 m")
                             : QString::fromUtf8(unit.symbol.data(), static_cast<int>(unit.symbol.size()));
  p.setFont(face(12, true));
  p.setPen(look_.ink);
  p.drawText(QRectF(at, QSizeF(90, 14)), Qt::AlignLeft | Qt::AlignVCenter,
             tr(names[static_cast<int>(colouring_)]));
  const double nameWidth = QFontMetricsF(p.font()).horizontalAdvance(tr(names[static_cast<int>(colouring_)]));
  p.setFont(face(11.5));
  p.setPen(look_.ink2);
  p.drawText(QRectF(at + QPointF(nameWidth + 8, 0), QSizeF(120, 14)), Qt::AlignLeft | Qt::AlignVCenter,
             symbol);
  for (int i = 0; i < 5; ++i) {
    const QRectF box(at.x() + i * 34, at.y() + 18, 34, 8);
    p.setPen(QPen(look_.ink, 0.7));
    p.setBrush(look_.flow[static_cast<std::size_t>(i)]);
    p.drawRect(box);
  }
  p.setFont(face(10));
  p.setPen(look_.ink2);
  const double top = colouring_ == Colouring::gradient ? scaleTop_ * 100 : inUnit(scaleTop_, unit);
  for (int i = 0; i <= 5; ++i)
    p.drawText(QRectF(at.x() + i * 34 - 17, at.y() + 27, 34, 13), Qt::AlignCenter,
               QString::number(top * i / 5, 'g', 3));
}

void PlanView::drawDistance(QPainter& p) {
  const Unit& unit = doc_.units().unitFor(Measure::length);
  double metres = roundUp(90 / scale_ / unit.factor) * unit.factor;  // round in the unit that is shown
  if (metres * scale_ > 130) metres = roundUp(45 / scale_ / unit.factor) * unit.factor;
  const double y = height() - 16;
  p.setPen(QPen(look_.ink, 1.2));
  p.drawLine(QPointF(17, y), QPointF(17 + metres * scale_, y));
  p.drawLine(QPointF(17, y - 4), QPointF(17, y + 4));
  p.drawLine(QPointF(17 + metres * scale_, y - 4), QPointF(17 + metres * scale_, y + 4));
  p.setFont(face(11));
  p.setPen(look_.ink2);
  p.drawText(QPointF(24 + metres * scale_, y + 4),
             QString::fromStdString(withUnit(metres, Measure::length, doc_.units(), 3)));
}

void PlanView::drawGuide(QPainter& p) {
  if (doc_.network().count() > 0 || mode_ != Mode::look) return;
  p.setPen(look_.ink2);
  p.setFont(face(17, true));
  p.drawText(rect().adjusted(0, -120, 0, 0), Qt::AlignCenter, tr("Press L, click, click."));
  // Keys in one column, what they do in the other.
  const std::pair<QString, QString> hints[] = {
      {"L", tr("draws a line, point to point")},
      {"T  P  V  R …", tr("a tank, a pump, a valve: the letters of the rack, also while drawing")},
      {"12.4", tr("a length")},
      {"3.1 up", tr("a rise;  45°  a direction;  Tab goes between them")},
      {"Ctrl+V", tr("takes a table from a spreadsheet;  Ctrl+I  brings in a file")},
      {"Ctrl+K", tr("finds anything by typing")},
      {"?", tr("all keys on one sheet")}};
  double y = height() / 2.0 - 28;
  for (const auto& [keys, what] : hints) {
    p.setFont(face(12.5, true));
    p.setPen(look_.ink);
    p.drawText(QRectF(width() / 2.0 - 250, y, 110, 20), Qt::AlignRight | Qt::AlignVCenter, keys);
    p.setFont(face(12.5));
    p.setPen(look_.ink2);
    p.drawText(QRectF(width() / 2.0 - 126, y, 420, 20), Qt::AlignLeft | Qt::AlignVCenter, what);
    y += 21;
  }
}

void PlanView::paintOn(QPainter& p, const QSize& size) {
  freshen();
  const QRectF visible(QPointF(0, 0), QSizeF(size));
  p.fillRect(visible, look_.sheet);
  p.setRenderHint(QPainter::Antialiasing, true);
  drawPictures(p);
  // Grid of round metres.
  double step = roundUp(60 / scale_);
  p.setPen(QPen(look_.grid, 1));
  const Spot a = toPlan({0, static_cast<double>(size.height())}),
             b = toPlan({static_cast<double>(size.width()), 0});
  for (double x = std::ceil(a.x / step) * step; x < b.x; x += step)
    p.drawLine(QPointF(toScreen({x, 0}).x(), 0), QPointF(toScreen({x, 0}).x(), size.height()));
  for (double y = std::ceil(a.y / step) * step; y < b.y; y += step)
    p.drawLine(QPointF(0, toScreen({0, y}).y()), QPointF(size.width(), toScreen({0, y}).y()));
  int inSight = 0;
  for (const auto& point : points_) inSight += visible.contains(toScreen(point.second));
  spacing_ = std::sqrt(size.width() * static_cast<double>(size.height()) / std::max(1, inSight));
  drawBands(p, visible);
  drawRises(p, visible);
  drawSymbols(p, visible);
  drawRemarks(p);
  drawLabels(p);
  if (doc_.network().count() > 0) drawLegend(p);
  drawGuide(p);
}

void PlanView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  paintOn(p, size());
  drawHand(p);
  if (hasFocus()) {
    p.setPen(QPen(look_.hair, 2));
    p.setBrush(Qt::NoBrush);
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

void PlanView::resizeEvent(QResizeEvent*) {
  if (fitted_) fit();
}

}  // namespace conduit::desktop
