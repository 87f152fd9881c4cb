#include "stock/said.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>

namespace conduit {
namespace {

bool digitAt(char c) { return c >= '0' && c <= '9'; }

std::string lowered(std::string_view text) {
  std::string out;
  for (const char c : text) out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return out;
}

// "1½″" becomes "1 1/2 in": signs as their words.
std::string signsAsWords(std::string_view text) {
  std::string out = lowered(text);
  constexpr std::pair<std::string_view, std::string_view> signs[] = {
      {"½", " 1/2"}, {"¼", " 1/4"},  {"¾", " 3/4"}, {"⅜", " 3/8"}, {"⅛", " 1/8"},
      {"″", " in "}, {"\"", " in "}, {",", " "},    {"(", " "},    {")", " "}};
  for (const auto& [sign, words] : signs)
    for (std::size_t at = 0; (at = out.find(sign, at)) != std::string::npos; at += words.size())
      out.replace(at, sign.size(), words);
  return out;
}

// Words and numbers, a letter behind a digit or before one parted only where the word is known.
std::vector<std::string> wordsOf(std::string_view text) {
  std::vector<std::string> words;
  std::string word;
  const auto end = [&] {
    for (const std::string_view prefix : {"dn", "nps", "sch.", "sch", "sdr", "od"})
      if (word.size() > prefix.size() && word.starts_with(prefix) && digitAt(word[prefix.size()])) {
        words.emplace_back(prefix);
        word.erase(0, prefix.size());
      }
    for (const std::string_view suffix : {"in", "inch", "mm"})
      if (word.size() > suffix.size() && word.ends_with(suffix) &&
          digitAt(word[word.size() - suffix.size() - 1]) && digitAt(word[0])) {
        words.push_back(word.substr(0, word.size() - suffix.size()));
        word = suffix;
        break;
      }
    if (!word.empty()) words.push_back(std::exchange(word, {}));
  };
  for (const char c : signsAsWords(text)) {
    if (std::isspace(static_cast<unsigned char>(c))) end();
    else word += c;
  }
  end();
  return words;
}

// 1 1/2, 1-1/2, 1.5, 3/4; empty when it is no number.
std::optional<double> numberOf(std::string_view text) {
  double whole = 0.0;
  if (const auto dash = text.find('-'); dash != std::string_view::npos && dash > 0) {
    const auto before = numberOf(text.substr(0, dash)), after = numberOf(text.substr(dash + 1));
    return before && after && text.find('/') != std::string_view::npos ? std::optional(*before + *after)
                                                                       : std::nullopt;
  }
  const auto slash = text.find('/');
  const auto [end, fault] = std::from_chars(text.data(), text.data() + std::min(slash, text.size()), whole);
  if (fault != std::errc() || text.empty() || !std::isfinite(whole)) return std::nullopt;
  if (slash == std::string_view::npos)
    return end == text.data() + text.size() ? std::optional(whole) : std::nullopt;
  double under = 0.0;
  const auto [last, wrong] = std::from_chars(text.data() + slash + 1, text.data() + text.size(), under);
  if (end != text.data() + slash || wrong != std::errc() || last != text.data() + text.size() || under <= 0)
    return std::nullopt;
  return whole / under;
}

bool byInches(const PipeSize& size) {
  return size.standard.starts_with("ASME") || size.standard.starts_with("ASTM") ||
         size.standard == "EN 10255";
}

// The DN of a nominal pipe size in inches (ISO 6708 beside ASME B36.10M); 25 a size from NPS 4 on.
double dnOf(double inches) {
  constexpr std::pair<double, double> small[] = {{0.125, 6}, {0.25, 8}, {0.375, 10}, {0.5, 15},
                                                 {0.75, 20}, {1, 25},   {1.25, 32},  {1.5, 40},
                                                 {2, 50},    {2.5, 65}, {3, 80},     {3.5, 90}};
  for (const auto& [nps, dn] : small)
    if (std::abs(nps - inches) < 1e-9) return dn;
  return inches * 25;
}

struct Said {
  std::optional<double> nominal;
  enum class By { any, inches, dn, outside } by = By::any;
  std::vector<std::string> schedule, words;
};

Said read(std::string_view text) {
  Said said;
  const std::vector<std::string> words = wordsOf(text);
  for (std::size_t i = 0; i < words.size(); ++i) {
    const std::string& w = words[i];
    const auto number = numberOf(w);
    const bool after = i > 0 && (words[i - 1] == "sch" || words[i - 1] == "sch." ||
                                 words[i - 1] == "schedule" || words[i - 1] == "sdr");
    if (w == "sch" || w == "sch." || w == "schedule" || w == "sdr" || w == "pipe" || w == "tube") continue;
    if (w == "in" || w == "inch" || w == "nps") said.by = Said::By::inches;
    else if (w == "dn") said.by = Said::By::dn;
    else if (w == "od" || w == "mm") said.by = Said::By::outside;
    else if (after) said.schedule.push_back(words[i - 1] == "sdr" ? "sdr " + w : w);
    else if (number && !said.nominal) said.nominal = number;
    else if (number && said.nominal && w.find('/') != std::string::npos && *number < 1 && i > 0 &&
             numberOf(words[i - 1]))
      *said.nominal += *number;
    else if (number) said.schedule.push_back(w);
    else said.words.push_back(w);
  }
  return said;
}

// "pe" and "pvc" as well as the beginnings of the words themselves; a schedule's own word counts too.
bool saysWord(const PipeSize& size, const std::string& word) {
  if (lowered(size.schedule) == word) return true;
  if (word == "pe" && size.material == "polyethylene") return true;
  if (word == "di" && size.material == "ductile iron") return true;
  std::string all = lowered(size.material + " " + size.standard);
  std::replace(all.begin(), all.end(), '-', ' ');
  std::string plainWord = word;
  plainWord.erase(std::remove(plainWord.begin(), plainWord.end(), '-'), plainWord.end());
  std::string joined = lowered(size.material);
  joined.erase(std::remove(joined.begin(), joined.end(), '-'), joined.end());
  if (joined.starts_with(plainWord)) return true;
  for (std::size_t at = 0; at < all.size();) {
    if (std::string_view(all).substr(at).starts_with(word)) return true;
    const auto blank = all.find(' ', at);
    at = blank == std::string::npos ? all.size() : blank + 1;
  }
  return false;
}

bool means(const Said& said, const PipeSize& size) {
  if (said.nominal) {
    const auto own = numberOf(size.nominal);
    if (!own) return false;
    const bool inches = byInches(size);
    const double dn = inches ? dnOf(*own) : *own;
    const auto is = [&](double v) { return std::abs(v - *said.nominal) < 1e-9; };
    switch (said.by) {
      case Said::By::any:
        if (!is(*own)) return false;
        break;
      case Said::By::inches:
        if (!inches || !is(*own)) return false;
        break;
      case Said::By::dn:
        if (!is(dn)) return false;
        break;
      case Said::By::outside:
        if (std::abs(size.outside_m * 1000 - *said.nominal) > 0.06) return false;
        break;
    }
  }
  const std::string own = lowered(size.schedule);
  for (const std::string& schedule : said.schedule)
    if (own != schedule && own != "sdr " + schedule) return false;
  return std::all_of(said.words.begin(), said.words.end(),
                     [&](const std::string& word) { return saysWord(size, word); });
}

// Of each standard the wall that is asked for when nothing else is said.
bool usual(const PipeSize& size) {
  constexpr std::string_view schedules[] = {"40", "40S", "medium", "L", "SDR 11", "SDR 21", "C40"};
  return std::find(std::begin(schedules), std::end(schedules), size.schedule) != std::end(schedules);
}

template <class Entry>
std::vector<const Entry*> named(std::string_view text, const std::vector<Entry>& entries) {
  const std::vector<std::string> words = wordsOf(text);
  std::vector<const Entry*> found;
  if (words.empty()) return found;
  for (const Entry& entry : entries) {
    const std::vector<std::string> own = wordsOf(entry.name());
    if (std::all_of(words.begin(), words.end(), [&](const std::string& word) {
          return std::any_of(own.begin(), own.end(),
                             [&](const std::string& o) { return o.starts_with(word); });
        }))
      found.push_back(&entry);
  }
  std::stable_sort(found.begin(), found.end(), [](const Entry* a, const Entry* b) {
    return std::pair(!a->condition.starts_with("new"), a->material.size()) <
           std::pair(!b->condition.starts_with("new"), b->material.size());
  });
  return found;
}

// The words under which the stock keeps the wall of a material.
std::string_view wallWords(std::string_view material) {
  constexpr std::pair<std::string_view, std::string_view> words[] = {
      {"carbon steel", "commercial steel"},
      {"PVC-U", "PVC-U"},
      {"ductile iron", "ductile iron cement-mortar"}};
  for (const auto& [of, under] : words)
    if (of == material) return under;
  return material;
}
std::string_view coefficientWords(std::string_view material) {
  constexpr std::pair<std::string_view, std::string_view> words[] = {
      {"carbon steel", "steel welded"}, {"polyethylene", "PE"}, {"cross-linked polyethylene", "PE"},
      {"polypropylene", "PP"},          {"PVC-U", "PVC"},       {"ductile iron", "ductile"}};
  for (const auto& [of, under] : words)
    if (of == material) return under;
  return material;
}

template <class Entry>
const Entry* firstOf(const std::vector<const Entry*>& entries) {
  return entries.empty() ? nullptr : entries.front();
}

}  // namespace

std::vector<const PipeSize*> sizesSaid(std::string_view text, const Stock& stock, const PipeSize* like) {
  if (const PipeSize* named = stock.pipe(text)) return {named};
  const Said said = read(text);
  std::vector<const PipeSize*> found;
  // A word alone, such as "steel", says a material and no size.
  if (!said.nominal) return found;
  for (const PipeSize& size : stock.pipes)
    if (means(said, size)) found.push_back(&size);
  const auto rank = [&](const PipeSize* size) {
    const bool sameStandard = like && size->standard == like->standard;
    return std::pair(!sameStandard, sameStandard && size->schedule == like->schedule ? 0
                                    : usual(*size)                                   ? 1
                                                                                     : 2);
  };
  std::stable_sort(found.begin(), found.end(),
                   [&](const PipeSize* a, const PipeSize* b) { return rank(a) < rank(b); });
  return found;
}

std::string spoken(const PipeSize& size) {
  const bool number = !size.schedule.empty() && digitAt(size.schedule.front());
  if (size.standard.starts_with("ASME"))
    return fmt::format("{} in {}{}", size.nominal, number ? "sch " : "", size.schedule);
  if (byInches(size)) return fmt::format("{} in {} {}", size.nominal, size.material, size.schedule);
  return fmt::format("{} {} {}", size.nominal, size.material, size.schedule);
}

std::vector<const RoughnessEntry*> wallsSaid(std::string_view text, const Stock& stock) {
  return named(text, stock.roughness);
}
std::vector<const CoefficientEntry*> coefficientsSaid(std::string_view text, const Stock& stock) {
  return named(text, stock.coefficients);
}
const RoughnessEntry* wallOf(std::string_view material, const Stock& stock) {
  return firstOf(wallsSaid(wallWords(material), stock));
}
const CoefficientEntry* coefficientOf(std::string_view material, const Stock& stock) {
  return firstOf(coefficientsSaid(coefficientWords(material), stock));
}
double manningOf(std::string_view material) {
  if (material == "ductile iron") return 0.013;
  return material == "copper" || material.ends_with("polyethylene") || material == "polypropylene" ||
                 material == "PVC-U"
             ? 0.010
             : 0.012;
}

}  // namespace conduit
