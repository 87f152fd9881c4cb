#include "exchange/model_file.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>

#include "exchange/atomic_file.h"
#include "exchange/base64.h"
#include "exchange/reader_limits.h"
#include "exchange/stock_files.h"
#include "exchange/utf8.h"
#include "network/entry.h"
#include "network/put.h"
#include "parts/registry.h"

namespace conduit {
namespace {

using Json = nlohmann::ordered_json;

std::size_t lineOfOffset(std::string_view text, std::size_t offset) {
  return 1 + static_cast<std::size_t>(std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(std::min(offset, text.size())), '\n'));
}

// Natural order: "L-2" before "L-10".
bool naturally(const std::string& a, const std::string& b) {
  std::size_t i = 0, j = 0;
  auto digit = [](char c) { return c >= '0' && c <= '9'; };
  while (i < a.size() && j < b.size()) {
    if (digit(a[i]) && digit(b[j])) {
      std::size_t p = i, q = j;
      while (p < a.size() && digit(a[p])) ++p;
      while (q < b.size() && digit(b[q])) ++q;
      std::string_view x(a.data() + i, p - i), y(b.data() + j, q - j);
      while (x.size() > 1 && x.front() == '0') x.remove_prefix(1);
      while (y.size() > 1 && y.front() == '0') y.remove_prefix(1);
      if (x.size() != y.size()) return x.size() < y.size();
      if (x != y) return x < y;
      i = p, j = q;
    } else {
      if (a[i] != b[j]) return a[i] < b[j];
      ++i, ++j;
    }
  }
  if (a.size() - i != b.size() - j) return a.size() - i < b.size() - j;
  return a < b;
}

Json valueJson(const Field& field, const Value& value) {
  if (const auto* given = std::get_if<Given>(&value)) return given->typed;
  if (const auto* text = std::get_if<std::string>(&value)) return *text;
  if (const bool* on = std::get_if<bool>(&value)) return *on;
  Json rows = Json::array();
  for (const auto& row : std::get<Rows>(value)) {
    Json r = Json::object();
    for (std::size_t c = 0; c < row.size() && c < field.columns.size(); ++c)
      if (row[c]) r[std::string(field.columns[c].key)] = row[c]->typed;
    rows.push_back(std::move(r));
  }
  return rows;
}

void putFields(const Network& network, const Element& e, Json& out) {
  Json found = Json::array();
  for (const Field& f : e.part->fields) {
    const Values::Entry* entry = e.values.entry(f.key);
    if (f.key == "connections" && e.part->ends == Ends::many) {
      const Rows* rows = e.values.get<Rows>(f.key);
      Json list = Json::array();
      for (std::size_t i = 0; i < e.ends.size(); ++i) {
        Json c = {{"point", network.at(e.ends[i]).name}};
        if (rows && i < rows->size())
          for (std::size_t k = 0; k < (*rows)[i].size() && k < f.columns.size(); ++k)
            if ((*rows)[i][k]) c[std::string(f.columns[k].key)] = (*rows)[i][k]->typed;
        list.push_back(std::move(c));
      }
      out[std::string(f.key)] = std::move(list);
      continue;
    }
    if (!entry) continue;
    if (entry->released) found.push_back(std::string(f.key));
    const auto* words = std::get_if<std::string>(&entry->value);
    if (words && words->empty()) continue;
    out[std::string(f.key)] = valueJson(f, entry->value);
  }
  if (!found.empty()) out["found"] = std::move(found);
  Json given = Json::object();
  for (const Outcome& o : e.part->outcomes)
    if (const Given* g = e.values.goal(o.key)) given[std::string(o.key)] = g->typed;
  if (!given.empty()) out["given"] = std::move(given);
  if (!e.extra.empty()) {
    const Json extra = Json::parse(e.extra, nullptr, false);
    if (extra.is_object())
      for (const auto& [key, value] : extra.items())
        if (!out.contains(key)) out[key] = value;
  }
}

class Reader {
 public:
  Reader(std::string_view text, const Stock* stock) : text_(text), stock_(stock) {}

