#include "look/cell_table.h"

#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QHeaderView>
#include <QHelpEvent>
#include <QMenu>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QToolTip>
#include <algorithm>

#include "look/tabbed.h"

namespace conduit::desktop {
namespace {

// Of a cell's words; of a small bar and the gap before it; of widths that are no whole pixels.
constexpr int cellMargin = 8, barRoom = 70, rounding = 2;

class CellPainter : public QStyledItemDelegate {
 public:
  explicit CellPainter(CellTable& view, CellRows& rows)
      : QStyledItemDelegate(&view), view_(view), rows_(rows) {}

  void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const Cell* cell = rows_.at(index.row(), index.column());
    if (!cell) return;
    const Look& look = view_.look();
    p->save();
    p->setRenderHint(QPainter::Antialiasing, true);
    const QRect r = option.rect;
    const bool marked = index.row() == view_.row();
    p->fillRect(r, marked ? look.field : look.sheet);
    p->setPen(QPen(look.hair));
    p->drawLine(r.bottomLeft(), r.bottomRight());
    if (marked) {
      p->setPen(QPen(look.ink, 1.2, Qt::DotLine));
      p->drawLine(r.topLeft(), r.topRight());
      p->drawLine(r.bottomLeft(), r.bottomRight());
    }
    QRect in = r.adjusted(cellMargin, 0, -cellMargin, 0);
    if (cell->ticked) {
      const QRectF box(in.right() - 14, r.center().y() - 6.5, 14, 14);
      p->setPen(QPen(*cell->ticked ? look.ink : look.ink2, *cell->ticked ? 1.5 : 1));
      p->setBrush(look.field);
      p->drawRoundedRect(box, 2, 2);
      if (*cell->ticked) {
        p->setPen(QPen(look.ink, 2));
        p->drawPolyline(QPolygonF({box.topLeft() + QPointF(3, 7), box.topLeft() + QPointF(6, 10),
                                   box.topLeft() + QPointF(11, 3.5)}));
      }
      p->restore();
      return;
    }
    if (cell->bar) {
      const double w = 62, left = in.right() - w, y = r.center().y() + 0.5;
      const auto track = [&](double width, const QColor& tone) {
        p->setPen(Qt::NoPen);
        p->setBrush(tone);
        p->drawRoundedRect(QRectF(left, y - 2.5, std::clamp(width, 0.0, w), 5), 2, 2);
      };
      track(w, look.hair);
      track(*cell->bar * w * 2 / 3, cell->ink == Cell::Ink::warning ? look.warning : look.water);
      p->setPen(QPen(look.ink, 1.5));
      p->drawLine(QPointF(left + w * 2 / 3, y - 6), QPointF(left + w * 2 / 3, y + 6));
      in.setRight(in.right() - static_cast<int>(w) - 8);
    }
    if (cell->typed) {
      p->setPen(QPen(cell->refused ? look.warning : look.hair, cell->refused ? 2 : 1));
      p->setBrush(look.field);
      p->drawRoundedRect(r.adjusted(4, 3, -4, -4), 3, 3);
    }
    p->setFont(face(12.5, cell->ink == Cell::Ink::strong));
    p->setPen(cell->ink == Cell::Ink::quiet     ? look.ink2
              : cell->ink == Cell::Ink::warning ? look.warning
                                                : look.ink);
    const bool left = rows_.columns()[static_cast<std::size_t>(index.column())].left;
    p->drawText(in, (left ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter,
                p->fontMetrics().elidedText(cell->text, Qt::ElideRight, in.width()));
    p->restore();
  }
  // What is cut says its whole.
  bool helpEvent(QHelpEvent* event, QAbstractItemView* view, const QStyleOptionViewItem& option,
                 const QModelIndex& index) override {
    const Cell* cell = rows_.at(index.row(), index.column());
    const int room = option.rect.width() - 2 * cellMargin - (cell && cell->bar ? barRoom : 0);
    if (cell && cell->tip.isEmpty() && QFontMetrics(face(12.5)).horizontalAdvance(cell->text) > room) {
      QToolTip::showText(event->globalPos(), cell->text, view);
      return true;
    }
    return QStyledItemDelegate::helpEvent(event, view, option, index);
  }
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {40, 27};
  }

