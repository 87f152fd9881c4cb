#include "drawer/ledger.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QScrollBar>
#include <QSettings>
#include <QVBoxLayout>
#include <QWidgetAction>

#include "look/tabbed.h"
#include "look/words.h"
#include "network/columns.h"
#include "parts/registry.h"

namespace conduit::desktop {
namespace {
constexpr std::size_t mainFounds = 4;  // of the outcomes of a kind, which come in the order of their weight
}

Ledger::Ledger(Document& document, QWidget* parent)
    : QWidget(parent),
      doc_(document),
      model_(new LedgerModel(document, this)),
      proxy_(new QSortFilterProxyModel(this)),
      kind_(new QComboBox),
      filter_(new QLineEdit),
      many_(new QLineEdit),
      columnsButton_(new QToolButton),
      columnsMenu_(new QMenu(this)),
      count_(new QLabel),
      table_(new QTableView),
      frozen_(new QTableView) {
  setObjectName("ledger");
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  auto* strip = new QHBoxLayout;
  strip->setContentsMargins(16, 4, 16, 4);
  strip->setSpacing(10);
  kind_->setObjectName("ledger.kind");
  kind_->setAccessibleName(tr("Kind shown in the ledger"));
  filter_->setObjectName("ledger.filter");
  filter_->setAccessibleName(tr("Filter the ledger"));
  filter_->setPlaceholderText(tr("type to filter"));
  filter_->setFixedWidth(160);
  filter_->setClearButtonEnabled(true);
  many_->setObjectName("ledger.many");
  many_->setAccessibleName(tr("Value for all selected cells"));
  many_->setPlaceholderText(tr("set selected: 150 mm, * 1.1"));
  many_->setToolTip(tr("Value or arithmetic for all selected cells of this column; Enter applies it"));
  many_->setFixedWidth(230);
  columnsButton_->setObjectName("ledger.columns");
  columnsButton_->setText(tr("Columns"));
  columnsButton_->setAccessibleName(tr("Columns shown"));
  columnsButton_->setPopupMode(QToolButton::InstantPopup);
  columnsButton_->setMenu(columnsMenu_);
  connect(columnsMenu_, &QMenu::aboutToShow, this, &Ledger::fillColumnsMenu);
  strip->addWidget(kind_);
  strip->addWidget(filter_);
  strip->addWidget(count_);
  strip->addStretch(1);
  strip->addWidget(many_);
  strip->addWidget(columnsButton_);
  layout->addLayout(strip);
  table_->setObjectName("ledger.table");
  table_->setAccessibleName(tr("Ledger"));
  frozen_->setObjectName("ledger.frozen");
  frozen_->setAccessibleName(tr("Frozen columns"));
  proxy_->setSourceModel(model_);
  proxy_->setFilterKeyColumn(-1);
  proxy_->setFilterCaseSensitivity(Qt::CaseInsensitive);
  proxy_->setSortRole(LedgerModel::sortRole);
  proxy_->setDynamicSortFilter(
      false);  // rows do not move while they are edited; a click on a heading sorts again
  for (QTableView* view : {table_, frozen_}) {
    view->setModel(proxy_);
    view->setFrameShape(QFrame::NoFrame);
    view->horizontalHeader()->setSortIndicator(0, Qt::AscendingOrder);
    view->setSortingEnabled(true);
    view->verticalHeader()->hide();
    view->verticalHeader()->setDefaultSectionSize(23);
    view->verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    view->horizontalHeader()->setDefaultSectionSize(104);
    view->horizontalHeader()->setSectionsMovable(true);
    view->setSelectionMode(QAbstractItemView::ExtendedSelection);
    view->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed |
                          QAbstractItemView::AnyKeyPressed);
    view->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    view->installEventFilter(this);
  }
  // One order for both: whichever heading was clicked last.
  connect(frozen_->horizontalHeader(), &QHeaderView::sortIndicatorChanged, table_->horizontalHeader(),
          &QHeaderView::setSortIndicator);
  proxy_->sort(0);
  frozen_->setSelectionModel(table_->selectionModel());
  frozen_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  frozen_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  connect(table_->verticalScrollBar(), &QScrollBar::valueChanged, frozen_->verticalScrollBar(),
          &QScrollBar::setValue);
  connect(frozen_->verticalScrollBar(), &QScrollBar::valueChanged, table_->verticalScrollBar(),
          &QScrollBar::setValue);
  connect(frozen_->horizontalHeader(), &QHeaderView::sectionResized, this, [this] { arrangeFrozen(); });
  connect(table_->horizontalScrollBar(), &QScrollBar::rangeChanged, this, [this] { arrangeFrozen(); });
  auto* views = new QHBoxLayout;
  views->setSpacing(0);
  frozenFoot_ = new QVBoxLayout;
  frozenFoot_->setContentsMargins(0, 0, 0, 0);
  frozenFoot_->addWidget(frozen_);
  views->addLayout(frozenFoot_);
  views->addWidget(table_, 1);
  layout->addLayout(views, 1);
  connect(filter_, &QLineEdit::textChanged, this, [this](const QString& t) {
    proxy_->setFilterFixedString(t);
    resort();
    sayCount();
  });
  connect(many_, &QLineEdit::returnPressed, this, [this] {
    changeSelected(many_->text());
    many_->selectAll();
  });
  connect(kind_, &QComboBox::currentIndexChanged, this, [this](int i) {
    model_->setPart(findPart(kind_->itemData(i).toString().toStdString()));
    frozenCount_ = 1;
    for (int c = 0; c < model_->columnCount(); ++c) table_->setColumnHidden(c, false);
    chosen_ = false;
    firstLook();
    sayCount();
  });
  connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
    if (following_) return;
    std::vector<Id> ids;
    std::set<Id> seen;
    for (const QModelIndex& i : table_->selectionModel()->selectedIndexes()) {
      const Id id = model_->idAt(proxy_->mapToSource(i).row());
      if (seen.insert(id).second) ids.push_back(id);
    }
    if (!ids.empty()) doc_.select(std::move(ids));
  });
  connect(&doc_, &Document::selectionChanged, this, &Ledger::followSelection);
  connect(model_, &QAbstractItemModel::modelReset, this, [this] {
    resort();
    sayCount();
    if (model_->rowCount() < 3000) table_->resizeColumnsToContents(), frozen_->resizeColumnsToContents();
    firstLook();
  });
  fillKinds();
  sayCount();
}

