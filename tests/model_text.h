// Small models written as text in the tests, in the product's own file format.
#pragma once

#include <gtest/gtest.h>

#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "solve/solve.h"

namespace conduit::test {

/// Comma-separated points and elements; a broken text fails the test that wrote it.
[[nodiscard]] inline Network model(const std::string& points, const std::string& elements,
                                   const std::string& job = "") {
  const auto n = readDrawn("{\"format\":\"level-conduit\",\"version\":1,\"job\":{" + job + "},\"points\":[" +
                               points + "],\"elements\":[" + elements + "]}",
                           &shippedStock());
  if (!n) {
    ADD_FAILURE() << n.error().front().what;
    return {};
  }
  return *n;
}

[[nodiscard]] inline std::string point(const std::string& name, double z, const std::string& more = "") {
  return "{\"name\":\"" + name + "\",\"height\":\"" + std::to_string(z) + " m\"" +
         (more.empty() ? "" : "," + more) + "}";
}
/// Smooth pipe of 100 mm unless said otherwise.
[[nodiscard]] inline std::string pipe(const std::string& name, const std::string& from, const std::string& to,
                                      double length, const std::string& bore = "100 mm",
                                      const std::string& more = "") {
  return "{\"kind\":\"pipe\",\"name\":\"" + name + "\",\"from\":\"" + from + "\",\"to\":\"" + to +
         "\",\"length\":\"" + std::to_string(length) + " m\",\"bore\":\"" + bore +
         "\",\"roughness\":\"0.05 mm\"" + (more.empty() ? "" : "," + more) + "}";
}
[[nodiscard]] inline std::string held(const std::string& point, double head_m) {
  return "{\"kind\":\"fixed pressure\",\"name\":\"held " + point + "\",\"point\":\"" + point +
         "\",\"pressure\":\"" + std::to_string(head_m) + " m\"}";
}
[[nodiscard]] inline std::string device(const std::string& kind, const std::string& name,
                                        const std::string& from, const std::string& to,
                                        const std::string& more) {
  return "{\"kind\":\"" + kind + "\",\"name\":\"" + name + "\",\"from\":\"" + from + "\",\"to\":\"" + to +
         "\"" + (more.empty() ? "" : "," + more) + "}";
}
[[nodiscard]] inline Solution answer(const Network& n) {
  Solution s = solve(n, &shippedStock());
  EXPECT_TRUE(s.summary.usable()) << s.summary.full();
  return s;
}
[[nodiscard]] inline double flow(const Network& n, const Solution& s, const std::string& name,
                                 std::size_t branch = 0) {
  return s.branch(n.byName(name), branch).flow_m3s.value_or(NAN);
}
[[nodiscard]] inline BranchState state(const Network& n, const Solution& s, const std::string& name,
                                       std::size_t branch = 0) {
  return s.branch(n.byName(name), branch).state;
}
[[nodiscard]] inline double headAt(const Network& n, const Solution& s, const std::string& name) {
  return s.head(n.byName(name)).value_or(NAN);
}

}  // namespace conduit::test
