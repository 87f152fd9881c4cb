#include "sizing/task.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "cases/year.h"
#include "fields/keys.h"
#include "model/sizing_setup.h"
#include "network/setting.h"
#include "parts/pipe/line.h"
#include "sizing/choices.h"
#include "sizing/pairs.h"
#include "stock/sold.h"

namespace conduit {
namespace {

Problem fault(std::string what, std::string name = {}) {
  return {{std::move(name), ""}, std::move(what), {}};
}

}  // namespace

const PipeSize& notLaid() {
  static const PipeSize none{.standard = "not",
                             .nominal = "laid",
                             .schedule = {},
                             .material = {},
                             .mass_kgm = 0.0,
                             .rating_pa = {},
                             .costPerMetre = 0.0,
                             .source = {}};
  return none;
}

void giveSize(Draft& draft, Id line, const PipeSize& size) { giveSize(draft.values(line), size); }
void giveSize(Values& v, const PipeSize& size) {
  if (&size == &notLaid()) {
    v.set(pipe::laidKey, false);
    return;
  }
  // Once said, it stays said: a sizing may then lay it not.
  if (v.find(pipe::laidKey)) v.set(pipe::laidKey, true);
  v.clear(key::bore);
  v.set(key::size, size.name());
}

double costOfMetre(const SizingSetup& setup, Id line, const PipeSize& size) {
  if (&size == &notLaid()) return 0.0;
  const LayingClass* c = setup.layingOf(line);
  return size.costPerMetre.value_or(0.0) + (c ? c->perMetre + c->byDiameter * size.outside_m : 0.0);
}

SizingOptions optionsOf(const SizingSetup& setup) {
  SizingOptions o{.ranges = setup.ranges,
                  .kept = setup.left,
                  .seed = static_cast<std::uint64_t>(sizingNumber(setup.about, sizing::seed)),
                  .trials = static_cast<std::size_t>(sizingNumber(setup.about, sizing::trials)),
                  .seconds = sizingNumber(setup.about, sizing::seconds)};
  const std::string* least = setup.about.get<std::string>(sizing::least);
  for (const Objective w : {Objective::wholeLife, Objective::laid, Objective::mass})
    if (least && *least == sizing::wanted[static_cast<std::size_t>(w)]) o.objective = w;
  for (const TiedLines& t : setup.tied) o.tied.push_back(t.lines);
  o.alone = setup.alone;
  o.tolerance = sizingNumber(setup.about, sizing::tolerance);
  o.deliveries = setup.deliveries;
  if (const bool* equal = setup.about.get<bool>(sizing::equalVolume)) o.equalVolume = *equal;
  return o;
}

Result<SizingTask> sizingTask(const Model& model, const SizingOptions& options,
                              const std::shared_ptr<const Stock>& stock, const UnitSet& units) {
  SizingTask task{
      .model = model, .options = options, .prices = pricesOf(model.costs), .stock = stock, .units = units};
  for (const CaseId id : model.cases.ids())
    if (flagOf(*model.cases.find(id), cases::counts)) task.cases.push_back(id);
    else if (hoursOf(model, id) > 0) task.alsoRun.push_back(id);
  if (task.cases.empty()) return tl::unexpected(fault("no case is used for sizing"));
  const Network& n = model.drawn;
  const std::set<Id> kept(options.kept.begin(), options.kept.end());
  std::set<Id> done;
  const auto bySize = [](const PipeSize* a, const PipeSize* b) { return a->name() < b->name(); };
  std::set<const PipeSize*, decltype(bySize)> unpriced(bySize);
  const auto setting = settingOf(n, stock.get());
  if (!setting) return tl::unexpected(setting.error());
  for (const BranchGoal& b : model.of<SizingSetup>().branches)
    if (b.flow.basis == Basis::molar && !(setting->medium.molarMass_kgkmol > 0))
      return tl::unexpected(fault(
          fmt::format("the flow of a branch is given in moles ({}), and the liquid's molar mass is not known",
                      b.flow.typed)));
  for (const SizeRange& r : options.ranges) {
    if (r.service.empty() || setting->services.contains(r.service)) continue;
    const Id line = n.byName(r.service);
    if (line == noId || !n.at(line).part->line)
      return tl::unexpected(fault(fmt::format("sizes {}: no service or line {}", said(r), r.service)));
  }
  const auto sizesFor = [&](const Element& e) -> std::vector<const PipeSize*> {
    if (!options.ranges.empty()) return sizesOffered(*stock, options.ranges, e);
    const std::string* name = e.text(key::size);
    const PipeSize* size = name ? stock->pipe(*name) : nullptr;
    return size ? soldWith(*size, *stock) : std::vector<const PipeSize*>{};
  };
  const auto add = [&](const std::vector<Id>& lines) {
    SizingRow row;
    for (const Id id : lines) {
      const Element* e = n.find(id);
      if (!e || !e->part->line || kept.contains(id) || done.contains(id)) continue;
      done.insert(id);
      const std::string* section = e->text(key::section);
      if (e->values.released(key::bore) || e->values.released(key::size)) {
        task.left.push_back({id, "its bore is already solved for"});
        continue;
      }
      if (section && *section != "round") {
        task.left.push_back({id, "not round"});
        continue;
      }
      auto sizes = sizesFor(*e);
      std::erase_if(sizes, [&](const PipeSize* s) {
        const bool lacks = options.objective == Objective::mass ? !s->mass_kgm : !s->costPerMetre;
        if (lacks) unpriced.insert(s);
        return lacks;
      });
      if (sizes.empty()) {
        task.left.push_back({id, sizesFor(*e).empty() ? options.ranges.empty()
                                                            ? "no catalogue size, and no available sizes set"
                                                            : "none of the available sizes is for it"
                                 : options.objective == Objective::mass
                                     ? "its sizes have no mass in the catalogue"
                                     : "its sizes have no cost in the catalogue"});
        continue;
      }
      const bool* laid = e->values.get<bool>(pipe::laidKey);
      if (laid) sizes.insert(sizes.begin(), &notLaid());
      if (row.sizes.empty()) row.sizes = sizes;
      const Geometry g = e->part->geometry(e->values, *setting);
      row.lines.push_back(id);
      row.length_m += g.length_m.value_or(0.0);
      row.laid.resize(row.sizes.size(), 0.0);
      for (std::size_t s = 0; s < row.sizes.size(); ++s)
        row.laid[s] += g.length_m.value_or(0.0) * costOfMetre(model.of<SizingSetup>(), id, *row.sizes[s]);
      const std::string* now = e->text(key::size);
      const PipeSize* size = laid && !*laid ? &notLaid() : now ? stock->pipe(*now) : nullptr;
      const auto at = std::find(row.sizes.begin(), row.sizes.end(), size);
      const std::optional<std::size_t> here =
          at == row.sizes.end() ? std::nullopt
                                : std::optional(static_cast<std::size_t>(at - row.sizes.begin()));
      if (row.lines.size() == 1) row.now = here;
      else if (row.now != here) row.now.reset();
    }
    if (!row.lines.empty()) task.rows.push_back(std::move(row));
  };
  for (const auto& tied : options.tied) add(tied);
  if (options.pairs) {
    std::vector<Id> apart = options.alone;
    apart.insert(apart.end(), kept.begin(), kept.end());
    apart.insert(apart.end(), done.begin(), done.end());
    for (const TiedLines& pair : flowAndReturn(model, apart)) {
      // Of one standard and one list: what may be left out stands by itself.
      std::vector<std::pair<std::vector<const PipeSize*>, std::vector<Id>>> alike;
      for (const Id id : pair.lines) {
        const Element& e = n.at(id);
        if (e.value(pipe::laidKey)) continue;
        auto sizes = sizesFor(e);
        const auto same =
            std::find_if(alike.begin(), alike.end(), [&](const auto& a) { return a.first == sizes; });
        if (same != alike.end()) same->second.push_back(id);
        else alike.push_back({std::move(sizes), {id}});
      }
      for (const auto& [sizes, lines] : alike)
        if (const std::size_t rows = task.rows.size(); lines.size() > 1) {
          add(lines);
          if (task.rows.size() > rows) task.rows.back().pair = task.rows.back().lines.size() > 1;
        }
    }
  }
  n.each([&](Id id, const Element& e) {
    if (e.part->line && kept.contains(id)) task.left.push_back({id, "fixed"});
    else if (e.part->line && !done.contains(id)) add({id});
  });
  if (task.rows.empty())
    return tl::unexpected(
        fault(task.left.empty() ? "no line to size"
                                : fmt::format("no line can be sized: {}: {}",
                                              n.at(task.left.front().first).name, task.left.front().second)));
  for (const PipeSize* s : unpriced) task.leftOut.push_back(s->name());
  return task;
}

std::size_t trialsOf(const SizingTask& task) {
  return task.options.trials > 0 ? task.options.trials
                                 : std::min<std::size_t>(320, 60 + 12 * task.rows.size());
}

}  // namespace conduit
