#pragma once
/// Side signal of a stereo sound.

#include <optional>

#include "core/sound/buffer.h"
#include "core/sound/filter.h"

namespace heft {

struct Width {
  bool on = false;
  double width = 1.0;                      ///< 0 (mono) to 2
  std::optional<double> monoBelowHz = {};  ///< 20 to 20000, 24 dB an octave; nothing: stereo to the bottom
  bool operator==(const Width&) const = default;
  /// Whether it changes a stereo sound.
  bool works() const { return on && (width != 1.0 || monoBelowHz); }
};

/// Side scaled and, below the frequency, removed (a Butterworth cut); mid unchanged. Width 0 leaves one
/// channel, the fold of both (monoFold). A mono sound stays unchanged.
void applyWidth(AudioBuffer& sound, const Width& width);

/// The sections for the side signal.
std::vector<Biquad::Coefficients> sideSections(const Width& width, double sampleRate);
/// The side filter's state of a running sound: two numbers a section.
void applyWidth(AudioBuffer& sound, const Width& width, double* memory);

}  // namespace heft
