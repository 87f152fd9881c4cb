#include "fields/field.h"

#include "say/words.h"

namespace conduit {

const Field* findField(std::span<const Field> fields, std::string_view key) {
  for (const Field& f : fields)
    if (f.key == key) return &f;
  return nullptr;
}

std::vector<MissingField> lacking(const Values& values, std::span<const Field> fields) {
  std::vector<MissingField> missing;
  for (const Field& f : fields) {
    if (!f.needed || (f.applies && !f.applies(values)) || values.find(f.key) || values.released(f.key))
      continue;
    missing.push_back({std::string(f.key), spokenOne(f.key)});
  }
  return missing;
}

}  // namespace conduit
