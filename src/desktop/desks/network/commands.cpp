// The commands of the Network desk: their words, keys and what they do.
#include <QApplication>
#include <QClipboard>
#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QMenu>
#include <QPointer>
#include <QStackedWidget>

#include "card/card.h"
#include "desks/network/network_desk.h"
#include "drawer/import_page.h"
#include "drawer/stock_page.h"
#include "exchange/enclose.h"
#include "exchange/model_file.h"
#include "fields/keys.h"
#include "find/condition.h"
#include "json/limits.h"
#include "levels/levels_view.h"
#include "look/words.h"
#include "network/arrange.h"
#include "network/assume.h"
#include "network/lay_take_off.h"
#include "network/names.h"
#include "network/turn_into.h"
#include "parts/registry.h"
#include "parts/service.h"
#include "plan/picture_store.h"
#include "plan/plan_view.h"

namespace conduit::desktop {

void NetworkDesk::fillMenu(Menu which, QMenu* menu, const Make& make) {
  switch (which) {
    case Menu::file: return fillFile(menu, make);
    case Menu::edit: return fillEdit(menu, make);
    case Menu::draw: return fillDraw(menu, make);
    case Menu::view: return fillView(menu, make);
  }
}

void NetworkDesk::fillFile(QMenu* file, const Make& make) {
  file->addAction(make("file.import", tr("Import a table …"), QKeySequence("Ctrl+I"), [this] {
    const QString path = QFileDialog::getOpenFileName(
        this, tr("Import a table"), doc_.folder(), tr("Tables (*.csv *.tsv *.txt *.xlsx *.geojson *.json)"));
    if (!path.isEmpty()) importPage_->openFile(path);
  }));
  file->addAction(make("file.picture", tr("Background picture …"), QKeySequence(), [this] {
    const QString path =
        QFileDialog::getOpenFileName(this, tr("Background picture or PDF page"), doc_.folder(),
                                     tr("Pictures (*.png *.jpg *.jpeg *.svg *.pdf)"));
    if (!path.isEmpty()) placePicture(path);
  }));
}

std::vector<Id> NetworkDesk::selectionOrAll() const {
  if (!doc_.selection().empty()) return doc_.selection();
  std::vector<Id> ids;
  doc_.network().each([&](Id id, const Element&) { ids.push_back(id); });
  return ids;
}

void NetworkDesk::fillEdit(QMenu* edit, const Make& make) {
  edit->addAction(make("edit.copy", tr("Copy"), QKeySequence("Ctrl+C"), [this] { copy(); }));
  edit->addAction(make("edit.paste", tr("Paste"), QKeySequence("Ctrl+V"), [this] { paste(); }));
  edit->addAction(make("edit.duplicate", tr("Duplicate"), QKeySequence("Ctrl+D"), [this] {
    if (copy()) paste();
  }));
  edit->addAction(make("edit.delete", tr("Delete"), QKeySequence("Ctrl+Delete"), [this] {
    if (!doc_.selection().empty()) doc_.take(removeAll(doc_.network(), doc_.selection()));
  }));
  edit->addSeparator();
  edit->addAction(make("edit.all", tr("Select all"), QKeySequence("Ctrl+A"), [this] {
    doc_.select({});
    doc_.select(selectionOrAll());
  }));
  edit->addAction(make("select.route", tr("Select along the route"), QKeySequence("Ctrl+Shift+T"),
                       [this] { doc_.select(elementsAlong(levels_->route())); }));
  edit->addAction(make("select.alike", tr("Select similar"), QKeySequence("Ctrl+Shift+A"), [this] {
    if (doc_.selected() == noId)
      say(tr("Select one element first: all of the same kind and size are then selected."), true);
    else doc_.select(alike(doc_.network(), doc_.selected()));
  }));
  edit->addAction(make("select.where", tr("Select by condition"), QKeySequence("Ctrl+Shift+F"),
                       [this] { emit wantsFinder(tr("pipes bore < 100 mm")); }));
  edit->addSeparator();
  edit->addAction(make("names.reading", tr("Renumber left to right"), QKeySequence(), [this] {
    doc_.take(renumber(doc_.network(), readingOrder(doc_.network(), selectionOrAll())));
  }));
  edit->addAction(make("names.route", tr("Renumber along the route"), QKeySequence(),
                       [this] { doc_.take(renumber(doc_.network(), elementsAlong(levels_->route()))); }));
  edit->addAction(make("names.replace", tr("Replace in names"), QKeySequence("Ctrl+Shift+H"),
                       [this] { emit wantsFinder(tr("replace L- by W-")); }));
  edit->addAction(make("names.pattern", tr("Name patterns"), QKeySequence(), [this] {
    doc_.select({});
    card_->focusField("name patterns");
  }));
}

void NetworkDesk::fillDraw(QMenu* draw, const Make& make) {
  draw->addAction(make("edit.reverse", tr("Reverse"), QKeySequence("Ctrl+R"), [this] {
    if (!doc_.selection().empty()) doc_.take(reverseAll(doc_.network(), doc_.selection()));
  }));
  draw->addAction(
      make("edit.split", tr("Split the pipe (X)"), QKeySequence(), [this] { plan_->splitSelected(); }));
  auto* turn = draw->addMenu(tr("Change to"));
  turn->setObjectName("turn");
  for (const Part* part : allParts()) {
    if (part->ends == Ends::none || part->group == Group::drawing) continue;
    const QString kind = QString::fromUtf8(part->key.data(), static_cast<int>(part->key.size()));
    turn->addAction(make("turn." + kind, tr("Change to %1").arg(QString::fromStdString(spokenOne(part->key))),
                         QKeySequence(), [this, part] { doc_.turnInto(*part); }));
  }
  auto* order = draw->addMenu(tr("Align"));
  auto arrange = [&](const char* name, const QString& words, const char* keys, auto edit) {
    order->addAction(make(name, words, QKeySequence(keys),
                          [this, edit] { doc_.take(edit(doc_.network(), doc_.selection())); }));
  };
  arrange("arrange.left", tr("Align left"), "Ctrl+Shift+Left",
          [](const Network& n, const std::vector<Id>& ids) { return lineUp(n, ids, LineUp::left); });
  arrange("arrange.right", tr("Align right"), "Ctrl+Shift+Right",
          [](const Network& n, const std::vector<Id>& ids) { return lineUp(n, ids, LineUp::right); });
  arrange("arrange.top", tr("Align top"), "Ctrl+Shift+Up",
          [](const Network& n, const std::vector<Id>& ids) { return lineUp(n, ids, LineUp::top); });
  arrange("arrange.bottom", tr("Align bottom"), "Ctrl+Shift+Down",
          [](const Network& n, const std::vector<Id>& ids) { return lineUp(n, ids, LineUp::bottom); });
  arrange("arrange.level", tr("Align horizontally"), "",
          [](const Network& n, const std::vector<Id>& ids) { return lineUp(n, ids, LineUp::middleAcross); });
  arrange("arrange.plumb", tr("Align vertically"), "",
          [](const Network& n, const std::vector<Id>& ids) { return lineUp(n, ids, LineUp::middleUpright); });
  arrange(
      "arrange.across", tr("Distribute horizontally"), "",
      [](const Network& n, const std::vector<Id>& ids) { return spaceEvenly(n, ids, Direction::across); });
  arrange("arrange.down", tr("Distribute vertically"), "", [](const Network& n, const std::vector<Id>& ids) {
    return spaceEvenly(n, ids, Direction::upright);
  });
  arrange("arrange.mirror", tr("Mirror horizontally"), "",
          [](const Network& n, const std::vector<Id>& ids) { return mirror(n, ids, Direction::across); });
  arrange("arrange.flip", tr("Mirror vertically"), "",
          [](const Network& n, const std::vector<Id>& ids) { return mirror(n, ids, Direction::upright); });
  arrange("arrange.turn", tr("Rotate 90°"), "",
          [](const Network& n, const std::vector<Id>& ids) { return quarterTurn(n, ids, 1); });
  draw->addSeparator();
  draw->addAction(make("service.new", tr("New service"), QKeySequence(), [this] {
    doc_.take(place(doc_.network(), service::part, {}, "", doc_.stock(), &doc_.units()));
  }));
  draw->addAction(make("stock.from", tr("Save as catalogue item"), QKeySequence(), [this] {
    const Element* e = doc_.selected() == noId ? nullptr : doc_.network().find(doc_.selected());
    if (!e || !findField(*e->part, stockItemKey))
      return say(tr("Select one pump, valve, strainer or nozzle to save as a catalogue item."), true);
    const StockItem item = stockItemOf(*e);
    if (item.fields.empty())
      return say(tr("%1 has no given values to save.").arg(QString::fromStdString(e->name)), true);
    doc_.editStock("Catalogue: new " + item.item, [&](Stock& stock) {
      dropStockRow(stock, "equipment.csv", item.item);
      stock.items.push_back(item);
    });
    showDrawer(2);
    stockPage_->showEntry("equipment.csv", QString::fromStdString(item.item));
  }));
  draw->addAction(
      make("picture.scale", tr("Scale the picture"), QKeySequence(), [this] { plan_->scalePicture(); }));
  draw->addAction(make("picture.inside", tr("Embed the picture in the model"), QKeySequence(),
                       [this] { keepPictureInside(); }));
}

void NetworkDesk::fillView(QMenu* view, const Make& make) {
  auto drawer = [this](int page) {
    showDrawer(drawer_->isVisible() && drawer_->currentIndex() == page ? -1 : page);
  };
  view->addAction(make("view.fit", tr("Fit Plan"), QKeySequence("Ctrl+0"), [this] { plan_->fit(); }));
  view->addAction(make("view.heights", tr("Show rises on all lines"), QKeySequence("Ctrl+Shift+R"),
                       [this] { plan_->setHeights(!plan_->heights()); }));
  view->addAction(make("view.findings", tr("Findings"), QKeySequence("F3"), [drawer] { drawer(0); }));
  view->addAction(make("view.ledger", tr("Ledger"), QKeySequence("F4"), [drawer] { drawer(1); }));
  view->addAction(make("view.stock", tr("Catalogue"), QKeySequence("F5"), [drawer] { drawer(2); }));
  view->addAction(make("view.plan", tr("Go to Plan"), QKeySequence("F6"), [this] { plan_->setFocus(); }));
  view->addAction(
      make("view.levels", tr("Go to Levels"), QKeySequence("F7"), [this] { levels_->setFocus(); }));
  view->addAction(
      make("view.card", tr("Go to the card"), QKeySequence("F8"), [this] { card_->focusField(""); }));
  view->addAction(make("view.incomplete", tr("Next incomplete or assumed element"), QKeySequence("F9"),
                       [this] { nextIncomplete(1); }));
  view->addAction(make("view.incomplete-back", tr("Previous incomplete or assumed element"),
                       QKeySequence("Shift+F9"), [this] { nextIncomplete(-1); }));
  view->addAction(make("view.working", tr("Working of the main result"), QKeySequence("Ctrl+="), [this] {
    if (doc_.selected() == noId) return;
    const Part& part = *doc_.network().at(doc_.selected()).part;
    if (!part.outcomes.empty())
      card_->showWorking(text(part.workings.empty() ? part.outcomes[0].key : part.workings[0]));
  }));
  view->addAction(make("view.route", tr("Route between two selected points"), QKeySequence("Ctrl+T"), [this] {
    if (doc_.selection().size() == 2)
      levels_->choose(routeBetween(doc_.network(), doc_.selection()[0], doc_.selection()[1]));
    else say(tr("Select two points (Shift+click) to define a route."), true);
  }));
}

// To the next element that is incomplete (or, where none does, whose value is only assumed), in the order
// in which one reads, with the keyboard in the field it has no.
void NetworkDesk::nextIncomplete(int way) {
  const SolvedPtr& solved = doc_.solved();
  const Solution& solution = solved ? solved->solution : Solution::none();
  Condition condition;
  condition.incomplete = true;
  auto ids = readingOrder(doc_.network(), elementsThat(condition, doc_.network(), solution));
  const bool assumed = ids.empty();
  if (assumed) {
    condition = {};
    condition.assumed = true;
    ids = readingOrder(doc_.network(), elementsThat(condition, doc_.network(), solution));
  }
  if (ids.empty()) return say(tr("Nothing is incomplete or assumed."), false);
  const auto at = std::find(ids.begin(), ids.end(), doc_.selected());
  const auto n = static_cast<std::ptrdiff_t>(ids.size());
  const std::ptrdiff_t next = at == ids.end() ? (way > 0 ? 0 : n - 1) : ((at - ids.begin()) + way + n) % n;
  const Id id = ids[static_cast<std::size_t>(next)];
  doc_.select({id});
  plan_->showElement(id);
  QString field;
  for (const Problem& p : solution.summary.problems)
    if (p.place.name == doc_.network().at(id).name) {
      field = QString::fromStdString(!p.remedies.empty() && !p.remedies.front().goTo.field.empty()
                                         ? p.remedies.front().goTo.field
                                         : p.place.field);
      break;
    }
  if (assumed)
    if (const auto keys = assumedAt(doc_.network(), id); !keys.empty()) field = text(keys.front());
  card_->focusField(field);
  say((assumed ? tr("Assumed value %1 of %2; F9: next.") : tr("Incomplete %1 of %2; F9: next."))
          .arg(next + 1)
          .arg(n),
      false);
}

bool NetworkDesk::copy() {
  if (doc_.selection().empty()) return false;
  const Network piece = cutOut(doc_.network(), doc_.selection());
  // As the text of a model: it can be pasted into another window, or read.
  clipped_ = QString::fromStdString(writeModel(piece));
  QApplication::clipboard()->setText(clipped_);
  pasted_ = 0;
  emit doc_.said(tr("%1 elements copied").arg(piece.count()));
  return true;
}

// What is on the clipboard says what it is: a piece of a model, take-offs by name, or a table.
void NetworkDesk::paste() {
  const QString clip = QApplication::clipboard()->text();
  const std::string text = clip.toStdString();
  if (clip.trimmed().isEmpty()) return say(tr("The clipboard has no text."), true);
  if (clip.left(400).contains("\"format\"") && clip.left(400).contains("level-conduit")) {
    auto piece = readDrawn(text, doc_.stock());
    if (!piece) return say(QString::fromStdString(piece.error().front().what), true);
    if (clip != clipped_) clipped_ = clip, pasted_ = 0;
    ++pasted_;
    std::vector<Id> placed;
    const double by = 10.0 * pasted_;  // beside the original, a little further each time
    if (doc_.take(insert(doc_.network(), *piece, by, -by, &placed))) doc_.select(placed);
    return;
  }
  if (isTakeOffLines(text)) {
    doc_.take(layTakeOffs(doc_.network(), text, *doc_.stock(), &doc_.units()));
    return;
  }
  importPage_->openText(clip.toUtf8(), tr("Clipboard"));
}

void NetworkDesk::placePicture(const QString& path) {
  say(tr("Reading %1 …").arg(QFileInfo(path).fileName()), false);
  placing_.add([this, path, model = models_](const Background::Post& post, const std::stop_token&) {
    const auto read = std::make_shared<const PictureFile>(readPictureFile(path, 1));
    post([this, path, model, read] {
      if (models_ == model) placeRead(path, *read);
      else say(tr("%1 was not placed: another model was opened.").arg(QFileInfo(path).fileName()), true);
    });
  });
}

void NetworkDesk::placeRead(const QString& path, const PictureFile& picture) {
  if (picture.image.isNull()) {
    emit doc_.refused(picture.why);
    return;
  }
  // Beside the model: by its path from there. Elsewhere, or before the model has a file: inside it.
  const QString relative =
      doc_.folder().isEmpty() ? QString("..") : QDir(doc_.folder()).relativeFilePath(path);
  QString outside;
  const bool beside = !placeOfPicture(doc_.folder(), relative, &outside).isEmpty();
  const QString name = beside ? relative : QFileInfo(path).fileName();
  plan_->havePicture(name.toStdString(), picture.image);
  const Spot middle = plan_->toPlan(QPointF(plan_->width() / 2.0, plan_->height() / 2.0));
  const double width = plan_->width() * 0.7 /
                       std::max(1e-9, QLineF(plan_->toScreen({0, 0}), plan_->toScreen({1, 0})).length());
  if (doc_.take(addPicture(doc_.network(), name.toStdString(),
                           beside ? std::string() : picture.bytes.toStdString(), middle, width)))
    emit doc_.said(tr("%1. Next: Draw, Scale the picture.")
                       .arg(beside ? tr("Picture linked by its path relative to the model")
                                   : tr("Picture embedded in the model")));
}

void NetworkDesk::keepPictureInside() {
  const Id id = doc_.selected();
  const auto* name = id == noId ? nullptr : doc_.network().at(id).text(key::file);
  if (!name || doc_.network().at(id).part->paper != Paper::picture)
    return say(tr("Select the picture to embed."), true);
  if (doc_.network().enclosed().files.contains(*name)) return say(tr("Already embedded."), false);
  QString why;
  const QString place = placeOfPicture(doc_.folder(), QString::fromStdString(*name), &why);
  if (place.isEmpty()) return say(why, true);
  QFile file(place);
  if (!file.open(QIODevice::ReadOnly))
    return say(tr("%1 cannot be read: %2").arg(file.fileName(), file.errorString()), true);
  Enclosed enclosed = doc_.network().enclosed();
  enclosed.files[*name] = file.readAll().toStdString();
  Draft draft(doc_.network());
  draft.enclose(std::move(enclosed));
  doc_.take(Edited{"Embed " + *name + " in the model", std::move(draft).finish()});
}

}  // namespace conduit::desktop