  tl::expected<Network, ModelProblems> read() {
    if (const auto fault = beyondShape(text_, "a model"); !fault.empty()) return failed({}, fault);
    Json root;
    try {
      root = Json::parse(text_.begin(), text_.end());
    } catch (const nlohmann::json::parse_error& error) {
      std::string why = error.what();
      if (const auto colon = why.find(": "); colon != std::string::npos) why = why.substr(colon + 2);
      for (char& c : why)
        if (static_cast<unsigned char>(c) < 32 || static_cast<unsigned char>(c) > 126) c = '?';
      return failed({}, fmt::format("line {}: this is not JSON: {}", lineOfOffset(text_, error.byte > 0 ? error.byte - 1 : 0), why));
    } catch (const nlohmann::json::exception& error) {  // a number that no computer holds
      const std::string why = error.what();
      const auto open = why.find('\''), close = why.rfind('\'');
      const std::string number = open < close && close != std::string::npos ? why.substr(open + 1, close - open - 1) : std::string();
      return failed({}, fmt::format("line {}: the number {} is too great", lineOfOffset(text_, number.empty() ? 0 : std::min(text_.find(number), text_.size())), number));
    }
    if (!root.is_object() || !root.contains("format") || root["format"] != "level-conduit")
      return failed({}, "this is not a Level Conduit model: it does not begin with \"format\": \"level-conduit\"");
    if (!root.contains("version") || !root["version"].is_number_integer()) return failed({}, "the model does not say its \"version\" as a whole number");
    const auto version = root["version"].get<std::int64_t>();
    if (version > modelVersion)
      return failed({}, fmt::format("the model is of version {}; this program reads up to version {}. Open it with a newer program", version, modelVersion));
    if (version < 1) return failed({}, fmt::format("there is no version {} of the model file", version));
    Json top = Json::object();
    for (const auto& [key, value] : root.items()) {
      within(key);
      if (key == "stock") readStock(value);
      else if (key == "files") readFiles(value);
    }
    if (!enclosed_.stock.empty() && stock_) {
      merged_ = laidOver(*stock_, enclosed_.stock);
      stock_ = &merged_;
    }
    if (!enclosed_.stock.empty() || !enclosed_.files.empty()) draft_.enclose(enclosed_);
    for (const auto& [key, value] : root.items()) {
      within(key);
      if (key == "job") readJob(value);
      else if (key == "points") points_ = &value;
      else if (key == "elements") elements_ = &value;
      else if (key != "format" && key != "version" && key != "stock" && key != "files") top[key] = value;
    }
    if (!top.empty() || !jobExtra_.empty()) {
      Json extra = Json::object();
      if (!top.empty()) extra["file"] = top;
      if (!jobExtra_.empty()) extra["job"] = jobExtra_;
      draft_.keepExtra(jobId, extra.dump());
    }
    if (points_) readList(*points_, "points", [&](const Json& o) { readPoint(o); });
    if (elements_) readList(*elements_, "elements", [&](const Json& o) { readElement(o); });
    if (!problems_.empty()) return tl::unexpected(std::move(problems_));
    return std::move(draft_).finish();
  }

 private:
  tl::unexpected<ModelProblems> failed(Place place, std::string what) { return tl::unexpected(ModelProblems{{std::move(place), std::move(what), {}}}); }

  // Where the values of the top keys begin and end, and the entries of their lists: one walk over the text.
  struct Stretch {
    std::size_t begin = 0, end = 0;
  };
  void findPlaces() {
    std::vector<char> open;
    std::string key, last;
    std::size_t textBegin = 0, begin = 0;
    bool inText = false;
    for (std::size_t i = 0; i < text_.size(); ++i) {
      const char c = text_[i];
      if (inText) {
        if (c == '\\') ++i;
        else if (c == '"') inText = false, last = open.size() == 1 ? std::string(text_.substr(textBegin, i - textBegin)) : std::string();
      } else if (c == '"') {
        inText = true, textBegin = i + 1;
      } else if (c == ':' && open.size() == 1) {
        key = last;
        places_[key].whole.begin = i;
      } else if (c == '{' || c == '[') {
        if (open.size() == 2 && open[1] == '[' && c == '{') begin = i;
        open.push_back(c);
      } else if ((c == '}' || c == ']') && !open.empty()) {
        open.pop_back();
        if (open.size() == 2 && open[1] == '[' && c == '}') places_[key].entries.push_back({begin, i});
        if (open.size() == 1) places_[key].whole.end = i;
      }
    }
  }
  // The line of a field of what is being read, else of the whole of that.
  std::string where(const std::string& field) {
    if (places_.empty()) findPlaces();  // only once something is wrong
    const auto region = places_.find(key_);
    if (region == places_.end()) return {};
    const bool entry = entry_ > 0 && entry_ <= region->second.entries.size();
    const Stretch now = entry ? region->second.entries[entry_ - 1] : region->second.whole;
    const auto key = text_.substr(0, now.end).find(fmt::format("\"{}\"", field), now.begin);
    return fmt::format("line {}: ", lineOfOffset(text_, field.empty() || key == std::string_view::npos ? now.begin : key));
  }
  void problem(const std::string& name, const std::string& field, const std::string& what) {
    if (problems_.size() < 200) problems_.push_back({{name, field}, where(field) + (name.empty() ? "" : name + ": ") + what, {}});
  }
  void within(const std::string& key) { key_ = key, entry_ = 0; }

