#include "desks/pumps/candidates_view.h"

#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QHeaderView>
#include <QMenu>
#include <QPainter>
#include <QStyledItemDelegate>
#include <cmath>

#include "exchange/table_file.h"
#include "look/words.h"
#include "quantity/format.h"

namespace conduit::desktop {
namespace {

QString number(std::optional<double> si, Measure measure, const UnitSet& units, int significant = 3) {
  return si ? QString::fromStdString(digits(inUnit(*si, units.unitFor(measure)), significant)) : QString("–");
}

// Bars beside their numbers, as the columns call for.
class BarDelegate : public QStyledItemDelegate {
 public:
  explicit BarDelegate(CandidatesView& view) : QStyledItemDelegate(&view), view_(view) {}

  void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const Look& look = view_.look();
    const Candidate* c = view_.rows().at(index.row());
    if (!c) return;
    p->save();
    p->setRenderHint(QPainter::Antialiasing, true);
    const QRect r = option.rect;
    const bool marked = option.state & QStyle::State_Selected;
    p->fillRect(r, marked ? look.field : look.paper);
    p->setPen(QPen(look.hair));
    p->drawLine(r.bottomLeft(), r.bottomRight());
    if (marked) {
      p->setPen(QPen(look.ink, 1.2, Qt::DotLine));
      p->drawLine(r.topLeft(), r.topRight());
      p->drawLine(r.bottomLeft(), r.bottomRight());
    }
    const CandidateDuty& d = c->now();
    const QRect in = r.adjusted(6, 0, -6, 0);
    const auto text = [&](const QRect& box, const QString& words, const QColor& ink, bool bold,
                          Qt::Alignment align) {
      p->setFont(face(12.5, bold));
      p->setPen(ink);
      p->drawText(box, align | Qt::AlignVCenter,
                  p->fontMetrics().elidedText(words, Qt::ElideRight, box.width()));
    };
    const QString words = index.data().toString();
    const double y = r.center().y() + 0.5;
    const auto track = [&](double x, double w, const QColor& tone) {
      p->setPen(Qt::NoPen);
      p->setBrush(tone);
      p->drawRoundedRect(QRectF(x, y - 2.5, w, 5), 2, 2);
    };
    const auto tick = [&](double x) {
      p->setPen(QPen(look.ink, 1.5));
      p->drawLine(QPointF(x, y - 6), QPointF(x, y + 6));
    };
    switch (index.column()) {
      case CandidatesModel::rank: text(in, words, look.ink2, false, Qt::AlignLeft); break;
      case CandidatesModel::pump: {
        text(in, words, c->shortOfMargin ? look.ink2 : look.ink, !c->shortOfMargin, Qt::AlignLeft);
        const QString also = c->shortOfMargin ? QObject::tr("short")
                             : c->inPlace     ? QObject::tr("current")
                                              : QString();
        const int w = QFontMetrics(face(12.5, true)).horizontalAdvance(words) + 10;
        if (!also.isEmpty())
          text(in.adjusted(w, 0, 0, 0), also, c->shortOfMargin ? look.warning : look.ink2, false,
               Qt::AlignLeft);
        break;
      }
      case CandidatesModel::over: {
        // From the middle: 20 % either way is the whole.
        const double middle = in.left() + (in.width() - 58) / 2.0, half = (in.width() - 64) / 2.0,
                     share = std::clamp(d.over.value_or(0.0) / 0.2, -1.0, 1.0);
        track(share >= 0 ? middle : middle + share * half, std::abs(share) * half + 0.5, look.water);
        p->setPen(QPen(look.ink2, 1));
        p->drawLine(QPointF(middle, y - 6), QPointF(middle, y + 6));
        text(QRect(in.right() - 54, r.top(), 54, r.height()), words, look.ink2, false, Qt::AlignRight);
        break;
      }
      case CandidatesModel::best: {
        const double w = in.width() - 50;
        track(in.left(), w, look.hair);
        const auto at = [&](double share) { return in.left() + std::clamp(share / 1.5, 0.0, 1.0) * w; };
        QColor region = look.flow[1];
        track(at(c->regionLeast), at(c->regionMost) - at(c->regionLeast), region);
        if (d.duty.ofBest) tick(at(*d.duty.ofBest));
        text(QRect(in.right() - 46, r.top(), 46, r.height()), words, d.preferred ? look.ink2 : look.warning,
             false, Qt::AlignRight);
        break;
      }
      case CandidatesModel::driver: {
        const auto most = view_.rows().driverOf(*c);
        const double w = in.width() - 42;
        track(in.left(), w, look.hair);
        if (most && d.duty.shaft_w && *most > 0) {
          const double share = *d.duty.shaft_w / d.duty.units / *most;
          track(in.left(), std::clamp(share, 0.0, 1.0) * w, share > 1 ? look.warning : look.water);
        }
        text(QRect(in.right() - 40, r.top(), 40, r.height()), words, look.ink2, false, Qt::AlignRight);
        break;
      }
      case CandidatesModel::margin: {
        const CandidateDuty* worst = c->worstMargin();
        const double asked = view_.rows().selection()->margin_m;
        const bool broken = worst && *worst->duty.npshMargin_m < asked;
        text(QRect(in.left(), r.top(), 46, r.height()), words, broken ? look.warning : look.ink, true,
             Qt::AlignRight);
        const double left = in.left() + 54, w = in.width() - 56, whole = 3 * std::max(asked, 0.5);
        track(left, w, look.hair);
        if (worst)
          track(left, std::clamp(*worst->duty.npshMargin_m / whole, 0.0, 1.0) * w,
                broken ? look.warning : look.water);
        tick(left + std::clamp(asked / whole, 0.0, 1.0) * w);
        break;
      }
      case CandidatesModel::act: {
        QFont link = face(12);
        link.setUnderline(true);
        p->setFont(link);
        p->setPen(look.water);
        p->drawText(in, Qt::AlignLeft | Qt::AlignVCenter,
                    view_.ofPump() ? QObject::tr("try") : QObject::tr("propose"));
        p->drawText(in, Qt::AlignRight | Qt::AlignVCenter, QObject::tr("use"));
        break;
      }
      case CandidatesModel::delivery: {
        const DeliveryChange* least = c->leastDelivery();
        text(in, words, least && !least->kept() ? look.warning : look.ink, false, Qt::AlignRight);
        break;
      }
      case CandidatesModel::shutOff:
        text(in, words, d.ratingSpare_pa && *d.ratingSpare_pa < 0 ? look.warning : look.ink, false,
             Qt::AlignRight);
        break;
      default:
        text(in, words, look.ink,
             index.column() == CandidatesModel::flow || index.column() == CandidatesModel::head,
             Qt::AlignRight);
    }
    p->restore();
  }
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {40, 27};
  }

