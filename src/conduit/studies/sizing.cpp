#include "studies/sizing.h"

#include <fmt/format.h>

#include "fields/entry.h"
#include "fields/keys.h"
#include "json/utf8.h"
#include "model/sizing_setup.h"
#include "quantity/parse.h"

namespace conduit::sizing {
namespace {

using namespace model_json;

// One home for the keys of the file.
constexpr const char *sizes = "sizes", *left = "left as they are", *tied = "one size together",
                     *alone = "flow and return apart", *laying = "laying", *perMetre = "more for 1 m",
                     *byDiameter = "more for 1 m and 100 mm", *branches = "branches",
                     *deliveries = "deliveries", *kept = "kept proposals";
constexpr const char* lessBy = "less by";
constexpr std::pair<const char*, std::string SizeRange::*> rangeKeys[] = {
    {"standard", &SizeRange::standard},
    {"schedule", &SizeRange::schedule},
    {"from", &SizeRange::from},
    {"to", &SizeRange::to},
    {key::service, &SizeRange::service}};

class SizingReader {
 public:
  SizingReader(const Network& network, SizingSetup& into, StudyFaults& faults)
      : network_(network), into_(into), faults_(faults) {}

  void read(const Json& value) {
    Object all;
    if (value.get(all)) return fault("", "\"sizing\" must be an object");
    Extra rest;
    for (const auto& [key, list] : all) {
      if (const Field* field = findField(sizingFields(), key)) number(*field, list);
      else if (key == sizes) each(key, list, [&](const Object& o) { range(o); });
      else if (key == left) lines(key, list, into_.left);
      else if (key == alone) lines(key, list, into_.alone);
      else if (key == tied) each(key, list, [&](const Object& o) { together(o); });
      else if (key == laying) each(key, list, [&](const Object& o) { laid(o); });
      else if (key == branches) each(key, list, [&](const Object& o) { branch(o); });
      else if (key == deliveries) each(key, list, [&](const Object& o) { delivery(o); });
      else if (key == kept) each(key, list, [&](const Object& o) { proposal(o); });
      else rest.add(key, list);
    }
    if (!rest.empty()) into_.extra = rest.text();
  }

