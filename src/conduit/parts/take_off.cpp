#include "parts/take_off.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <charconv>

namespace conduit {
namespace {

bool startsNumber(std::string_view word) { return !word.empty() && (std::isdigit(static_cast<unsigned char>(word[0])) || word[0] == '.' || word[0] == '-'); }

std::vector<std::string> words(std::string_view text) {
  std::vector<std::string> out;
  std::string word;
  for (char c : text) {
    if (c == ' ' || c == '\t' || c == '\n' || c == ';') {
      if (!word.empty()) out.push_back(std::exchange(word, {}));
    } else {
      word += c;
    }
  }
  if (!word.empty()) out.push_back(word);
  return out;
}

}  // namespace

double TakeOff::length_m() const {
  double sum = 0.0;
  for (const Piece& p : pieces) sum += p.length_m;
  return sum;
}

double TakeOff::rise_m() const {
  double sum = 0.0;
  for (const Piece& p : pieces) sum += p.word == "up" ? p.length_m : p.word == "down" ? -p.length_m : 0.0;
  return sum;
}

double TakeOff::k(double bore_m) const {
  double sum = 0.0;
  for (const Piece& p : pieces) sum += p.k(bore_m);
  return sum;
}

tl::expected<TakeOff, ParseError> parseTakeOff(std::string_view text, const Stock& stock) {
  TakeOff takeOff;
  const auto tokens = words(text);
  const Unit& metre = unitsOf(Measure::length).front();
  for (std::size_t i = 0; i < tokens.size(); ++i) {
    std::string token = tokens[i];
    int count = 1;
    // "3x elbow", "3 x elbow", "3xelbow"
    std::size_t d = 0;
    while (d < token.size() && std::isdigit(static_cast<unsigned char>(token[d]))) ++d;
    const bool joined = d > 0 && d < token.size() && token[d] == 'x';
    const bool apart = d > 0 && d == token.size() && i + 2 < tokens.size() && tokens[i + 1] == "x";
    if (joined || apart) {
      const auto [end, error] = std::from_chars(token.data(), token.data() + d, count);
      if (error != std::errc() || count < 1 || count > 10000) return tl::unexpected(ParseError{fmt::format("\"{}\" is not a count between 1 and 10 000", token), token, {}});
      if (apart) {
        token = tokens[i += 2];
      } else if (d + 1 < token.size()) {
        token = token.substr(d + 1);
      } else if (i + 1 < tokens.size()) {
        token = tokens[++i];
      } else {
        return tl::unexpected(ParseError{fmt::format("a fitting is wanted after \"{}\"", token), token, {}});
      }
    }
    if (token == "K" || token == "k" || token.starts_with("K=")) {
      const std::string number = token.starts_with("K=") ? token.substr(2) : i + 1 < tokens.size() ? tokens[++i] : std::string();
      const auto k = parse(number, Measure::number);
      if (!k || k->value < 0) return tl::unexpected(ParseError{fmt::format("a loss factor is wanted after \"{}\"", token), number.empty() ? token : number, {"K 2.5"}});
      takeOff.pieces.push_back({"K", 0.0, count, k->value, nullptr});
    } else if (startsNumber(token)) {
      std::string number = token;
      if (i + 1 < tokens.size() && !startsNumber(tokens[i + 1]) && parse(number + " " + tokens[i + 1], Measure::length)) number += " " + tokens[++i];
      const auto length = parse(number, Measure::length, &metre);
      if (!length) return tl::unexpected(length.error());
      if (length->value < 0) return tl::unexpected(ParseError{fmt::format("\"{}\": a piece cannot be shorter than nothing", number), number, {}});
      std::string word = "straight";
      if (i + 1 < tokens.size() && (tokens[i + 1] == "up" || tokens[i + 1] == "down")) word = tokens[++i];
      takeOff.pieces.push_back({word, count * length->value, 1, 0.0, nullptr});
    } else if (const Fitting* fitting = stock.fitting(token)) {
      takeOff.pieces.push_back({token, 0.0, count, 0.0, fitting});
    } else {
      ParseError error{fmt::format("\"{}\" is not a fitting of the stock", token), token, {}};
      if (token == "check" || token == "pump" || token == "reducing")
        error.what = fmt::format("\"{}\" acts: it is an element of its own, set into the line with its letter", token);
      for (const Fitting& f : stock.fittings)
        if (error.could.size() < 6 && !token.empty() && (f.word.starts_with(token.substr(0, 2)) || f.word.find(token) != std::string::npos)) error.could.push_back(f.word);
      for (const Fitting& f : stock.fittings)
        if (error.could.size() < 4 && std::find(error.could.begin(), error.could.end(), f.word) == error.could.end()) error.could.push_back(f.word);
      return tl::unexpected(std::move(error));
    }
  }
  return takeOff;
}

}  // namespace conduit
