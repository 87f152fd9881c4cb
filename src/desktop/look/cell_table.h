// A table of what a study found: cells as they are read, with small bars beside their words, ticks, fields
// to type in. Copied as text, saved by who owns it.
#pragma once

#include <QAbstractTableModel>
#include <QTableView>
#include <optional>
#include <vector>

#include "look/look.h"
#include "say/table_cell.h"

namespace conduit::desktop {

struct Cell {
  QString text{};
  std::optional<double> number{};  // that it shows, in all its digits, for files
  enum class Ink { plain, quiet, strong, warning } ink = Ink::plain;
  std::optional<double> bar{};   // share of the limit, which stands at two thirds
  std::optional<bool> ticked{};  // a box in place of words
  bool typed = false;            // may be typed in
  QString tip{};
  bool refused = false;
};

struct CellColumn {
  QString name;
  bool left = false;  // its words stand at the left
  int width = 0;      // at least; 0: shares what is left over
  QString tip{};      // the whole of a short heading
};

class CellRows : public QAbstractTableModel {
  Q_OBJECT
 public:
  using QAbstractTableModel::QAbstractTableModel;
  void display(std::vector<CellColumn> columns, std::vector<std::vector<Cell>> rows);
  [[nodiscard]] const Cell* at(int row, int column) const;
  [[nodiscard]] const std::vector<CellColumn>& columns() const { return columns_; }
  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
  [[nodiscard]] QVariant headerData(int section, Qt::Orientation, int role) const override;
  [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
  bool setData(const QModelIndex& index, const QVariant& value, int role) override;
  /// Headings first, for a table file or the clipboard.
  [[nodiscard]] TableLines table() const;

 signals:
  void ticked(int row, bool on);
  void typed(int row, int column, const QString& words);

 private:
  std::vector<CellColumn> columns_;
  std::vector<std::vector<Cell>> rows_;
};

class CellTable : public QTableView {
  Q_OBJECT
 public:
  explicit CellTable(CellRows& rows, QWidget* parent = nullptr);
  void setLook(const Look& look);
  [[nodiscard]] const Look& look() const { return look_; }
  [[nodiscard]] int row() const { return currentIndex().isValid() ? currentIndex().row() : -1; }

 signals:
  void rowChosen(int row);
  void opened(int row);  // by Return or twice clicked

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void currentChanged(const QModelIndex& now, const QModelIndex& before) override;

 private:
  void copyAll() const;
  void layColumns();
  [[nodiscard]] int wholeWidth(int column) const;
  CellRows& rows_;
  Look look_;
};

}  // namespace conduit::desktop
