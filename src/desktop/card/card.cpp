#include "card/card.h"

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
#include <QTableWidget>

#include "card/take_off_edit.h"
#include "card/working_html.h"
#include "limits/limits.h"
#include "network/entry.h"
#include "network/lay_take_off.h"
#include "network/turn_into.h"
#include "parts/registry.h"
#include "quantity/format.h"

namespace conduit::desktop {
namespace {

QString text(std::string_view s) { return QString::fromUtf8(s.data(), static_cast<int>(s.size())); }
QString sentence(std::string_view s) {
  QString t = text(s);
  if (!t.isEmpty()) t[0] = t[0].toUpper();
  return t;
}

// What several elements hold in common, as it would be typed; "" when they differ.
std::optional<std::string> common(const Network& net, const std::vector<Id>& ids, const Field& f) {
  std::optional<std::string> shared;
  for (const Id id : ids) {
    const Value* v = net.at(id).values.find(f.key);
    const std::string t = v ? writeField(f, *v) : std::string();
    if (shared && *shared != t) return std::nullopt;
    shared = t;
  }
  return shared;
}

}  // namespace

Card::Card(Document& document, QWidget* parent)
    : QWidget(parent), doc_(document), look_(Look::light()), pages_(new QStackedWidget(this)), face_(new QScrollArea), back_(new QScrollArea), workingText_(new QLabel) {
  setObjectName("card");
  setAccessibleName(tr("Card"));
  setFixedWidth(308);
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
  turn->setText(tr("← back to the card"));
  turn->setAccessibleName(tr("Back to the card"));
  connect(turn, &QToolButton::clicked, this, &Card::showFace);
  backLayout->addWidget(turn, 0, Qt::AlignLeft);
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
    showFace();
    refresh();
  });
  connect(&doc_, &Document::changed, this, &Card::refresh);
  connect(&doc_, &Document::answered, this, &Card::refresh);
  connect(&doc_, &Document::unitsChanged, this, [this] {
    signature_.clear();
    refresh();
  });
  rebuild();
}

void Card::setLook(const Look& look) {
  look_ = look;
  signature_.clear();
  refresh();
}

std::vector<Id> Card::shown() const {
  if (doc_.selection().empty()) return {jobId};
  return doc_.selection();
}

// When this changes the rows are made anew; else only their numbers.
std::string Card::signature() const {
  std::string s = std::string(more_ ? "+" : "-") + (tableOpen_ ? "t" : "");
  for (const Id id : shown()) {
    const Element* e = doc_.network().find(id);
    if (!e) continue;
    s += std::to_string(id) + std::string(e->part->key);
    for (const Field& f : e->part->fields) s += !f.applies || f.applies(e->values) ? 'y' : 'n';
    for (const Values::Entry& entry : e->values.entries())
      if (entry.released) s += std::string(entry.key);
    for (const Field& f : e->part->fields)
      if (f.kind == FieldKind::table)
        if (const Value* v = e->values.find(f.key)) s += writeField(f, *v);
    for (const Field& f : e->part->fields) s += e->values.find(f.key) ? '1' : '0';
  }
  return s;
}