  template <class Take>
  void readList(const Json& list, const char* what, Take take) {
    within(what);
    if (!list.is_array()) return problem("", "", fmt::format("\"{}\" must be a list", what));
    for (const Json& o : list) {
      entry_ += o.is_object();
      if (!o.is_object()) problem("", "", fmt::format("every entry of \"{}\" must be an object", what));
      else take(o);
    }
  }

  void readJob(const Json& o) {
    if (!o.is_object()) return problem("", "", "\"job\" must be an object");
    jobExtra_ = readFields(o, jobId, "job", {});
  }

  // Entries of the engineer's own stock that travel with the model: for each list its rows as objects of its columns.
  void readStock(const Json& o) {
    if (!o.is_object()) return problem("", "stock", "\"stock\" must be an object of lists");
    for (const auto& [file, rows] : o.items()) {
      const StockList* list = nullptr;
      for (const StockList& l : stockLists())
        if (l.file == file) list = &l;
      if (!list || !rows.is_array()) {
        problem("", "stock", fmt::format("\"stock\": \"{}\" is no list of the stock", file));
        continue;
      }
      if (rows.size() > stockRowsMost) {
        problem("", "stock", fmt::format("\"stock\": \"{}\" has more than {} rows", file, stockRowsMost));
        continue;
      }
      StockIndex index;
      for (const Json& row : rows) {
        std::vector<std::string> cells;
        for (const std::string_view column : list->columns) {
          const auto it = row.is_object() ? row.find(std::string(column)) : row.end();
          cells.push_back(row.is_object() && it != row.end() ? asText(*it).value_or("") : std::string());
        }
        if (const auto put = putStockRow(enclosed_.stock, file, cells, Origin::model, &index); !put) problem("", "stock", fmt::format("stock, {}: {}", file, put.error().what));
      }
    }
  }

  void readFiles(const Json& o) {
    if (!o.is_object()) return problem("", "files", "\"files\" must be an object of texts");
    std::size_t all = 0;
    for (const auto& [name, content] : o.items()) {
      if (content.is_string()) all += content.get_ref<const std::string&>().size() / 4 * 3;
      if (all > enclosedBytesMost)
        return problem("", "files", fmt::format("\"files\" hold more than {} MiB; the rest is left where it is on disk, not in the model", enclosedBytesMost >> 20));
      const auto bytes = content.is_string() ? fromBase64(content.get_ref<const std::string&>()) : std::nullopt;
      if (!bytes) problem("", "files", fmt::format("\"files\": \"{}\" is not base64", name));
      else enclosed_.files[name] = *bytes;
    }
  }

  std::optional<std::string> nameOf(const Json& o) {
    const auto it = o.find("name");
    if (it == o.end() || !it->is_string() || it->get<std::string>().empty()) {
      problem("", "name", fmt::format("an entry has no \"name\": {}", cut(o.dump(), 80)));
      return std::nullopt;
    }
    const std::string name = it->get<std::string>();
    if (name.size() > 60 || name == "job" || name.find_first_of("\n\t\"\\") != std::string::npos) {
      problem("", "name", fmt::format("\"{}\" cannot be a name: 1 to 60 characters without quotes and line breaks", cut(name, 60)));
      return std::nullopt;
    }
    if (draft_.network().byName(name) != noId) {
      problem(name, "name", "the name is given twice");
      return std::nullopt;
    }
    return name;
  }

