// The face of a study: what the model file needs to know of what it keeps. One file pair in this folder makes
// a study; registry.cpp has one line for each. What elements' going does to a set-up it says itself
// (model/setups.h).
//
//   for (const Study* study : allStudies()) text += study->write(model) …
#pragma once

#include <fmt/format.h>

#include "json/entry_fields.h"
#include "json/text.h"
#include "model/model.h"

namespace conduit {

/// What cannot be read of a set-up: in which entry of its list (from 1; 0: in the whole), of what, which
/// field.
struct StudyFault {
  std::size_t entry = 0;
  std::string name, field, what;
};
using StudyFaults = std::vector<StudyFault>;

struct Study {
  std::string_view key;  // in the file, and of its set-up in the model
  /// Puts what the file has under the key among the set-ups. Elements are named as they are drawn.
  void (*read)(const model_json::Json& value, const Network& drawn, Setups& into, StudyFaults& faults);
  /// A list, an object, or null where nothing is kept.
  model_json::Text (*write)(const Model& model);
  model_json::Text (*schema)();
};

/// The objects of a list, each with its number from 1; what is none is a fault.
template <class Take>
void eachEntry(const model_json::Json& value, std::string_view key, StudyFaults& faults, const Take& take) {
  model_json::Array list;
  if (value.get(list)) {
    faults.push_back({0, {}, {}, fmt::format("\"{}\" must be a list", key)});
    return;
  }
  std::size_t entry = 0;
  for (const model_json::Json one : list) {
    ++entry;
    if (model_json::Object o; !one.get(o)) take(o, entry);
    else faults.push_back({entry, {}, {}, fmt::format("every entry of \"{}\" must be an object", key)});
  }
}

}  // namespace conduit