void Card::addHeading(const QString& words) {
  auto* label = new QLabel(words);
  label->setFont(face(12));
  label->setStyleSheet(QString("color: %1; border-bottom: 1px solid %2; padding-bottom: 2px; margin-top: 8px;").arg(look_.ink2.name(), look_.hair.name()));
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
    if (doc_.solved() && doc_.solved()->solution.summary.usable()) {
      const ReadingOf reading(doc_.network(), doc_.solved()->solution, id);
      for (const Outcome& o : e.part->outcomes)
        if (o.key == s.outcome)
          if (const auto v = o.of(*reading)) {
            const Unit& unit = doc_.units().unitFor(f->measure);
            given = QString("%1 %2").arg(inUnit(*v, unit), 0, 'g', 6).arg(text(unit.symbol));
          }
    }
  }
  doc_.take(swapGiven(doc_.network(), id, s, given.toStdString(), doc_.stock(), &doc_.units()));
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
  if (swapping) {
    auto* marker = new QToolButton;
    marker->setText("●");
    marker->setProperty("marker", true);
    marker->setFixedSize(20, 20);
    const bool back = swapping->give == field.key;
    marker->setObjectName("swap." + text(field.key));
    marker->setAccessibleName(back ? tr("%1 is given; find it and give the %2").arg(text(field.key), text(swapping->release))
                                   : tr("%1 is given; find it from a given %2").arg(text(field.key), text(swapping->give)));
    marker->setToolTip(marker->accessibleName());
    const Swap s = *swapping;
    connect(
        marker, &QToolButton::clicked, this, [this, s, back] { swap(s, back); }, Qt::QueuedConnection);
    line->addWidget(marker);
  } else {
    auto* marker = new QLabel(field.kind == FieldKind::text || field.kind == FieldKind::takeOff ? "" : "●");
    marker->setFixedWidth(20);
    marker->setAlignment(Qt::AlignCenter);
    line->addWidget(marker);
  }
  const QString name = sentence(field.key);
  const std::string key(field.key);
  auto* label = new QLabel(name);
  label->setToolTip(sentence(field.help));
  label->setMinimumWidth(60);
  QWidget* editor = nullptr;
  if (field.kind == FieldKind::flag) {
    auto* box = new QCheckBox;
    connect(box, &QCheckBox::clicked, this, [this, key](bool on) { doc_.setField(shown(), key, on ? "yes" : "no"); });
    editor = box;
  } else if (field.kind == FieldKind::choice) {
    auto* box = new QComboBox;
    for (const std::string_view c : field.choices) box->addItem(text(c));
    connect(box, &QComboBox::textActivated, this, [this, key](const QString& t) { doc_.setField(shown(), key, t); });
    box->setFixedWidth(150);
    editor = box;
  } else if (key == "units") {
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
    if (field.kind == FieldKind::takeOff && ids.size() == 1) edit->setMinimumWidth(250);
    else edit->setFixedWidth(wide ? 186 : 112);
    edit->setAlignment(wide ? Qt::AlignLeft : Qt::AlignRight);
    connect(edit, &QLineEdit::editingFinished, this, [this, key, edit] { commit(key, edit); });
    // Fields that name an entry of the stock offer the names.
    QStringList names;
    if (key == "size")
      for (const PipeSize& p : doc_.stock()->pipes) names << QString::fromStdString(p.name());
    if (key == stockItemKey)
      for (const StockItem& i : doc_.stock()->items)
        if (i.kind == part.key) names << QString::fromStdString(i.item);
    if (key == "liquid of the stock")
      for (const LiquidEntry& l : doc_.stock()->liquids) names << QString::fromStdString(l.liquid);
    if (key == serviceKey)
      doc_.network().each([&](Id, const Element& e) {
        if (e.part->key == serviceKey) names << QString::fromStdString(e.name);
      });
    if (!names.isEmpty()) {
      auto* completer = new QCompleter(names, edit);
      completer->setCaseSensitivity(Qt::CaseInsensitive);
      completer->setFilterMode(Qt::MatchContains);
      completer->popup()->setMinimumWidth(250);
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
  readBack_->setAccessibleName(tr("What the take-off comes to"));
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
      pieces_, &PieceStrip::changed, this, [this, key = std::string(field.key)](const QString& text) { doc_.setField(shown(), key, text); }, Qt::QueuedConnection);
  readTakeOff();
}

