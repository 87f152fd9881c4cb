// What models worked out by hand are made of: one plain liquid, valves that lose (Q/60)² bar, supplies,
// numbers in all their digits, files.
#pragma once

#include <fmt/format.h>

#include <cmath>
#include <utility>

#include "cli/ran.h"
#include "model_text.h"

namespace conduit::test {

inline constexpr double gravity = 9.80665, gamma_Nm3 = 1000 * gravity;
inline const std::string plainJob = R"("liquid":"own liquid","density":"1000 kg/m3","viscosity":"1 mm2/s")";

/// Pa lost by a flow through such a valve, and the flow by a drop.
[[nodiscard]] inline double dropOf(double m3s) { return 1e5 * std::pow(m3s * 3600 / 60, 2); }
[[nodiscard]] inline double flowBy(double pascal) { return 60.0 / 3600 * std::sqrt(pascal / 1e5); }
[[nodiscard]] inline std::string kv60(const std::string& name, const std::string& from,
                                      const std::string& to) {
  return device("control valve", name, from, to, R"("Kv":"60 Kv")");
}
[[nodiscard]] inline std::string fixedAt(const std::string& name, const std::string& point,
                                         const std::string& pressure, const std::string& more = "") {
  return R"({"kind":"fixed pressure","name":")" + name + R"(","point":")" + point + R"(","pressure":")" +
         pressure + "\"" + more + "}";
}
/// One connection at that height, its entrance K and exit K alike.
[[nodiscard]] inline std::string tankAt(const std::string& name, const std::string& point,
                                        const std::string& level, const std::string& height,
                                        const std::string& k = "0") {
  return R"({"kind":"tank","name":")" + name + R"(","level":")" + level + R"(","connections":[{"point":")" +
         point + R"(","height":")" + height + R"(","entrance K":")" + k + R"(","exit K":")" + k + "\"}]}";
}
/// A whole model of that liquid; `more`: other keys of the file, `job`: what the job says besides.
[[nodiscard]] inline Model plainModel(const std::string& points, const std::string& elements,
                                      const std::string& more = "", const std::string& job = "") {
  const auto m = readModel(R"({"format":"level-conduit","version":2,"job":{)" + plainJob + job + "}" +
                               (more.empty() ? "" : "," + more) + R"(,"points":[)" + points +
                               R"(],"elements":[)" + elements + "]}",
                           &shippedStock());
  if (m) return *m;
  ADD_FAILURE() << m.error().front().what;
  return {};
}
/// The shipped catalogue, shared.
[[nodiscard]] inline std::shared_ptr<const Stock> catalogue() {
  static const auto all = readAndShared(shippedStock());
  return all;
}
/// Changes the set-up of a study in place.
template <class T, class Edit>
void edit(Model& model, const Edit& change) {
  T setup = model.of<T>();
  change(setup);
  model.setups.set(std::move(setup));
}
/// A value in all its digits, in quotes.
[[nodiscard]] inline std::string quoted(double v, const std::string& unit) {
  return fmt::format("\"{:.17g} {}\"", v, unit);
}
/// A field "outflow" or "inflow".
[[nodiscard]] inline std::string flowField(const std::string& key, double m3s) {
  return "\"" + key + "\":" + quoted(m3s * 1000, "L/s");
}

/// The three laws of friction, each with what the wall of a pipe is called under it.
inline constexpr std::pair<const char*, const char*> frictionLaws[] = {
    {"Darcy-Weisbach", R"("roughness":"0.1 mm")"},
    {"Hazen-Williams", R"("C":"120")"},
    {"Manning", R"("n":"0.012")"}};
[[nodiscard]] inline std::string jobUnder(const char* law) {
  return plainJob + R"(,"friction law":")" + law + "\"";
}

/// A file of that model; `more`: what stands beside its points and elements, with a comma behind.
[[nodiscard]] inline std::string fileOf(const std::string& points, const std::string& elements,
                                        const std::string& more = "", const std::string& job = plainJob) {
  return scratch(R"({"format":"level-conduit","version":2,"job":{)" + job + "}," + more + R"("points":[)" +
                 points + R"(],"elements":[)" + elements + "]}");
}

}  // namespace conduit::test
