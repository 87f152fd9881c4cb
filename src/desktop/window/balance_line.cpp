#include "window/balance_line.h"

#include "network/assume.h"

#include <QVBoxLayout>

#include "look/elided_label.h"
#include "quantity/format.h"

namespace conduit::desktop {

BalanceLine::BalanceLine(Document& document, QWidget* parent)
    : QWidget(parent),
      doc_(document),
      look_(Look::light()),
      first_(new ElidedLabel),
      second_(new ElidedLabel) {
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 3, 0, 3);
  layout->setSpacing(0);
  first_->setObjectName("balance");
  first_->setAccessibleName(tr("Status"));
  second_->setObjectName("balance.second");
  for (QLabel* label : {first_, second_}) {
    label->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
    layout->addWidget(label);
    connect(
        label, &QLabel::linkActivated, this,
        [this](const QString& link) {
          if (link == "findings") emit wantsFindings();
          if (link == "notJudged") emit doc_.wantsNotJudged();
          if (link == "offered") {
            const auto clicked = clicked_;
            offer({}, nullptr);
            if (clicked) clicked();
          }
          if (link == "assumed") {
            std::vector<Id> ids;
            for (const AssumedValue& a : assumedIn(doc_.network()))
              if (ids.empty() || ids.back() != a.element) ids.push_back(a.element);
            doc_.select(std::move(ids));
          }
          if (link.startsWith("case")) doc_.setCase(static_cast<CaseId>(link.mid(4).toUInt()));
          const SolvedPtr solved = doc_.solved();
          if (!solved || !link.startsWith("remedy")) return;
          const auto& problems = solved->solution.summary.problems;
          const auto k = static_cast<std::size_t>(link.mid(6).toInt());
          if (!problems.empty() && k < problems.front().remedies.size())
            doc_.apply(problems.front().remedies[k]);
        },
        Qt::QueuedConnection);
  }
  for (const auto signal : {&Document::answered, &Document::casesAnswered, &Document::caseChanged})
    connect(&doc_, signal, this, &BalanceLine::refresh);
  connect(&doc_, &Document::changed, this, [this] {
    if (refused_) passing_.clear();
    refresh();
  });
  connect(&doc_, &Document::unitsChanged, this, &BalanceLine::refresh);
  refresh();
}

void BalanceLine::setLook(const Look& look) {
  look_ = look;
  first_->setFont(face(13));
  second_->setFont(face(12.5));
  refresh();
}

void BalanceLine::say(const QString& words, bool refused) {
  passing_ = words;
  refused_ = refused;
  refresh();
}

void BalanceLine::offer(const QString& words, std::function<void()> clicked) {
  offered_ = words;
  clicked_ = std::move(clicked);
  refresh();
}

// With several cases: how many of them balance, and the worst of all.
void BalanceLine::overAll(QString* first, QString* second, QString* broken) const {
  const QString water = look_.water.name(), warning = look_.warning.name(), quiet = look_.ink2.name();
  const auto answers = doc_.answers();
  const CaseStanding all = standingOf(answers);
  const auto cases = static_cast<int>(answers.size());
  const Summary& here = doc_.solved()->solution.summary;
  const QString still = all.cases < answers.size() || !doc_.allCurrent() ? tr(" …") : QString();
  if (here.usable() && !doc_.solved()->standing.onPaperOnly) {
    const bool whole = all.balanced == answers.size() && all.onPaperOnly == 0;
    const QString words =
        whole                      ? tr("Solved in all %1 cases.").arg(cases)
        : all.balanced < all.cases ? tr("Solved in %1 of %2 cases.").arg(all.balanced).arg(cases)
        : all.onPaperOnly > 0 ? tr("Physically impossible in %1 of %2 cases.").arg(all.onPaperOnly).arg(cases)
                              : tr("Solved in %1 of %2 cases.").arg(all.balanced).arg(cases);
    const bool bad = all.balanced < all.cases || all.onPaperOnly > 0;
    *first =
        QString("<span style='color:%1;font-weight:600'>%2%3</span> <span style='color:%4'>%5</span>")
            .arg(bad ? warning : water, (bad ? "▲ " : "") + words, still, look_.ink.name(),
                 QString::fromStdString(here.brief(doc_.units())).section(':', 1).trimmed().toHtmlEscaped());
  }
  if (all.broken > 0 || all.balanced < all.cases || all.onPaperOnly > 0) {
    const QString count = all.broken == 1 ? tr("1 limit not met") : tr("%1 limits not met").arg(all.broken);
    *broken = QString("<a href='findings' style='color:%1;font-weight:600'>%2</a>").arg(warning, count);
    const Case* in = doc_.model().cases.find(all.worstIn);
    QString worst;
    if (in && in->id != doc_.currentCase() && !all.worst.empty())
      worst = QString("&nbsp;&nbsp; <a href='case%1' style='color:%2'>%3</a>")
                  .arg(in->id)
                  .arg(quiet, tr("worst in %1: %2")
                                  .arg(QString::fromStdString(in->name), QString::fromStdString(all.worst))
                                  .toHtmlEscaped());
    if (here.usable()) *second = *broken + worst;
    else *second += worst;
  }
}

