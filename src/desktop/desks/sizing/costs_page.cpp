#include "desks/sizing/costs_page.h"

#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QVBoxLayout>

#include "cases/year.h"
#include "look/refused.h"
#include "look/round_numbers.h"
#include "look/words.h"
#include "model/costs.h"
#include "quantity/format.h"
#include "sizing/prices.h"

namespace conduit::desktop {
namespace {

QString number(double v, int significant = 4) { return shortNumber(v, significant); }

void put(QLineEdit* edit, const QString& words, const QString& empty) {
  if (edit->isModified() && edit->hasFocus()) return;
  edit->setPlaceholderText(empty);
  if (edit->text() != words) edit->setText(words);
  edit->setModified(false);
}

}  // namespace

CostsPage::CostsPage(Document& document, QWidget* parent)
    : QScrollArea(parent), doc_(document), look_(Look::light()) {
  setObjectName("sizing.costs");
  setAccessibleName(tr("Costs"));
  setWidgetResizable(true);
  setFrameShape(QFrame::NoFrame);
  auto* body = new QWidget;
  body->setFont(face(12.5));
  auto* rows = new QVBoxLayout(body);
  rows->setContentsMargins(18, 12, 18, 12);
  rows->setSpacing(4);
  title_ = new QLabel(tr("Installed and running costs"));
  rows->addWidget(title_);
  grid_ = new QGridLayout;
  grid_->setHorizontalSpacing(12);
  grid_->setVerticalSpacing(4);
  grid_->setColumnStretch(2, 1);
  grid_->setColumnMinimumWidth(0, 130);
  rows->addLayout(grid_);
  for (const Field& f : costFields()) {
    // Hours have their own list below, case by case.
    if (f.key == costs::hours) continue;
    const std::string_view key = f.key;
    fields_[key] =
        addField(sentence(key), "costs." + text(key), spokenText(f.help), [this, key](const QString& words) {
          return doc_.takeModel(setCost(doc_.model(), key, words.toStdString(), &doc_.units()));
        });
  }
  casesTitle_ = new QLabel(tr("Hours per year"));
  rows->addWidget(casesTitle_);
  cases_ = new QGridLayout;
  cases_->setHorizontalSpacing(12);
  cases_->setVerticalSpacing(4);
  cases_->setColumnStretch(2, 1);
  cases_->setColumnMinimumWidth(0, 130);
  rows->addLayout(cases_);
  for (QLabel** label : {&worked_, &sizes_}) {
    *label = new QLabel;
    (*label)->setWordWrap(true);
    (*label)->setTextFormat(Qt::RichText);
    (*label)->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::LinksAccessibleByMouse |
                                      Qt::LinksAccessibleByKeyboard);
    rows->addWidget(*label);
  }
  worked_->setObjectName("sizing.worked");
  sizes_->setObjectName("sizing.pipeCosts");
  connect(sizes_, &QLabel::linkActivated, this, [this] {
    if (!doc_.stock()->pipes.empty())
      emit doc_.wantsStock("pipes.csv", text(doc_.stock()->pipes.front().name()));
  });
  rows->addStretch(1);
  setWidget(body);
}

QLineEdit* CostsPage::addField(const QString& words, const QString& name, const QString& help,
                               std::function<bool(const QString&)> take) {
  auto* label = new QLabel(words);
  auto* edit = new QLineEdit;
  auto* about = new QLabel(help);
  about->setWordWrap(true);
  edit->setObjectName(name);
  edit->setAccessibleName(words);
  edit->setAlignment(Qt::AlignRight);
  edit->setFixedSize(120, 24);
  label->setBuddy(edit);
  quiet_.push_back(about);
  const int row = grid_->rowCount();
  grid_->addWidget(label, row, 0);
  grid_->addWidget(edit, row, 1);
  grid_->addWidget(about, row, 2);
  connect(edit, &QLineEdit::editingFinished, this, [this, edit, take = std::move(take)] {
    if (!edit->isModified()) return;
    edit->setModified(false);
    const bool taken = take(edit->text());
    markRefused(*edit, taken ? QString() : text(doc_.lastProblem().what));
    if (!taken) edit->setModified(true);
    else refresh();
  });
  return edit;
}

