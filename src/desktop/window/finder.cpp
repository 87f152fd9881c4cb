#include "window/finder.h"

#include <QApplication>
#include <QKeyEvent>
#include <QPainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <algorithm>

#include "cases/watch.h"
#include "fields/entry.h"
#include "find/condition.h"
#include "look/words.h"
#include "model/watched.h"
#include "network/names.h"
#include "network/turn_into.h"
#include "parts/registry.h"

namespace conduit::desktop {
namespace {

constexpr std::size_t most = 60;

// How well a text is matched: 0 not at all, 3 at its beginning, 2 at the beginning of a word, 1 inside.
int match(const QString& candidate, const QString& wanted) {
  const int at = static_cast<int>(candidate.indexOf(wanted, 0, Qt::CaseInsensitive));
  if (at < 0) return 0;
  return at == 0 ? 3 : !candidate[at - 1].isLetterOrNumber() ? 2 : 1;
}

// The title in ink, what it is in quiet letters behind it.
class ItemPainter : public QStyledItemDelegate {
 public:
  ItemPainter(const Look& look, QObject* parent) : QStyledItemDelegate(parent), look_(look) {}
  void paint(QPainter* p, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const bool current = option.state & QStyle::State_Selected;
    if (current) p->fillRect(option.rect, look_.water);
    const QString title = index.data().toString(), detail = index.data(Qt::UserRole).toString();
    const QRect box = option.rect.adjusted(8, 0, -8, 0);
    p->setFont(face(12.5));
    p->setPen(current ? (look_.dark ? look_.paper : look_.field) : look_.ink);
    const QString shown = p->fontMetrics().elidedText(title, Qt::ElideRight, box.width());
    p->drawText(box, Qt::AlignLeft | Qt::AlignVCenter, shown);
    const int used = p->fontMetrics().horizontalAdvance(shown) + 16;
    p->setFont(face(12));
    if (!current) p->setPen(look_.ink2);
    p->drawText(box.adjusted(used, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter,
                p->fontMetrics().elidedText(detail, Qt::ElideRight, std::max(0, box.width() - used)));
  }
  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
    return {100, 24};
  }

