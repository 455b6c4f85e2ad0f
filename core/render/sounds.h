#pragma once
/// The one-shots of a session: source at the session's rate, measured, tuned and shaped. Each step is cached.

#include <memory>
#include <optional>

#include "core/measure/sound_facts.h"
#include "core/render/step_cache.h"
#include "core/session/assets.h"

namespace heft {

/// A sound with the key under which it was made.
struct Keyed {
  std::shared_ptr<const AudioBuffer> sound;
  StepKey key;
};

/// What became of a kick's source.
struct ReadyKick {
  AudioBuffer sound;          ///< tuned and shaped, polarity applied, level not
  double semitones = 0.0;     ///< shift that was made
  double onsetSeconds = 0.0;  ///< in `sound`
  double bodyGainDb = 0.0;
  std::string problem;  ///< why it could not be tuned; the sound is then untuned
};

class SoundSteps {
 public:
  SoundSteps(const Assets& assets, StepCache& cache, double sampleRate)
      : assets_(assets), cache_(cache), rate_(sampleRate) {}

  /// Source at the session's rate, more than two channels folded; nothing where the asset is missing.
  Keyed source(const AssetRef& ref) const;
  /// At least the first `frames` of it: of a whole track at another rate no more is converted than is played.
  Keyed sourceStart(const AssetRef& ref, size_t frames) const;
  /// Measured on the file at its own rate.
  std::shared_ptr<const SoundFacts> facts(const AssetRef& ref, const LandingOptions& band) const;
  std::shared_ptr<const ReadyKick> kick(const Layer& layer, const Track& track, StepKey* key = nullptr) const;
  /// The ready kick measured again.
  std::shared_ptr<const SoundFacts> kickFacts(const Layer& layer, const Track& track) const;
  /// The note that a bass layer is played from: typed, or measured; nothing where neither is known.
  std::optional<double> bassRoot(const Layer& layer, const Track& track) const;
  /// The bass one-shot at a note, from its onset on, polarity applied, level not. Without a known root it plays
  /// as it is.
  Keyed bassNote(const Layer& layer, const Track& track, bool fold, double midi) const;

 private:
  const Assets& assets_;
  StepCache& cache_;
  double rate_;
};

size_t bytesOf(const AudioBuffer& buffer);

}  // namespace heft