 private:
  CandidatesView& view_;
};

}  // namespace

void CandidatesModel::display(std::optional<Selection> selection, const UnitSet& units,
                              std::optional<double> driver, const Network& network) {
  beginResetModel();
  selection_ = std::move(selection);
  takers_.clear();
  for (int r = 0; r < rowCount(); ++r)
    if (const DeliveryChange* d = at(r)->leastDelivery())
      if (const Element* e = network.find(d->taker)) takers_[d->taker] = QString::fromStdString(e->name);
  units_ = units, driver_ = driver;
  endResetModel();
}

const Candidate* CandidatesModel::at(int row) const {
  return selection_ && row >= 0 && row < static_cast<int>(selection_->can.size())
             ? &selection_->can[static_cast<std::size_t>(row)]
             : nullptr;
}
std::optional<double> CandidatesModel::driverOf(const Candidate& c) const {
  return driver_ ? driver_ : c.motor_w;
}

int CandidatesModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() || !selection_ ? 0 : static_cast<int>(selection_->can.size());
}
int CandidatesModel::columnCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : columns; }

QVariant CandidatesModel::data(const QModelIndex& index, int role) const {
  const Candidate* c = at(index.row());
  if (!c) return {};
  const CandidateDuty& d = c->now();
  if (role == Qt::ToolTipRole) {
    switch (index.column()) {
      case margin:
        if (const CandidateDuty* worst = c->worstMargin(); worst && worst->npshRatio)
          return tr("minimum over the cases; ratio %1").arg(*worst->npshRatio, 0, 'f', 2);
        return tr("NPSH required not given");
      case shutOff:
        if (!d.ratingSpare_pa) return tr("shut-off head; no downstream pipe has a rating");
        return *d.ratingSpare_pa >= 0 ? tr("%1 below the downstream rating at shut-off")
                                            .arg(QString::fromStdString(withUnit(
                                                *d.ratingSpare_pa, Measure::pressureDrop, units_, 3)))
                                      : tr("%1 above the downstream rating at shut-off")
                                            .arg(QString::fromStdString(withUnit(
                                                -*d.ratingSpare_pa, Measure::pressureDrop, units_, 3)));
      case delivery:
        if (const DeliveryChange* least = c->leastDelivery())
          return tr("%1: %2 → %3")
              .arg(takers_.contains(least->taker) ? takers_.at(least->taker) : QString(),
                   QString::fromStdString(withUnit(least->now_m3s, Measure::volumeFlow, units_, 3)),
                   QString::fromStdString(withUnit(least->then_m3s, Measure::volumeFlow, units_, 3)));
        return tr("nothing to compare with");
      case pump: {
        QStringList lines;
        if (c->speedRatio && c->ratedSpeed_perS)
          lines << tr("for the exact duty: %1")
                       .arg(QString::fromStdString(
                           withUnit(*c->speedRatio * *c->ratedSpeed_perS, Measure::rotation, units_)));
        if (c->trimRatio) lines << tr("or impeller trimmed to %1 %").arg(*c->trimRatio * 100, 0, 'f', 1);
        if (d.allowed)
          lines << (*d.allowed ? tr("within its allowable region") : tr("outside its allowable region"));
        if (c->runOut_m3s)
          lines << tr("run-out at %1")
                       .arg(QString::fromStdString(withUnit(*c->runOut_m3s, Measure::volumeFlow, units_)));
        return lines.join("\n");
      }
      default: return {};
    }
  }
  if (role == Qt::AccessibleTextRole)
    return headerData(index.column(), Qt::Horizontal, Qt::DisplayRole).toString() + " " +
           data(index, Qt::DisplayRole).toString();
  if (role != Qt::DisplayRole) return {};
  switch (index.column()) {
    case rank: return index.row() + 1;
    case pump: return QString::fromStdString(c->item);
    case flow: return number(d.duty.flow_m3s, Measure::volumeFlow, units_);
    case over:
      return d.over ? QString("%1%2 %").arg(*d.over < 0 ? "−" : "+").arg(std::abs(*d.over) * 100, 0, 'f', 1)
                    : QString("–");
    case head: return number(d.duty.head_m, Measure::headDrop, units_, 4);
    case efficiency:
      return d.duty.efficiency ? QString("%1").arg(*d.duty.efficiency * 100, 0, 'f', 1) : QString("–");
    case best: return d.duty.ofBest ? QString("%1 %").arg(*d.duty.ofBest * 100, 0, 'f', 0) : QString("–");
    case shaft: return number(d.duty.shaft_w, Measure::power, units_);
    case driver: return number(driverOf(*c), Measure::power, units_);
    case margin: {
      const CandidateDuty* worst = c->worstMargin();
      return worst ? number(worst->duty.npshMargin_m, Measure::headDrop, units_, 2) : QString("–");
    }
    case shutOff: return number(c->shutOff_m, Measure::headDrop, units_);
    case delivery: {
      const DeliveryChange* least = c->leastDelivery();
      return least ? QString("%1 %").arg(std::max(0.0, least->share()) * 100, 0, 'f', 0) : QString("–");
    }
    default: return {};
  }
}