void Card::readTakeOff() {
  if (!takeOff_ || !readBack_ || shown().size() != 1) return;
  const Element& e = doc_.network().at(shown().front());
  const std::string typed = takeOff_->text().toStdString();
  auto takeOff = parseTakeOff(typed, *doc_.stock());
  // A word that is still being typed is no mistake yet.
  if (!takeOff && takeOff_->hasFocus() && takeOff.error().at + takeOff.error().word.size() == typed.size() && !completionsFor(typed, *doc_.stock()).empty())
    takeOff = parseTakeOff(std::string_view(typed).substr(0, takeOff.error().at), *doc_.stock());
  if (!takeOff) {
    // The word is underlined in the field; what it could have been stands here.
    takeOff_->underline(takeOff.error().at, takeOff.error().word.size());
    QString words = QString::fromStdString(takeOff.error().what);
    if (!takeOff.error().could.empty()) {
      QStringList could;
      for (const std::string& c : takeOff.error().could) could << QString::fromStdString(c);
      words += tr("; could be %1").arg(could.mid(0, 4).join(", "));
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
  const auto bore = e.part->geometry ? e.part->geometry(e.values, setting.stock ? setting : plain).bore_m : std::nullopt;
  const auto* size = e.values.get<std::string>("size");
  const PipeSize* entry = size ? doc_.stock()->pipe(*size) : nullptr;
  readBack_->setText(takeOff->pieces.empty() ? QString()
                                             : QString::fromStdString(readBack(*takeOff, bore, entry ? entry->mass_kgm : std::nullopt, *doc_.stock()).words(doc_.units())));
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
  const bool same = std::all_of(ids.begin(), ids.end(), [&](Id id) { return doc_.network().at(id).part == first.part; });
  kind->setText((same ? text(first.part->key) : tr("several kinds")) + " ▾");
  kind->setAccessibleName(tr("Kind: %1; turn into another").arg(text(first.part->key)));
  kind->setToolTip(tr("Turn into another kind where it stands"));
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
      if (may && other) menu->addAction(tr("Turn into a %1").arg(text(part->key)), this, [this, part] { doc_.turnInto(*part); });
    }
    if (menu->isEmpty()) menu->addAction(tr("It can be no other kind where it stands"))->setEnabled(false);
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
  marker->setFixedSize(20, 20);
  marker->setObjectName("swap." + text(field.key));
  marker->setEnabled(swapping != nullptr);
  if (swapping) {
    marker->setAccessibleName(tr("%1 is given; find the head from a given %2").arg(text(field.key), text(swapping->give)));
    marker->setToolTip(marker->accessibleName());
    const Swap s = *swapping;
    connect(
        marker, &QToolButton::clicked, this, [this, s] { swap(s, false); }, Qt::QueuedConnection);
  }
  line->addWidget(marker);
  auto* title = new QLabel(sentence(field.key));
  title->setToolTip(sentence(field.help));
  line->addWidget(title, 1);
  const Rows* rows = doc_.network().at(shown().front()).values.get<Rows>(field.key);
  const bool open = tableOpen_ || !rows || rows->empty();
  auto* fold = new QToolButton;
  fold->setObjectName("fold." + text(field.key));
  fold->setText(tr("%1 rows %2").arg(rows ? rows->size() : 0).arg(open ? "▴" : "▾"));
  fold->setAccessibleName(open ? tr("Fold the %1").arg(text(field.key)) : tr("Unfold the %1").arg(text(field.key)));
  connect(
      fold, &QToolButton::clicked, this, [this] { tableOpen_ = !tableOpen_, refresh(); }, Qt::QueuedConnection);
  line->addWidget(fold);
  rows_->addWidget(head);
  if (!open) return;
  auto* table = new QTableWidget;
  table->setObjectName("given." + text(field.key));
  table->setAccessibleName(sentence(field.key));
  table->setColumnCount(static_cast<int>(field.columns.size()));
  QStringList names;
  for (const Column& c : field.columns) names << text(c.key).replace(' ', '\n');
  table->setHorizontalHeaderLabels(names);
  for (int c = 0; c < names.size(); ++c) table->horizontalHeaderItem(c)->setToolTip(names[c]);
  table->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
  table->horizontalHeader()->setFont(face(10));
  table->verticalHeader()->hide();
  table->verticalHeader()->setDefaultSectionSize(21);
  table->setFont(face(11));
  const bool connections = part.ends == Ends::many;
  const std::size_t given = rows ? rows->size() : 0;
  const std::size_t count = connections ? doc_.network().at(shown().front()).ends.size() : given + 1;  // one empty row to go on
  table->setRowCount(static_cast<int>(count));
  for (std::size_t r = 0; r < count; ++r)
    for (std::size_t c = 0; c < field.columns.size(); ++c)
      table->setItem(static_cast<int>(r), static_cast<int>(c),
                     new QTableWidgetItem(r < given && c < (*rows)[r].size() && (*rows)[r][c] ? QString::fromStdString((*rows)[r][c]->typed) : QString()));
  table->horizontalHeader()->setFixedHeight(32);
  table->setFixedHeight(34 + 21 * static_cast<int>(std::min<std::size_t>(count, 7)));
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
      lines << (any ? cells.join(" | ") : doc_.network().at(shown().front()).part->ends == Ends::many ? QString("|") : QString());
    }
    QMetaObject::invokeMethod(
        this, [this, key, all = lines.join("; ")] { doc_.setField(shown(), key, all); }, Qt::QueuedConnection);
  });
  rows_->addWidget(table);
  editors_[std::string(field.key)] = table;
}

