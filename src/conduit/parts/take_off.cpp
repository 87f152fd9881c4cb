#include "parts/take_off.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>

#include "fields/entry.h"
#include "parts/registry.h"
#include "quantity/words.h"
#include "say/words.h"

namespace conduit {
namespace {

struct Token {
  std::string_view text;
  std::size_t at = 0;
};

bool isDigit(char c) { return c >= '0' && c <= '9'; }
bool isBlank(char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == ';'; }
bool startsNumber(std::string_view word) {
  return !word.empty() &&
         (isDigit(word[0]) || word[0] == '.' || (word[0] == '-' && word.size() > 1 && isDigit(word[1])));
}

// Blanks, semicolons and a comma before a blank part words; quotes and brackets hold what is in them
// together.
std::vector<Token> tokensOf(std::string_view text) {
  std::vector<Token> tokens;
  std::size_t i = 0;
  while (i < text.size()) {
    if (isBlank(text[i])) {
      ++i;
      continue;
    }
    const std::size_t begin = i;
    if (text[i] == '"' || text[i] == '(') {
      const char close = text[i] == '"' ? '"' : ')';
      i = text.find(close, i + 1);
      i = i == std::string_view::npos ? text.size() : i + 1;
      tokens.push_back({text.substr(begin, i - begin), begin});
      continue;
    }
    while (i < text.size() && !isBlank(text[i]) && text[i] != '(' &&
           !(text[i] == ',' && (i + 1 == text.size() || isBlank(text[i + 1]))))
      ++i;
    tokens.push_back({text.substr(begin, i - begin), begin});
    if (i < text.size() && text[i] == ',') ++i;
  }
  return tokens;
}

std::string dashed(std::string_view key) {
  std::string out(key);
  std::replace(out.begin(), out.end(), ' ', '-');
  return out;
}

bool mayStandInLine(const Part& part) {
  return (part.ends == Ends::two || part.ends == Ends::one) && !part.geometry && part.group != Group::drawing;
}

// Letters to change, add, leave out or interchange until one word is the other.
std::size_t slips(std::string_view a, std::string_view b) {
  std::vector<std::vector<std::size_t>> d(a.size() + 1, std::vector<std::size_t>(b.size() + 1));
  for (std::size_t i = 0; i <= a.size(); ++i)
    for (std::size_t j = 0; j <= b.size(); ++j) {
      if (i == 0 || j == 0) {
        d[i][j] = i + j;
        continue;
      }
      d[i][j] =
          std::min({d[i - 1][j] + 1, d[i][j - 1] + 1, d[i - 1][j - 1] + (a[i - 1] == b[j - 1] ? 0u : 1u)});
      if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1])
        d[i][j] = std::min(d[i][j], d[i - 2][j - 2] + 1);
    }
  return d[a.size()][b.size()];
}

// A fitting by its word, also in the plural ("elbows", "tee-runs", "globes") and with blanks for its dash.
const Fitting* fittingOf(std::string_view word, const Stock& stock) {
  const std::string plain = lowered(word);
  if (const Fitting* f = stock.fitting(plain)) return f;
  if (plain.size() > 2 && plain.ends_with("s"))
    if (const Fitting* f = stock.fitting(plain.substr(0, plain.size() - 1))) return f;
  return nullptr;
}

class Reader {
 public:
  Reader(std::string_view text, const Stock& stock)
      : text_(text), stock_(stock), tokens_(tokensOf(text)), metre_(unitsOf(Measure::length).front()) {}

  tl::expected<TakeOff, ParseError> read() {
    TakeOff takeOff;
    while (next_ < tokens_.size()) {
      const std::size_t begin = tokens_[next_].at;
      auto piece = readPiece();
      if (!piece) return tl::unexpected(std::move(piece.error()));
      piece->at = begin;
      const Token& last = tokens_[next_ - 1];
      piece->length = last.at + last.text.size() - begin;
      if (piece->kind == PieceKind::allowance)
        for (const Piece& p : takeOff.pieces)
          if (p.kind == PieceKind::allowance)
            return refused("the allowance is given twice", tokens_[next_ - 1], {});
      takeOff.pieces.push_back(std::move(*piece));
    }
    return takeOff;
  }

