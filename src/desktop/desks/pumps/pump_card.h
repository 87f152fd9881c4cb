// The right column of the Pumps desk: what the suction has and takes, what would mend it, power and cost,
// speeds.
#pragma once

#include "desks/pumps/study.h"
#include "look/side_card.h"
#include "pump/suction_case.h"

class QLabel;
class QLineEdit;

namespace conduit::desktop {

class PumpCard : public SideCard {
  Q_OBJECT
 public:
  explicit PumpCard(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  void display(const StudyResultPtr& result);
  /// What a marked candidate does with one, two, three units; empty takes it away.
  void showUnits(const QString& item, const std::vector<CandidateDuty>& rows);
  /// What the speed is to hold, as typed; empty: nothing. An invalid text is said beside the field.
  [[nodiscard]] std::optional<SpeedGoal> goal(const Network& network) const;

 signals:
  void goalChanged();

 private:
  void act(const QString& link) override;
  Document& doc_;
  QLabel *name_, *story_, *suction_, *fixes_, *power_, *doubts_, *units_, *speeds_, *vapour_, *holdWords_;
  QLineEdit* hold_;
  std::vector<QLabel*> texts_;
  StudyResultPtr result_;
  std::optional<SuctionCase> worst_;
};

}  // namespace conduit::desktop
