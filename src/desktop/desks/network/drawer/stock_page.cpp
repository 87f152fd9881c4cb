#include "drawer/stock_page.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>

#include "exchange/enclose.h"
#include "fields/keys.h"
#include "look/elided_label.h"
#include "look/words.h"
#include "parts/registry.h"

namespace conduit::desktop {
StockModel::StockModel(Document& document, QObject* parent)
    : QAbstractTableModel(parent), doc_(document), look_(Look::light()) {
  connect(&doc_, &Document::changed, this, [this] {
    if (list_ && stockSize(*doc_.stock(), list_->file) != rows_) reset();
    else if (rows_ > 0) emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
  });
}

void StockModel::setList(const StockList* list) {
  list_ = list;
  reset();
}

void StockModel::reset() {
  beginResetModel();
  rows_ = list_ ? stockSize(*doc_.stock(), list_->file) : 0;
  numeric_.assign(list_ ? list_->columns.size() : 0, 1);
  for (std::size_t r = 0; r < rows_; ++r) {
    const auto row = stockRow(*doc_.stock(), list_->file, r);
    for (std::size_t c = 0; c < row.size(); ++c)
      if (row[c].find_first_not_of("0123456789.-e") != std::string::npos) numeric_[c] = 0;
  }
  endResetModel();
}

int StockModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(rows_);
}
int StockModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() || !list_ ? 0 : static_cast<int>(list_->columns.size()) + 1;
}
std::vector<std::string> StockModel::cells(int row) const {
  return stockRow(*doc_.stock(), list_->file, static_cast<std::size_t>(row));
}

QVariant StockModel::data(const QModelIndex& index, int role) const {
  if (role == Qt::FontRole) return face(12);
  if (role != Qt::DisplayRole && role != Qt::EditRole && role != Qt::ForegroundRole &&
      role != Qt::TextAlignmentRole && role != Qt::UserRole)
    return {};
  const auto row = static_cast<std::size_t>(index.row());
  if (row >= stockSize(*doc_.stock(), list_->file)) return {};
  if (index.column() == 0) {
    if (role == Qt::TextAlignmentRole) return static_cast<int>(Qt::AlignLeft | Qt::AlignVCenter);
    const Origin origin = stockOrigin(*doc_.stock(), list_->file, row);
    if (role == Qt::ForegroundRole) return origin == Origin::shipped ? look_.ink2 : look_.ink;
    return origin == Origin::shipped ? tr("built-in")
           : origin == Origin::own   ? tr("my file")
                                     : tr("this model");
  }
  const std::string cell = cells(index.row())[static_cast<std::size_t>(index.column() - 1)];
  const bool number = !cell.empty() && cell.find_first_not_of("0123456789.-e") == std::string::npos;
  if (role == Qt::TextAlignmentRole)
    return static_cast<int>(
        (numeric_[static_cast<std::size_t>(index.column() - 1)] ? Qt::AlignRight : Qt::AlignLeft) |
        Qt::AlignVCenter);
  if (role == Qt::ForegroundRole) return QVariant();
  if (role == Qt::UserRole && number) return QString::fromStdString(cell).toDouble();
  return QString::fromStdString(cell);
}

QVariant StockModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  if (section == 0) return tr("origin");
  return text(list_->columns[static_cast<std::size_t>(section - 1)]).replace('_', ' ');
}

Qt::ItemFlags StockModel::flags(const QModelIndex& index) const {
  return Qt::ItemIsEnabled | Qt::ItemIsSelectable |
         (index.column() > 0 ? Qt::ItemIsEditable : Qt::NoItemFlags);
}

bool StockModel::setData(const QModelIndex& index, const QVariant& value, int role) {
  if (role != Qt::EditRole || index.column() == 0) return false;
  auto row = cells(index.row());
  const auto c = static_cast<std::size_t>(index.column() - 1);
  if (row[c] == value.toString().toStdString()) return true;
  const std::string name = stockName(*doc_.stock(), list_->file, static_cast<std::size_t>(index.row()));
  row[c] = value.toString().trimmed().toStdString();
  return doc_.putStock(std::string(list_->file), row,
                       tr("Catalogue: %1 of %2 to %3")
                           .arg(text(list_->columns[c]), QString::fromStdString(name), value.toString())
                           .toStdString());
}

