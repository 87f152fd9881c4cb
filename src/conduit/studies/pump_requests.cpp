#include "studies/pump_requests.h"

#include <array>

#include "model/pump_request.h"

namespace conduit::pumprequests {
namespace {

using namespace model_json;

void read(const Json& value, const Network& drawn, Setups& into, StudyFaults& faults) {
  PumpRequests requests;
  eachEntry(value, study.key, faults, [&](const Object& o, std::size_t entry) {
    std::string_view at;
    const Id id = o.at_key("at").get(at) ? noId : drawn.byName(at);
    if (id == noId) return faults.push_back({entry, {}, "at", "a pump request has no valid \"at\""});
    Fields fields =
        fieldsOf(o, pumpRequestFields(), "pump request", std::array<std::string_view, 1>{"at"}, nullptr);
    for (const Fault& fault : fields.faults)
      faults.push_back({entry, std::string(at), fault.field, fault.what});
    requests.all.push_back(
        {id, std::move(fields.values), fields.extra.empty() ? std::string() : fields.extra.text()});
  });
  into.set(std::move(requests));
}

Text write(const Model& model) {
  Text list = Text::array();
  for (const PumpRequest& r : model.of<PumpRequests>().all) {
    const Element* e = model.drawn.find(r.at);
    if (!e) continue;
    Text o = {{"at", e->name}};
    putFields(r.about, pumpRequestFields(), o);
    addExtra(r.extra, o);
    list.push_back(std::move(o));
  }
  return list;
}

Text schema() {
  Text one = {{"type", "object"},
              {"required", Text::array({"at"})},
              {schemaProperties, {{"at", {{"type", "string"}, {"minLength", 1}, {"maxLength", 60}}}}}};
  for (const Field& f : pumpRequestFields()) one[schemaProperties][std::string(f.key)] = schemaOf(f);
  return {{"type", "array"}, {"items", one}};
}

}  // namespace

const Study study{PumpRequests::study, read, write, schema};

}  // namespace conduit::pumprequests