QVariant CandidatesModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal) return {};
  if (role == Qt::TextAlignmentRole)
    return static_cast<int>((section == rank || section == pump || section == over || section == best ||
                                     section == driver || section == margin || section == act
                                 ? Qt::AlignLeft
                                 : Qt::AlignRight) |
                            Qt::AlignVCenter);
  if (role == Qt::ToolTipRole) {
    if (section == margin) return tr("NPSH available minus required, minimum over the sizing cases");
    if (section == best) return tr("flow as % of BEP flow; preferred region shaded");
    if (section == driver)
      return tr(
          "shaft power per pump against the driver limit, or the standard motor that covers the whole curve");
    if (section == shutOff) return tr("shut-off head");
    if (section == delivery)
      return tr("lowest share of its present flow that a user gets, over the sizing cases");
  }
  if (role != Qt::DisplayRole) return {};
  const auto with = [&](const QString& words, Measure m) {
    return words + "  " + desktop::text(units_.unitFor(m).symbol);
  };
  switch (section) {
    case pump: return tr("Pump");
    case flow: return with(tr("Flow"), Measure::volumeFlow);
    case over: return tr("Deviation");
    case head: return with(tr("Head"), Measure::headDrop);
    case efficiency: return tr("Efficiency  %");
    case best: return tr("% of BEP flow");
    case shaft: return with(tr("Shaft"), Measure::power);
    case driver: return with(tr("Driver"), Measure::power);
    case margin: return with(tr("NPSH margin"), Measure::headDrop);
    case shutOff: return with(tr("Shut-off"), Measure::headDrop);
    case delivery: return tr("Delivery");
    default: return {};
  }
}

