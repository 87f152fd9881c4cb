#include "desks/cases/grid_model.h"

#include "cases/watch.h"
#include "look/words.h"
#include "model/watched.h"
#include "say/words.h"

namespace conduit::desktop {
namespace {

// The rows, without what is in their cells.
std::string shapeOf(const CaseGrid& grid) {
  std::string shape = std::to_string(grid.cases.size());
  for (const auto* part : {&grid.differ, &grid.watched}) {
    shape += "|";
    for (const GridRow& r : *part) {
      shape += ";" + std::string(r.key) + std::to_string(static_cast<int>(r.kind)) + r.whose + r.what;
      for (const Id id : r.elements) shape += "," + std::to_string(id);
    }
  }
  return shape;
}

}  // namespace

GridModel::GridModel(Document& document, QObject* parent) : QAbstractTableModel(parent), doc_(document) {
  connect(&doc_, &Document::replaced, this, [this] { extra_.clear(), opened_.clear(); });
}

void GridModel::refresh() {
  CaseGrid now = gridOf(doc_.model(), doc_.answers(), doc_.units(), extra_);
  // A row in which somebody works stays.
  const auto folded = [&](const GridRow& r) {
    return r.brought && !opened_.contains(r.elements.front()) &&
           std::none_of(extra_.begin(), extra_.end(),
                        [&](const ExtraRow& e) { return e.element == r.elements.front() && e.key == r.key; });
  };
  for (GridRow& r : now.differ)
    if (r.brings > 0)
      r.what += opened_.contains(r.elements.front()) ? " ▾" : " ▸ " + std::to_string(r.brings) + " more";
  std::erase_if(now.differ, folded);
  if (shapeOf(now) == shapeOf(grid_)) {
    grid_ = std::move(now);
    if (rowCount() > 0) emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
    emit headerDataChanged(Qt::Horizontal, 0, columnCount() - 1);
    return;
  }
  beginResetModel();
  grid_ = std::move(now);
  endResetModel();
}

void GridModel::setAsRows(bool asRows) {
  if (asRows_ == asRows) return;
  beginResetModel();
  asRows_ = asRows;
  endResetModel();
}

// Sections are lines of their own where cases stand side by side, and left out where they stand below one
// another.
int GridModel::lineCount() const {
  const auto rows = static_cast<int>(grid_.differ.size() + grid_.watched.size());
  return asRows_ ? rows : rows + 2;
}

GridModel::Spot GridModel::lineAt(int line) const {
  const auto differ = static_cast<int>(grid_.differ.size());
  Spot spot;
  if (!asRows_) {
    if (line == 0) return {.section = true, .words = tr("Differences")};
    if (line == differ + 1) return {.section = true, .words = tr("Watched results")};
    line -= line > differ ? 2 : 1;
  }
  if (line < 0 || line >= differ + static_cast<int>(grid_.watched.size())) return spot;
  spot.line = line < differ ? &grid_.differ[static_cast<std::size_t>(line)]
                            : &grid_.watched[static_cast<std::size_t>(line - differ)];
  return spot;
}

int GridModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : asRows_ ? casesShown() + 1 : lineCount();
}

int GridModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : asRows_ ? lineCount() + 1 : casesShown() + 2;
}

GridModel::Spot GridModel::at(const QModelIndex& index) const {
  if (!index.isValid()) return {};
  Spot spot = asRows_ ? (index.column() == 0 ? Spot{} : lineAt(index.column() - 1)) : lineAt(index.row());
  const int which = asRows_ ? index.row() : index.column() - 1;
  spot.column = which >= 0 && which < casesShown() ? which : -1;
  if (asRows_ && which >= casesShown()) spot.line = nullptr;
  if (!asRows_ && index.column() > casesShown()) spot.line = nullptr;
  return spot;
}

CaseId GridModel::caseAt(const QModelIndex& index) const {
  const int which = asRows_ ? index.row() : index.column() - 1;
  return index.isValid() && which >= 0 && which < casesShown()
             ? grid_.cases[static_cast<std::size_t>(which)].id
             : noCase;
}

QVariant GridModel::data(const QModelIndex& index, int role) const {
  const Spot spot = at(index);
  if (role != Qt::DisplayRole && role != Qt::EditRole && role != Qt::AccessibleTextRole &&
      role != Qt::ToolTipRole)
    return {};
  if (spot.section) return index.column() == 0 && role == Qt::DisplayRole ? spot.words : QVariant();
  const GridCell* cell = spot.cell();
  if (asRows_ && index.column() == 0 && spot.column >= 0)
    return QString::fromStdString(grid_.cases[static_cast<std::size_t>(spot.column)].name);
  if (!cell) {
    if (spot.line) return QString::fromStdString(spot.line->whose + " " + spot.line->what);
    return {};
  }
  if (role == Qt::EditRole)
    return QString::fromStdString(cell->typed.empty() && !cell->found ? cell->text : cell->typed);
  const QString number = QString::fromStdString(cell->text), unit = QString::fromStdString(spot.line->unit);
  if (role == Qt::DisplayRole) return number;
  QStringList words{QString::fromStdString(spot.line->whose + " " + spot.line->what), number + " " + unit};
  if (spot.line->kind == GridRow::Kind::watched) {
    if (cell->where != noId && doc_.model().drawn.find(cell->where) && spot.line->elements.size() != 1)
      words << tr("at %1").arg(QString::fromStdString(doc_.model().drawn.at(cell->where).name));
    if (cell->broken) words << tr("limit not met");
    if (cell->worst) words << tr("worst of all cases");
  } else if (cell->found) {
    words << (spot.line->kind == GridRow::Kind::given ? tr("found in this case; type a value to set it")
                                                      : tr("solved for in this case"));
  } else {
    words << (cell->own ? tr("set in this case") : tr("inherited")) +
                 (cell->assumed ? tr(", assumed") : QString());
  }
  return words.join(role == Qt::ToolTipRole ? "\n" : ", ");
}

