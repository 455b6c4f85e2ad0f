#pragma once
/// A part: layered sounds, their pattern, and their lane's settings.

#include "core/align/align.h"
#include "core/align/rotation.h"
#include "core/session/layer.h"
#include "core/theory/names.h"
#include "core/theory/shared_list.h"
#include "core/voices/contour.h"

namespace heft {

/// An alternative sound of a part: the short kick of the intro.
struct PartVersion {
  std::string name;
  std::vector<Layer> layers;
  Chain finish;
  Unknown unknown = {};
  bool operator==(const PartVersion&) const = default;
};

/// All versions of a part, the present one's slot empty except for its name; an empty list where there is
/// only one.
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

/// One note's alignment on top of its pattern time: that of the first of tied notes.
struct NoteMove {
  double offsetMs = 0.0;  ///< -50 to 50, positive = later; its end stays
  double phaseDegrees =
      0.0;  ///< 0 to 360: advances a built voice's start phase, shifts the phase of a recording's lows
  bool operator==(const NoteMove&) const = default;
};

inline constexpr double kMostTrimDb = 24.0;
/// Level trim of a note on top of its velocity.
struct NoteTrim {
  double db = 0.0;  ///< -kMostTrimDb to kMostTrimDb
  bool operator==(const NoteTrim&) const = default;
};

struct Note {
  double startQuarters = 0.0;
  double lengthQuarters = 0.25;
  int midi = 33;
  double velocity = 1.0;
  std::vector<int> without;  ///< ids of layers that rest at this note
  bool tie = false;          ///< ties into the next note without a new strike, if that starts at its end
  Dive dive;
  Unknown unknown = {};
  NoteMove move = {};
  NoteTrim trim = {};  ///< of the first of tied notes
  bool operator==(const Note&) const = default;

  double endQuarters() const { return startQuarters + lengthQuarters; }
};
inline constexpr size_t kMostHits = 16384;  ///< of hits and of notes

/// A point of the pitch wheel's curve, straight between points.
struct WheelPoint {
  double quarters = 0.0;
  double value = 0.0;  ///< -1 to 1, times the range
  Unknown unknown = {};
  bool operator==(const WheelPoint&) const = default;
};
inline constexpr size_t kMostWheelPoints = 20000;

/// Alignment of a lane.
struct AlignMove {
  double delayMs = 0.0;  ///< -200 to 200, positive = later
  bool invert = false;
  AlignQuestion question;  ///< of the bass: relative to the kick
  Rotation rotation = {};
  Unknown unknown = {};
  bool operator==(const AlignMove&) const = default;
};

enum class PartRole { Kick, Bass, Other };
enum class Plays { Hits, Notes };
template <>
inline constexpr std::array kWordsOf<Plays> = {"hits", "notes"};
/// What a part's processors work on: each hit or phrase alone, so that a one-shot is what you hear, or the
/// running lane, so that overlapping sounds are processed together.
enum class FinishOver { Hits, Lane };
template <>
inline constexpr std::array kWordsOf<FinishOver> = {"hits", "lane"};

struct Part {
  int id = 1;                                ///< its own within the session
  std::string role = "kick";                 ///< "kick", "bass", or anything else, kept as written
  std::string name = {};                     ///< empty: named by its role
  Plays plays = Plays::Hits;                 ///< hits of a kick, notes of a bass, either of others
  std::vector<Layer> layers = {};            ///< the first carries the landing, or the note
  SharedList<Hit> hits = {};                 ///< ascending; none where it plays notes
  SharedList<Note> notes = {};               ///< ascending; none where it plays hits
  SharedList<WheelPoint> wheel = {};         ///< ascending; empty: centred
  double wheelRange = 12.0;                  ///< range at full deflection in semitones, 1 to 48
  std::optional<TimeValue> tailTarget = {};  ///< target length of its tail; nothing: tailTargetOf() decides
  Contour contour = {};                      ///< of each of its notes; ignored for hits
  AlignMove align = {};
  Chain finish = {};
  FinishOver finishOver = FinishOver::Hits;
  double levelDb = 0.0;  ///< after the finish; kLeastLevelDb to kMostLevelDb
  Versions versions = {};
  Unknown unknown = {};
  bool operator==(const Part&) const = default;

  PartRole is() const {
    return role == "kick" ? PartRole::Kick : role == "bass" ? PartRole::Bass : PartRole::Other;
  }
  bool playsNotes() const { return plays == Plays::Notes; }
  bool hasEvents() const { return !hits.empty() || !notes.empty(); }
  const Layer* firstLayer() const { return layers.empty() ? nullptr : &layers.front(); }
  Layer* layer(int layerId);
  const Layer* layer(int layerId) const;
  /// "Kick", "Bass", or its own name; "Part 3" where it has none.
  std::string title() const;
};
/// Kick, bass and sixteen others.
inline constexpr size_t kMostParts = 18;

/// Audible layers: not muted, and soloed where any is.
std::vector<const Layer*> heardLayers(const std::vector<Layer>& layers);
/// How many of its hits and notes the layer with that id rests at.
size_t eventsWithout(const Part& part, int layer);
/// An id that no layer of the part has, in any version.
int freshLayerId(const Part& part);

}  // namespace heft
