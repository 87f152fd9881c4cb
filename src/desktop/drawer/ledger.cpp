#include "drawer/ledger.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QVBoxLayout>

#include "network/entry.h"
#include "parts/registry.h"
#include "quantity/format.h"

namespace conduit::desktop {
namespace {

QString text(std::string_view s) { return QString::fromUtf8(s.data(), static_cast<int>(s.size())); }

}  // namespace

LedgerModel::LedgerModel(Document& document, QObject* parent) : QAbstractTableModel(parent), doc_(document) {
  connect(&doc_, &Document::changed, this, [this] {
    if (!following_) return;
    std::vector<Id> now;
    doc_.network().each([&](Id id, const Element& e) {
      if (e.part == part_) now.push_back(id);
    });
    if (now != ids_) rebuild();
    else if (!ids_.empty()) emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
  });
  auto numbers = [this] {
    if (following_ && !ids_.empty() && !columns_.empty()) emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
  };
  connect(&doc_, &Document::answered, this, numbers);
  connect(&doc_, &Document::unitsChanged, this, [this] { rebuild(); });
}

void LedgerModel::setPart(const Part* part) {
  part_ = part;
  rebuild();
}

void LedgerModel::follow(bool on) {
  following_ = on;
  rebuild();
}

void LedgerModel::rebuild() {
  beginResetModel();
  ids_.clear();
  columns_.clear();
  if (part_ && following_) {
    doc_.network().each([&](Id id, const Element& e) {
      if (e.part == part_) ids_.push_back(id);
    });
    columns_.push_back({});  // name
    if (part_->ends == Ends::two) columns_.push_back({nullptr, nullptr, 0}), columns_.push_back({nullptr, nullptr, 1});
    if (part_->ends == Ends::one) columns_.push_back({nullptr, nullptr, 0});
    for (const Field& f : part_->fields)
      if (f.kind != FieldKind::table) columns_.push_back({&f, nullptr, -1});
    for (const Outcome& o : part_->outcomes) columns_.push_back({nullptr, &o, -1});
  }
  endResetModel();
}

int LedgerModel::rowOf(Id id) const {
  const auto it = std::lower_bound(ids_.begin(), ids_.end(), id);
  return it != ids_.end() && *it == id ? static_cast<int>(it - ids_.begin()) : -1;
}

int LedgerModel::rowCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : static_cast<int>(ids_.size()); }
int LedgerModel::columnCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : static_cast<int>(columns_.size()); }

QVariant LedgerModel::data(const QModelIndex& index, int role) const {
  const Column& c = columns_[static_cast<std::size_t>(index.column())];
  const Element* e = doc_.network().find(idAt(index.row()));
  if (!e) return {};
  if (role == Qt::TextAlignmentRole)
    return QVariant(static_cast<int>(Qt::AlignVCenter | (c.outcome || (c.field && c.field->kind == FieldKind::quantity) ? Qt::AlignRight : Qt::AlignLeft)));
  if (role == Qt::ForegroundRole && c.outcome && !doc_.current()) return look_.ink2;
  if (role == Qt::FontRole) return face(12, c.outcome == nullptr && c.field == nullptr && c.end < 0);
  if (role != Qt::DisplayRole && role != Qt::EditRole && role != sortRole) return {};
  if (c.outcome) {
    const SolvedPtr& solved = doc_.solved();
    if (!solved || !solved->solution.summary.usable()) return role == sortRole ? QVariant(-1e300) : QVariant(QString("–"));
    const ReadingOf reading(doc_.network(), solved->solution, idAt(index.row()));
    const auto v = c.outcome->of(*reading);
    if (role == sortRole) return v ? *v : -1e300;
    return v ? QString::fromStdString(asNumber(*v, c.outcome->measure, doc_.units())) : QString("–");
  }
  if (c.field) {
    const Value* v = e->values.find(c.field->key);
    if (role == sortRole && v)
      if (const auto* g = std::get_if<Given>(v)) return g->value;
    if (!v) return role == sortRole ? QVariant(-1e300) : QVariant(QString());
    return QString::fromStdString(role == Qt::EditRole ? writeField(*c.field, *v) : sayField(*c.field, *v));
  }
  if (c.end >= 0) return QString::fromStdString(doc_.network().at(e->ends[static_cast<std::size_t>(c.end)]).name);
  if (role == sortRole) {  // numbers within names by their size
    QString key, number;
    for (const QChar ch : QString::fromStdString(e->name) + ' ') {
      if (ch.isDigit()) {
        number += ch;
        continue;
      }
      if (!number.isEmpty()) key += number.rightJustified(10, '0');
      number.clear();
      key += ch;
    }
    return key;
  }
  return QString::fromStdString(e->name);
}

QVariant LedgerModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal) return role == Qt::DisplayRole ? QVariant(section + 1) : QVariant();
  const Column& c = columns_[static_cast<std::size_t>(section)];
  if (role == Qt::ToolTipRole && c.field) return text(c.field->help);
  if (role != Qt::DisplayRole) return {};
  if (c.field) return "● " + text(c.field->key);
  if (c.outcome) {
    const auto symbol = doc_.units().unitFor(c.outcome->measure).symbol;
    return symbol.empty() ? "○ " + text(c.outcome->key) : QString("○ %1, %2").arg(text(c.outcome->key), text(symbol));
  }
  if (c.end == 0) return part_->ends == Ends::one ? tr("at") : tr("from");
  return c.end == 1 ? tr("to") : tr("name");
}

