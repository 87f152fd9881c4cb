#include "exchange/model_file.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <fstream>
#include <memory>
#include <nlohmann/json.hpp>

#include "exchange/atomic_file.h"
#include "exchange/base64.h"
#include "exchange/stock_files.h"
#include "fields/entry.h"
#include "fields/keys.h"
#include "json/limits.h"
#include "json/text.h"
#include "json/utf8.h"
#include "model/costs.h"
#include "model/pump_request.h"
#include "model/sweep_setup.h"
#include "model/watched.h"
#include "network/put.h"
#include "parts/registry.h"
#include "studies/registry.h"

namespace conduit {
namespace {

using Json = nlohmann::ordered_json;
using model_json::addExtra;
using model_json::line;
using model_json::schemaOf;
using model_json::schemaProperties;

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

void putFields(const Network& network, const Element& e, Json& out) {
  Json found = Json::array(), assumed = Json::array();
  for (const Field& f : e.part->fields) {
    const Values::Entry* entry = e.values.entry(f.key);
    if (f.key == key::connections && e.part->ends == Ends::many) {
      const Rows* rows = e.rows(f.key);
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
    else if (entry->assumed) assumed.push_back(std::string(f.key));
    const auto* words = std::get_if<std::string>(&entry->value);
    if (words && words->empty()) continue;
    out[std::string(f.key)] = model_json::valueOf(f, entry->value);
  }
  if (!found.empty()) out["found"] = std::move(found);
  if (!assumed.empty()) out["assumed"] = std::move(assumed);
  Json given = Json::object();
  for (const Outcome& o : e.part->outcomes)
    if (const Given* g = e.values.goal(o.key)) given[std::string(o.key)] = g->typed;
  if (!given.empty()) out["given"] = std::move(given);
  addExtra(e.extra, out);
}

// What a case says otherwise: an entry for each element, the job first, then by name.
Json differencesJson(const Network& drawn, const Overlay& differs) {
  std::vector<Id> ids;
  for (const Difference& d : differs.all())
    if (drawn.find(d.element) && (ids.empty() || ids.back() != d.element)) ids.push_back(d.element);
  std::sort(ids.begin(), ids.end(), [&](Id a, Id b) {
    if (a == jobId || b == jobId) return a == jobId && b != jobId;
    return naturally(drawn.at(a).name, drawn.at(b).name);
  });
  Json list = Json::array();
  for (const Id id : ids) {
    const Element& e = drawn.at(id);
    Json o = {{"element", e.name}}, found = Json::array(), given = Json::object();
    for (const Field& f : e.part->fields) {
      const Difference* d = differs.at(id, f.key);
      if (!d) continue;
      if (d->to == Difference::To::none) {
        o[std::string(f.key)] = nullptr;
        continue;
      }
      if (d->to == Difference::To::found) found.push_back(std::string(f.key));
      if (const auto* words = std::get_if<std::string>(&d->value); !words || !words->empty())
        o[std::string(f.key)] = model_json::valueOf(f, d->value);
    }
    for (const Outcome& outcome : e.part->outcomes)
      if (const Difference* d = differs.at(id, outcome.key, true))
        given[std::string(outcome.key)] =
            d->to == Difference::To::goal ? Json(std::get<Given>(d->value).typed) : Json(nullptr);
    if (!found.empty()) o["found"] = std::move(found);
    if (!given.empty()) o["given"] = std::move(given);
    if (o.size() > 1) list.push_back(std::move(o));
  }
  return list;
}

// The first entry is the drawing; it is left out where nothing is said of it.
std::vector<Json> casesJson(const Model& model) {
  std::vector<Json> list;
  const auto about = [](const Case& c, Json& o) { model_json::putFields(c.about, caseFields(), o); };
  if (const Case& drawing = model.cases.drawing; !(drawing == CaseSet().drawing)) {
    Json o = {{"drawing", true}, {"name", drawing.name}};
    about(drawing, o);
    addExtra(drawing.extra, o);
    list.push_back(std::move(o));
  }
  for (const Case& c : model.cases.others) {
    Json o = {{"name", c.name}};
    if (c.parent != drawingCase)
      if (const Case* parent = model.cases.find(c.parent)) o["from"] = parent->name;
    about(c, o);
    if (Json differs = differencesJson(model.drawn, c.differs); !differs.empty())
      o["differs"] = std::move(differs);
    addExtra(c.extra, o);
    list.push_back(std::move(o));
  }
  return list;
}

double inMillimetres(double v) { return std::round(v * 1000) / 1000 + 0.0; }

}  // namespace

std::string writeModel(const Network& drawn) { return writeModel(Model{drawn}); }

std::string writeModel(const Model& model) {
  const Network& network = model.drawn;
  Json job = Json::object(), file = Json::object();
  {
    Element e = network.job();
    const Json extra = e.extra.empty() ? Json::object() : Json::parse(e.extra, nullptr, false);
    e.extra = extra.is_object() && extra.contains("job") ? extra["job"].dump() : std::string();
    putFields(network, e, job);
    if (extra.is_object() && extra.contains(key::file)) file = extra[key::file];
  }
  std::vector<Id> points, elements;
  network.each(
      [&](Id id, const Element& e) { (e.part->ends == Ends::self ? points : elements).push_back(id); });
  auto byName = [&](Id a, Id b) { return naturally(network.at(a).name, network.at(b).name); };
  std::sort(points.begin(), points.end(), byName);
  std::sort(elements.begin(), elements.end(), byName);
  std::string text = fmt::format("{{\n\"format\": \"level-conduit\",\n\"version\": {},\n", modelVersion);
  text += "\"job\": {";
  bool first = true;
  for (const auto& [key, value] : job.items())
    text +=
        fmt::format("{}\n  {}: {}", std::exchange(first, false) ? "" : ",", Json(key).dump(), value.dump());
  text += first ? "},\n" : "\n},\n";
  Json costs = Json::object();
  model_json::putFields(model.costs, costFields(), costs);
  addExtra(model.costsExtra.str(), costs);
  if (!costs.empty()) text += fmt::format("\"costs\": {},\n", line(costs));
  const auto entries = [&](std::string_view key, const auto& all) {
    if (all.empty()) return;
    text += fmt::format("\"{}\": [", key);
    for (std::size_t i = 0; i < all.size(); ++i) text += fmt::format("{}\n  {}", i ? "," : "", line(all[i]));
    text += "\n],\n";
  };
  entries("cases", casesJson(model));
  for (const Study* study : allStudies()) {
    const Json kept = study->write(model);
    if (kept.is_array()) entries(study->key, kept);
    else if (kept.is_object()) text += fmt::format("\"{}\": {},\n", study->key, line(kept));
  }
  for (const auto& [key, value] : file.items())
    text += fmt::format("{}: {},\n", Json(key).dump(), value.dump());
  if (const Stock& own = network.enclosed().stock; !own.empty()) {
    text += "\"stock\": {";
    first = true;
    for (const StockList& l : stockLists()) {
      const std::size_t rows = stockSize(own, l.file);
      if (rows == 0) continue;
      text += fmt::format("{}\n  {}: [", std::exchange(first, false) ? "" : ",",
                          Json(std::string(l.file)).dump());
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
    for (const auto& [name, bytes] : network.enclosed().files)
      text += fmt::format("{}\n  {}: \"{}\"", std::exchange(first, false) ? "" : ",", Json(name).dump(),
                          toBase64(bytes));
    text += "\n},\n";
  }
  auto list = [&](const char* key, const std::vector<Id>& ids, auto make) {
    text += fmt::format("\"{}\": [", key);
    for (std::size_t i = 0; i < ids.size(); ++i)
      text += fmt::format("{}\n  {}", i ? "," : "", line(make(network.at(ids[i]))));
    text += ids.empty() ? "]" : "\n]";
  };
  list("points", points, [&](const Element& e) {
    Json o = {{"name", e.name}, {"at", Json::array({inMillimetres(e.at.x), inMillimetres(e.at.y)})}};
    putFields(network, e, o);
    return o;
  });
  text += ",\n";
  list("elements", elements, [&](const Element& e) {
    Json o = {{"kind", std::string(e.part->key)}, {"name", e.name}};
    if (e.part->ends == Ends::two)
      o["from"] = network.at(e.ends[0]).name, o["to"] = network.at(e.ends[1]).name;
    if (e.part->ends == Ends::one) o["point"] = network.at(e.ends[0]).name;
    if (e.part->ends == Ends::many || e.part->ends == Ends::free)
      o["at"] = Json::array({inMillimetres(e.at.x), inMillimetres(e.at.y)});
    putFields(network, e, o);
    return o;
  });
  return text + "\n}\n";
}

tl::expected<Network, ModelProblems> readDrawn(std::string_view text, const Stock* stock) {
  return readModel(text, stock).map([](Model&& model) { return std::move(model.drawn); });
}

tl::expected<Model, ModelProblems> loadModel(const std::filesystem::path& file, const Stock* stock) {
  auto failed = [&](const std::string& why) {
    return tl::unexpected(ModelProblems{{{}, fmt::format("{}: {}", file.string(), why), {}}});
  };
  std::error_code error;
  if (!std::filesystem::exists(file, error)) return failed("file not found");
  if (!std::filesystem::is_regular_file(file, error)) return failed("this is not a file");
  if (std::filesystem::file_size(file, error) > modelBytesMost)
    return failed(fmt::format("the file is larger than {} MiB", modelBytesMost >> 20));
  std::ifstream in(file, std::ios::binary);
  if (!in) return failed(fmt::format("cannot be read: {}", std::strerror(errno)));
  const std::size_t size = std::filesystem::file_size(file, error);
  const auto bytes = std::make_unique_for_overwrite<char[]>(size + roomBehind);
  in.read(bytes.get(), static_cast<std::streamsize>(size));
  const auto got = static_cast<std::size_t>(std::max<std::streamsize>(in.gcount(), 0));
  std::fill_n(bytes.get() + got, size - got + roomBehind, ' ');
  auto model = readPadded({bytes.get(), got}, stock);
  if (!model)
    for (Problem& p : model.error()) p.what = fmt::format("{}: {}", file.filename().string(), p.what);
  return model;
}

Result<bool> saveModel(const Model& model, const std::filesystem::path& file) {
  return writeWhole(file, writeModel(model));
}

std::string modelSchema() {
  const Json spot = {{"type", "array"}, {"items", {{"type", "number"}}}, {"minItems", 2}, {"maxItems", 2}};
  const Json name = {{"type", "string"}, {"minLength", 1}, {"maxLength", 60}};
  Json job = {{"type", "object"}, {schemaProperties, Json::object()}};
  Json point = {{"type", "object"},
                {"required", Json::array({"name"})},
                {schemaProperties, {{"name", name}, {"at", spot}}}};
  Json kinds = Json::array();
  Json costs = {{"type", "object"}, {schemaProperties, Json::object()}};
  for (const Field& f : costFields()) costs[schemaProperties][std::string(f.key)] = schemaOf(f);
  for (const Part* part : allParts()) {
    if (part->ends == Ends::none || part->ends == Ends::self) {
      Json& into = part->ends == Ends::none ? job : point;
      for (const Field& f : part->fields) into[schemaProperties][std::string(f.key)] = schemaOf(f);
      continue;
    }
    Json o = {{"type", "object"},
              {schemaProperties, {{"kind", {{"const", std::string(part->key)}}}, {"name", name}}}};
    Json required = Json::array({"kind", "name"});
    for (const Field& f : part->fields) o[schemaProperties][std::string(f.key)] = schemaOf(f);
    if (part->ends == Ends::two) {
      o[schemaProperties]["from"] = o[schemaProperties]["to"] = name;
      required.push_back("from"), required.push_back("to");
    } else if (part->ends == Ends::one) {
      o[schemaProperties]["point"] = name;
      required.push_back("point");
    } else if (part->ends == Ends::free) {
      o[schemaProperties]["at"] = spot;
    } else {
      o[schemaProperties]["at"] = spot;
      o[schemaProperties][key::connections]["items"][schemaProperties]["point"] = name;
      o[schemaProperties][key::connections]["items"]["required"] = Json::array({"point"});
    }
    o[schemaProperties]["found"] = {{"type", "array"}, {"items", {{"type", "string"}}}};
    o[schemaProperties]["assumed"] = {{"type", "array"}, {"items", {{"type", "string"}}}};
    o[schemaProperties]["given"] = {{"type", "object"},
                                    {"additionalProperties", {{"type", {"string", "number"}}}}};
    o["required"] = required;
    kinds.push_back(std::move(o));
  }
  Json stock = {{"type", "object"}, {schemaProperties, Json::object()}};
  for (const StockList& l : stockLists()) {
    Json row = {{"type", "object"}, {schemaProperties, Json::object()}};
    for (const std::string_view column : l.columns)
      row[schemaProperties][std::string(column)] = {{"type", Json::array({"string", "number"})}};
    stock[schemaProperties][std::string(l.file)] = {{"type", "array"}, {"items", row}};
  }
  Json oneCase = {{"type", "object"},
                  {"required", Json::array({"name"})},
                  {schemaProperties,
                   {{"drawing", {{"const", true}}},
                    {"name", name},
                    {"from", name},
                    {"differs",
                     {{"type", "array"},
                      {"items",
                       {{"type", "object"},
                        {"required", Json::array({"element"})},
                        {schemaProperties,
                         {{"element", {{"type", "string"}}},
                          {"found", {{"type", "array"}, {"items", {{"type", "string"}}}}},
                          {"given", {{"type", "object"}}}}}}}}}}}};
  for (const Field& f : caseFields()) oneCase[schemaProperties][std::string(f.key)] = schemaOf(f);
  Json properties = {{"format", {{"const", "level-conduit"}}},
                     {"version", {{"enum", {1, modelVersion}}}},
                     {"job", job},
                     {"costs", costs},
                     {"cases", {{"type", "array"}, {"items", oneCase}}}};
  for (const Study* study : allStudies()) properties[std::string(study->key)] = study->schema();
  properties["stock"] = stock;
  properties["files"] = {{"type", "object"}, {"additionalProperties", {{"type", "string"}}}};
  properties["points"] = {{"type", "array"}, {"items", point}};
  properties["elements"] = {{"type", "array"}, {"items", {{"oneOf", kinds}}}};
  const Json schema = {{"$schema", "http://json-schema.org/draft-07/schema#"},
                       {"title", fmt::format("Level Conduit model, version {}", modelVersion)},
                       {"type", "object"},
                       {"required", Json::array({"format", "version"})},
                       {schemaProperties, std::move(properties)}};
  return schema.dump(1) + "\n";
}

}  // namespace conduit