 private:
  CellTable& view_;
  CellRows& rows_;
};

}  // namespace

void CellRows::display(std::vector<CellColumn> columns, std::vector<std::vector<Cell>> rows) {
  beginResetModel();
  columns_ = std::move(columns), rows_ = std::move(rows);
  endResetModel();
}

const Cell* CellRows::at(int row, int column) const {
  if (row < 0 || row >= rowCount() || column < 0) return nullptr;
  const auto& cells = rows_[static_cast<std::size_t>(row)];
  return column < static_cast<int>(cells.size()) ? &cells[static_cast<std::size_t>(column)] : nullptr;
}

int CellRows::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(rows_.size());
}
int CellRows::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(columns_.size());
}

QVariant CellRows::data(const QModelIndex& index, int role) const {
  const Cell* cell = at(index.row(), index.column());
  if (!cell) return {};
  if (role == Qt::DisplayRole || role == Qt::EditRole) return cell->text;
  if (role == Qt::ToolTipRole && !cell->tip.isEmpty()) return cell->tip;
  if (role == Qt::CheckStateRole && cell->ticked) return *cell->ticked ? Qt::Checked : Qt::Unchecked;
  if (role == Qt::AccessibleTextRole)
    return cell->ticked ? (*cell->ticked ? tr("selected") : tr("not selected")) : cell->text;
  return {};
}

QVariant CellRows::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || section < 0 || section >= columnCount()) return {};
  const CellColumn& c = columns_[static_cast<std::size_t>(section)];
  if (role == Qt::DisplayRole) return c.name;
  if (role == Qt::ToolTipRole) return c.tip.isEmpty() ? c.name : c.tip;
  if (role == Qt::TextAlignmentRole)
    return static_cast<int>((c.left ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter);
  return {};
}

Qt::ItemFlags CellRows::flags(const QModelIndex& index) const {
  Qt::ItemFlags f = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
  if (const Cell* cell = at(index.row(), index.column()); cell && cell->typed) f |= Qt::ItemIsEditable;
  return f;
}

bool CellRows::setData(const QModelIndex& index, const QVariant& value, int role) {
  const Cell* cell = at(index.row(), index.column());
  if (!cell || role != Qt::EditRole || !cell->typed || value.toString() == cell->text) return false;
  emit typed(index.row(), index.column(), value.toString());
  return true;
}

TableLines CellRows::table() const {
  TableLines lines(1);
  for (const CellColumn& c : columns_) lines[0].push_back({c.name.toStdString()});
  for (const auto& row : rows_) {
    auto& line = lines.emplace_back();
    for (const Cell& cell : row)
      line.push_back({.text = cell.ticked ? (*cell.ticked ? "yes" : "no") : cell.text.toStdString(),
                      .number = cell.number,
                      .bad = cell.ink == Cell::Ink::warning});
  }
  return lines;
}

CellTable::CellTable(CellRows& rows, QWidget* parent)
    : QTableView(parent), rows_(rows), look_(Look::light()) {
  setModel(&rows);
  setItemDelegate(new CellPainter(*this, rows));
  setSelectionBehavior(QAbstractItemView::SelectRows);
  setSelectionMode(QAbstractItemView::SingleSelection);
  setShowGrid(false);
  setFrameShape(QFrame::NoFrame);
  setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed |
                  QAbstractItemView::AnyKeyPressed);
  verticalHeader()->hide();
  verticalHeader()->setDefaultSectionSize(27);
  horizontalHeader()->setSectionResizeMode(QHeaderView::Fixed);
  horizontalHeader()->setHighlightSections(false);
  horizontalHeader()->setTextElideMode(Qt::ElideRight);
  horizontalHeader()->setFixedHeight(28);
  setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
  setMouseTracking(true);
  connect(&rows, &QAbstractItemModel::modelReset, this, &CellTable::layColumns);
}

void CellTable::setLook(const Look& look) {
  look_ = look;
  horizontalHeader()->setFont(face(12, true));
  viewport()->update();
}

