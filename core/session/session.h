#pragma once
/// The document: plain values, no pointers to anything that sounds or draws. docs/format.md describes its file.

#include <cstdint>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/align/align.h"
#include "core/duck/gain_curve.h"
#include "core/shape/finish.h"
#include "core/shape/layer_shape.h"
#include "core/sound/audio_file.h"
#include "core/theory/key.h"
#include "core/theory/note.h"
#include "core/theory/time_value.h"
#include "core/tune/retune.h"
#include "core/voices/bass_voice.h"
#include "core/voices/kick_voice.h"

namespace heft {

/// Keys of the file that this version does not know, kept as JSON text so that saving loses nothing. Empty:
/// none.
using Unknown = std::string;

/// What a look at a file tells without reading it.
struct SourceStamp {
  uint64_t bytes = 0;
  int64_t changedNs = 0;  ///< time of its last change, ns since 1970; 0: not known
  bool operator==(const SourceStamp&) const = default;
};

/// A sound that the session uses, by the content of its file.
struct AssetRef {
  std::string hash;       ///< XXH3-128 of the file's bytes, 32 hex digits; empty: none
  std::string name;       ///< file name as it came, for people
  std::string from = {};  ///< whole path of that file, where it is known: looked at for having changed on disk
  SourceStamp stamp = {};   ///< of that file when it was read
  Unknown unknown = {};
  bool operator==(const AssetRef&) const = default;
  bool empty() const { return hash.empty(); }
};

struct Track {
  std::string name = "Untitled";
  Key key;
  double tempoBpm = 120.0;  ///< 40 to 240, quarter notes a minute
  int beatsPerBar = 4;      ///< 1 to 12
  int beatUnit = 4;         ///< 2, 4, 8 or 16
  int loopBeats = 8;        ///< one beat to eight bars
  NoteStyle notes;
  double sampleRate = 48000.0;  ///< 8 to 384 kHz
  Unknown unknown;
  bool operator==(const Track&) const = default;

  double loopQuarters() const { return loopBeats * 4.0 / beatUnit; }
  /// What is felt as a beat: the written one, of metres in threes of eighths or shorter the dotted one.
  double feltBeatQuarters() const {
    return (beatUnit >= 8 && beatsPerBar % 3 == 0 ? 3.0 : 1.0) * 4.0 / beatUnit;
  }
  double framesPerQuarter() const { return sampleRate * 60.0 / tempoBpm; }
  /// Rounded once, at the loop's end.
  size_t loopFrames() const;
};

/// What the level of a layer and of the backing may be, dB.
inline constexpr double kLeastLevelDb = -60.0, kMostLevelDb = 24.0;

/// One sound within a part: a recorded one, or a built voice.
struct Layer {
  AssetRef asset;
  double levelDb = 0.0;  ///< kLeastLevelDb to kMostLevelDb
  bool invert = false;
  bool mute = false;
  std::optional<double> targetMidi;  ///< kick: where it is to land; nothing leaves it as it is
  TuneMethod method = TuneMethod::Varispeed;
  double strikeMs = 10.0;
  double strikeSemitones = 0.0;        ///< kick, recorded: the strike's own shift, -24 to 24
  double flatten = 0.0;                ///< kick, recorded: a drifting tail onto its landing, 0 to 1
  LandingOptions band;                 ///< where its landing is looked for
  std::optional<double> rootMidi;      ///< bass: what its sound is said to be; nothing: as measured
  std::optional<TimeValue> length;     ///< where its tail has died away; nothing leaves it as it is
  std::optional<KickVoice> kickVoice;  ///< built: the recorded fields above mean nothing then
  std::optional<BassVoice> bassVoice;
  std::string name;  ///< of a built one, or instead of the file's name
  int id = 1;        ///< its own within the part and all its versions; hits name it by this
  bool solo = false;
  double offsetMs = 0.0;         ///< -200 to 200, later than the part's other layers
  double semitones = 0.0;        ///< -48 to 48, a shift by speed on top of any target
  bool followNotes = true;       ///< bass: played at the notes; false: at its own pitch whatever the note
  double glideMs = 60.0;         ///< bass, recorded: into a tied note; 0 to 2000
  bool keepLength = false;       ///< bass: pitched with its length kept rather than by speed
  double velocityToLevel = 1.0;  ///< recorded: 0 to 1
  LayerShape shape;
  AssetRef bodyAsset;  ///< what its body's response is made from
  Unknown unknown;
  bool operator==(const Layer&) const;

