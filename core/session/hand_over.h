#pragma once
/// Crossfade from the kick's tail to a bass note that starts while it still rings.

#include <cmath>

namespace heft {

inline constexpr double kLeastHandOverMs = 2.0, kMostHandOverMs = 500.0;
/// Waves that cancel more would have to be raised.
inline constexpr double kLeastAlike = -0.5;

/// From the note's start the kick's tail fades out and the bass fades in.
struct HandOver {
  bool on = false;
  double ms = 30.0;  ///< kLeastHandOverMs to kMostHandOverMs
  /// The correlation assumed between the two, kLeastAlike to 1: 0 for different tones (constant power), 1 for
  /// the same wave (constant amplitude), below 0 for waves that cancel.
  double alike = 0.0;
  bool operator==(const HandOver&) const = default;

  /// Fade-in gain at a fraction of the crossfade, 0 to 1; the fade-out's at 1 - part. Keeps the level of two
  /// equally loud waves with correlation `alike` throughout: g1^2 + g2^2 + 2 alike g1 g2 = 1.
  double gainIn(double part) const {
    if (part <= 0.0) return 0.0;
    if (part >= 1.0) return 1.0;
    const double out = 1.0 - part;
    return part / std::sqrt(part * part + out * out + 2.0 * alike * part * out);
  }
};

}  // namespace heft