// The width at which no word of a column is cut.
int CellTable::wholeWidth(int column) const {
  const QFontMetrics heading(face(12, true)), plain(face(12.5)), strong(face(12.5, true));
  int width = heading.horizontalAdvance(rows_.columns()[static_cast<std::size_t>(column)].name) +
              (rows_.columns()[static_cast<std::size_t>(column)].left ? 8 : 12);
  for (int r = 0; r < rows_.rowCount(); ++r)
    if (const Cell* cell = rows_.at(r, column); cell && !cell->ticked)
      width =
          std::max(width, (cell->ink == Cell::Ink::strong ? strong : plain).horizontalAdvance(cell->text) +
                              2 * cellMargin + rounding + (cell->bar ? barRoom : 0));
  return width;
}

// Columns with a width have at least that, and what their numbers need; words may be cut, and grow by a third
// at most while there is room. Columns without a width share what is left.
void CellTable::layColumns() {
  int left = viewport()->width(), open = 0;
  std::vector<int> widths;
  for (std::size_t i = 0; i < rows_.columns().size(); ++i) {
    const CellColumn& c = rows_.columns()[i];
    int w = c.width;
    if (w > 0 && !c.left) w = std::max(w, std::min(wholeWidth(static_cast<int>(i)), 2 * w + 60));
    widths.push_back(w);
    left -= w, open += w == 0;
  }
  for (std::size_t i = 0; i < widths.size(); ++i) {
    const CellColumn& c = rows_.columns()[i];
    if (!c.left || c.width == 0) continue;
    const int room = left - 90 * open,
              more = std::min(wholeWidth(static_cast<int>(i)), c.width * 4 / 3) - c.width;
    if (more > 0 && room > 0) widths[i] += std::min(more, room), left -= std::min(more, room);
  }
  const int each = open > 0 ? std::max(90, left / open) : 0;
  for (std::size_t i = 0; i < widths.size(); ++i)
    setColumnWidth(static_cast<int>(i), widths[i] > 0 ? widths[i] : each);
}

void CellTable::resizeEvent(QResizeEvent* event) {
  QTableView::resizeEvent(event);
  layColumns();
}

void CellTable::currentChanged(const QModelIndex& now, const QModelIndex& before) {
  QTableView::currentChanged(now, before);
  viewport()->update();
  if (now.isValid() && (!before.isValid() || before.row() != now.row())) emit rowChosen(now.row());
}

void CellTable::keyPressEvent(QKeyEvent* event) {
  const int r = row();
  if (event->matches(QKeySequence::Copy)) return copyAll();
  if (event->key() == Qt::Key_Space && r >= 0) {
    for (int c = 0; c < rows_.columnCount(); ++c)
      if (const Cell* cell = rows_.at(r, c); cell && cell->ticked) {
        emit rows_.ticked(r, !*cell->ticked);
        return;
      }
  }
  if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && r >= 0 &&
      !(rows_.at(r, currentIndex().column()) && rows_.at(r, currentIndex().column())->typed)) {
    emit opened(r);
    return;
  }
  QTableView::keyPressEvent(event);
}

void CellTable::mouseReleaseEvent(QMouseEvent* event) {
  QTableView::mouseReleaseEvent(event);
  const QModelIndex at = indexAt(event->pos());
  const Cell* cell = rows_.at(at.row(), at.column());
  if (cell && cell->ticked && event->button() == Qt::LeftButton) emit rows_.ticked(at.row(), !*cell->ticked);
}

void CellTable::mouseDoubleClickEvent(QMouseEvent* event) {
  const QModelIndex at = indexAt(event->pos());
  const Cell* cell = rows_.at(at.row(), at.column());
  if (cell && !cell->typed && !cell->ticked) emit opened(at.row());
  QTableView::mouseDoubleClickEvent(event);
}

void CellTable::contextMenuEvent(QContextMenuEvent* event) {
  QMenu menu;
  menu.addAction(tr("Copy the table"), this, &CellTable::copyAll);
  menu.exec(event->globalPos());
}

void CellTable::copyAll() const {
  QString text;
  for (const auto& line : rows_.table()) {
    QStringList cells;
    for (const TableCell& cell : line) cells << tabbed(QString::fromStdString(cell.text));
    text += cells.join('\t') + '\n';
  }
  QApplication::clipboard()->setText(text);
}

}  // namespace conduit::desktop