 private:
  tl::unexpected<ParseError> refused(std::string what, const Token& token,
                                     std::vector<std::string> could) const {
    return tl::unexpected(ParseError{std::move(what), std::string(token.text), std::move(could), token.at});
  }
  const Token* ahead(std::size_t by = 0) const {
    return next_ + by < tokens_.size() ? &tokens_[next_ + by] : nullptr;
  }

  tl::expected<Piece, ParseError> readPiece() {
    Token token = tokens_[next_++];
    int count = 1;
    // "3x elbow", "3 x elbow", "3xelbow"
    std::size_t d = 0;
    while (d < token.text.size() && isDigit(token.text[d])) ++d;
    const bool joined = d > 0 && d < token.text.size() && token.text[d] == 'x';
    const bool apart = d > 0 && d == token.text.size() && ahead(1) && ahead()->text == "x";
    const bool plural = d > 0 && d == token.text.size() && ahead() &&
                        !stock_.fitting(lowered(ahead()->text)) &&
                        fittingOf(ahead()->text, stock_);  // "3 elbows"
    if (joined || apart || plural) {
      const auto [end, error] = std::from_chars(token.text.data(), token.text.data() + d, count);
      if (error != std::errc() || count < 1 || count > 10000)
        return refused(fmt::format("\"{}\" is not a count between 1 and 10 000", token.text), token, {});
      if (joined && d + 1 < token.text.size()) {
        token = {token.text.substr(d + 1), token.at + d + 1};
      } else {
        if (apart) ++next_;
        if (!ahead()) return refused(fmt::format("a fitting is needed after \"{}\"", token.text), token, {});
        token = tokens_[next_++];
      }
    }
    auto piece = readCounted(token);
    if (piece)
      piece->count = piece->kind == PieceKind::bore || piece->kind == PieceKind::allowance ? 1 : count;
    return piece;
  }

  tl::expected<Piece, ParseError> readCounted(const Token& token) {
    const std::string word = lowered(token.text);
    if (token.text == "K" || token.text == "k" || word.starts_with("k=")) return readK(token);
    if (word == "le" || word.starts_with("le=")) return readEquivalent(token);
    if (token.text.front() == '+') return readAllowance(token);
    if (word == "bore") return readBore(token);
    if ((word == "up" || word == "down") && ahead() && startsNumber(ahead()->text)) {
      auto length = readLength(tokens_[next_++]);
      if (length) length->kind = word == "up" ? PieceKind::up : PieceKind::down, length->word = word;
      return length;
    }
    if (startsNumber(token.text)) {
      auto length = readLength(token);
      if (length && ahead())
        if (const std::string way = lowered(ahead()->text); way == "up" || way == "down") {
          length->kind = way == "up" ? PieceKind::up : PieceKind::down, length->word = way;
          ++next_;
        }
      return length;
    }
    if (const Fitting* fitting = fittingOf(token.text, stock_))
      return Piece{.kind = PieceKind::fitting, .word = fitting->word, .fitting = fitting};
    if (const Part* device = deviceOf(word)) {
      Piece piece{.kind = PieceKind::device, .word = dashed(device->key), .device = device};
      if (ahead() && ahead()->text.front() == '(') {
        const Token given = tokens_[next_++];
        if (given.text.size() < 2 || given.text.back() != ')')
          return refused("closing bracket missing", given, {});
        piece.typed = std::string(given.text.substr(1, given.text.size() - 2));
        const Field& first = device->fields.front();
        if (first.kind != FieldKind::quantity)
          return refused(fmt::format("a {} takes no value in brackets", device->key), given, {});
        if (const auto value = parse(piece.typed, first.measure); !value) {
          ParseError error = value.error();
          error.at = given.at + 1;
          error.what = fmt::format("{} of the {}: {}", first.key, device->key, error.what);
          return tl::unexpected(std::move(error));
        }
      }
      return piece;
    }
    ParseError error{fmt::format("\"{}\" is not a length, a catalogue fitting or a device", token.text),
                     std::string(token.text),
                     {},
                     token.at};
    auto like = [&](const std::string& candidate) {
      return candidate.starts_with(word) || (word.size() > 2 && candidate.find(word) != std::string::npos) ||
             slips(word, candidate) <= (word.size() > 4 ? 2u : 1u);
    };
    for (const Fitting& f : stock_.fittings)
      if (error.could.size() < 5 && like(f.word)) error.could.push_back(f.word);
    for (const Part* part : allParts())
      if (error.could.size() < 5 && mayStandInLine(*part) &&
          (like(dashed(part->key)) || like(dashed(part->key).substr(0, part->key.find(' ')))))
        error.could.push_back(dashed(part->key));
    return tl::unexpected(std::move(error));
  }