void BalanceLine::refresh() {
  const SolvedPtr solved = doc_.solved();
  const QString water = look_.water.name(), warning = look_.warning.name(), quiet = look_.ink2.name();
  QString first, second, broken;
  if (!solved) {
    first = tr("Solving …");
  } else {
    const Summary& sum = solved->solution.summary;
    const QString rest = QString::fromStdString(sum.brief(doc_.units())).toHtmlEscaped();
    const Standing& s = solved->standing;
    if (sum.usable()) {
      const QString body = rest.mid(rest.indexOf(':') + 2);
      if (s.onPaperOnly) {
        first = QString("<span style='color:%1;font-weight:600'>▲ %2</span> %3")
                    .arg(warning, tr("Solved, but physically impossible."),
                         QString::fromStdString(s.worst).toHtmlEscaped() + ".");
      } else {
        first =
            QString("<span style='color:%1;font-weight:600'>%2</span> %3").arg(water, tr("Solved."), body);
      }
      if (s.broken > 0)
        second = QString("<a href='findings' style='color:%1;font-weight:600'>%2</a>")
                     .arg(warning, tr("%n limit(s) not met", "", static_cast<int>(s.broken))
                                       .replace("(s)", s.broken == 1 ? "" : "s"));
      else
        second = QString("<span style='color:%1'>%2</span>")
                     .arg(quiet, solved->notJudged.empty() ? tr("all limits met") : tr("limits met"));
      if (s.broken > 0) broken = second;
      if (s.near > 0)
        second += QString("<span style='color:%1'>&nbsp;&nbsp; %2 near limit</span>").arg(quiet).arg(s.near);
      if (solved->assumed > 0)
        second += QString("&nbsp;&nbsp; <a href='assumed' style='color:%1;font-style:italic'>%2</a>")
                      .arg(quiet, tr("%1 assumed").arg(solved->assumed));
    } else if (sum.verdict == Verdict::empty) {
      first = QString("<span style='color:%1'>%2</span>").arg(quiet, rest);
    } else {
      const auto colon = rest.indexOf(':');
      first = QString("<span style='color:%1;font-weight:600'>%2</span>%3")
                  .arg(warning, rest.left(colon + 1), rest.mid(colon + 1));
      if (!sum.problems.empty())
        for (std::size_t k = 0; k < sum.problems.front().remedies.size() && k < 3; ++k)
          second +=
              QString("<a href='remedy%1' style='color:%2'>%3</a>&nbsp;&nbsp;&nbsp;")
                  .arg(k)
                  .arg(water, QString::fromStdString(sum.problems.front().remedies[k].words).toHtmlEscaped());
    }
    if (doc_.model().cases.count() > 1 && sum.verdict != Verdict::empty) overAll(&first, &second, &broken);
    // In any case beside the verdict: it says what that does not rest on.
    const auto doubts = std::count_if(solved->findings.begin(), solved->findings.end(),
                                      [](const Finding& f) { return f.doubtful; });
    QStringList open;
    if (!solved->notJudged.empty()) open << tr("%1 not judged").arg(solved->notJudged.size());
    if (doubts > 0) open << tr("%1 doubtful").arg(doubts);
    if (!open.isEmpty()) {
      const QString gaps =
          QString("&nbsp;&nbsp; <a href='notJudged' style='color:%1'>%2</a>").arg(quiet, open.join(", "));
      second += gaps;
      if (!broken.isEmpty()) broken += gaps;
    }
    if (!doc_.current()) first = QString("<span style='color:%1'>%2 …</span>").arg(quiet, first);
  }
  if (!passing_.isEmpty()) {
    // What is broken stays in sight beside what is said in passing.
    const QString said = QString("<span style='color:%1'>%2</span>")
                             .arg(refused_ ? warning : quiet, passing_.toHtmlEscaped().replace("\n", "; "));
    second = broken.isEmpty() ? said : broken + "&nbsp;&nbsp; " + said;
  }
  if (!offered_.isEmpty())
    second = QString("<a href='offered' style='color:%1'>%2</a>&nbsp;&nbsp;&nbsp;")
                 .arg(water, offered_.toHtmlEscaped()) +
             second;
  first_->setText(first);
  second_->setText(second);
  first_->setToolTip(solved
                         ? QString("<pre>%1</pre>")
                               .arg(QString::fromStdString(solved->solution.summary.full()).toHtmlEscaped())
                         : QString());
}

}  // namespace conduit::desktop
