// The left column of the Pumps desk: the pumps there are, supplies that might be one, what is asked for, how
// candidates are weighed, whose curves are drawn.
#pragma once

#include <QScrollArea>
#include <map>
#include <set>

#include "desks/pumps/study.h"
#include "look/look.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QSlider;
class QToolButton;
class QVBoxLayout;

namespace conduit::desktop {

class PlaceRow;

class Places : public QScrollArea {
  Q_OBJECT
 public:
  explicit Places(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  void refresh();
  /// The row of what is looked at.
  void takeKeyboard();
  /// What is looked at: a pump, several, or a would-be supply.
  [[nodiscard]] Id place() const { return place_; }
  [[nodiscard]] const std::vector<Id>& together() const { return together_; }
  void choose(Id place, std::vector<Id> together = {});
  [[nodiscard]] std::vector<CaseId> ticked() const;
  void tick(CaseId id, bool on);
  [[nodiscard]] bool growing() const;
  [[nodiscard]] SharedSupply shared() const;
  /// The supply that alone makes up the rest, with the draw-offs as they are; noId: all act as they would.
  [[nodiscard]] Id rest() const;
  /// What the network asks now, shown where nothing is asked for by hand.
  void showFound(std::optional<double> flow_m3s, std::optional<double> head_m);

 signals:
  void chosen();   // another place
  void changed();  // curves to be drawn, or how

 private:
  void addHeading(const QString& words, const QString& name);
  QLineEdit* addField(const QString& words, std::string_view key, const QString& help);
  void layRows();
  void refreshFields();
  Document& doc_;
  Look look_;
  QWidget* body_;
  QVBoxLayout *rows_, *pumps_, *supplies_, *cases_;
  QWidget* sharing_;
  QToolButton *fold_, *moreFold_;
  bool open_ = false;  // the list of supplies
  bool more_ = false;  // what is seldom asked
  QLabel* builtWords_;
  std::map<std::string_view, QLabel*> labels_;
  QComboBox *mode_, *other_, *construction_;
  QLineEdit *share_, *least_, *find_;
  std::vector<QLabel*> headings_, quiet_;
  std::map<std::string_view, QLineEdit*> fields_;
  std::map<std::string_view, QSlider*> weights_;
  std::map<CaseId, QCheckBox*> ticks_;
  std::vector<PlaceRow*> all_;
  std::set<CaseId> tickedCases_;
  Id place_ = noId;
  std::vector<Id> together_;
  std::optional<double> foundFlow_, foundHead_;
};

}  // namespace conduit::desktop
