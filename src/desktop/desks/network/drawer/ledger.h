// Ledger: every element of a kind in a table, givens and founds; columns chosen, ordered, frozen and kept as
// sets; many cells changed at once; blocks pasted in and copied out.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QSortFilterProxyModel>
#include <QTableView>
#include <QToolButton>
#include <QVBoxLayout>

#include "drawer/ledger_model.h"

namespace conduit::desktop {

class Ledger : public QWidget {
  Q_OBJECT
 public:
  explicit Ledger(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  void copyOut();
  /// A block from the clipboard, to be looked at before it is taken: without names its rows go to those from
  /// the cell in hand downward.
  void pasteBlock();
  void showPart(const Part* part);
  /// The same text, or arithmetic ("* 1.1"), to every selected cell of the column in hand.
  void changeSelected(const QString& text);
  void fillSelectedDown();
  [[nodiscard]] QTableView* table() const { return table_; }
  [[nodiscard]] LedgerModel* model() const { return model_; }
  /// Columns shown, in their order, by key; the first `frozen` stay in sight.
  struct ColumnSet {
    QStringList keys;
    int frozen = 1;
  };
  [[nodiscard]] ColumnSet columns() const;
  void setColumns(const ColumnSet& set);
  void saveColumns(const QString& name);
  [[nodiscard]] QStringList savedColumns() const;

 signals:
  void wantsImport(const QByteArray& text, const QString& source, const conduit::Part* kind,
                   const std::vector<conduit::ColumnUse>& columns);

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override { model_->follow(false); }

 private:
  void fillKinds();
  void fillColumnsMenu();
  void followSelection();
  void firstLook();
  void arrangeFrozen();
  void resort();
  void sayCount();
  [[nodiscard]] std::vector<Id> selectedIn(int column) const;
  Document& doc_;
  LedgerModel* model_;
  QSortFilterProxyModel* proxy_;
  QComboBox* kind_;
  QLineEdit *filter_, *many_;
  QToolButton* columnsButton_;
  QMenu* columnsMenu_;
  QLabel* count_;
  QTableView *table_, *frozen_;
  QVBoxLayout* frozenFoot_ = nullptr;
  bool chosen_ = false;  // columns, by somebody
  int frozenCount_ = 1;
  bool following_ = false;
};

}  // namespace conduit::desktop
