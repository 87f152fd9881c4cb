#include "stock/stock.h"

#include <cctype>
#include <cmath>

namespace conduit {
namespace {

std::string squeezed(std::string_view text) {
  std::string out;
  for (char c : text)
    if (c != ' ') out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  if (const auto at = out.find("sch"); at != std::string::npos) out.erase(at, 3);
  return out;
}

}  // namespace

double completeTurbulence(double bore_m) {
  const double lg = std::log10(0.0457e-3 / (3.7 * bore_m));
  return 0.25 / (lg * lg);
}

double Fitting::kAt(double bore_m) const { return k ? *k : boresLong.value_or(0.0) * completeTurbulence(bore_m); }

const Fitting* Stock::fitting(std::string_view word) const {
  for (const Fitting& f : fittings)
    if (f.word == word) return &f;
  return nullptr;
}

const PipeSize* Stock::pipe(std::string_view name) const {
  const std::string wanted = squeezed(name);
  for (const PipeSize& p : pipes)
    if (squeezed(p.name()) == wanted) return &p;
  return nullptr;
}

}  // namespace conduit