  Spot spotOf(const Json& o, const std::string& name) {
    const auto it = o.find("at");
    if (it == o.end()) return {};
    if (it->is_array() && it->size() == 2 && (*it)[0].is_number() && (*it)[1].is_number()) {
      const Spot s{(*it)[0].get<double>(), (*it)[1].get<double>()};
      if (std::isfinite(s.x) && std::isfinite(s.y) && std::abs(s.x) < 1e8 && std::abs(s.y) < 1e8) return s;
    }
    problem(name, "at", "\"at\" must be two numbers: metres east and north on the drawing");
    return {};
  }

  std::optional<Id> pointOf(const Json& o, const char* key, const std::string& name) {
    const auto it = o.find(key);
    if (it == o.end() || !it->is_string()) {
      problem(name, key, fmt::format("\"{}\" must name a point", key));
      return std::nullopt;
    }
    const Id id = draft_.network().byName(it->get<std::string>());
    if (id == noId) {
      problem(name, key, fmt::format("\"{}\" names {}, which is not there", key, it->get<std::string>()));
      return std::nullopt;
    }
    if (draft_.network().at(id).part->ends != Ends::self) {
      problem(name, key, fmt::format("\"{}\" names {}, which is a {}; ends are joined to points", key, it->get<std::string>(), draft_.network().at(id).part->key));
      return std::nullopt;
    }
    return id;
  }

  // A cell or field given as text, a plain number or a truth value, as text.
  static std::optional<std::string> asText(const Json& v) {
    if (v.is_string()) return v.get<std::string>();
    if (v.is_boolean()) return v.get<bool>() ? "yes" : "no";
    if (v.is_number()) return v.dump();
    return std::nullopt;
  }

  // Puts the fields the part knows; gives back what it does not know, less the `handled` keys.
  Json readFields(const Json& o, Id id, const std::string& name, std::initializer_list<std::string_view> handled) {
    const Part& part = *draft_.network().at(id).part;
    Json extra = Json::object();
    std::vector<std::string> found;
    for (const auto& [key, value] : o.items()) {
      if (std::find(handled.begin(), handled.end(), key) != handled.end()) continue;
      const Field* field = findField(part, key);
      if (!field) {
        if (key == "found") {
          for (const Json& f : value)
            if (f.is_string()) found.push_back(f.get<std::string>());
        } else if (key == "given" && value.is_object()) {
          for (const auto& [outcome, text] : value.items()) {
            const auto words = asText(text);
            const auto put = putText(draft_, id, std::string(givenPrefix) + outcome, words.value_or("?"), stock_, nullptr);
            if (!put) problem(name, "given", put.error().what);
          }
        } else {
          extra[key] = value;
        }
        continue;
      }
      if (field->key == "connections") continue;
      std::optional<std::string> text;
      if (field->kind == FieldKind::table) {
        text = tableText(*field, value, name);
        if (!text) continue;
      } else {
        text = asText(value);
        if (!text) {
          problem(name, key, fmt::format("\"{}\" must be a text such as \"{}\"", key, field->kind == FieldKind::flag ? "yes" : "120 mm"));
          continue;
        }
      }
      if (text->empty()) continue;
      auto read = readField(*field, *text, stock_, nullptr);
      if (!read) problem(name, key, fmt::format("{}: {}", key, read.error().what));
      else draft_.values(id).set(field->key, std::move(*read));
    }
    for (const std::string& f : found) {
      const Field* field = findField(part, f);
      if (!field || !field->releasable) problem(name, "found", fmt::format("\"{}\" cannot be found for a {}", f, part.key));
      else draft_.values(id).release(field->key);
    }
    return extra;
  }

  std::optional<std::string> tableText(const Field& field, const Json& value, const std::string& name) {
    if (!value.is_array()) {
      problem(name, std::string(field.key), fmt::format("\"{}\" must be a list of rows", field.key));
      return std::nullopt;
    }
    std::string text;
    for (const Json& row : value) {
      if (!row.is_object()) {
        problem(name, std::string(field.key), fmt::format("each row of \"{}\" must be an object", field.key));
        return std::nullopt;
      }
      for (const Column& column : field.columns) {
        if (const auto it = row.find(std::string(column.key)); it != row.end()) {
          const auto cell = asText(*it);
          if (!cell || cell->find_first_of(";|") != std::string::npos) {
            problem(name, std::string(field.key), fmt::format("\"{}\" of a row must be a text with a unit", column.key));
            return std::nullopt;
          }
          text += *cell;
        }
        text += "|";
      }
      text += ";";
    }
    return text;
  }

