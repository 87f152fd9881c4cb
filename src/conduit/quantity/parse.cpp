#include "quantity/parse.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <vector>

#include "quantity/tens.h"

namespace conduit {
namespace {

using Failure = tl::unexpected<ParseError>;

void replaceAll(std::string& text, std::string_view what, std::string_view with) {
  for (std::size_t at = text.find(what); at != std::string::npos; at = text.find(what, at + with.size()))
    text.replace(at, what.size(), with);
}

// One spelling for what keyboards and documents write in several ways.
bool isPlain(std::string_view text) {
  return std::all_of(text.begin(), text.end(),
                     [](char c) { return static_cast<unsigned char>(c) < 0x80 && c != '\t' && c != '^'; });
}

std::string plain(std::string_view raw) {
  std::string text(raw);
  const bool kept = isPlain(raw);
  for (const auto& [from, to] : std::initializer_list<std::pair<std::string_view, std::string_view>>{
           {"\u00a0", " "}, {"\u2009", " "}, {"\u202f", " "}, {"\u2007", " "}, {"\t", " "},   {"³", "3"},
           {"²", "2"},      {"⁻¹", "-1"},    {"−", "-"},      {"–", "-"},      {"·", "*"},    {"×10^", "e"},
           {"× 10^", "e"},  {"µ", "u"},      {"μ", "u"},      {"½", " 1/2"},   {"¼", " 1/4"}, {"¾", " 3/4"},
           {"′", "'"},      {"″", "\""},     {"’", "'"},      {"”", "\""},     {"^3", "3"},   {"^2", "2"}})
    if (!kept) replaceAll(text, from, to);
  const auto first = text.find_first_not_of(' ');
  if (first == std::string::npos) return {};
  return text.substr(first, text.find_last_not_of(' ') - first + 1);
}

std::string folded(std::string_view text) {
  std::string out;
  for (char c : text)
    if (c != ' ') out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return out;
}

bool isDigit(char c) { return c >= '0' && c <= '9'; }

// Reads digits with marks into a number. `used` is how much of the text belongs to it.
struct Numeral {
  double value = 0.0;
  std::size_t used = 0;
};

tl::expected<Numeral, ParseError> numeral(std::string_view text) {
  std::size_t at = 0;
  std::string whole;
  if (at < text.size() && (text[at] == '-' || text[at] == '+')) {
    if (text[at] == '-') whole += '-';
    ++at;
    while (at < text.size() && text[at] == ' ') ++at;
  }
  // The body: digits, points, commas, and blanks that part a group of exactly three digits from digits before
  // it.
  std::size_t begin = at;
  while (at < text.size()) {
    if (isDigit(text[at]) || text[at] == '.' || text[at] == ',') {
      ++at;
    } else if (text[at] == ' ' && at > begin && isDigit(text[at - 1]) && at + 3 < text.size() + 0 &&
               at + 4 <= text.size() && isDigit(text[at + 1]) && isDigit(text[at + 2]) &&
               isDigit(text[at + 3]) && (at + 4 == text.size() || !isDigit(text[at + 4])) &&
               (at + 4 == text.size() || text[at + 4] != '/')) {
      at += 4;
    } else {
      break;
    }
  }
  std::string body(text.substr(begin, at - begin));
  std::erase(body, ' ');
  if (body.empty() || std::none_of(body.begin(), body.end(), isDigit))
    return Failure({fmt::format("\"{}\" does not begin with a number", text), std::string(text), {}});
  const auto points = std::count(body.begin(), body.end(), '.');
  const auto commas = std::count(body.begin(), body.end(), ',');
  char decimal = 0, group = 0;
  if (points && commas) {
    decimal = body.rfind('.') > body.rfind(',') ? '.' : ',';
    group = decimal == '.' ? ',' : '.';
  } else if (commas > 1) {
    group = ',';
  } else if (points > 1) {
    group = '.';
  } else if (points == 1) {
    decimal = '.';
  } else if (commas == 1) {
    const auto mark = body.find(',');
    const bool threeAfter = body.size() - mark == 4;
    if (threeAfter && mark >= 1 && mark <= 3 && body[0] != '0') {
      std::string asGroup = body, asDecimal = body;
      std::erase(asGroup, ',');
      std::replace(asDecimal.begin(), asDecimal.end(), ',', '.');
      const std::string rest(text.substr(at));
      return Failure({fmt::format("\"{}\" is ambiguous", body), body, {asGroup + rest, asDecimal + rest}});
    }
    decimal = ',';
  }
  if (decimal && std::count(body.begin(), body.end(), decimal) > 1)
    return Failure({fmt::format("\"{}\" has more than one decimal mark", body), body, {}});
  if (group) {
    // Groups must be of three digits, or the text is not a number but a slip.
    const auto end = decimal ? body.find(decimal) : body.size();
    std::size_t run = 0;
    for (std::size_t i = end; i-- > 0;) {
      if (body[i] == group) {
        if (run != 3)
          return Failure({fmt::format("\"{}\": digit groups must have three digits", body), body, {}});
        run = 0;
      } else {
        ++run;
      }
    }
    if (run > 3) return Failure({fmt::format("\"{}\": digit groups must have three digits", body), body, {}});
    std::erase(body, group);
  }
  if (decimal == ',') std::replace(body.begin(), body.end(), ',', '.');
  whole += body;
  // An exponent belongs to the number only when digits follow it: "1e-3", not "1 ea".
  if (at < text.size() && (text[at] == 'e' || text[at] == 'E')) {
    std::size_t e = at + 1;
    if (e < text.size() && (text[e] == '-' || text[e] == '+')) ++e;
    if (e < text.size() && isDigit(text[e])) {
      while (e < text.size() && isDigit(text[e])) ++e;
      whole += std::string(text.substr(at, e - at));
      at = e;
    }
  }
  Numeral result;
  std::erase(whole, '+');
  const auto [end, error] = std::from_chars(whole.data(), whole.data() + whole.size(), result.value);
  if (error != std::errc() || end != whole.data() + whole.size() || !std::isfinite(result.value))
    return Failure({fmt::format("\"{}\" is out of range", whole), whole, {}});
  result.used = at;
  // Fractions: "1/4", "1 1/2".
  auto fraction = [&](std::size_t from) -> std::optional<std::pair<double, std::size_t>> {
    std::size_t i = from, top = 0, bottom = 0;
    while (i < text.size() && isDigit(text[i])) top = top * 10 + static_cast<std::size_t>(text[i++] - '0');
    if (i == from || i >= text.size() || text[i] != '/' || i - from > 6) return std::nullopt;
    const std::size_t denominator = ++i;
    while (i < text.size() && isDigit(text[i]) && i - denominator < 7)
      bottom = bottom * 10 + static_cast<std::size_t>(text[i++] - '0');
    if (i == denominator || bottom == 0) return std::nullopt;
    return std::pair{static_cast<double>(top) / static_cast<double>(bottom), i};
  };
  if (!decimal && !group) {
    if (auto pure = fraction(begin)) {
      result.value = (whole[0] == '-' ? -1 : 1) * pure->first;
      result.used = pure->second;
    } else if (result.used < text.size() && text[result.used] == ' ') {
      std::size_t next = text.find_first_not_of(' ', result.used);
      if (auto mixed = next == std::string_view::npos ? std::nullopt : fraction(next)) {
        result.value += (whole[0] == '-' ? -1 : 1) * mixed->first;
        result.used = mixed->second;
      }
    }
  }
  return result;
}

bool hasAlias(const Unit& unit, std::string_view word, bool fold) {
  const auto same = [&](std::string_view alias) {
    if (!fold && isPlain(alias)) return alias == word;
    const std::string a = plain(alias);
    return fold ? folded(a) == folded(word) : a == word;
  };
  if (same(unit.symbol)) return true;
  std::string_view rest = unit.aliases;
  while (!rest.empty()) {
    const auto blank = rest.find(' ');
    if (same(rest.substr(0, blank))) return true;
    rest = blank == std::string_view::npos ? std::string_view{} : rest.substr(blank + 1);
  }
  return false;
}

const Unit* findUnit(Measure measure, std::string_view word) {
  const auto units = unitsOf(measure);
  for (const Unit& unit : units)
    if (hasAlias(unit, word, false)) return &unit;
  const Unit* only =
      nullptr;  // without regard to case, if that still names one size: "M" and "m" must not meet
  for (const Unit& unit : units)
    if (hasAlias(unit, word, true)) {
      if (only && (only->factor != unit.factor || only->basis != unit.basis)) return nullptr;
      only = &unit;
    }
  return only;
}

std::size_t distance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> row(b.size() + 1);
  for (std::size_t j = 0; j <= b.size(); ++j) row[j] = j;
  for (std::size_t i = 1; i <= a.size(); ++i) {
    std::size_t corner = row[0];
    row[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const std::size_t above = row[j];
      row[j] = std::min({above + 1, row[j - 1] + 1, corner + (a[i - 1] == b[j - 1] ? 0 : 1)});
      corner = above;
    }
  }
  return row[b.size()];
}

ParseError unknownUnit(Measure measure, std::string_view word) {
  std::vector<std::pair<std::size_t, std::string>> near;
  for (const Unit& unit : unitsOf(measure))
    if (!unit.symbol.empty())
      near.emplace_back(distance(folded(word), folded(plain(unit.symbol))), std::string(unit.symbol));
  std::stable_sort(near.begin(), near.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  ParseError error{fmt::format("\"{}\" is not a unit of {}", word, nameOf(measure)), std::string(word), {}};
  for (std::size_t i = 0; i < near.size() && i < 5; ++i) error.could.push_back(near[i].second);
  if (near.empty()) error.what = fmt::format("\"{}\" is not allowed: {} has no unit", word, nameOf(measure));
  return error;
}

// Every spelling of a unit as it is shown or commonly typed, with the unit that it names.
struct Spelling {
  std::string word;
  const Unit* unit;
};
const std::vector<Spelling>& spellingsOf(Measure measure) {
  static const auto all = [] {
    std::array<std::vector<Spelling>, static_cast<std::size_t>(Measure::number) + 1> tables;
    for (std::size_t m = 0; m < tables.size(); ++m) {
      const auto of = static_cast<Measure>(m);
      const auto add = [&](std::string_view word) {
        if (const Unit* unit = findUnit(of, plain(word))) tables[m].push_back({std::string(word), unit});
      };
      for (const Unit& unit : unitsOf(of)) {
        add(unit.symbol);
        for (std::string_view rest = unit.aliases; !rest.empty();) {
          const auto blank = rest.find(' ');
          add(rest.substr(0, blank));
          rest = blank == std::string_view::npos ? std::string_view{} : rest.substr(blank + 1);
        }
      }
    }
    return tables;
  }();
  return all[static_cast<std::size_t>(measure)];
}

// What nearly every field of a file holds: digits, perhaps a point and digits, perhaps one blank, a unit. A
// model of a hundred thousand pipes has a million of them. Whatever else it may be is left to `parse`.
std::optional<Given> plainGiven(std::string_view raw, Measure measure, const Unit* assumed) {
  std::size_t at = raw.starts_with('-') ? 1 : 0, figures = 0, decimals = 0;
  std::uint64_t mantissa = 0;
  const auto digitsHere = [&] {
    const std::size_t begin = at;
    for (; at < raw.size() && isDigit(raw[at]) && figures < 16; ++at, ++figures)
      mantissa = 10 * mantissa + static_cast<std::uint64_t>(raw[at] - '0');
    return at - begin;
  };
  if (digitsHere() == 0) return std::nullopt;
  if (at < raw.size() && raw[at] == '.') {
    ++at;
    decimals = digitsHere();
    if (decimals == 0) return std::nullopt;
  }
  // Up to 15 figures both the whole number and the power of ten are exact, so that one division rounds as
  // reading the decimals does.
  if (figures > 15) return std::nullopt;
  std::string_view word = raw.substr(at);
  if (word.starts_with(' ')) word.remove_prefix(1);
  if (word.empty() && (assumed || at < raw.size())) return std::nullopt;
  for (const Spelling& s : spellingsOf(measure))
    if (s.word == word) {
      const double size = static_cast<double>(mantissa) / tens[decimals];
      return Given{(raw.front() == '-' ? -size : size) * s.unit->factor + s.unit->offset, s.unit->basis,
                   std::string(raw)};
    }
  return std::nullopt;
}

}  // namespace

tl::expected<Given, ParseError> parse(std::string_view raw, Measure measure, const Unit* assumed) {
  if (auto given = plainGiven(raw, measure, assumed)) return std::move(*given);
  const std::string text = plain(raw);
  if (text.empty()) return Failure({fmt::format("no {} entered", nameOf(measure)), "", {}});
  if (text.size() > 200) return Failure({"the text is too long for a quantity", text.substr(0, 40), {}});
  Given given;
  std::string_view rest = text;
  bool first = true;
  double lastFactor = 0.0;
  while (!rest.empty()) {
    auto number = numeral(rest);
    if (!number) {
      for (std::string& reading : number.error().could)
        while (!reading.empty() && reading.back() == ' ') reading.pop_back();
      return Failure(std::move(number.error()));
    }
    rest.remove_prefix(number->used);
    while (!rest.empty() && rest.front() == ' ') rest.remove_prefix(1);
    // The unit runs to the next blank that a digit follows ("52 ft 6 in"), blanks inside it allowed ("bar
    // g").
    std::size_t end = 0;
    while (end < rest.size() && !(end > 0 && isDigit(rest[end]) &&
                                  (rest[end - 1] == ' ' || rest[end - 1] == '\'' || rest[end - 1] == '"')))
      ++end;
    std::string word(rest.substr(0, end));
    while (!word.empty() && word.back() == ' ') word.pop_back();
    rest.remove_prefix(end);
    const Unit* unit = nullptr;
    if (word.empty()) {
      unit = assumed ? assumed : findUnit(measure, "");
      if (!unit || (!first && !assumed)) {
        ParseError error{fmt::format("\"{}\" needs a unit of {}", text, nameOf(measure)), text, {}};
        const auto units = unitsOf(measure);
        for (std::size_t i = 0; i < units.size() && i < 5; ++i)
          if (!units[i].symbol.empty()) error.could.push_back(fmt::format("{} {}", text, units[i].symbol));
        return Failure(std::move(error));
      }
    } else {
      unit = findUnit(measure, word);
      if (!unit) {
        std::string joined = word;
        std::erase(joined, ' ');
        unit = findUnit(measure, joined);
      }
      if (!unit) return Failure(unknownUnit(measure, word));
    }
    if (first) {
      given.value = number->value * unit->factor + unit->offset;
      given.basis = unit->basis;
      given.typed = std::string(raw);
      if (word.empty() && assumed && !assumed->symbol.empty())
        given.typed = fmt::format("{} {}", text, assumed->symbol);
    } else {
      // Compounds go from large to small and only where the zero of both units is the same.
      if (unit->basis != given.basis || unit->offset != 0.0 || unit->factor >= lastFactor ||
          number->value < 0)
        return Failure({fmt::format("\"{}\" cannot follow the text before it", word), word, {}});
      given.value += (given.value < 0 || text.front() == '-' ? -1 : 1) * number->value * unit->factor;
    }
    lastFactor = unit->factor;
    first = false;
  }
  const auto begin = given.typed.find_first_not_of(' ');
  given.typed = given.typed.substr(begin, given.typed.find_last_not_of(' ') - begin + 1);
  return given;
}

tl::expected<double, ParseError> parseIn(const Medium& medium, std::string_view text, Measure measure,
                                         const Unit* assumed) {
  const auto given = parse(text, measure, assumed);
  if (!given) return tl::unexpected(given.error());
  if (given->basis == Basis::molar && !(medium.molarMass_kgkmol > 0))
    return tl::unexpected(ParseError{
        fmt::format("\"{}\" is given in moles, and the liquid's molar mass is not known", given->typed),
        given->typed,
        {}});
  return resolve(*given, measure, medium);
}

}  // namespace conduit
