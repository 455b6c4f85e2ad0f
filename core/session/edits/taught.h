#pragma once
/// Edits of controller assignments, and those that moving a controller makes.

#include <optional>

#include "core/session/edits/edit.h"
#include "core/session/value_at.h"

namespace heft {

/// Assigns the control to that value: a control has one value, and a value one control. Does nothing if there
/// is no such value, or at kMostTaught.
Edit teach(const Taught& taught);
Edit forget(const Control& control);
Edit forgetAllTaught();

/// The assignment of a control, or nothing.
const Taught* taughtBy(const Session& session, const Control& control);
/// The control assigned to a value, or nothing.
const Taught* teacherOf(const Session& session, const Owner& owner, const std::string& key);
/// Whether a control can turn such a value: a number, a time or a switch, not a choice of words.
bool canBeTurned(const ValueAt& value);

/// A value's position in its range, 0 to 1; 0 where it is missing. Frequencies map by octaves, times by their
/// cube root, so that short ones are far apart; the rest is linear.
double placeOf(const ValueAt& value, double tempoBpm);
/// The value at that position, of the kind of `like`.
Value valueAtPlace(const ValueAt& like, double place);

/// Soft takeover: a control takes over a value once it passes it, so that nothing jumps.
class Pickup {
 public:
  /// Whether the value follows the control, which is at `control` now while the value is at `value`.
  bool takes(double control, double value);
  /// The position that the control last set: once anything else moves the value, the control must pass it
  /// again.
  void put(double value) { held_ = value; }

 private:
  std::optional<double> last_, held_;
};

/// Moves the value there and turns its switch on; consecutive moves of one control are one step. Nothing
/// where the value is gone or cannot be controlled.
std::optional<Edit> turnTo(const Session& session, const Taught& taught, double place);

}  // namespace heft