void Ledger::showEvent(QShowEvent*) {
  model_->follow(true);
  arrangeFrozen();
  if (!doc_.selection().empty()) followSelection();
}

void Ledger::resort() {
  const int column = table_->horizontalHeader()->sortIndicatorSection();
  proxy_->sort(column >= 0 && column < model_->columnCount() ? column : 0,
               table_->horizontalHeader()->sortIndicatorOrder());
}

// Until somebody chooses columns: name, ends, the givens that anyone uses in this model, the main founds.
// What is folded away is in the menu of columns.
void Ledger::firstLook() {
  if (chosen_) return arrangeFrozen();
  const Part* part = model_->part();
  std::size_t founds = 0;
  for (int c = 0; c < model_->columnCount(); ++c) {
    bool shown = true;
    if (const Field* f = model_->fieldAt(c)) {
      shown = f->needed && !f->applies;
      for (int r = 0; r < std::min(model_->rowCount(), 2000) && !shown; ++r) shown = model_->holds(r, c);
    } else if (const Outcome* o = model_->outcomeAt(c)) {
      const bool main =
          part && std::find(part->labels.begin(), part->labels.end(), o->key) != part->labels.end();
      shown = main || founds < mainFounds;
      ++founds;
    }
    table_->setProperty(("out." + std::to_string(c)).c_str(), !shown);
  }
  arrangeFrozen();
}

void Ledger::sayCount() { count_->setText(tr("%1 of %2").arg(proxy_->rowCount()).arg(model_->rowCount())); }

// The first columns in view order stay in sight: they are shown at the left and not in the table that
// scrolls.
void Ledger::arrangeFrozen() {
  const QHeaderView* order = table_->horizontalHeader();
  int width = 0, taken = 0;
  for (int v = 0; v < order->count(); ++v) {
    const int c = order->logicalIndex(v);
    const bool out = table_->property(("out." + std::to_string(c)).c_str()).toBool();
    const bool frozen = !out && taken < frozenCount_;
    if (frozen) ++taken;
    frozen_->setColumnHidden(c, !frozen);
    table_->setColumnHidden(c, out || frozen);
    if (frozen) width += frozen_->columnWidth(c);
  }
  frozen_->setFixedWidth(std::clamp(width + 1, 1, std::max(60, this->width() / 2)));
  // As high as the table beside it, whose scroll bar takes room at its foot.
  frozenFoot_->setContentsMargins(
      0, 0, 0,
      table_->horizontalScrollBar()->maximum() > 0 ? table_->horizontalScrollBar()->sizeHint().height() : 0);
  int in = 0;
  for (int c = 0; c < order->count(); ++c)
    in += !table_->property(("out." + std::to_string(c)).c_str()).toBool();
  columnsButton_->setText(in == order->count() ? tr("Columns")
                                               : tr("Columns: %1 of %2").arg(in).arg(order->count()));
  frozen_->horizontalHeader()->setFixedHeight(table_->horizontalHeader()->sizeHint().height());
  table_->horizontalHeader()->setFixedHeight(table_->horizontalHeader()->sizeHint().height());
}