  void readPoint(const Json& o) {
    const auto name = nameOf(o);
    if (!name) return;
    const Id id = draft_.addPoint(*name, spotOf(o, *name));
    const Json extra = readFields(o, id, *name, {"name", "at"});
    if (!extra.empty()) draft_.keepExtra(id, extra.dump());
  }

  void readElement(const Json& o) {
    const auto name = nameOf(o);
    if (!name) return;
    const auto kind = o.find("kind");
    if (kind == o.end() || !kind->is_string()) return problem(*name, "kind", "\"kind\" must be a text");
    const Part* part = findPart(kind->get<std::string>());
    if (!part || part->ends == Ends::none || part->ends == Ends::self) {
      std::string known;
      for (const Part* p : allParts())
        if (p->ends != Ends::none && p->ends != Ends::self) known += (known.empty() ? "" : ", ") + std::string(p->key);
      return problem(*name, "kind", fmt::format("there is no kind \"{}\"; known are {}", kind->get<std::string>(), known));
    }
    std::vector<Id> ends;
    Rows connections;
    if (part->ends == Ends::two) {
      const auto from = pointOf(o, "from", *name), to = pointOf(o, "to", *name);
      if (!from || !to) return;
      if (*from == *to) return problem(*name, "to", "begins and ends at the same point");
      ends = {*from, *to};
    } else if (part->ends == Ends::one) {
      const auto point = pointOf(o, "point", *name);
      if (!point) return;
      ends = {*point};
    } else if (const auto list = o.find("connections"); part->ends == Ends::many && list != o.end()) {
      if (!list->is_array()) return problem(*name, "connections", "\"connections\" must be a list");
      const Field& field = *findField(*part, "connections");
      for (const Json& c : *list) {
        if (!c.is_object()) return problem(*name, "connections", "each connection must be an object");
        const auto point = pointOf(c, "point", *name);
        if (!point) return;
        ends.push_back(*point);
        const auto text = tableText(field, Json::array({c}), *name);
        if (!text) return;
        auto row = readField(field, *text, stock_, nullptr);
        if (!row) return problem(*name, "connections", row.error().what);
        connections.push_back(std::get<Rows>(*row).front());
      }
    }
    const Id id = draft_.add(*part, *name, ends, part->ends == Ends::many || part->ends == Ends::free ? spotOf(o, *name) : Spot{});
    if (!connections.empty()) draft_.values(id).set(findField(*part, "connections")->key, std::move(connections));
    const Json extra = readFields(o, id, *name, {"name", "kind", "from", "to", "point", "at"});
    if (!extra.empty()) draft_.keepExtra(id, extra.dump());
  }

  std::string_view text_;
  const Stock* stock_;
  Enclosed enclosed_;
  Stock merged_;
  Draft draft_{Network()};
  struct Region {
    Stretch whole;
    std::vector<Stretch> entries;
  };
  std::map<std::string, Region> places_;  // by top key
  std::string key_;                       // of what is being read, and which entry of its list
  std::size_t entry_ = 0;                 // from 1; 0: none
  const Json *points_ = nullptr, *elements_ = nullptr;
  Json jobExtra_ = Json::object();
  ModelProblems problems_;
};

double tidy(double v) { return std::round(v * 1000) / 1000 + 0.0; }

}  // namespace

tl::expected<Network, ModelProblems> readModel(std::string_view text, const Stock* stock) { return Reader(text, stock).read(); }

