#include "parts/pipe/line.h"

#include "loss/fitting_k.h"

namespace conduit::pipe {

bool isSection(const Values& v, std::size_t which) {
  const auto* word = v.get<std::string>(sectionKey);
  return word ? *word == sections[which] : which == 0;
}

bool isLaid(const Values& v) {
  const bool* laid = v.get<bool>(laidKey);
  return !laid || *laid;
}

std::optional<friction::Section> sectionOf(const Values& values, const Setting& setting) {
  if (isSection(values, 1)) {
    const auto w = get(values, sectionWidth, setting.medium), h = get(values, sectionHeight, setting.medium);
    return w && h ? std::optional(friction::rectangle(w->si(), h->si())) : std::nullopt;
  }
  std::optional<double> d;
  if (const auto own = get(values, bore, setting.medium)) d = own->si();
  else if (const auto* name = values.get<std::string>(sizeKey); name && setting.stock)
    if (const PipeSize* size = setting.stock->pipe(*name)) d = size->bore_m;
  if (!d) return std::nullopt;
  if (!isSection(values, 2)) return friction::roundSection(*d);
  const auto inner = get(values, innerPipe, setting.medium);
  return inner && inner->si() < *d ? std::optional(friction::annulus(*d, inner->si())) : std::nullopt;
}

std::optional<double> boreOf(const Values& values, const Setting& setting) {
  const auto section = sectionOf(values, setting);
  return section ? std::optional(section->hydraulic_m) : std::nullopt;
}

std::shared_ptr<const TakeOffRead> readTakeOff(const Values& values, const Setting& setting) {
  const auto* words = values.get<std::string>(takeOffKey);
  return words && !words->empty() && setting.stock ? takeOffRead(*words, *setting.stock) : nullptr;
}

std::shared_ptr<const TakeOff> takeOffOf(const Values& values, const Setting& setting) {
  const auto taken = readTakeOff(values, setting);
  return taken && taken->read ? std::shared_ptr<const TakeOff>(taken, &*taken->read) : nullptr;
}

std::optional<Line> lineOf(const Values& values, const Setting& setting, std::span<const EndPlace> ends) {
  const auto section = sectionOf(values, setting);
  if (!section) return std::nullopt;
  const std::optional<double> d = section->hydraulic_m;
  Line line{.bore_m = *d, .section = *section};
  // A change of bore is counted with the narrower pipe, on its velocity.
  const double byArea = section->equalArea_m();
  for (std::size_t i = 0; i < ends.size() && i < 2; ++i) {
    if (!ends[i].change || ends[i].change->other_m <= byArea * (1 + 1e-9)) continue;
    const double beta = byArea / ends[i].change->other_m, angle = ends[i].change->angle_deg;
    const double wider =
        angle >= 180 ? fittingk::suddenExpansion(beta) : fittingk::coneExpansion(beta, angle);
    const double narrower =
        angle >= 180 ? fittingk::suddenContraction(beta) : fittingk::coneContraction(beta, angle);
    line.forwardK += i == 0 ? narrower : wider;
    line.backwardK += i == 0 ? wider : narrower;
  }
  line.k = get(values, extraK, setting.medium).value_or(Number()).si();
  const auto takeOff = takeOffOf(values, setting);
  if (takeOff) line.k += takeOff->k(*d), line.perRe = takeOff->perReynolds();
  if (const auto l = get(values, length, setting.medium)) line.length_m = l->si();
  else if (takeOff) line.length_m = takeOff->length_m();
  else return std::nullopt;
  if (takeOff) {
    line.added_m = takeOff->added_m();
    line.length_m += line.added_m;
  }
  line.roughness_m = get(values, roughness, setting.medium).value_or(Roughness()).si();
  line.c = get(values, hazenC, setting.medium).value_or(Number()).si();
  line.n = get(values, manningN, setting.medium).value_or(Number()).si();
  return line;
}

}  // namespace conduit::pipe
