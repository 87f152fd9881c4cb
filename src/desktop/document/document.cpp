#include "document/document.h"

#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QStandardPaths>
#include <algorithm>
#include <csignal>

#include "exchange/enclose.h"
#include "exchange/model_file.h"
#include "fields/keys.h"
#include "network/assume.h"
#include "network/setting.h"
#include "network/turn_into.h"

namespace conduit::desktop {
namespace {

QString recoveryFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/recovery";
}

}  // namespace

Document::Document(QObject* parent) : QObject(parent), chosenUnits_(&UnitSet::siWater()) {
  std::vector<Problem> problems;
  own_ = readOwnStock(ownStockFolder().toStdString(), &problems);
  base_ = own_.empty() ? std::shared_ptr<const Stock>(std::shared_ptr<const Stock>(), &shippedStock())
                       : readAndShared(laidOver(shippedStock(), own_));
  if (!problems.empty())
    QTimer::singleShot(
        0, this, [this, what = QString::fromStdString(problems.front().what), more = problems.size() - 1] {
          emit refused(more > 0 ? tr("Your catalogue files: %1, and %2 more").arg(what).arg(more)
                                : tr("Your catalogue files: %1").arg(what));
        });
  connect(&worker_, &Worker::done, this, &Document::receive);
  watch(worker_.home());
  // When editing pauses, a warm answer is confirmed by a cold one.
  idle_.setSingleShot(true);
  idle_.setInterval(600);
  connect(&idle_, &QTimer::timeout, this, [this] { balance(true); });
  autosave_.setInterval(20000);
  connect(&autosave_, &QTimer::timeout, this, &Document::keepRecovery);
  autosave_.start();
  balance(true);
}

void Document::receive(const SolvedPtr& solved) {
  if (!model().cases.find(solved->id)) return;
  if (solved->order < shownOrder_) return;
  SolvedPtr& kept = answers_[solved->id];
  if (kept && kept->order > solved->order) return;
  kept = solved;
  if (!solved->fault.empty()) tellFault(worker_.home().name(), QString::fromStdString(solved->fault));
  if (solved->id == case_) {
    shownOrder_ = solved->order;
    solved_ = solved;
    if (current() && solved->solution.summary.warm) idle_.start();
    emit answered();
  }
  emit casesAnswered();
}

Document::~Document() = default;

void Document::watch(Background& work) {
  connect(&work, &Background::failed, this,
          [this, name = work.name()](const QString& why) { tellFault(name, why); });
}

void Document::tellFault(const QString& where, const QString& why) {
  keepRecovery();
  emit refused(tr("%1 ended by a fault: %2. The model is safe; please save it.").arg(where, why));
}

bool Document::isSelected(Id id) const {
  return std::find(selection_.begin(), selection_.end(), id) != selection_.end();
}

QString Document::folder() const { return path_.isEmpty() ? QString() : QFileInfo(path_).absolutePath(); }

QString Document::ownStockFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/stock";
}

const Stock* Document::stock() const { return sharedStock().get(); }

std::shared_ptr<const Stock> Document::sharedStock() const {
  if (!stock_ || stockOf_ != network().enclosure()) {
    stockOf_ = network().enclosure();
    stock_ = network().enclosed().stock.empty() ? base_
                                                : readAndShared(laidOver(*base_, network().enclosed().stock));
  }
  return stock_;
}

void Document::editStock(const std::string& name, const std::function<void(Stock&)>& edit) {
  Enclosed enclosed = network().enclosed();
  edit(enclosed.stock);
  Draft draft(network());
  draft.enclose(std::move(enclosed));
  take(Edited{name, std::move(draft).finish()});
}

bool Document::putStock(const std::string& file, const std::vector<std::string>& cells,
                        const std::string& name) {
  Stock trial = network().enclosed().stock;
  // Equipment is edited field by field: the whole item comes along.
  if (file == "equipment.csv" && cells.size() > 1 && !trial.item(cells[0], cells[1]))
    if (const StockItem* item = stock()->item(cells[0], cells[1])) trial.items.push_back(*item);
  if (const auto put = putStockRow(trial, file, cells, Origin::model); !put) {
    lastProblem_ = put.error();
    emit refused(QString::fromStdString(put.error().what));
    return false;
  }
  editStock(name, [&](Stock& mine) { mine = std::move(trial); });
  return true;
}

bool Document::keepOwn(Stock own) {
  if (const auto done = writeOwnStock(own, ownStockFolder().toStdString()); !done) {
    lastProblem_ = done.error();
    emit refused(QString::fromStdString(done.error().what));
    return false;
  }
  own_ = std::move(own);
  base_ = readAndShared(laidOver(shippedStock(), own_));
  stock_.reset();
  balance();
  emit changed();
  return true;
}

QString Document::title() const {
  if (const auto* title = network().job().text(key::title)) return QString::fromStdString(*title);
  return path_.isEmpty() ? tr("Untitled") : QFileInfo(path_).completeBaseName();
}

