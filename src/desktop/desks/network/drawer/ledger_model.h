// The rows and columns of the Ledger: one row an element of a kind, one column a field or a found number.
#pragma once

#include <QAbstractTableModel>
#include <map>

#include "document/document.h"
#include "exchange/import_table.h"
#include "look/look.h"

namespace conduit::desktop {

/// One row an element, one column a field or an outcome. Givens can be typed into.
class LedgerModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  explicit LedgerModel(Document& document, QObject* parent = nullptr);
  void setPart(const Part* part);
  [[nodiscard]] const Part* part() const { return part_; }
  [[nodiscard]] Id idAt(int row) const { return ids_[static_cast<std::size_t>(row)]; }
  [[nodiscard]] int rowOf(Id id) const;
  void setLook(const Look& look) { look_ = look; }
  /// A ledger that nobody looks at does not follow the model.
  void follow(bool on);

  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
  [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
  bool setData(const QModelIndex& index, const QVariant& value, int role) override;

  static constexpr int sortRole = Qt::UserRole + 1;

  /// What a column is: the field or outcome, or null of both for name and ends.
  [[nodiscard]] const Field* fieldAt(int column) const {
    return columns_[static_cast<std::size_t>(column)].field;
  }
  [[nodiscard]] const Outcome* outcomeAt(int column) const {
    return columns_[static_cast<std::size_t>(column)].outcome;
  }
  /// A word for a column that stays the same from run to run: "name", "from", "given bore", "found flow".
  [[nodiscard]] QString keyOf(int column) const;
  /// What a pasted column becomes when it lands on this one.
  [[nodiscard]] ColumnUse useOf(int column) const;
  [[nodiscard]] bool incomplete(int row) const;
  /// True where the element gives the column's field itself.
  [[nodiscard]] bool holds(int row, int column) const;

 private:
  /// What a field takes that is not given: from a size, a take-off, an item of the catalogue, the job.
  [[nodiscard]] bool differs(Id id, const Field* field) const;  // in the current case
  [[nodiscard]] QString limitOfJob(const Element& e, const Field& field) const;
  [[nodiscard]] QString inherited(const Element& e, const Field& field) const;
  struct Column {
    const Field* field = nullptr;
    const Outcome* outcome = nullptr;
    int end = -1;
  };
  void rebuild();
  void readLacks();
  [[nodiscard]] const QString& sortKey(int row) const;
  Document& doc_;
  const Part* part_ = nullptr;
  Look look_ = Look::light();
  bool following_ = false;
  std::vector<Id> ids_;
  mutable std::vector<QString> sortKeys_;
  std::vector<Column> columns_;
  std::map<std::string, QString, std::less<>> lacks_;  // name → what is said of it
};

}  // namespace conduit::desktop
