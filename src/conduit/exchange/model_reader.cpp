// Reading the model file: a quick parser's tree, walked once.
#include <fmt/format.h>
#include <simdjson.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <set>

#include "exchange/base64.h"
#include "exchange/json_places.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "fields/entry.h"
#include "fields/keys.h"
#include "json/entry_fields.h"
#include "json/limits.h"
#include "json/utf8.h"
#include "model/costs.h"
#include "model/pump_request.h"
#include "model/sweep_setup.h"
#include "model/watched.h"
#include "network/edits.h"
#include "network/put.h"
#include "parts/point.h"
#include "parts/registry.h"
#include "quantity/format.h"
#include "quantity/parse.h"
#include "quantity/words.h"
#include "studies/registry.h"

namespace conduit {
namespace {

using namespace model_json;

class Reader {
 public:
  /// `padded`: behind the text there is as much room as the quick reader wants to look at.
  Reader(std::string_view text, const Stock* stock, bool padded)
      : text_(text), stock_(stock), padded_(padded) {}

  tl::expected<Model, ModelProblems> read() {
    simdjson::dom::parser parser;
    Json root;
    std::string rewritten;
    const auto allocated = parser.allocate(std::max<std::size_t>(text_.size(), 64), nestingMost + 1);
    if (allocated || parser.parse(text_.data(), text_.size(), !padded_).get(root)) {
      if (const std::string why = beyondShape(text_, "a model"); !why.empty()) return failed({}, why);
      // The quick reader says too little of a fault, and knows no number beyond 64 bits: the slow one says
      // what is wrong, or rewrites it.
      auto again = readSlowly(text_);
      if (!again) return failed({}, again.error());
      rewritten = std::move(*again);
      if (const auto why = parser.parse(rewritten).get(root))
        return failed({}, fmt::format("this cannot be read: {}", simdjson::error_message(why)));
    }
    if (std::string_view format; root["format"].get(format) || format != "level-conduit")
      return failed(
          {}, "this is not a Level Conduit model: it does not begin with \"format\": \"level-conduit\"");
    std::int64_t version = 0;
    if (root["version"].get(version)) return failed({}, "\"version\" must be a whole number");
    const Object all = root;
    crowded_ = all.size() > keysMost;
    if (version > modelVersion)
      return failed({}, fmt::format("model file version {} is newer than this program reads (up to {}). Open "
                                    "it with a newer release",
                                    version, modelVersion));
    if (version < 1) return failed({}, fmt::format("unknown model file version {}", version));
    Extra top;
    std::set<std::string_view> keys;
    for (const auto& [key, value] : all) {
      within(key);
      // Which of two is meant nobody can say.
      if (!keys.insert(key).second) problem("", "", fmt::format("\"{}\" is given twice", key));
      if (key == "stock") readStock(value);
      else if (key == "files") readFiles(value);
      // Entries of these two are looked at one by one, as they are read.
      if (key != "points" && key != "elements") crowded_ = crowded_ || crowded(value);
    }
    if (!enclosed_.stock.empty() && stock_) {
      merged_ = laidOver(*stock_, enclosed_.stock);
      stock_ = &merged_;
    }
    if (!enclosed_.stock.empty() || !enclosed_.files.empty()) draft_.enclose(enclosed_);
    for (const auto& [key, value] : all) {
      within(key);
      if (key == "job") readJob(value);
      else if (key == "points") points_ = value;
      else if (key == "elements") elements_ = value;
      else if (key == "costs" && version > 1) readCosts(value);
      else if (key == casesKey && version > 1) cases_ = value;
      else if (const Study* study = studyOf(key); study && version > 1) studies_.push_back({study, value});
      else if (version == 1 && (key == "costs" || key == casesKey || key == "sheet" || study))
        top.add(fmt::format("{} (version 1)", key), value);
      else if (key != "format" && key != "version" && key != "stock" && key != "files") top.add(key, value);
    }
    if (!top.empty() || !jobExtra_.empty()) {
      Extra extra;
      if (!top.empty()) extra.addText(key::file, top.text());
      if (!jobExtra_.empty()) extra.addText("job", jobExtra_.text());
      draft_.keepExtra(jobId, extra.text());
    }
    std::size_t entries = 1;
    for (const auto& list : {points_, elements_})
      if (Array a; list && !list->get(a)) entries += a.size();
    draft_.reserve(entries);
    if (points_) readList(*points_, "points", [&](const Object& o) { readPoint(o); });
    if (elements_) readList(*elements_, "elements", [&](const Object& o) { readElement(o); });
    if (cases_) readCases(*cases_);
    for (const auto& [study, value] : studies_) readStudy(*study, value);
    if (crowded_) return failed({}, beyondShape(text_, "a model"));
    if (!problems_.empty()) return tl::unexpected(std::move(problems_));
    model_.drawn = std::move(draft_).finish();
    return std::move(model_);
  }

