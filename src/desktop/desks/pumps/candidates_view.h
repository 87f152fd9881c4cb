// The candidates of a selection, ranked, with bars; what others cannot do, counted.
#pragma once

#include <QAbstractTableModel>
#include <QTableView>
#include <map>

#include "document/document.h"
#include "look/look.h"
#include "pump/selection.h"
#include "say/table_cell.h"

namespace conduit::desktop {

class CandidatesModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column {
    rank,
    pump,
    flow,
    over,
    head,
    efficiency,
    best,
    shaft,
    driver,
    margin,
    shutOff,
    delivery,
    act,
    columns
  };
  using QAbstractTableModel::QAbstractTableModel;
  /// `network`: names the takers.
  void display(std::optional<Selection> selection, const UnitSet& units, std::optional<double> driver_w,
               const Network& network);
  [[nodiscard]] const Candidate* at(int row) const;
  [[nodiscard]] const std::optional<Selection>& selection() const { return selection_; }
  [[nodiscard]] std::optional<double> driverOf(const Candidate& c) const;
  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
  [[nodiscard]] QVariant headerData(int section, Qt::Orientation, int role) const override;
  /// All as cells, headings first, for a table file or the clipboard.
  [[nodiscard]] TableLines table() const;

 private:
  [[nodiscard]] std::optional<double> exact(const Candidate& c, int column) const;
  std::optional<Selection> selection_;
  UnitSet units_ = UnitSet::siWater();
  std::optional<double> driver_;
  std::map<Id, QString> takers_;  // that a candidate gives least to
};

class CandidatesView : public QTableView {
  Q_OBJECT
 public:
  explicit CandidatesView(CandidatesModel& model, QWidget* parent = nullptr);
  void setLook(const Look& look);
  void setPlace(bool pump) { pump_ = pump; }  // else a would-be supply
  [[nodiscard]] bool ofPump() const { return pump_; }
  [[nodiscard]] const Look& look() const { return look_; }
  [[nodiscard]] CandidatesModel& rows() { return model_; }
  /// Rows that are marked, to be laid over the figure.
  [[nodiscard]] std::vector<int> marked() const;

 signals:
  void markedChanged();
  void tries(const QString& item);
  void takes(const QString& item);

 protected:
  void keyPressEvent(QKeyEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;

 private:
  void copyMarked() const;
  CandidatesModel& model_;
  Look look_;
  bool pump_ = true;
};

}  // namespace conduit::desktop
