#include "network/overlay.h"

#include <algorithm>
#include <tuple>

#include "parts/registry.h"

namespace conduit {
namespace {

using To = Difference::To;

auto rankOf(const Difference& d) { return std::tuple(d.element, d.ofOutcome(), d.key); }

void lay(const Difference& d, const Part& part, Values& values) {
  const bool known = d.ofOutcome() ? std::any_of(part.outcomes.begin(), part.outcomes.end(),
                                                 [&](const Outcome& o) { return o.key == d.key; })
                                   : findField(part, d.key) != nullptr;
  if (!known) return;
  switch (d.to) {
    case To::value: values.set(d.key, d.value); break;
    case To::found: {
      const auto* text = std::get_if<std::string>(&d.value);
      if (!text || !text->empty()) values.set(d.key, d.value);
      values.release(d.key);
      break;
    }
    case To::none: values.clear(d.key); break;
    case To::goal: values.give(d.key, std::get<Given>(d.value)); break;
    case To::noGoal: values.ungive(d.key); break;
  }
}

}  // namespace

const std::vector<Difference>& Overlay::all() const {
  static const std::vector<Difference> none;
  return entries_ ? *entries_ : none;
}

std::vector<Difference>& Overlay::own() {
  if (!entries_) {
    entries_ = std::make_shared<std::vector<Difference>>();
  } else if (entries_.use_count() > 1) {
    entries_ = std::make_shared<std::vector<Difference>>(*entries_);
  } else {
    // Nobody else holds them any more; giving back a holder of our own waits for what others read while they
    // did.
    const auto touched = entries_;
  }
  return *entries_;
}

void Overlay::put(Difference difference) {
  std::vector<Difference>& entries = own();
  const auto at = std::lower_bound(entries.begin(), entries.end(), difference,
                                   [](const auto& a, const auto& b) { return rankOf(a) < rankOf(b); });
  if (at != entries.end() && rankOf(*at) == rankOf(difference)) *at = std::move(difference);
  else entries.insert(at, std::move(difference));
}

const Difference* Overlay::at(Id element, std::string_view key, bool outcome) const {
  const Difference wanted{element, key, outcome ? To::noGoal : To::none};
  const auto at = std::lower_bound(all().begin(), all().end(), wanted,
                                   [](const auto& a, const auto& b) { return rankOf(a) < rankOf(b); });
  return at != all().end() && rankOf(*at) == rankOf(wanted) ? &*at : nullptr;
}

bool Overlay::inherit(Id element, std::string_view key, bool outcome) {
  const Difference* there = at(element, key, outcome);
  if (!there) return false;
  const auto place = there - all().data();
  std::vector<Difference>& entries = own();
  entries.erase(entries.begin() + place);
  return true;
}

Network derive(const Network& network, const Overlay& overlay) {
  Draft draft(network);
  for (std::size_t i = 0, end; i < overlay.all().size(); i = end) {
    const Id id = overlay.all()[i].element;
    end = i + 1;
    while (end < overlay.all().size() && overlay.all()[end].element == id) ++end;
    if (!draft.network().find(id)) continue;
    Values& values = draft.values(id);
    for (std::size_t k = i; k < end; ++k) lay(overlay.all()[k], *draft.network().at(id).part, values);
  }
  return std::move(draft).finish();
}

Overlay differences(const Network& from, const Network& to) {
  Overlay overlay;
  from.eachApart(to, [&](Id id) {
    const Element *a = from.find(id), *b = to.find(id);
    if (!a || !b || a->part != b->part || a->values == b->values) return;
    for (const Field& f : a->part->fields) {
      const Values::Entry *was = a->values.entry(f.key), *is = b->values.entry(f.key);
      if (was && is && *was == *is) continue;
      if (is && is->released) {
        overlay.find(id, f.key, is->value);
      } else if (is) {
        overlay.set(id, f.key, is->value);
      } else if (was) {
        overlay.clear(id, f.key);
      }
    }
    for (const Outcome& o : a->part->outcomes) {
      const Given *was = a->values.goal(o.key), *is = b->values.goal(o.key);
      if (is && (!was || !(*was == *is))) overlay.give(id, o.key, *is);
      if (was && !is) overlay.ungive(id, o.key);
    }
  });
  return overlay;
}

Overlay laidOver(const Overlay& under, const Overlay& over) {
  if (under.empty()) return over;
  Overlay both = under;
  for (const Difference& d : over.all()) both.put(d);
  return both;
}

}  // namespace conduit
