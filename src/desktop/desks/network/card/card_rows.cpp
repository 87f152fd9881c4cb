// The rows of the card: what can be given, what is found, the take-off and the kind.
#include <fmt/format.h>

#include <QAbstractItemView>
#include <QAction>
#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QCompleter>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QMenu>
#include <QTableWidget>

#include "card/card.h"
#include "card/found_number.h"
#include "card/size_hints.h"
#include "card/take_off_edit.h"
#include "exchange/paste_rows.h"
#include "fields/entry.h"
#include "fields/keys.h"
#include "look/words.h"
#include "model/watched.h"
#include "network/lay_take_off.h"
#include "network/put.h"
#include "network/turn_into.h"
#include "parts/registry.h"
#include "quantity/format.h"

namespace conduit::desktop {
void Card::addHeading(const QString& words) {
  auto* label = new QLabel(words);
  label->setFont(face(12));
  label->setStyleSheet(
      QString("color: %1; border-bottom: 1px solid %2; padding-bottom: 2px; margin-top: 8px;")
          .arg(look_.ink2.name(), look_.hair.name()));
  rows_->addWidget(label);
}

void Card::commit(const std::string& key, QLineEdit* edit) {
  if (!edit->isModified()) return;
  edit->setModified(false);
  if (edit->text().trimmed().isEmpty() && edit->property("blank").toBool()) return;
  const auto ids = shown();
  if (!doc_.setField(ids, key, edit->text())) {
    edit->setProperty("refused", true);
    edit->setToolTip(QString::fromStdString(doc_.lastProblem().what));
    edit->setModified(true);
  } else {
    edit->setProperty("refused", false);
    edit->setToolTip({});
  }
  edit->style()->unpolish(edit);
  edit->style()->polish(edit);
}

void Card::swap(const Swap& s, bool back) {
  const Id id = doc_.selected();
  if (id == noId) return;
  QString given;
  if (!back) {
    // The outcome as it stands becomes the given, so that nothing jumps.
    const Element& e = doc_.network().at(id);
    const Field* f = findField(*e.part, s.give);
    given = QString::fromStdString(exactText(0.0, f->measure, doc_.units()));
    if (const auto reading = doc_.solved() ? doc_.solved()->reading(id, e.part) : nullptr)
      if (const auto v = outcomeOf(*e.part, s.outcome, **reading))
        given = text(exactText(*v, f->measure, doc_.units()));
  }
  doc_.take(swapGiven(doc_.network(), id, s, given.toStdString(), doc_.stock(), &doc_.units()));
}

// As wide as a usual value with its unit: "52.0 L/min/bar^0.5".
int Card::usualWidth(const Field& field) const {
  const Unit& unit = doc_.units().unitFor(field.measure);
  return std::min(150, QFontMetrics(face(12.5)).horizontalAdvance("000.0 " + text(unit.symbol)) + 22);
}

void Card::addGiven(const Part& part, const Field& field) {
  auto* row = new QWidget;
  auto* line = new QHBoxLayout(row);
  line->setContentsMargins(0, 0, 0, 0);
  line->setSpacing(6);
  const auto ids = shown();
  const Swap* swapping = nullptr;
  for (const Swap& s : part.swaps)
    if (ids.size() == 1 && (s.release == field.key || s.give == field.key)) swapping = &s;
  if (!swapping && field.releasable && field.kind == FieldKind::quantity && ids.size() == 1) {
    const std::string name = doc_.network().at(ids.front()).name, key(field.key);
    addMarker(line, "●", "swap." + text(field.key),
              tr("%1 is given; click to solve for it").arg(sentence(field.key)), [this, name, key] {
                change(fmt::format("Solve for the {} of {}", spoken(key), name),
                       {{name, std::string(foundPrefix) + key, "yes"}});
              });
  } else if (swapping) {
    auto* marker = new QToolButton;
    marker->setText("●");
    marker->setProperty("marker", true);
    marker->setFixedSize(22, 22);
    const bool back = swapping->give == field.key;
    marker->setObjectName("swap." + text(field.key));
    marker->setAccessibleName(back ? tr("%1 is given; click to solve for it and set the %2")
                                         .arg(sentence(field.key), spokenText(swapping->release))
                                   : tr("%1 is given; click to solve for it from a set %2")
                                         .arg(sentence(field.key), spokenText(swapping->give)));
    marker->setToolTip(marker->accessibleName());
    const Swap s = *swapping;
    connect(
        marker, &QToolButton::clicked, this, [this, s, back] { swap(s, back); }, Qt::QueuedConnection);
    line->addWidget(marker);
  } else {
    auto* marker = new QLabel(field.kind == FieldKind::text || field.kind == FieldKind::takeOff ? "" : "●");
    marker->setObjectName("mark." + text(field.key));
    marker->setFixedWidth(20);
    marker->setAlignment(Qt::AlignCenter);
    line->addWidget(marker);
  }
  const QString name = sentence(field.key);
  const std::string key(field.key);
  auto* label = new QLabel(name);
  label->setToolTip(sentence(field.help));
  label->setObjectName("label." + text(field.key));
  label->setMinimumWidth(60);
  QWidget* editor = nullptr;
  if (field.kind == FieldKind::flag) {
    auto* box = new QCheckBox;
    connect(box, &QCheckBox::clicked, this,
            [this, key](bool on) { doc_.setField(shown(), key, on ? "yes" : "no"); });
    editor = box;
  } else if (field.kind == FieldKind::choice) {
    auto* box = new QComboBox;
    for (const std::string_view c : field.choices) box->addItem(spokenText(c), text(c));
    connect(box, &QComboBox::activated, this,
            [this, key, box](int at) { doc_.setField(shown(), key, box->itemData(at).toString()); });
    box->setFixedWidth(150);
    editor = box;
  } else if (key == key::units) {
    auto* box = new QComboBox;
    for (const UnitSet& set : UnitSet::all()) box->addItem(QString::fromStdString(set.name()));
    connect(box, &QComboBox::textActivated, this, [this, key](const QString& t) {
      doc_.setField(shown(), key, t);
      if (const UnitSet* set = UnitSet::find(t.toStdString())) doc_.setUnits(*set);
    });
    box->setFixedWidth(150);
    editor = box;
  } else {
    auto* edit = field.kind == FieldKind::takeOff ? takeOff_ = new TakeOffEdit(doc_) : new QLineEdit;
    const bool wide = field.kind == FieldKind::text || field.kind == FieldKind::takeOff;
    // A long name takes room from its field rather than being cut off.
    const int named = QFontMetrics(face(12.5)).horizontalAdvance(name);
    if (field.kind == FieldKind::takeOff && ids.size() == 1) edit->setMinimumWidth(250);
    else edit->setFixedWidth(std::clamp(276 - 34 - named, 64, wide ? 186 : std::max(112, usualWidth(field))));
    edit->setAlignment(wide ? Qt::AlignLeft : Qt::AlignRight);
    edit->installEventFilter(this);
    connect(edit, &QLineEdit::editingFinished, this, [this, key, edit] { commit(key, edit); });
    connect(edit, &QLineEdit::returnPressed, this, [this, key, edit] {
      if (edit->property("assumed").toBool() && !edit->isModified())
        doc_.setField(shown(), key, edit->property("typed").toString());  // Enter on it: so it is
    });
    // Fields that name an entry of the stock offer the names.
    QStringList names;
    if (key == stockItemKey)
      for (const StockItem& i : doc_.stock()->items)
        if (i.kind == part.key) names << QString::fromStdString(i.item);
    if (key == "liquid of the stock")
      for (const LiquidEntry& l : doc_.stock()->liquids) names << QString::fromStdString(l.liquid);
    if (key == serviceKey)
      doc_.network().each([&](Id, const Element& e) {
        if (e.part->service) names << QString::fromStdString(e.name);
      });
    if (!names.isEmpty() || key == key::size) {
      auto* completer = new QCompleter(names, edit);
      if (key == key::size) {
        // With what each would do at the flow there is.
        sizeHints_ = new SizeHints(*doc_.stock(), completer);
        completer->setModel(sizeHints_);
        completer->setCompletionRole(SizeHints::nameRole);
      }
      completer->setCaseSensitivity(Qt::CaseInsensitive);
      completer->setFilterMode(Qt::MatchContains);
      completer->popup()->setMinimumWidth(key == key::size ? 340 : 250);
      edit->setCompleter(completer);
    }
    editor = edit;
  }
  editor->setObjectName("given." + text(field.key));
  editor->setAccessibleName(name);
  editor->setToolTip(sentence(field.help));
  editor->setFixedHeight(23);
  label->setBuddy(editor);
  line->addWidget(label, 1);
  const bool below = field.kind == FieldKind::takeOff && ids.size() == 1;  // a line of its own: it is long
  if (!below) line->addWidget(editor);
  rows_->addWidget(row);
  if (below) {
    auto* indent = new QHBoxLayout;
    indent->setContentsMargins(26, 0, 0, 0);
    indent->addWidget(editor);
    rows_->addLayout(indent);
  }
  editors_[key] = editor;
  if (field.kind == FieldKind::takeOff && ids.size() == 1) addTakeOff(field);
}

// Under the field: what it comes to, and its pieces.
void Card::addTakeOff(const Field& field) {
  takeOff_->setPlaceholderText(tr("12.4 elbow 3.1 up gate"));
  readBack_ = new QLabel;
  readBack_->setObjectName("takeoff.readback");
  readBack_->setAccessibleName(tr("Take-off result"));
  readBack_->setWordWrap(true);
  readBack_->setFont(face(11));
  readBack_->setContentsMargins(26, 0, 0, 0);
  pieces_ = new PieceStrip;
  rows_->addWidget(readBack_);
  auto* indent = new QHBoxLayout;
  indent->setContentsMargins(26, 0, 0, 2);
  indent->addWidget(pieces_);
  rows_->addLayout(indent);
  connect(takeOff_, &QLineEdit::textEdited, this, &Card::readTakeOff);
  connect(
      pieces_, &PieceStrip::changed, this,
      [this, key = std::string(field.key)](const QString& text) { doc_.setField(shown(), key, text); },
      Qt::QueuedConnection);
  readTakeOff();
}

void Card::readTakeOff() {
  if (!takeOff_ || !readBack_ || shown().size() != 1) return;
  const Element& e = doc_.network().at(shown().front());
  const std::string typed = takeOff_->text().toStdString();
  auto takeOff = parseTakeOff(typed, *doc_.stock());
  // A word that is still being typed is no mistake yet.
  if (!takeOff && takeOff_->hasFocus() && takeOff.error().at + takeOff.error().word.size() == typed.size() &&
      !completionsFor(typed, *doc_.stock()).empty())
    takeOff = parseTakeOff(std::string_view(typed).substr(0, takeOff.error().at), *doc_.stock());
  if (!takeOff) {
    // The word is underlined in the field; what it could have been stands here.
    takeOff_->underline(takeOff.error().at, takeOff.error().word.size());
    QString words = QString::fromStdString(takeOff.error().what);
    if (!takeOff.error().could.empty()) {
      QStringList could;
      for (const std::string& c : takeOff.error().could) could << QString::fromStdString(c);
      words += tr("; try %1").arg(could.mid(0, 4).join(", "));
    }
    readBack_->setText(words);
    readBack_->setStyleSheet(QString("color: %1").arg(look_.warning.name()));
    readBack_->setVisible(true);
    pieces_->display({}, look_);
    return;
  }
  takeOff_->underline(0, 0);
  Setting plain;
  plain.stock = doc_.stock();
  const Setting& setting = doc_.solved() ? doc_.solved()->solution.setting : plain;
  const auto bore =
      e.part->geometry ? e.part->geometry(e.values, setting.stock ? setting : plain).bore_m : std::nullopt;
  const auto* size = e.text(key::size);
  const PipeSize* entry = size ? doc_.stock()->pipe(*size) : nullptr;
  readBack_->setText(takeOff->pieces.empty()
                         ? QString()
                         : QString::fromStdString(
                               readBack(*takeOff, bore, entry ? entry->mass_kgm : std::nullopt, *doc_.stock())
                                   .words(doc_.units())));
  readBack_->setStyleSheet(QString("color: %1").arg(look_.ink2.name()));
  readBack_->setVisible(!takeOff->pieces.empty());
  pieces_->display(*takeOff, look_);
}

// The kind, with the kinds it could be turned into.
void Card::addKind(QHBoxLayout* top) {
  auto* kind = new QToolButton;
  kind->setObjectName("kind");
  const std::vector<Id> ids = shown();
  const Element& first = doc_.network().at(ids.front());
  const bool same =
      std::all_of(ids.begin(), ids.end(), [&](Id id) { return doc_.network().at(id).part == first.part; });
  kind->setText((same ? spokenText(first.part->key) : tr("several kinds")) + " ▾");
  kind->setAccessibleName(tr("Kind: %1; change").arg(spokenText(first.part->key)));
  kind->setToolTip(tr("Change to another kind"));
  kind->setStyleSheet(QString("color: %1").arg(look_.ink2.name()));
  kind->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(kind);
  connect(menu, &QMenu::aboutToShow, this, [this, menu] {
    menu->clear();
    for (const Part* part : allParts()) {
      bool may = part->group != Group::drawing, other = false;
      for (const Id id : shown()) {
        if (doc_.network().at(id).part == part) continue;
        other = true;
        may = may && turnFault(doc_.network(), id, *part).empty();
      }
      if (may && other)
        menu->addAction(tr("Change to %1").arg(QString::fromStdString(spokenOne(part->key))), this,
                        [this, part] { doc_.turnInto(*part); });
    }
    if (menu->isEmpty()) menu->addAction(tr("No other kind is possible here"))->setEnabled(false);
  });
  kind->setMenu(menu);
  top->addWidget(kind, 1, Qt::AlignLeft | Qt::AlignBottom);
}

void Card::addTable(const Field& field) {
  const Part& part = *doc_.network().at(shown().front()).part;
  auto* head = new QWidget;
  auto* line = new QHBoxLayout(head);
  line->setContentsMargins(0, 0, 0, 0);
  line->setSpacing(6);
  const Swap* swapping = nullptr;
  for (const Swap& s : part.swaps)
    if (s.release == field.key) swapping = &s;
  auto* marker = new QToolButton;
  marker->setText("●");
  marker->setProperty("marker", true);
  marker->setFixedSize(22, 22);
  marker->setObjectName("swap." + text(field.key));
  marker->setEnabled(swapping != nullptr);
  if (swapping) {
    marker->setAccessibleName(tr("%1 is given; click to solve for the head from a set %2")
                                  .arg(sentence(field.key), spokenText(swapping->give)));
    marker->setToolTip(marker->accessibleName());
    const Swap s = *swapping;
    connect(
        marker, &QToolButton::clicked, this, [this, s] { swap(s, false); }, Qt::QueuedConnection);
  }
  line->addWidget(marker);
  auto* title = new QLabel(sentence(field.key));
  title->setToolTip(sentence(field.help));
  line->addWidget(title, 1);
  const Rows* rows = doc_.network().at(shown().front()).rows(field.key);
  const bool open = tableOpen_ || !rows || rows->empty();
  auto* fold = new QToolButton;
  fold->setObjectName("fold." + text(field.key));
  fold->setText(tr("%1 rows %2").arg(rows ? rows->size() : 0).arg(open ? "▴" : "▾"));
  fold->setAccessibleName(open ? tr("Hide the %1").arg(spokenText(field.key))
                               : tr("Show the %1").arg(spokenText(field.key)));
  connect(
      fold, &QToolButton::clicked, this, [this] { tableOpen_ = !tableOpen_, refresh(); },
      Qt::QueuedConnection);
  line->addWidget(fold);
  rows_->addWidget(head);
  if (!open) return;
  auto* table = new QTableWidget;
  table->setObjectName("given." + text(field.key));
  table->setAccessibleName(sentence(field.key));
  table->setColumnCount(static_cast<int>(field.columns.size()));
  QStringList names;
  int headLines = 1;
  for (const Column& c : field.columns) {
    const std::string_view symbol = doc_.units().unitFor(c.measure).symbol;
    names << spokenText(c.key).replace(' ', '\n') + (symbol.empty() ? QString() : "\n" + text(symbol));
    headLines = std::max(headLines, 1 + static_cast<int>(names.back().count('\n')));
  }
  table->setHorizontalHeaderLabels(names);
  for (int c = 0; c < names.size(); ++c) table->horizontalHeaderItem(c)->setToolTip(names[c]);
  table->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
  table->horizontalHeader()->setFont(face(10));
  table->verticalHeader()->hide();
  table->verticalHeader()->setDefaultSectionSize(21);
  table->setFont(face(11));
  const bool connections = part.ends == Ends::many;
  const std::size_t given = rows ? rows->size() : 0;
  const std::size_t count =
      connections ? doc_.network().at(shown().front()).ends.size() : given + 1;  // one empty row to go on
  table->setRowCount(static_cast<int>(count));
  for (std::size_t r = 0; r < count; ++r)
    for (std::size_t c = 0; c < field.columns.size(); ++c)
      table->setItem(static_cast<int>(r), static_cast<int>(c),
                     new QTableWidgetItem(r < given && c < (*rows)[r].size() && (*rows)[r][c]
                                              ? QString::fromStdString((*rows)[r][c]->typed)
                                              : QString()));
  const int headHigh = 6 + 14 * headLines;
  table->horizontalHeader()->setFixedHeight(headHigh);
  table->setFixedHeight(headHigh + 2 + 21 * static_cast<int>(std::min<std::size_t>(count, 7)));
  table->setTabKeyNavigation(false);
  const std::string key(field.key);
  connect(table, &QTableWidget::cellChanged, this, [this, table, key](int row, int) {
    // A row is taken once its needed cells are there. Whoever types in a table wants it to stay open.
    tableOpen_ = true;
    const Field* f = findField(*doc_.network().at(shown().front()).part, key);
    QStringList lines;
    for (int r = 0; r < table->rowCount(); ++r) {
      QStringList cells;
      bool any = false;
      for (int c = 0; c < table->columnCount(); ++c) {
        const QString t = table->item(r, c) ? table->item(r, c)->text().trimmed() : QString();
        any = any || !t.isEmpty();
        if (r == row && f->columns[static_cast<std::size_t>(c)].needed && t.isEmpty() && any) return;
        cells << t;
      }
      if (r == row && any)
        for (int c = 0; c < table->columnCount(); ++c)
          if (f->columns[static_cast<std::size_t>(c)].needed && cells[c].isEmpty()) return;
      lines << (any                                                           ? cells.join(" | ")
                : doc_.network().at(shown().front()).part->ends == Ends::many ? QString("|")
                                                                              : QString());
    }
    QMetaObject::invokeMethod(
        this, [this, key, all = lines.join("; ")] { doc_.setField(shown(), key, all); },
        Qt::QueuedConnection);
  });
  // A block from a spreadsheet, from the current cell on; with headings it takes the place of all rows.
  auto* paste = new QAction(table);
  paste->setObjectName("paste." + text(field.key));
  paste->setShortcut(QKeySequence::Paste);
  paste->setShortcutContext(Qt::WidgetShortcut);
  table->addAction(paste);
  connect(paste, &QAction::triggered, this, [this, table, key] {
    const Field* f = findField(*doc_.network().at(shown().front()).part, key);
    std::vector<std::vector<std::string>> there(static_cast<std::size_t>(table->rowCount()));
    for (int r = 0; r < table->rowCount(); ++r)
      for (int c = 0; c < table->columnCount(); ++c)
        there[static_cast<std::size_t>(r)].push_back(
            table->item(r, c) ? table->item(r, c)->text().trimmed().toStdString() : std::string());
    const auto rowsText =
        rowsFromBlock(QApplication::clipboard()->text().toStdString(), *f, there,
                      static_cast<std::size_t>(std::max(0, table->currentRow())),
                      static_cast<std::size_t>(std::max(0, table->currentColumn())), doc_.units());
    if (!rowsText) {
      emit doc_.refused(QString::fromStdString(rowsText.error().what));
      return;
    }
    tableOpen_ = true;
    QMetaObject::invokeMethod(
        this, [this, key, all = QString::fromStdString(*rowsText)] { doc_.setField(shown(), key, all); },
        Qt::QueuedConnection);
  });
  rows_->addWidget(table);
  editors_[std::string(field.key)] = table;
}

void Card::addFound(const Outcome& outcome) {
  auto* row = new QWidget;
  auto* line = new QHBoxLayout(row);
  line->setContentsMargins(0, 0, 0, 0);
  line->setSpacing(5);
  const std::string name = doc_.network().at(shown().front()).name;
  const Outcome* of = &outcome;
  addMarker(line, "○", "give." + text(outcome.key),
            tr("%1 is found; click to set it and solve for something else").arg(sentence(outcome.key)),
            [this, name, of] {
              change(fmt::format("Set the {} of {}", spoken(of->key), name),
                     {{name, std::string(givenPrefix) + std::string(of->key),
                       exactText(lastFound(*of).value_or(0.0), of->measure, doc_.units())}});
            });
  auto* label = new QLabel(sentence(outcome.key));
  label->setObjectName("way." + text(outcome.key));
  label->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);  // never pushes the number out of sight
  line->addWidget(label, 1);
  auto* number = new FoundNumber;
  number->setObjectName("found." + text(outcome.key));
  number->setAccessibleName(sentence(outcome.key));
  number->setToolTip(tr("Type a value to set it"));
  connect(number, &FoundNumber::typedOver, this,
          [this, of, row](const QString& first) { typeOver(*of, row, first); });
  number->setContextMenuPolicy(Qt::ActionsContextMenu);
  auto* watching = new QAction(tr("Watch in all cases"), number);
  watching->setObjectName("watch." + text(outcome.key));
  connect(watching, &QAction::triggered, this, [this, of] { watchThis(*of); });
  number->addAction(watching);
  line->addWidget(number);
  auto* equals = new QToolButton;
  equals->setText("=");
  equals->setProperty("marker", true);
  equals->setFixedSize(22, 22);
  equals->setObjectName("working." + text(outcome.key));
  equals->setAccessibleName(tr("Working of the %1").arg(spokenText(outcome.key)));
  equals->setToolTip(tr("Show the working"));
  const QString key = text(outcome.key);
  connect(equals, &QToolButton::clicked, this, [this, key] { showWorking(key); });
  line->addWidget(equals);
  row->setFixedHeight(23);
  rows_->addWidget(row);
  founds_[std::string(outcome.key)] = number;
}

