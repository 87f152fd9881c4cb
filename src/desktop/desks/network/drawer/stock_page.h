// The stock: shipped entries, the engineer's own, and those that travel with this model. Editing an entry
// makes it the model's; one command keeps it for other models, in the engineer's own open files.
#pragma once

#include <QAbstractTableModel>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QSortFilterProxyModel>
#include <QTableView>
#include <QToolButton>

#include "document/document.h"
#include "look/look.h"

namespace conduit::desktop {

class StockModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  explicit StockModel(Document& document, QObject* parent);
  void setList(const StockList* list);
  [[nodiscard]] const StockList* list() const { return list_; }
  void setLook(const Look& look) { look_ = look; }
  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
  [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  [[nodiscard]] Qt::ItemFlags flags(const QModelIndex& index) const override;
  bool setData(const QModelIndex& index, const QVariant& value, int role) override;
  [[nodiscard]] std::vector<std::string> cells(int row) const;

 private:
  void reset();
  Document& doc_;
  Look look_;
  const StockList* list_ = nullptr;
  std::size_t rows_ = 0;
  std::vector<char> numeric_;  // columns that hold numbers alone
};

class StockPage : public QWidget {
  Q_OBJECT
 public:
  explicit StockPage(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  /// Opens a list and goes to an entry of it.
  void showEntry(const QString& file, const QString& name);
  [[nodiscard]] QTableView* table() { return table_; }

 protected:
  void showEvent(QShowEvent*) override;

 private:
  void fill();
  void addEntry();
  void dropEntry();
  void keepEntry();
  void useEntry();
  [[nodiscard]] int currentRow() const;

  Document& doc_;
  StockModel* model_;
  QSortFilterProxyModel* proxy_;
  QComboBox* lists_;
  QLineEdit* filter_;
  QTableView* table_;
  QLabel* hint_;
};

}  // namespace conduit::desktop