StockPage::StockPage(Document& document, QWidget* parent)
    : QWidget(parent),
      doc_(document),
      model_(new StockModel(document, this)),
      proxy_(new QSortFilterProxyModel(this)),
      lists_(new QComboBox),
      filter_(new QLineEdit),
      table_(new QTableView),
      hint_(new ElidedLabel) {
  setObjectName("stock");
  setAccessibleName(tr("Catalogue"));
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  auto* strip = new QHBoxLayout;
  strip->setContentsMargins(16, 4, 16, 4);
  strip->setSpacing(8);
  lists_->setObjectName("stock.list");
  lists_->setAccessibleName(tr("List of the catalogue"));
  for (const StockList& l : stockLists()) lists_->addItem(text(l.title), text(l.file));
  filter_->setObjectName("stock.filter");
  filter_->setAccessibleName(tr("Filter the catalogue"));
  filter_->setPlaceholderText(tr("type to filter"));
  filter_->setFixedWidth(180);
  filter_->setClearButtonEnabled(true);
  strip->addWidget(lists_);
  strip->addWidget(filter_);
  auto button = [&](const char* name, const QString& words, const QString& help, void (StockPage::*run)()) {
    auto* b = new QToolButton;
    b->setObjectName(name);
    b->setText(words);
    b->setToolTip(help);
    b->setAccessibleName(words);
    connect(b, &QToolButton::clicked, this, run);
    strip->addWidget(b);
  };
  button("stock.use", tr("Use"), tr("Apply the entry to the selection"), &StockPage::useEntry);
  button("stock.add", tr("Copy as new"), tr("New entry in this model, copied from the current one"),
         &StockPage::addEntry);
  button("stock.keep", tr("Save for all models"), tr("Save the entry in your own catalogue files"),
         &StockPage::keepEntry);
  button("stock.drop", tr("Delete"), tr("Delete an entry of this model or of your own files"),
         &StockPage::dropEntry);
  strip->addWidget(hint_, 1);
  hint_->setText(tr("Edits apply to this model only; built-in entries are unchanged."));
  layout->addLayout(strip);
  proxy_->setSourceModel(model_);
  proxy_->setFilterKeyColumn(-1);
  proxy_->setFilterCaseSensitivity(Qt::CaseInsensitive);
  proxy_->setSortRole(Qt::UserRole);
  table_->setObjectName("stock.table");
  table_->setAccessibleName(tr("Catalogue"));
  table_->setModel(proxy_);
  table_->setSortingEnabled(true);
  table_->sortByColumn(-1, Qt::AscendingOrder);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->verticalHeader()->hide();
  table_->verticalHeader()->setDefaultSectionSize(23);
  table_->setEditTriggers(QAbstractItemView::DoubleClicked | QAbstractItemView::EditKeyPressed |
                          QAbstractItemView::AnyKeyPressed);
  layout->addWidget(table_, 1);
  connect(lists_, &QComboBox::currentIndexChanged, this, &StockPage::fill);
  connect(filter_, &QLineEdit::textChanged, proxy_, &QSortFilterProxyModel::setFilterFixedString);
  connect(table_, &QTableView::activated, this, &StockPage::useEntry);
}

void StockPage::showEvent(QShowEvent*) {
  if (!model_->list()) fill();  // made when it is first looked at
}

void StockPage::fill() {
  model_->setList(&stockLists()[static_cast<std::size_t>(lists_->currentIndex())]);
  table_->resizeColumnsToContents();
  for (int c = 0; c < model_->columnCount(); ++c)
    table_->setColumnWidth(c, std::min(table_->columnWidth(c), 300));
}

void StockPage::setLook(const Look& look) {
  model_->setLook(look);
  table_->setFont(face(12));
  table_->horizontalHeader()->setFont(face(11));
  hint_->setStyleSheet(QString("color: %1").arg(look.ink2.name()));
}

int StockPage::currentRow() const {
  const QModelIndex at = table_->currentIndex();
  return at.isValid() ? proxy_->mapToSource(at).row() : -1;
}

void StockPage::showEntry(const QString& file, const QString& name) {
  filter_->clear();
  lists_->setCurrentIndex(std::max(0, lists_->findData(file)));
  if (!model_->list()) fill();
  for (int r = 0; r < model_->rowCount(); ++r)
    if (stockName(*doc_.stock(), model_->list()->file, static_cast<std::size_t>(r)) == name.toStdString()) {
      table_->setCurrentIndex(proxy_->mapFromSource(model_->index(r, 1)));
      table_->scrollTo(table_->currentIndex(), QAbstractItemView::PositionAtCenter);
      return;
    }
}