 private:
  void fault(std::string_view field, std::string what) {
    if (faults_.size() < 200) faults_.push_back({0, {}, std::string(field), "sizing: " + std::move(what)});
  }
  void number(const Field& field, const Json& value) {
    auto read = readField(field, asText(value).value_or("?"), nullptr, nullptr);
    if (!read) return fault(field.key, fmt::format("{}: {}", field.key, read.error().what));
    into_.about.set(field.key, std::move(*read));
  }
  template <class Take>
  void each(std::string_view key, const Json& value, Take take) {
    Array list;
    if (value.get(list)) return fault(key, fmt::format("\"{}\" must be a list", key));
    for (const Json entry : list)
      if (Object o; !entry.get(o)) take(o);
      else fault(key, fmt::format("every entry of \"{}\" must be an object", key));
  }
  static std::string textOf(const Object& o, std::string_view key) {
    std::string_view text;
    return o.at_key(key).get(text) ? std::string() : std::string(text);
  }
  Id line(std::string_view key, std::string_view name) {
    const Id id = network_.byName(name);
    if (id == noId) fault(key, fmt::format("there is no {}", cut(name, 60)));
    else if (!network_.at(id).part->line) fault(key, fmt::format("{} is not a pipe", cut(name, 60)));
    else return id;
    return noId;
  }
  void lines(std::string_view key, const Json& value, std::vector<Id>& into) {
    const auto refused = [&] { fault(key, fmt::format("\"{}\" must be a list of names", key)); };
    Array list;
    if (value.get(list)) return refused();
    for (const Json entry : list) {
      std::string_view name;
      if (entry.get(name)) return refused();
      if (const Id id = line(key, name); id != noId) into.push_back(id);
    }
  }
  void linesOf(const Object& o, std::string_view key, std::vector<Id>& into) {
    if (Json list; !o.at_key("lines").get(list)) lines(key, list, into);
  }
  void range(const Object& o) {
    SizeRange r;
    for (const auto& [key, member] : rangeKeys) r.*member = textOf(o, key);
    if (r.standard.empty()) return fault(sizes, "an entry of \"sizes\" needs a \"standard\"");
    into_.ranges.push_back(std::move(r));
  }
  void together(const Object& o) {
    TiedLines t{.name = textOf(o, "name")};
    linesOf(o, tied, t.lines);
    if (t.lines.size() < 2) return fault(tied, "an equal-size group needs at least two \"lines\"");
    into_.tied.push_back(std::move(t));
  }
  void laid(const Object& o) {
    LayingClass c{.name = textOf(o, "name")};
    if (c.name.empty()) return fault(laying, "a laying class has no \"name\"");
    const auto money = [&](const char* key, double& into) {
      Json value;
      if (o.at_key(key).get(value)) return true;
      const auto read = parse(asText(value).value_or("?"), Measure::number, nullptr);
      if (read && read->value >= 0 && read->value < 1e9) into = read->value;
      else
        fault(laying, fmt::format("{} of {}: {}", key, cut(c.name, 60),
                                  read ? "it must be from 0 to 1e9" : read.error().what));
      return read && into == read->value;
    };
    if (!money(perMetre, c.perMetre) || !money(byDiameter, c.byDiameter)) return;
    c.byDiameter /= 0.1;
    linesOf(o, laying, c.lines);
    into_.laying.push_back(std::move(c));
  }
  void branch(const Object& o) {
    const std::string name = textOf(o, "valve");
    BranchGoal b{.valve = network_.byName(name)};
    if (b.valve == noId) return fault(branches, fmt::format("there is no {}", cut(name, 60)));
    auto flow = parse(textOf(o, key::flow), Measure::volumeFlow, nullptr);
    if (!flow) return fault(branches, fmt::format("flow of {}: {}", name, flow.error().what));
    b.flow = std::move(*flow);
    into_.branches.push_back(std::move(b));
  }
  // {"at": "Gun 4", "less by": "10 %"}; without a share it may take anything.
  void delivery(const Object& o) {
    const std::string name = textOf(o, "at");
    DeliveryAsked asked{.taker = network_.byName(name)};
    if (asked.taker == noId) return fault(deliveries, fmt::format("there is no {}", cut(name, 60)));
    for (const DeliveryAsked& d : into_.deliveries)
      if (d.taker == asked.taker) return fault(deliveries, fmt::format("{} is listed twice", cut(name, 60)));
    if (Json value; !o.at_key(lessBy).get(value)) {
      const auto share = parse(asText(value).value_or("?"), Measure::ratio, nullptr);
      if (!share || share->value < 0 || share->value > 1)
        return fault(deliveries, fmt::format("{} of {}: {}", lessBy, cut(name, 60),
                                             share ? "it must be from 0 to 100 %" : share.error().what));
      asked.share = share->value;
    }
    into_.deliveries.push_back(asked);
  }
  void proposal(const Object& o) {
    KeptSizes k{.name = textOf(o, "name")};
    if (Object all; !o.at_key("sizes").get(all))
      for (const auto& [name, value] : all)
        // A line that was taken away since is no fault: the proposal is of an earlier drawing.
        if (std::string_view size; !value.get(size))
          if (const Id id = network_.byName(name); id != noId) k.sizes.push_back({id, std::string(size)});
    into_.kept.push_back(std::move(k));
  }

