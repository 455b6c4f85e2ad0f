#pragma once
/// Moving a recorded sound to another note.

#include <optional>
#include <string>

#include "core/measure/events/sound_facts.h"
#include "core/result.h"
#include "core/sound/buffer.h"
#include "core/theory/names.h"

namespace heft {

enum class TuneMethod { Varispeed, HoldLength, Bend, Split };
template <>
inline constexpr std::array kWordsOf<TuneMethod> = {"varispeed", "hold-length", "bend", "split"};

struct Retune {
  TuneMethod method = TuneMethod::Varispeed;
  double semitones = 0.0;  ///< -72 to 72
  double strikeMs = 10.0;  ///< unchanged from the onset (not with varispeed); 1 to 200
  bool operator==(const Retune&) const = default;
};

struct Retuned {
  AudioBuffer sound;
  double bodyGainDb = 0.0;  ///< <= 0: gain of the body so that the result stays under full scale
};

/// varispeed: the whole sound faster or slower; its length scales by the inverse ratio. hold-length: same
/// number of frames. `strikeMs` from the onset stay sample for sample; the body goes through Rubber Band
/// alone, is aligned in phase (within 1.9 ms) with the first moments of a split and takes over from it within
/// 20 ms; about 40 ms for 0.3 s. With fewer than 14 cycles of rest the split's body gets the sound's level at
/// each moment instead. bend: `strikeMs` from the onset stay sample for sample; from there the speed glides
/// to the shift over the same time again (at least 8 ms), the wave unbroken. split: `strikeMs` from the onset
/// stay sample for sample; the rest is read faster or slower about the split point, so that the wave meets
/// there in phase, and joins over 3 ms. A source under full scale stays there: the body (varispeed: all) is
/// turned down if necessary, and the result says so. Errors (BadUsage): a shift or strike out of range.
Result<Retuned> retuned(const AudioBuffer& in, const Retune& how, double onsetSeconds);
/// Likewise for a measured sound, in the band and from the note of its facts, by which hold-length picks its
/// method.
Result<Retuned> retuned(const AudioBuffer& in, const Retune& how, const SoundFacts& facts);

/// Search band of the note at `speed` times the original: edges and hand-set times moved along.
LandingOptions bandFaster(LandingOptions band, double speed);
/// Search band of a retuned sound's note: the former band moved along, and the new time of a hand-set
/// landing.
LandingOptions bandAfter(const SoundFacts& facts, const Retune& how);

/// Retunes a measured sound so that its note (its landing; for a gliding one, where it is loudest) is on
/// `targetHz`. Measures it again in the moved band (bandAfter) and corrects once where the method missed the
/// target by over a tenth of a cent. Errors: BadUsage without a note.
struct Landed {
  Retuned result;
  double semitones = 0.0;
  std::optional<double> afterHz;
};
Result<Landed> retunedToLand(const AudioBuffer& in, const SoundFacts& facts, double targetHz, Retune how);

/// How far a shift strains a recorded drum (common practice: one or two semitones keep its character).
enum class Strain { Light, Noticeable, Heavy };
Strain strainOf(double semitones);
/// "light", "noticeable", "heavy: choose another sample".
const char* strainText(Strain strain);

/// The cost of a shift in words: its strain, its effect on the length and on the strike.
std::string strainInWords(const Retune& how, double lengthSeconds);

}  // namespace heft
