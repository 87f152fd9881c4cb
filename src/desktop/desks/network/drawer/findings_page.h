// The Findings drawer: what is wrong or near it, beside it every limit that is in force, and what could not
// be judged.
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
  enum class Page { findings, limits, notJudged };
  using QWidget::show;
  void show(Page page);
  [[nodiscard]] CellRows& limits() { return *rows_; }
  [[nodiscard]] CellRows& notJudged() { return *gapRows_; }

 protected:
  void showEvent(QShowEvent*) override;

 private:
  void refresh();
  void display();
  void displayGaps();
  void go(int row);
  void goToGap(int row);
  Document& doc_;
  Look look_;
  FindingsList* list_;
  CellRows *rows_, *gapRows_;
  CellTable *table_, *gapTable_;
  QStackedWidget* pages_;
  QToolButton* tabs_[3];
  QTimer later_;
  Background work_{tr("The register of limits"), this};
  std::vector<RegisterRow> register_;
  std::vector<std::pair<Id, std::string_view>> gaps_;  // where each row leads
};

}  // namespace conduit::desktop
