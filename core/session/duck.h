#pragma once
/// Ducking: a trigger source, a movement of the gain, its band and its target.

#include <optional>
#include <string>
#include <vector>

#include "core/duck/apply.h"
#include "core/duck/detector.h"
#include "core/duck/follower.h"
#include "core/duck/gain_curve.h"
#include "core/duck/mirror.h"
#include "core/session/layer.h"
#include "core/theory/names.h"

namespace heft {

/// A triggering hit: drawn by hand, or read from a MIDI file.
struct TriggerHit {
  double startQuarters = 0.0;
  double lengthQuarters = 0.25;  ///< of a MIDI note: its length for a follower
  double velocity = 1.0;         ///< 0 to 1, an amplitude
  int midi = 36;                 ///< of a MIDI note
  bool operator==(const TriggerHit&) const = default;
};

/// A hand-set mark on a moment of an audio file: hit or no hit.
struct HitMark {
  double seconds = 0.0;  ///< of the file
  bool fires = false;
  bool operator==(const HitMark&) const = default;
};
inline constexpr size_t kMostMarks = 4096;
inline constexpr double kMarkSeconds = 0.03;  ///< reach of a mark

/// A part's own hits or notes; hits found in a sound loaded only for this; a MIDI file's notes; hits drawn
/// only for this.
enum class TriggerKind { Part, Audio, Midi, Drawn };
template <>
inline constexpr std::array kWordsOf<TriggerKind> = {"part", "audio", "midi", "drawn"};

struct DuckSource {
  TriggerKind kind = TriggerKind::Part;
  int part = 1;
  /// Band of the detector and the follower; empty: no cut on that side (of audio: up to 100 Hz).
  std::optional<double> lowCutHz, highCutHz;
  double thresholdDb = DetectorOptions().thresholdDb;  ///< of the detector, re the loudest moment
  double shortestGapMs = DetectorOptions().shortestGapMs;
  AssetRef asset = {};                 ///< Audio
  double offsetSeconds = 0.0;          ///< Audio: position in the file at the loop's start
  bool repeats = true;                 ///< Audio, Midi: a file shorter than the loop repeats, in whole beats
  std::vector<HitMark> marks = {};     ///< Audio
  std::string midiName = {};           ///< Midi: the file, for people
  std::vector<TriggerHit> notes = {};  ///< Midi: all of the file's notes
  double midiQuarters = 0.0;           ///< Midi: how long the file is; 0: to the end of its last note
  std::vector<int> pitches = {};       ///< Midi: trigger notes by number; empty: all
  std::vector<TriggerHit> hits = {};   ///< Drawn
  bool operator==(const DuckSource&) const = default;

  DetectorOptions detector() const;
};

/// How long a drawn curve lasts.
enum class CurveLasts {
  AsSet,
  AsSource,  ///< like the source's own sound: hold and release, or all points, stretch to it
  ToNext     ///< to the next hit
};
template <>
inline constexpr std::array kWordsOf<CurveLasts> = {"as_set", "as_source", "to_next"};

/// A curve drawn anew by each trigger: by its four dimensions, or through points.
struct DuckCurve {
  double depthDb = 8.5;  ///< 0 to kSilentDepthDb
  TimeValue attack = TimeValue::milliseconds(2.0);
  TimeValue hold = TimeValue::milliseconds(34.0);
  TimeValue release = TimeValue::milliseconds(85.0);
  CurveLasts lasts = CurveLasts::AsSet;
  TimeValue length = TimeValue::note(1, 8);  ///< of all points together
  std::vector<DipPoint> points = {};         ///< ascending from 0; empty: the four dimensions
  double velocityToDepth = 0.0;              ///< 0 to 1: how much less a soft hit ducks
  bool operator==(const DuckCurve&) const = default;
};

enum class Movement { Curve, Follower, Mirror, Static };
template <>
inline constexpr std::array kWordsOf<Movement> = {"curve", "follower", "mirror", "static"};

/// Frequency of a bell.
enum class BellAt {
  Source,  ///< the note that the source lands on, or plays under most hits
  Kick,    ///< the note that the kick lands on
  Key      ///< semitones above the key's low tonic
};
template <>
inline constexpr std::array kWordsOf<BellAt> = {"source", "kick", "key"};
struct DuckBand {
  DuckBandKind kind = DuckBandKind::All;
  double belowHz = 120.0;  ///< Below
  BellAt at = BellAt::Source;
  double semitones = 0.0;                                     ///< Bell at the key: over its low tonic
  double octaves = 1.0;                                       ///< Bell: its width
  std::vector<BandStep> steps = {{90.0, 1.0}, {250.0, 0.5}};  ///< Several: ascending
  double aboveShare = 0.0;                                    ///< Several: over the last of them
  bool operator==(const DuckBand&) const = default;
};

enum class DuckTargetKind { Part, Layer, Backing };
template <>
inline constexpr std::array kWordsOf<DuckTargetKind> = {"part", "layer", "backing"};
struct DuckTarget {
  DuckTargetKind kind = DuckTargetKind::Part;
  int part = 2;
  int layer = 1;  ///< of that part
  bool operator==(const DuckTarget&) const = default;
};

struct Duck {
  int id = 1;
  std::string name = {};  ///< empty: as its source and its target are called
  bool on = false;
  DuckSource source = {};
  Movement movement = Movement::Curve;
  DuckCurve curve = {};
  Follower follower = {};
  Mirror mirror = {};
  DuckBand band = {};
  DuckTarget target = {};
  double amount = 1.0;  ///< 0 to 1: scales the gain reduction
  Unknown unknown = {};
  bool operator==(const Duck&) const = default;

  /// Source and target are the same part: the curve then restarts at each hit.
  bool isOfItsOwn() const {
    return source.kind == TriggerKind::Part && target.kind != DuckTargetKind::Backing &&
           source.part == target.part;
  }
};
inline constexpr size_t kMostDucks = 32;

/// How several gains of one target combine: their product, or the deepest.
enum class GainsMeet { Multiply, Deepest };
template <>
inline constexpr std::array kWordsOf<GainsMeet> = {"multiply", "deepest"};

/// Of all duckings together.
struct DuckingBus {
  double amount = 1.0;  ///< 0 to 1
  GainsMeet meet = GainsMeet::Multiply;
  Unknown unknown = {};
  bool operator==(const DuckingBus&) const = default;
};

}  // namespace heft