 private:
  tl::unexpected<ModelProblems> failed(Place place, std::string what) {
    return tl::unexpected(ModelProblems{{std::move(place), std::move(what), {}}});
  }

  // The line of a field of what is being read, else of the whole of that.
  std::string where(const std::string& field) {
    if (!places_) places_.emplace(text_);  // only once something is wrong
    const auto at = places_->find(key_, entry_, field);
    return at ? fmt::format("line {}: ", lineOfOffset(text_, *at)) : std::string();
  }
  void problem(const std::string& name, const std::string& field, const std::string& what) {
    if (problems_.size() < 200)
      problems_.push_back({{name, field}, where(field) + (name.empty() ? "" : name + ": ") + what, {}});
  }
  void within(std::string_view key) { key_ = key, entry_ = 0; }

  template <class Take>
  void readList(const Json& value, const char* what, Take take) {
    within(what);
    Array list;
    if (value.get(list)) return problem("", "", fmt::format("\"{}\" must be a list", what));
    for (const Json entry : list) {
      Object o;
      if (entry.get(o)) {
        problem("", "", fmt::format("every entry of \"{}\" must be an object", what));
      } else {
        ++entry_;
        take(o);
      }
    }
  }

  // A first file knew nothing of studies: what it has under such a key is somebody else's and keeps apart.
  static const Study* studyOf(std::string_view key) {
    for (const Study* study : allStudies())
      if (study->key == key) return study;
    return nullptr;
  }

  void readCosts(const Json& value) {
    Object o;
    if (value.get(o)) return problem("", "", "\"costs\" must be an object");
    Fields fields = fieldsOf(o, costFields(), "costs", {});
    for (const Fault& fault : fields.faults) problem("costs", fault.field, fault.what);
    if (!fields.extra.empty()) model_.costsExtra = fields.extra.text();
    model_.costs = std::move(fields.values);
  }

  void readJob(const Json& value) {
    Object o;
    if (value.get(o)) return problem("", "", "\"job\" must be an object");
    Fields fields = fieldsOf(o, *draft_.network().job().part, {});
    jobExtra_ = std::move(fields.extra);
    takeFields(std::move(fields), jobId, "job");
  }

  // Entries of the engineer's own stock that travel with the model: for each list its rows as objects of its
  // columns.
  void readStock(const Json& value) {
    Object o;
    if (value.get(o)) return problem("", "stock", "\"stock\" must be an object of lists");
    for (const auto& [file, rowsOfIt] : o) {
      const StockList* list = nullptr;
      for (const StockList& l : stockLists())
        if (l.file == file) list = &l;
      Array rows;
      if (!list || rowsOfIt.get(rows)) {
        problem("", "stock", fmt::format("\"stock\": \"{}\" is not a catalogue list", file));
        continue;
      }
      if (rows.size() > stockRowsMost) {
        problem("", "stock",
                fmt::format("\"stock\": \"{}\" has more than {} rows", file, digits(stockRowsMost, 1)));
        continue;
      }
      StockIndex index;
      for (const Json row : rows) {
        std::vector<std::string> cells;
        for (const std::string_view column : list->columns) {
          Json cell;
          cells.push_back(row.is_object() && !row.at_key(column).get(cell) ? asText(cell).value_or("")
                                                                           : std::string());
        }
        if (const auto put = putStockRow(enclosed_.stock, std::string(file), cells, Origin::model, &index);
            !put)
          problem("", "stock", fmt::format("stock, {}: {}", file, put.error().what));
      }
    }
  }

  void readFiles(const Json& value) {
    Object o;
    if (value.get(o)) return problem("", "files", "\"files\" must be an object of texts");
    std::size_t all = 0;
    for (const auto& [name, content] : o) {
      std::string_view text;
      const bool isText = !content.get(text);
      if (isText) all += text.size() / 4 * 3;
      if (all > enclosedBytesMost)
        return problem("", "files",
                       fmt::format("\"files\" exceed {} MiB; the rest is not read", enclosedBytesMost >> 20));
      const auto bytes = isText ? fromBase64(text) : std::nullopt;
      if (!bytes) problem("", "files", fmt::format("\"files\": \"{}\" is not base64", name));
      else enclosed_.files[std::string(name)] = *bytes;
    }
  }

