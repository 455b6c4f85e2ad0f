#pragma once
/// Edits of what was taught to controllers and wheels, and those that turning them makes.

#include <optional>

#include "core/session/edits/edit.h"
#include "core/session/value_at.h"

namespace heft {

/// The control turns that value from now on, and nothing else; the value is turned by nothing else. Nothing
/// happens where there is no such value, or where kMostTaught are taught.
Edit teach(const Taught& taught);
Edit forget(const Control& control);
Edit forgetAllTaught();

/// What a control turns; nothing where it was taught nothing.
const Taught* taughtBy(const Session& session, const Control& control);
/// What turns a value; nothing where nothing does.
const Taught* teacherOf(const Session& session, const Owner& owner, const std::string& key);
/// Whether a control can turn such a value: a number, a time or a switch, not a choice of words.
bool canBeTurned(const ValueAt& value);

/// Where in its range a value stands, 0 to 1; of what is missing 0. Frequencies go by octaves, times from
/// nothing up by their cube root, so that short ones are far apart; all else is even.
double placeOf(const ValueAt& value, double tempoBpm);
/// The value at that place, of the kind of `like`.
Value valueAtPlace(const ValueAt& like, double place);

/// A control at a place takes hold of a value where it meets it, so that nothing jumps.
class Pickup {
 public:
  /// Whether the value goes with the control, which is at `control` now while the value stands at `value`.
  bool takes(double control, double value);
  /// Where the value stands once it was put: whoever moves it from there has it, until the control meets it
  /// again.
  void put(double value) { held_ = value; }

 private:
  std::optional<double> last_, held_;
};

/// The value goes to that place, with its switch; turns of one control are one step. Nothing where what was
/// taught is gone or cannot be turned.
std::optional<Edit> turnTo(const Session& session, const Taught& taught, double place);

}  // namespace heft
