#include "model/case_set.h"

#include <algorithm>

#include "model/costs.h"
#include "quantity/words.h"

namespace conduit {
namespace {

const Field fields[] = {
    Field{.key = cases::hours,
          .measure = Measure::duration,
          .least = 0,
          .most = costs::leapYear_s,
          .help = "operating hours per year of this case, for energy and whole-life cost"},
    text(cases::remark, "purpose of this case"),
    flag(cases::counts, true, "sizing must meet the limits in this case"),
    flag(cases::issued, true, "include on the calculation sheet"),
};

}  // namespace

std::span<const Field> caseFields() { return fields; }

bool flagOf(const Case& which, std::string_view key) {
  const bool* said = which.about.get<bool>(key);
  return !said || *said;
}

const Case* CaseSet::find(CaseId id) const {
  if (id == drawingCase) return &drawing;
  const auto at = std::find_if(others.begin(), others.end(), [&](const Case& c) { return c.id == id; });
  return at == others.end() ? nullptr : &*at;
}

Case* CaseSet::find(CaseId id) { return const_cast<Case*>(std::as_const(*this).find(id)); }

const Case* CaseSet::byName(std::string_view name) const {
  const std::string wanted = lowered(name);
  if (lowered(drawing.name) == wanted) return &drawing;
  const auto at =
      std::find_if(others.begin(), others.end(), [&](const Case& c) { return lowered(c.name) == wanted; });
  if (at != others.end()) return &*at;
  // What it is called where nobody names it, now and in earlier files and scripts.
  return wanted == "base case" || wanted == "as drawn" ? &drawing : nullptr;
}

std::vector<CaseId> CaseSet::ids() const {
  std::vector<CaseId> all{drawingCase};
  for (const Case& c : others) all.push_back(c.id);
  return all;
}

std::vector<const Case*> CaseSet::chain(CaseId id) const {
  std::vector<const Case*> up;
  for (const Case* c = find(id); c && c->id != drawingCase && up.size() <= others.size(); c = find(c->parent))
    up.push_back(c);
  std::reverse(up.begin(), up.end());
  return up;
}

bool CaseSet::derives(CaseId id, CaseId above) const {
  if (id == above || above == drawingCase) return true;
  const auto all = chain(id);
  return std::any_of(all.begin(), all.end(), [&](const Case* c) { return c->id == above; });
}

Overlay CaseSet::whole(CaseId id) const {
  Overlay all;
  for (const Case* c : chain(id)) all = laidOver(all, c->differs);
  return all;
}

std::size_t CaseSet::bytes() const {
  std::size_t bytes = 200 * count();
  for (const Case& c : others) bytes += c.differs.bytes() + c.extra.size();
  return bytes;
}

}  // namespace conduit