  // Of an element: it is not taken yet.
  std::optional<std::string_view> nameOf(const Object& o) {
    std::string_view name;
    if (o.at_key("name").get(name) || name.empty()) {
      problem("", "name", fmt::format("an entry has no \"name\": {}", cut(simdjson::minify(o), 80)));
      return std::nullopt;
    }
    if (const std::string fault = nameFault(name); !fault.empty()) {
      problem("", "name", fmt::format("\"{}\" is not a valid name: {}", cut(name, 60), fault));
      return std::nullopt;
    }
    if (draft_.network().byName(name) != noId) {
      problem(std::string(name), "name", "duplicate name");
      return std::nullopt;
    }
    return name;
  }

  Spot spotOf(const Object& o, std::string_view name) {
    Json at;
    if (o.at_key("at").get(at)) return {};
    Array pair;
    Spot s;
    if (!at.get(pair) && pair.size() == 2 && !pair.at(0).get(s.x) && !pair.at(1).get(s.y) &&
        std::abs(s.x) < 1e8 && std::abs(s.y) < 1e8)
      return s;
    problem(std::string(name), "at", "\"at\" must be two numbers: metres east and north on the drawing");
    return {};
  }

  std::optional<Id> pointOf(const Object& o, const char* key, std::string_view name) {
    std::string_view text;
    const auto refused = [&](const std::string& why) {
      problem(std::string(name), key, why);
      return std::nullopt;
    };
    if (o.at_key(key).get(text)) return refused(fmt::format("\"{}\" must name a point", key));
    const Id id = draft_.network().byName(text);
    if (id == noId) return refused(fmt::format("\"{}\" refers to {}, which does not exist", key, text));
    if (draft_.network().at(id).part->ends != Ends::self)
      return refused(fmt::format("\"{}\" refers to {}, which is a {}; ends must connect to points", key, text,
                                 draft_.network().at(id).part->key));
    return id;
  }

  // The fields of an entry; what no model has is marked.
  [[nodiscard]] Fields fieldsOf(const Object& o, std::span<const Field> fields, std::string_view of,
                                std::span<const std::string_view> handled, std::size_t beside = 0) {
    Fields read = model_json::fieldsOf(o, fields, of, handled, stock_, beside);
    crowded_ = crowded_ || read.crowded;
    return read;
  }
  [[nodiscard]] Fields fieldsOf(const Object& o, const Part& part,
                                std::span<const std::string_view> handled) {
    return fieldsOf(o, part.fields, part.key, handled, keysBeside(part.ends));
  }
  // How many keys of an entry say what and where it is: a pipe has its name, its kind and two ends. What is
  // left is room for fields; a large network is half of that.
  static std::size_t keysBeside(Ends ends) {
    switch (ends) {
      case Ends::none: return 0;
      case Ends::self: return 2;
      case Ends::two: return 4;
      default: return 3;
    }
  }
  // Puts them into an element that is there.
  void takeFields(Fields read, Id id, const std::string& name) {
    for (const Fault& fault : read.faults) problem(name, fault.field, fault.what);
    draft_.values(id) = std::move(read.values);
    putOutcomes(read, id, name);
  }
  void putOutcomes(const Fields& read, Id id, std::string_view name) {
    for (const auto& [outcome, text] : read.given)
      if (const auto put = putText(draft_, id, std::string(givenPrefix) + outcome, text, stock_, nullptr);
          !put)
        problem(std::string(name), "given", put.error().what);
  }

  // One more element with what was read of it; `name` is the file's.
  void take(Element element, Fields fields, std::string_view name) {
    element.name = std::string(name);
    for (const Fault& fault : fields.faults) problem(element.name, fault.field, fault.what);
    element.values = std::move(fields.values);
    if (!fields.extra.empty()) element.extra = fields.extra.text();
    const Id id = draft_.addNew(std::move(element));
    putOutcomes(fields, id, name);
  }

  void readPoint(const Object& o) {
    const auto name = nameOf(o);
    if (!name) return;
    Element point;
    point.part = &point::part;
    point.at = spotOf(o, *name);
    Fields fields = fieldsOf(o, *point.part, std::array<std::string_view, 2>{"name", "at"});
    take(std::move(point), std::move(fields), *name);
  }