std::string writeModel(const Network& network) {
  Json job = Json::object(), file = Json::object();
  {
    Element e = network.job();
    const Json extra = e.extra.empty() ? Json::object() : Json::parse(e.extra, nullptr, false);
    e.extra = extra.is_object() && extra.contains("job") ? extra["job"].dump() : std::string();
    putFields(network, e, job);
    if (extra.is_object() && extra.contains("file")) file = extra["file"];
  }
  std::vector<Id> points, elements;
  network.each([&](Id id, const Element& e) { (e.part->ends == Ends::self ? points : elements).push_back(id); });
  auto byName = [&](Id a, Id b) { return naturally(network.at(a).name, network.at(b).name); };
  std::sort(points.begin(), points.end(), byName);
  std::sort(elements.begin(), elements.end(), byName);
  auto line = [](const Json& o) {  // one object in one line, a blank after each mark
    std::string out = "{";
    bool first = true;
    for (const auto& [key, value] : o.items()) {
      out += fmt::format("{}{}: {}", std::exchange(first, false) ? "" : ", ", Json(key).dump(), value.dump());
    }
    return out + "}";
  };
  std::string text = fmt::format("{{\n\"format\": \"level-conduit\",\n\"version\": {},\n", modelVersion);
  text += "\"job\": {";
  bool first = true;
  for (const auto& [key, value] : job.items()) text += fmt::format("{}\n  {}: {}", std::exchange(first, false) ? "" : ",", Json(key).dump(), value.dump());
  text += first ? "},\n" : "\n},\n";
  for (const auto& [key, value] : file.items()) text += fmt::format("{}: {},\n", Json(key).dump(), value.dump());
  if (const Stock& own = network.enclosed().stock; !own.empty()) {
    text += "\"stock\": {";
    first = true;
    for (const StockList& l : stockLists()) {
      const std::size_t rows = stockSize(own, l.file);
      if (rows == 0) continue;
      text += fmt::format("{}\n  {}: [", std::exchange(first, false) ? "" : ",", Json(std::string(l.file)).dump());
      for (std::size_t i = 0; i < rows; ++i) {
        Json o = Json::object();
        const auto cells = stockRow(own, l.file, i);
        for (std::size_t c = 0; c < cells.size(); ++c)
          if (!cells[c].empty()) o[std::string(l.columns[c])] = cells[c];
        text += fmt::format("{}\n    {}", i ? "," : "", line(o));
      }
      text += "]";
    }
    text += "\n},\n";
  }
  if (!network.enclosed().files.empty()) {
    text += "\"files\": {";
    first = true;
    for (const auto& [name, bytes] : network.enclosed().files) text += fmt::format("{}\n  {}: \"{}\"", std::exchange(first, false) ? "" : ",", Json(name).dump(), toBase64(bytes));
    text += "\n},\n";
  }
  auto list = [&](const char* key, const std::vector<Id>& ids, auto make) {
    text += fmt::format("\"{}\": [", key);
    for (std::size_t i = 0; i < ids.size(); ++i) text += fmt::format("{}\n  {}", i ? "," : "", line(make(network.at(ids[i]))));
    text += ids.empty() ? "]" : "\n]";
  };
  list("points", points, [&](const Element& e) {
    Json o = {{"name", e.name}, {"at", Json::array({tidy(e.at.x), tidy(e.at.y)})}};
    putFields(network, e, o);
    return o;
  });
  text += ",\n";
  list("elements", elements, [&](const Element& e) {
    Json o = {{"kind", std::string(e.part->key)}, {"name", e.name}};
    if (e.part->ends == Ends::two) o["from"] = network.at(e.ends[0]).name, o["to"] = network.at(e.ends[1]).name;
    if (e.part->ends == Ends::one) o["point"] = network.at(e.ends[0]).name;
    if (e.part->ends == Ends::many || e.part->ends == Ends::free) o["at"] = Json::array({tidy(e.at.x), tidy(e.at.y)});
    putFields(network, e, o);
    return o;
  });
  return text + "\n}\n";
}

tl::expected<Network, ModelProblems> loadModel(const std::filesystem::path& file, const Stock* stock) {
  auto failed = [&](const std::string& why) { return tl::unexpected(ModelProblems{{{}, fmt::format("{}: {}", file.string(), why), {}}}); };
  std::error_code error;
  if (!std::filesystem::exists(file, error)) return failed("there is no such file");
  if (!std::filesystem::is_regular_file(file, error)) return failed("this is not a file");
  if (std::filesystem::file_size(file, error) > modelBytesMost) return failed(fmt::format("the file is larger than {} MiB", modelBytesMost >> 20));
  std::ifstream in(file, std::ios::binary);
  if (!in) return failed(fmt::format("cannot be read: {}", std::strerror(errno)));
  std::string text(std::filesystem::file_size(file, error), '\0');
  in.read(text.data(), static_cast<std::streamsize>(text.size()));
  text.resize(static_cast<std::size_t>(std::max<std::streamsize>(in.gcount(), 0)));
  auto network = readModel(text, stock);
  if (!network)
    for (Problem& p : network.error()) p.what = fmt::format("{}: {}", file.filename().string(), p.what);
  return network;
}

