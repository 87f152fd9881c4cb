#include "cases/grid_edits.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "network/put.h"
#include "quantity/format.h"
#include "quantity/words.h"
#include "say/words.h"

namespace conduit {
namespace {

bool blank(std::string_view text) { return trimmed(text, " \t").empty(); }

}  // namespace

Result<EditedModel> setCells(const Model& model, std::span<const CellText> cells, const Stock* stock,
                             const UnitSet* units) {
  EditedModel edited{{}, model};
  std::size_t done = 0;
  // Cells of one case are one edit of its network; the drawing first, so that others keep what they say.
  std::map<CaseId, std::vector<const CellText*>> byCase;
  for (const CellText& cell : cells) byCase[cell.in].push_back(&cell);
  for (const auto& [in, all] : byCase) {
    const Case* which = edited.model.cases.find(in);
    if (!which) return Refused(Problem{{}, "this case no longer exists", {}});
    Draft draft(networkOf(edited.model, in));
    const auto begin = draft.network();
    std::vector<std::pair<Id, const CellText*>> back;
    for (const CellText* cell : all) {
      if (cell->kind == GridRow::Kind::about) {
        auto about = setAbout(edited.model, in, cell->key, cell->text, units);
        if (!about) return Refused(about.error());
        edited.model = std::move(about->model);
        ++done;
        continue;
      }
      for (const Id id : cell->elements) {
        if (!draft.network().find(id)) continue;
        ++done;
        if (blank(cell->text) && in != drawingCase) {
          back.emplace_back(id, cell);
          continue;
        }
        const std::string key =
            cell->kind == GridRow::Kind::given ? std::string(givenPrefix) + cell->key : cell->key;
        if (auto put = putText(draft, id, key, cell->text, stock, units); !put) return Refused(put.error());
      }
    }
    edited.model = withEdit(edited.model, in, std::move(draft).finish());
    for (const auto& [id, cell] : back)
      (void)edited.model.cases.find(in)->differs.inherit(id, cell->key, cell->kind == GridRow::Kind::given);
    const CellText& first = *all.front();
    edited.name = fmt::format(
        "Set {} of {} to {} in {}", spoken(first.key),
        first.elements.empty()       ? which->name
        : first.elements.size() == 1 ? nameOf(begin, first.elements.front())
                                     : fmt::format("{} elements", first.elements.size()),
        blank(first.text) ? "inherited" : first.text.substr(0, 40), edited.model.cases.find(in)->name);
  }
  if (done == 0) return Refused(Problem{{}, "these cells cannot be edited", {}});
  if (cells.size() > 1) edited.name = fmt::format("Set {} cells", cells.size());
  return edited;
}

Result<EditedModel> swapInCase(const Model& model, CaseId in, Id element, std::string_view key, bool outcome,
                               std::optional<double> found, const Stock* stock, const UnitSet& units) {
  const Network network = networkOf(model, in);
  const Element* e = network.find(element);
  const Case* which = model.cases.find(in);
  if (!e || !which) return Refused(Problem{{}, "this element no longer exists", {}});
  Remedy remedy;
  std::string words;
  if (outcome) {
    const Outcome* o = findOutcome(*e->part, key);
    if (!o) return Refused(Problem{{}, fmt::format("{} has no result {}", e->name, spoken(key)), {}});
    const bool given = e->values.goal(o->key) != nullptr;
    if (!given && !found)
      return Refused(Problem{{}, fmt::format("no results for {} yet: type the value", e->name), {}});
    words = fmt::format("{} the {} of {}", given ? "Solve for" : "Set", spoken(key), e->name);
    remedy.edits.push_back({nameOf(network, element), std::string(givenPrefix) + std::string(key),
                            given ? std::string() : exactText(*found, o->measure, units)});
  } else {
    const Field* f = findField(*e->part, key);
    if (!f || !f->releasable)
      return Refused(Problem{{}, fmt::format("the {} of {} cannot be solved for", spoken(key), e->name), {}});
    const bool released = e->values.released(f->key);
    words = fmt::format("{} the {} of {}", released ? "Set" : "Solve for", spoken(key), e->name);
    if (released && found)
      remedy.edits.push_back(
          {nameOf(network, element), std::string(key), exactText(*found, f->measure, units)});
    else
      remedy.edits.push_back(
          {nameOf(network, element), std::string(foundPrefix) + std::string(key), released ? "no" : "yes"});
  }
  auto edited = applyRemedy(network, remedy, stock, &units);
  if (!edited) return Refused(edited.error());
  return EditedModel{fmt::format("{} in {}", words, which->name), withEdit(model, in, edited->network)};
}

std::optional<RowWanted> readRow(std::string_view typed, const Network& network) {
  const std::string text(trimmed(typed, " \t"));
  const std::string small = lowered(text);
  RowWanted best;
  std::size_t length = 0;
  const auto look = [&](Id id, const std::string& name, const Part& part) {
    if (!small.starts_with(lowered(name)) || small.size() <= name.size() || small[name.size()] != ' ') return;
    const std::string_view rest = trimmed(std::string_view(text).substr(name.size()), " \t");
    const std::string low = lowered(rest);
    for (const Field& f : part.fields) {
      if (f.ofDrawing || f.kind == FieldKind::table) continue;
      for (const std::string& word : {lowered(f.key), lowered(spoken(f.key))}) {
        if (!low.starts_with(word) || (low.size() > word.size() && low[word.size()] != ' ' &&
                                       low[word.size()] != ':' && low[word.size()] != '='))
          continue;
        if (name.size() + word.size() <= length) continue;
        length = name.size() + word.size();
        best = {id, f.key, std::string(trimmed(rest.substr(word.size()), " \t:="))};
      }
    }
  };
  look(jobId, "job", *network.job().part);
  network.each([&](Id id, const Element& e) { look(id, e.name, *e.part); });
  return best.element == noId ? std::nullopt : std::optional(best);
}

}  // namespace conduit
