#pragma once
/// One value of the document by its owner and its key in the tables of fields.h, which give its range, unit
/// and default. The window's fields use it.

#include <optional>
#include <string>
#include <variant>

#include "core/session/fields.h"

namespace heft {

/// Nothing (for a value that may be missing), a flag, a number, a whole number, a time, a text. A choice is
/// its text in the file.
using Value = std::variant<std::monostate, bool, double, int, TimeValue, std::string>;

struct ValueAt {
  Value now;
  Value byDefault;   ///< of the type; also nothing where the type has none, such as a second point of a fall
  Range range = {};  ///< of numbers, whole numbers and times (ms); of flags 0 to 1, of choices their places
  bool canBeMissing = false;
  EnumWords words = {};  ///< of a choice

  /// A flag, a whole number or a choice: nothing is between two of them.
  bool isWhole() const {
    return std::holds_alternative<bool>(now) || std::holds_alternative<int>(now) || !words.words.empty();
  }
};

/// A number, or a time in ms; nothing for other values.
std::optional<double> numberOf(const Value& value, double tempoBpm);

/// A value as a number, whole ones too: a flag is 0 or 1, a choice its place. Nothing for texts and for none.
std::optional<double> asNumber(const ValueAt& value, double tempoBpm);
/// The value that a number stands for there, held to the range; times in ms.
Value fromNumber(const ValueAt& value, double number);

/// The processors of a layer, a part or (without either) the sum; nothing where that is gone.
const Chain* chainOf(const Session& session, const Owner& owner);
Chain* chainOf(Session& session, const Owner& owner);

/// The value of that key: its path in the file below the owner, items of a list by index ("eq.band_1.gain_db"
/// of a processor, "built_kick.fall.0.semitones" of a layer). Nothing where the owner is missing or has no
/// such value, for example because a layer is of another kind now.
std::optional<ValueAt> valueAt(const Session& session, const Owner& owner, const std::string& key);

/// Sets a value, clamping numbers and times to their range. False, changing nothing, where valueAt() finds
/// none, the kind differs, or a list does not have the text.
bool putValue(Session& session, const Owner& owner, const std::string& key, const Value& value);

}  // namespace heft
