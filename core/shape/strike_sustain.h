#pragma once
/// Strike and sustain of a one-shot, each with its own gain. The strike is known by position, not guessed
/// from level, so a quiet hit is shaped like a loud one.

#include "core/sound/buffer.h"

namespace heft {

struct StrikeSustain {
  bool on = false;
  double strikeDb = 0.0;   ///< -40 to 24
  double sustainDb = 0.0;  ///< -40 to 24
  double strikeMs = 20.0;  ///< 1 to 200, from the onset
  bool operator==(const StrikeSustain&) const = default;
};

/// Gain in dB at a time from the onset: strikeDb for half of strikeMs, then a raised cosine that reaches
/// sustainDb at one and a half of it.
double strikeSustainDb(const StrikeSustain& s, double msFromOnset);
void applyStrikeSustain(AudioBuffer& sound, const StrikeSustain& s, double onsetSeconds);

}  // namespace heft
