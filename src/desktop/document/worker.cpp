#include "document/worker.h"

#include <map>

#include "find/remedies.h"
#include "model/offered_sizes.h"
#include "model/sizing_setup.h"
#include "network/assume.h"

namespace conduit::desktop {

struct WorkerMemory {
  Workspace space;
  std::shared_ptr<const Stock> stock;  // the workspace's, kept alive for it
  std::vector<Workspace> lanes;        // of the other cases
  std::map<CaseId, SolvedPtr> known;   // what was balanced last, to the end
  UnitSet lastUnits = UnitSet::siWater();
};

namespace {

std::shared_ptr<Solved> blank(const Worker::Work& work) {
  auto solved = std::make_shared<Solved>();
  solved->stamp = work.stamp;
  solved->id = work.current;
  solved->order = work.order;
  solved->network = work.network;
  solved->stock = work.stock;
  return solved;
}

// What is there already, as the answer to a later order.
SolvedPtr withOrder(const SolvedPtr& solved, std::uint64_t order) {
  auto again = std::make_shared<Solved>(*solved);
  again->order = order;
  return again;
}

// One piece of work, on the thread.
class Balancing {
 public:
  Balancing(const Worker::Work& work, WorkerMemory& memory, std::function<void(const SolvedPtr&)> done,
            std::stop_token stop)
      : work_(work), memory_(memory), done_(std::move(done)), stop_(std::move(stop)) {}
  void run();

 private:
  void note(const SolvedPtr& solved);
  SolvedPtr balance();
  SolvedPtr withRemedies(const SolvedPtr& solved);
  SolvedPtr withCurve(const SolvedPtr& solved);
  void balanceOthers();

