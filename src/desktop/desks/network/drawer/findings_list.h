// Findings, worst first, each with its place and its remedies as links.
#pragma once

#include <QScrollArea>

#include "document/document.h"
#include "look/look.h"

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
  Document& doc_;
  Look look_;
};

}  // namespace conduit::desktop
