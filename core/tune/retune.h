#pragma once
/// Moving a recorded sound to another note.

#include <optional>
#include <string>

#include "core/measure/sound_facts.h"
#include "core/result.h"
#include "core/sound/buffer.h"

namespace heft {

enum class TuneMethod { Varispeed, HoldLength, Bend, Split };
/// "varispeed", "hold-length", "bend", "split".
const char* tuneMethodName(TuneMethod method);
Result<TuneMethod> parseTuneMethod(const std::string& text);

struct Retune {
  TuneMethod method = TuneMethod::Varispeed;
  double semitones = 0.0;  ///< -72 to 72
  double strikeMs = 10.0;  ///< what stays as it is, from the onset (varispeed: nothing does); 1 to 200
  bool operator==(const Retune&) const = default;
};

struct Retuned {
  AudioBuffer sound;
  double bodyGainDb = 0.0;  ///< <= 0: what the body gave up so that the result stays under full scale
};

/// varispeed: the whole sound faster or slower; its length scales by the inverse ratio.
/// hold-length: as many frames as before. `strikeMs` from the onset stay sample for sample; the body goes
/// through Rubber Band alone and is laid in phase (within 1.9 ms) with the first moments of a split, from which
/// it takes over within 20 ms; about 40 ms for 0.3 s. With fewer than 14 cycles of rest the split's body is
/// brought to the level that the sound had at each moment instead.
/// bend: `strikeMs` from the onset stay sample for sample; from there the pace goes over to the shift within as
/// long again (8 ms at least), the wave unbroken.
/// split: `strikeMs` from the onset stay sample for sample; what follows is read faster or slower about the
/// split point, so that the wave meets there in phase, and joins over 3 ms. A source under full scale stays
/// there: the body (varispeed: all) is turned down if it must be, and that is told. Errors (BadUsage): a shift
/// or strike out of range.
Result<Retuned> retuned(const AudioBuffer& in, const Retune& how, double onsetSeconds);
/// The same of a sound that was measured, in the band and from the note that its facts tell; hold-length chooses
/// its way by them.
Result<Retuned> retuned(const AudioBuffer& in, const Retune& how, const SoundFacts& facts);

/// Where the note lies of a sound that is played at `speed` times its pace: edges and moments moved along.
LandingOptions bandFaster(LandingOptions band, double speed);
/// Where the note of a retuned sound is to be looked for: the band of before moved along, and a moment of the path
/// that was named by hand where that moment lies now.
LandingOptions bandAfter(const SoundFacts& facts, const Retune& how);

/// Retunes a measured sound so that its note (its landing; of one that slides, where it is heard most) is on
/// `targetHz`, measured again in the band moved along (bandAfter) and corrected once where the method moved it by
/// over a tenth of a cent beside the target. Errors: BadUsage without a note.
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

/// What a shift costs, in words: its strain, what it does to the length, and what becomes of the strike.
std::string strainInWords(const Retune& how, double lengthSeconds);

}  // namespace heft
