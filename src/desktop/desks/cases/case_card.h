// The card of the current case: what it is, what it differs in, how it compares, a year of all cases.
#pragma once

#include <map>

#include "cases/year.h"
#include "document/document.h"
#include "look/side_card.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;

namespace conduit::desktop {

class CaseCard : public SideCard {
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
  void refreshFields();
  void refreshTexts();
  void refreshYear();
  void act(const QString& link) override;
  Document& doc_;
  QLabel *kind_, *story_, *differs_, *changes_, *year_, *links_;
  QLineEdit *name_, *hours_, *remark_;
  QComboBox *from_, *against_;
  QCheckBox *counts_, *issued_;
  std::map<std::string_view, QLineEdit*> costs_;
  std::vector<QLabel*> headings_;
};

}  // namespace conduit::desktop