// The number joins what is watched through all cases.
void Card::watchThis(const Outcome& outcome) {
  Watched w{.outcome = std::string(outcome.key), .elements = shown(), .condition = {}};
  if (w.elements.size() != 1) return;
  if (doc_.takeModel(watch(doc_.model(), std::move(w)))) emit doc_.said(tr("Watched: see the Cases desk"));
}

QToolButton* Card::addMarker(QHBoxLayout* line, const QString& glyph, const QString& name,
                             const QString& does, const std::function<void()>& clicked) {
  auto* marker = new QToolButton;
  marker->setText(glyph);
  marker->setProperty("marker", true);
  marker->setFixedSize(22, 22);
  marker->setObjectName(name);
  marker->setAccessibleName(does);
  marker->setToolTip(does);
  marker->setFocusPolicy(Qt::ClickFocus);
  connect(marker, &QToolButton::clicked, this, clicked, Qt::QueuedConnection);
  line->addWidget(marker);
  return marker;
}

void Card::change(const std::string& words, std::vector<FieldEdit> edits) {
  doc_.apply(Remedy{words, std::move(edits), {}});
}

// What stood there when the network last balanced.
std::optional<double> Card::lastFound(const Outcome& outcome) const {
  const Id id = doc_.selected();
  const auto reading =
      id != noId && lastUsable_ ? lastUsable_->reading(id, doc_.network().at(id).part) : nullptr;
  return reading ? outcome.of(**reading) : std::nullopt;
}

