#include "desks/sizing/setup_panel.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QCompleter>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QRadioButton>
#include <QVBoxLayout>
#include <set>

#include "cases/year.h"
#include "look/refused.h"
#include "look/round_numbers.h"
#include "look/words.h"
#include "model/sizing_setup.h"
#include "network/setting.h"
#include "quantity/format.h"
#include "sizing/choices.h"
#include "sizing/pairs.h"

namespace conduit::desktop {
namespace {

QString inShort(const QString& words, int most = 26) {
  return words.size() > most ? words.left(most - 1) + "…" : words;
}

}  // namespace

SetupPanel::SetupPanel(Document& document, QWidget* parent)
    : SideCard("sizing.setup", tr("Sizing set-up"), 246, parent), doc_(document) {
  rows_->setContentsMargins(14, 8, 12, 12);
  rows_->setSpacing(3);
  addHeading(tr("Minimise"));
  auto* group = new QButtonGroup(this);
  for (const std::string_view word : sizing::wanted) {
    auto* button = new QRadioButton(spokenText(word));
    button->setObjectName("sizing.least." + text(word));
    group->addButton(button);
    rows_->addWidget(button);
    wanted_.push_back(button);
    connect(button, &QRadioButton::clicked, this,
            [this, word] { doc_.takeModel(setSizing(doc_.model(), sizing::least, word, nullptr)); });
  }
  addHeading(tr("Available sizes"));
  sizes_ = addText("sizing.sizes");
  addSize_ = new QLineEdit;
  addSize_->setObjectName("sizing.addSizes");
  addSize_->setAccessibleName(tr("Standard and schedule to add"));
  addSize_->setPlaceholderText(tr("add: ASME B36.10M 40 from 2 to 10"));
  addSize_->setFixedHeight(23);
  rows_->addWidget(addSize_);
  connect(addSize_, &QLineEdit::returnPressed, this, [this] {
    const QString words = addSize_->text().trimmed();
    if (words.isEmpty()) return;
    const auto range = rangeFrom(words.toStdString(), *doc_.stock());
    markRefused(*addSize_, range ? QString()
                                 : tr("%1. Type the first letters; add \"from 2 to 10\" or \"for SERVICE\" "
                                      "to narrow it.")
                                       .arg(text(range.error().what)));
    if (!range) return;
    addSize_->clear();
    take(tr("Add sizes %1").arg(words), [&](SizingSetup& s) { s.ranges.push_back(*range); });
  });
  addHeading(tr("Sizing cases"));
  cases_ = new QVBoxLayout;
  cases_->setSpacing(1);
  rows_->addLayout(cases_);
  addHeading(tr("Equal-size groups"));
  ties_ = addText("sizing.ties");
  addHeading(tr("Laying surcharge"));
  laying_ = addText("sizing.laying");
  addLaying_ = new QLineEdit;
  addLaying_->setObjectName("sizing.addLaying");
  addLaying_->setAccessibleName(tr("Surcharge class of the selected lines"));
  addLaying_->setPlaceholderText(tr("selected lines: road 40 + 12"));
  addLaying_->setToolTip(
      tr("extra cost per metre, and after + extra per 100 mm of outside diameter; applied to the selected "
         "lines"));
  addLaying_->setFixedHeight(23);
  rows_->addWidget(addLaying_);
  connect(addLaying_, &QLineEdit::returnPressed, this, [this] { addLaying(); });
  addHeading(tr("Limits to meet"));
  limits_ = addText("sizing.limits");
  addNumber(sizing::tolerance, tr("Delivery tolerance"),
            tr("reduction allowed in each present delivery that has no minimum flow of its own"));
  addHeading(tr("Fixed lines"));
  left_ = addText("sizing.left");
  addHeading(tr("Search"));
  addNumber(sizing::seconds, tr("Seconds"), tr("time limit of the search; 0: none"));
  addNumber(sizing::trials, tr("Trials"), tr("independent search starts"));
  addNumber(sizing::seed, tr("Seed"),
            tr("random seed; the same seed and number of trials give the same proposal"));
  rows_->addStretch(1);
}

void SetupPanel::addNumber(std::string_view key, const QString& words, const QString& help) {
  auto* line = new QHBoxLayout;
  auto* label = new QLabel(words);
  auto* edit = new QLineEdit;
  edit->setObjectName("sizing." + text(key));
  edit->setAccessibleName(words);
  edit->setAlignment(Qt::AlignRight);
  edit->setFixedSize(78, 23);
  edit->setToolTip(help);
  label->setToolTip(help);
  label->setBuddy(edit);
  line->addWidget(label, 1);
  line->addWidget(edit);
  rows_->addLayout(line);
  numbers_[key] = edit;
  connect(edit, &QLineEdit::editingFinished, this, [this, edit, key, help] {
    if (!edit->isModified()) return;
    edit->setModified(false);
    const bool taken =
        doc_.takeModel(setSizing(doc_.model(), key, edit->text().toStdString(), &doc_.units()));
    markRefused(*edit, taken ? QString() : QString::fromStdString(doc_.lastProblem().what), help);
    if (!taken) edit->setModified(true);
  });
}

QLabel* SetupPanel::addHeading(const QString& words) {
  auto* label = new QLabel(words);
  headings_.push_back(label);
  rows_->addWidget(label);
  return label;
}

QString SetupPanel::link(const QString& to, const QString& words) const {
  return QString("<a href='%1' style='color:%2'>%3</a>").arg(to, look_.water.name(), words.toHtmlEscaped());
}

void SetupPanel::setLook(const Look& look) {
  look_ = look;
  setStyleSheet(QString("#sizing\\.setup { border-right: 1px solid %1; }"
                        "QRadioButton::indicator { width: 11px; height: 11px; border: 1px solid %2; "
                        "border-radius: 6px; background: %3; }"
                        "QRadioButton::indicator:checked { width: 5px; height: 5px; border: 4px solid %4; "
                        "border-radius: 6px; background: %3; }"
                        "QRadioButton:focus { border: 1px solid %4; border-radius: 3px; }")
                    .arg(look.hair.name(), look.ink2.name(), look.field.name(), look.ink.name()));
  for (QLabel* label : headings_) {
    label->setFont(face(11.5, true));
    label->setIndent(0);
    label->setStyleSheet(QString("color: %1; border-bottom: 1px solid %2; padding: 9px 0 2px 0;")
                             .arg(look.ink2.name(), look.hair.name()));
  }
  refresh();
}

void SetupPanel::take(const QString& name, const std::function<void(SizingSetup&)>& change) {
  SizingSetup setup = doc_.model().of<SizingSetup>();
  change(setup);
  doc_.takeModel(withSizing(doc_.model(), name.toStdString(), std::move(setup)));
}

std::vector<Id> SetupPanel::selectedLines() const {
  std::vector<Id> lines;
  for (const Id id : doc_.selection())
    if (const Element* e = id == jobId ? nullptr : doc_.network().find(id); e && e->part->line)
      lines.push_back(id);
  return lines;
}

// Two points and nothing else: the ends of a route.
std::pair<Id, Id> SetupPanel::selectedEnds() const {
  const auto& selection = doc_.selection();
  if (selection.size() != 2) return {noId, noId};
  for (const Id id : selection)
    if (const Element* e = id == jobId ? nullptr : doc_.network().find(id); !e || e->part->ends != Ends::self)
      return {noId, noId};
  return {*selection.begin(), *std::next(selection.begin())};
}

void SetupPanel::tie(const std::vector<Id>& lines) {
  if (lines.size() < 2) return;
  take(tr("Group %1 lines").arg(lines.size()), [&](SizingSetup& setup) {
    // A line has one size: it leaves what it was tied to before.
    for (TiedLines& t : setup.tied)
      std::erase_if(t.lines, [&](Id id) { return std::find(lines.begin(), lines.end(), id) != lines.end(); });
    std::erase_if(setup.tied, [](const TiedLines& t) { return t.lines.size() < 2; });
    const Network& n = doc_.model().drawn;
    setup.tied.push_back({n.at(lines.front()).name + " … " + n.at(lines.back()).name, lines});
  });
}

void SetupPanel::showLeft(std::vector<std::pair<Id, std::string>> left) {
  cannot_ = std::move(left);
  refresh();
}

void SetupPanel::showDuties(std::vector<Duty> duties) {
  duties_ = std::move(duties);
  refresh();
}

void SetupPanel::ask(Id taker, std::optional<DeliveryAsked> asked, const QString& name) {
  take(name, [&](SizingSetup& setup) {
    std::erase_if(setup.deliveries, [&](const DeliveryAsked& d) { return d.taker == taker; });
    if (asked) setup.deliveries.push_back(*asked);
  });
}

// Of every taker the most that is asked in any case, who says it, and what one click makes of it.
QString SetupPanel::dutyRows() const {
  std::map<Id, const Duty*> most;
  for (const Duty& d : duties_) {
    const Duty*& kept = most[d.taker];
    if (!kept || d.least_m3s > kept->least_m3s) kept = &d;
  }
  const Network& n = doc_.model().drawn;
  constexpr double loosened = 0.1;
  QString rows;
  for (const auto& [id, d] : most) {
    const Element* e = n.find(id);
    if (!e) continue;
    QString value, acts;
    const QString at = QString::number(id);
    if (d->least_m3s > 0)
      value = QString::fromUtf8("≥ ") + text(withUnit(d->least_m3s, Measure::volumeFlow, doc_.units(), 3));
    if (d->by == Duty::By::drawn)
      acts = link("loosen:" + at, QString::fromUtf8("−%1\u202f%").arg(loosened * 100)) + "&nbsp;&nbsp;" +
             link("undeliver:" + at, QString::fromUtf8("×"));
    else if (d->by == Duty::By::loosened)
      acts = link("redeliver:" + at, tr("reset")) + "&nbsp;&nbsp;" +
             link("undeliver:" + at, QString::fromUtf8("×"));
    else if (d->by == Duty::By::dropped)
      value = tr("any flow"), acts = link("redeliver:" + at, tr("require"));
    else if (d->by == Duty::By::unknown) value = tr("not set");
    rows += QString("<tr><td>%1</td><td align='right'>%2</td><td align='right' width='68'>%3</td></tr>")
                .arg(link("field:" + at, inShort(text(e->name), 14)), value.toHtmlEscaped(), acts);
  }
  return rows.isEmpty() ? rows : "<table width='100%' cellspacing='0' cellpadding='1'>" + rows + "</table>";
}

void SetupPanel::refresh() {
  const SizingSetup& s = doc_.model().of<SizingSetup>();
  const Network& n = doc_.model().drawn;
  const QString quiet = look_.ink2.name();
  const auto grey = [&](const QString& words) {
    return QString("<span style='color:%1'>%2</span>").arg(quiet, words);
  };
  const auto row = [&](const QString& left, const QString& right) {
    return QString("<tr><td>%1</td><td align='right'>%2</td></tr>").arg(left, right);
  };
  const auto table = [&](const QString& rows) {
    return rows.isEmpty() ? QString()
                          : "<table width='100%' cellspacing='0' cellpadding='1'>" + rows + "</table>";
  };
  const std::string* least = s.about.get<std::string>(sizing::least);
  for (std::size_t i = 0; i < wanted_.size(); ++i)
    wanted_[i]->setChecked(least ? *least == sizing::wanted[i] : i == 0);
  // Sizes: with how many there are of each.
  QString rows;
  for (std::size_t i = 0; i < s.ranges.size(); ++i) {
    const auto sizes = sizesIn(*doc_.stock(), s.ranges[i]);
    rows += row(text(said(s.ranges[i])).toHtmlEscaped() + "<br>" +
                    grey(sizes.empty() ? tr("none in the catalogue")
                                       : tr("%1 to %2, %n sizes", nullptr, static_cast<int>(sizes.size()))
                                             .arg(text(sizes.front()->nominal), text(sizes.back()->nominal))
                                             .replace("%n", QString::number(sizes.size()))),
                link(QString("range:%1").arg(i), QString::fromUtf8("×")));
  }
  sizes_->setText(rows.isEmpty() ? grey(tr("each line's own standard and schedule")) : table(rows));
  QStringList known;
  std::set<std::string> seen;
  for (const PipeSize& p : doc_.stock()->pipes)
    if (seen.insert(p.standard + " " + p.schedule).second) known << text(p.standard + " " + p.schedule);
  if (!addSize_->completer() || addSize_->completer()->model()->rowCount() != known.size()) {
    auto* completer = new QCompleter(known, addSize_);
    completer->setCaseSensitivity(Qt::CaseInsensitive);
    completer->setFilterMode(Qt::MatchContains);
    addSize_->setCompleter(completer);
  }
  // Cases.
  std::vector<CaseId> ids = doc_.model().cases.ids();
  for (auto it = held_.begin(); it != held_.end();)
    if (std::find(ids.begin(), ids.end(), it->first) == ids.end()) {
      delete it->second;
      it = held_.erase(it);
    } else {
      ++it;
    }
  for (const CaseId id : ids) {
    const Case& c = *doc_.model().cases.find(id);
    QCheckBox*& box = held_[id];
    if (!box) {
      box = new QCheckBox;
      box->setObjectName(QString("sizing.case.%1").arg(id));
      cases_->addWidget(box);
      connect(box, &QCheckBox::clicked, this, [this, id](bool on) {
        doc_.takeModel(setAbout(doc_.model(), id, cases::counts, on ? "yes" : "no", nullptr));
      });
    }
    box->setText(
        QString("%1, %2 h").arg(inShort(text(c.name), 20), shortNumber(hoursOf(doc_.model(), id) / 3600, 4)));
    const std::string* remark = c.about.get<std::string>(cases::remark);
    box->setToolTip(remark ? text(*remark) : QString());
    box->setChecked(flagOf(c, cases::counts));
  }
  // Ties: by hand, then flow and return lines that nobody has tied otherwise.
  rows.clear();
  std::vector<Id> apart = s.alone;
  apart.insert(apart.end(), s.left.begin(), s.left.end());
  for (const TiedLines& t : s.tied) apart.insert(apart.end(), t.lines.begin(), t.lines.end());
  pairs_ = flowAndReturn(doc_.model(), apart);
  for (std::size_t i = 0; i < s.tied.size(); ++i)
    rows += row(link(QString("show:%1").arg(i), inShort(text(s.tied[i].name))),
                grey(tr("%1 lines").arg(s.tied[i].lines.size())) + " " +
                    link(QString("untie:%1").arg(i), QString::fromUtf8("×")));
  for (std::size_t i = 0; i < pairs_.size() && (i < 4 || allPairs_); ++i)
    rows +=
        row(link(QString("pair:%1").arg(i), inShort(text(pairs_[i].name))),
            grey(tr("flow and return")) + " " + link(QString("unpair:%1").arg(i), QString::fromUtf8("×")));
  QString words = table(rows);
  if (pairs_.size() > 4 && !allPairs_)
    words += link("pairs", tr("%1 more flow and return …").arg(pairs_.size() - 4)) + "<br>";
  if (pairs_.size() > 1) words += link("unpairall", tr("ungroup all flow and return lines")) + "<br>";
  if (!s.alone.empty()) words += link("repair", tr("group flow and return lines again")) + "<br>";
  if (selectedLines().size() > 1)
    words += link("tie", tr("group the %1 selected").arg(selectedLines().size())) + "<br>";
  if (const auto ends = selectedEnds(); ends.first != noId) {
    const std::size_t count = linesAlong(n, ends.first, ends.second).size();
    if (count > 1)
      words +=
          link("route",
               tr("group route %1 to %2").arg(text(n.at(ends.first).name), text(n.at(ends.second).name))) +
          " " + grey(tr("%1 lines").arg(count)) + "<br>";
  }
  std::vector<TiedLines> already = s.tied;
  already.insert(already.end(), pairs_.begin(), pairs_.end());
  offers_ = tiesOffered(n, already);
  const std::size_t most = allOffers_ ? offers_.size() : std::min<std::size_t>(3, offers_.size());
  for (std::size_t i = 0; i < most; ++i)
    words += link(QString("offer:%1").arg(i), tr("group %1").arg(inShort(text(offers_[i].name), 22))) + " " +
             grey(tr("%1 lines").arg(offers_[i].lines.size())) + "<br>";
  if (most < offers_.size())
    words += link("offers", tr("%1 more suggestions …").arg(offers_.size() - most)) + "<br>";
  if (offers_.size() > 1) words += link("tieall", tr("group all of these"));
  if (words.isEmpty()) words = grey(tr("none; select lines, or two points, to group them"));
  if (words.endsWith("<br>")) words.chop(4);
  ties_->setText(words);
  rows.clear();
  for (std::size_t i = 0; i < s.laying.size(); ++i)
    rows += row(link(QString("laid:%1").arg(i), inShort(text(said(s.laying[i])))),
                grey(tr("%1 lines").arg(s.laying[i].lines.size())) + " " +
                    link(QString("unlaid:%1").arg(i), QString::fromUtf8("×")));
  laying_->setText(rows.isEmpty() ? grey(tr("none; catalogue cost per metre")) : table(rows));
  // Limits of the job; those of services and of single elements hold besides.
  rows.clear();
  if (const auto setting = settingOf(n, doc_.stock())) {
    // A least and a greatest of the same number share a row.
    const UnitSet& units = doc_.units();
    for (std::size_t i = 0; i < sharedLimits; ++i) {
      const LimitRow& row_ = limitTable[i];
      const auto shown = [&](const Limit& limit) {
        return text(withUnit(*limit.si, measureOf(row_.id), units, 3));
      };
      const auto other =
          std::find_if(limitTable.begin(), limitTable.begin() + sharedLimits,
                       [&](const LimitRow& o) { return o.check == row_.check && o.id != row_.id; });
      const Limit limit = setting->limits[row_.id],
                  partner = other == limitTable.begin() + sharedLimits ? Limit() : setting->limits[other->id];
      const bool both = limit && partner && *partner.si > 0 && *limit.si > 0;
      if (!limit || (both && !row_.most) || (!row_.most && *limit.si == 0 && partner)) continue;
      const QString value = both ? text(digits(inUnit(*partner.si, units.unitFor(measureOf(row_.id))), 3)) +
                                       " … " + shown(limit)
                                 : QString::fromUtf8(row_.most ? "≤ " : "≥ ") + shown(limit);
      const std::string_view name = labelOf(row_.check);
      rows += row(link("limit:" + QString::fromUtf8(row_.key.data(), static_cast<qsizetype>(row_.key.size())),
                       QString::fromUtf8(name.data(), static_cast<qsizetype>(name.size()))),
                  value);
    }
  }
  for (const BranchGoal& b : s.branches)
    if (const Element* e = n.find(b.valve))
      rows += row(tr("design flow %1").arg(inShort(text(e->name), 14)).toHtmlEscaped(),
                  QString::fromUtf8("≥ ") + text(b.flow.typed));
  const QString duties = dutyRows();
  limits_->setText(table(rows) + grey(tr("plus the limits of services and single elements")) +
                   (duties.isEmpty()
                        ? QString()
                        : "<p style='margin-top:6px'>" + grey(tr("Deliveries")) + "</p>" + duties));
  // Left.
  words.clear();
  rows.clear();
  for (std::size_t i = 0; i < s.left.size() && i < 6; ++i)
    if (const Element* e = n.find(s.left[i]))
      rows += row(inShort(text(e->name)).toHtmlEscaped(),
                  link(QString("size:%1").arg(i), QString::fromUtf8("×")));
  words = table(rows);
  if (s.left.size() > 6) words += grey(tr("and %1 more").arg(s.left.size() - 6)) + "<br>";
  if (!selectedLines().empty())
    words +=
        link("leave", (selectedLines().size() == 1 ? tr("fix the selected line")
                                                   : tr("fix the %1 selected").arg(selectedLines().size()))) +
        "<br>";
  std::size_t others = 0;
  QString why;
  for (const auto& [id, reason] : cannot_)
    if (std::find(s.left.begin(), s.left.end(), id) == s.left.end() && n.find(id)) {
      if (others++ == 0) why = tr("%1: %2").arg(text(n.at(id).name), text(reason));
    }
  if (others > 0)
    words += grey((others == 1 ? tr("not sized: %1") : tr("%2 not sized: %1").arg("%1").arg(others))
                      .arg(why.toHtmlEscaped()));
  if (words.isEmpty()) words = grey(tr("none; select lines to fix them"));
  left_->setText(words);
  for (const auto& [key, edit] : numbers_) {
    if (edit->isModified() && edit->hasFocus()) continue;
    const Given* given = s.about.get<Given>(key);
    const double fallback = sizingNumber({}, key);
    edit->setPlaceholderText(key == sizing::trials      ? tr("automatic")
                             : key == sizing::tolerance ? shortNumber(fallback * 100, 6) + " %"
                                                        : shortNumber(fallback, 6));
    edit->setText(given ? text(given->typed) : QString());
    edit->setModified(false);
  }
}

// "road 40 + 12" for the lines that are selected; the name of a class that is there puts them into it.
void SetupPanel::addLaying() {
  const QString words = addLaying_->text().trimmed();
  if (words.isEmpty()) return;
  const auto laying = layingFrom(words.toStdString(), doc_.model().of<SizingSetup>().laying);
  const std::vector<Id> lines = selectedLines();
  markRefused(*addLaying_, !laying ? tr("Enter a name and the extra cost per metre, such as \"road 40\", or "
                                        "\"road 40 + 12\" for 12 more per 100 mm of outside diameter.")
                           : lines.empty() ? tr("Select the lines of class %1.").arg(text(laying->name))
                                           : QString());
  if (!laying || lines.empty()) return;
  addLaying_->clear();
  take(tr("Assign %1 lines to %2").arg(lines.size()).arg(text(laying->name)), [&](SizingSetup& s) {
    for (LayingClass& c : s.laying)
      std::erase_if(c.lines, [&](Id id) { return std::find(lines.begin(), lines.end(), id) != lines.end(); });
    auto at = std::find_if(s.laying.begin(), s.laying.end(),
                           [&](const LayingClass& c) { return c.name == laying->name; });
    if (at == s.laying.end()) at = s.laying.insert(at, *laying);
    at->lines.insert(at->lines.end(), lines.begin(), lines.end());
    std::erase_if(s.laying, [](const LayingClass& c) { return c.lines.empty(); });
  });
}

void SetupPanel::act(const QString& to) {
  const QString what = to.section(':', 0, 0);
  const auto at = static_cast<std::size_t>(to.section(':', 1).toUInt());
  const SizingSetup& s = doc_.model().of<SizingSetup>();
  const auto drop = [&](auto SizingSetup::*list, const QString& name) {
    if (at < (s.*list).size())
      take(name, [&](SizingSetup& setup) {
        (setup.*list).erase((setup.*list).begin() + static_cast<std::ptrdiff_t>(at));
      });
  };
  if (what == "range") drop(&SizingSetup::ranges, tr("Change available sizes"));
  else if (what == "unlaid") drop(&SizingSetup::laying, tr("Remove a laying surcharge"));
  else if (what == "laid" && at < s.laying.size()) doc_.select(s.laying[at].lines);
  else if (what == "untie") drop(&SizingSetup::tied, tr("Ungroup lines"));
  else if (what == "pair" && at < pairs_.size()) doc_.select(pairs_[at].lines);
  else if (what == "pairs") allPairs_ = true, refresh();
  else if ((what == "unpair" && at < pairs_.size()) || what == "unpairall") {
    std::vector<Id> lines;
    for (std::size_t i = 0; i < pairs_.size(); ++i)
      if (what == "unpairall" || i == at)
        lines.insert(lines.end(), pairs_[i].lines.begin(), pairs_[i].lines.end());
    take(tr("Ungroup flow and return"),
         [&](SizingSetup& setup) { setup.alone.insert(setup.alone.end(), lines.begin(), lines.end()); });
  } else if (what == "repair") {
    take(tr("Group flow and return"), [&](SizingSetup& setup) { setup.alone.clear(); });
  } else if (what == "size") drop(&SizingSetup::left, tr("Release a fixed line"));
  else if (what == "show" && at < s.tied.size()) doc_.select(s.tied[at].lines);
  else if (what == "limit") emit doc_.wantsField(jobId, to.section(':', 1));
  else if (what == "loosen")
    ask(static_cast<Id>(at), DeliveryAsked{static_cast<Id>(at), 0.1}, tr("Loosen a delivery"));
  else if (what == "undeliver")
    ask(static_cast<Id>(at), DeliveryAsked{static_cast<Id>(at), std::nullopt}, tr("Drop a delivery"));
  else if (what == "redeliver") ask(static_cast<Id>(at), std::nullopt, tr("Require a delivery"));
  else if (what == "field" && doc_.model().drawn.find(static_cast<Id>(at)))
    doc_.select({static_cast<Id>(at)}), emit doc_.wantsShown(static_cast<Id>(at));
  else if (what == "offers") allOffers_ = true, refresh();
  else if (what == "offer" && at < offers_.size()) {
    const TiedLines offered = offers_[at];
    take(tr("Group %1").arg(text(offered.name)), [&](SizingSetup& setup) { setup.tied.push_back(offered); });
  } else if (what == "tieall") {
    const auto all = offers_;
    take(tr("Group suggested lines"),
         [&](SizingSetup& setup) { setup.tied.insert(setup.tied.end(), all.begin(), all.end()); });
  } else if (what == "tie") {
    tie(selectedLines());
  } else if (what == "route") {
    if (const auto ends = selectedEnds(); ends.first != noId)
      tie(linesAlong(doc_.model().drawn, ends.first, ends.second));
  } else if (what == "leave") {
    const std::vector<Id> lines = selectedLines();
    take(tr("Fix %1 lines").arg(lines.size()), [&](SizingSetup& setup) {
      for (const Id id : lines)
        if (std::find(setup.left.begin(), setup.left.end(), id) == setup.left.end()) setup.left.push_back(id);
    });
  }
}

void SetupPanel::takeKeyboard() { wanted_.front()->setFocus(); }

}  // namespace conduit::desktop
