// The Findings drawer: what is wrong or near it, and beside it every limit that is in force.
#pragma once

#include <QTimer>
#include <QWidget>

#include "cases/register.h"
#include "document/background.h"
#include "document/document.h"
#include "look/look.h"

class QStackedWidget;
class QToolButton;

namespace conduit::desktop {

class CellRows;
class CellTable;
class FindingsList;

class FindingsPage : public QWidget {
  Q_OBJECT
 public:
  explicit FindingsPage(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  void showLimits(bool limits);
  [[nodiscard]] CellRows& limits() { return *rows_; }

 protected:
  void showEvent(QShowEvent*) override;

 private:
  void refresh();
  void display();
  void go(int row);
  Document& doc_;
  Look look_;
  FindingsList* list_;
  CellRows* rows_;
  CellTable* table_;
  QStackedWidget* pages_;
  QToolButton *asFindings_, *asLimits_;
  QTimer later_;
  Background work_;
  std::vector<RegisterRow> register_;
};

}  // namespace conduit::desktop
