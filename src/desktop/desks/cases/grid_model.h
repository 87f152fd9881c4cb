// The grid of cases as a table: a line a row and a case a column, or the other way round.
#pragma once

#include <QAbstractTableModel>
#include <set>

#include "cases/grid_edits.h"
#include "document/document.h"

namespace conduit::desktop {

class GridModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  explicit GridModel(Document& document, QObject* parent = nullptr);

  /// What stands at a place of the table. A line is a heading of a section, a row of the grid, or none (the
  /// column of case names where cases stand as rows).
  struct Spot {
    bool section = false;
    QString words;  // of a section
    const GridRow* line = nullptr;
    int column = -1;  // of the case; -1: the words of the line
    [[nodiscard]] const GridCell* cell() const {
      return line && column >= 0 ? &line->cells[static_cast<std::size_t>(column)] : nullptr;
    }
  };
  [[nodiscard]] Spot at(const QModelIndex& index) const;
  [[nodiscard]] const CaseGrid& grid() const { return grid_; }
  [[nodiscard]] const UnitSet& units() const { return doc_.units(); }
  /// The case of a cell; noCase where it has none.
  [[nodiscard]] CaseId caseAt(const QModelIndex& index) const;
  [[nodiscard]] bool isOlder(CaseId id) const { return !doc_.isCurrent(id); }
  [[nodiscard]] CaseId current() const { return doc_.currentCase(); }

  [[nodiscard]] bool asRows() const { return asRows_; }
  void setAsRows(bool asRows);
  /// Where the drawing stands, and the last place, which makes a case.
  [[nodiscard]] int casesShown() const { return static_cast<int>(grid_.cases.size()); }

  int rowCount(const QModelIndex& parent = {}) const override;
  int columnCount(const QModelIndex& parent = {}) const override;
  QVariant data(const QModelIndex& index, int role = Qt::DisplayRole) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  Qt::ItemFlags flags(const QModelIndex& index) const override;
  bool setData(const QModelIndex& index, const QVariant& value, int role) override;

  /// Reads the document anew; rows that are the same stay the same rows.
  void refresh();
  /// Texts into cells, one step of undo. False when refused.
  bool put(const std::vector<std::pair<QModelIndex, QString>>& texts);
  /// Given becomes found in that case, or found given.
  void swap(const QModelIndex& index);
  /// A row of what is typed: "B-2 running no", "pumps NPSH margin minimum". False, with a message, where it
  /// is neither.
  bool addRow(const QString& typed);
  /// Takes a row out: what is watched no longer is, what differs is as in the drawing in every case.
  void removeRow(const QModelIndex& index);
  /// The rows that a catalogue item brings: shown, or folded away again. False where the line brings none.
  bool toggle(const QModelIndex& index);

 private:
  [[nodiscard]] int lineCount() const;
  [[nodiscard]] Spot lineAt(int line) const;
  Document& doc_;
  CaseGrid grid_;
  std::vector<ExtraRow> extra_;
  std::set<Id> opened_;  // elements of which what their item brings is shown
  bool asRows_ = false;
};

}  // namespace conduit::desktop