  bool isBuilt() const { return kickVoice || bassVoice; }
  bool isEmpty() const { return !isBuilt() && asset.empty(); }
  /// What people call it.
  std::string title() const { return !name.empty() ? name : asset.name; }
};
inline constexpr size_t kMostLayers = 8;

/// A sound that a part may have instead of the present one: the short kick of the intro.
struct PartVersion {
  std::string name;
  std::vector<Layer> layers;
  Finish finish;
  Unknown unknown = {};
  bool operator==(const PartVersion&) const = default;
};

/// All versions of a part, the present one's place empty but for its name; no list at all where there is only
/// one.
struct Versions {
  std::vector<PartVersion> all;
  int now = 0;
  bool operator==(const Versions&) const = default;
};
inline constexpr size_t kMostVersions = 32;

struct Hit {
  double startQuarters = 0.0;
  double velocity = 1.0;     ///< 0 to 1, an amplitude
  std::vector<int> without;  ///< ids of layers that rest at this hit
  Unknown unknown = {};
  bool operator==(const Hit&) const = default;
};

struct Note {
  double startQuarters = 0.0;
  double lengthQuarters = 0.25;
  int midi = 33;
  double velocity = 1.0;
  std::vector<int> without;  ///< ids of layers that rest at this note
  bool tie = false;  ///< goes over into the next note without a new strike, where that starts at its end
  Dive dive;
  Unknown unknown = {};
  bool operator==(const Note&) const = default;

  double endQuarters() const { return startQuarters + lengthQuarters; }
};

/// A point of the pitch wheel's curve, straight between points.
struct WheelPoint {
  double quarters = 0.0;
  double value = 0.0;  ///< -1 to 1, times the range
  Unknown unknown = {};
  bool operator==(const WheelPoint&) const = default;
};

/// What patterns are drawn on.
struct Grid {
  TimeValue division = TimeValue::note(1, 16);
  double swing =
      0.0;  ///< 0 (even) to 1 (as triplets) and at most 1.5: how far every second division comes late
  bool operator==(const Grid&) const = default;
};

struct KickPart {
  std::vector<Layer> layers;  ///< the first carries the landing
  std::vector<Hit> hits;      ///< ascending
  std::optional<TimeValue> tailTarget;  ///< how long its tail is to be; nothing: tailTargetOf() says
  Finish finish;
  Versions versions;
  Unknown unknown;
  bool operator==(const KickPart&) const = default;
};

struct BassPart {
  std::vector<Layer> layers;      ///< the first carries the note
  std::vector<Note> notes;        ///< ascending
  std::vector<WheelPoint> wheel;  ///< ascending; empty: at rest
  double wheelRange = 12.0;       ///< semitones at the end of its way, 1 to 48
  Finish finish;
  Versions versions;
  Unknown unknown;
  bool operator==(const BassPart&) const = default;
};

struct Backing {
  AssetRef asset;
  double levelDb = 0.0;
  bool mute = false;
  double offsetSeconds = 0.0;  ///< -600 to 600: moment of the file that stands on the loop's start
  double lowCutHz = 0.0;       ///< 0: none; else 20 to 1000, 24 dB an octave
  Unknown unknown;
  bool operator==(const Backing&) const = default;
};

/// Applied to the bass.
struct AlignMove {
  double delayMs = 0.0;  ///< -200 to 200, positive = later
  bool invert = false;
  AlignQuestion question;
  bool operator==(const AlignMove&) const = default;
};

struct DuckMove {
  bool on = false;
  double depthDb = 8.5;  ///< 0 to 120
  TimeValue attack = TimeValue::milliseconds(2.0);
  TimeValue hold = TimeValue::milliseconds(34.0);
  TimeValue release = TimeValue::milliseconds(85.0);
  bool asKick = false;       ///< hold and return stretch so that the whole lasts as long as the kick
  double crossoverHz = 0.0;  ///< 0: all of the bass; else 30 to 1000
  Unknown unknown;
  bool operator==(const DuckMove&) const = default;
};

/// What Export writes.
struct ExportList {
  bool kickOneShot = true, bassOneShot = true, stems = true, gainCurve = true;
  SampleFormat format = SampleFormat::Wav24;
  bool patterns = true;  ///< as a MIDI file
  bool operator==(const ExportList&) const = default;
};

struct Session {
  Track track;
  Grid grid;
  KickPart kick;
  BassPart bass;
  Backing backing;
  AlignMove align;
  DuckMove duck;
  std::vector<AssetRef> references;
  ExportList exports;
  std::set<std::string> meantSo;  ///< ids of Ledger lines that are wanted as they are
  std::string savedOn;            ///< the machine that saved it last (folder.h); empty: not said
  Unknown unknown;
  bool operator==(const Session&) const = default;