  const Worker::Work& work_;
  WorkerMemory& memory_;
  std::function<void(const SolvedPtr&)> done_;
  std::stop_token stop_;
};

void Balancing::run() {
  // Answers of another model, stock or set of units say nothing here, except where to begin.
  if (memory_.stock != work_.stock) memory_.space.clear(), memory_.lanes.clear();
  memory_.stock = work_.stock;
  const auto known = memory_.known.find(work_.current);
  const bool same = known != memory_.known.end() && known->second->stamp == work_.stamp &&
                    known->second->stock == work_.stock && memory_.lastUnits == work_.units &&
                    work_.startFrom;
  if (!(memory_.lastUnits == work_.units)) memory_.known.clear();
  SolvedPtr solved = same ? withOrder(memory_.known[work_.current], work_.order) : balance();
  if (!solved) return;
  memory_.lastUnits = work_.units;
  note(solved);
  if (stop_.stop_requested()) return;
  if (const SolvedPtr more = withRemedies(solved)) note(solved = more);
  if (stop_.stop_requested()) return;
  if (const SolvedPtr more = withCurve(solved)) note(more);
  if (stop_.stop_requested()) return;
  balanceOthers();
}

void Balancing::note(const SolvedPtr& solved) {
  memory_.known[solved->id] = solved;
  done_(solved);
}

// Every case but the current one that is not known yet. What a stop leaves over waits for the next order.
void Balancing::balanceOthers() {
  std::erase_if(memory_.known, [&](const auto& each) { return !work_.model.cases.find(each.first); });
  std::vector<CaseId> wanted;
  for (const CaseId id : work_.model.cases.ids()) {
    const auto known = memory_.known.find(id);
    if (id != work_.current && (known == memory_.known.end() || known->second->stamp != work_.stamp ||
                                known->second->stock != work_.stock || !work_.startFrom))
      wanted.push_back(id);
  }
  if (wanted.empty()) return;
  const std::map<CaseId, SolvedPtr> before = memory_.known;
  CaseOptions options;
  options.units = work_.units;
  options.jobs.stop = stop_;
  options.spaces = &memory_.lanes;
  options.startFrom = [&](CaseId id) -> const Solution* {
    const auto known = before.find(id);
    return work_.startFrom && known != before.end() && known->second->usable() ? &known->second->solution
                                                                               : nullptr;
  };
  const auto solvedOf = [&](const CaseAnswerPtr& answer) {
    auto solved = std::make_shared<Solved>();
    static_cast<CaseAnswer&>(*solved) = *answer;
    solved->stamp = work_.stamp, solved->order = work_.order;
    solved->assumed = assumedIn(answer->network).size();
    solved->notJudged = notJudged(answer->network, answer->solution);
    return solved;
  };
  options.each = [&](const CaseAnswerPtr& answer) { note(solvedOf(answer)); };
  for (const CaseAnswerPtr& answer : balanceCases(work_.model, wanted, work_.stock, options))
    if (answer && !answer->fault.empty()) note(solvedOf(answer));
}

// Null when it was stopped.
SolvedPtr Balancing::balance() {
  const auto solved = blank(work_);
  SolveOptions options;
  options.units = work_.units;
  options.stop = stop_;
  options.workspace = &memory_.space;
  if (work_.startFrom) options.startFrom = &work_.startFrom->solution;
  solved->solution = solve(work_.network, work_.stock.get(), options);
  if (solved->solution.summary.verdict == Verdict::stopped) return nullptr;
  solved->findings = findings(work_.network, solved->solution, work_.units);
  onlyOffered(solved->findings, work_.network, work_.stock.get(), work_.model.of<SizingSetup>().ranges);
  solved->standing = standing(solved->findings);
  solved->assumed = assumedIn(work_.network).size();
  solved->notJudged = notJudged(work_.network, solved->solution);
  if (work_.startFrom && work_.startFrom->curveOf == work_.curveOf) {
    // The last curve, until the new one is there.
    solved->curveOf = work_.curveOf;
    solved->systemCurve = work_.startFrom->systemCurve;
  }
  return solved;
}

// What is impossible gets the changes that were tried. Null where there are none, or it was stopped.
SolvedPtr Balancing::withRemedies(const SolvedPtr& solved) {
  if (!solved->standing.onPaperOnly || solved->remediesTried) return nullptr;
  auto more = std::make_shared<Solved>(*solved);
  more->remediesTried = true;
  addTriedRemedies(more->findings, work_.network, solved->solution, work_.stock.get(), work_.units, stop_);
  onlyOffered(more->findings, work_.network, work_.stock.get(), work_.model.of<SizingSetup>().ranges);
  return stop_.stop_requested() ? nullptr : more;
}

// Null where no curve is wanted, or none can be drawn, or it was stopped.
SolvedPtr Balancing::withCurve(const SolvedPtr& solved) {
  const Element* pump = work_.curveOf == noId ? nullptr : work_.network.find(work_.curveOf);
  if (!pump || !pump->part->figure || !solved->solution.summary.usable()) return nullptr;
  const ReadingOf reading(work_.network, solved->solution, work_.curveOf);
  double most = 0.0;
  for (const FigureCurve& c : pump->part->figure(*reading))
    for (const auto& [x, y] : c.points) most = std::max(most, x);
  auto more = std::make_shared<Solved>(*solved);
  more->curveOf = work_.curveOf;
  more->systemCurve =
      systemCurve(work_.network, work_.stock.get(), solved->solution, {.members = {work_.curveOf}},
                  {.most_m3s = most, .units = work_.units, .jobs = {.stop = stop_}});
  return stop_.stop_requested() ? nullptr : more;
}

}  // namespace

Worker::Worker(QObject* parent)
    : QObject(parent),
      memory_(std::make_shared<WorkerMemory>()),
      home_(tr("Solving"), this, Background::Old::told) {}

void Worker::submit(Work work) {
  home_.begin([this, memory = memory_, work = std::move(work)](const Background::Post& post,
                                                               const std::stop_token& stop) {
    const auto tell = [&](const SolvedPtr& solved) { post([this, solved] { emit done(solved); }); };
    try {
      // What was overtaken while it waited is not begun.
      if (!stop.stop_requested()) Balancing(work, *memory, tell, stop).run();
    } catch (...) {
      // A mistake of ours, or no memory: the work goes on without an answer.
      *memory = {};
      const auto none = blank(work);
      none->fault = jobs::wordsOfException();
      tell(none);
    }
  });
}

}  // namespace conduit::desktop
