#pragma once
/// How the kick hands over to the bass note that starts while it still rings.

#include <cmath>

namespace heft {

inline constexpr double kLeastHandOverMs = 2.0, kMostHandOverMs = 500.0;
/// Waves that cancel more than that would have to be raised.
inline constexpr double kLeastAlike = -0.5;

/// From the note's start on the kick's tail goes out and the bass comes in.
struct HandOver {
  bool on = false;
  double ms = 30.0;  ///< kLeastHandOverMs to kMostHandOverMs
  /// The correlation that both are taken to have, kLeastAlike to 1: 0 as different tones (constant power), 1 as
  /// one wave (constant amplitude), below 0 as waves that cancel.
  double alike = 0.0;
  bool operator==(const HandOver&) const = default;

  /// Gain of what comes in at a part of the way, 0 to 1; of what goes out at 1 - part. Two waves of one level
  /// whose correlation is `alike` keep it all the way: g1^2 + g2^2 + 2 alike g1 g2 = 1.
  double gainIn(double part) const {
    if (part <= 0.0) return 0.0;
    if (part >= 1.0) return 1.0;
    const double out = 1.0 - part;
    return part / std::sqrt(part * part + out * out + 2.0 * alike * part * out);
  }
};

}  // namespace heft
