#pragma once
/// Everything that is measured on one sound: landing, onset, tail and levels.

#include <optional>

#include "core/measure/events/material.h"
#include "core/measure/pitch/landing.h"
#include "core/sound/buffer.h"

namespace heft {

struct SoundFacts {
  double durationSeconds = 0.0;
  double sampleRate = 0.0;
  size_t channels = 0;
  std::optional<double> onsetSeconds;  ///< nothing for silence
  LandingOptions band;                 ///< search band of its landing
  Landing landing;
  double tailMs = 0.0;     ///< onset until the envelope is last above -40 dB re its peak
  double tailLowMs = 0.0;  ///< likewise, of the band below 150 Hz
  Material material = Material::OneShot;
  size_t onsets = 0;  ///< of its first half minute (material.h)
  double peakDbfs = -200.0, rmsDbfs = -200.0, crestDb = 0.0;
};

/// Measures a whole sound. Folds channels to mono for pitch and envelope and removes a constant offset first.
/// Silence gives no onset and no landing.
SoundFacts measureSound(const AudioBuffer& buffer, const LandingOptions& options = {});

/// Window of a sound's envelope for pictures and tails: sliding peak over one period of its landing (18 ms
/// without one).
double envelopeWindowSeconds(const Landing& landing);

}  // namespace heft