  void readElement(const Object& o) {
    const auto name = nameOf(o);
    if (!name) return;
    const auto refused = [&](const char* field, const std::string& why) {
      problem(std::string(*name), field, why);
    };
    std::string_view kind;
    if (o.at_key("kind").get(kind)) return refused("kind", "\"kind\" must be a text");
    const Part* part = findPart(kind);
    if (!part || part->ends == Ends::none || part->ends == Ends::self) {
      std::string known;
      for (const Part* p : allParts())
        if (p->ends != Ends::none && p->ends != Ends::self)
          known += (known.empty() ? "" : ", ") + std::string(p->key);
      return refused("kind", fmt::format("unknown kind \"{}\"; valid: {}", kind, known));
    }
    Element element;
    element.part = part;
    Rows connections;
    if (part->ends == Ends::two) {
      const auto from = pointOf(o, "from", *name), to = pointOf(o, "to", *name);
      if (!from || !to) return;
      if (*from == *to) return refused("to", "starts and ends at the same point");
      element.ends = {*from, *to};
    } else if (part->ends == Ends::one) {
      const auto point = pointOf(o, "point", *name);
      if (!point) return;
      element.ends = {*point};
    } else if (Json value; part->ends == Ends::many && !o.at_key(key::connections).get(value)) {
      Array list;
      if (value.get(list)) return refused(key::connections, "\"connections\" must be a list");
      const Field& field = *findField(*part, key::connections);
      TypedRows typed;
      for (const Json entry : list) {
        Object c;
        if (entry.get(c)) return refused(key::connections, "each connection must be an object");
        const auto point = pointOf(c, "point", *name);
        if (!point) return;
        element.ends.push_back(*point);
        std::vector<Fault> faults;
        auto cells = cellsOf(field, c, faults);
        if (!cells) return refused(faults[0].field.c_str(), faults[0].what);
        typed.push_back(std::move(*cells));
      }
      auto rows = readRows(field, typed, nullptr);
      if (!rows) return refused(key::connections, rows.error().what);
      connections = std::move(*rows);
    }
    if (part->ends == Ends::many || part->ends == Ends::free) element.at = spotOf(o, *name);
    Fields fields =
        fieldsOf(o, *part, std::array<std::string_view, 6>{"name", "kind", "from", "to", "point", "at"});
    if (!connections.empty())
      fields.values.set(findField(*part, key::connections)->key, std::move(connections));
    take(std::move(element), std::move(fields), *name);
  }

  // Cases, once everything that they speak of is there.
  void readCases(const Json& value) {
    static constexpr std::string_view handled[] = {"drawing", "name", "from", "differs"};
    CaseSet& cases = model_.cases;
    std::map<CaseId, std::string> from;
    std::set<std::string> names;
    bool named = false;  // the drawing, by the file
    readList(value, "cases", [&](const Object& o) {
      Case c;
      bool drawing = false;
      if (Json mark; !o.at_key("drawing").get(mark) && mark.is_bool()) drawing = bool(mark);
      std::string_view name, parent;
      if (o.at_key("name").get(name) || !nameFault(name).empty())
        return problem("", "name", "a case has no \"name\" of 1 to 60 characters");
      c.name = std::string(name);
      if (!names.insert(lowered(name)).second) return problem(c.name, "name", "two cases have this name");
      if (drawing && cases.count() > 1)
        return problem(c.name, "drawing", "the base case must be the first case");
      Fields fields = fieldsOf(o, caseFields(), "case", handled);
      for (const Fault& fault : fields.faults) problem(c.name, fault.field, fault.what);
      c.about = std::move(fields.values);
      if (!fields.extra.empty()) c.extra = fields.extra.text();
      if (drawing) {
        // Its hours are those of the costs.
        c.about.clear(conduit::cases::hours);
        cases.drawing = std::move(c);
        named = true;
        return;
      }
      c.id = static_cast<CaseId>(cases.others.size() + 1);
      if (!o.at_key("from").get(parent)) from[c.id] = std::string(parent);
      if (Json differs; !o.at_key("differs").get(differs)) readDifferences(differs, c);
      cases.others.push_back(std::move(c));
    });
    // A file that does not name the drawing may have a case of the name the drawing takes by default.
    if (names.contains(lowered(cases.drawing.name)) && !named) cases.drawing.name += " (model)";
    for (const auto& [id, name] : from) {
      const Case* parent = cases.byName(name);
      Case& c = *cases.find(id);
      if (!parent) problem(c.name, "from", fmt::format("there is no case \"{}\"", cut(name, 60)));
      else c.parent = parent->id;
    }
    for (const Case& c : cases.others) {
      const auto chain = cases.chain(c.id);
      if (!chain.empty() && chain.front()->parent != drawingCase)
        problem(c.name, "from", "it is based on itself through other cases");
    }
  }

