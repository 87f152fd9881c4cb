// The page of costs: every field with what it means, the hours of the cases, and how a sum over the years is
// reckoned with these numbers.
#pragma once

#include <QScrollArea>
#include <map>

#include "document/document.h"
#include "look/look.h"

class QGridLayout;
class QLabel;
class QLineEdit;

namespace conduit::desktop {

class CostsPage : public QScrollArea {
  Q_OBJECT
 public:
  explicit CostsPage(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  void refresh();

 private:
  QLineEdit* addField(const QString& words, const QString& name, const QString& help,
                      std::function<bool(const QString&)> take);
  void layCases();
  Document& doc_;
  Look look_;
  QGridLayout *grid_, *cases_;
  QLabel *title_, *casesTitle_, *worked_, *sizes_;
  std::map<std::string_view, QLineEdit*> fields_;
  std::map<CaseId, std::pair<QLabel*, QLineEdit*>> hours_;
  std::vector<QLabel*> quiet_;
};

}  // namespace conduit::desktop