void Card::addGoal(const Outcome& outcome) {
  auto* row = new QWidget;
  auto* line = new QHBoxLayout(row);
  line->setContentsMargins(0, 0, 0, 0);
  line->setSpacing(6);
  const std::string name = doc_.network().at(shown().front()).name,
                    key = std::string(givenPrefix) + std::string(outcome.key),
                    words = fmt::format("Clear the given {} of {}", spoken(outcome.key), name);
  addMarker(line, "●", "give." + text(outcome.key),
            tr("%1 is given; click to solve for it").arg(sentence(outcome.key)), [this, name, key, words] {
              change(words, {{name, key, ""}});
            });
  auto* label = new QLabel(sentence(outcome.key));
  auto* edit = new QLineEdit;
  edit->setObjectName("given." + text(outcome.key));
  edit->setAccessibleName(sentence(outcome.key));
  edit->setAlignment(Qt::AlignRight);
  edit->setFixedWidth(112);
  edit->setFixedHeight(23);
  edit->installEventFilter(this);
  label->setBuddy(edit);
  connect(edit, &QLineEdit::editingFinished, this, [this, key, edit] { commit(key, edit); });
  line->addWidget(label, 1);
  line->addWidget(edit);
  rows_->addWidget(row);
  editors_[key] = edit;
}

