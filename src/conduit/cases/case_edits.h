// The named edits of cases, and edits of the network made while a case is the current one. Each looks at a
// model and gives back a new one; nothing is ever half done.
//
//   Network shown = networkOf(model, night);
//   auto edited = setField(shown, pump, "running", "no", stock, &units);
//   Model next = withEdit(model, night, *edited);     // a difference of that case
#pragma once

#include "model/model.h"
#include "model/sizing_setup.h"
#include "model/sweep_setup.h"
#include "model/watched.h"
#include "network/edits.h"

namespace conduit {

/// The network as it is in a case: the drawing with all differences on the way down laid over it. Everything
/// that can read a Network reads a case. A case that is not there is the drawing.
[[nodiscard]] Network networkOf(const Model& model, CaseId id);

struct EditedModel {
  std::string name;  // "Add case Refill"
  Model model;
  CaseId made = noCase;  // a new case, to be the current one
};

/// An edit of `networkOf(model, id)`. Where it changes fields and given outcomes alone, they become
/// differences of this case (what is then as inherited differs no more). What it changes of the structure,
/// of names and places, and fields that are of the drawing, holds for all cases; with a change of the
/// structure go the fields that it changes (the lengths of a split line).
[[nodiscard]] Model withEdit(const Model& model, CaseId id, const Network& edited);
/// Whether an edit of `before` changes more than fields and given outcomes of a case.
[[nodiscard]] bool isStructural(const Network& before, const Network& edited);

/// A new case from `parent`, with no difference yet. An empty name takes the next free "Case 2".
[[nodiscard]] Result<EditedModel> addCase(const Model& model, std::string_view name, CaseId parent);
/// A new case with all that `like` differs in, and its parent.
[[nodiscard]] Result<EditedModel> copyCase(const Model& model, CaseId like);
/// Cases that derive from it keep their values and derive from its parent. The drawing cannot be removed.
[[nodiscard]] Result<EditedModel> removeCase(const Model& model, CaseId id);
[[nodiscard]] Result<EditedModel> renameCase(const Model& model, CaseId id, std::string_view name);
/// Keeps its own differences; what it inherits changes. Refused where it would derive from itself.
[[nodiscard]] Result<EditedModel> setParent(const Model& model, CaseId id, CaseId parent);
/// Hours, remark, counts, issued (see caseFields) as typed; an empty text clears. The drawing's hours are
/// those of the costs.
[[nodiscard]] Result<EditedModel> setAbout(const Model& model, CaseId id, std::string_view key,
                                           std::string_view text, const UnitSet* units);
/// One of the costs as typed.
[[nodiscard]] Result<EditedModel> setCost(const Model& model, std::string_view key, std::string_view text,
                                          const UnitSet* units);
/// What is asked of a pump at a place (see pumpRequestFields), as typed; an empty text clears.
[[nodiscard]] Result<EditedModel> setAsked(const Model& model, Id at, std::string_view key,
                                           std::string_view text, const UnitSet* units);
/// Of the sizing's numbers (see sizingFields) one as typed; an empty text clears.
[[nodiscard]] Result<EditedModel> setSizing(const Model& model, std::string_view key, std::string_view text,
                                            const UnitSet* units);
/// The whole set-up of the sizing; `name` says what changes.
[[nodiscard]] EditedModel withSizing(const Model& model, std::string name, SizingSetup setup);
/// To another place beside the others, from 0.
[[nodiscard]] Result<EditedModel> moveCase(const Model& model, CaseId id, std::size_t to);

/// One field (or given outcome) of elements, as inherited again.
[[nodiscard]] Result<EditedModel> inherit(const Model& model, CaseId id, std::span<const Id> elements,
                                          std::string_view key, bool outcome);
/// What a case differs in of one element (of one field, where a key is given), in the drawing for all cases
/// instead. Cases with values of their own keep those.
[[nodiscard]] Result<EditedModel> giveToAll(const Model& model, CaseId id, Id element,
                                            std::string_view key = {}, bool outcome = false);
/// The drawing takes all values of the case. Those that hold in every other case stay as they are.
[[nodiscard]] Result<EditedModel> makeDrawing(const Model& model, CaseId id);

/// What the sweep varies and draws; read when it is run.
[[nodiscard]] Result<EditedModel> setSweep(const Model& model, SweepSetup sweep);

/// Watches an outcome, or no longer (by its place in the list).
[[nodiscard]] Result<EditedModel> watch(const Model& model, Watched watched);
[[nodiscard]] Result<EditedModel> unwatch(const Model& model, std::size_t which);

}  // namespace conduit
