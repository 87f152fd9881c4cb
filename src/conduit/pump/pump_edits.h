// What the study of pumps gives back to the model, each one step of undo.
#pragma once

#include "cases/case_edits.h"
#include "pump/selection.h"
#include "pump/supply_curve.h"

namespace conduit {

/// A new case with the differences that make `from` into `wanted`, under a name that is free; `said` names
/// the step of undo.
[[nodiscard]] Result<EditedModel> caseWith(const Model& model, CaseId from, std::string name,
                                           const Network& wanted, std::string said);
/// A case of its own in which an item of the stock stands in the place of a pump; differs from `from`.
/// `units` here and below as of asItem.
[[nodiscard]] Result<EditedModel> tryItem(const Model& model, CaseId from, Id pump, std::string_view item,
                                          std::optional<double> units = {});
/// The item put into the drawing: in the place of a pump, or as a new pump at a would-be supply. Cases keep
/// what they differ in.
[[nodiscard]] Result<EditedModel> takeItem(const Model& model, Id place, std::string_view item,
                                           std::optional<double> units = {});
/// A copy of the model in which the item stands at a would-be supply: a proposal, set beside the drawing.
[[nodiscard]] Result<Model> proposal(const Model& model, Id place, std::string_view item,
                                     std::optional<double> units = {});

/// What a reading of a system curve holds: a head that each pump of the group gives, or a flow that it
/// passes.
struct CurveReading {
  double flow_m3s = 0.0, head_m = 0.0;
  bool byHead = false;  // the head was asked for and the flow read, else the reverse
  Id rest = noId;       // the supply that alone makes up the rest (see restFrom); noId: all act as they would
};
/// A reading given back as a case; its balance gives the same flow (or head). Of pumps: they are described by
/// it; of a would-be supply: it holds the head read.
[[nodiscard]] Result<EditedModel> caseOfReading(const Model& model, CaseId from, const Stock* stock, Id place,
                                                const PumpGroup& group, const CurveReading& reading);
[[nodiscard]] Result<EditedModel> caseOfShared(const Model& model, CaseId from, const Stock* stock,
                                               const SharedSupply& shared, const SharedPoint& point);

}  // namespace conduit