  tl::expected<Piece, ParseError> readLength(const Token& token) {
    std::string number(token.text);
    // "8 ft", "52 ft 6 in": units are taken as long as they make a length.
    for (;;) {
      const Token *one = ahead(), *two = ahead(1);
      if (one && !startsNumber(one->text) && parse(number + " " + std::string(one->text), Measure::length)) {
        number += " " + std::string(one->text);
        ++next_;
      } else if (one && two && startsNumber(one->text) && !startsNumber(two->text) &&
                 number.find(' ') != std::string::npos &&
                 parse(number + " " + std::string(one->text) + " " + std::string(two->text),
                       Measure::length)) {
        number += " " + std::string(one->text) + " " + std::string(two->text);
        next_ += 2;
      } else {
        break;
      }
    }
    const auto length = parse(number, Measure::length, &metre_);
    if (!length) {
      ParseError error = length.error();
      error.at = token.at;
      return tl::unexpected(std::move(error));
    }
    if (length->value < 0)
      return refused(fmt::format("\"{}\": a length cannot be negative; type a fall as \"{} down\"", number,
                                 number.substr(1)),
                     token, {number.substr(1) + " down"});
    if (length->value > 1e7)
      return refused(fmt::format("\"{}\" is longer than 10 000 km", number), token, {});
    return Piece{.kind = PieceKind::straight, .word = "straight", .typed = number, .value = length->value};
  }

  tl::expected<Piece, ParseError> readK(const Token& token) {
    const bool joined = token.text.size() > 1;
    const std::string number = joined    ? std::string(token.text.substr(2))
                               : ahead() ? std::string(tokens_[next_++].text)
                                         : std::string();
    const auto k = parse(number, Measure::number);
    if (!k || k->value < 0 || k->value > 1e7)
      return refused(fmt::format("a loss factor is needed after \"{}\"", token.text.substr(0, 1)), token,
                     {"K 2.5"});
    return Piece{.kind = PieceKind::ownK, .word = "K", .typed = number, .value = k->value};
  }

  tl::expected<Piece, ParseError> readEquivalent(const Token& token) {
    Token number = token;
    if (token.text.size() > 2) number = {token.text.substr(3), token.at + 3};
    else if (ahead() && startsNumber(ahead()->text)) number = tokens_[next_++];
    else return refused("a length is needed after \"Le\"", token, {"Le 3.2"});
    auto length = readLength(number);
    if (length) length->kind = PieceKind::equivalent, length->word = "Le";
    return length;
  }

  tl::expected<Piece, ParseError> readAllowance(const Token& token) {
    std::string share(token.text.substr(1));
    if (share.empty() && ahead()) share = std::string(tokens_[next_++].text);
    if (!share.ends_with('%') && ahead() && ahead()->text == "%") ++next_, share += "%";
    if (share.ends_with('%')) share.pop_back();
    else return refused("an allowance on the straight length is a percentage", token, {"+10 %"});
    while (share.ends_with(' ')) share.pop_back();
    const auto value = parse(share, Measure::number);
    if (!value || value->value < 0 || value->value > 1000)
      return refused(fmt::format("\"{}\" is not a percentage from 0 to 1000", token.text), token, {"+10 %"});
    return Piece{
        .kind = PieceKind::allowance, .word = "+", .typed = share + " %", .value = value->value / 100};
  }