std::optional<double> CandidatesModel::exact(const Candidate& c, int column) const {
  const CandidateDuty& d = c.now();
  const auto in = [&](std::optional<double> si, Measure m) {
    return si ? std::optional(inUnit(*si, units_.unitFor(m))) : std::nullopt;
  };
  switch (column) {
    case flow: return in(d.duty.flow_m3s, Measure::volumeFlow);
    case head: return in(d.duty.head_m, Measure::headDrop);
    case efficiency: return d.duty.efficiency ? std::optional(*d.duty.efficiency * 100) : std::nullopt;
    case shaft: return in(d.duty.shaft_w, Measure::power);
    case driver: return in(driverOf(c), Measure::power);
    case margin: {
      const CandidateDuty* worst = c.worstMargin();
      return worst ? in(worst->duty.npshMargin_m, Measure::headDrop) : std::nullopt;
    }
    case shutOff: return in(c.shutOff_m, Measure::headDrop);
    default: return std::nullopt;
  }
}

TableLines CandidatesModel::table() const {
  TableLines lines(1);
  for (int c = rank; c < act; ++c)
    lines[0].push_back({headerData(c, Qt::Horizontal, Qt::DisplayRole).toString().toStdString()});
  lines[0][0].text = "rank";
  for (int r = 0; r < rowCount(); ++r) {
    lines.emplace_back();
    for (int c = rank; c < act; ++c) {
      const Candidate* of = at(r);
      lines.back().push_back(
          {.text = index(r, c).data().toString().toStdString(), .number = of ? exact(*of, c) : std::nullopt});
    }
  }
  return lines;
}

