#pragma once
/// The one-shots of a session: sources at the session's rate, layers tuned and shaped, parts summed and
/// finished. Each step is cached.

#include <memory>
#include <optional>

#include "core/measure/events/sound_facts.h"
#include "core/render/cache/step_cache.h"
#include "core/render/sounds/chain.h"
#include "core/session/assets.h"

namespace heft {

/// A sound with the key under which it was made.
struct Keyed {
  std::shared_ptr<const AudioBuffer> sound;
  StepKey key;
  int64_t leadFrames = 0;  ///< of a phrase, a note: samples before its start
  /// The same as time; 0 where there is no sound.
  double leadSeconds() const { return sound ? static_cast<double>(leadFrames) / sound->sampleRate : 0.0; }
};

/// A layer, or all layers of a kick, to be placed by its onset.
struct ReadyKick {
  static constexpr bool kIsSound = true;
  AudioBuffer sound;          ///< of a part: levels, polarities and finish applied
  double semitones = 0.0;     ///< whole shift of the recorded first layer, its own by speed included
  LandingOptions band;        ///< its landing after that shift
  double onsetSeconds = 0.0;  ///< in `sound`
  double bodyGainDb = 0.0;
  std::string problem;  ///< why it could not be tuned; the sound is then untuned
};

/// One hit of the kick: its velocity, and which layers rest.
struct HitAsk {
  double velocity = 1.0;
  std::vector<int> without;
};

/// A hit as placed.
struct HitSound {
  std::shared_ptr<const ReadyKick> ready;
  StepKey key;
  double gain = 1.0;  ///< the velocity scaling that all layers share
};

/// Tied notes of the bass as one sound.
struct PhraseAsk {
  Phrase phrase;
  std::vector<int> without;
  bool whole = false;         ///< a one-shot: recorded layers are not cut at its end
  double ringsSeconds = 0.0;  ///< recorded layers ring on for that long after its end
};

/// How long after a phrase's end the part's contour lets it ring, seconds; 0 where the contour does nothing.
double contourRings(const Part& part, const Track& track, const PhraseAsk& ask);

class SoundSteps {
 public:
  SoundSteps(const Assets& assets, StepCache& cache, double sampleRate)
      : assets_(assets), cache_(cache), rate_(sampleRate) {}

  /// Source at the session's rate, more than two channels folded; nothing where the asset is missing.
  Keyed source(const AssetRef& ref) const;
  /// The backing in the loop: `frames` from its offset, silent beyond the file, with its low cut. Converts
  /// A sound as it was read; nothing where it is missing.
  Sound sound(const AssetRef& ref) const { return assets_.sound(ref); }
  /// only as much of a long track at another rate as plays.
  Keyed backing(const Backing& backing, size_t frames, StepCache& cache) const;
  /// Measured on the file at its own rate.
  std::shared_ptr<const SoundFacts> facts(const AssetRef& ref, const LandingOptions& band) const;
  /// Likewise of a recording, with its given onset.
  std::shared_ptr<const SoundFacts> facts(const Recorded& recorded) const;

  /// A chain with the responses of its bodies.
  ReadyChain ready(const Chain& chain) const;

  /// A kick's layer alone: polarity applied, level not. Nothing where its sound is missing.
  std::shared_ptr<const ReadyKick> kickLayer(const Layer& layer, const Track& track, double velocity = 1.0,
                                             StepKey* key = nullptr) const;
  /// All layers that are heard at a hit, their onsets together, summed and finished.
  HitSound kickHit(const Part& part, const Track& track, const HitAsk& ask = {}) const;
  /// The full hit; of a part all of whose layers are muted, of all its layers.
  std::shared_ptr<const ReadyKick> kick(const Part& part, const Track& track, StepKey* key = nullptr) const;
  /// The full hit measured.
  std::shared_ptr<const SoundFacts> kickFacts(const Part& part, const Track& track) const;
  /// Length of the kick's body, 30 to 60 ms from the onset: half of the time in which the band below 150 Hz
  /// stays within 20 dB of its peak, before any trim, so that a shorter tail is not judged over less kick. A
  /// built kick shorter than 250 ms counts as that long. Nothing without a sound. Our own definition.
  std::optional<double> kickBodySeconds(const Part& part, const Track& track) const;
  /// The first layer before it was tuned or shaped.
  std::shared_ptr<const SoundFacts> kickSourceFacts(const Part& part, const Track& track) const;

  /// The note that a recorded bass layer is played from: typed, or measured; nothing where neither is known, or
  /// for a built one.
  std::optional<double> bassRoot(const Layer& layer, const Track& track) const;
  /// A phrase of the bass; layers summed and finished. `gain` is relative to its first note's. Layers with an
  /// earlier offset, and pre-ringing, start before the beat.
  Keyed bassPhrase(const Part& part, const Track& track, const PhraseAsk& ask) const;
  /// The bass as a one-shot at a note: recorded layers to their end, built ones held for `heldSeconds`.
  Keyed bassNote(const Part& part, const Track& track, double midi, double heldSeconds = 2.0) const;
  /// The first layer alone at a note, as it sounds: shaped, shifted, at its own pitch where it does not follow.
  std::shared_ptr<const SoundFacts> bassFacts(const Part& part, const Track& track, double midi) const;
  /// The first layer's recording; nothing for a built one.
  std::shared_ptr<const SoundFacts> bassSourceFacts(const Part& part) const;
  /// How far a recorded layer is shifted to play a note, its own shift included; 0 for a built one.
  double bassShift(const Layer& layer, const Track& track, double midi) const;
  /// One layer of a phrase; polarity applied, level not.
  Keyed bassLayer(const Layer& layer, const Track& track, const PhraseAsk& ask) const;

 private:
  Keyed shapedNote(const Layer& layer, const Track& track, const PhraseAsk& ask) const;

  const Assets& assets_;
  StepCache& cache_;
  double rate_;
};

size_t bytesOf(const AudioBuffer& buffer);
size_t bytesOfFacts(const SoundFacts& facts);
/// Inputs of a landing's measurement.
StepKey bandKey(const LandingOptions& band);

/// `from` with its lead, cut to at most `frames` with a fade that ends there.
Keyed cutTo(const Keyed& from, size_t frames, double fadeSeconds, StepCache& cache);

}  // namespace heft
