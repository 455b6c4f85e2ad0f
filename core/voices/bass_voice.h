#pragma once
/// The built bass: a sine and its first partials, an octave below if wanted, and two bands above that carry
/// it on small speakers. Low and clean; mid driven with a low cut; high quiet and bright. Mono below a chosen
/// frequency.

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "core/shape/drive.h"
#include "core/sound/buffer.h"
#include "core/theory/names.h"
#include "core/voices/kick_voice.h"

namespace heft {

inline constexpr double kLeastPartialDb = -80.0;  ///< level of a partial or band that is off

struct MidBand {
  std::optional<double> levelDb = {};  ///< up to 12; nothing: off
  WaveKind wave = WaveKind::Triangle;
  std::optional<double> noiseDb = -36.0;  ///< up to 0, into the drive; nothing: off
  std::optional<double> noiseFromHz = {},
                        noiseToHz = {};  ///< its band, 20 to 20000, 24 dB an octave; nothing: open
  Drive drive{true, DriveKind::Soft, 0.0, 12.0, 1.0};
  double lowCutHz = 120.0;  ///< 20 to 5000, 24 dB per octave, after the drive
  bool operator==(const MidBand&) const = default;
};

struct HighBand {
  enum class Kind { Fm, Noise };
  std::optional<double> levelDb = {};  ///< up to 12; nothing: off
  Kind kind = Kind::Fm;
  double ratio = 7.0;       ///< FM: of the tone to the note, 1 to 40; noise: of its middle
  double index = 1.5;       ///< FM: depth in radians, 0 to 20
  double lowCutHz = 800.0;  ///< 100 to 12000, 24 dB per octave
  double decayMs = 200.0;   ///< 5 to 5000, to -40 dB
  bool operator==(const HighBand&) const = default;
};

template <>
inline constexpr std::array kWordsOf<HighBand::Kind> = {"fm", "noise"};

struct BassVoice {
  /// Levels of partials 1 to 8, up to 12; nothing: off.
  std::array<std::optional<double>, 8> partialDb{0.0, -24.0, -32.0};
  std::optional<double> octaveBelowDb = {};
  double startPhaseDegrees = 0.0;  ///< 0 to 360, of every note
  bool freePhase = false;          ///< free-running: the wave continues between notes
  double attackMs = 3.0;           ///< 0 to 500
  double decayMs = 180.0;          ///< 1 to 5000, from the peak to the sustain
  double sustainDb = -6.0;         ///< -60 to 0, below the peak
  double releaseMs = 40.0;         ///< 1 to 5000, to -60 dB
  double glideMs = 60.0;           ///< 0 to 2000, into a tied note
  MidBand mid;
  HighBand high;
  double width = 0.0;          ///< 0 to 1, of the mid and high bands
  double widthFromHz = 250.0;  ///< 100 to 5000: mono below
  double velocityToLevel = 1.0;
  std::string unknown;  ///< keys of a session's file that this version does not know
  bool operator==(const BassVoice&) const = default;
};

/// A note's pitch drop.
struct Dive {
  double semitones = 0.0;       ///< 0 (none) to 24, down
  double startQuarters = 0.0;   ///< from the note's start, >= 0
  double lengthQuarters = 0.5;  ///< 0.01 to 64
  double bend = 0.0;            ///< -1 to 1, as a fall's
  bool operator==(const Dive&) const = default;
};
/// Pitch offset of a dive in semitones (<= 0) at a time from the note's start.
double diveAt(const Dive& dive, double quarters);

/// A point of a pitch curve over time, straight between points.
struct PitchPointAt {
  double seconds = 0.0, semitones = 0.0;
};

/// A note of a phrase, in seconds from the phrase's start.
struct PhraseNote {
  double start = 0.0, length = 0.5;
  double midi = 33.0;
  double gain = 1.0;  ///< amplitude, from velocity
  Dive dive;
};

/// Tied notes: each but the last ends where the next starts. The first strikes, the others glide.
struct Phrase {
  std::vector<PhraseNote> notes;
  std::vector<PitchPointAt> bend;  ///< added to the pitch throughout; empty: none
  double quarterSeconds = 0.5;     ///< length of a quarter, for dives
  double startInSong = 0.0;        ///< seconds; used by a free-running phase only
  double phaseDegrees = 0.0;       ///< added to the voice's own start phase
  /// Length up to the last note's release; of at least one note.
  double seconds() const { return notes.back().start + notes.back().length; }
};

/// MIDI note (fractional) at a time in the phrase.
double pitchAt(const Phrase& phrase, double glideMs, double seconds);
/// Level of the voice's amplitude curve in dB re its peak at a time from the strike; `heldSeconds` is when the
/// release begins.
double envelopeDb(const BassVoice& voice, double seconds, double heldSeconds);

/// The phrase, its strike at the first frame; one channel, or two where it has width. The low band's peak is at
/// -6 dBFS at gain 1.
AudioBuffer renderBass(const BassVoice& voice, const Phrase& phrase, double a4Hz, double sampleRate);

/// The part that does not depend on the partials, and most of the cost: frame by frame the phase (in turns,
/// modulo two), its sine, cosine and increment, the level, and both upper bands together (empty without any).
/// Then the whole on top of it.
struct BassCourse {
  std::vector<double> phase, sine, cosine, step, level;
  std::vector<float> tops = {};
  double mostStep = 0.0;
  size_t bytes() const { return 40 * phase.size() + 4 * tops.size() + sizeof *this; }
};
BassCourse bassCourse(const BassVoice& voice, const Phrase& phrase, double a4Hz, double sampleRate);
AudioBuffer renderBassOver(const BassVoice& voice, const BassCourse& course, double sampleRate);

}  // namespace heft