Ledger::ColumnSet Ledger::columns() const {
  ColumnSet set;
  set.frozen = frozenCount_;
  const QHeaderView* order = table_->horizontalHeader();
  for (int v = 0; v < order->count(); ++v) {
    const int c = order->logicalIndex(v);
    if (!table_->property(("out." + std::to_string(c)).c_str()).toBool()) set.keys << model_->keyOf(c);
  }
  return set;
}

void Ledger::setColumns(const ColumnSet& set) {
  chosen_ = true;
  QHeaderView* order = table_->horizontalHeader();
  frozenCount_ = std::max(1, set.frozen);
  int place = 0;
  for (const QString& key : set.keys)
    for (int c = 0; c < model_->columnCount(); ++c)
      if (model_->keyOf(c) == key)
        order->moveSection(order->visualIndex(c), place),
            frozen_->horizontalHeader()->moveSection(frozen_->horizontalHeader()->visualIndex(c), place),
            ++place;
  for (int c = 0; c < model_->columnCount(); ++c)
    table_->setProperty(("out." + std::to_string(c)).c_str(), !set.keys.contains(model_->keyOf(c)));
  arrangeFrozen();
}

void Ledger::saveColumns(const QString& name) {
  if (name.trimmed().isEmpty() || !model_->part()) return;
  const ColumnSet set = columns();
  QSettings settings;
  settings.setValue(QString("columns/%1/%2").arg(text(model_->part()->key), name.trimmed()),
                    QStringList(set.keys) << QString::number(set.frozen));
}

QStringList Ledger::savedColumns() const {
  QSettings settings;
  settings.beginGroup("columns/" + (model_->part() ? text(model_->part()->key) : QString()));
  return settings.childKeys();
}

void Ledger::fillColumnsMenu() {
  columnsMenu_->clear();
  auto all = [this](auto keep) {
    ColumnSet set;
    for (int c = 0; c < model_->columnCount(); ++c)
      if (keep(c)) set.keys << model_->keyOf(c);
    return set;
  };
  columnsMenu_->addAction(tr("All"), this, [=, this] { setColumns(all([](int) { return true; })); });
  columnsMenu_->addAction(tr("Given"), this,
                          [=, this] { setColumns(all([this](int c) { return !model_->outcomeAt(c); })); });
  columnsMenu_->addAction(tr("Found"), this,
                          [=, this] { setColumns(all([this](int c) { return !model_->fieldAt(c); })); });
  columnsMenu_->addAction(tr("Not empty"), this, [=, this] {
    setColumns(all([this](int c) {
      if (c == 0) return true;
      for (int r = 0; r < std::min(model_->rowCount(), 2000); ++r)
        if (const QString t = model_->data(model_->index(r, c), Qt::EditRole).toString();
            !t.isEmpty() && t != "–")
          return true;
      return false;
    }));
  });
  const QStringList saved = savedColumns();
  if (!saved.isEmpty()) columnsMenu_->addSeparator();
  for (const QString& name : saved)
    columnsMenu_->addAction(name, this, [this, name] {
      QStringList keys =
          QSettings().value(QString("columns/%1/%2").arg(text(model_->part()->key), name)).toStringList();
      const int frozen = keys.isEmpty() ? 1 : keys.takeLast().toInt();
      setColumns({keys, frozen});
    });
  columnsMenu_->addSeparator();
  auto* save = new QWidgetAction(columnsMenu_);
  auto* edit = new QLineEdit;
  edit->setObjectName("ledger.columns.save");
  edit->setPlaceholderText(tr("save columns as …"));
  edit->setAccessibleName(tr("Name for this set of columns"));
  connect(edit, &QLineEdit::returnPressed, this, [this, edit] {
    saveColumns(edit->text());
    columnsMenu_->close();
  });
  save->setDefaultWidget(edit);
  columnsMenu_->addAction(save);
  auto* freeze = columnsMenu_->addMenu(tr("Freeze"));
  for (int n = 1; n <= 4; ++n) {
    QAction* a = freeze->addAction(n == 1 ? tr("the first column") : tr("the first %1 columns").arg(n), this,
                                   [this, n] {
                                     frozenCount_ = n;
                                     arrangeFrozen();
                                   });
    a->setCheckable(true);
    a->setChecked(n == frozenCount_);
  }
  columnsMenu_->addSeparator();
  const QHeaderView* order = table_->horizontalHeader();
  for (int v = 0; v < order->count(); ++v) {
    const int c = order->logicalIndex(v);
    QAction* a = columnsMenu_->addAction(model_->headerData(c, Qt::Horizontal, Qt::DisplayRole).toString());
    a->setCheckable(true);
    a->setChecked(!table_->property(("out." + std::to_string(c)).c_str()).toBool());
    a->setEnabled(c != 0);
    connect(a, &QAction::toggled, this, [this, c](bool on) {
      chosen_ = true;
      table_->setProperty(("out." + std::to_string(c)).c_str(), !on);
      arrangeFrozen();
    });
  }
}

