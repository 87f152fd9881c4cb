#include "drawer/findings_list.h"

#include <QLabel>
#include <QVBoxLayout>

namespace conduit::desktop {

FindingsList::FindingsList(Document& document, QWidget* parent)
    : QScrollArea(parent), doc_(document), look_(Look::light()) {
  setObjectName("findings");
  setAccessibleName(tr("Findings"));
  setWidgetResizable(true);
  connect(&doc_, &Document::answered, this, &FindingsList::rebuild);
  connect(&doc_, &Document::casesAnswered, this, [this] {
    if (doc_.model().cases.count() > 1) later_.start();
  });
  later_.setSingleShot(true);
  later_.setInterval(150);  // answers of other cases come one after another
  connect(&later_, &QTimer::timeout, this, &FindingsList::rebuild);
  connect(&doc_, &Document::unitsChanged, this, &FindingsList::rebuild);
  rebuild();
}

void FindingsList::setLook(const Look& look) {
  look_ = look;
  rebuild();
}

// One finding: how bad, where, what, and its remedies. A click in another case makes that the current one.
QLabel* FindingsList::lineOf(std::size_t i, const Finding& f, CaseId in) {
  static const char* words[] = {QT_TR_NOOP("no solution"), QT_TR_NOOP("impossible"), QT_TR_NOOP("not met"),
                                QT_TR_NOOP("near limit"), QT_TR_NOOP("note")};
  const QColor tone = f.severity <= Severity::broken ? look_.warning : look_.ink2;
  QString what = QString::fromStdString(f.what).toHtmlEscaped();
  if (!what.isEmpty()) what[0] = what[0].toUpper();
  QString html = QString("<span style='color:%1;font-weight:600'>%2 %3</span>&nbsp;&nbsp;")
                     .arg(tone.name(), f.severity <= Severity::broken ? "▲" : "·",
                          tr(words[static_cast<int>(f.severity)]));
  if (!f.place.name.empty())
    html += QString("<a href='place' style='color:%1'>%2</a>&nbsp; ")
                .arg(look_.water.name(), QString::fromStdString(f.place.name).toHtmlEscaped());
  html += what + ".";
  for (std::size_t r = 0; r < f.remedies.size() && r < 4; ++r)
    html += QString("&nbsp;&nbsp;<a href='%1' style='color:%2'>%3</a>")
                .arg(r)
                .arg(look_.water.name(), QString::fromStdString(f.remedies[r].words).toHtmlEscaped());
  auto* label = new QLabel(html);
  label->setObjectName(QString("finding.%1").arg(i));
  label->setTextFormat(Qt::RichText);
  label->setWordWrap(true);
  label->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
  label->setFocusPolicy(Qt::StrongFocus);
  label->setAccessibleName(QString::fromStdString(f.what));
  connect(
      label, &QLabel::linkActivated, this,
      [this, f, in](const QString& link) {
        doc_.setCase(in);
        if (link == "place") doc_.apply({"", {}, f.place});
        else doc_.apply(f.remedies[static_cast<std::size_t>(link.toInt())]);
      },
      Qt::QueuedConnection);
  return label;
}

void FindingsList::rebuild() {
  if (!isVisible()) return;  // made when it is looked at
  auto* body = new QWidget;
  auto* rows = new QVBoxLayout(body);
  rows->setContentsMargins(18, 8, 18, 8);
  rows->setSpacing(4);
  // The current case first; what others find stands under their names.
  struct Found {
    const CaseAnswer* answer;
    const Finding* finding;
  };
  std::vector<CaseAnswerPtr> kept;
  std::vector<Found> found;
  const SolvedPtr solved = doc_.solved();
  if (solved) kept.push_back(solved);
  for (const CaseAnswerPtr& a : doc_.answers())
    if (a && a->id != doc_.currentCase()) kept.push_back(a);
  for (const CaseAnswerPtr& a : kept)
    for (const Finding& f : a->findings) found.push_back({a.get(), &f});
  const bool several = doc_.model().cases.count() > 1;
  constexpr std::size_t most = 200;
  if (found.empty()) {
    auto* label = new QLabel(!solved || !solved->solution.summary.usable() ? tr("No findings yet.")
                             : solved->notJudged.empty()
                                 ? tr("No findings: all limits met.")
                                 : tr("No findings: all limits met that could be judged (see Not judged)."));
    label->setStyleSheet(QString("color: %1").arg(look_.ink2.name()));
    rows->addWidget(label);
  }
  const CaseAnswer* heading = nullptr;
  for (std::size_t i = 0; i < found.size() && i < most; ++i) {
    if (several && found[i].answer != heading) {
      heading = found[i].answer;
      const Case* which = doc_.model().cases.find(heading->id);
      auto* name = new QLabel(which ? QString::fromStdString(which->name) : QString());
      name->setObjectName(QString("findings.case.%1").arg(heading->id));
      name->setFont(face(12.5, true));
      rows->addWidget(name);
    }
    rows->addWidget(lineOf(i, *found[i].finding, found[i].answer->id));
  }
  if (found.size() > most) rows->addWidget(new QLabel(tr("and %1 more").arg(found.size() - most)));
  rows->addStretch(1);
  if (QWidget* old = takeWidget()) old->deleteLater();
  setWidget(body);
}

}  // namespace conduit::desktop