  tl::expected<Piece, ParseError> readBore(const Token& token) {
    if (!ahead()) return refused("a bore or catalogue size must follow \"bore\"", token, {"bore 80 mm"});
    if (ahead()->text.front() == '"') {
      const Token name = tokens_[next_++];
      const std::string size(
          name.text.substr(1, name.text.size() - (name.text.size() > 1 && name.text.back() == '"' ? 2 : 1)));
      const PipeSize* entry = stock_.pipe(size);
      if (!entry) return refused(fmt::format("\"{}\" is not a catalogue size", size), name, {});
      return Piece{.kind = PieceKind::bore,
                   .word = "bore",
                   .typed = '"' + entry->name() + '"',
                   .value = entry->bore_m};
    }
    for (std::size_t n = std::min<std::size_t>(6, tokens_.size() - next_); n > 0; --n) {
      const std::size_t from = tokens_[next_].at,
                        to = tokens_[next_ + n - 1].at + tokens_[next_ + n - 1].text.size();
      const std::string words(text_.substr(from, to - from));
      if (const PipeSize* entry = stock_.pipe(words)) {
        next_ += n;
        return Piece{.kind = PieceKind::bore,
                     .word = "bore",
                     .typed = '"' + entry->name() + '"',
                     .value = entry->bore_m};
      }
    }
    for (std::size_t n = std::min<std::size_t>(2, tokens_.size() - next_); n > 0; --n) {
      std::string words;
      for (std::size_t i = 0; i < n; ++i) words += (i ? " " : "") + std::string(tokens_[next_ + i].text);
      const auto bore = parse(words, Measure::bore);
      if (!bore) continue;
      if (bore->value < 1e-4 || bore->value > 20)
        return refused(fmt::format("\"{}\" is not a bore between 0.1 mm and 20 m", words), tokens_[next_],
                       {});
      next_ += n;
      return Piece{.kind = PieceKind::bore, .word = "bore", .typed = words, .value = bore->value};
    }
    return refused(fmt::format("\"{}\" is not a bore with a unit or a catalogue size", ahead()->text),
                   *ahead(), {std::string(ahead()->text) + " mm"});
  }

  std::string_view text_;
  const Stock& stock_;
  std::vector<Token> tokens_;
  const Unit& metre_;
  std::size_t next_ = 0;
};

}  // namespace

std::string Piece::text() const {
  const std::string times = count > 1 ? fmt::format("{}x ", count) : std::string();
  switch (kind) {
    case PieceKind::straight: return times + typed;
    case PieceKind::up:
    case PieceKind::down: return times + typed + " " + word;
    case PieceKind::fitting: return times + word;
    case PieceKind::ownK: return times + "K " + typed;
    case PieceKind::equivalent: return times + "Le " + typed;
    case PieceKind::allowance: return "+" + typed;
    case PieceKind::bore: return "bore " + typed;
    case PieceKind::device: return times + word + (typed.empty() ? "" : " (" + typed + ")");
  }
  return {};
}

double TakeOff::length_m() const {
  double sum = 0.0;
  for (const Piece& p : pieces) sum += p.length_m();
  return sum;
}

double TakeOff::rise_m() const {
  double sum = 0.0;
  for (const Piece& p : pieces)
    sum += p.kind == PieceKind::up ? p.length_m() : p.kind == PieceKind::down ? -p.length_m() : 0.0;
  return sum;
}

double TakeOff::perReynolds() const {
  double sum = 0.0;
  for (const Piece& p : pieces)
    if (p.fitting && p.fitting->k1) sum += p.count * *p.fitting->k1;
  return sum;
}
double TakeOff::k(double bore_m) const {
  double sum = 0.0;
  for (const Piece& p : pieces) sum += p.k(bore_m);
  return sum;
}

double TakeOff::added_m() const {
  double sum = 0.0;
  for (const Piece& p : pieces) {
    if (p.kind == PieceKind::equivalent) sum += p.count * p.value;
    if (p.kind == PieceKind::allowance) sum += p.value * length_m();
  }
  return sum;
}

bool TakeOff::breaks() const {
  return std::any_of(pieces.begin(), pieces.end(), [](const Piece& p) { return p.breaks(); });
}

std::string TakeOff::text() const {
  std::string out;
  for (const Piece& p : pieces) out += (out.empty() ? "" : "  ") + p.text();
  return out;
}

tl::expected<TakeOff, ParseError> parseTakeOff(std::string_view text, const Stock& stock) {
  return Reader(text, stock).read();
}