void StockPage::addEntry() {
  const int row = currentRow();
  if (row < 0) {
    emit doc_.said(tr("Select an entry to copy."));
    return;
  }
  const std::string file(model_->list()->file);
  auto cells = model_->cells(row);
  // Its name must be new: the last part of the name gets a mark.
  const std::size_t named = file == "pipes.csv"                                                           ? 2
                            : file == "roughness.csv" || file == "hazen_c.csv" || file == "equipment.csv" ? 1
                                                                                                          : 0;
  const auto same = [&] {
    Stock one;
    return putStockRow(one, file, cells, Origin::model) ? stockName(one, file, 0) : std::string();
  };
  const auto taken = [&](const std::string& name) {
    for (std::size_t i = 0; i < stockSize(*doc_.stock(), file); ++i)
      if (stockName(*doc_.stock(), file, i) == name) return true;
    return false;
  };
  const std::string stem = cells[named];
  const char* mark = file == "fittings.csv" ? "-own" : " own";
  for (int n = 1; taken(same()); ++n) cells[named] = stem + mark + (n > 1 ? std::to_string(n) : "");
  cells.back() = "own";
  const std::string name = same();
  if (file == "equipment.csv") {  // an item has a row for each of its fields: all of them are copied
    const StockItem* like = doc_.stock()->item(cells[0], stem);
    if (!like) return;
    StockItem copy = *like;
    copy.item = cells[1], copy.origin = Origin::model, copy.source = "own";
    doc_.editStock(tr("Catalogue: new %1").arg(QString::fromStdString(copy.item)).toStdString(),
                   [&](Stock& stock) { stock.items.push_back(copy); });
  } else {
    doc_.putStock(file, cells, tr("Catalogue: new %1").arg(QString::fromStdString(name)).toStdString());
  }
  showEntry(text(file), QString::fromStdString(name));
}

void StockPage::dropEntry() {
  const int row = currentRow();
  if (row < 0) return;
  const std::string file(model_->list()->file),
      name = stockName(*doc_.stock(), file, static_cast<std::size_t>(row));
  const Origin origin = stockOrigin(*doc_.stock(), file, static_cast<std::size_t>(row));
  if (origin == Origin::shipped) {
    emit doc_.refused(tr("%1 is built-in and cannot be deleted").arg(QString::fromStdString(name)));
    return;
  }
  const bool shippedToo = [&] {
    for (std::size_t i = 0; i < stockSize(shippedStock(), file); ++i)
      if (stockName(shippedStock(), file, i) == name) return true;
    return false;
  }();
  if (const auto users = usersOf(doc_.network(), *doc_.stock(), file, name); !users.empty() && !shippedToo) {
    emit doc_.refused(
        tr("%1 is used by %2 elements of this model").arg(QString::fromStdString(name)).arg(users.size()));
    doc_.select(users.front() == jobId ? std::vector<Id>{} : users);
    return;
  }
  if (origin == Origin::model) {
    doc_.editStock(tr("Catalogue: delete %1").arg(QString::fromStdString(name)).toStdString(),
                   [&](Stock& stock) { dropStockRow(stock, file, name); });
  } else {
    Stock own = doc_.ownStock();
    dropStockRow(own, file, name);
    if (doc_.keepOwn(std::move(own)))
      emit doc_.said(tr("%1 deleted from your own files").arg(QString::fromStdString(name)));
  }
}

void StockPage::keepEntry() {
  const int row = currentRow();
  if (row < 0) return;
  const std::string file(model_->list()->file),
      name = stockName(*doc_.stock(), file, static_cast<std::size_t>(row));
  Stock own = doc_.ownStock();
  for (int r = 0; r < model_->rowCount(); ++r)  // equipment has several rows of one name
    if (stockName(*doc_.stock(), file, static_cast<std::size_t>(r)) == name) {
      const auto cells = model_->cells(r);
      if (const auto put = putStockRow(own, file, cells, Origin::own); !put) {
        emit doc_.refused(QString::fromStdString(put.error().what));
        return;
      }
    }
  if (doc_.keepOwn(std::move(own)))
    emit doc_.said(tr("%1 saved in %2").arg(QString::fromStdString(name), Document::ownStockFolder()));
}

void StockPage::useEntry() {
  const int row = currentRow();
  if (row < 0) return;
  const std::string file(model_->list()->file);
  const QString name = QString::fromStdString(stockName(*doc_.stock(), file, static_cast<std::size_t>(row)));
  const auto cells = model_->cells(row);
  const auto ids = doc_.selection();
  if (file == "pipes.csv") {
    doc_.setField(ids, key::size, name);
  } else if (file == "equipment.csv") {
    doc_.setField(ids, stockItemKey, name);
  } else if (file == "roughness.csv") {
    doc_.setField(ids, key::roughness, QString::fromStdString(cells[3] + " mm"));
  } else if (file == "hazen_c.csv") {
    doc_.setField(ids, key::hazenC, QString::fromStdString(cells[3]));
  } else if (file == "liquids.csv") {
    const Remedy choose{
        "Set liquid to " + name.toStdString(),
        {{"job", key::liquid, "stock liquid"}, {"job", "liquid of the stock", name.toStdString()}},
        {"job", ""}};
    doc_.apply(choose);
  } else {
    emit doc_.said(tr("A fitting is used in a take-off: type %1 there").arg(name));
  }
}

}  // namespace conduit::desktop
