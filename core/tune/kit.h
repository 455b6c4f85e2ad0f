#pragma once
/// A whole kit in key: for each drum the note of the key that needs the smallest shift.

#include <stop_token>
#include <vector>

#include "core/sound/audio_file.h"
#include "core/theory/key.h"
#include "core/theory/note.h"
#include "core/theory/time_value.h"
#include "core/tune/retune.h"

namespace heft {

/// The target with the least strain for a drum (easiestTarget). `landingMidi` may be fractional.
int kitTarget(double landingMidi, const Key& key);

/// "snare E3" for "snare" on E3: a file's name without its folder and ending, and the note it is tuned to.
/// Notes that the name ends on already are replaced.
std::string nameWithNote(const std::string& path, const std::string& note);

/// One drum of a kit, read and measured.
struct Drum {
  std::string path;
  std::string fault;  ///< why it cannot be tuned; then there is no target
  std::vector<std::string> warnings;
  Sound sound;
  SoundFacts facts;
  LandingOptions band;  ///< search band of its landing
  Retune how;           ///< method and strike; its semitones follow from the target
  std::optional<double> targetMidi;
  std::optional<TimeValue> length = {};  ///< where its tail ends; nothing: as recorded

  std::optional<double> landingMidi(double a4Hz) const;
  /// From the landing to the target; 0 without either.
  double semitones(double a4Hz) const;
};

/// Reads a file and proposes its target (kitTarget). Faults are stored in the drum.
Drum readDrum(const std::string& path, const Key& key, const Retune& how, const LandingOptions& band,
              double a4Hz, const std::stop_token& stop = {});
/// Measures it again after a change of its band, and proposes a new target.
void measureDrum(Drum& drum, const Key& key, double a4Hz);

/// Sets where a drum's tail ends: at least kShortestTailMs; one that is not shorter than the sound leaves it as
/// recorded.
void setDrumLength(Drum& drum, const TimeValue& length, double tempoBpm);

/// A drum on its target, at its set length; the tempo counts where that is a note. Errors: BadUsage without a
/// target.
Result<Landed> tunedDrum(const Drum& drum, double a4Hz, double tempoBpm);

/// A drum's spectrum (spectrumOf, dB by band) as recorded and as tuned; empty without a sound, the second
/// without a target. Cost: as tunedDrum.
struct DrumSpectra {
  std::vector<double> recordedDb, tunedDb;
};
DrumSpectra drumSpectra(const Drum& drum, double a4Hz, double tempoBpm);

struct TunedDrum {
  std::string output;
  std::optional<double> afterHz;
  double semitones = 0.0, bodyGainDb = 0.0;
  double targetHz = 0.0;
};

/// A doubt: measured again it is more than five cents off its target, like drums with two notes or none that
/// rests. Empty without doubt.
std::string doubtOf(const TunedDrum& tuned);

/// Tunes a drum onto its target and writes it into the folder as 32 bit float, its name carrying the note, and
/// a number where a file of that name is there: none is written over. Errors: BadUsage without a target,
/// Unwritable.
Result<TunedDrum> writeDrum(const Drum& drum, const std::string& folder, const NoteStyle& notes,
                            double tempoBpm = 120.0);

}  // namespace heft