  const Layer* kickLayer() const { return kick.layers.empty() ? nullptr : &kick.layers.front(); }
  const Layer* bassLayer() const { return bass.layers.empty() ? nullptr : &bass.layers.front(); }
};

/// 1: one recorded sound a part. 2: layers, built voices, processors, versions, ties, dives, wheel, grid.
inline constexpr int kSessionVersion = 2;
inline constexpr size_t kMostHits = 4096;

/// Layers that are heard: not muted, and soloed where any is.
std::vector<const Layer*> heardLayers(const std::vector<Layer>& layers);
/// An id that no layer of the part has, in any version.
int freshLayerId(const std::vector<Layer>& layers, const Versions& versions);
/// Gives a layer the note that it is to sound on, its own shift on top included: a built kick's landing, a
/// recorded one's target.
void setLanding(Layer& layer, double midi);
/// What that note is set to; nothing for a recording that is left as it is.
std::optional<double> landingTarget(const Layer& layer);
/// How a built kick's new length comes about.
enum class Lengthen { Tail, Whole };  ///< the fall lasts as long as before, or scales with the rest
/// Gives a kick's length to its tail: a built one's own, a recorded one's trim.
void setLength(Layer& layer, const TimeValue& length, double tempoBpm, Lengthen how = Lengthen::Tail);
/// The same for every layer of the part that is not set to end sooner: one that rings on is heard at its end.
void setTail(KickPart& part, const TimeValue& length, double tempoBpm);

/// How long the kick's tail is to be, and who says so.
struct TailTarget {
  TimeValue length = TimeValue::note(1, 16);
  enum class From { Set, Length, Gap, Usual } from = From::Usual;
};
/// What was set; else the kick's own length where that is a note; else the shortest gap from a hit to the bass note
/// after it, a quarter at the most; else a sixteenth (common practice).
TailTarget tailTargetOf(const Session& session);

/// The note the bass plays under most hits (sounding at the hit, longest shared time wins a tie); nothing without
/// notes.
std::optional<int> noteUnderMostHits(const Session& session);

/// The document as Heft saves it: keys in a fixed order, two-space indent.
std::string sessionToJson(const Session& session);
/// Reads any version up to kSessionVersion. Size (64 MB) and depth (64) are bounded, every number is checked
/// against its range. Errors: Unreadable, naming the key.
Result<Session> sessionFromJson(const std::string& text, const std::string& fileName);

}  // namespace heft
