#pragma once
/// One value of the document by its owner and its name in the lists of fields.h and sound_fields.h, which
/// give its range, unit and default. The window's fields use it.

#include <optional>
#include <string>
#include <variant>

#include "core/session/fields.h"

namespace heft {

/// Nothing (of a value that may be missing), a flag, a number, a whole number, a time, a text. A choice is the
/// text that the file has for it.
using Value = std::variant<std::monostate, bool, double, int, TimeValue, std::string>;

struct ValueAt {
  Value now;
  Value byDefault;   ///< of the type; nothing also where the type has none, as of a second point of a fall
  Range range = {};  ///< of numbers, whole numbers and times (ms)
  bool canBeMissing = false;
};

/// The processors of a layer, a part or (without either) the sum; nothing where that is gone.
const Chain* chainOf(const Session& session, const Owner& owner);
Chain* chainOf(Session& session, const Owner& owner);

/// The value of that key: its path in the file below the owner, a list's items by their place
/// ("eq.band_1.gain_db" of a processor, "built_kick.fall.0.semitones" of a layer). Nothing where the owner is
/// gone or has no such value, as where a layer is of another kind by now.
std::optional<ValueAt> valueAt(const Session& session, const Owner& owner, const std::string& key);

/// Sets a value; a number or a time is held to its range. False, and nothing changed, where valueAt() finds
/// none, the kind differs, or a list does not have the text.
bool putValue(Session& session, const Owner& owner, const std::string& key, const Value& value);

}  // namespace heft
