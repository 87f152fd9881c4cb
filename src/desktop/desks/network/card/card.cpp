#include "card/card.h"

#include <fmt/format.h>

#include <QAbstractItemView>
#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QCompleter>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QMenu>
#include <QPainter>
#include <QRegularExpression>
#include <QTableWidget>
#include <set>
#include <utility>

#include "card/limit_bars.h"
#include "card/size_hints.h"
#include "card/take_off_edit.h"
#include "fields/entry.h"
#include "fields/keys.h"
#include "limits/limits.h"
#include "look/words.h"
#include "network/lay_take_off.h"
#include "network/put.h"
#include "network/setting.h"
#include "network/turn_into.h"
#include "parts/registry.h"
#include "quantity/format.h"
#include "say/page.h"
#include "solve/working_of.h"

namespace conduit::desktop {
namespace {

// What several elements hold in common, as it would be typed; "" when they differ.
std::optional<std::string> common(const Network& net, const std::vector<Id>& ids, const Field& f) {
  std::optional<std::string> shared;
  for (const Id id : ids) {
    const Value* v = net.at(id).value(f.key);
    const std::string t = v ? writeField(f, *v) : std::string();
    if (shared && *shared != t) return std::nullopt;
    shared = t;
  }
  return shared;
}

}  // namespace

Card::Card(Document& document, QWidget* parent)
    : QWidget(parent),
      doc_(document),
      look_(Look::light()),
      pages_(new QStackedWidget(this)),
      face_(new QScrollArea),
      back_(new QScrollArea),
      workingText_(new QLabel) {
  doc_.watch(exchanging_);
  connect(&exchanging_, &Background::failed, this, [this](const QString& why) {
    exchange_.asked = true;
    exchange_.why = why.toStdString();
    refresh();
  });
  setObjectName("card");
  setAccessibleName(tr("Card"));
  setFixedWidth(320);  // room for a scroll bar beside the fields
  setFocusPolicy(Qt::ClickFocus);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->addWidget(pages_);
  face_->setWidgetResizable(true);
  face_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  face_->setFocusPolicy(Qt::NoFocus);
  pages_->addWidget(face_);
  auto* backPage = new QWidget;
  auto* backLayout = new QVBoxLayout(backPage);
  backLayout->setContentsMargins(16, 10, 16, 10);
  auto* turn = new QToolButton;
  turn->setObjectName("working.close");
  turn->setText(tr("← back"));
  turn->setAccessibleName(tr("Back to the card"));
  connect(turn, &QToolButton::clicked, this, &Card::showFace);
  auto* backTop = new QHBoxLayout;
  backTop->addWidget(turn, 0, Qt::AlignLeft);
  watch_ = new QToolButton;
  watch_->setObjectName("working.watch");
  watch_->setText(tr("watch"));
  watch_->setAccessibleName(tr("Watch this result in all cases"));
  watch_->setToolTip(watch_->accessibleName());
  connect(watch_, &QToolButton::clicked, this, [this] {
    if (const Outcome* o = findOutcome(*doc_.network().at(shown().front()).part, workingOf_.toStdString()))
      watchThis(*o);
  });
  backTop->addWidget(watch_, 0, Qt::AlignRight);
  backLayout->addLayout(backTop);
  workingText_->setObjectName("working");
  workingText_->setAccessibleName(tr("Working"));
  workingText_->setWordWrap(true);
  workingText_->setTextFormat(Qt::RichText);
  workingText_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
  workingText_->setAlignment(Qt::AlignTop);
  back_->setWidget(workingText_);
  back_->setWidgetResizable(true);
  backLayout->addWidget(back_, 1);
  pages_->addWidget(backPage);
  connect(&doc_, &Document::selectionChanged, this, [this] {
    endExchange();
    showFace();
    refresh();
  });
  connect(&doc_, &Document::changed, this, [this] {
    endExchange();  // what was tried was tried on another network
    refresh();
  });
  connect(&doc_, &Document::answered, this, &Card::refresh);
  connect(&doc_, &Document::unitsChanged, this, &Card::refresh);
  connect(&doc_, &Document::caseChanged, this, &Card::refresh);
  body_ = new QWidget;
  body_->setFont(face(12.5));
  rows_ = new QVBoxLayout(body_);
  rows_->setContentsMargins(16, 12, 16, 12);
  rows_->setSpacing(3);
  rows_->addStretch(1);
  face_->setWidget(body_);
  refresh();
}

void Card::setLook(const Look& look) {
  look_ = look;
  refresh();
}

std::vector<Id> Card::shown() const {
  if (doc_.selection().empty()) return {jobId};
  return doc_.selection();
}

// Name and kind, story, figure, limits: of one element, of several, of the job.
void Card::makeHead() {
  const auto ids = shown();
  const Element& first = doc_.network().at(ids.front());
  const bool one = ids.size() == 1, job = ids.front() == jobId;
  auto* top = new QHBoxLayout;
  nameEdit_ = nullptr;
  if (one && !job) {
    nameEdit_ = new QLineEdit(QString::fromStdString(first.name));
    nameEdit_->setObjectName("name");
    nameEdit_->setAccessibleName(tr("Name"));
    nameEdit_->setFont(face(17, true));
    nameEdit_->setFrame(false);
    nameEdit_->setStyleSheet(
        "QLineEdit { background: transparent; border: none; padding: 0; } QLineEdit:focus { border: none; "
        "padding: 0; border-bottom: 2px solid " +
        look_.ink.name() + "; }");
    const double w = QFontMetricsF(face(17, true)).horizontalAdvance(nameEdit_->text());
    nameEdit_->setFixedWidth(std::clamp(static_cast<int>(w) + 14, 48, 190));
    const Id id = ids.front();
    connect(nameEdit_, &QLineEdit::editingFinished, this, [this, id, edit = nameEdit_] {
      if (!edit->isModified()) return;
      edit->setModified(false);
      if (doc_.network().find(id)) doc_.take(conduit::rename(doc_.network(), id, edit->text().toStdString()));
    });
    top->addWidget(nameEdit_);
    addKind(top);
  } else {
    auto* name = new QLabel(job ? tr("Job") : tr("%1 selected").arg(ids.size()));
    name->setFont(face(17, true));
    top->addWidget(name, job ? 1 : 0);
    if (!job) addKind(top);
  }
  rows_->addLayout(top);
  story_ = new QLabel;
  story_->setObjectName("story");
  story_->setWordWrap(true);
  story_->setTextFormat(Qt::PlainText);
  rows_->addWidget(story_);
  if (one) {
    figure_ = new CardFigure(doc_);
    rows_->addWidget(figure_);
    // How close it is to trouble stands above what was given, where the eye falls first.
    auto* bars = new LimitBars;
    bars->setObjectName("limits");
    limits_ = bars;
    rows_->addWidget(bars);
    rows_->addWidget(economic_ = new EconomicWords(doc_));
    economic_->hide();
  }
}

void Card::makeMore(int folded) {
  auto* more = new QToolButton;
  more->setObjectName("more");
  more->setText(more_ ? tr("fewer fields ▴") : tr("%1 more fields ▾").arg(folded));
  more->setAccessibleName(more_ ? tr("Show only given fields") : tr("Show all fields"));
  more->setStyleSheet(QString("color: %1; margin-left: 20px;").arg(look_.water.name()));
  connect(
      more, &QToolButton::clicked, this, [this] { more_ = !more_, refresh(); }, Qt::QueuedConnection);
  rows_->addWidget(more);
}

void Card::makeLiquid() {
  for (const char* key : {key::density, key::viscosity, key::vapourPressure, "air pressure"}) {
    auto* row = new QHBoxLayout;
    row->addSpacing(26);
    row->addWidget(new QLabel(sentence(key)), 1);
    auto* number = new QLabel;
    number->setTextFormat(Qt::RichText);
    number->setObjectName(QString("found.%1").arg(key));
    row->addWidget(number);
    rows_->addLayout(row);
    founds_[std::string("job.") + key] = number;
  }
}

// The rows that the selection asks for, each with what decides how it is made.
std::vector<Card::Row> Card::wantedRows() {
  std::vector<Row> rows;
  const auto ids = shown();
  const Network& net = doc_.network();
  const Element& first = net.at(ids.front());
  const Part& part = *first.part;
  const bool one = ids.size() == 1, job = ids.front() == jobId;
  std::string of = fmt::format("{} {}", look_.dark, doc_.units().name());
  for (const Id id : ids) of += fmt::format(" {} {}", id, net.at(id).part->key);
  if (one) of += " " + first.name;  // commands of a row speak of it by name
  const auto add = [&](std::string what, std::function<void()> make) {
    rows.push_back({of + "|" + std::move(what), std::move(make)});
  };
  const auto heading = [&](const QString& words) {
    add("heading " + words.toStdString(), [this, words] { addHeading(words); });
  };
  add("head", [this] { makeHead(); });
  // With a case current: whose values these are, and under each that differs what it was.
  const bool inCase = doc_.currentCase() != drawingCase;
  if (inCase) {
    std::string differing;
    for (const Id id : ids)
      for (const Difference& d : doc_.caseNow().differs.all())
        if (d.element == id) differing += fmt::format(" {}{}", d.key, d.ofOutcome() ? "!" : "");
    add(fmt::format("case {} {}{}", doc_.currentCase(), doc_.caseNow().name, differing),
        [this] { makeCaseLine(); });
  }
  const auto differs = [&](const Field* f, const Outcome* o) {
    const std::string_view key = f ? f->key : o->key;
    if (inCase && one && doc_.caseNow().differs.at(ids.front(), key, o != nullptr))
      add(fmt::format("differs {} {} {}", key, o != nullptr,
                      differsAs(first, ids.front(), key, o != nullptr)),
          [this, f, o] { addDiffers(f, o); });
  };
  heading(tr("Given"));
  // Several: the fields that all of them have. What is not given and not wanted is folded away.
  int folded = 0;
  for (const Field& f : part.fields) {
    bool all = true, applies = true;
    for (const Id id : ids) {
      const Element& e = net.at(id);
      all = all && findField(*e.part, f.key);
      applies = applies && (!f.applies || f.applies(e.values));
    }
    if (!all || !applies || first.values.released(f.key)) continue;
    const bool plain = (job && f.kind != FieldKind::text && (f.kind != FieldKind::quantity || f.fallback)) ||
                       &f == &part.fields[0] || f.needed || f.inSight;
    if (!plain && !more_ &&
        std::none_of(ids.begin(), ids.end(), [&](Id id) { return net.at(id).value(f.key); })) {
      ++folded;
      continue;
    }
    const Field* field = &f;
    if (f.kind == FieldKind::table) {
      const Value* v = first.value(f.key);
      // A table is made again with its content; it counts its rows in its heading.
      if (one)
        add(fmt::format("table {} {} {} {}", f.key, tableOpen_, first.ends.size(),
                        v ? writeField(f, *v) : ""),
            [this, field] { addTable(*field); });
    } else {
      add(fmt::format("given {}", f.key), [this, &part, field] { addGiven(part, *field); });
    }
    differs(field, nullptr);
  }
  if (one)
    for (const Outcome& o : part.outcomes)
      if (first.values.goal(o.key)) {
        add(fmt::format("goal {}", o.key), [this, out = &o] { addGoal(*out); });
        differs(nullptr, &o);
      }
  if (folded > 0 || more_)
    add(fmt::format("more {} {}", more_, folded), [this, folded] { makeMore(folded); });
  if (one && !part.outcomes.empty()) {
    heading(tr("Found"));
    // What is released is found: its marker swaps back.
    for (const Field& f : part.fields)
      if (first.values.released(f.key) && f.kind == FieldKind::quantity && !findOutcome(part, f.key)) {
        add(fmt::format("found field {}", f.key), [this, field = &f] { addFoundField(*field); });
        differs(&f, nullptr);
      }
    for (const Outcome& o : part.outcomes) {
      bool given = first.values.goal(o.key) != nullptr;
      for (const Swap& s : part.swaps) {
        if (s.release == o.key && !first.values.released(s.release)) given = true;
        if (s.outcome == o.key && first.values.released(s.release)) given = true;
      }
      if (given) continue;
      add(fmt::format("found {}", o.key), [this, out = &o] { addFound(*out); });
      differs(nullptr, &o);
      if (exchange_.outcome == &o && exchange_.of == ids.front()) {
        std::string state = exchange_.why + exchange_.typed.toStdString() + (exchange_.asked ? "!" : "");
        for (const auto& [exchange, tried] : exchange_.offers)
          state += fmt::format(" {}{}", exchange.remedy.words, tried ? tried->balances ? "+" : "-" : "?");
        add("offers " + state, [this] { makeOffers(); });
      }
    }
  }
  if (job) {
    heading(tr("Liquid properties"));
    add("liquid", [this] { makeLiquid(); });
  }
  return rows;
}

// Rows whose making has not changed stay as they are, with what is being typed in them; the others go or
// come.
void Card::arrange(std::vector<Row> wanted) {
  const auto same = [](const Row& a, const Row& b) { return a.what == b.what; };
  if (std::equal(wanted.begin(), wanted.end(), shownRows_.begin(), shownRows_.end(), same)) return;
  const QString focused = QApplication::focusWidget() && face_->isAncestorOf(QApplication::focusWidget())
                              ? QApplication::focusWidget()->objectName()
                              : QString();
  const int scrolled = face_->verticalScrollBar()->value();
  std::map<std::string, Row> had;
  for (Row& row : shownRows_) {
    rows_->removeWidget(row.holder);
    had.emplace(row.what, std::move(row));
  }
  shownRows_.clear();
  const auto keysOf = [](const auto& map) {
    std::set<std::string> keys;
    for (const auto& [key, widget] : map) keys.insert(key);
    return keys;
  };
  std::map<std::string, Row> kept;
  for (const Row& row : wanted)
    if (auto at = had.extract(row.what)) kept.insert(std::move(at));
  // The old rows go when the event that made them old has ended: an edit may be speaking right now.
  for (auto& [what, row] : had) {
    for (const std::string& key : row.editors) editors_.erase(key);
    for (const std::string& key : row.founds) founds_.erase(key);
    row.holder->hide();
    row.holder->setParent(nullptr);
    row.holder->deleteLater();
  }
  for (Row& row : wanted) {
    if (auto at = kept.find(row.what); at != kept.end()) {
      row = std::move(at->second);
    } else {
      const auto editorsBefore = keysOf(editors_), foundsBefore = keysOf(founds_);
      row.holder = new QWidget(body_);
      auto* lines = new QVBoxLayout(row.holder);
      lines->setContentsMargins(0, 0, 0, 0);
      lines->setSpacing(3);
      QVBoxLayout* const all = std::exchange(rows_, lines);
      row.make();
      rows_ = all;
      for (const auto& [key, widget] : editors_)
        if (!editorsBefore.contains(key)) row.editors.push_back(key);
      for (const auto& [key, widget] : founds_)
        if (!foundsBefore.contains(key)) row.founds.push_back(key);
    }
    rows_->insertWidget(static_cast<int>(shownRows_.size()), row.holder);
    row.holder->show();
    shownRows_.push_back(std::move(row));
  }
  // The order of the keyboard is that of the eye.
  QWidget* last = nullptr;
  for (const Row& row : shownRows_)
    for (QWidget* child : row.holder->findChildren<QWidget*>())
      if (child->focusPolicy() != Qt::NoFocus && child->window() == window()) {
        if (last) setTabOrder(last, child);
        last = child;
      }
  if (!focused.isEmpty()) {
    if (auto* again = body_->findChild<QWidget*>(focused)) {
      if (!again->hasFocus()) again->setFocus();
    } else {
      setFocus();
    }
  }
  face_->verticalScrollBar()->setValue(scrolled);
}

// A value that nobody has given looks it: slanted, in the second ink, with an open mark and the word.
void Card::showAssumed(const Field& field, QWidget* editor, const std::string& typed) {
  const auto ids = shown();
  const bool assumed = std::any_of(ids.begin(), ids.end(),
                                   [&](Id id) { return doc_.network().at(id).values.assumed(field.key); });
  if (editor->property("assumed").toBool() == assumed &&
      editor->property("typed").toString().toStdString() == typed)
    return;
  editor->setProperty("assumed", assumed);
  editor->setProperty("typed", QString::fromStdString(typed));
  QFont font = editor->font();
  font.setItalic(assumed);
  editor->setFont(font);
  editor->setStyleSheet(assumed ? QString("color: %1").arg(look_.ink2.name()) : QString());
  editor->setToolTip(
      (assumed ? tr("Assumed value. Type a value, or press Enter to accept it.\n") : QString()) +
      sentence(field.help));
  const QString key = text(field.key), name = sentence(field.key);
  if (auto* label = body_->findChild<QLabel*>("label." + key)) {
    const QString word = tr("assumed");
    const int room = 276 - 32 - editor->width(),
              named = QFontMetrics(face(12.5)).horizontalAdvance(name + "  " + word);
    label->setText(assumed && named <= room
                       ? QString("%1&nbsp; <i style='color:%2'>%3</i>").arg(name, look_.ink2.name(), word)
                       : name);
  }
  const QString mark = assumed ? "◌" : "●";
  if (auto* marker = body_->findChild<QToolButton*>("swap." + key)) marker->setText(mark);
  if (auto* marker = body_->findChild<QLabel*>("mark." + key))
    if (assumed || !marker->text().isEmpty())  // texts have a mark while they are assumed
      marker->setText(
          !assumed && (field.kind == FieldKind::text || field.kind == FieldKind::takeOff) ? QString() : mark);
}

// Beside a flow which way it goes, or that it is taken: the number itself has no minus for that.
void Card::showWay(const Outcome& outcome, const Element& e, const std::optional<Shown>& shown) {
  auto* label = body_->findChild<QLabel*>("way." + text(outcome.key));
  if (!label) return;
  QString words = sentence(outcome.key);
  if (outcome.sign == SignBy::giving && shown) words = shown->taken ? tr("Takes") : tr("Supplies");
  if (outcome.sign == SignBy::rising && shown) words = shown->falling ? tr("Falls by") : tr("Rises by");
  if (outcome.key == key::flow && e.ends.size() == 2 && shown && shown->si > 0) {
    const std::string &from = doc_.network().at(e.ends[shown->against ? 1 : 0]).name,
                      &to = doc_.network().at(e.ends[shown->against ? 0 : 1]).name;
    const QString way = QString("%1 → %2").arg(QString::fromStdString(from), QString::fromStdString(to));
    const QString whole = words + "  " + way;
    if (QFontMetrics(face(12.5)).horizontalAdvance(whole) <= 140)
      words += QString("&nbsp; <span style='color:%1'>%2</span>").arg(look_.ink2.name(), way.toHtmlEscaped());
    label->setToolTip(way);
  }
  if (label->text() != words) label->setText(words);
}

// What a field has; its number in all its figures, where it was found and taken over, while it is worked on.
void Card::showGiven(QLineEdit& edit, const QString& said, const QString& typed) {
  const bool rounded = typed.size() > said.size();  // else it is as typed, or says "g" besides
  edit.setProperty("said", rounded ? said : QString());
  edit.setProperty("whole", rounded ? typed : QString());
  edit.setText(rounded && edit.hasFocus() ? typed : said);
  edit.setCursorPosition(0);
}

void Card::refresh() {
  arrange(wantedRows());
  const auto ids = shown();
  const Network& net = doc_.network();
  const SolvedPtr& solved = doc_.solved();
  const Element& first = net.at(ids.front());
  const bool usable = solved && solved->usable() && solved->element(ids.front(), first.part);
  if (usable) lastUsable_ = solved;
  for (auto& [key, editor] : editors_) {
    if (key.starts_with(givenPrefix)) {
      auto* edit = qobject_cast<QLineEdit*>(editor);
      const auto outcome = std::string_view(key).substr(givenPrefix.size());
      const Given* given = first.values.goal(outcome);
      const Outcome* of = findOutcome(*first.part, outcome);
      if (edit && given && of && !edit->isModified())
        showGiven(*edit, text(sayBack(*given, of->measure)), text(given->typed));
      continue;
    }
    const Field* f = findField(*first.part, key);
    if (!f) continue;
    const auto shared = common(net, ids, *f);
    showAssumed(*f, editor, shared.value_or(""));
    if (auto* edit = qobject_cast<QLineEdit*>(editor)) {
      if (edit->isModified()) continue;
      const Value* v = shared ? first.value(f->key) : nullptr;
      edit->setProperty("blank", !shared || shared->empty());
      if (v) showGiven(*edit, text(sayField(*f, *v)), text(*shared));
      else showGiven(*edit, {}, {});
      QString empty = shared ? QString() : tr("various");
      if (shared && f->fallback)
        empty = QString::fromStdString(givenWithUnit(*f->fallback, f->measure, doc_.units()));
      if (shared && !f->fallback && f->needed) empty = tr("required");
      if (shared && !v && ids.size() == 1) {  // what its stock item gives
        Values scratch;
        if (const Value* given = valuesOf(first, doc_.stock(), scratch).find(f->key))
          empty = QString::fromStdString(sayField(*f, *given));
      }
      if (shared && empty.isEmpty() && ids.size() == 1 && first.part->geometry &&
          solved) {  // what the size or the take-off gives
        const Geometry g = first.part->geometry(first.values, solved->solution.setting);
        if (f->measure == Measure::bore && g.bore_m)
          empty = QString::fromStdString(withUnit(*g.bore_m, f->measure, doc_.units()));
        if (f->measure == Measure::length && g.length_m)
          empty = QString::fromStdString(withUnit(*g.length_m, f->measure, doc_.units()));
      }
      edit->setPlaceholderText(empty);
    } else if (auto* box = qobject_cast<QCheckBox*>(editor)) {
      box->setChecked(flagOf(first.values, *f));
      box->setText(box->isChecked() ? tr("yes") : tr("no"));
    } else if (auto* combo = qobject_cast<QComboBox*>(editor)) {
      if (key == key::units) combo->setCurrentText(QString::fromStdString(doc_.units().name()));
      else combo->setCurrentIndex(combo->findData(QString::fromStdString(choiceOf(first.values, *f))));
    }
  }
  if (takeOff_ && !takeOff_->isModified()) readTakeOff();
  if (nameEdit_ && !nameEdit_->isModified()) nameEdit_->setText(QString::fromStdString(first.name));
  if (ids.size() == 1 && ids.front() != jobId) {
    const ReadingOf reading(usable ? solved->network : net, usable ? solved->solution : Solution::none(),
                            ids.front());
    QString story;
    if (usable && first.part->story)
      story = QString::fromStdString(first.part->story(*reading, doc_.units()));
    if (solved && !usable)
      for (const Problem& p : solved->solution.summary.problems)
        if (p.place.name == first.name) story = sentence(p.what) + ".";
    if (story.isEmpty() && !usable) story = tr("Not solved yet.");
    static const QRegularExpression unitBehind("(?<=\\d) (?=[^\\d\\s])");
    story.replace(unitBehind, QString(QChar::Nbsp));  // a number and its unit stay in one line
    story_->setText(story);
    const QColor ink = doc_.current() ? look_.ink : look_.ink2;
    for (const Outcome& o : first.part->outcomes) {
      const auto at = founds_.find(std::string(o.key));
      if (at == founds_.end()) continue;
      const auto v = usable ? shownOf(o, *reading) : std::nullopt;
      const Unit& unit = doc_.units().unitFor(o.measure);
      showWay(o, first, v);
      at->second->setText(
          v ? QString("<span style='color:%1;font-weight:600'>%2</span> <span style='color:%3'>%4</span>")
                  .arg(ink.name(), QString::fromStdString(asNumber(v->si, o.measure, doc_.units(), 5)),
                       look_.ink2.name(), text(unit.symbol))
            : QString("<span style='color:%1'>–</span>").arg(look_.ink2.name()));
    }
    for (const Field& f : first.part->fields) {
      const auto at = founds_.find("field." + std::string(f.key));
      if (at == founds_.end()) continue;
      const auto v = usable ? solved->solution.foundFor(ids.front(), f.key) : std::nullopt;
      at->second->setText(
          v ? QString("<span style='color:%1;font-weight:600'>%2</span> <span style='color:%3'>%4</span>")
                  .arg(ink.name(), QString::fromStdString(asNumber(*v, f.measure, doc_.units())),
                       look_.ink2.name(), text(doc_.units().unitFor(f.measure).symbol))
            : QString("<span style='color:%1'>–</span>").arg(look_.ink2.name()));
    }
    if (figure_) figure_->setVisible(figure_->display(ids.front(), look_));
    if (economic_) economic_->display(ids.front(), look_);
    if (sizeHints_) sizeHints_->refresh(solved, ids.front(), doc_.units());
    if (auto* bars = qobject_cast<LimitBars*>(limits_))
      bars->display(usable ? checksOf(solved->network, solved->solution, ids.front(), doc_.units())
                           : std::vector<Check>{},
                    doc_.units(), look_);
  } else if (ids.front() == jobId) {
    story_->setText(tr("Settings for the whole model. Select an element to see its card."));
    if (figure_) figure_->hide();
    if (solved) {
      const Setting& s = solved->solution.setting;
      auto put = [&](const char* key, double v, Measure m) {
        const Unit& unit = doc_.units().unitFor(m);
        founds_[std::string("job.") + key]->setText(
            QString("<span style='font-weight:600'>%1</span> <span style='color:%2'>%3</span>")
                .arg(QString::fromStdString(asNumber(v, m, doc_.units())), look_.ink2.name(),
                     text(unit.symbol)));
      };
      put(key::density, s.medium.density_kgm3, Measure::density);
      put(key::viscosity, s.viscosity_m2s, Measure::viscosity);
      put(key::vapourPressure, s.vapour_pa, Measure::absolutePressure);
      put("air pressure", s.medium.atmosphere_pa, Measure::absolutePressure);
    }
  } else {
    std::map<std::string, int> kinds;
    for (const Id id : ids) ++kinds[spoken(net.at(id).part->key)];
    QStringList words;
    for (const auto& [kind, n] : kinds) words << QString("%1 × %2").arg(n).arg(QString::fromStdString(kind));
    story_->setText(words.join(", ") + tr(". Values typed here apply to all of them."));
  }
  if (workingShown()) fillWorking();
}

void Card::focusField(const QString& key) {
  showFace();
  auto it = editors_.find(key.toStdString());
  if (it == editors_.end() && !key.isEmpty() && !more_) {  // it may be folded away
    more_ = true;
    refresh();
    it = editors_.find(key.toStdString());
  }
  if (it == editors_.end()) it = editors_.begin();
  if (it == editors_.end()) return;
  it->second->setFocus(Qt::OtherFocusReason);
  if (auto* edit = qobject_cast<QLineEdit*>(it->second))
    edit->setSelection(static_cast<int>(edit->text().size()),
                       -static_cast<int>(edit->text().size()));  // its beginning stays in sight
  face_->ensureWidgetVisible(it->second);
}

void Card::showWorking(const QString& outcome) {
  workingOf_ = outcome;
  fillWorking();
  pages_->setCurrentIndex(1);
  if (auto* close = findChild<QToolButton*>("working.close")) close->setFocus();
}

void Card::showFace() {
  if (!workingShown()) return;
  pages_->setCurrentIndex(0);
  setFocus();  // not into the first field, where a key would change it
}

void Card::fillWorking() {
  const Id id = doc_.selected();
  const SolvedPtr& solved = doc_.solved();
  const Element* then = id != noId && solved ? solved->element(id, doc_.network().at(id).part) : nullptr;
  if (!then) return;
  const auto working = workingOf(solved->network, solved->solution, id, workingOf_.toStdString());
  workingText_->setText(
      working ? QString::fromStdString(html(pageOf(*working), {.quietInk = look_.ink2.name().toStdString()}))
              : tr("No working available for this number."));
}

}  // namespace conduit::desktop
