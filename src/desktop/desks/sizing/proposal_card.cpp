#include "desks/sizing/proposal_card.h"

#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "look/refused.h"
#include "plot/plot.h"

namespace conduit::desktop {

ProposalCard::ProposalCard(QWidget* parent) : SideCard("sizing.card", tr("Sizing result"), 312, parent) {
  above_ = addText("sizing.above");
  goalWords_ = new QLabel;
  goal_ = new QLineEdit;
  goal_->setObjectName("sizing.goal");
  goal_->setFixedHeight(24);
  goalWords_->setBuddy(goal_);
  rows_->addWidget(goalWords_);
  rows_->addWidget(goal_);
  connect(goal_, &QLineEdit::returnPressed, this, [this] { emit goalTyped(goal_->text().trimmed()); });
  course_ = new Plot;
  course_->setAccessibleName(tr("Best cost against trials"));
  course_->setFixedHeight(112);
  rows_->addWidget(course_);
  take_ = new QPushButton;
  take_->setObjectName("sizing.take");
  take_->setMinimumHeight(46);
  search_ = new QPushButton;
  search_->setObjectName("sizing.search");
  search_->setFixedHeight(30);
  rows_->addSpacing(6);
  rows_->addWidget(take_);
  rows_->addWidget(search_);
  below_ = addText("sizing.below");
  rows_->addStretch(1);
  connect(take_, &QPushButton::clicked, this, &ProposalCard::takes);
  connect(search_, &QPushButton::clicked, this, &ProposalCard::searches);
  showCourse(nullptr);
  showTake({}, false);
  showGoal({}, {});
}

void ProposalCard::setLook(const Look& look) {
  look_ = look;
  setStyleSheet(
      QString("#sizing\\.card { border-left: 1px solid %1; }"
              "#sizing\\.take { background: %2; color: %3; border: 2px solid %2; border-radius: 3px; "
              "padding: 4px 8px; }"
              "#sizing\\.take:focus { border-color: %4; } #sizing\\.take:disabled { background: %1; "
              "border-color: %1; color: %5; }"
              "#sizing\\.search { border: 1px solid %5; border-radius: 3px; } #sizing\\.search:focus { "
              "border: 2px solid %4; }")
          .arg(look.hair.name(), look.water.name(), look.paper.name(), look.ink.name(), look.ink2.name()));
  course_->setLook(look);
  goalWords_->setStyleSheet(QString("color: %1").arg(look.ink2.name()));
}

void ProposalCard::show(const QString& above, const QString& below) {
  above_->setText(above);
  below_->setText(below);
}

void ProposalCard::showCourse(const PlotData* data) {
  course_->setVisible(data);
  if (data) course_->display(*data);
}

void ProposalCard::showTake(const QString& words, bool can) {
  take_->setVisible(!words.isEmpty());
  take_->setText(words);
  take_->setEnabled(can);
}

void ProposalCard::showSearch(const QString& words) {
  search_->setVisible(!words.isEmpty());
  search_->setText(words);
}

void ProposalCard::showGoal(const QString& words, const QString& example) {
  goalWords_->setVisible(!words.isEmpty());
  goal_->setVisible(!words.isEmpty());
  goalWords_->setText(words);
  goal_->setAccessibleName(words);
  goal_->setPlaceholderText(example);
}

void ProposalCard::refuseGoal(const QString& why) { markRefused(*goal_, why); }

}  // namespace conduit::desktop
