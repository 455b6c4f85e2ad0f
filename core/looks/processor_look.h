#pragma once
/// A sound before and after one of its processors: the data behind processors' pictures.

#include <optional>
#include <stop_token>
#include <vector>

#include "core/render/lanes/render.h"
#include "core/session/value_at.h"

namespace heft {

/// A partial of the landing or the note: its level before and after, and whether a small speaker leaves it
/// audible after.
struct LookPartial {
  double hz = 0.0, beforeDb = 0.0, afterDb = 0.0;
  bool heard = false;
};

/// What an EQ does to the phase between kick and bass.
struct LookPair {
  double turnDegrees = 0.0;  ///< at the landing or the note, by the processor alone, -180 to 180
  double withDb = 0.0,
         withoutDb = 0.0;  ///< level of the pair over all hits re perfect phase, now and with this one bypassed
  double alignedDb = 0.0;  ///< with it, re-aligned
};

/// Pre-ringing of a linear-phase EQ, down to 40 dB below the sound's peak.
struct LookRinging {
  double ms = 0.0;                       ///< before the sound's first moment within 40 dB
  std::optional<double> highestDb = {};  ///< re the peak; nothing without pre-ringing
};

struct ProcessorLook {
  static constexpr double kLeadSeconds = 0.01, kLongestSeconds = 1.5;
  double rate = 48000.0;
  std::vector<float> before, after;       ///< folded to mono, from kLeadSeconds before the strike; equally long
  std::optional<double> noteHz;           ///< its landing, or the note it plays
  std::vector<double> beforeDb, afterDb;  ///< spectrumOf() each
  std::vector<LookPartial> partials;      ///< to 16; none without a note
  double crestBeforeDb = 0.0, crestAfterDb = 0.0;  ///< peak over RMS of the sounding part; 0 for silence
  /// The highest sample within half a period of the note, every millisecond, dB, from the lead on; at least
  /// -80.
  std::vector<float> beforeLevelDb, afterLevelDb;
  static constexpr double kLevelStepMs = 1.0;
  double takenDb = 0.0, takenAtMs = 0.0;  ///< the most gain reduction, and when after the strike
  std::optional<double> backAfterMs;      ///< from then until less than 1 dB is left; nothing where it never is
  std::optional<double> keptDb;           ///< the gain that keeps its loudness; nothing without one
  std::optional<LookRinging> ringing;     ///< for a linear-phase EQ
  std::optional<LookPair> pair;           ///< for an EQ that is on, of kick or bass or one of their layers
};

/// For a layer: a full hit or the main note of the layer alone. For a part processed hit by hit: the part.
/// For a part processed over its lane, and for the sum: the loop from its first hit on. Before: through the
/// processors ahead of it; after: through it as well, on or bypassed as it is. Empty without such a processor
/// or a sound. Cost: renders the layer or part twice; with a pair the loop as well. Empty when cancelled.
std::optional<ProcessorLook> lookAt(const Session& session, const Owner& of, int id, const Assets& assets,
                                    StepCache& cache, const std::stop_token& stop = {});

/// The spectrum of a layer after its processors, at a full hit or at the part's main note, and its landing.
/// Nothing without a sound. Cost: a render of the layer.
struct HeardSpectrum {
  std::vector<double> db;  ///< spectrumOf()
  std::optional<double> noteHz;
};
std::optional<HeardSpectrum> heardSpectrum(const Session& session, const Owner& of, const Assets& assets,
                                           StepCache& cache, const std::stop_token& stop = {});

}  // namespace heft
