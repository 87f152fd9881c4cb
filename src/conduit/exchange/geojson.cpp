#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <nlohmann/json.hpp>
#include <unordered_set>

#include "exchange/import_table.h"
#include "json/limits.h"

namespace conduit {
namespace {

using GeoJson = nlohmann::ordered_json;

struct Coordinate {
  double x = 0, y = 0;
  std::optional<double> z;
};

std::optional<Coordinate> placeOf(const GeoJson& c) {
  if (!c.is_array() || c.size() < 2 || !c[0].is_number() || !c[1].is_number()) return std::nullopt;
  Coordinate p{c[0].get<double>(), c[1].get<double>(), {}};
  if (c.size() > 2 && c[2].is_number()) p.z = c[2].get<double>();
  return p;
}

std::string textOf(const GeoJson& v) {
  if (v.is_string()) return v.get<std::string>();
  if (v.is_boolean()) return v.get<bool>() ? "yes" : "no";
  if (v.is_number()) return v.dump();
  return {};
}

std::string typeOf(const GeoJson& o) {
  const auto it = o.find("type");
  return it != o.end() && it->is_string() ? it->get<std::string>() : std::string();
}

}  // namespace

Result<Grid> gridOfGeoJson(std::string_view text) {
  if (const auto fault = beyondShape(text, "GeoJSON"); !fault.empty()) return refused(fault);
  const GeoJson root = GeoJson::parse(text.begin(), text.end(), nullptr, false);
  if (root.is_discarded()) return refused("this is not JSON");
  std::vector<const GeoJson*> features;
  if (root.is_object() && typeOf(root) == "FeatureCollection" && root.contains("features") &&
      root["features"].is_array()) {
    for (const GeoJson& f : root["features"]) features.push_back(&f);
  } else if (root.is_object() && typeOf(root) == "Feature") {
    features.push_back(&root);
  } else {
    return refused("this is not GeoJSON: it is neither a feature nor a collection of features");
  }
  struct Line {
    std::vector<Coordinate> places;
    const GeoJson* properties;
    std::size_t index;
  };
  std::vector<Line> lines;
  bool degrees = true;
  double sumX = 0, sumY = 0;
  std::size_t count = 0;
  for (std::size_t i = 0; i < features.size(); ++i) {
    const GeoJson& f = *features[i];
    if (!f.is_object() || !f.contains("geometry") || !f["geometry"].is_object()) continue;
    const GeoJson& g = f["geometry"];
    const std::string type = typeOf(g);
    static const GeoJson nothing = GeoJson::object();
    const GeoJson* properties =
        f.contains("properties") && f["properties"].is_object() ? &f["properties"] : &nothing;
    auto add = [&](const GeoJson& coordinates, bool point) {
      Line line{{}, properties, i};
      if (point) {
        if (const auto p = placeOf(coordinates)) line.places.push_back(*p);
      } else if (coordinates.is_array()) {
        for (const GeoJson& c : coordinates)
          if (const auto p = placeOf(c)) line.places.push_back(*p);
        if (line.places.size() < 2) line.places.clear();
      }
      for (const Coordinate& p : line.places) {
        degrees = degrees && std::abs(p.x) <= 180 && std::abs(p.y) <= 90;
        sumX += p.x, sumY += p.y, ++count;
      }
      lines.push_back(std::move(line));  // without places it is refused as a row, where it can be seen
    };
    if (!g.contains("coordinates")) continue;
    if (type == "Point") add(g["coordinates"], true);
    else if (type == "LineString") add(g["coordinates"], false);
    else if (type == "MultiLineString" && g["coordinates"].is_array())
      for (const GeoJson& part : g["coordinates"]) add(part, false);
  }
  if (count == 0) return refused("no points or lines in this GeoJSON");
  // Degrees on a sphere of the earth's mean radius, flat about the middle: good to a part in 10 000 over 50
  // km.
  const double midX = sumX / static_cast<double>(count), midY = sumY / static_cast<double>(count);
  constexpr double perDegree = 6371008.8 * M_PI / 180;
  auto metres = [&](Coordinate p) {
    if (degrees) p.x = (p.x - midX) * perDegree * std::cos(midY * M_PI / 180), p.y = (p.y - midY) * perDegree;
    return p;
  };
  Grid grid;
  std::vector<std::string> properties;
  std::unordered_set<std::string> known;
  for (const Line& line : lines)
    for (const auto& [key, value] : line.properties->items())
      if (!value.is_structured() && !value.is_null() && known.insert(key).second) properties.push_back(key);
  if (properties.size() > columnsMost)
    return refused(fmt::format("the features have more than {} different properties", columnsMost));
  if (lines.size() * (properties.size() + 11) > cellsMost)
    return refused(fmt::format("more than {} cells (features × properties)", cellsMost));
  grid.headings = {"kind", "x", "y", "x1", "y1", "z1", "x2", "y2", "z2"};
  const bool hasLength = std::any_of(properties.begin(), properties.end(), [](const std::string& p) {
    return p == "length" || p.starts_with("length") || p == "Length";
  });
  const bool hasHeight = std::any_of(properties.begin(), properties.end(), [](const std::string& p) {
    return p == "height" || p == "elevation" || p == "z";
  });
  if (!hasHeight) grid.headings.push_back("height [m]");
  if (!hasLength) grid.headings.push_back("length [m]");
  const std::size_t fixed = grid.headings.size();
  grid.headings.insert(grid.headings.end(), properties.begin(), properties.end());
  auto shown = [](double v) { return fmt::format("{:.3f}", v); };
  for (const Line& line : lines) {
    std::vector<std::string> row(grid.headings.size());
    const bool pipe = line.places.size() > 1;
    row[0] = pipe ? "pipe" : "point";
    double drawn = 0;
    for (std::size_t i = 1; i < line.places.size(); ++i) {
      const Coordinate a = metres(line.places[i - 1]), b = metres(line.places[i]);
      drawn += std::hypot(a.x - b.x, a.y - b.y, a.z && b.z ? *a.z - *b.z : 0.0);
    }
    if (pipe) {
      const Coordinate a = metres(line.places.front()), b = metres(line.places.back());
      row[3] = shown(a.x), row[4] = shown(a.y), row[6] = shown(b.x), row[7] = shown(b.y);
      if (a.z) row[5] = shown(*a.z);
      if (b.z) row[8] = shown(*b.z);
      if (!hasLength) row[fixed - 1] = shown(drawn);
    } else if (!line.places.empty()) {
      const Coordinate p = metres(line.places.front());
      row[1] = shown(p.x), row[2] = shown(p.y);
      if (!hasHeight && p.z) row[9] = shown(*p.z);
    } else {
      row[1] = row[2] = "no coordinates";
    }
    for (std::size_t k = 0; k < properties.size(); ++k)
      if (const auto it = line.properties->find(properties[k]); it != line.properties->end())
        row[fixed + k] = textOf(*it);
    grid.rows.push_back(std::move(row));
    grid.line.push_back(line.index + 1);
  }
  grid.columns = grid.headings.size();
  return grid;
}

}  // namespace conduit
