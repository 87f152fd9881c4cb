// The left column of the Sizing desk: what is wanted, sizes to choose from, cases, ties, what is left.
#pragma once

#include <map>

#include "document/document.h"
#include "look/side_card.h"
#include "model/sizing_setup.h"
#include "sizing/judge.h"

class QCheckBox;
class QLabel;
class QLineEdit;
class QRadioButton;

namespace conduit::desktop {

class SetupPanel : public SideCard {
  Q_OBJECT
 public:
  explicit SetupPanel(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  void refresh();
  void takeKeyboard();
  /// Lines that no size can be chosen for, and why: known once a task was made.
  void showLeft(std::vector<std::pair<Id, std::string>> left);
  /// What is asked for every taker, once the cases were solved.
  void showDuties(std::vector<Duty> duties);

 protected:
  void act(const QString& link) override;

 private:
  void addNumber(std::string_view key, const QString& words, const QString& help);
  QLabel* addHeading(const QString& words);
  void take(const QString& name, const std::function<void(SizingSetup&)>& change);
  [[nodiscard]] std::vector<Id> selectedLines() const;
  [[nodiscard]] std::pair<Id, Id> selectedEnds() const;
  void addLaying();
  void tie(const std::vector<Id>& lines);
  void ask(Id taker, std::optional<DeliveryAsked> asked, const QString& name);
  [[nodiscard]] QString dutyRows() const;
  [[nodiscard]] QString link(const QString& to, const QString& words) const;
  Document& doc_;
  std::vector<QLabel*> headings_;
  std::vector<QRadioButton*> wanted_;
  QLabel *sizes_, *ties_, *laying_, *limits_, *left_;
  QLineEdit *addSize_, *addLaying_;
  QVBoxLayout* cases_;
  std::map<CaseId, QCheckBox*> held_;
  std::map<std::string_view, QLineEdit*> numbers_;
  std::vector<TiedLines> offers_;
  std::vector<TiedLines> pairs_;  // flow and return, that are tied by default
  std::vector<std::pair<Id, std::string>> cannot_;
  std::vector<Duty> duties_;
  bool allOffers_ = false, allPairs_ = false;
};

}  // namespace conduit::desktop
