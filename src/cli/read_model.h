// What commands that take a model have in common: its units, its cases by name, how they refuse and end.
#pragma once

#include <optional>
#include <ostream>
#include <string>
#include <vector>

#include "model/model.h"

namespace conduit::cli {

/// The model of a file; empty, with every problem on `err`, where it cannot be read.
[[nodiscard]] std::optional<Model> modelFrom(const std::string& file, std::ostream& err);
/// The set of that name, else the model's own, with the job's own units where none was asked for. Empty, with
/// a message on `err`, where there is no such set.
[[nodiscard]] std::optional<UnitSet> unitsOf(const Model& model, const std::string& wanted,
                                             std::ostream& err);
/// All three of a command that works on one case: the model of a file, its units, the case (the drawing where
/// none is named). Empty, with messages on `err`, where one of them is not there.
struct Opened {
  Model model;
  UnitSet units = UnitSet::siWater();
  CaseId in = drawingCase;
};
[[nodiscard]] std::optional<Opened> opened(const std::string& file, const std::string& inCase,
                                           const std::string& units, std::ostream& err);
/// "there is no case "Frost"; there are "Base case", "Refill"".
[[nodiscard]] std::string noSuchCase(const Model& model, const std::string& name);
/// A text in quotes as JSON has it.
[[nodiscard]] std::string quotedJson(const std::string& text);
/// The names of a list separated by commas, without the blanks around them; empty ones are left out.
[[nodiscard]] std::vector<std::string> namesIn(const std::string& list);
/// The elements of a list of names separated by commas, `kind` each where one is wanted, called `what`.
/// Empty, with a message on `err`, where one is not drawn or none is named.
[[nodiscard]] std::optional<std::vector<Id>> idsIn(const Network& network, const std::string& list,
                                                   std::ostream& err, std::string_view kind = {},
                                                   std::string_view what = "element");
/// A value with its unit as tables show it; "-" where nothing determines it.
[[nodiscard]] std::string shownIn(const UnitSet& units, std::optional<double> si, Measure measure,
                                  int significant);

/// Says why the input cannot be used; the exit status for it.
int unusable(std::ostream& err, const std::string& why);
/// `status` if all output was written; else says that it was not, and the exit status for that.
[[nodiscard]] int ended(int status, std::ostream& out, std::ostream& err);

}  // namespace conduit::cli
