// The grid of cases: headings and the first columns stay while the rest scrolls; cells are typed in, swapped,
// pasted and filled like those of the Ledger.
#pragma once

#include <QHeaderView>
#include <QStyledItemDelegate>
#include <QTableView>

#include "desks/cases/grid_model.h"
#include "look/look.h"

namespace conduit::desktop {

/// Headings of four lines: name, remark, parent, verdict; or the words of a line where cases stand as rows.
class GridHeader : public QHeaderView {
  Q_OBJECT
 public:
  GridHeader(GridModel& model, QWidget* parent);
  void setLook(const Look& look);
  [[nodiscard]] QSize sizeHint() const override;

 protected:
  void paintSection(QPainter* painter, const QRect& rect, int section) const override;

 private:
  GridModel& model_;
  Look look_;
};

class GridDelegate : public QStyledItemDelegate {
  Q_OBJECT
 public:
  GridDelegate(GridModel& model, QObject* parent);
  void setLook(const Look& look) { look_ = look; }
  void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override;
  QWidget* createEditor(QWidget* parent, const QStyleOptionViewItem& option,
                        const QModelIndex& index) const override;
  void updateEditorGeometry(QWidget* editor, const QStyleOptionViewItem& option,
                            const QModelIndex& index) const override;
  /// Where the marker that swaps stands in a cell; empty where there is none.
  [[nodiscard]] QRect markerIn(const QRect& cell, const QModelIndex& index) const;

 private:
  void paintWords(QPainter& p, const QRect& rect, const GridRow& line) const;
  void paintWatched(QPainter& p, const QRect& rect, const GridModel::Spot& spot,
                    const QModelIndex& index) const;
  void paintGiven(QPainter& p, const QRect& rect, const GridModel::Spot& spot,
                  const QModelIndex& index) const;
  GridModel& model_;
  Look look_;
};

/// A heading as it is painted above a column or beside a row.
void paintCaseHeading(QPainter& p, const QRect& rect, const GridHeading& heading, bool current,
                      const Look& look);

class GridView : public QTableView {
  Q_OBJECT
 public:
  using QTableView::edit;
  GridView(Document& document, GridModel& model, QWidget* parent = nullptr);
  void setLook(const Look& look);
  void setAsRows(bool asRows);
  void copyOut() const;
  void paste();
  /// The first of the selected cells to all the others: of each row, or of each column.
  void fill(Qt::Orientation way);
  void clearCells();
  /// Brings the case that is current into sight.
  void showCurrent();
  [[nodiscard]] QTableView& frozen() { return *frozen_; }

 signals:
  void wantsCase();  // a click where a case is made

 protected:
  void resizeEvent(QResizeEvent* event) override;
  QModelIndex moveCursor(CursorAction action, Qt::KeyboardModifiers modifiers) override;
  void scrollTo(const QModelIndex& index, ScrollHint hint = EnsureVisible) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;
  bool edit(const QModelIndex& index, EditTrigger trigger, QEvent* event) override;
  void currentChanged(const QModelIndex& now, const QModelIndex& before) override;

 private:
  void layOut();
  void placeFrozen();
  bool clicked(QTableView& in, QPoint at);
  Document& doc_;
  GridModel& model_;
  QTableView* frozen_;
  GridHeader *head_, *frozenHead_;
  GridDelegate *delegate_, *frozenDelegate_;  // each view has editors of its own
  Look look_;
};

}  // namespace conduit::desktop
