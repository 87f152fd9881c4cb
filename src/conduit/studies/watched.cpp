#include "studies/watched.h"

#include "find/condition.h"
#include "json/utf8.h"
#include "model/watched.h"

namespace conduit::watched {
namespace {

using namespace model_json;

void read(const Json& value, const Network& drawn, Setups& into, StudyFaults& faults) {
  WatchedResults results;
  eachEntry(value, study.key, faults, [&](const Object& o, std::size_t entry) {
    const auto fault = [&](std::string field, std::string what) {
      faults.push_back({entry, {}, std::move(field), std::move(what)});
    };
    Watched w;
    std::string_view outcome, over, where;
    if (o.at_key("outcome").get(outcome)) return fault("", "a watched result has no \"outcome\"");
    w.outcome = std::string(outcome);
    if (!o.at_key("over").get(over)) {
      for (const auto word :
           {Watched::Over::least, Watched::Over::greatest, Watched::Over::sum, Watched::Over::mean})
        if (overWord(word) == over) w.over = word;
      if (w.over == Watched::Over::one) return fault("over", "\"over\" is least, greatest, sum or mean");
    }
    if (Array names; !o.at_key("of").get(names)) {
      for (const Json one : names) {
        std::string_view name;
        const Id id = one.get(name) ? noId : drawn.byName(name);
        if (id == noId) return fault("of", fmt::format("watched result: there is no {}", cut(name, 60)));
        if (!findOutcome(*drawn.at(id).part, outcome))
          return fault("outcome", fmt::format("{} has no result \"{}\"", name, outcome));
        w.elements.push_back(id);
      }
    } else if (!o.at_key("where").get(where)) {
      if (const auto condition = readCondition(where, UnitSet::siWater()); !condition)
        return fault("where", fmt::format("watched result: {}", condition.error().what));
      w.condition = std::string(where);
    }
    if (w.elements.empty() == w.condition.empty() || (w.over == Watched::Over::one && w.elements.size() != 1))
      return fault(
          "outcome",
          fmt::format("watched result {} needs elements (\"of\"), or a condition (\"where\") with \"over\"",
                      outcome));
    results.all.push_back(std::move(w));
  });
  into.set(std::move(results));
}

Text write(const Model& model) {
  Text list = Text::array();
  for (const Watched& w : model.of<WatchedResults>().all) {
    Text o = {{"outcome", w.outcome}};
    if (w.over != Watched::Over::one) o["over"] = std::string(overWord(w.over));
    if (w.condition.empty()) {
      o["of"] = Text::array();
      for (const Id id : w.elements)
        if (const Element* e = model.drawn.find(id)) o["of"].push_back(e->name);
    } else {
      o["where"] = w.condition;
    }
    list.push_back(std::move(o));
  }
  return list;
}

Text schema() {
  Text overWords = Text::array();
  for (const auto over :
       {Watched::Over::least, Watched::Over::greatest, Watched::Over::sum, Watched::Over::mean})
    overWords.push_back(std::string(overWord(over)));
  const Text one = {{"type", "object"},
                    {"required", Text::array({"outcome"})},
                    {schemaProperties,
                     {{"outcome", {{"type", "string"}}},
                      {"over", {{"enum", overWords}}},
                      {"of", {{"type", "array"}, {"items", {{"type", "string"}}}}},
                      {"where", {{"type", "string"}}}}}};
  return {{"type", "array"}, {"items", one}};
}

}  // namespace

const Study study{WatchedResults::study, read, write, schema};

}  // namespace conduit::watched