// The elements whose cell of a column is selected, from top to bottom.
std::vector<Id> Ledger::selectedIn(int column) const {
  std::set<int> rows;
  for (const QModelIndex& i : table_->selectionModel()->selectedIndexes())
    if (i.column() == column) rows.insert(i.row());
  std::vector<Id> ids;
  for (const int r : rows) ids.push_back(model_->idAt(proxy_->mapToSource(proxy_->index(r, column)).row()));
  return ids;
}

void Ledger::changeSelected(const QString& typed) {
  const QModelIndex at = table_->currentIndex();
  const Field* field = at.isValid() ? model_->fieldAt(at.column()) : nullptr;
  if (!field) {
    emit doc_.refused(tr("Select cells in a given column; found numbers cannot be edited"));
    return;
  }
  const auto ids = selectedIn(at.column());
  if (isArithmetic(typed.toStdString()))
    doc_.take(changeByArithmetic(doc_.network(), ids, field->key, typed.toStdString(), &doc_.units()));
  else doc_.setField(ids, field->key, typed);
}

void Ledger::fillSelectedDown() {
  const QModelIndex at = table_->currentIndex();
  const Field* field = at.isValid() ? model_->fieldAt(at.column()) : nullptr;
  if (field) doc_.take(fillDown(doc_.network(), selectedIn(at.column()), field->key));
  else emit doc_.refused(tr("Fill down works in given columns only"));
}

void Ledger::pasteBlock() {
  const QString clip = QApplication::clipboard()->text();
  if (clip.trimmed().isEmpty()) {
    emit doc_.said(tr("The clipboard has no text."));
    return;
  }
  const QByteArray bytes = clip.toUtf8();
  const std::string_view view(bytes.constData(), static_cast<std::size_t>(bytes.size()));
  const Dialect dialect = guessDialect(view);
  const QHeaderView* order = table_->horizontalHeader();
  const QModelIndex at = table_->currentIndex();
  if (dialect.headings || !at.isValid()) {
    emit wantsImport(bytes, tr("Clipboard"), dialect.headings ? nullptr : model_->part(), {});
    return;
  }
  // Without headings: the columns from the cell in hand to the right; without names, the rows from it
  // downward.
  std::vector<ColumnUse> uses;
  for (int v = order->visualIndex(at.column()); v < order->count(); ++v) {
    const int c = order->logicalIndex(v);
    if (!table_->property(("out." + std::to_string(c)).c_str()).toBool()) uses.push_back(model_->useOf(c));
  }
  if (!uses.empty() && uses.front().is == ColumnIs::name) {
    emit wantsImport(bytes, tr("Clipboard"), model_->part(), uses);
    return;
  }
  const Grid grid = readGrid(view, dialect);
  std::vector<std::string> lines;
  std::string block;
  for (std::size_t r = 0; r < grid.rows.size(); ++r) {
    const int row = at.row() + static_cast<int>(r);
    const std::string name =
        row < proxy_->rowCount()
            ? doc_.network().at(model_->idAt(proxy_->mapToSource(proxy_->index(row, 0)).row())).name
            : std::string();
    block += name;
    for (const std::string& cell : grid.rows[r]) block += '\t' + cell;
    block += '\n';
  }
  uses.insert(uses.begin(), ColumnUse{ColumnIs::name, {}, nullptr});
  emit wantsImport(QByteArray::fromStdString(block),
                   tr("Clipboard, from %1 down").arg(proxy_->data(proxy_->index(at.row(), 0)).toString()),
                   model_->part(), uses);
}

