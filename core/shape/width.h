#pragma once
/// Sides of a stereo sound.

#include <optional>

#include "core/sound/buffer.h"
#include "core/sound/filter.h"

namespace heft {

struct Width {
  bool on = false;
  double width = 1.0;                      ///< 0 (mono) to 2
  std::optional<double> monoBelowHz = {};  ///< 20 to 20000, 24 dB an octave; nothing: sides to the bottom
  bool operator==(const Width&) const = default;
  /// Whether it changes anything of a stereo sound.
  bool works() const { return on && (width != 1.0 || monoBelowHz); }
};

/// Sides scaled and, below the frequency, taken out (a Butterworth cut); the middle stays. Of width 0 one
/// channel is left, the fold of both (monoFold). A mono sound stays as it is.
void applyWidth(AudioBuffer& sound, const Width& width);

/// The sections that the sides go through.
std::vector<Biquad::Coefficients> sideSections(const Width& width, double sampleRate);
/// What the sides remember from one stretch of a running sound to the next: two numbers a section.
void applyWidth(AudioBuffer& sound, const Width& width, double* memory);

}  // namespace heft