void Card::addFound(const Outcome& outcome, bool working) {
  auto* row = new QWidget;
  auto* line = new QHBoxLayout(row);
  line->setContentsMargins(0, 0, 0, 0);
  line->setSpacing(6);
  auto* marker = new QLabel("○");
  marker->setFixedWidth(20);
  marker->setAlignment(Qt::AlignCenter);
  line->addWidget(marker);
  line->addWidget(new QLabel(sentence(outcome.key)), 1);
  auto* number = new QLabel;
  number->setObjectName("found." + text(outcome.key));
  number->setAccessibleName(sentence(outcome.key));
  number->setTextFormat(Qt::RichText);
  number->setTextInteractionFlags(Qt::TextSelectableByMouse);
  line->addWidget(number);
  if (working) {
    auto* equals = new QToolButton;
    equals->setText("=");
    equals->setProperty("marker", true);
    equals->setFixedSize(20, 20);
    equals->setObjectName("working." + text(outcome.key));
    equals->setAccessibleName(tr("Working of the %1").arg(text(outcome.key)));
    equals->setToolTip(tr("How this number came about"));
    const QString key = text(outcome.key);
    connect(equals, &QToolButton::clicked, this, [this, key] { showWorking(key); });
    line->addWidget(equals);
  } else {
    line->addSpacing(26);
  }
  row->setFixedHeight(23);
  rows_->addWidget(row);
  founds_[std::string(outcome.key)] = number;
}

