#pragma once
/// Any two sounds of the session against each other: parts or single layers, one of which moves.

#include <stop_token>
#include <string>

#include "core/align/align.h"
#include "core/align/correlation.h"
#include "core/render/lanes/render.h"

namespace heft {

/// A part's lane, or one of its layers alone.
struct SoundRef {
  int part = 1;
  std::optional<int> layer = {};
  bool operator==(const SoundRef&) const = default;
};
/// "Kick", "Kick: Pan lid.wav"; empty where it is gone.
std::string soundTitle(const Session& session, const SoundRef& sound);
/// Every part with a sound, each followed by its layers where it has several.
std::vector<SoundRef> soundsOf(const Session& session);

struct TwoSounds {
  double nowDb = 0.0;   ///< level of the sum over all meetings re perfect phase, in place; 0 without overlap
  AlignAnswer best;     ///< a further move of the second
  Correlation between;  ///< without a further move
  /// The second's strike after the first's, each at half of its peak, to a fraction of a sample; nothing
  /// where no events of both are within 50 ms, or one has no strike.
  std::optional<double> strikesApartMs;
  struct Wave {
    std::vector<float> first, second;  ///< in the moving part's band, from kLeadMs before the event
  };
  std::vector<Wave> waves;  ///< at each of the first's events, at most kMostWaves
  double waveRate = 1.0;
  static constexpr double kLeadMs = 60.0, kShownMs = 240.0;
  static constexpr size_t kMostWaves = 64;
};

/// Over all events of the first within the loop, judged in the second part's band. Errors: Cancelled;
/// BadUsage where one is silent, both are the same, or one is a layer of the other.
Result<TwoSounds> twoSounds(const Session& session, const Assets& assets, SoundRef first, SoundRef second,
                            StepCache& cache, std::stop_token stop = {});

/// Delays the second by that much, clamped to a part's delay range, inverted where asked. Does nothing if it
/// is gone.
Edit moveSound(const std::string& name, const SoundRef& sound, double byMs, bool turnOver,
               const std::string& mergeKey = {});

}  // namespace heft
