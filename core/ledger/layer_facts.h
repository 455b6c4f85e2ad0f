#pragma once
/// What each layer of a part brings: its strike and its low tail, by which layers get into each other's way.

#include <vector>

#include "core/render/phrases.h"
#include "core/render/sounds.h"

namespace heft {

struct LayerFacts {
  int id = 1;
  std::string title;
  double strikeMs = 0.0;       ///< of the steepest moment above 800 Hz, from the part's beat
  double strikeDb = -120.0;    ///< peak above 800 Hz over the first 30 ms, its level applied, dBFS
  double lowTailDb = -120.0;   ///< RMS below 120 Hz from 50 to 250 ms, its level applied, dBFS
  double peakDb = -120.0;      ///< of the whole layer, its level applied, dBFS
  double semitones = 0.0;      ///< how far a recorded layer is shifted; of the bass the furthest of its notes
  bool pitchesStrike = false;  ///< the shift takes the strike along
  int otherSide = 0;           ///< of a split sound the id of its other side's layer
  double strikeLossDb = 0.0;   ///< loss of the strike in the layer's drive, re its low tail or else its peak

  /// A plain low layer tolerates more shift than a drum: it has next to no strike (30 dB under its peak).
  bool isPlainLow() const { return strikeDb < peakDb - 30.0; }
};

/// Of the layers that are heard, at the first phrase of the bass and at a full hit of the kick.
std::vector<LayerFacts> kickLayerFacts(const Session& session, const SoundSteps& steps, StepCache& cache);
std::vector<LayerFacts> bassLayerFacts(const Session& session, const SoundSteps& steps, StepCache& cache);

}  // namespace heft