void Card::addFoundField(const Field& field) {
  auto* row = new QWidget;
  auto* line = new QHBoxLayout(row);
  line->setContentsMargins(0, 0, 0, 0);
  line->setSpacing(6);
  const Id id = shown().front();
  const std::string name = doc_.network().at(id).name, key(field.key);
  const Measure measure = field.measure;
  // Given again it keeps what was found, so that nothing jumps; else what it was before.
  addMarker(line, "○", "swap." + text(field.key),
            tr("%1 is solved for; click to set it").arg(sentence(field.key)), [this, id, name, key, measure] {
              const SolvedPtr& solved = doc_.solved();
              const auto v = solved && solved->solution.summary.usable() ? solved->solution.foundFor(id, key)
                                                                         : std::nullopt;
              const std::string words = fmt::format("Restore the given {} of {}", spoken(key), name);
              if (v) change(words, {{name, key, exactText(*v, measure, doc_.units())}});
              else change(words, {{name, std::string(foundPrefix) + key, "no"}});
            });
  line->addWidget(new QLabel(sentence(field.key)), 1);
  auto* number = new QLabel;
  number->setObjectName("found." + text(field.key));
  number->setAccessibleName(sentence(field.key));
  number->setTextFormat(Qt::RichText);
  number->setTextInteractionFlags(Qt::TextSelectableByMouse);
  line->addWidget(number);
  line->addSpacing(26);
  row->setFixedHeight(23);
  rows_->addWidget(row);
  founds_["field." + key] = number;
}

}  // namespace conduit::desktop
