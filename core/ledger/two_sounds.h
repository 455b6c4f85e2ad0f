#pragma once
/// Any two sounds of the session against each other: parts, or single layers of them, one of which is moved.

#include <stop_token>
#include <string>

#include "core/align/align.h"
#include "core/align/correlation.h"
#include "core/render/render.h"

namespace heft {

/// A part's lane, or one layer of it alone.
struct SoundRef {
  int part = 1;
  std::optional<int> layer = {};
  bool operator==(const SoundRef&) const = default;
};
/// "Kick", "Kick: Pan lid.wav"; empty where it is gone.
std::string soundTitle(const Session& session, const SoundRef& sound);
/// Every part that has a sound, each followed by its layers where it has several.
std::vector<SoundRef> soundsOf(const Session& session);

struct TwoSounds {
  double nowDb =
      0.0;           ///< level of the sum over all meetings re perfect phase, as both stand; 0 without overlap
  AlignAnswer best;  ///< a move of the second beyond where it stands
  Correlation between;  ///< with neither moved any further
  /// The second's strike after the first's, from half of each one's peak to half of the other's, to a part of a
  /// sample; nothing where no event of both falls within 50 ms, or one has no strike.
  std::optional<double> strikesApartMs;
  struct Wave {
    std::vector<float> first, second;  ///< in the moving part's band, from kLeadMs before the event
  };
  std::vector<Wave> waves;  ///< at each of the first's events, kMostWaves at the most
  double waveRate = 1.0;
  static constexpr double kLeadMs = 60.0, kShownMs = 240.0;
  static constexpr size_t kMostWaves = 64;
};

/// Over all events of the first within the loop; judged in the band that the second's part is asked in. Errors:
/// Cancelled; BadUsage where one makes no sound, they are the same, or one is a layer of the other.
Result<TwoSounds> twoSounds(const Session& session, const Assets& assets, SoundRef first, SoundRef second,
                            StepCache& cache, std::stop_token stop = {});

/// The second later by so much beyond where it stands, held to a part of a sample; turned over as well where
/// asked. Nothing happens where it is gone.
Edit moveSound(const std::string& name, const SoundRef& sound, double byMs, bool turnOver,
               const std::string& mergeKey = {});

}  // namespace heft