std::shared_ptr<const TakeOffRead> takeOffRead(std::string_view text, const Stock& stock) {
  if (auto kept = stock.takeOffs.find(text, stock.fittings)) return kept;
  auto read = std::make_shared<const TakeOffRead>(TakeOffRead{parseTakeOff(text, stock)});
  stock.takeOffs.keep(text, stock.fittings, read);
  return read;
}

std::pair<TakeOff, TakeOff> cutAt(const TakeOff& takeOff, double share) {
  std::pair<TakeOff, TakeOff> cut;
  const double whole = takeOff.length_m();
  if (whole <= 0.0) {  // nothing but fittings: by their number
    const auto at =
        static_cast<std::ptrdiff_t>(std::lround(share * static_cast<double>(takeOff.pieces.size())));
    cut.first.pieces.assign(takeOff.pieces.begin(), takeOff.pieces.begin() + at);
    cut.second.pieces.assign(takeOff.pieces.begin() + at, takeOff.pieces.end());
    return cut;
  }
  double left = std::round(share * whole * 1000) / 1000;
  for (const Piece& p : takeOff.pieces) {
    if (p.kind == PieceKind::allowance) {  // holds for both
      cut.first.pieces.push_back(p);
      cut.second.pieces.push_back(p);
    } else if (left <= 1e-9) {
      cut.second.pieces.push_back(p);
    } else if (p.length_m() <= left + 1e-9) {
      left -= p.length_m();
      cut.first.pieces.push_back(p);
    } else {
      Piece a = p, b = p;
      a.count = b.count = 1;
      a.value = left, b.value = p.length_m() - left;
      a.typed = fmt::format("{:.10g}", a.value),
      b.typed = fmt::format("{:.10g}", std::round(b.value * 1e6) / 1e6);
      cut.first.pieces.push_back(a);
      cut.second.pieces.push_back(b);
      left = 0.0;
    }
  }
  return cut;
}

std::string_view wordAtEnd(std::string_view before) {
  std::size_t begin = before.size();
  while (begin > 0 && !isBlank(before[begin - 1]) && before[begin - 1] != '(') --begin;
  std::string_view word = before.substr(begin);
  // "3xel": the count is not part of the word.
  std::size_t d = 0;
  while (d < word.size() && isDigit(word[d])) ++d;
  if (d > 0 && d < word.size() && word[d] == 'x') word.remove_prefix(d + 1);
  return word;
}

std::vector<Completion> completionsFor(std::string_view before, const Stock& stock) {
  std::vector<Completion> found;
  const std::string word = lowered(wordAtEnd(before));
  // Behind a length there may be a way.
  const auto tokens = tokensOf(before);
  const std::size_t behind = word.empty() ? tokens.size() : tokens.size() - 1;
  if (behind > 0 && startsNumber(tokens[behind - 1].text))
    for (const char* way : {"up", "down"})
      if (std::string_view(way).starts_with(word)) found.push_back({way, std::string("goes ") + way});
  if (word.empty() || startsNumber(word)) return found;
  for (const Fitting& f : stock.fittings)
    if (f.word.starts_with(word)) found.push_back({f.word, f.description});
  for (const Part* part : allParts())
    if (mayStandInLine(*part) && dashed(part->key).starts_with(word))
      found.push_back({dashed(part->key), fmt::format("{}: splits the line here", spokenOne(part->key))});
  if (std::string_view("bore").starts_with(word))
    found.push_back({"bore", "change of bore: splits the line here"});
  return found;
}

const Part* deviceOf(std::string_view word) {
  const Part* found = nullptr;
  for (const Part* part : allParts()) {
    if (!mayStandInLine(*part)) continue;
    const std::string key = dashed(part->key);
    if (key == word) return part;
    if (key.substr(0, key.find('-')) == word && word.size() > 2) {
      if (found) return nullptr;
      found = part;
    }
  }
  return found;
}

std::optional<Problem> takeOffUnfit(std::string_view key, std::string_view text, const Stock& stock) {
  const auto taken = takeOffRead(text, stock);
  const auto& takeOff = taken->read;
  if (!takeOff) return problemOf(key, takeOff.error());
  for (const Piece& p : takeOff->pieces)
    if (p.breaks())
      return Problem{{"", std::string(key)},
                     fmt::format("\"{}\" splits the pipe: add it as a separate element", p.text()),
                     {}};
  return std::nullopt;
}

}  // namespace conduit
