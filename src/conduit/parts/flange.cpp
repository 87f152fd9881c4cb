#include "parts/flange.h"

#include <fmt/format.h>

#include <charconv>

namespace conduit::flange {
namespace {

struct Class {
  bool pn = false;
  int number = 0;
};

constexpr int pns[] = {6, 10, 16, 25, 40, 63, 100, 160, 250, 320, 400};
constexpr int classes[] = {150, 300, 400, 600, 900, 1500, 2500};

std::optional<Class> classOf(std::string_view text) {
  std::string plain;
  for (const unsigned char c : text)
    if (!std::isspace(c)) plain.push_back(static_cast<char>(std::tolower(c)));
  Class found;
  std::string_view rest = plain;
  if (rest.starts_with("pn")) found.pn = true, rest.remove_prefix(2);
  else if (rest.starts_with("class")) rest.remove_prefix(5);
  else if (rest.starts_with("cl")) rest.remove_prefix(2);
  else return std::nullopt;
  const auto end = rest.data() + rest.size();
  if (const auto read = std::from_chars(rest.data(), end, found.number);
      read.ec != std::errc() || read.ptr != end)
    return std::nullopt;
  const bool known =
      found.pn ? std::find(std::begin(pns), std::end(pns), found.number) != std::end(pns)
               : std::find(std::begin(classes), std::end(classes), found.number) != std::end(classes);
  return known ? std::optional(found) : std::nullopt;
}

// Bar at these temperatures; a row ends where the table does.
constexpr double asmeAt_c[] = {38, 50, 100, 150, 200};
struct Row {
  std::string_view material;
  int number;
  double bar[5];
};
constexpr Row asme[] = {
    {"carbon steel", 150, {19.6, 19.2, 17.7, 15.8, 13.8}},
    {"carbon steel", 300, {51.1, 50.1, 46.6, 45.1, 43.8}},
    {"carbon steel", 400, {68.1, 66.8, 62.1, 60.1, 58.4}},
    {"carbon steel", 600, {102.1, 100.2, 93.2, 90.2, 87.6}},
    {"carbon steel", 900, {153.2, 150.4, 139.8, 135.2, 131.4}},
    {"carbon steel", 1500, {255.3, 250.6, 233.0, 225.4, 219.0}},
    {"carbon steel", 2500, {425.5, 417.7, 388.3, 375.6, 365.0}},
    {"stainless 304", 150, {19.0, 18.3, 15.7, 14.2, 13.2}},
    {"stainless 304", 300, {49.6, 47.8, 40.9, 37.0, 34.5}},
    {"stainless 304", 600, {99.3, 95.6, 81.7, 74.0, 69.0}},
    {"stainless 316", 150, {19.0, 18.4, 16.2, 14.8, 13.7}},
    {"stainless 316", 300, {49.6, 48.1, 42.2, 38.5, 35.7}},
    {"stainless 316", 600, {99.3, 96.2, 84.4, 77.0, 71.3}},
    {"stainless 304L or 316L", 150, {15.9, 15.3, 13.3, 12.0, 11.2}},
    {"stainless 304L or 316L", 300, {41.4, 40.0, 34.8, 31.4, 29.2}},
    {"stainless 304L or 316L", 600, {82.7, 80.0, 69.6, 62.8, 58.3}},
    {"ductile iron", 150, {17.2, 17.0, 16.0, 14.8, 13.9}},
    {"ductile iron", 300, {44.1, 43.6, 41.2, 38.9, 36.6}},
};
// Shares of PN.
constexpr double enAt_c[] = {20, 50, 100, 120, 150, 200};
struct Shares {
  std::string_view material;
  double share[6];
  int most;  // PN
};
constexpr Shares en[] = {
    {"carbon steel", {1.0, 0.975, 0.925, 0.905, 0.875, 0.83}, 400},
    {"ductile iron", {1.0, 1.0, 1.0, 1.0, 0.97, 0.92}, 63},
    {"grey iron", {1.0, 1.0, 1.0, 1.0, 0.9, 0.8}, 25},
};

template <std::size_t N>
std::optional<double> between(const double (&at)[N], const double (&values)[N], double t) {
  if (t <= at[0]) return values[0];
  for (std::size_t i = 0; i + 1 < N; ++i)
    if (t <= at[i + 1]) return values[i] + (t - at[i]) / (at[i + 1] - at[i]) * (values[i + 1] - values[i]);
  return std::nullopt;
}

std::string_view materialOf(const Values& values) {
  const auto* word = values.get<std::string>(materialKey);
  return word ? std::string_view(*word) : materials[0];
}

}  // namespace

std::optional<double> rating_pa(std::string_view flangeClass, std::string_view material, double t_c) {
  const auto c = classOf(flangeClass);
  if (!c) return std::nullopt;
  if (!c->pn) {
    for (const Row& row : asme)
      if (row.material == material && row.number == c->number) {
        const auto bar = between(asmeAt_c, row.bar, t_c);
        return bar ? std::optional(*bar * 1e5) : std::nullopt;
      }
    return std::nullopt;
  }
  for (const Shares& row : en)
    if (row.material == material && c->number <= row.most) {
      const auto share = between(enAt_c, row.share, t_c);
      return share ? std::optional(*share * c->number * 1e5) : std::nullopt;
    }
  // Of stainless flanges by PN only the cold end of the table is sure.
  if (material.starts_with("stainless") && t_c <= enAt_c[0]) return c->number * 1e5;
  return std::nullopt;
}

std::string classFault(std::string_view text) {
  return classOf(text) ? std::string()
                       : fmt::format("\"{}\" is not a flange class; classes are PN {} or Class {}", text,
                                     fmt::join(pns, ", "), fmt::join(classes, ", "));
}

Limit ratingOf(const Values& values, const Setting& setting) {
  const auto* text = values.get<std::string>(classKey);
  if (!text || text->empty() || !setting.temperature_c) return {};
  return {rating_pa(*text, materialOf(values), *setting.temperature_c), LimitFrom::standard};
}

bool unknown(const Values& values, const Setting& setting) {
  const auto* text = values.get<std::string>(classKey);
  return text && !text->empty() && !ratingOf(values, setting);
}

Limit lesser(Limit rating, const Values& values, const Setting& setting) {
  const Limit flanges = ratingOf(values, setting);
  return flanges && (!rating || *flanges.si <= *rating.si) ? flanges : rating;
}

}  // namespace conduit::flange