  const Network& network_;
  SizingSetup& into_;
  StudyFaults& faults_;
};

Text write(const Model& model) {
  const SizingSetup& s = model.of<SizingSetup>();
  const Network& n = model.drawn;
  Text o;
  putFields(s.about, sizingFields(), o);
  const auto named = [&](const std::vector<Id>& ids) {
    Text names = Text::array();
    for (const Id id : ids)
      if (const Element* e = n.find(id)) names.push_back(e->name);
    return names;
  };
  for (const SizeRange& r : s.ranges) {
    Text one = Text::object();
    for (const auto& [key, member] : rangeKeys)
      if (!(r.*member).empty()) one[key] = r.*member;
    o[sizes].push_back(std::move(one));
  }
  if (Text names = named(s.left); !names.empty()) o[left] = std::move(names);
  if (Text names = named(s.alone); !names.empty()) o[alone] = std::move(names);
  for (const TiedLines& t : s.tied)
    if (Text names = named(t.lines); names.size() > 1)
      o[tied].push_back({{"name", t.name}, {"lines", std::move(names)}});
  for (const LayingClass& c : s.laying) {
    Text one = {{"name", c.name}, {perMetre, fmt::format("{:.12g}", c.perMetre)}};
    if (c.byDiameter > 0) one[byDiameter] = fmt::format("{:.12g}", c.byDiameter * 0.1);
    one["lines"] = named(c.lines);
    o[laying].push_back(std::move(one));
  }
  for (const BranchGoal& b : s.branches)
    if (const Element* e = n.find(b.valve))
      o[branches].push_back({{"valve", e->name}, {key::flow, b.flow.typed}});
  for (const DeliveryAsked& d : s.deliveries)
    if (const Element* e = n.find(d.taker)) {
      Text one = {{"at", e->name}};
      if (d.share) one[lessBy] = fmt::format("{:.12g} %", *d.share * 100);
      o[deliveries].push_back(std::move(one));
    }
  for (const KeptSizes& k : s.kept) {
    Text lines = Text::object();
    for (const auto& [id, size] : k.sizes)
      if (const Element* e = n.find(id)) lines[e->name] = size;
    o[kept].push_back({{"name", k.name}, {"sizes", std::move(lines)}});
  }
  addExtra(s.extra, o);
  return o;
}

void read(const Json& value, const Network& drawn, Setups& into, StudyFaults& faults) {
  SizingSetup setup;
  SizingReader(drawn, setup, faults).read(value);
  into.set(std::move(setup));
}

Text schema() {
  const Text word = {{"type", "string"}}, names = {{"type", "array"}, {"items", word}};
  const auto listOf = [](Text properties, Text required) {
    return Text{
        {"type", "array"},
        {"items",
         {{"type", "object"}, {"required", std::move(required)}, {schemaProperties, std::move(properties)}}}};
  };
  Text range = Text::object();
  for (const auto& [key, member] : rangeKeys) range[key] = word;
  Text o = {{"type", "object"}, {schemaProperties, Text::object()}};
  for (const Field& f : sizingFields()) o[schemaProperties][std::string(f.key)] = schemaOf(f);
  o[schemaProperties][sizes] = listOf(range, Text::array({"standard"}));
  o[schemaProperties][left] = names;
  o[schemaProperties][alone] = names;
  o[schemaProperties][tied] = listOf({{"name", word}, {"lines", names}}, Text::array({"lines"}));
  o[schemaProperties][laying] =
      listOf({{"name", word}, {perMetre, word}, {byDiameter, word}, {"lines", names}},
             Text::array({"name", "lines"}));
  o[schemaProperties][branches] =
      listOf({{"valve", word}, {key::flow, word}}, Text::array({"valve", key::flow}));
  o[schemaProperties][deliveries] = listOf({{"at", word}, {lessBy, word}}, Text::array({"at"}));
  o[schemaProperties][kept] =
      listOf({{"name", word}, {"sizes", {{"type", "object"}, {"additionalProperties", word}}}},
             Text::array({"sizes"}));
  return o;
}

}  // namespace

const Study study{SizingSetup::study, read, write, schema};

}  // namespace conduit::sizing