CandidatesView::CandidatesView(CandidatesModel& model, QWidget* parent)
    : QTableView(parent), model_(model), look_(Look::light()) {
  setObjectName("candidates");
  setAccessibleName(tr("Candidates"));
  setModel(&model_);
  setItemDelegate(new BarDelegate(*this));
  setSelectionBehavior(SelectRows);
  setSelectionMode(ExtendedSelection);
  setShowGrid(false);
  setFrameShape(NoFrame);
  setMouseTracking(true);
  verticalHeader()->hide();
  verticalHeader()->setDefaultSectionSize(27);
  horizontalHeader()->setHighlightSections(false);
  horizontalHeader()->setStretchLastSection(true);
  setHorizontalScrollMode(ScrollPerPixel);
  const int widths[] = {34, 168, 76, 118, 76, 86, 128, 72, 98, 126, 78, 68, 100};
  for (int c = 0; c < CandidatesModel::columns; ++c) setColumnWidth(c, widths[c]);
  connect(selectionModel(), &QItemSelectionModel::selectionChanged, this, &CandidatesView::markedChanged);
}

void CandidatesView::setLook(const Look& look) {
  look_ = look;
  horizontalHeader()->setFont(face(11.5));
  setStyleSheet(QString("QTableView { background: %1; }").arg(look.paper.name()));
  viewport()->update();
}

std::vector<int> CandidatesView::marked() const {
  std::vector<int> rows;
  for (const QModelIndex& i : selectionModel()->selectedRows()) rows.push_back(i.row());
  std::sort(rows.begin(), rows.end());
  return rows;
}

void CandidatesView::copyMarked() const {
  const TableLines lines = model_.table();
  const auto rows = marked();
  QString text;
  for (std::size_t r = 0; r < lines.size(); ++r) {
    if (r > 0 && !rows.empty() && std::find(rows.begin(), rows.end(), static_cast<int>(r) - 1) == rows.end())
      continue;
    for (std::size_t c = 0; c < lines[r].size(); ++c)
      text += (c ? "\t" : "") + QString::fromStdString(lines[r][c].text);
    text += "\n";
  }
  QApplication::clipboard()->setText(text);
}

void CandidatesView::keyPressEvent(QKeyEvent* event) {
  const Candidate* c = model_.at(currentIndex().row());
  if (event->matches(QKeySequence::Copy)) return copyMarked();
  if (c && (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)) {
    if (event->modifiers() & Qt::ControlModifier) emit takes(QString::fromStdString(c->item));
    else emit tries(QString::fromStdString(c->item));
    return;
  }
  QTableView::keyPressEvent(event);
}

void CandidatesView::mouseReleaseEvent(QMouseEvent* event) {
  QTableView::mouseReleaseEvent(event);
  const QModelIndex at = indexAt(event->pos());
  const Candidate* c = model_.at(at.row());
  if (!c || at.column() != CandidatesModel::act || event->button() != Qt::LeftButton) return;
  const QRect box = visualRect(at);
  if (event->pos().x() < box.center().x()) emit tries(QString::fromStdString(c->item));
  else emit takes(QString::fromStdString(c->item));
}

void CandidatesView::mouseMoveEvent(QMouseEvent* event) {
  QTableView::mouseMoveEvent(event);
  if (indexAt(event->pos()).column() == CandidatesModel::act) viewport()->setCursor(Qt::PointingHandCursor);
  else viewport()->unsetCursor();
}

void CandidatesView::contextMenuEvent(QContextMenuEvent* event) {
  const Candidate* c = model_.at(indexAt(event->pos()).row());
  if (!c) return;
  const QString item = QString::fromStdString(c->item);
  QMenu menu;
  menu.addAction(pump_ ? tr("Try in a new case\tEnter") : tr("Propose, model unchanged\tEnter"),
                 [&] { emit tries(item); });
  menu.addAction(tr("Use in the model\tCtrl+Enter"), [&] { emit takes(item); });
  menu.addAction(tr("Copy\tCtrl+C"), [this] { copyMarked(); });
  menu.exec(event->globalPos());
}

}  // namespace conduit::desktop