 private:
  const Look& look_;
};

}  // namespace

Finder::Finder(Document& document, std::function<QList<QAction*>()> commands, QWidget* parent)
    : QFrame(parent),
      doc_(document),
      look_(Look::light()),
      commands_(std::move(commands)),
      edit_(new QLineEdit),
      list_(new QListWidget) {
  setObjectName("finder");
  setAccessibleName(tr("Finder"));
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(10, 10, 10, 8);
  layout->setSpacing(6);
  edit_->setObjectName("finder.text");
  edit_->setAccessibleName(tr("Search text"));
  edit_->setPlaceholderText(
      tr("a name, a command, L-12 bore 150 mm, pipes velocity > 2 m/s, replace L- by W-"));
  edit_->setFixedHeight(30);
  list_->setObjectName("finder.list");
  list_->setAccessibleName(tr("Search results"));
  list_->setFocusPolicy(Qt::NoFocus);
  list_->setFrameShape(QFrame::NoFrame);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setUniformItemSizes(true);
  list_->setItemDelegate(new ItemPainter(look_, list_));
  layout->addWidget(edit_);
  layout->addWidget(list_, 1);
  edit_->installEventFilter(this);
  connect(edit_, &QLineEdit::textChanged, this, &Finder::fill);
  connect(list_, &QListWidget::itemClicked, this, &Finder::runCurrent);
  hide();
}

void Finder::setLook(const Look& look) {
  look_ = look;
  edit_->setFont(face(13));
  list_->setFont(face(12.5));
  setStyleSheet(QString("#finder { background: %1; border: 1px solid %2; border-radius: 4px; } QListWidget { "
                        "background: %1; color: %3; outline: none; } QListWidget::item { "
                        "height: 24px; padding-left: 4px; }"
                        " QListWidget::item:selected { background: %4; color: %5; }")
                    .arg(look.paper.name(), look.ink2.name(), look.ink.name(), look.water.name(),
                         (look.dark ? look.paper : look.field).name()));
}

void Finder::open(const QString& words) {
  QWidget* over = parentWidget();
  setGeometry((over->width() - 640) / 2, 48, 640, 344);
  edit_->setText(words);
  fill();
  show();
  raise();
  edit_->setFocus();
  edit_->selectAll();
}

void Finder::shut() {
  hide();
  emit closed();
}

std::vector<FinderItem> Finder::itemsFor(const QString& typed) {
  const QString wanted = typed.trimmed();
  const std::string plain = wanted.toStdString();
  const Network& net = doc_.network();
  std::vector<FinderItem> items;
  // A value for a field.
  if (auto a = readAssignment(plain, net, doc_.selection())) {
    const Field* field = findField(*net.at(a->ids.front()).part, a->key);
    const auto value = readField(*field, a->text, doc_.stock(), &doc_.units());
    const QString fault =
        value || field->kind == FieldKind::takeOff ? QString() : QString::fromStdString(value.error().what);
    items.push_back({tr("Set %1").arg(QString::fromStdString(a->words)), fault, [this, a = *a] {
                       doc_.setField(a.ids, a.key, QString::fromStdString(a.text));
                       if (a.ids.size() == 1) doc_.select(a.ids), emit wantsShown(a.ids.front());
                     }});
  }
  // A number followed through all cases.
  if (wanted.startsWith("watch ")) {
    const auto watched =
        readWatched(wanted.mid(6).toStdString(), doc_.model().drawn, doc_.units(), doc_.selection());
    items.push_back({watched ? tr("Watch in all cases: %1")
                                   .arg(QString::fromStdString(wordsOf(*watched, doc_.model().drawn).all()))
                             : tr("Watch in all cases"),
                     watched ? QString() : QString::fromStdString(watched.error().what), [this, watched] {
                       if (watched && doc_.takeModel(watch(doc_.model(), *watched)))
                         emit doc_.said(tr("Watched: see the Cases desk"));
                     }});
  }
  // Letters of names.
  if (wanted.startsWith("replace ") && wanted.contains(" by ")) {
    const QString find = wanted.mid(8).section(" by ", 0, 0).trimmed(),
                  with = wanted.section(" by ", 1).trimmed();
    std::vector<Id> ids = doc_.selection();
    if (ids.size() < 2) {
      ids.clear();
      net.each([&](Id id, const Element&) { ids.push_back(id); });
    }
    auto done = replaceInNames(net, ids, find.toStdString(), with.toStdString());
    items.push_back({done ? QString::fromStdString(done->name)
                          : tr("Replace \"%1\" with \"%2\" in names").arg(find, with),
                     done ? QString() : QString::fromStdString(done.error().what),
                     [this, done = std::move(done)] { doc_.take(done); }});
  }
  // Elements by a condition.
  const SolvedPtr& solved = doc_.solved();
  if (const auto condition =
          plain.empty() ? Result<Condition>(tl::unexpected(Problem{})) : readCondition(plain, doc_.units())) {
    const auto ids =
        elementsThat(*condition, net, solved && doc_.current() ? solved->solution : Solution::none());
    items.push_back(
        {ids.empty() ? tr("No match: %1").arg(wanted) : tr("Select %1: %2").arg(ids.size()).arg(wanted),
         {},
         [this, ids] {
           if (!ids.empty()) doc_.select(ids), emit wantsShown(ids.front());
         }});
  }
  struct Ranked {
    int rank;
    FinderItem item;
  };
  std::vector<Ranked> ranked;
  auto add = [&](int rank, FinderItem item) { ranked.push_back({rank, std::move(item)}); };
  if (!wanted.isEmpty()) {
    std::size_t names = 0;
    net.each([&](Id id, const Element& e) {
      if (names > 200) return;
      const QString name = QString::fromStdString(e.name);
      if (const int m = match(name, wanted)) {
        ++names;
        add(m * 10 + (name.compare(wanted, Qt::CaseInsensitive) == 0 ? 50
                      : m > 1                                        ? 4
                                                                     : 0),
            {name, spokenText(e.part->key), [this, id] { doc_.select({id}), emit wantsShown(id); }});
      }
    });
    // Fields: of what is selected, and the job's own with its limits.
    const Id selected = doc_.selected();
    for (const Id of : {selected, jobId}) {
      if (of == noId || !net.find(of)) continue;
      for (const Field& f : net.at(of).part->fields)
        if (const int m = std::max(match(text(f.key), wanted), match(spokenText(f.key), wanted)))
          add(m * 10 + 3,
              {sentence(f.key),
               tr("%1 (%2)").arg(text(f.help),
                                 of == jobId ? tr("the job") : QString::fromStdString(net.at(of).name)),
               [this, of, key = text(f.key)] {
                 doc_.select(of == jobId ? std::vector<Id>{} : std::vector<Id>{of});
                 emit doc_.wantsField(of, key);
               }});
    }
    // Kinds: to place one, or to turn what is selected into one.
    for (const Part* part : allParts()) {
      const QString key = text(part->key);
      const bool may =
          !doc_.selection().empty() && std::all_of(doc_.selection().begin(), doc_.selection().end(),
                                                   [&](Id id) { return turnFault(net, id, *part).empty(); });
      const QString words = tr("Change to %1").arg(QString::fromStdString(spokenOne(part->key)));
      if (const int m =
              std::max({match(words, wanted), match(key, wanted), match("Turn into a " + key, wanted)});
          m && may)
        add(m * 10,
            {words,
             doc_.selection().size() == 1 ? QString::fromStdString(net.at(doc_.selection().front()).name)
                                          : tr("%1 selected").arg(doc_.selection().size()),
             [this, part] { doc_.turnInto(*part); }});
    }
    // Stock: sizes go to the selected pipe, items to the selected device; else their list is opened.
    std::size_t sizes = 0;
    for (const PipeSize& p : doc_.stock()->pipes) {
      const QString name = QString::fromStdString(p.name());
      const int m = match(name, wanted);
      if (!m || ++sizes > 30) continue;
      const bool fits = selected != noId && findField(*net.at(selected).part, "size");
      add(m * 10 - 2, {name,
                       fits ? tr("size for %1").arg(QString::fromStdString(net.at(selected).name))
                            : tr("catalogue pipe size"),
                       [this, fits, name] {
                         const auto ids = doc_.selection();
                         if (fits) doc_.setField(ids, "size", name);
                         else emit wantsStock("pipes.csv", name);
                       }});
    }
    for (const StockItem& i : doc_.stock()->items) {
      const QString name = QString::fromStdString(i.item);
      const int m = std::max(match(name, wanted), match(QString::fromStdString(i.kind) + " " + name, wanted));
      if (!m) continue;
      const bool fits = selected != noId && net.at(selected).part->key == i.kind;
      add(m * 10 - 2,
          {name,
           fits ? tr("for %1, from the catalogue").arg(QString::fromStdString(net.at(selected).name))
                : tr("catalogue %1").arg(spokenText(i.kind)),
           [this, fits, name] {
             const auto ids = doc_.selection();
             if (fits) doc_.setField(ids, stockItemKey, name);
             else emit wantsStock("equipment.csv", name);
           }});
    }
    for (const LiquidEntry& l : doc_.stock()->liquids)
      if (const int m = match(QString::fromStdString(l.liquid), wanted))
        add(m * 10 - 2,
            {QString::fromStdString(l.liquid), tr("catalogue liquid, for the job"), [this, name = l.liquid] {
               const Remedy choose{"Set liquid to " + name,
                                   {{"job", "liquid", "stock liquid"}, {"job", "liquid of the stock", name}},
                                   {"job", ""}};
               doc_.take(applyRemedy(doc_.network(), choose, doc_.stock(), &doc_.units()));
             }});
    for (const auto& [file, words, count] :
         {std::tuple{QString("fittings.csv"), tr("catalogue fitting"), doc_.stock()->fittings.size()}})
      for (std::size_t i = 0; i < count; ++i)
        if (const int m = match(QString::fromStdString(doc_.stock()->fittings[i].word), wanted))
          add(m * 10 - 3, {QString::fromStdString(doc_.stock()->fittings[i].word),
                           QString::fromStdString(doc_.stock()->fittings[i].description),
                           [this, file = file, name = doc_.stock()->fittings[i].word] {
                             emit wantsStock(file, QString::fromStdString(name));
                           }});
    // Cases: the one chosen becomes the current one.
    if (doc_.model().cases.count() > 1)
      for (const CaseId id : doc_.model().cases.ids()) {
        const QString name = QString::fromStdString(doc_.model().cases.find(id)->name);
        if (const int m = std::max(match(name, wanted), match(tr("case ") + name, wanted)))
          add(m * 10 + 3, {name, id == doc_.currentCase() ? tr("the current case") : tr("case: make current"),
                           [this, id] { doc_.setCase(id); }});
      }
    // Findings: limits by their words.
    if (solved)
      for (const Finding& f : solved->findings)
        if (const int m = match(QString::fromStdString(f.what), wanted))
          add(m * 10 - 4, {QString::fromStdString(f.what), tr("finding"), [this, place = f.place] {
                             doc_.apply({"", {}, place});
                           }});
  }
  // Help: a word on each thing that is typed somewhere.
  static const std::pair<const char*, const char*> topics[] = {
      {QT_TR_NOOP("Help: typing while drawing a line"),
       QT_TR_NOOP("12.4 = length, 3 up = rise, 45° = direction; Tab switches, Enter draws the piece")},
      {QT_TR_NOOP("Help: take-off of a pipe"),
       QT_TR_NOOP("12.4 elbow 3.1 up 2x gate K 2.5 Le 3 +10 % bore 80 mm check: on a pipe's card; see "
                  "docs/take-off.md")},
      {QT_TR_NOOP("Help: selecting by condition"),
       QT_TR_NOOP("pipes bore < 100 mm and velocity > 2 m/s; note has east; size lacks; incomplete")},
      {QT_TR_NOOP("Help: setting values here"),
       QT_TR_NOOP("L-12 bore 150 mm, or bore 150 mm with something selected")},
      {QT_TR_NOOP("Help: units"), QT_TR_NOOP("any field accepts any unit of its quantity; unit overrides on "
                                             "the job card set what is shown: flow gpm; pressure kPa")},
      {QT_TR_NOOP("Help: given and found"),
       QT_TR_NOOP("● = given, ○ = found; click the marker to swap them")},
      {QT_TR_NOOP("Help: tables"),
       QT_TR_NOOP("Ctrl+V or Ctrl+I imports a table; column assignment and refused rows are shown first")},
      {QT_TR_NOOP("Help: cases"),
       QT_TR_NOOP("Alt+4 shows all cases; values typed while a case is current apply to it alone; \"watch "
                  "Gun 1 pressure\" tracks a result through all cases")},
      {QT_TR_NOOP("Help: names"),
       QT_TR_NOOP("replace L- by W-; set patterns such as pipe W-001 on the job card")},
      {QT_TR_NOOP("Help: the dot before a device"),
       QT_TR_NOOP("it marks the inlet end; Ctrl+R reverses the device")}};
  if (!wanted.isEmpty())
    for (const auto& [title, words] : topics)
      if (const int m = std::max(match(tr(title), wanted), match(tr(words), wanted)))
        add(m * 10 - 6, {tr(title), tr(words), [this, words = words] { emit doc_.said(tr(words)); }});
  for (QAction* action : commands_()) {
    QString words = action->text();
    words.remove('&');
    if (!action->isEnabled() || words.isEmpty() || action->objectName() == "find") continue;
    const int m = wanted.isEmpty() ? 1 : match(words, wanted);
    if (m)
      add(m * 10 + 1,
          {words, action->shortcut().toString(QKeySequence::NativeText), [action] { action->trigger(); }});
  }
  std::stable_sort(ranked.begin(), ranked.end(),
                   [](const Ranked& a, const Ranked& b) { return a.rank > b.rank; });
  for (Ranked& r : ranked)
    if (items.size() < most) items.push_back(std::move(r.item));
  return items;
}

void Finder::fill() {
  items_ = itemsFor(edit_->text());
  list_->clear();
  for (const FinderItem& item : items_) {
    auto* row = new QListWidgetItem(item.title, list_);
    row->setData(Qt::UserRole, item.detail);
    row->setData(Qt::AccessibleTextRole, item.title + " " + item.detail);
  }
  if (items_.empty() && !edit_->text().trimmed().isEmpty()) {
    // What was almost a condition says what it still wants.
    const auto condition = readCondition(edit_->text().trimmed().toStdString(), doc_.units());
    list_->addItem(
        condition ? tr("No match.")
                  : tr("No match; as a condition: %1").arg(QString::fromStdString(condition.error().what)));
  }
  list_->setCurrentRow(items_.empty() ? -1 : 0);
  resize(width(), 58 + 24 * std::clamp(list_->count(), 1, 14));
}

void Finder::runCurrent() {
  const int row = list_->currentRow();
  if (row < 0 || row >= static_cast<int>(items_.size())) return;
  const auto run = items_[static_cast<std::size_t>(row)].run;
  shut();
  run();
}

bool Finder::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    auto* key = static_cast<QKeyEvent*>(event);
    switch (key->key()) {
      case Qt::Key_Escape: shut(); return true;
      case Qt::Key_Return:
      case Qt::Key_Enter: runCurrent(); return true;
      case Qt::Key_Down:
      case Qt::Key_Up: {
        const int n = list_->count();
        if (n > 0) list_->setCurrentRow((list_->currentRow() + (key->key() == Qt::Key_Down ? 1 : n - 1)) % n);
        return true;
      }
      default: break;
    }
  }
  if (event->type() == QEvent::FocusOut && isVisible() && !isAncestorOf(QApplication::focusWidget()))
    QMetaObject::invokeMethod(
        this,
        [this] {
          if (!edit_->hasFocus()) hide();
        },
        Qt::QueuedConnection);
  return QFrame::eventFilter(watched, event);
}

}  // namespace conduit::desktop
