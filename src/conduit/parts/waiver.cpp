#include "parts/waiver.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

namespace conduit {
namespace {

std::string_view trimmed(std::string_view text) {
  const auto from = text.find_first_not_of(" \t\n");
  if (from == std::string_view::npos) return {};
  return text.substr(from, text.find_last_not_of(" \t\n") - from + 1);
}

bool same(std::string_view a, std::string_view b) {
  return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](unsigned char one, unsigned char other) {
    return std::tolower(one) == std::tolower(other);
  });
}

// What has no answer or cannot be is told whatever anybody says.
bool mayBeLeftOut(CheckId id) {
  return id != CheckId::balance && id != CheckId::vacuum && id != CheckId::delivery && id != CheckId::role;
}

std::string_view labelNamed(std::string_view text) {
  for (const CheckRow& row : checkTable)
    if (mayBeLeftOut(row.id) && same(row.label, text)) return row.label;
  return {};
}

struct Pieces {
  std::string_view check, why;
};
std::vector<Pieces> piecesOf(std::string_view text) {
  std::vector<Pieces> pieces;
  while (!text.empty()) {
    const auto end = std::min(text.find(';'), text.size());
    const std::string_view piece = trimmed(text.substr(0, end));
    text.remove_prefix(std::min(end + 1, text.size()));
    if (piece.empty()) continue;
    const auto colon = piece.find(':');
    pieces.push_back(colon == std::string_view::npos
                         ? Pieces{piece, {}}
                         : Pieces{trimmed(piece.substr(0, colon)), trimmed(piece.substr(colon + 1))});
  }
  return pieces;
}

}  // namespace

std::vector<Waiver> waiversIn(std::string_view text) {
  std::vector<Waiver> waivers;
  for (const Pieces& p : piecesOf(text))
    if (const std::string_view label = labelNamed(p.check); !label.empty() && !p.why.empty())
      waivers.push_back({label, std::string(p.why)});
  return waivers;
}

std::string waiverFault(std::string_view text) {
  for (const Pieces& p : piecesOf(text)) {
    if (labelNamed(p.check).empty()) {
      std::vector<std::string_view> labels;
      for (const CheckRow& row : checkTable)
        if (mayBeLeftOut(row.id) && std::find(labels.begin(), labels.end(), row.label) == labels.end())
          labels.push_back(row.label);
      std::sort(labels.begin(), labels.end());
      return fmt::format("\"{}\" is not a check; checks are {}", p.check, fmt::join(labels, ", "));
    }
    if (p.why.empty()) return fmt::format("no reason is given for {0}; enter it as \"{0}: reason\"", p.check);
  }
  return {};
}

CheckSet checksIn(std::string_view text) {
  CheckSet set;
  for (const Waiver& w : waiversIn(text))
    for (const CheckRow& row : checkTable)
      if (row.label == w.check && mayBeLeftOut(row.id)) set.set(static_cast<std::size_t>(row.id));
  return set;
}

}  // namespace conduit
