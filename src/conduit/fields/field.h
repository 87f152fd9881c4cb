// The field table: what can be given for a kind of equipment, the job, costs, a case or a study, in one
// place, for file, card, ledger and help alike. It knows none of them.
#pragma once

#include <span>

#include "fields/value.h"
#include "say/say.h"

namespace conduit {

struct Stock;

enum class FieldKind { quantity, choice, flag, text, table, takeOff };

struct Column {
  std::string_view key;
  Measure measure = Measure::number;
  bool needed = true;
  double least = 0.0, most = 0.0;
};

struct Field {
  std::string_view key;
  FieldKind kind = FieldKind::quantity;
  Measure measure = Measure::number;
  double least = 0.0, most = 0.0;    // allowed range, SI, both ends allowed
  std::optional<double> fallback{};  // used when nothing is given, SI; shown as such
  bool needed = false;               // the element is incomplete without it
  bool releasable = false;           // may be found in place of an outcome given
  std::string_view help;
  std::span<const std::string_view> choices{};       // the first is the fallback
  std::span<const Column> columns{};                 // of a table
  bool (*applies)(const Values&) = nullptr;          // null: always; else the card hides what plays no part
  std::optional<bool> fallbackFlag{};                // of a flag
  bool inSight = false;                              // on the card even when it is not given
  std::string (*fault)(std::string_view) = nullptr;  // of a text: why it cannot be used; empty when it can
  std::string_view names{};  // of a text: the kind of element it names ("point"); renaming that renames here
  std::string_view assumed{};  // as typed: what a new element takes until somebody says it
  bool feltBeside = false;     // what meets the element feels it: the section of a line
  bool adjusts = false;        // it is made to be turned: offered first where something is to be found
  std::string_view opens{};    // "Open", "Start": what gives way is done by it, as far as it goes
  bool ofDrawing = false;      // the same in every case: what is joined to what, titles, how it is drawn
  // Of a text that the catalogue is needed to read (a take-off): what is wrong with it, if anything.
  std::optional<Problem> (*unfit)(std::string_view text, const Stock& stock) = nullptr;
};

/// The common builders. Ranges in SI; a field that is wanted for a complete element is marked with `need`.
template <class Q>
[[nodiscard]] constexpr Field field(Key<Q> key, double least, double most, std::string_view help) {
  return {.key = key.text,
          .kind = FieldKind::quantity,
          .measure = Q::measure,
          .least = least,
          .most = most,
          .help = help};
}
[[nodiscard]] constexpr Field need(Field f) {
  f.needed = true;
  return f;
}
[[nodiscard]] constexpr Field inSight(Field f) {
  f.inSight = true;
  return f;
}
[[nodiscard]] constexpr Field releasable(Field f) {
  f.releasable = true;
  return f;
}
[[nodiscard]] constexpr Field byDefault(Field f, double fallback) {
  f.fallback = fallback;
  return f;
}
[[nodiscard]] constexpr Field assume(Field f, std::string_view text) {
  f.assumed = text;
  return f;
}
[[nodiscard]] constexpr Field ofDrawing(Field f) {
  f.ofDrawing = true;
  return f;
}
[[nodiscard]] constexpr Field adjusts(Field f) {
  f.adjusts = true;
  return f;
}
[[nodiscard]] constexpr Field opens(Field f, std::string_view verb) {
  f.opens = verb;
  return f;
}
[[nodiscard]] constexpr Field feltBeside(Field f) {
  f.feltBeside = true;
  return f;
}
[[nodiscard]] constexpr Field onlyWhen(Field f, bool (*applies)(const Values&)) {
  f.applies = applies;
  return f;
}
[[nodiscard]] constexpr Field choice(std::string_view key, std::span<const std::string_view> choices,
                                     std::string_view help) {
  return {.key = key, .kind = FieldKind::choice, .help = help, .choices = choices};
}
[[nodiscard]] constexpr Field flag(std::string_view key, bool fallback, std::string_view help) {
  return {.key = key, .kind = FieldKind::flag, .help = help, .fallbackFlag = fallback};
}
[[nodiscard]] constexpr Field text(std::string_view key, std::string_view help) {
  return {.key = key, .kind = FieldKind::text, .help = help};
}

/// Of that key; null where there is none.
[[nodiscard]] const Field* findField(std::span<const Field> fields, std::string_view key);

struct MissingField {
  std::string field;
  std::string words;  // "a bore"
};
/// Checks that every needed field is there; what is missing is said in the words of the field table.
[[nodiscard]] std::vector<MissingField> lacking(const Values& values, std::span<const Field> fields);

/// The name of another element of kind `kind`.
[[nodiscard]] constexpr Field nameOf(std::string_view key, std::string_view kind, std::string_view help) {
  return {.key = key, .kind = FieldKind::text, .help = help, .names = kind};
}

/// The field by which an element takes what it does not say itself from an item of the stock.
inline constexpr std::string_view stockItemKey = "stock item";
[[nodiscard]] constexpr Field stockItem() {
  return text(stockItemKey, "catalogue item that supplies values not given here");
}

/// The quantity under `key`, or its fallback from the table; the pressures and flows of other bases resolved.
template <class Q>
[[nodiscard]] std::optional<Q> getOrFallback(const Values& values, std::span<const Field> fields, Key<Q> key,
                                             const Medium& medium) {
  if (auto given = get(values, key, medium)) return given;
  for (const Field& f : fields)
    if (f.key == key.text && f.fallback && !values.released(key.text)) return Q::fromSi(*f.fallback);
  return std::nullopt;
}

[[nodiscard]] inline std::string choiceOf(const Values& values, const Field& field) {
  if (const auto* word = values.get<std::string>(field.key)) return *word;
  return field.choices.empty() ? std::string() : std::string(field.choices.front());
}

[[nodiscard]] inline bool flagOf(const Values& values, const Field& field) {
  if (const bool* on = values.get<bool>(field.key)) return *on;
  return field.fallbackFlag.value_or(false);
}

}  // namespace conduit
