#include "read_model.h"

#include <fmt/format.h>

#include "command_line.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "json.h"
#include "json/utf8.h"
#include "quantity/format.h"

namespace conduit::cli {

std::optional<Model> modelFrom(const std::string& file, std::ostream& err) {
  auto model = loadModel(file, &shippedStock());
  if (model) return std::move(*model);
  for (const Problem& p : model.error()) err << plainUtf8(p.what) << '\n';
  return std::nullopt;
}

std::optional<UnitSet> unitsOf(const Model& model, const std::string& wanted, std::ostream& err) {
  const Element& job = model.drawn.job();
  const auto* own = job.text("units");
  const UnitSet* set = UnitSet::find(wanted.empty() ? (own ? *own : "SI water") : wanted);
  if (!set && !wanted.empty()) {
    err << fmt::format("unknown unit set \"{}\"; choose", wanted);
    for (const UnitSet& s : UnitSet::all()) err << " \"" << s.name() << '"';
    err << '\n';
    return std::nullopt;
  }
  if (!set) set = &UnitSet::siWater();
  const auto* single = job.text("own units");
  return wanted.empty() && single ? set->with(*single) : *set;
}

std::optional<Opened> opened(const std::string& file, const std::string& inCase, const std::string& units,
                             std::ostream& err) {
  auto model = modelFrom(file, err);
  if (!model) return std::nullopt;
  const auto shown = unitsOf(*model, units, err);
  if (!shown) return std::nullopt;
  const Case* which = inCase.empty() ? model->cases.find(drawingCase) : model->cases.byName(inCase);
  if (!which) {
    err << noSuchCase(*model, inCase) << '\n';
    return std::nullopt;
  }
  const CaseId in = which->id;
  return Opened{std::move(*model), *shown, in};
}

std::string noSuchCase(const Model& model, const std::string& name) {
  std::string known;
  for (const CaseId id : model.cases.ids())
    known += fmt::format("{}\"{}\"", known.empty() ? "" : ", ", model.cases.find(id)->name);
  return plainUtf8(fmt::format("no case \"{}\"; cases: {}", name, known));
}

std::string quotedJson(const std::string& text) { return Json(plainUtf8(text)).dump(); }

std::vector<std::string> namesIn(const std::string& list) {
  std::vector<std::string> names;
  for (std::size_t begin = 0; begin <= list.size();) {
    const std::size_t end = std::min(list.find(',', begin), list.size());
    std::string name = list.substr(begin, end - begin);
    name.erase(0, name.find_first_not_of(' '));
    name.erase(name.find_last_not_of(' ') + 1);
    if (!name.empty()) names.push_back(std::move(name));
    begin = end + 1;
  }
  return names;
}

std::optional<std::vector<Id>> idsIn(const Network& network, const std::string& list, std::ostream& err,
                                     std::string_view kind, std::string_view what) {
  std::vector<Id> ids;
  for (const std::string& name : namesIn(list)) {
    ids.push_back(network.byName(name));
    if (ids.back() != noId && (kind.empty() || network.at(ids.back()).part->key == kind)) continue;
    unusable(err, fmt::format("there is no {} {} in this model", what, quotedJson(name)));
    return std::nullopt;
  }
  if (!ids.empty()) return ids;
  unusable(err, fmt::format("{} names no {}", quotedJson(list), what));
  return std::nullopt;
}

std::string shownIn(const UnitSet& units, std::optional<double> si, Measure measure, int significant) {
  return si ? withUnit(*si, measure, units, significant) : "-";
}

int unusable(std::ostream& err, const std::string& why) {
  err << plainUtf8(why) << '\n';
  return unusableInput;
}

int ended(int status, std::ostream& out, std::ostream& err) {
  if (out.flush()) return status;
  return unusable(err, "the result could not be written in full: the output is full or closed");
}

}  // namespace conduit::cli