QVariant GridModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || (role != Qt::DisplayRole && role != Qt::ToolTipRole)) return {};
  if (role == Qt::ToolTipRole && !asRows_ && section > 0 && section <= casesShown()) {
    const GridHeading& h = grid_.cases[static_cast<std::size_t>(section - 1)];
    QStringList words;
    for (const std::string* s : {&h.name, &h.remark, &h.parent, &h.verdict})
      if (!s->empty()) words << QString::fromStdString(*s);
    return words.join("\n");
  }
  if (!asRows_) {
    if (section > 0 && section <= casesShown())
      return QString::fromStdString(grid_.cases[static_cast<std::size_t>(section - 1)].name);
    return section > casesShown() ? tr("+ case") : QString();
  }
  const Spot spot = section > 0 ? lineAt(section - 1) : Spot{};
  return spot.line ? QString::fromStdString(spot.line->whose + " " + spot.line->what) : QString();
}

Qt::ItemFlags GridModel::flags(const QModelIndex& index) const {
  const Spot spot = at(index);
  if (spot.section) return Qt::ItemIsEnabled;
  Qt::ItemFlags flags = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
  if (spot.cell() && spot.line->kind != GridRow::Kind::watched) flags |= Qt::ItemIsEditable;
  return flags;
}

bool GridModel::setData(const QModelIndex& index, const QVariant& value, int role) {
  if (role != Qt::EditRole || !(flags(index) & Qt::ItemIsEditable)) return false;
  if (value.toString() == data(index, Qt::EditRole).toString()) return false;
  return put({{index, value.toString()}});
}

bool GridModel::put(const std::vector<std::pair<QModelIndex, QString>>& texts) {
  std::vector<CellText> cells;
  for (const auto& [index, typed] : texts) {
    const Spot spot = at(index);
    if (!spot.cell() || spot.line->kind == GridRow::Kind::watched) continue;
    // A row that is being worked in stays, also when nothing differs in it any more.
    if (spot.line->kind == GridRow::Kind::field)
      for (const Id id : spot.line->elements)
        if (const ExtraRow row{id, spot.line->key};
            std::find(extra_.begin(), extra_.end(), row) == extra_.end())
          extra_.push_back(row);
    cells.push_back({caseAt(index), spot.line->kind, spot.line->elements, std::string(spot.line->key),
                     typed.trimmed().toStdString()});
  }
  if (cells.empty()) {
    emit doc_.refused(tr("Watched results cannot be edited; the rows above can."));
    return false;
  }
  return doc_.takeModel(setCells(doc_.model(), cells, doc_.stock(), &doc_.units()));
}

void GridModel::swap(const QModelIndex& index) {
  const Spot spot = at(index);
  if (!spot.cell() || spot.line->elements.empty()) return;
  doc_.takeModel(swapInCase(doc_.model(), caseAt(index), spot.line->elements.front(), spot.line->key,
                            spot.line->kind == GridRow::Kind::given,
                            spot.cell()->found ? spot.cell()->si : std::nullopt, doc_.stock(), doc_.units()));
}

bool GridModel::addRow(const QString& typed) {
  const std::string words = typed.trimmed().toStdString();
  const auto watched = readWatched(words, doc_.model().drawn, doc_.units(), doc_.selection());
  if (watched) return doc_.takeModel(watch(doc_.model(), *watched));
  const auto row = readRow(words, doc_.model().drawn);
  if (!row) {
    emit doc_.refused(QString::fromStdString(watched.error().what));
    return false;
  }
  extra_.push_back({row->element, row->key});
  if (!row->text.empty()) {
    const CellText cell{
        doc_.currentCase(), GridRow::Kind::field, {row->element}, std::string(row->key), row->text};
    if (!doc_.takeModel(setCells(doc_.model(), {&cell, 1}, doc_.stock(), &doc_.units()))) {
      extra_.pop_back();
      return false;
    }
  }
  refresh();
  return true;
}

bool GridModel::toggle(const QModelIndex& index) {
  const Spot spot = at(index);
  if (!spot.line || spot.line->brings == 0) return false;
  const Id of = spot.line->elements.front();
  if (!opened_.erase(of)) opened_.insert(of);
  refresh();
  return true;
}

void GridModel::removeRow(const QModelIndex& index) {
  const Spot spot = at(index);
  if (!spot.line) return;
  if (spot.line->kind == GridRow::Kind::watched) {
    doc_.takeModel(unwatch(doc_.model(), spot.line->watched));
    return;
  }
  const GridRow line = *spot.line;
  std::erase_if(extra_, [&](const ExtraRow& e) {
    return e.key == line.key &&
           std::find(line.elements.begin(), line.elements.end(), e.element) != line.elements.end();
  });
  EditedModel edited{{}, doc_.model()};
  for (const Case& c : doc_.model().cases.others)
    if (auto done = inherit(edited.model, c.id, line.elements, line.key, line.kind == GridRow::Kind::given))
      edited = std::move(*done);
  if (edited.name.empty()) return refresh();
  edited.name = line.whose + " " + spoken(line.key) + " as in the base case, all cases";
  doc_.takeModel(std::move(edited));
}

}  // namespace conduit::desktop