void Document::balance(bool cold) {
  Worker::Work work;
  work.stamp = history_.stamp();
  work.order = ++lastOrder_;
  work.model = model();
  work.current = case_;
  work.network = network();
  work.stock = sharedStock();
  work.units = units_;
  if (!cold && solved_ && solved_->solution.summary.usable()) work.startFrom = solved_;
  if (selected() != noId && network().find(selected()) && network().at(selected()).part->figure)
    work.curveOf = selected();
  worker_.submit(std::move(work));
}

bool Document::take(Result<Edited> edited, const std::string& run) {
  if (!edited) {
    lastProblem_ = edited.error();
    emit refused(QString::fromStdString(edited.error().what));
    return false;
  }
  return take(std::move(*edited), run);
}

bool Document::draw(Result<Edited> edited, const std::string& run) {
  if (!edited) return take(std::move(edited));
  return take(withAssumed(network(), std::move(*edited), *stock()), run);
}

const Network& Document::parentNetwork() const {
  if (case_ == drawingCase) return network();
  if (parentOf_ != case_ || parentStamp_ != history_.stamp()) {
    parent_ = networkOf(model(), caseNow().parent);
    parentOf_ = case_, parentStamp_ = history_.stamp();
  }
  return parent_;
}

void Document::refreshShown() {
  std::erase_if(answers_, [&](const auto& each) { return !model().cases.find(each.first); });
  if (!model().cases.find(case_)) {
    case_ = drawingCase;
    takeKnown();
  }
  shown_ = networkOf(model(), case_);
}

std::vector<CaseAnswerPtr> Document::answers() const {
  std::vector<CaseAnswerPtr> all;
  for (const CaseId id : model().cases.ids()) {
    const auto known = answers_.find(id);
    all.push_back(known == answers_.end() ? nullptr : known->second);
  }
  return all;
}

bool Document::isCurrent(CaseId id) const {
  const auto known = answers_.find(id);
  return known != answers_.end() && known->second->stamp == history_.stamp();
}

bool Document::allCurrent() const {
  for (const CaseId id : model().cases.ids())
    if (!isCurrent(id)) return false;
  return true;
}

void Document::setCase(CaseId id) {
  if (id == case_ || !model().cases.find(id)) return;
  case_ = id;
  shown_ = networkOf(model(), case_);
  takeKnown();
  refreshUnits();
  idle_.stop();
  balance();
  emit caseChanged();
  emit changed();
  if (solved_) emit answered();
}

bool Document::takeModel(Result<EditedModel> edited, const std::string& run) {
  if (!edited) return take(tl::unexpected(edited.error()));
  const CaseId made = edited->made;
  record(std::move(edited->name), std::move(edited->model), run);
  refreshUnits();
  idle_.stop();
  balance();
  emit changed();
  emit caseChanged();
  emit fileChanged();
  if (made != noCase) setCase(made);
  return true;
}

void Document::record(std::string name, Model next, const std::string& run) {
  history_.record(std::move(name), std::move(next), run);
  refreshShown();
}

// The answer of the case that is now the current one, if there is one.
void Document::takeKnown() {
  const auto known = answers_.find(case_);
  solved_ = known == answers_.end() ? nullptr : known->second;
}

bool Document::take(Edited edited, const std::string& run) {
  if (case_ != drawingCase && !isStructural(network(), edited.network))
    edited.name += " in " + caseNow().name;
  record(std::move(edited.name), withEdit(model(), case_, edited.network), run);
  refreshUnits();
  idle_.stop();
  // The selection is what it will be before anybody looks, so that each view is made again once.
  bool other = std::erase_if(selection_, [&](Id id) { return !network().find(id); }) > 0;
  if (edited.made != noId && selection_ != std::vector<Id>{edited.made}) {
    selection_ = {edited.made};
    other = true;
  }
  balance();
  emit changed();
  if (other) emit selectionChanged();
  emit fileChanged();
  return true;
}

bool Document::setField(std::span<const Id> ids, std::string_view key, const QString& text) {
  return take(setFieldOfAll(network(), ids, key, text.toStdString(), stock(), &units_));
}

void Document::select(std::vector<Id> ids) {
  if (ids == selection_) return;
  selection_ = std::move(ids);
  if (selected() != noId && network().find(selected()) && network().at(selected()).part->figure &&
      (!solved_ || solved_->curveOf != selected()))
    balance();
  emit selectionChanged();
}

void Document::undo() {
  if (history_.canUndo()) jumpTo(history_.at() - 1);
}

void Document::redo() {
  if (history_.canRedo()) jumpTo(history_.at() + 1);
}

void Document::jumpTo(std::size_t step) {
  if (step >= history_.size() || step == history_.at()) return;
  history_.goTo(step);
  refreshShown();
  std::erase_if(selection_, [&](Id id) { return !network().find(id); });
  refreshUnits();
  balance();
  emit changed();
  emit caseChanged();
  emit selectionChanged();
  emit fileChanged();
}

