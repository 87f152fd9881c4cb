#include "drawer/ledger_model.h"

#include "fields/entry.h"
#include "fields/keys.h"
#include "look/words.h"
#include "network/setting.h"
#include "quantity/format.h"

namespace conduit::desktop {
LedgerModel::LedgerModel(Document& document, QObject* parent) : QAbstractTableModel(parent), doc_(document) {
  connect(&doc_, &Document::changed, this, [this] {
    if (!following_) return;
    sortKeys_.clear();
    std::vector<Id> now;
    doc_.network().each([&](Id id, const Element& e) {
      if (e.part == part_) now.push_back(id);
    });
    if (now != ids_) rebuild();
    else if (!ids_.empty()) emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
  });
  auto numbers = [this] {
    if (following_ && !ids_.empty() && !columns_.empty())
      emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
  };
  connect(&doc_, &Document::answered, this, [this, numbers] {
    readLacks();
    numbers();
  });
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
  sortKeys_.clear();
  columns_.clear();
  if (part_ && following_) {
    doc_.network().each([&](Id id, const Element& e) {
      if (e.part == part_) ids_.push_back(id);
    });
    columns_.push_back({});  // name
    if (part_->ends == Ends::two)
      columns_.push_back({nullptr, nullptr, 0}), columns_.push_back({nullptr, nullptr, 1});
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

int LedgerModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(ids_.size());
}
int LedgerModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(columns_.size());
}

QVariant LedgerModel::data(const QModelIndex& index, int role) const {
  const Column& c = columns_[static_cast<std::size_t>(index.column())];
  const Element* e = doc_.network().find(idAt(index.row()));
  if (!e) return {};
  if (role == Qt::TextAlignmentRole)
    return QVariant(static_cast<int>(
        Qt::AlignVCenter |
        (c.outcome || (c.field && c.field->kind == FieldKind::quantity) ? Qt::AlignRight : Qt::AlignLeft)));
  Values scratch;
  const bool wanted = c.field && c.field->needed && !e->values.released(c.field->key) &&
                      (!c.field->applies || c.field->applies(e->values)) &&
                      !valuesOf(*e, doc_.stock(), scratch).find(c.field->key);
  if (role == Qt::ForegroundRole) {
    if (c.outcome && !doc_.current()) return look_.ink2;
    if (wanted || (c.field && (e->values.assumed(c.field->key) || !e->value(c.field->key))))
      return look_.ink2;
    if (!c.field && !c.outcome && c.end < 0 && lacks_.contains(e->name)) return look_.warning;
    return {};
  }
  if (role == Qt::ToolTipRole && !c.field && !c.outcome && c.end < 0)
    if (const auto it = lacks_.find(e->name); it != lacks_.end()) return it->second;
  if (role == Qt::FontRole) {
    QFont font = face(12, c.outcome == nullptr && c.field == nullptr && c.end < 0);
    font.setItalic(c.field && e->values.assumed(c.field->key));
    if (differs(idAt(index.row()), c.field)) font.setBold(true);
    return font;
  }
  if (role == Qt::ToolTipRole && differs(idAt(index.row()), c.field))
    return tr("Differs in %1. Clear it on the Cases desk to inherit.")
        .arg(QString::fromStdString(doc_.caseNow().name));
  if (role == Qt::ToolTipRole && c.field && e->values.assumed(c.field->key))
    return tr("Assumed value. Type a value to replace it.");
  if (role != Qt::DisplayRole && role != Qt::EditRole && role != sortRole) return {};
  if (c.outcome) {
    const SolvedPtr& solved = doc_.solved();
    const auto reading = solved ? solved->reading(idAt(index.row()), e->part) : nullptr;
    if (!reading) return role == sortRole ? QVariant(-1e300) : QVariant(QString("–"));
    const auto v = c.outcome->of(**reading);
    if (role == sortRole) return v ? *v : -1e300;
    const auto shown = shownOf(*c.outcome, **reading);
    return shown ? QString::fromStdString(asShown(*shown, c.outcome->measure, doc_.units(), 4, false))
                 : QString("–");
  }
  if (c.field) {
    const Value* v = e->value(c.field->key);
    if (role == sortRole && v)
      if (const auto* g = std::get_if<Given>(v))
        return resolve(*g, c.field->measure,
                       doc_.solved() ? doc_.solved()->solution.setting.medium : Medium{});
    if (!v && role == sortRole) return -1e300;
    if (!v && role != Qt::DisplayRole) return QString();
    if (!v && wanted) return tr("required");
    if (!v) {
      const QString own = inherited(*e, *c.field);
      return own.isEmpty() ? limitOfJob(*e, *c.field) : own;
    }
    return QString::fromStdString(role == Qt::EditRole && c.field->kind != FieldKind::choice
                                      ? writeField(*c.field, *v)
                                      : sayField(*c.field, *v));
  }
  if (c.end >= 0)
    return QString::fromStdString(doc_.network().at(e->ends[static_cast<std::size_t>(c.end)]).name);
  if (role == sortRole) return sortKey(index.row());
  const QString name = QString::fromStdString(e->name);
  return role == Qt::DisplayRole && lacks_.contains(e->name) ? "▲ " + name : name;
}

bool LedgerModel::differs(Id id, const Field* field) const {
  return field && doc_.currentCase() != drawingCase && doc_.caseNow().differs.at(id, field->key);
}

bool LedgerModel::holds(int row, int column) const {
  const Element* e = doc_.network().find(idAt(row));
  const Field* f = columns_[static_cast<std::size_t>(column)].field;
  return e && f && (e->values.entry(f->key) != nullptr || !inherited(*e, *f).isEmpty());
}

QString LedgerModel::inherited(const Element& e, const Field& field) const {
  if (e.values.released(field.key)) return {};
  Values scratch;
  if (const Value* v = valuesOf(e, doc_.stock(), scratch).find(field.key))
    return QString::fromStdString(sayField(field, *v));
  if (!e.part->geometry || field.kind != FieldKind::quantity) return {};
  Setting plain;
  plain.stock = doc_.stock();
  const SolvedPtr& solved = doc_.solved();
  const Geometry g = e.part->geometry(e.values, solved ? solved->solution.setting : plain);
  std::optional<double> v;
  if (field.measure == Measure::bore && field.key == key::bore) v = g.bore_m;
  if (field.key == key::length) v = g.length_m;
  return v ? QString::fromStdString(withUnit(*v, field.measure, doc_.units(), 4)) : QString();
}

// A limit that a pipe, a point or a pump does not say itself is that of its service, else of the job. It
// fills no column by itself.
QString LedgerModel::limitOfJob(const Element& e, const Field& field) const {
  const SolvedPtr& solved = doc_.solved();
  const bool reads = e.part->line || e.part->ends == Ends::self || e.part->lifts;
  if (!solved || !reads || field.kind != FieldKind::quantity) return {};
  const LimitRow* row = limitOfField(std::string_view(field.key));
  if (!row || static_cast<std::size_t>(row->id) >= sharedLimits) return {};
  const Limit limit = limitsFor(e.values, solved->solution.setting)[row->id];
  return limit ? QString::fromStdString(withUnit(*limit.si, field.measure, doc_.units(), 4)) : QString();
}

// Numbers within names by their size. Made once for all rows: sorting asks for each many times.
const QString& LedgerModel::sortKey(int row) const {
  if (sortKeys_.size() != ids_.size()) {
    sortKeys_.clear();
    sortKeys_.reserve(ids_.size());
    for (const Id id : ids_) {
      QString key, number;
      for (const QChar ch : QString::fromStdString(doc_.network().at(id).name) + ' ') {
        if (ch.isDigit()) {
          number += ch;
          continue;
        }
        if (!number.isEmpty()) key += number.rightJustified(10, '0');
        number.clear();
        key += ch;
      }
      sortKeys_.push_back(key);
    }
  }
  return sortKeys_[static_cast<std::size_t>(row)];
}

void LedgerModel::readLacks() {
  lacks_.clear();
  const SolvedPtr& solved = doc_.solved();
  if (!solved || solved->solution.summary.usable()) return;
  for (const Problem& p : solved->solution.summary.problems)
    lacks_.emplace(p.place.name, QString::fromStdString(p.what));
}

bool LedgerModel::incomplete(int row) const {
  const Element* e = doc_.network().find(idAt(row));
  return e && lacks_.contains(e->name);
}

QString LedgerModel::keyOf(int column) const {
  const Column& c = columns_[static_cast<std::size_t>(column)];
  if (c.field) return "given " + text(c.field->key);
  if (c.outcome) return "found " + text(c.outcome->key);
  return c.end < 0 ? QString("name") : c.end == 0 ? QString("from") : QString("to");
}

ColumnUse LedgerModel::useOf(int column) const {
  const Column& c = columns_[static_cast<std::size_t>(column)];
  if (c.field) return {ColumnIs::field, std::string(c.field->key), nullptr};
  if (c.outcome) return {};
  return {c.end < 0                  ? ColumnIs::name
          : c.end == 1               ? ColumnIs::to
          : part_->ends == Ends::one ? ColumnIs::at
                                     : ColumnIs::from,
          {},
          nullptr};
}

QVariant LedgerModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal) return role == Qt::DisplayRole ? QVariant(section + 1) : QVariant();
  const Column& c = columns_[static_cast<std::size_t>(section)];
  if (role == Qt::ToolTipRole && c.field) return text(c.field->help);
  if (role != Qt::DisplayRole) return {};
  if (c.field) return "● " + spokenText(c.field->key);
  if (c.outcome) {
    const auto symbol = doc_.units().unitFor(c.outcome->measure).symbol;
    return symbol.empty() ? "○ " + spokenText(c.outcome->key)
                          : QString("○ %1, %2").arg(spokenText(c.outcome->key), text(symbol));
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

}  // namespace conduit::desktop