Qt::ItemFlags LedgerModel::flags(const QModelIndex& index) const {
  const Column& c = columns_[static_cast<std::size_t>(index.column())];
  const bool typed = c.field || (!c.outcome && c.end < 0);
  return Qt::ItemIsEnabled | Qt::ItemIsSelectable | (typed ? Qt::ItemIsEditable : Qt::NoItemFlags);
}

bool LedgerModel::setData(const QModelIndex& index, const QVariant& value, int role) {
  if (role != Qt::EditRole) return false;
  const Column& c = columns_[static_cast<std::size_t>(index.column())];
  const Id id = idAt(index.row());
  if (value.toString() == data(index, Qt::EditRole).toString()) return true;
  if (c.field) {
    const Id ids[] = {id};
    return doc_.setField(ids, c.field->key, value.toString());
  }
  return doc_.take(rename(doc_.network(), id, value.toString().toStdString()));
}

Ledger::Ledger(Document& document, QWidget* parent)
    : QWidget(parent),
      doc_(document),
      model_(new LedgerModel(document, this)),
      proxy_(new QSortFilterProxyModel(this)),
      kind_(new QComboBox),
      filter_(new QLineEdit),
      count_(new QLabel),
      table_(new QTableView) {
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
  filter_->setFixedWidth(180);
  filter_->setClearButtonEnabled(true);
  strip->addWidget(kind_);
  strip->addWidget(filter_);
  strip->addWidget(count_);
  strip->addStretch(1);
  layout->addLayout(strip);
  table_->setObjectName("ledger.table");
  table_->setAccessibleName(tr("Ledger"));
  proxy_->setSourceModel(model_);
  proxy_->setFilterKeyColumn(-1);
  proxy_->setFilterCaseSensitivity(Qt::CaseInsensitive);
  proxy_->setSortRole(LedgerModel::sortRole);
  table_->setModel(proxy_);
  table_->setSortingEnabled(true);
  table_->sortByColumn(0, Qt::AscendingOrder);
  table_->verticalHeader()->hide();
  table_->verticalHeader()->setDefaultSectionSize(23);
  table_->horizontalHeader()->setDefaultSectionSize(104);
  table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
  table_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed | QAbstractItemView::AnyKeyPressed);
  table_->installEventFilter(this);
  layout->addWidget(table_, 1);
  connect(filter_, &QLineEdit::textChanged, this, [this](const QString& t) {
    proxy_->setFilterFixedString(t);
    count_->setText(tr("%1 of %2").arg(proxy_->rowCount()).arg(model_->rowCount()));
  });
  connect(kind_, &QComboBox::currentIndexChanged, this, [this](int i) {
    model_->setPart(findPart(kind_->itemData(i).toString().toStdString()));
    table_->resizeColumnsToContents();
    count_->setText(tr("%1 of %2").arg(proxy_->rowCount()).arg(model_->rowCount()));
  });
  connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, [this] {
    if (following_) return;
    std::vector<Id> ids;
    for (const QModelIndex& i : table_->selectionModel()->selectedIndexes()) {
      const Id id = model_->idAt(proxy_->mapToSource(i).row());
      if (std::find(ids.begin(), ids.end(), id) == ids.end()) ids.push_back(id);
    }
    if (!ids.empty()) doc_.select(std::move(ids));
  });
  connect(&doc_, &Document::selectionChanged, this, &Ledger::followSelection);
  auto count = [this] { count_->setText(tr("%1 of %2").arg(proxy_->rowCount()).arg(model_->rowCount())); };
  connect(model_, &QAbstractItemModel::modelReset, this, count);
  connect(model_, &QAbstractItemModel::modelReset, this, [this] {
    if (model_->rowCount() < 3000) table_->resizeColumnsToContents();
  });
  fillKinds();
  count();
}

void Ledger::fillKinds() {
  for (const Part* part : allParts())
    if (part->ends != Ends::none) kind_->addItem(text(part->plural), text(part->key));
  const int lines = kind_->findData("pipe");
  kind_->setCurrentIndex(lines);
}

void Ledger::showPart(const Part* part) { kind_->setCurrentIndex(kind_->findData(text(part->key))); }

void Ledger::followSelection() {
  if (table_->hasFocus() || doc_.selected() == noId || !isVisible()) return;
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
  table_->setFont(face(12));
  table_->horizontalHeader()->setFont(face(11));
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
  for (const int c : columns) line << proxy_->headerData(c, Qt::Horizontal, Qt::DisplayRole).toString().remove("● ").remove("○ ");
  out += line.join('\t') + '\n';
  for (const int r : rows) {
    line.clear();
    for (const int c : columns) {
      QString cell = proxy_->data(proxy_->index(r, c), Qt::DisplayRole).toString();
      line << cell.replace("\u202f", "").replace("−", "-").replace('\t', ' ').replace('\n', ' ');
    }
    out += line.join('\t') + '\n';
  }
  QApplication::clipboard()->setText(out);
  emit doc_.said(tr("%1 rows copied with headings").arg(rows.size()));
}

bool Ledger::eventFilter(QObject* watched, QEvent* event) {
  if (watched == table_ && event->type() == QEvent::KeyPress) {
    auto* key = static_cast<QKeyEvent*>(event);
    if (key->matches(QKeySequence::Copy)) {
      copyOut();
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