  void readDifferences(const Json& value, Case& c) {
    Array list;
    if (value.get(list)) return problem(c.name, "differs", "\"differs\" must be a list");
    for (const Json entry : list) {
      Object o;
      std::string_view name;
      if (entry.get(o) || o.at_key("element").get(name))
        return problem(c.name, "differs", "every entry of \"differs\" must be an object with an \"element\"");
      const Id id = name == "job" ? jobId : draft_.network().byName(name);
      if (id == noId) {
        problem(c.name, "differs", fmt::format("there is no {}", cut(std::string(name), 60)));
        continue;
      }
      readDifference(o, id, c);
    }
  }

  void readDifference(const Object& o, Id id, Case& c) {
    const Part& part = *draft_.network().at(id).part;
    std::vector<std::string_view> handled{"element"};
    for (const auto& [key, value] : o)
      if (const Field* f = findField(part, key); f && value.is_null()) {
        c.differs.clear(id, f->key);
        handled.push_back(key);
      } else if (f && f->ofDrawing) {
        problem(c.name, std::string(key),
                fmt::format("the {} of {} is the same in every case", key, draft_.network().at(id).name));
        handled.push_back(key);
      }
    Object outcomes;
    if (!o.at_key("given").get(outcomes))
      for (const auto& [key, value] : outcomes)
        if (const Outcome* outcome = findOutcome(part, key); outcome && value.is_null())
          c.differs.ungive(id, outcome->key);
    Fields fields = fieldsOf(o, part, handled);
    for (const Fault& fault : fields.faults)
      problem(c.name, fault.field, fmt::format("{}: {}", draft_.network().at(id).name, fault.what));
    // What this program does not know must not be lost in silence.
    if (!fields.extra.empty())
      problem(c.name, "differs",
              fmt::format("{} has no field {}", draft_.network().at(id).name, cut(fields.extra.text(), 80)));
    for (const Values::Entry& e : fields.values.entries()) {
      if (e.released) c.differs.find(id, e.key, e.value);
      else c.differs.set(id, e.key, e.value);
    }
    for (const auto& [key, text] : fields.given) {
      const Outcome* outcome = findOutcome(part, key);
      if (outcome && c.differs.at(id, outcome->key, true)) continue;
      if (!outcome) {
        problem(c.name, key, fmt::format("{} has no result \"{}\"", draft_.network().at(id).name, key));
        continue;
      }
      auto given = parse(text, outcome->measure, nullptr);
      if (given) c.differs.give(id, outcome->key, std::move(*given));
      else
        problem(c.name, key,
                fmt::format("{} of {}: {}", key, draft_.network().at(id).name, given.error().what));
    }
  }

  void readStudy(const Study& study, const Json& value) {
    within(study.key);
    StudyFaults faults;
    study.read(value, draft_.network(), model_.setups, faults);
    for (const StudyFault& f : faults) {
      entry_ = f.entry;
      problem(f.name, f.field, f.what);
    }
  }

  static constexpr const char* casesKey = "cases";

  std::string_view text_;
  const Stock* stock_;
  bool padded_;
  Enclosed enclosed_;
  Stock merged_;
  Draft draft_{Network()};
  Model model_;
  std::optional<JsonPlaces> places_;
  std::string key_;        // of what is being read, and which entry of its list
  std::size_t entry_ = 0;  // from 1; 0: none
  std::optional<Json> points_, elements_, cases_;
  std::vector<std::pair<const Study*, Json>> studies_;
  Extra jobExtra_;
  bool crowded_ = false;
  ModelProblems problems_;
};

}  // namespace

tl::expected<Model, ModelProblems> readModel(std::string_view text, const Stock* stock) {
  return Reader(text, stock, false).read();
}

tl::expected<Model, ModelProblems> readPadded(std::string_view text, const Stock* stock) {
  static_assert(roomBehind >= simdjson::SIMDJSON_PADDING);
  return Reader(text, stock, true).read();
}

}  // namespace conduit