void CostsPage::layCases() {
  const auto ids = doc_.model().cases.ids();
  for (auto it = hours_.begin(); it != hours_.end();)
    if (std::find(ids.begin(), ids.end(), it->first) == ids.end()) {
      delete it->second.first;
      delete it->second.second;
      it = hours_.erase(it);
    } else {
      ++it;
    }
  for (const CaseId id : ids) {
    auto& [label, edit] = hours_[id];
    const Case& c = *doc_.model().cases.find(id);
    if (!label) {
      label = new QLabel;
      edit = new QLineEdit;
      edit->setObjectName(QString("costs.hours.%1").arg(id));
      edit->setAlignment(Qt::AlignRight);
      edit->setFixedSize(120, 24);
      label->setBuddy(edit);
      const int row = cases_->rowCount();
      cases_->addWidget(label, row, 0);
      cases_->addWidget(edit, row, 1);
      connect(edit, &QLineEdit::editingFinished, this, [this, id, edit = edit] {
        if (!edit->isModified()) return;
        edit->setModified(false);
        // A bare number means hours, whatever the set of units.
        bool bare = false;
        QString words = edit->text().trimmed();
        (void)words.toDouble(&bare);
        if (bare) words += " h";
        const bool taken =
            doc_.takeModel(setAbout(doc_.model(), id, cases::hours, words.toStdString(), &doc_.units()));
        markRefused(*edit, taken ? QString() : text(doc_.lastProblem().what));
        if (!taken) edit->setModified(true);
      });
    }
    label->setText(text(c.name));
    edit->setAccessibleName(tr("Hours of %1").arg(text(c.name)));
    const Values& about = id == drawingCase ? doc_.model().costs : c.about;
    const Given* given = about.get<Given>(cases::hours);
    put(edit, given ? text(given->typed) : QString(), number(hoursOf(doc_.model(), id) / 3600) + " h");
  }
}

void CostsPage::setLook(const Look& look) {
  look_ = look;
  for (QLabel* label : {title_, casesTitle_}) {
    label->setFont(face(13, true));
    label->setIndent(0);
    label->setContentsMargins(0, 10, 0, 2);
  }
  for (QLabel* label : quiet_) label->setStyleSheet(QString("color: %1").arg(look.ink2.name()));
  refresh();
}

void CostsPage::refresh() {
  const Values& costs = doc_.model().costs;
  const auto typed = [&](std::string_view key) {
    if (const Given* g = costs.get<Given>(key)) return text(g->typed);
    if (const auto* words = costs.get<std::string>(key)) return text(*words);
    return QString();
  };
  for (const Field& f : costFields()) {
    const auto edit = fields_.find(f.key);
    if (edit == fields_.end()) continue;
    QString empty = tr("not given");
    if (f.kind == FieldKind::quantity)
      if (const auto v = costOf(costs, f.key))
        empty = f.measure == Measure::ratio ? number(*v * 100, 3) + " %" : number(*v);
    put(edit->second, typed(f.key), empty);
  }
  layCases();
  // The sums over the years, worked with these numbers.
  const Prices p = pricesOf(costs);
  const QString quiet = look_.ink2.name();
  const auto line = [&](const QString& what, const QString& formula, const QString& put, double value) {
    return QString(
               "<tr><td style='padding-right:14px'>%1</td><td style='padding-right:14px;color:%5'>%2</td><td "
               "style='padding-right:14px'>%3</td><td align='right'><b>%4</b></td></tr>")
        .arg(what, formula, put, number(value, 5), quiet);
  };
  const QString n = number(p.years), i = number(p.interest), e = number(p.growth);
  QString words =
      QString("<p><b>%1</b></p><table cellspacing='0' cellpadding='2'>").arg(tr("Present-value factors"));
  words += p.interest == p.growth
               ? line(tr("energy"), "n", n, p.energyWorth)
               : line(tr("energy"), QString::fromUtf8("(1+e)/(i−e)·(1−((1+e)/(1+i))ⁿ)"),
                      QString::fromUtf8("(1+%1)/(%2−%1)·(1−((1+%1)/(1+%2))^%3)").arg(e, i, n), p.energyWorth);
  words += p.interest == 0.0 ? line(tr("maintenance"), "n", n, p.upkeepWorth)
                             : line(tr("maintenance"), QString::fromUtf8("(1−(1+i)⁻ⁿ)/i"),
                                    QString::fromUtf8("(1−(1+%1)^−%2)/%1").arg(i, n), p.upkeepWorth);
  words += "</table>";
  words += QString("<p style='color:%1'>%2</p>")
               .arg(quiet, tr("Present value of 1 per year over n years, paid at year end: i discount rate, "
                              "e tariff escalation. With i = e = 0 it equals n."));
  if (!(p.tariff > 0))
    words += QString("<p style='color:%1'>▲ %2</p>")
                 .arg(look_.warning.name(), tr("No tariff given: energy cost is zero."));
  worked_->setText(words);
  std::size_t with = 0;
  bool own = false;
  for (const PipeSize& s : doc_.stock()->pipes) {
    with += s.costPerMetre.has_value();
    own = own || (s.costPerMetre && s.origin != Origin::shipped);
  }
  sizes_->setText(
      QString("<p><b>%1</b></p><p style='color:%2'>%3 <a href='stock' style='color:%4'>%5</a></p>")
          .arg(tr("Pipe, installed"), quiet,
               tr("The catalogue holds the installed cost per metre: %1 of %2 sizes have one. %3")
                   .arg(shortNumber(static_cast<double>(with), 7))
                   .arg(shortNumber(static_cast<double>(doc_.stock()->pipes.size()), 7))
                   .arg(own ? tr("Some are user-defined.")
                            : tr("The built-in costs are invented from weight and diameter; replace them "
                                 "with your own.")),
               look_.water.name(), tr("open the catalogue")));
}

}  // namespace conduit::desktop
