#pragma once
/// A level curve over a one-shot, restarted by each strike.

#include "core/sound/buffer.h"

namespace heft {

struct AmpEnvelope {
  bool on = false;
  double attackMs = 0.0;   ///< 0 to 2000
  double holdMs = 20.0;    ///< 0 to 5000
  double decayMs = 150.0;  ///< 1 to 10000, to -40 dB
  bool operator==(const AmpEnvelope&) const = default;
};

/// Gain at a time from the onset: a raised cosine over the attack, 1 over the hold, then an even fall in dB;
/// nothing before an onset that is risen to, 1 before one that is not.
double envelopeGain(const AmpEnvelope& envelope, double msFromOnset);
void applyEnvelope(AudioBuffer& sound, const AmpEnvelope& envelope, double onsetSeconds);

}  // namespace heft
