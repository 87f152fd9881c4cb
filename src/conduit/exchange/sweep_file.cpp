#include "exchange/sweep_file.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "exchange/model_file.h"
#include "json/limits.h"
#include "model/watched.h"

namespace conduit {
namespace {

using Json = nlohmann::ordered_json;
using End = SweepPoint::End;

constexpr const char* endWords[] = {"missing", "solved", "cannot balance", "unusable value", "fault"};

// FNV-1a, the same on every machine.
std::uint64_t hashOf(std::string_view text, std::uint64_t h = 1469598103934665603ULL) {
  for (const char c : text) h = (h ^ static_cast<unsigned char>(c)) * 1099511628211ULL;
  return h;
}

std::string lineOf(const SweepRecord& r, std::size_t i) {
  const SweepPoint& p = r.points.at(i);
  Json o = {{"point", i + 1}, {"values", r.texts.at(i)}, {"end", endWords[static_cast<int>(p.end)]}};
  o["si"] = Json::array();
  for (const double v : p.si) o["si"].push_back(std::isfinite(v) ? Json(v) : Json(nullptr));
  o["broken"] = Json::array();
  for (const unsigned char b : p.broken) o["broken"].push_back(b != 0);
  o["limits_broken"] = p.limitsBroken;
  o["on_paper_only"] = p.onPaperOnly;
  if (!p.why.empty()) o["why"] = p.why;
  return o.dump(-1, ' ', false, Json::error_handler_t::replace);
}

}  // namespace

SweepRecord recordOf(const Model& model, const Sweep& sweep, const SweepResult& result,
                     const SweepOptions& options) {
  SweepRecord r;
  r.count = result.points.size(), r.part = options.part, r.parts = options.parts;
  const Case* which = model.cases.find(sweep.in);
  r.inCase = which ? which->name : std::string();
  std::uint64_t h = hashOf(writeModel(model));
  h = hashOf(r.inCase + (sweep.rows ? "|rows" : "|grid"), h);
  for (const Vary& v : sweep.columns) {
    r.columns.push_back(v.words);
    h = hashOf(v.words, h);
    for (const std::string& text : v.texts) h = hashOf(text + "\n", h);
  }
  for (const Watched& w : sweep.watched) {
    const auto measure = measureOf(w, model.drawn);
    static const Unit none{"", "", 1.0};
    const Unit& unit = measure ? options.units.unitFor(*measure) : none;
    r.watched.push_back(wordsOf(w, model.drawn).all());
    r.units.emplace_back(unit.symbol);
    r.factor.push_back(unit.factor), r.offset.push_back(unit.offset);
    h = hashOf(r.watched.back() + r.units.back(), h);
  }
  r.signature = fmt::format("{:016x}", h);
  for (std::size_t i = 0; i < result.points.size(); ++i) {
    if (result.points[i].end == End::missing) continue;
    std::vector<std::string> texts;
    const auto at = sweep.at(i);
    for (std::size_t c = 0; c < sweep.columns.size(); ++c) texts.push_back(sweep.columns[c].texts[at[c]]);
    r.texts[i] = std::move(texts);
    r.points[i] = result.points[i];
  }
  return r;
}

std::string writeSweep(const SweepRecord& r) {
  Json head = {{"format", "level-conduit sweep"},
               {"version", 1},
               {"signature", r.signature},
               {"case", r.inCase},
               {"points_in_all", r.count},
               {"part", r.part},
               {"of", r.parts},
               {"varied", r.columns},
               {"watched", r.watched},
               {"units_shown", r.units},
               {"unit_factors", r.factor},
               {"unit_offsets", r.offset}};
  std::string text = "{\n";
  for (const auto& [key, value] : head.items())
    text += Json(key).dump() + ": " + value.dump(-1, ' ', false, Json::error_handler_t::replace) + ",\n";
  text += "\"points\": [";
  bool first = true;
  for (const auto& [i, point] : r.points)
    text += (std::exchange(first, false) ? "\n  " : ",\n  ") + lineOf(r, i);
  return text + "\n]\n}\n";
}

Result<SweepRecord> readSweep(std::string_view text) {
  if (const std::string why = beyondShape(text, "the file of a sweep"); !why.empty()) return refused(why);
  const Json all = Json::parse(text, nullptr, false);
  if (!all.is_object() || !all.contains("format") || all["format"] != "level-conduit sweep")
    return refused("this is not a sweep file: it does not begin with \"format\": \"level-conduit sweep\"");
  SweepRecord r;
  try {
    if (all.at("version").get<int>() != 1)
      return refused(
          fmt::format("this file is of version {}; this program reads version 1", all.at("version").dump()));
    r.signature = all.at("signature").get<std::string>();
    r.inCase = all.at("case").get<std::string>();
    r.count = all.at("points_in_all").get<std::size_t>();
    r.part = all.at("part").get<std::size_t>(), r.parts = all.at("of").get<std::size_t>();
    r.columns = all.at("varied").get<std::vector<std::string>>();
    r.watched = all.at("watched").get<std::vector<std::string>>();
    r.units = all.at("units_shown").get<std::vector<std::string>>();
    r.factor = all.at("unit_factors").get<std::vector<double>>();
    r.offset = all.at("unit_offsets").get<std::vector<double>>();
    if (r.count > pointsMost || r.parts == 0 || r.part == 0 || r.part > r.parts ||
        r.units.size() != r.watched.size() || r.factor.size() != r.watched.size() ||
        r.offset.size() != r.watched.size())
      return refused("the header of this file is inconsistent");
    for (const Json& o : all.at("points")) {
      const auto number = o.at("point").get<std::size_t>();
      if (number < 1 || number > r.count)
        return refused(fmt::format("there is no point {} of {}", number, r.count));
      SweepPoint p;
      const std::string end = o.at("end").get<std::string>();
      const auto at = std::find(std::begin(endWords), std::end(endWords), end);
      if (at == std::end(endWords))
        return refused(fmt::format("point {} has unknown status \"{}\"", number, end.substr(0, 40)));
      p.end = static_cast<End>(at - std::begin(endWords));
      for (const Json& v : o.at("si")) p.si.push_back(v.is_number() ? v.get<double>() : NAN);
      for (const Json& b : o.at("broken")) p.broken.push_back(b.get<bool>() ? 1 : 0);
      p.limitsBroken = o.at("limits_broken").get<std::uint32_t>();
      p.onPaperOnly = o.at("on_paper_only").get<bool>();
      p.why = o.value("why", "");
      auto texts = o.at("values").get<std::vector<std::string>>();
      if (p.si.size() != r.watched.size() || p.broken.size() != r.watched.size() ||
          texts.size() != r.columns.size())
        return refused(fmt::format("point {} has a different number of values than the header", number));
      r.texts[number - 1] = std::move(texts);
      r.points[number - 1] = std::move(p);
    }
  } catch (const nlohmann::json::exception&) {
    return refused("this sweep file is incomplete or malformed");
  }
  return r;
}

Result<SweepRecord> gather(std::span<const SweepRecord> parts) {
  if (parts.empty()) return refused("no parts to merge");
  SweepRecord all = parts.front();
  for (const SweepRecord& part : parts) {
    if (part.signature != all.signature || part.count != all.count)
      return refused(fmt::format("part {} of {} belongs to another sweep or model version than part {} of {}",
                                 part.part, part.parts, parts.front().part, parts.front().parts));
    for (const auto& [i, point] : part.points) {
      const auto there = all.points.find(i);
      // A point that ended in a fault makes way for one that did not.
      if (there == all.points.end() || there->second.end == End::fault) {
        all.points[i] = point, all.texts[i] = part.texts.at(i);
      } else if (point.end != End::fault && !(there->second == point)) {
        return refused(
            fmt::format("point {} differs in part {} of {}: run all parts with one program version on one "
                        "type of machine",
                        i + 1, part.part, part.parts));
      }
    }
  }
  all.part = all.parts = 1;
  return all;
}

std::vector<std::size_t> unfinished(const SweepRecord& record, std::size_t parts) {
  std::vector<bool> again(parts, false);
  for (std::size_t i = 0; i < record.count; ++i) {
    const auto at = record.points.find(i);
    if (at == record.points.end() || at->second.end == End::fault) again[i % parts] = true;
  }
  std::vector<std::size_t> which;
  for (std::size_t k = 0; k < parts; ++k)
    if (again[k]) which.push_back(k + 1);
  return which;
}

TableLines tableOf(const SweepRecord& r) {
  TableLines lines(1);
  const auto add = [&](std::string text, std::optional<double> number = {}) {
    lines.back().push_back({std::move(text), number});
  };
  add("point");
  for (const std::string& column : r.columns) add(column);
  for (std::size_t w = 0; w < r.watched.size(); ++w)
    add(r.units[w].empty() ? r.watched[w] : fmt::format("{} [{}]", r.watched[w], r.units[w]));
  for (const char* word : {"limits not met", "physically impossible", "no solution because"}) add(word);
  for (const auto& [i, p] : r.points) {
    lines.emplace_back();
    add(fmt::format("{}", i + 1));
    for (const std::string& text : r.texts.at(i)) add(text);
    for (std::size_t w = 0; w < r.watched.size(); ++w) {
      const double value = (p.si[w] - r.offset[w]) / r.factor[w];
      if (std::isfinite(p.si[w])) add(fmt::format("{:.10g}", value), value);
      else add({});
    }
    const bool solved = p.end == End::solved;
    add(solved ? fmt::format("{}", p.limitsBroken) : "");
    add(solved ? p.onPaperOnly ? "yes" : "no" : "");
    add(p.end == End::fault ? "fault: " + p.why : p.why);
  }
  return lines;
}

}  // namespace conduit