bool Document::turnInto(const Part& part) {
  auto turned = conduit::turnInto(network(), selection_, part);
  if (!turned) return take(tl::unexpected(turned.error()));
  const QString words = QString::fromStdString(turned->words());
  std::vector<Id> ids;
  for (const Turned& t : turned->each) ids.push_back(t.id);
  take(std::move(turned->edited));
  select(std::move(ids));
  emit said(words);
  return true;
}

void Document::setUnits(const UnitSet& units) {
  chosenUnits_ = &units;
  refreshUnits();
  balance();
}

void Document::refreshUnits() {
  const auto* own = network().job().text("own units");
  UnitSet now = own ? chosenUnits_->with(*own) : *chosenUnits_;
  if (now == units_) return;
  units_ = std::move(now);
  emit unitsChanged();
}

void Document::apply(const Remedy& remedy) {
  if (!remedy.edits.empty()) take(applyRemedy(network(), remedy, stock(), &units_));
  const Id id = remedy.goTo.name == "job" ? jobId : network().byName(remedy.goTo.name);
  if (id == jobId) select({});
  else if (id != noId) select({id});
  if (remedy.edits.empty() && id != noId) emit wantsField(id, QString::fromStdString(remedy.goTo.field));
}

void Document::replace(Model model, const QString& path, bool saved) {
  dropRecovery();
  // The history starts over, but its stamps go on: an answer still on its way belongs to the old model.
  const std::uint64_t before = history_.stamp();
  History fresh{std::move(model)};
  fresh.continueFrom(before);
  history_ = std::move(fresh);
  case_ = drawingCase;
  answers_.clear();
  refreshShown();
  solved_.reset();
  shownOrder_ = lastOrder_ + 1;  // what is still on its way belongs to the old model
  selection_.clear();
  path_ = path;
  savedStamp_ = saved ? history_.stamp() : 0;
  if (const auto* name = this->network().job().text(key::units))
    if (const UnitSet* set = UnitSet::find(*name)) chosenUnits_ = set;
  refreshUnits();
  balance(true);
  emit replaced();
  emit changed();
  emit caseChanged();
  emit selectionChanged();
  emit unitsChanged();
  emit fileChanged();
}

void Document::startNew() { replace(Model(), {}, true); }

bool Document::open(const QString& path) {
  auto model = loadModel(path.toStdString(), base_.get());
  if (!model) {
    QString why;
    for (std::size_t i = 0; i < model.error().size() && i < 3; ++i)
      why += (i ? "\n" : "") + QString::fromStdString(model.error()[i].what);
    if (model.error().size() > 3) why += tr("\nand %1 more").arg(model.error().size() - 3);
    lastProblem_ = model.error().front();
    emit refused(why);
    return false;
  }
  replace(std::move(*model), path, true);
  return true;
}

bool Document::save(const QString& path) {
  // Entries of the engineer's own stock that are used go with the file.
  Model whole = model();
  whole.drawn = withUsedStock(whole.drawn, *stock());
  for (const CaseId id : whole.cases.ids()) {
    const Network used = withUsedStock(networkOf(whole, id), *stock());
    if (used.enclosure() == whole.drawn.enclosure()) continue;
    Draft draft(whole.drawn);
    draft.enclose(used.enclosed());
    whole.drawn = std::move(draft).finish();
  }
  const auto done = saveModel(whole, path.toStdString());
  if (!done) {
    lastProblem_ = done.error();
    emit refused(QString::fromStdString(done.error().what));
    return false;
  }
  path_ = path;
  savedStamp_ = history_.stamp();
  dropRecovery();
  emit fileChanged();
  return true;
}

void Document::keepRecovery() {
  if (!dirty()) return;
  QDir().mkpath(recoveryFolder());
  if (recoveryPath_.isEmpty())
    recoveryPath_ =
        QString("%1/%2-%3.lconduit")
            .arg(recoveryFolder(), path_.isEmpty() ? "untitled" : QFileInfo(path_).completeBaseName())
            .arg(QCoreApplication::applicationPid());
  (void)saveModel(
      model(),
      recoveryPath_.toStdString());  // a full disk must not interrupt the work; saving proper says it
}

void Document::dropRecovery() {
  if (!recoveryPath_.isEmpty()) QFile::remove(recoveryPath_);
  recoveryPath_.clear();
}

QStringList Document::leftBehind() {
  QStringList files;
  for (const QFileInfo& info :
       QDir(recoveryFolder()).entryInfoList({"*.lconduit"}, QDir::Files, QDir::Time)) {
    const auto pid = info.completeBaseName().section('-', -1).toLongLong();
    if (pid > 0 && ::kill(static_cast<pid_t>(pid), 0) == 0) continue;  // that program still runs
    files << info.filePath();
  }
  return files;
}

bool Document::recover(const QString& file) {
  auto model = loadModel(file.toStdString(), base_.get());
  if (!model) {
    emit refused(QString::fromStdString(model.error().front().what));
    return false;
  }
  replace(std::move(*model), {}, false);
  QFile::remove(file);
  keepRecovery();
  return true;
}

}  // namespace conduit::desktop
