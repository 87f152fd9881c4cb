// The card of the current case: what it is, what it differs in, how it compares, a year of all cases.
#pragma once

#include <QScrollArea>
#include <map>

#include "cases/year.h"
#include "document/document.h"
#include "look/look.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QVBoxLayout;

namespace conduit::desktop {

class CaseCard : public QScrollArea {
  Q_OBJECT
 public:
  explicit CaseCard(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  void refresh();
  /// The name is selected, to be typed over.
  void focusName();

 private:
  void addHeading(const QString& words, const QString& name);
  void addLine(const QString& words, QWidget* editor, const QString& help);
  QLineEdit* addField(const QString& words, const QString& name, const QString& help,
                      std::function<bool(const QString&)> take);
  QLabel* addText(const QString& name);
  void refreshFields();
  void refreshTexts();
  void refreshYear();
  void act(const QString& link);
  Document& doc_;
  Look look_;
  QVBoxLayout* rows_;
  QLabel *kind_, *story_, *differs_, *changes_, *year_, *links_;
  QLineEdit *name_, *hours_, *remark_;
  QComboBox *from_, *against_;
  QCheckBox *counts_, *issued_;
  std::map<std::string_view, QLineEdit*> costs_;
  std::vector<QLabel*> headings_;
};

}  // namespace conduit::desktop
