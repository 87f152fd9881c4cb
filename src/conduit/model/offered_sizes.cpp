#include "model/offered_sizes.h"
#include "fields/keys.h"

#include <fmt/format.h>

#include <algorithm>

namespace conduit {

std::vector<const PipeSize*> sizesIn(const Stock& stock, const SizeRange& range) {
  std::vector<const PipeSize*> sizes;
  for (const PipeSize& p : stock.pipes)
    if (p.standard == range.standard && (range.schedule.empty() || p.schedule == range.schedule))
      sizes.push_back(&p);
  std::sort(sizes.begin(), sizes.end(), [](auto* a, auto* b) { return a->bore_m < b->bore_m; });
  const auto at = [&](const std::string& nominal) {
    return std::find_if(sizes.begin(), sizes.end(), [&](auto* p) { return p->nominal == nominal; });
  };
  if (!range.to.empty())
    if (const auto last = at(range.to); last != sizes.end()) sizes.erase(last + 1, sizes.end());
  if (!range.from.empty())
    sizes.erase(sizes.begin(), at(range.from));  // all of them where the first is none up to the last
  return sizes;
}

std::vector<const PipeSize*> sizesOffered(const Stock& stock, std::span<const SizeRange> ranges,
                                          const Element& line) {
  const std::string* service = line.text(serviceKey);
  for (const int own : {2, 1, 0})
    for (const SizeRange& r : ranges)
      if (own == 2   ? !r.service.empty() && r.service == line.name
          : own == 1 ? service && r.service == *service
                     : r.service.empty())
        return sizesIn(stock, r);
  return {};
}

namespace {

// In place of the size that an edit gives a line the next that is to choose from, or the same; null where
// none is as wide, empty where it gives none or all are to choose from.
std::optional<const PipeSize*> offeredFor(const FieldEdit& edit, const Network& network, const Stock* stock,
                                          std::span<const SizeRange> ranges) {
  const Id line = edit.field == key::size && stock ? network.byName(edit.name) : noId;
  const PipeSize* size = line == noId ? nullptr : stock->pipe(edit.text);
  if (!size) return std::nullopt;
  const auto sizes = sizesOffered(*stock, ranges, network.at(line));
  if (sizes.empty()) return std::nullopt;
  if (std::find(sizes.begin(), sizes.end(), size) != sizes.end()) return size;
  const auto wider =
      std::find_if(sizes.begin(), sizes.end(), [&](const PipeSize* s) { return s->bore_m >= size->bore_m; });
  return wider == sizes.end() ? nullptr : *wider;
}

}  // namespace

bool isOffered(const Remedy& remedy, const Network& network, const Stock* stock,
               std::span<const SizeRange> ranges) {
  return std::all_of(remedy.edits.begin(), remedy.edits.end(), [&](const FieldEdit& edit) {
    const auto size = offeredFor(edit, network, stock, ranges);
    return !size || (*size && (*size)->name() == edit.text);
  });
}

void onlyOffered(std::vector<Remedy>& remedies, const Network& network, const Stock* stock,
                 std::span<const SizeRange> ranges) {
  if (ranges.empty()) return;
  std::erase_if(remedies, [&](Remedy& remedy) {
    for (FieldEdit& edit : remedy.edits) {
      const auto size = offeredFor(edit, network, stock, ranges);
      if (!size) continue;
      if (!*size) return true;
      if ((*size)->name() == edit.text) continue;
      edit.text = (*size)->name();
      remedy.words = fmt::format("Resize {} to {}", edit.name, edit.text);
    }
    return false;
  });
}

void onlyOffered(std::vector<Finding>& findings, const Network& network, const Stock* stock,
                 std::span<const SizeRange> ranges) {
  for (Finding& f : findings) onlyOffered(f.remedies, network, stock, ranges);
}

}  // namespace conduit
