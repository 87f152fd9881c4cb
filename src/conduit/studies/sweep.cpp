#include "studies/sweep.h"

#include "model/sweep_setup.h"

namespace conduit::sweep {
namespace {

using namespace model_json;

constexpr std::pair<const char*, std::string SweepSetup::*> keys[] = {
    {"vary", &SweepSetup::vary},        {"over", &SweepSetup::over},   {"vary too", &SweepSetup::varyToo},
    {"over too", &SweepSetup::overToo}, {"drawn", &SweepSetup::drawn}, {"drawn too", &SweepSetup::drawnToo}};

void read(const Json& value, const Network&, Setups& into, StudyFaults& faults) {
  Object o;
  if (value.get(o)) return faults.push_back({0, {}, {}, "\"sweep\" must be an object"});
  SweepSetup setup;
  for (const auto& [key, member] : keys)
    if (std::string_view words; !o.at_key(key).get(words)) setup.*member = std::string(words);
  into.set(std::move(setup));
}

Text write(const Model& model) {
  Text o;
  for (const auto& [key, member] : keys)
    if (const std::string& words = model.of<SweepSetup>().*member; !words.empty()) o[key] = words;
  return o;
}

Text schema() { return {{"type", "object"}, {"additionalProperties", {{"type", "string"}}}}; }

}  // namespace

const Study study{SweepSetup::study, read, write, schema};

}  // namespace conduit::sweep
