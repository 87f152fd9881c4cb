#include "desks/cases/case_card.h"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QVBoxLayout>
#include <cmath>

#include "cases/grid.h"
#include "fields/entry.h"
#include "look/choices.h"
#include "look/refused.h"
#include "look/words.h"
#include "model/costs.h"
#include "model/watched.h"
#include "quantity/format.h"

namespace conduit::desktop {
namespace {

QString typedOf(const Values& values, std::string_view key) {
  if (const Given* g = values.get<Given>(key)) return QString::fromStdString(g->typed);
  if (const auto* words = values.get<std::string>(key)) return QString::fromStdString(*words);
  return {};
}

QString number(double v, int significant = 4) { return QString::fromStdString(digits(v, significant)); }

}  // namespace

CaseCard::CaseCard(Document& document, QWidget* parent)
    : SideCard("case.card", tr("Case card"), 320, parent), doc_(document) {
  auto* top = new QHBoxLayout;
  name_ = new QLineEdit;
  name_->setObjectName("case.name");
  name_->setAccessibleName(tr("Name of the case"));
  name_->setFrame(false);
  kind_ = new QLabel(tr("case"));
  top->addWidget(name_, 1);
  top->addWidget(kind_, 0, Qt::AlignBottom);
  rows_->addLayout(top);
  connect(name_, &QLineEdit::editingFinished, this, [this] {
    if (!name_->isModified()) return;
    name_->setModified(false);
    doc_.takeModel(renameCase(doc_.model(), doc_.currentCase(), name_->text().toStdString()));
    refreshFields();
  });
  story_ = addText("case.story");
  addHeading(tr("Given"), "given");
  from_ = new QComboBox;
  from_->setObjectName("case.from");
  from_->setFixedWidth(168);
  addLine(tr("Based on"), from_, tr("Parent case"));
  connect(from_, &QComboBox::activated, this, [this](int i) {
    doc_.takeModel(conduit::setParent(doc_.model(), doc_.currentCase(), from_->itemData(i).toUInt()));
    refresh();
  });
  const auto about = [this](std::string_view key) {
    return [this, key](const QString& words) {
      return doc_.takeModel(
          setAbout(doc_.model(), doc_.currentCase(), key, words.toStdString(), &doc_.units()));
    };
  };
  hours_ = addField(tr("Hours per year"), "case.hours", tr("operating hours per year, for energy and cost"),
                    [about](const QString& words) {
                      // A bare number means hours, whatever the set of units.
                      bool bare = false;
                      (void)words.trimmed().toDouble(&bare);
                      return about(cases::hours)(bare ? words.trimmed() + " h" : words);
                    });
  remark_ = addField(tr("Remark"), "case.remark", tr("purpose of the case, shown under its name"),
                     about(cases::remark));
  const auto flagRow = [&](const QString& words, const QString& name, std::string_view key) {
    auto* box = new QCheckBox;
    box->setObjectName(name);
    addLine(words, box, {});
    connect(box, &QCheckBox::clicked, this, [this, key](bool on) {
      doc_.takeModel(setAbout(doc_.model(), doc_.currentCase(), key, on ? "yes" : "no", nullptr));
    });
    return box;
  };
  counts_ = flagRow(tr("Use for sizing"), "case.counts", cases::counts);
  issued_ = flagRow(tr("Print on sheet"), "case.issued", cases::issued);
  addHeading(tr("Compared with"), "against");
  against_ = new QComboBox;
  against_->setObjectName("case.against");
  against_->setAccessibleName(tr("The case this one is compared with"));
  rows_->addWidget(against_);
  connect(against_, &QComboBox::activated, this, [this] { refreshTexts(); });
  differs_ = addText("case.differs");
  changes_ = addText("case.changes");
  addHeading(tr("Per year, all cases"), "year");
  year_ = addText("case.year");
  for (const auto& [key, words] :
       {std::pair{costs::tariff, tr("Tariff per kWh")}, std::pair{costs::currency, tr("Currency")},
        std::pair{costs::motorEfficiency, tr("Motor efficiency")},
        std::pair{costs::driveEfficiency, tr("Drive efficiency")}}) {
    const std::string_view of = key;
    QString help;
    for (const Field& f : costFields())
      if (f.key == of) help = sentence(f.help);
    costs_[of] = addField(words, "cost." + text(of), help, [this, of](const QString& typed) {
      return doc_.takeModel(setCost(doc_.model(), of, typed.toStdString(), &doc_.units()));
    });
  }
  rows_->addSpacing(8);
  links_ = addText("case.links");
  rows_->addStretch(1);
}

void CaseCard::addHeading(const QString& words, const QString& name) {
  auto* label = new QLabel(words);
  label->setObjectName("case.heading." + name);
  headings_.push_back(label);
  rows_->addWidget(label);
}

// Words at the left, what is typed or chosen at the right.
void CaseCard::addLine(const QString& words, QWidget* editor, const QString& help) {
  auto* line = new QHBoxLayout;
  auto* label = new QLabel(words);
  label->setBuddy(editor);
  editor->setAccessibleName(words);
  for (QWidget* w : {static_cast<QWidget*>(label), editor}) w->setToolTip(help);
  line->addWidget(label, 1);
  line->addWidget(editor);
  rows_->addLayout(line);
}

QLineEdit* CaseCard::addField(const QString& words, const QString& name, const QString& help,
                              std::function<bool(const QString&)> take) {
  auto* edit = new QLineEdit;
  edit->setObjectName(name);
  edit->setAlignment(Qt::AlignRight);
  edit->setFixedSize(name == "case.remark" ? 200 : 112, 23);
  addLine(words, edit, help);
  connect(edit, &QLineEdit::editingFinished, this, [this, edit, help, take = std::move(take)] {
    if (!edit->isModified()) return;
    edit->setModified(false);
    const bool taken = take(edit->text());
    // What was refused stays, to be corrected.
    markRefused(*edit, taken ? QString() : QString::fromStdString(doc_.lastProblem().what), help);
    if (!taken) edit->setModified(true);
  });
  return edit;
}

void CaseCard::setLook(const Look& look) {
  look_ = look;
  setStyleSheet(
      QString("#case\\.card { border-left: 1px solid %1; } QLineEdit#case\\.name { background: "
              "transparent; border: none; padding: 0; } QLineEdit#case\\.name:focus { border: none; "
              "border-bottom: 2px solid %2; }")
          .arg(look_.hair.name(), look_.ink.name()));
  name_->setFont(face(17, true));
  kind_->setStyleSheet(QString("color: %1").arg(look_.ink2.name()));
  for (QLabel* label : headings_) {
    label->setFont(face(12));
    label->setStyleSheet(
        QString("color: %1; border-bottom: 1px solid %2; padding-bottom: 2px; margin-top: 8px;")
            .arg(look_.ink2.name(), look_.hair.name()));
  }
  refresh();
}

void CaseCard::focusName() {
  name_->setFocus();
  name_->selectAll();
}

void CaseCard::refresh() {
  refreshFields();
  refreshTexts();
  refreshYear();
}

void CaseCard::refreshFields() {
  const Case& c = doc_.caseNow();
  const bool drawing = c.id == drawingCase;
  const auto put = [](QLineEdit* edit, const QString& words, const QString& empty) {
    if (edit->isModified() && edit->hasFocus()) return;
    edit->setPlaceholderText(empty);
    if (edit->text() == words) return;  // what is selected stays selected
    edit->setText(words);
    edit->setCursorPosition(0);
    edit->setModified(false);
  };
  put(name_, QString::fromStdString(c.name), {});
  put(hours_, typedOf(drawing ? doc_.model().costs : c.about, cases::hours),
      number(hoursOf(doc_.model(), c.id) / 3600) + " h");
  put(remark_, typedOf(c.about, cases::remark), {});
  for (const auto& [key, edit] : costs_) {
    QString empty;
    if (key != costs::currency)
      if (const auto v = costOf(doc_.model().costs, key))
        empty = key == costs::tariff ? number(*v) : number(*v * 100, 3) + " %";
    put(edit, typedOf(doc_.model().costs, key), empty);
  }
  counts_->setChecked(flagOf(c, cases::counts));
  issued_->setChecked(flagOf(c, cases::issued));
  kind_->setText(drawing ? tr("base case") : tr("case"));
  const auto fill = [&](QComboBox* box, CaseId chosen, const auto& may) {
    std::vector<std::pair<QString, QVariant>> choices;
    for (const CaseId id : doc_.model().cases.ids())
      if (may(id)) choices.emplace_back(QString::fromStdString(doc_.model().cases.find(id)->name), id);
    offer(*box, choices, chosen);
  };
  fill(from_, c.parent, [&](CaseId id) {
    return drawing ? id == drawingCase : id == drawingCase || !doc_.model().cases.derives(id, c.id);
  });
  from_->setEnabled(!drawing);
  const QVariant compared = against_->currentData();
  const bool same = against_->property("of").toUInt() == c.id && compared.isValid() &&
                    doc_.model().cases.find(compared.toUInt());
  against_->setProperty("of", c.id);
  fill(against_, same ? compared.toUInt() : c.parent, [&](CaseId id) { return id != c.id; });
  const bool others = doc_.model().cases.count() > 1;
  for (QWidget* w :
       {static_cast<QWidget*>(against_), static_cast<QWidget*>(findChild<QLabel*>("case.heading.against"))})
    w->setVisible(others);
}

void CaseCard::refreshTexts() {
  const Model& model = doc_.model();
  const Case& c = doc_.caseNow();
  const QString quiet = look_.ink2.name(), water = look_.water.name();
  if (c.id == drawingCase) {
    story_->setText(tr("Base case. The other cases store only their differences."));
  } else {
    const Case* parent = model.cases.find(c.parent);
    std::size_t givens = 0, founds = 0;
    for (const Difference& d : c.differs.all()) (d.to == Difference::To::found ? founds : givens) += 1;
    QString story = tr("Differs from %1 in %2.")
                        .arg(QString::fromStdString(parent ? parent->name : "?").toHtmlEscaped(),
                             givens + founds == 0   ? tr("nothing yet")
                             : givens + founds == 1 ? tr("1 field")
                                                    : tr("%1 fields").arg(givens + founds));
    const CaseAnswer* answer = nullptr;
    const auto answers = doc_.answers();
    for (const CaseAnswerPtr& a : answers)
      if (a && a->id == c.id) answer = a.get();
    if (answer && answer->usable())
      for (const FoundField& f : answer->solution.found) {
        const Element* e = answer->network.find(f.element);
        const Field* field = e ? findField(*e->part, f.field) : nullptr;
        if (field && c.differs.at(f.element, f.field))
          story += " " + tr("%1: %2 found = %3.")
                             .arg(QString::fromStdString(e->name).toHtmlEscaped(), spokenText(f.field),
                                  QString::fromStdString(withUnit(f.value, field->measure, doc_.units())));
      }
    story_->setText(story);
  }
  // Against another case: what differs, in words; then what is watched, the greatest change first.
  const CaseId other = against_->count() > 0 ? against_->currentData().toUInt() : c.id;
  QString lines;
  if (other != c.id) {
    const auto words = differencesInWords(model, other, c.id, doc_.units());
    for (std::size_t i = 0; i < words.size() && i < 12; ++i)
      lines += QString("%1%2").arg(i ? "<br>" : "", QString::fromStdString(words[i]).toHtmlEscaped());
    if (words.size() > 12) lines += "<br>" + tr("and %1 more").arg(words.size() - 12);
    if (words.empty())
      lines =
          QString("<span style='color:%1'>%2</span>")
              .arg(quiet,
                   tr("No differences. Type in a grid column, or on any card while the case is current."));
  }
  differs_->setText(lines);
  differs_->setVisible(!lines.isEmpty());
  QString changes;
  const CaseAnswer *from = nullptr, *to = nullptr;
  const auto answers = doc_.answers();
  for (const CaseAnswerPtr& a : answers) {
    if (a && a->id == against_->currentData().toUInt() && against_->count() > 0) from = a.get();
    if (a && a->id == c.id) to = a.get();
  }
  if (from && to && from != to && from->usable() && to->usable()) {
    const auto all = changesBetween(model, *from, *to, doc_.units());
    for (std::size_t i = 0; i < all.size() && i < 8; ++i) {
      const WatchedChange& w = all[i];
      const QString share =
          w.share && std::abs(*w.share) < 10
              ? QString("%1%2 %").arg(*w.share < 0 ? "−" : "+").arg(std::abs(*w.share) * 100, 0, 'f', 0)
              : QString();
      // "takes 10.8 → 5.00": the word once.
      QString toWords = QString::fromStdString(w.to);
      const QString fromWords = QString::fromStdString(w.from);
      if (const auto blank = fromWords.indexOf(' ');
          blank > 0 && toWords.startsWith(fromWords.left(blank + 1)))
        toWords = toWords.mid(blank + 1);
      changes += QString(
                     "<tr><td>%1</td><td align='right' style='color:%5'>%6</td></tr><tr><td colspan='2' "
                     "style='color:%5'>&nbsp;&nbsp; %2 → <b style='color:%7'>%3</b> %4</td></tr>")
                     .arg(QString::fromStdString(w.label).toHtmlEscaped(), fromWords, toWords,
                          QString::fromStdString(w.unit), quiet, share, look_.ink.name());
    }
    if (all.empty() && !model.of<WatchedResults>().all.empty())
      changes = "<tr><td>" + tr("No change in watched results.") + "</td></tr>";
  }
  if (model.of<WatchedResults>().all.empty())
    changes = QString("<tr><td style='color:%1'>%2</td></tr>").arg(quiet, tr("No watched results yet."));
  changes_->setText("<table width='100%' cellspacing='0' cellpadding='1'>" + changes + "</table>");
  changes_->setVisible(model.cases.count() > 1);
  const auto link = [&](const char* what, const QString& words) {
    return QString("<a href='%1' style='color:%2'>%3</a><br>").arg(what, water, words);
  };
  QString links = link("show", tr("Show on the Network desk"));
  if (c.id != drawingCase) links += link("drawing", tr("Copy its values to the base case"));
  links += link("new", tr("New case from this one"));
  if (c.id != drawingCase)
    links += link("copy", tr("Copy this case")) + link("remove", tr("Remove this case"));
  links_->setText(links);
}

void CaseCard::refreshYear() {
  const auto answers = doc_.answers();
  const Year year = yearOf(doc_.model(), answers);
  const QString quiet = look_.ink2.name(), warning = look_.warning.name();
  QString rows;
  const auto row = [&](const QString& words, const QString& value) {
    rows += QString("<tr><td>%1</td><td align='right'><b>%2</b></td></tr>").arg(words, value);
  };
  row(tr("%1 h").arg(number(year.hours_s / 3600, 4)), tr("%1 MWh").arg(number(year.energy_j / 3.6e9, 3)));
  if (year.cost)
    row(tr("energy cost"),
        QString("%1 %2").arg(number(*year.cost, 4), QString::fromStdString(year.currency).toHtmlEscaped()));
  for (const CaseYear& c : year.cases)
    if (c.id == doc_.currentCase() && year.energy_j > 0 && year.cases.size() > 1)
      row(tr("share of this case"), tr("%1 %").arg(c.energy_j / year.energy_j * 100, 0, 'f', 0));
  QString notes;
  if (year.tooLong())
    notes += QString("<span style='color:%1'>▲ %2</span><br>")
                 .arg(warning, tr("The hours exceed one year (8 784 h)."));
  for (const CaseYear& c : year.cases)
    for (const Id id : c.unknown)
      if (const Element* e = doc_.model().drawn.find(id))
        notes += QString("<span style='color:%1'>%2</span><br>")
                     .arg(quiet, tr("excludes %1 in %2: no efficiency given")
                                     .arg(QString::fromStdString(e->name),
                                          QString::fromStdString(doc_.model().cases.find(c.id)->name)));
  year_->setText("<table width='100%' cellspacing='0' cellpadding='1'>" + rows + "</table>" + notes);
}

void CaseCard::act(const QString& link) {
  const CaseId now = doc_.currentCase();
  if (link == "show") {
    emit doc_.wantsShown(doc_.selected());
  } else if (link == "drawing") {
    doc_.takeModel(makeDrawing(doc_.model(), now));
  } else if (link == "new") {
    if (doc_.takeModel(addCase(doc_.model(), {}, now))) focusName();
  } else if (link == "copy") {
    if (doc_.takeModel(copyCase(doc_.model(), now))) focusName();
  } else if (link == "remove") {
    doc_.takeModel(removeCase(doc_.model(), now));
  }
}

}  // namespace conduit::desktop
