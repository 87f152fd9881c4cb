// Findings, worst first, each with its place and its remedies as links.
#pragma once

#include <QScrollArea>
#include <QTimer>

#include "document/document.h"
#include "look/look.h"

class QLabel;

namespace conduit::desktop {

class FindingsList : public QScrollArea {
  Q_OBJECT
 public:
  explicit FindingsList(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);

 protected:
  void showEvent(QShowEvent*) override { rebuild(); }

 private:
  void rebuild();
  [[nodiscard]] QLabel* lineOf(std::size_t i, const Finding& f, CaseId in);
  Document& doc_;
  Look look_;
  QTimer later_;
};

}  // namespace conduit::desktop
