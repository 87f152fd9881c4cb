// A model file changed by its structure: kinds, keys and values of other entries, hostile texts, entries
// dropped, doubled and mixed.
#pragma once

#include <algorithm>
#include <nlohmann/json.hpp>
#include <random>
#include <string>
#include <vector>

namespace conduit::fuzz {

/// Small changes of JSON that stays JSON, some of them such as no program writes.
class Shape {
 public:
  using Json = nlohmann::ordered_json;
  explicit Shape(unsigned seed) : chance_(seed) {}

  void change(Json& root) {
    std::vector<Json*> all;
    gather(root, all);
    const int times = 1 + below(4);
    for (int i = 0; i < times; ++i) {
      Json& place = *all[static_cast<std::size_t>(below(static_cast<int>(all.size())))];
      const Json other = *all[static_cast<std::size_t>(below(static_cast<int>(all.size())))];
      switch (below(7)) {
        case 0: place = other; break;
        case 1: place = text(); break;
        case 2: place = number(); break;
        case 3:
          if (place.is_object() && !place.empty())
            place.erase(std::next(place.begin(), below(static_cast<int>(place.size()))).key());
          else if (place.is_array() && !place.empty())
            place.erase(static_cast<std::size_t>(below(static_cast<int>(place.size()))));
          break;
        case 4:
          if (place.is_object()) place[word()] = below(2) ? Json(text()) : other;
          else if (place.is_array()) place.push_back(other);
          break;
        case 5:
          if (place.is_object())
            place["kind"] = kinds[static_cast<std::size_t>(below(static_cast<int>(std::size(kinds))))];
          break;
        default:
          if (place.is_string()) place = quantity();
      }
      all.clear();  // what stood there may be gone
      gather(root, all);
    }
  }

 private:
  static constexpr const char* kinds[] = {"pipe",
                                          "pump",
                                          "tank",
                                          "fixed pressure",
                                          "valve",
                                          "control valve",
                                          "check valve",
                                          "reducing valve",
                                          "sustaining valve",
                                          "limiting valve",
                                          "remark",
                                          "picture",
                                          "dimension",
                                          "service",
                                          "orifice plate",
                                          "nozzle",
                                          "own loss",
                                          "relief valve",
                                          "strainer",
                                          "meter",
                                          "exchanger",
                                          "point",
                                          "job",
                                          "differential valve"};
  int below(int n) { return static_cast<int>(chance_() % static_cast<unsigned>(std::max(n, 1))); }
  static void gather(Json& j, std::vector<Json*>& all) {
    if (all.size() > 20000) return;
    all.push_back(&j);
    if (j.is_structured())
      for (Json& child : j) gather(child, all);
  }
  std::string word() {
    static constexpr const char* words[] = {
        "connections", "found", "given", "K",  "set point", "level", "bore",    "size",  "take-off",
        "curve",       "at",    "from",  "to", "point",     "name",  "opening", "files", "stock"};
    return words[below(static_cast<int>(std::size(words)))];
  }
  Json number() {
    static constexpr double numbers[] = {0, -1, 1e-300, 1e300, 0.1, 1e9, -0.0, 5};
    return numbers[below(static_cast<int>(std::size(numbers)))];
  }
  std::string quantity() {
    static constexpr const char* units[] = {"mm",   "m",  "L/s", "bar", "bar a", "%",           "kg/s", "kW",
                                            "m3/h", "m2", "°C",  "s",   "",      "m of liquid", "psi",  "in"};
    return number().dump() + " " + units[below(static_cast<int>(std::size(units)))];
  }
  std::string text() {
    static constexpr const char* texts[] = {
        "",  "A",     "\n",        "³³³",      "=1+1",   "../../x",        "yes",
        "0", "nan m", "inf bar",   "1e999 m",  "|;|;",   "2 elbow; 1 tee", "\u0000",
        "𝄞", "-",     "1 m + 1 m", "((((((((", "1 bar a"};
    return texts[below(static_cast<int>(std::size(texts)))];
  }
  std::minstd_rand chance_;
};

}  // namespace conduit::fuzz
