#include "desks/cases/grid_view.h"

#include <QApplication>
#include <QClipboard>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QScrollBar>
#include <algorithm>
#include <set>

#include "look/words.h"
#include "quantity/format.h"

namespace conduit::desktop {
namespace {

constexpr int wordsWide = 262, caseWide = 124, addWide = 62, lineWide = 126, rowHigh = 23, caseHigh = 58,
              headHigh = 78;
constexpr int frozenColumns = 2;  // the words and the drawing; where cases stand as rows, their names

QString fit(const QString& words, const QFont& font, int room) {
  return QFontMetrics(font).elidedText(words, Qt::ElideRight, room);
}

QColor tint(const Look& look) { return look.dark ? QColor(255, 255, 255, 14) : QColor(90, 90, 40, 20); }

}  // namespace

void paintCaseHeading(QPainter& p, const QRect& rect, const GridHeading& h, bool current, const Look& look) {
  const int left = rect.left() + 11, room = rect.width() - 15;
  const auto line = [&](int y, const QString& words, const QFont& font, const QColor& ink) {
    p.setFont(font);
    p.setPen(ink);
    p.drawText(QRect(left, rect.top() + y, room, 17), Qt::AlignLeft | Qt::AlignVCenter,
               fit(words, font, room));
  };
  const bool tall = rect.height() >= 76;
  int y = tall ? 5 : 3;
  line(y, QString::fromStdString(h.name), face(13, true), look.ink);
  if (current) {
    p.fillRect(QRect(rect.left(), rect.bottom() - 2, rect.width(), 3), look.water);
  }
  y += 18;
  if (tall || !h.remark.empty()) {
    if (!h.remark.empty()) line(y, QString::fromStdString(h.remark), face(11.5), look.ink2);
    y += 17;
  }
  if (tall || h.remark.empty()) {
    // "based on Cold night" where there is room, else "on Cold night"; the tip says all of it.
    QString parent = QString::fromStdString(h.parent);
    if (QFontMetrics(face(11.5)).horizontalAdvance(parent) > room) parent.remove("based ");
    line(y, parent, face(11.5), look.ink2);
    y += 17;
  }
  line(y,
       (h.bad      ? "▲ "
        : h.solved ? "✓ "
                   : "") +
           QString::fromStdString(h.verdict),
       face(11.5, h.bad),
       h.bad      ? look.warning
       : h.solved ? look.water
                  : look.ink2);
}

GridHeader::GridHeader(GridModel& model, QWidget* parent)
    : QHeaderView(Qt::Horizontal, parent), model_(model), look_(Look::light()) {
  setSectionsClickable(true);
  setHighlightSections(false);
  setSectionResizeMode(QHeaderView::Fixed);
  setDefaultAlignment(Qt::AlignLeft);
}

void GridHeader::setLook(const Look& look) {
  look_ = look;
  viewport()->update();
}

QSize GridHeader::sizeHint() const { return {QHeaderView::sizeHint().width(), headHigh}; }

void GridHeader::paintSection(QPainter* p, const QRect& rect, int section) const {
  p->save();
  p->fillRect(rect, look_.paper);
  const auto& cases = model_.grid().cases;
  if (!model_.asRows()) {
    if (section >= 1 && section <= model_.casesShown()) {
      const GridHeading& h = cases[static_cast<std::size_t>(section - 1)];
      if (h.id == model_.current()) p->fillRect(rect, tint(look_));
      paintCaseHeading(*p, rect, h, h.id == model_.current(), look_);
    } else if (section > model_.casesShown()) {
      p->setFont(face(12.5));
      p->setPen(look_.water);
      p->drawText(rect.adjusted(9, 6, 0, 0), Qt::AlignLeft | Qt::AlignTop, tr("+ case"));
    }
  } else if (section > 0) {
    const auto spot = model_.at(model_.index(0, section));
    if (spot.line) {
      const int room = rect.width() - 14;
      p->setPen(look_.ink);
      p->setFont(face(12, true));
      p->drawText(QRect(rect.left() + 8, rect.top() + 5, room, 18), Qt::AlignRight | Qt::AlignVCenter,
                  fit(QString::fromStdString(spot.line->whose), p->font(), room));
      p->setFont(face(12));
      p->drawText(QRect(rect.left() + 8, rect.top() + 23, room, 34), Qt::AlignRight | Qt::TextWordWrap,
                  QString::fromStdString(spot.line->what));
      p->setPen(look_.ink2);
      p->setFont(face(11.5));
      p->drawText(QRect(rect.left() + 8, rect.top() + 58, room, 18), Qt::AlignRight | Qt::AlignVCenter,
                  QString::fromStdString(spot.line->unit));
    }
  }
  p->setPen(look_.hair);
  p->drawLine(rect.bottomLeft(), rect.bottomRight());
  p->drawLine(rect.topRight(), rect.bottomRight());
  p->restore();
}

GridDelegate::GridDelegate(GridModel& model, QObject* parent)
    : QStyledItemDelegate(parent), model_(model), look_(Look::light()) {}

QRect GridDelegate::markerIn(const QRect& cell, const QModelIndex& index) const {
  const auto spot = model_.at(index);
  if (!spot.cell() || spot.line->elements.size() != 1) return {};
  const bool swaps = spot.line->kind == GridRow::Kind::given ||
                     (spot.line->kind == GridRow::Kind::field && spot.line->releasable);
  return swaps ? QRect(cell.left() + 4, cell.top() + 1, 22, cell.height() - 2) : QRect();
}

void GridDelegate::paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const {
  p->save();
  p->setRenderHint(QPainter::Antialiasing, true);
  const QRect rect = option.rect;
  const auto spot = model_.at(index);
  p->fillRect(rect, look_.sheet);
  const CaseId in = model_.caseAt(index);
  if (in != noCase && in == model_.current()) p->fillRect(rect, tint(look_));
  if (spot.section) {
    if (index.column() == 0) {
      p->setFont(face(12, true));
      p->setPen(look_.ink2);
      p->drawText(rect.adjusted(18, 0, 0, -3), Qt::AlignLeft | Qt::AlignBottom, spot.words);
    }
  } else if (model_.asRows() && index.column() == 0) {
    if (spot.column >= 0) {
      const GridHeading& h = model_.grid().cases[static_cast<std::size_t>(spot.column)];
      paintCaseHeading(*p, rect, h, false, look_);
      if (h.id == model_.current())
        p->fillRect(QRect(rect.left(), rect.top(), 3, rect.height()), look_.water);
    } else {
      p->setFont(face(12.5));
      p->setPen(look_.water);
      p->drawText(rect.adjusted(11, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, tr("+ case"));
    }
  } else if (spot.cell()) {
    if (spot.line->kind == GridRow::Kind::watched) paintWatched(*p, rect, spot, index);
    else paintGiven(*p, rect, spot, index);
  } else if (spot.line && index.column() == 0) {
    paintWords(*p, rect, *spot.line);
  }
  p->setRenderHint(QPainter::Antialiasing, false);
  p->setPen(look_.grid);
  p->drawLine(rect.bottomLeft(), rect.bottomRight());
  p->setPen(look_.hair);
  p->drawLine(rect.topRight(), rect.bottomRight());
  if ((option.state & QStyle::State_Selected) && spot.cell()) {
    QColor wash = look_.water;
    wash.setAlpha(36);
    p->fillRect(rect, wash);
    p->setPen(QPen(look_.water, option.state & QStyle::State_HasFocus ? 2 : 1));
    p->drawRect(rect.adjusted(1, 1, -2, -2));
  }
  p->restore();
}

void GridDelegate::paintWords(QPainter& p, const QRect& rect, const GridRow& line) const {
  const QFont strong = face(12.5, true), plain = face(12.5);
  const QString unit = QString::fromStdString(line.unit);
  const int unitWide = unit.isEmpty() ? 0 : QFontMetrics(face(11.5)).horizontalAdvance(unit) + 8;
  const int room = rect.width() - 18 - 8 - unitWide;
  const QString what = QString::fromStdString(line.what);
  const int whatWide = QFontMetrics(plain).horizontalAdvance(what);
  // What it is counts more than whose: names are shortened first, and never below a few letters.
  const QString whose = fit(QString::fromStdString(line.whose), strong, std::max(52, room - whatWide - 8));
  const int whoseWide = QFontMetrics(strong).horizontalAdvance(whose);
  p.setFont(strong);
  p.setPen(look_.ink);
  p.drawText(QRect(rect.left() + 18, rect.top(), whoseWide + 2, rect.height()),
             Qt::AlignLeft | Qt::AlignVCenter, whose);
  p.setFont(plain);
  const int left = rect.left() + 18 + whoseWide + 8, rest = rect.left() + 18 + room - left;
  p.drawText(QRect(left, rect.top(), rest, rect.height()), Qt::AlignLeft | Qt::AlignVCenter,
             fit(what, plain, rest));
  p.setFont(face(11.5));
  p.setPen(look_.ink2);
  p.drawText(rect.adjusted(0, 0, -8, 0), Qt::AlignRight | Qt::AlignVCenter, unit);
}

// Own: ink, semibold, in a field. Inherited: second ink. Assumed: slanted. To be found: an open mark.
void GridDelegate::paintGiven(QPainter& p, const QRect& rect, const GridModel::Spot& spot,
                              const QModelIndex& index) const {
  const GridCell& cell = *spot.cell();
  const bool drawing = model_.caseAt(index) == drawingCase,
             own = cell.own && !(drawing && spot.line->kind == GridRow::Kind::about && cell.typed.empty());
  const bool hasValue = cell.text != "–";
  if (own && !drawing) {
    const double high = std::min(rect.height() - 5.0, 20.0);
    p.setPen(look_.hair);
    p.setBrush(look_.field);
    p.drawRoundedRect(QRectF(rect.left() + 27.5, rect.center().y() - high / 2 + 0.5, rect.width() - 32, high),
                      3, 3);
    p.setBrush(Qt::NoBrush);
  }
  if (const QRect marker = markerIn(rect, index); !marker.isEmpty() || own) {
    p.setFont(face(12));
    p.setPen(own ? look_.ink : look_.ink2);
    const QString mark = cell.found ? "○" : cell.assumed ? "◌" : "●";
    if (own || cell.found)
      p.drawText(QRect(rect.left() + 4, rect.top(), 22, rect.height()), Qt::AlignCenter, mark);
  }
  QFont font = face(12.5, own && hasValue);
  font.setItalic(cell.assumed);
  p.setFont(font);
  p.setPen(own ? look_.ink : look_.ink2);
  const QRect room = rect.adjusted(28, 0, -10, 0);
  p.drawText(room, Qt::AlignRight | Qt::AlignVCenter,
             fit(QString::fromStdString(cell.text), font, room.width()));
  if (cell.found && model_.isOlder(model_.caseAt(index)))
    p.fillRect(rect, QBrush(look_.hair, Qt::BDiagPattern));
}

// A bar against the limit, the number, a sign at the worst of all.
void GridDelegate::paintWatched(QPainter& p, const QRect& rect, const GridModel::Spot& spot,
                                const QModelIndex& index) const {
  const GridCell& cell = *spot.cell();
  const QColor tone = cell.broken ? look_.warning : look_.water;
  const bool limited = cell.si && (cell.least || cell.most);
  const int barWide = limited ? 34 : 0;
  if (limited) {
    const double top =
        std::max({std::abs(*cell.si), cell.most.value_or(0), cell.least.value_or(0) * 2, 1e-12}) * 1.1;
    const QRectF bar(rect.left() + 11, rect.center().y() - 1.5, barWide, 4);
    p.setPen(Qt::NoPen);
    p.setBrush(look_.grid);
    p.drawRoundedRect(bar, 2, 2);
    p.setBrush(tone);
    p.drawRoundedRect(QRectF(bar.left(), bar.top(), bar.width() * std::clamp(*cell.si / top, 0.0, 1.0), 4), 2,
                      2);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(look_.ink, 1.6));
    for (const auto& limit : {cell.least, cell.most})
      if (limit) {
        const double x = bar.left() + std::clamp(*limit / top, 0.0, 1.0) * bar.width();
        p.drawLine(QPointF(x, bar.top() - 4), QPointF(x, bar.bottom() + 4));
      }
  }
  const bool older = model_.isOlder(model_.caseAt(index));
  const QFont font = face(12.5, cell.worst || cell.broken);
  p.setFont(font);
  p.setPen(cell.broken ? look_.warning : look_.ink);
  const QRect room = rect.adjusted(11 + barWide, 0, -18, 0);
  const QString number = (cell.broken ? "▲ " : "") + QString::fromStdString(cell.text);
  p.drawText(room, Qt::AlignRight | Qt::AlignVCenter, fit(number, font, room.width()));
  if (cell.worst) {
    p.setBrush(cell.broken ? look_.warning : look_.ink);
    p.setPen(Qt::NoPen);
    const double x = rect.right() - 12, y = rect.center().y() + 0.5;
    const QPointF sign[] = {{x, y}, {x + 7, y - 4}, {x + 7, y + 4}};
    p.drawPolygon(sign, 3);
    p.setBrush(Qt::NoBrush);
  }
  if (older && cell.si) p.fillRect(rect, QBrush(look_.hair, Qt::BDiagPattern));
}

QWidget* GridDelegate::createEditor(QWidget* parent, const QStyleOptionViewItem&,
                                    const QModelIndex& index) const {
  auto* edit = new QLineEdit(parent);
  edit->setObjectName("grid.edit");
  edit->setAlignment(Qt::AlignRight);
  const auto spot = model_.at(index);
  if (spot.line) edit->setAccessibleName(QString::fromStdString(spot.line->whose + " " + spot.line->what));
  return edit;
}

void GridDelegate::updateEditorGeometry(QWidget* editor, const QStyleOptionViewItem& option,
                                        const QModelIndex&) const {
  editor->setGeometry(option.rect.adjusted(2, 0, -1, -1));
}

GridView::GridView(Document& document, GridModel& model, QWidget* parent)
    : QTableView(parent), doc_(document), model_(model), frozen_(new QTableView(this)), look_(Look::light()) {
  setObjectName("grid");
  setAccessibleName(tr("Cases"));
  head_ = new GridHeader(model, this);
  frozenHead_ = new GridHeader(model, frozen_);
  delegate_ = new GridDelegate(model, this);
  frozenDelegate_ = new GridDelegate(model, frozen_);
  frozen_->setObjectName("grid.frozen");
  for (QTableView* view : {static_cast<QTableView*>(this), frozen_}) {
    view->setModel(&model);
    view->setItemDelegate(view == frozen_ ? frozenDelegate_ : delegate_);
    view->setShowGrid(false);
    view->verticalHeader()->hide();
    view->setVerticalScrollMode(ScrollPerPixel);
    view->setHorizontalScrollMode(ScrollPerPixel);
    view->setFrameShape(QFrame::NoFrame);
    view->setEditTriggers(DoubleClicked | AnyKeyPressed | EditKeyPressed);
    view->setTabKeyNavigation(false);
    view->viewport()->installEventFilter(this);
  }
  setHorizontalHeader(head_);
  frozen_->setHorizontalHeader(frozenHead_);
  frozen_->setSelectionModel(selectionModel());
  frozen_->setFocusPolicy(Qt::NoFocus);
  frozen_->setFocusProxy(this);
  frozen_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  frozen_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  frozen_->raise();  // over the viewport and over the headings that scroll
  connect(verticalScrollBar(), &QScrollBar::valueChanged, frozen_->verticalScrollBar(),
          &QScrollBar::setValue);
  connect(frozen_->verticalScrollBar(), &QScrollBar::valueChanged, verticalScrollBar(),
          &QScrollBar::setValue);
  connect(&model_, &QAbstractItemModel::modelReset, this, &GridView::layOut);
  const auto pressed = [this](int section) {
    if (model_.asRows() && section > 0) (void)model_.toggle(model_.index(0, section));
    if (model_.asRows() || section < 1) return;
    if (section > model_.casesShown()) emit wantsCase();
    else doc_.setCase(model_.grid().cases[static_cast<std::size_t>(section - 1)].id);
  };
  connect(head_, &QHeaderView::sectionClicked, this, pressed);
  connect(frozenHead_, &QHeaderView::sectionClicked, this, pressed);
  layOut();
}

void GridView::setLook(const Look& look) {
  look_ = look;
  head_->setLook(look);
  frozenHead_->setLook(look);
  delegate_->setLook(look);
  frozenDelegate_->setLook(look);
  setStyleSheet("QAbstractScrollArea::corner { background: transparent; border: none; }");
  frozen_->setStyleSheet(QString("QTableView { background: %1; }").arg(look.sheet.name()));
  viewport()->update();
}

void GridView::setAsRows(bool asRows) {
  model_.setAsRows(asRows);
  layOut();
}

// Widths and heights, and what stays.
void GridView::layOut() {
  const bool rows = model_.asRows();
  const int fixed = rows ? 1 : frozenColumns;
  for (QTableView* view : {static_cast<QTableView*>(this), frozen_}) {
    view->verticalHeader()->setDefaultSectionSize(rows ? caseHigh : rowHigh);
    view->verticalHeader()->setMinimumSectionSize(10);
    for (int c = 0; c < model_.columnCount(); ++c) {
      view->setColumnWidth(c, c == 0                    ? (rows ? 200 : wordsWide)
                              : rows                    ? lineWide
                              : c > model_.casesShown() ? addWide
                                                        : caseWide);
      view->setColumnHidden(c, view == frozen_ && c >= fixed);
    }
  }
  placeFrozen();
}

void GridView::placeFrozen() {
  int wide = 0;
  for (int c = 0; c < (model_.asRows() ? 1 : frozenColumns) && c < model_.columnCount(); ++c)
    wide += columnWidth(c);
  const int tall = viewport()->height() + head_->height();
  frozen_->setGeometry(frameWidth(), frameWidth(), wide, tall);
  frozen_->show();
}

void GridView::resizeEvent(QResizeEvent* event) {
  QTableView::resizeEvent(event);
  placeFrozen();
}

QModelIndex GridView::moveCursor(CursorAction action, Qt::KeyboardModifiers modifiers) {
  QModelIndex now = QTableView::moveCursor(action, modifiers);
  if (action == MoveLeft && now.column() >= 1 && visualRect(now).left() < frozen_->width())
    horizontalScrollBar()->setValue(horizontalScrollBar()->value() + visualRect(now).left() -
                                    frozen_->width());
  // A heading of a section is passed over.
  if (model_.at(now).section) {
    const int row = now.row() + (action == MoveUp ? -1 : 1);
    if (row >= 0 && row < model_.rowCount()) now = model_.index(row, now.column());
  }
  return now;
}

// What stays is typed in where it is seen.
bool GridView::edit(const QModelIndex& index, EditTrigger trigger, QEvent* event) {
  if (index.column() >= (model_.asRows() ? 1 : frozenColumns)) return QTableView::edit(index, trigger, event);
  if (!(trigger & (AnyKeyPressed | EditKeyPressed | DoubleClicked)) && trigger != AllEditTriggers)
    return false;
  if (!(model_.flags(index) & Qt::ItemIsEditable)) return false;
  if (trigger == AnyKeyPressed && (!event || event->type() != QEvent::KeyPress)) return false;
  frozen_->edit(index);
  auto* editor = frozen_->viewport()->findChild<QLineEdit*>("grid.edit");
  if (!editor) editor = frozen_->findChild<QLineEdit*>("grid.edit");
  if (!editor) return false;
  editor->setFocus();
  editor->selectAll();
  if (trigger == AnyKeyPressed) QApplication::sendEvent(editor, event);
  return true;
}

void GridView::scrollTo(const QModelIndex& index, ScrollHint hint) {
  if (index.column() >= (model_.asRows() ? 1 : frozenColumns)) QTableView::scrollTo(index, hint);
}

void GridView::showCurrent() {
  for (int i = 0; i < model_.casesShown(); ++i) {
    if (model_.grid().cases[static_cast<std::size_t>(i)].id != model_.current()) continue;
    // By the bars: the cell under the keyboard stays where it is.
    const QModelIndex at = model_.asRows() ? model_.index(i, 1) : model_.index(std::max(0, rowAt(1)), i + 1);
    if (!at.isValid()) return;
    const QRect rect = visualRect(at);
    if (model_.asRows()) {
      if (rect.top() < 0 || rect.bottom() > viewport()->height()) scrollTo(at);
      return;
    }
    QScrollBar* bar = horizontalScrollBar();
    if (i + 1 < frozenColumns) return;
    if (rect.left() < frozen_->width()) bar->setValue(bar->value() + rect.left() - frozen_->width());
    else if (const int beyond = rect.right() + 24 - viewport()->width();
             beyond > 0)  // with a little of the next
      bar->setValue(bar->value() + beyond);
    return;
  }
}

void GridView::currentChanged(const QModelIndex& now, const QModelIndex& before) {
  QTableView::currentChanged(now, before);
  if (const CaseId id = model_.caseAt(now); id != noCase && hasFocus()) doc_.setCase(id);
}

// Markers swap; names lead to their elements.
bool GridView::clicked(QTableView& in, QPoint at) {
  const QModelIndex index = in.indexAt(at);
  if (!index.isValid()) return false;
  if (delegate_->markerIn(in.visualRect(index), index).contains(at)) {
    doc_.setCase(model_.caseAt(index));
    model_.swap(index);
    return true;
  }
  const auto spot = model_.at(index);
  const bool adds =
      model_.asRows() ? index.column() == 0 && spot.column < 0 : index.column() > model_.casesShown();
  if (adds && (model_.asRows() || spot.section || !spot.line)) {
    emit wantsCase();
    return true;
  }
  if (!spot.cell() && model_.toggle(index)) return true;
  if (model_.asRows() && index.column() == 0) doc_.setCase(model_.caseAt(index));
  return false;
}

bool GridView::eventFilter(QObject* watched, QEvent* event) {
  QTableView* in = watched == viewport() ? this : watched == frozen_->viewport() ? frozen_ : nullptr;
  if (in && event->type() == QEvent::MouseButtonPress) {
    const auto* mouse = static_cast<QMouseEvent*>(event);
    if (in == frozen_) setFocus();
    if (mouse->button() == Qt::LeftButton && clicked(*in, mouse->pos())) return true;
  }
  if (in && event->type() == QEvent::MouseButtonDblClick) {
    const auto* mouse = static_cast<QMouseEvent*>(event);
    const QModelIndex index = in->indexAt(mouse->pos());
    const auto spot = model_.at(index);
    // Words, and what is watched, lead to the element.
    if (spot.line && (!spot.cell() || spot.line->kind == GridRow::Kind::watched)) {
      Id id = spot.cell() && spot.cell()->where != noId ? spot.cell()->where : noId;
      if (id == noId && !spot.line->elements.empty()) id = spot.line->elements.front();
      if (id != noId) {
        if (id == jobId) doc_.select({});
        else doc_.select({id}), emit doc_.wantsShown(id);
        return true;
      }
    }
  }
  return QTableView::eventFilter(watched, event);
}

void GridView::copyOut() const {
  const QModelIndexList all = selectionModel()->selectedIndexes();
  if (all.isEmpty()) return;
  std::set<int> rows, columns;
  for (const QModelIndex& i : all) rows.insert(i.row()), columns.insert(i.column());
  QStringList lines;
  for (const int r : rows) {
    QStringList cells;
    for (const int c : columns) {
      const QModelIndex index = model_.index(r, c);
      cells << (selectionModel()->isSelected(index) ? model_.data(index).toString() : QString());
    }
    lines << cells.join('\t');
  }
  QApplication::clipboard()->setText(lines.join('\n'));
}

void GridView::paste() {
  const QModelIndex from = currentIndex();
  QString text = QApplication::clipboard()->text();
  if (!from.isValid() || text.isEmpty()) return;
  while (text.endsWith('\n')) text.chop(1);
  const QStringList lines = text.split('\n');
  std::vector<std::pair<QModelIndex, QString>> all;
  const QModelIndexList chosen = selectionModel()->selectedIndexes();
  if (lines.size() == 1 && !lines.front().contains('\t') && chosen.size() > 1) {
    for (const QModelIndex& i : chosen) all.emplace_back(i, lines.front());
  } else {
    int row = from.row();
    for (const QString& line : lines) {
      while (row < model_.rowCount() && model_.at(model_.index(row, 0)).section) ++row;
      const QStringList cells = line.split('\t');
      for (int c = 0; c < cells.size(); ++c)
        if (const QModelIndex i = model_.index(row, from.column() + c); i.isValid())
          all.emplace_back(i, cells[c]);
      ++row;
    }
  }
  model_.put(all);
}

void GridView::fill(Qt::Orientation way) {
  std::map<int, std::vector<QModelIndex>> runs;
  for (const QModelIndex& i : selectionModel()->selectedIndexes())
    runs[way == Qt::Horizontal ? i.row() : i.column()].push_back(i);
  std::vector<std::pair<QModelIndex, QString>> all;
  for (auto& [key, run] : runs) {
    std::sort(run.begin(), run.end());
    for (std::size_t k = 1; k < run.size(); ++k)
      all.emplace_back(run[k], model_.data(run.front(), Qt::EditRole).toString());
  }
  if (!all.empty()) model_.put(all);
}

void GridView::clearCells() {
  std::vector<std::pair<QModelIndex, QString>> all;
  for (const QModelIndex& i : selectionModel()->selectedIndexes())
    if (model_.at(i).cell()) all.emplace_back(i, QString());
  if (!all.empty()) model_.put(all);
}

void GridView::keyPressEvent(QKeyEvent* event) {
  if (event->matches(QKeySequence::Copy)) return copyOut();
  if (event->matches(QKeySequence::Paste)) return paste();
  if (event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) {
    const QModelIndex now = currentIndex();
    if (model_.at(now).line && !model_.at(now).cell()) return model_.removeRow(now);
    if (model_.at(now).line && model_.at(now).line->kind == GridRow::Kind::watched)
      return model_.removeRow(now);
    return clearCells();
  }
  if (event->modifiers() == Qt::ControlModifier && event->key() == Qt::Key_D) return fill(Qt::Vertical);
  if (event->modifiers() == Qt::ControlModifier && event->key() == Qt::Key_R) return fill(Qt::Horizontal);
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
    if (state() != EditingState && currentIndex().isValid() &&
        (model_.flags(currentIndex()) & Qt::ItemIsEditable))
      return edit(currentIndex());
  }
  if (event->key() == Qt::Key_Space && currentIndex().isValid() && !model_.at(currentIndex()).cell() &&
      model_.toggle(currentIndex()))
    return;
  if (event->key() == Qt::Key_Space && currentIndex().isValid() &&
      !delegate_->markerIn(visualRect(currentIndex()), currentIndex()).isEmpty())
    return model_.swap(currentIndex());
  QTableView::keyPressEvent(event);
}

}  // namespace conduit::desktop