void Card::rebuild() {
  signature_ = signature();
  const QString focused = QApplication::focusWidget() && face_->isAncestorOf(QApplication::focusWidget()) ? QApplication::focusWidget()->objectName() : QString();
  const int scrolled = face_->verticalScrollBar() ? face_->verticalScrollBar()->value() : 0;
  editors_.clear();
  founds_.clear();
  figure_ = nullptr;
  limits_ = nullptr;
  takeOff_ = nullptr;
  pieces_ = nullptr;
  readBack_ = nullptr;
  body_ = new QWidget;
  body_->setFont(face(12.5));
  rows_ = new QVBoxLayout(body_);
  rows_->setContentsMargins(16, 12, 16, 12);
  rows_->setSpacing(3);
  const auto ids = shown();
  const Network& net = doc_.network();
  const Element& first = net.at(ids.front());
  const Part& part = *first.part;
  const bool one = ids.size() == 1, job = ids.front() == jobId;
  // Name and kind.
  auto* top = new QHBoxLayout;
  nameEdit_ = nullptr;
  if (one && !job) {
    nameEdit_ = new QLineEdit(QString::fromStdString(first.name));
    nameEdit_->setObjectName("name");
    nameEdit_->setAccessibleName(tr("Name"));
    nameEdit_->setFont(face(17, true));
    nameEdit_->setFrame(false);
    nameEdit_->setStyleSheet("QLineEdit { background: transparent; border: none; padding: 0; } QLineEdit:focus { border: none; padding: 0; border-bottom: 2px solid " +
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
  }
  addHeading(tr("Given"));
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
    const bool plain = (job && f.kind != FieldKind::text) || &f == &part.fields[0] || f.needed || f.inSight;
    if (!plain && !more_ && std::none_of(ids.begin(), ids.end(), [&](Id id) { return net.at(id).values.find(f.key); })) {
      ++folded;
      continue;
    }
    if (f.kind == FieldKind::table) {
      if (one) addTable(f);
    } else {
      addGiven(part, f);
    }
  }
  if (folded > 0 || more_) {
    auto* more = new QToolButton;
    more->setObjectName("more");
    more->setText(more_ ? tr("less ▴") : tr("%1 more that could be given ▾").arg(folded));
    more->setAccessibleName(more_ ? tr("Show only what is given") : tr("Show all that could be given"));
    more->setStyleSheet(QString("color: %1; margin-left: 20px;").arg(look_.water.name()));
    connect(
        more, &QToolButton::clicked, this, [this] { more_ = !more_, refresh(); }, Qt::QueuedConnection);
    rows_->addWidget(more);
  }
  if (one && !part.outcomes.empty()) {
    addHeading(tr("Found"));
    // What is released is found: its marker swaps back.
    for (const Outcome& o : part.outcomes) {
      bool given = false;
      for (const Swap& s : part.swaps) {
        if (s.release == o.key && !first.values.released(s.release)) given = true;
        if (s.outcome == o.key && first.values.released(s.release)) given = true;
      }
      if (given) continue;
      addFound(o, std::find(part.workings.begin(), part.workings.end(), o.key) != part.workings.end());
    }
  }
  if (job) {
    addHeading(tr("Liquid, as found"));
    for (const char* key : {"density", "viscosity", "vapour pressure", "air pressure"}) {
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
  rows_->addStretch(1);
  // The old rows go when the event that made them old has ended: an edit may be speaking right now.
  if (QWidget* old = face_->takeWidget()) {
    old->hide();
    old->deleteLater();
  }
  face_->setWidget(body_);
  refresh();
  if (!focused.isEmpty()) {
    if (auto* again = body_->findChild<QWidget*>(focused)) again->setFocus();
    else setFocus();
  }
  face_->verticalScrollBar()->setValue(scrolled);
}

void Card::refresh() {
  if (signature() != signature_) return rebuild();
  const auto ids = shown();
  const Network& net = doc_.network();
  const SolvedPtr& solved = doc_.solved();
  const bool usable = solved && solved->solution.summary.usable();
  const Element& first = net.at(ids.front());
  for (auto& [key, editor] : editors_) {
    const Field* f = findField(*first.part, key);
    if (!f) continue;
    const auto shared = common(net, ids, *f);
    if (auto* edit = qobject_cast<QLineEdit*>(editor)) {
      if (edit->isModified()) continue;
      const Value* v = shared ? first.values.find(f->key) : nullptr;
      edit->setText(shared ? (v ? QString::fromStdString(sayField(*f, *v)) : QString()) : QString());
      edit->setProperty("blank", !shared || shared->empty());
      edit->setCursorPosition(0);
      QString empty = shared ? QString() : tr("they differ");
      if (shared && f->fallback) empty = QString::fromStdString(withUnit(*f->fallback, f->measure, doc_.units(), 3));
      if (shared && !f->fallback && f->needed) empty = tr("wanted");
      if (shared && empty.isEmpty() && ids.size() == 1 && first.part->geometry && solved) {  // what the size or the take-off gives
        const Geometry g = first.part->geometry(first.values, solved->solution.setting);
        if (f->measure == Measure::bore && g.bore_m) empty = QString::fromStdString(withUnit(*g.bore_m, f->measure, doc_.units()));
        if (f->measure == Measure::length && g.length_m) empty = QString::fromStdString(withUnit(*g.length_m, f->measure, doc_.units()));
      }
      edit->setPlaceholderText(empty);
    } else if (auto* box = qobject_cast<QCheckBox*>(editor)) {
      box->setChecked(flagOf(first.values, *f));
      box->setText(box->isChecked() ? tr("yes") : tr("no"));
    } else if (auto* combo = qobject_cast<QComboBox*>(editor)) {
      combo->setCurrentText(key == "units" ? QString::fromStdString(doc_.units().name()) : QString::fromStdString(choiceOf(first.values, *f)));
    }
  }
  if (takeOff_ && !takeOff_->isModified()) readTakeOff();
  if (nameEdit_ && !nameEdit_->isModified()) nameEdit_->setText(QString::fromStdString(first.name));
  static const Solution nothing;
  if (ids.size() == 1 && ids.front() != jobId) {
    const ReadingOf reading(net, usable ? solved->solution : nothing, ids.front());
    QString story;
    if (usable && first.part->story) story = QString::fromStdString(first.part->story(*reading, doc_.units()));
    if (solved && !usable)
      for (const Problem& p : solved->solution.summary.problems)
        if (p.place.name == first.name) story = sentence(p.what) + ".";
    if (story.isEmpty() && !usable) story = tr("Not balanced yet.");
    story_->setText(story);
    const QColor ink = doc_.current() ? look_.ink : look_.ink2;
    for (const Outcome& o : first.part->outcomes) {
      const auto at = founds_.find(std::string(o.key));
      if (at == founds_.end()) continue;
      const auto v = usable ? o.of(*reading) : std::nullopt;
      const Unit& unit = doc_.units().unitFor(o.measure);
      at->second->setText(v ? QString("<span style='color:%1;font-weight:600'>%2</span> <span style='color:%3'>%4</span>")
                                  .arg(ink.name(), QString::fromStdString(asNumber(*v, o.measure, doc_.units())), look_.ink2.name(), text(unit.symbol))
                            : QString("<span style='color:%1'>–</span>").arg(look_.ink2.name()));
    }
    if (figure_) figure_->setVisible(figure_->display(ids.front(), look_));
    if (auto* bars = qobject_cast<LimitBars*>(limits_))
      bars->display(usable ? checksOf(net, solved->solution, ids.front(), doc_.units()) : std::vector<Check>{}, doc_.units(), look_);
  } else if (ids.front() == jobId) {
    story_->setText(tr("What holds for the whole sheet. Select anything to see its card."));
    if (figure_) figure_->hide();
    if (solved) {
      const Setting& s = solved->solution.setting;
      auto put = [&](const char* key, double v, Measure m) {
        const Unit& unit = doc_.units().unitFor(m);
        founds_[std::string("job.") + key]->setText(QString("<span style='font-weight:600'>%1</span> <span style='color:%2'>%3</span>")
                                                        .arg(QString::fromStdString(asNumber(v, m, doc_.units())), look_.ink2.name(), text(unit.symbol)));
      };
      put("density", s.medium.density_kgm3, Measure::density);
      put("viscosity", s.viscosity_m2s, Measure::viscosity);
      put("vapour pressure", s.vapour_pa, Measure::absolutePressure);
      put("air pressure", s.medium.atmosphere_pa, Measure::absolutePressure);
    }
  } else {
    std::map<std::string, int> kinds;
    for (const Id id : ids) ++kinds[std::string(net.at(id).part->key)];
    QStringList words;
    for (const auto& [kind, n] : kinds) words << QString("%1 × %2").arg(n).arg(QString::fromStdString(kind));
    story_->setText(words.join(", ") + tr(". What is typed here goes to all of them."));
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
    edit->setSelection(static_cast<int>(edit->text().size()), -static_cast<int>(edit->text().size()));  // its beginning stays in sight
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
  if (id == noId || !solved || !solved->solution.summary.usable() || !doc_.network().at(id).part->working) return;
  const ReadingOf reading(doc_.network(), solved->solution, id);
  const auto working = doc_.network().at(id).part->working(*reading, workingOf_.toStdString());
  workingText_->setText(working ? workingHtml(*working, look_) : tr("This number has no working of its own at present."));
}

LimitBars::LimitBars(QWidget* parent) : QWidget(parent) { setAccessibleName(tr("Limits")); }

void LimitBars::display(std::vector<Check> checks, const UnitSet& units, const Look& look) {
  checks_ = std::move(checks);
  units_ = &units;
  look_ = look;
  QStringList words;
  for (const Check& c : checks_) words << QString::fromStdString(c.label) + (c.broken() ? tr(" broken") : tr(" kept"));
  setAccessibleDescription(words.join(", "));
  setFixedHeight(sizeHint().height());
  update();
}

QSize LimitBars::sizeHint() const { return {276, checks_.empty() ? 1 : 30 + 34 * static_cast<int>(checks_.size())}; }

void LimitBars::paintEvent(QPaintEvent*) {
  if (checks_.empty()) return;
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing, true);
  p.setFont(face(12));
  p.setPen(look_.ink2);
  p.drawText(QRectF(0, 8, width(), 16), Qt::AlignLeft | Qt::AlignVCenter, tr("Limits"));
  p.setPen(QPen(look_.hair, 1));
  p.drawLine(0, 25, width(), 25);
  double y = 30;
  for (const Check& c : checks_) {
    const bool broken = c.broken();
    const QColor tone = broken ? look_.warning : look_.water;
    p.setFont(face(12.5));
    p.setPen(look_.ink);
    p.drawText(QRectF(0, y, width() * 0.5, 16), Qt::AlignLeft | Qt::AlignVCenter, QString::fromStdString(c.label));
    QString words = QString::fromStdString(withUnit(c.value, c.measure, *units_, 3));
    if (c.least && c.most)
      words += QString(", %1–%2").arg(QString::fromStdString(asNumber(*c.least, c.measure, *units_, 2)), QString::fromStdString(asNumber(*c.most, c.measure, *units_, 2)));
    else if (c.most) words += tr(" of %1").arg(QString::fromStdString(asNumber(*c.most, c.measure, *units_, 3)));
    else if (c.least) words += tr(", %1 wanted").arg(QString::fromStdString(asNumber(*c.least, c.measure, *units_, 3)));
    if (broken) words = "▲ " + words;
    p.setFont(face(12.5, true));
    p.setPen(broken ? look_.warning : look_.ink);
    p.drawText(QRectF(width() * 0.25, y, width() * 0.75, 16), Qt::AlignRight | Qt::AlignVCenter, words);
    // The bar runs to somewhat past the greater of value and limit; a mark stands at each limit.
    const double top = std::max({c.value, c.most.value_or(0), c.least.value_or(0) * 2, 1e-12}) * 1.15;
    const QRectF bar(0, y + 19, width(), 5);
    p.setPen(Qt::NoPen);
    p.setBrush(look_.grid);
    p.drawRoundedRect(bar, 2.5, 2.5);
    p.setBrush(tone);
    p.drawRoundedRect(QRectF(bar.left(), bar.top(), bar.width() * std::clamp(c.value / top, 0.0, 1.0), 5), 2.5, 2.5);
    p.setPen(QPen(look_.ink, 2));
    for (const auto& limit : {c.least, c.most})
      if (limit) {
        const double x = std::clamp(*limit / top, 0.0, 1.0) * bar.width();
        p.drawLine(QPointF(x, bar.top() - 3), QPointF(x, bar.bottom() + 3));
      }
    y += 34;
  }
}

}  // namespace conduit::desktop
