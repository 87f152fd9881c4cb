#include "crowds.h"

#include <fmt/format.h>

#include <cmath>
#include <vector>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "say/ensure.h"
#include "solve/random_network.h"
#include "solve/solve.h"

namespace conduit::bench {
namespace {

Network read(const std::string& points, const std::string& elements) {
  auto n = readDrawn(
      R"({"format":"level-conduit","version":1,"points":[)" + points + "],\"elements\":[" + elements + "]}",
      &shippedStock());
  ensure(n.has_value(), "a network of the benchmark cannot be read");
  return std::move(*n);
}

// Two layers A and B of a mesh `side` wide, as text.
struct Layers {
  std::string points, elements;
  int pipes = 0;
};
Layers layers(int places, const char* boreAbove, const char* boreBelow, test::Chance& c) {
  const int side = static_cast<int>(std::ceil(std::sqrt(places)));
  Layers l;
  for (int i = 0; i < places; ++i) {
    l.points += fmt::format(
        R"({}{{"name":"A{}","height":"0 m"}},{{"name":"B{}","height":"0 m","outflow":"{} L/s"@{}@}})",
        i ? "," : "", i, i, c.between(0.2, 1), i);
    for (const int j : {i + 1, i + side})
      if (j < places && (j == i + side || j % side != 0))
        for (const char layer : {'A', 'B'})
          l.elements += fmt::format(
              R"({{"kind":"pipe","name":"L{}","from":"{}{}","to":"{}{}","length":"100 m","bore":"{}","roughness":"0.1 mm"}},)",
              ++l.pipes, layer, i, layer, j, layer == 'A' ? boreAbove : boreBelow);
  }
  l.elements += fmt::format(
      R"({{"kind":"fixed pressure","name":"held A","point":"A0","pressure":"80 m"}},{{"kind":"fixed pressure","name":"held B","point":"A{}","pressure":"78 m"}})",
      places - 1);
  return l;
}

// The points with a text for each in the place kept for it.
std::string filledIn(std::string points, const std::vector<std::string>& texts) {
  std::string out;
  for (std::size_t at = 0;;) {
    const auto mark = points.find('@', at);
    if (mark == std::string::npos) return out + points.substr(at);
    const auto end = points.find('@', mark + 1);
    const std::size_t i = std::stoul(points.substr(mark + 1, end - mark - 1));
    out += points.substr(at, mark - at) + (i < texts.size() ? texts[i] : std::string());
    at = end + 1;
  }
}

}  // namespace

Network twoZones(int valves, double spread_m) {
  test::Chance c{29};
  Layers l = layers(valves, "600 mm", "80 mm", c);
  for (int i = 0; i < valves; ++i)
    l.elements += fmt::format(
        R"(,{{"kind":"reducing valve","name":"R{}","from":"A{}","to":"B{}","K":"4","bore":"80 mm","set point":"{} m"}})",
        i, i, i, 30 + spread_m * c.between(-0.5, 0.5));
  return read(filledIn(l.points, {}), l.elements);
}

Network foundFromPressures(int fields, const char* field) {
  test::Chance c{3};
  const Layers l = layers(fields, "300 mm", "50 mm", c);
  const bool bore = std::string_view(field) == "bore";
  const auto with = [&](const auto& text) {
    std::string all = l.elements;
    for (int i = 0; i < fields; ++i)
      all += fmt::format(
          R"(,{{"kind":"{}","name":"D{}","from":"A{}","to":"B{}",{},{}}})", bore ? "pipe" : "control valve",
          i, i, i, bore ? R"("length":"100 m","roughness":"0.1 mm")" : R"("bore":"80 mm","Kv":"50 m3/h")",
          text());
    return all;
  };
  const Network given = read(filledIn(l.points, {}), with([&] {
                               return bore ? fmt::format("\"bore\":\"{} mm\"", c.between(50, 90))
                                           : fmt::format("\"opening\":\"{} %\"", c.between(30, 90));
                             }));
  const Solution s = solve(given, &shippedStock());
  std::vector<std::string> goals;
  for (int i = 0; i < fields; ++i)
    goals.push_back(fmt::format(",\"given\":{{\"pressure\":\"{:.17g} m\"}}",
                                s.head(given.byName(fmt::format("B{}", i))).value_or(0.0)));
  return read(filledIn(l.points, goals), with([&] { return fmt::format("\"found\":[\"{}\"]", field); }));
}

Network squareGrid(int pipes) {
  test::Chance c{7};
  const int side = std::max(2, static_cast<int>(std::lround(std::sqrt(pipes / 2.0))));
  std::string points, elements;
  int count = 0;
  for (int i = 0; i < side * side; ++i) {
    points += fmt::format(R"({}{{"name":"N{}","height":"0 m","outflow":"{:.4f} L/s"}})", i ? "," : "", i,
                          c.between(0.01, 0.1));
    for (const int j : {i + 1, i + side})
      if (j < side * side && (j == i + side || j % side != 0))
        elements += fmt::format(
            R"({{"kind":"pipe","name":"L{}","from":"N{}","to":"N{}","length":"{:.1f} m","bore":"{} mm","roughness":"0.1 mm"}},)",
            ++count, i, j, c.between(60, 140), 100 + 50 * c.below(5));
  }
  int corner = 0;
  for (const int i : {0, side - 1, side * (side - 1), side * side - 1})
    elements += fmt::format(R"({}{{"kind":"fixed pressure","name":"T{}","point":"N{}","pressure":"{} m"}})",
                            corner ? "," : "", corner, i, 50 + corner),
        ++corner;
  return read(points, elements);
}

}  // namespace conduit::bench
