// The right column of the Sizing desk: what was found, how good it is, and the button that takes it.
#pragma once

#include "look/side_card.h"

class QLabel;
class QLineEdit;
class QPushButton;

namespace conduit::desktop {

class Plot;
struct PlotData;

class ProposalCard : public SideCard {
  Q_OBJECT
 public:
  explicit ProposalCard(QWidget* parent = nullptr);
  void setLook(const Look& look);
  [[nodiscard]] const Look& look() const { return look_; }
  /// Words above the figure and below the buttons; links in them come out of `asked`.
  void show(const QString& above, const QString& below);
  void showCourse(const PlotData* data);  // null: none
  void showTake(const QString& words, bool can);
  void showSearch(const QString& words);  // empty: no button
  /// A value typed for which the exact bore is asked; empty words: no field.
  void showGoal(const QString& words, const QString& example);
  void refuseGoal(const QString& why);
  [[nodiscard]] Plot& course() { return *course_; }

 signals:
  void asked(const QString& link);
  void takes();
  void searches();
  void goalTyped(const QString& words);

 protected:
  void act(const QString& link) override { emit asked(link); }

 private:
  QLabel *above_, *below_, *goalWords_;
  Plot* course_;
  QPushButton *take_, *search_;
  QLineEdit* goal_;
};

}  // namespace conduit::desktop