void Ledger::fillKinds() {
  for (const Part* part : allParts())
    if (part->ends != Ends::none) kind_->addItem(text(part->plural), text(part->key));
  const int lines = kind_->findData("pipe");
  kind_->setCurrentIndex(lines);
}

void Ledger::showPart(const Part* part) { kind_->setCurrentIndex(kind_->findData(text(part->key))); }

void Ledger::followSelection() {
  if (table_->hasFocus() || frozen_->hasFocus() || !isVisible()) return;
  if (doc_.selected() == noId) {  // several: those of the kind that is shown
    following_ = true;
    table_->clearSelection();
    QItemSelection rows;
    std::size_t shown = 0;
    for (const Id id : doc_.selection())
      if (const int row = model_->rowOf(id); row >= 0 && ++shown <= 2000) {
        const QModelIndex at = proxy_->mapFromSource(model_->index(row, 0));
        rows.select(at, proxy_->index(at.row(), model_->columnCount() - 1));
      }
    table_->selectionModel()->select(rows, QItemSelectionModel::Select);
    following_ = false;
    return;
  }
  following_ = true;
  const Element* e = doc_.network().find(doc_.selected());
  if (e) {
    if (e->part != model_->part()) showPart(e->part);
    const int row = model_->rowOf(doc_.selected());
    if (row >= 0) {
      const QModelIndex at = proxy_->mapFromSource(model_->index(row, 0));
      table_->setCurrentIndex(at);
      table_->scrollTo(at);
    }
  }
  following_ = false;
}

void Ledger::setLook(const Look& look) {
  model_->setLook(look);
  for (QTableView* view : {table_, frozen_})
    view->setFont(face(12)), view->horizontalHeader()->setFont(face(11));
  frozen_->setStyleSheet(QString("QTableView { border-right: 2px solid %1; }").arg(look.hair.name()));
  count_->setStyleSheet(QString("color: %1").arg(look.ink2.name()));
}

void Ledger::copyOut() {
  // What is selected, else everything shown; with headings, cells parted by tabs, as a spreadsheet takes it.
  QModelIndexList cells = table_->selectionModel()->selectedIndexes();
  std::set<int> rows, columns;
  for (const QModelIndex& i : cells) rows.insert(i.row()), columns.insert(i.column());
  if (cells.size() <= 1) {
    rows.clear(), columns.clear();
    for (int r = 0; r < proxy_->rowCount(); ++r) rows.insert(r);
    for (int c = 0; c < proxy_->columnCount(); ++c) columns.insert(c);
  }
  QString out;
  QStringList line;
  for (const int c : columns)
    line << proxy_->headerData(c, Qt::Horizontal, Qt::DisplayRole).toString().remove("● ").remove("○ ");
  out += line.join('\t') + '\n';
  for (const int r : rows) {
    line.clear();
    for (const int c : columns) {
      QString cell = proxy_->data(proxy_->index(r, c), Qt::DisplayRole).toString();
      line << tabbed(std::move(cell));
    }
    out += line.join('\t') + '\n';
  }
  QApplication::clipboard()->setText(out);
  emit doc_.said(tr("%1 rows copied with headings").arg(rows.size()));
}

bool Ledger::eventFilter(QObject* watched, QEvent* event) {
  if ((watched == table_ || watched == frozen_) && event->type() == QEvent::ShortcutOverride) {
    auto* key = static_cast<QKeyEvent*>(event);  // before the window's own commands of these keys
    if (key->matches(QKeySequence::Copy) || key->matches(QKeySequence::Paste) ||
        (key->key() == Qt::Key_D && key->modifiers() == Qt::ControlModifier)) {
      event->accept();
      return true;
    }
  }
  if ((watched == table_ || watched == frozen_) && event->type() == QEvent::KeyPress) {
    auto* key = static_cast<QKeyEvent*>(event);
    if (key->matches(QKeySequence::Copy)) {
      copyOut();
      return true;
    }
    if (key->matches(QKeySequence::Paste)) {
      pasteBlock();
      return true;
    }
    if (key->key() == Qt::Key_D && key->modifiers() == Qt::ControlModifier) {
      fillSelectedDown();
      return true;
    }
    if (key->key() == Qt::Key_Delete && table_->currentIndex().isValid() &&
        model_->fieldAt(table_->currentIndex().column())) {
      changeSelected({});
      return true;
    }
    if (key->key() == Qt::Key_Return && !table_->indexWidget(table_->currentIndex())) {
      table_->edit(table_->currentIndex());
      return true;
    }
  }
  return QWidget::eventFilter(watched, event);
}

}  // namespace conduit::desktop
