// Ledger: every element of a kind in a table, givens and founds, sorted, filtered by typing, copied out with headings.
#pragma once

#include <QAbstractTableModel>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QSortFilterProxyModel>
#include <QTableView>

#include "document/document.h"
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

 private:
  struct Column {
    const Field* field = nullptr;
    const Outcome* outcome = nullptr;
    int end = -1;
  };
  void rebuild();
  Document& doc_;
  const Part* part_ = nullptr;
  Look look_ = Look::light();
  bool following_ = false;
  std::vector<Id> ids_;
  std::vector<Column> columns_;
};

class Ledger : public QWidget {
  Q_OBJECT
 public:
  explicit Ledger(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  void copyOut();
  void showPart(const Part* part);
  [[nodiscard]] QTableView* table() const { return table_; }

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void showEvent(QShowEvent*) override { model_->follow(true); }
  void hideEvent(QHideEvent*) override { model_->follow(false); }

 private:
  void fillKinds();
  void followSelection();
  Document& doc_;
  LedgerModel* model_;
  QSortFilterProxyModel* proxy_;
  QComboBox* kind_;
  QLineEdit* filter_;
  QLabel* count_;
  QTableView* table_;
  bool following_ = false;
};

}  // namespace conduit::desktop
