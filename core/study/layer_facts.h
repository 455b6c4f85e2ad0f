#pragma once
/// Strike and low tail of each layer of a part, by which layers mask each other.

#include <vector>

#include "core/measure/levels/low_end.h"
#include "core/render/sounds/phrases.h"
#include "core/render/sounds/sounds.h"

namespace heft {

struct LayerFacts {
  int id = 1;
  std::string title;
  double strikeMs = 0.0;       ///< of the steepest moment above 800 Hz, from the part's beat
  double strikeDb = -120.0;    ///< peak above 800 Hz over the first 30 ms, its level applied, dBFS
  double lowTailDb = -120.0;   ///< RMS below 120 Hz from 50 to 250 ms, its level applied, dBFS
  double peakDb = -120.0;      ///< of the whole layer, its level applied, dBFS
  double semitones = 0.0;      ///< how far a recorded layer is shifted; with notes the furthest of them
  bool pitchesStrike = false;  ///< the shift moves the strike too
  int otherSide = 0;           ///< id of the layer with the other side of a split sound
  double strikeLossDb = 0.0;   ///< loss of the strike in the layer's drive, re its low tail or else its peak
  LowEnd low = {};             ///< of the whole layer, before its level
  double seconds = 0.0, levelDb = 0.0;

  /// Its energy in a band, its level applied.
  double energyIn(const Band& band) const;

  /// A plain low layer tolerates more shift than a drum: it has next to no strike (30 dB under its peak).
  bool isPlainLow() const { return strikeDb < peakDb - 30.0; }
};

/// Of a part's audible layers that have a sound: at a full hit, or at the first phrase of its notes; empty
/// without one. Cost: some transforms of each changed layer; cached.
std::vector<LayerFacts> layerFacts(const Part& part, const Track& track, const SoundSteps& steps,
                                   StepCache& cache);

}  // namespace heft