Result<bool> saveModel(const Network& network, const std::filesystem::path& file) { return writeWhole(file, writeModel(network)); }

std::string modelSchema() {
  auto fieldSchema = [](const Field& f) {
    Json s;
    switch (f.kind) {
      case FieldKind::flag: s["type"] = Json::array({"boolean", "string"}); break;
      case FieldKind::table: {
        Json row = {{"type", "object"}, {"properties", Json::object()}};
        Json required = Json::array();
        for (const Column& c : f.columns) {
          row["properties"][std::string(c.key)] = {{"type", Json::array({"string", "number"})}, {"description", std::string(nameOf(c.measure))}};
          if (c.needed) required.push_back(std::string(c.key));
        }
        if (!required.empty()) row["required"] = required;
        s = {{"type", "array"}, {"items", row}};
        break;
      }
      case FieldKind::choice:
        s["enum"] = Json::array();
        for (const std::string_view c : f.choices) s["enum"].push_back(std::string(c));
        break;
      case FieldKind::quantity: s["type"] = f.measure == Measure::number || f.measure == Measure::ratio ? Json::array({"string", "number"}) : Json("string"); break;
      default: s["type"] = "string";
    }
    s["description"] = std::string(f.help) + (f.kind == FieldKind::quantity ? fmt::format(" ({})", nameOf(f.measure)) : std::string());
    return s;
  };
  const Json spot = {{"type", "array"}, {"items", {{"type", "number"}}}, {"minItems", 2}, {"maxItems", 2}};
  const Json name = {{"type", "string"}, {"minLength", 1}, {"maxLength", 60}};
  Json job = {{"type", "object"}, {"properties", Json::object()}};
  Json point = {{"type", "object"}, {"required", Json::array({"name"})}, {"properties", {{"name", name}, {"at", spot}}}};
  Json kinds = Json::array();
  for (const Part* part : allParts()) {
    if (part->ends == Ends::none || part->ends == Ends::self) {
      Json& into = part->ends == Ends::none ? job : point;
      for (const Field& f : part->fields) into["properties"][std::string(f.key)] = fieldSchema(f);
      continue;
    }
    Json o = {{"type", "object"}, {"properties", {{"kind", {{"const", std::string(part->key)}}}, {"name", name}}}};
    Json required = Json::array({"kind", "name"});
    for (const Field& f : part->fields) o["properties"][std::string(f.key)] = fieldSchema(f);
    if (part->ends == Ends::two) {
      o["properties"]["from"] = o["properties"]["to"] = name;
      required.push_back("from"), required.push_back("to");
    } else if (part->ends == Ends::one) {
      o["properties"]["point"] = name;
      required.push_back("point");
    } else if (part->ends == Ends::free) {
      o["properties"]["at"] = spot;
    } else {
      o["properties"]["at"] = spot;
      o["properties"]["connections"]["items"]["properties"]["point"] = name;
      o["properties"]["connections"]["items"]["required"] = Json::array({"point"});
    }
    o["properties"]["found"] = {{"type", "array"}, {"items", {{"type", "string"}}}};
    o["properties"]["given"] = {{"type", "object"}, {"additionalProperties", {{"type", {"string", "number"}}}}};
    o["required"] = required;
    kinds.push_back(std::move(o));
  }
  Json stock = {{"type", "object"}, {"properties", Json::object()}};
  for (const StockList& l : stockLists()) {
    Json row = {{"type", "object"}, {"properties", Json::object()}};
    for (const std::string_view column : l.columns) row["properties"][std::string(column)] = {{"type", Json::array({"string", "number"})}};
    stock["properties"][std::string(l.file)] = {{"type", "array"}, {"items", row}};
  }
  const Json schema = {{"$schema", "http://json-schema.org/draft-07/schema#"},
                       {"title", "Level Conduit model, version 1"},
                       {"type", "object"},
                       {"required", Json::array({"format", "version"})},
                       {"properties",
                        {{"format", {{"const", "level-conduit"}}},
                         {"version", {{"const", modelVersion}}},
                         {"job", job},
                         {"stock", stock},
                         {"files", {{"type", "object"}, {"additionalProperties", {{"type", "string"}}}}},
                         {"points", {{"type", "array"}, {"items", point}}},
                         {"elements", {{"type", "array"}, {"items", {{"oneOf", kinds}}}}}}}};
  return schema.dump(1) + "\n";
}

}  // namespace conduit
