#pragma once
/// The document: plain values, no pointers to anything that plays or draws. docs/format.md describes its
/// file.

#include <optional>
#include <set>
#include <string>
#include <vector>

#include "core/duck/gain_files.h"
#include "core/measure/levels/heard_loudness.h"
#include "core/session/automation.h"
#include "core/session/duck.h"
#include "core/session/hand_over.h"
#include "core/session/kept_state.h"
#include "core/session/part.h"
#include "core/session/reference.h"
#include "core/session/targets.h"
#include "core/session/taught.h"
#include "core/sound/audio_file.h"
#include "core/sound/span.h"
#include "core/theory/key.h"
#include "core/theory/note.h"

namespace heft {

/// The listening level of the track.
struct Listening {
  double fullScaleDb = kUsualListeningDb;  ///< level of a full-scale sine, dB SPL
  bool operator==(const Listening&) const = default;
};

/// Bars of a loop, and length of a song.
inline constexpr int kMostLoopBars = 64;
inline constexpr double kMostSongSeconds = 600.0;
/// How long a song may ring on after its last bar.
inline constexpr double kSongTailSeconds = 10.0;

struct Track {
  std::string name = "Untitled";
  Key key;
  double tempoBpm = 120.0;  ///< 40 to 240, quarter notes a minute
  int beatsPerBar = 4;      ///< 1 to 12
  int beatUnit = 4;         ///< 2, 4, 8 or 16
  int loopBeats =
      8;  ///< length in written beats: a loop's up to kMostLoopBars, a song's up to kMostSongSeconds
  NoteStyle notes;
  double sampleRate = 48000.0;  ///< 8 to 384 kHz
  Listening listening = {};
  bool song = false;  ///< starts at rest and ends with its tails; else a loop, which wraps
  Unknown unknown;
  bool operator==(const Track&) const = default;

  double loopQuarters() const { return loopBeats * 4.0 / beatUnit; }
  /// The felt beat: the written one; in compound metres of eighths or shorter the dotted one.
  double feltBeatQuarters() const {
    return (beatUnit >= 8 && beatsPerBar % 3 == 0 ? 3.0 : 1.0) * 4.0 / beatUnit;
  }
  double framesPerQuarter() const { return sampleRate * 60.0 / tempoBpm; }
  /// Rounded once, at the loop's end; of a song without its tails.
  size_t loopFrames() const;
  /// What is rendered: the loop, or the song and kSongTailSeconds for what rings on.
  Span span() const;
  double barQuarters() const { return beatsPerBar * 4.0 / beatUnit; }
  double seconds() const { return loopQuarters() * 60.0 / tempoBpm; }
  /// The longest that it can be: kMostLoopBars, or kMostSongSeconds of a song.
  double mostQuarters() const;
  int mostBeats() const { return static_cast<int>(mostQuarters() * beatUnit / 4.0 + 1e-9); }
};

/// The grid of patterns.
struct Grid {
  TimeValue division = TimeValue::note(1, 16);
  double swing = 0.0;  ///< 0 (even) to 1 (triplets), at most 1.5: how late every second division is
  Unknown unknown = {};
  bool operator==(const Grid&) const = default;
};

struct Backing {
  AssetRef asset;
  double levelDb = 0.0;
  bool mute = false;
  double offsetSeconds = 0.0;              ///< -600 to 600: position in the file at the loop's start
  std::optional<double> lowCutHz;          ///< 20 to 1000, 24 dB an octave
  std::optional<double> monoBelowHz = {};  ///< 20 to 20000, 24 dB an octave: mono below
  Unknown unknown;
  bool operator==(const Backing&) const = default;
};

/// Processing of the running sum, not hit by hit. Not in the stems.
struct SumBus {
  Chain finish;
  Unknown unknown = {};
  bool operator==(const SumBus&) const = default;
};

/// What Export writes.
struct ExportList {
  bool kickOneShot = true, bassOneShot = true, stems = true, gainCurve = true;
  SampleFormat format = SampleFormat::Wav24;
  bool patterns = true;      ///< as a MIDI file
  bool partOneShots = true;  ///< of parts other than kick and bass
  bool versions = false;     ///< one-shots of all versions of a part instead of the present one's
  bool everyNote = false;    ///< one-shots of every note that a bass plays instead of one
  bool gainSignal = false;   ///< gains of duckings as a control signal too
  bool triggers = false;     ///< their triggers, as CSV and MIDI
  bool automation = true;    ///< as CSV and MIDI
  int gainController = kGainController, gainChannel = 1;
  bool gainFine = false;                     ///< 14 bits; controllers 0 to 31 then
  std::optional<double> oneShotPeakDb = {};  ///< true peak of each one-shot, dBTP; empty: its own level
  Unknown unknown = {};
  bool operator==(const ExportList&) const = default;
};

/// What a section chooses for a part: events that start in it.
struct SectionPart {
  int part = 1;
  bool mute = false;         ///< they are left out, as triggers too
  std::string version = {};  ///< by name; empty or unknown: the present one
  Unknown unknown = {};
  bool operator==(const SectionPart&) const = default;
};
/// What it chooses for a ducking.
struct SectionDuck {
  int duck = 1;
  double amount = 1.0;  ///< 0 to 1, times its own
  Unknown unknown = {};
  bool operator==(const SectionDuck&) const = default;
};

/// A named stretch of the track: intro, drop.
struct TrackSection {
  int id = 1;  ///< its own within the session
  std::string name;
  double fromQuarters = 0.0, toQuarters = 0.0;  ///< its last moment is not its own
  std::vector<SectionPart> parts = {};          ///< those that it chooses something for, each once
  std::vector<SectionDuck> ducks = {};
  bool compared = false;  ///< beside the references, in place of the whole song; one at most
  Unknown unknown = {};
  bool operator==(const TrackSection&) const = default;
  bool holds(double quarters) const { return quarters >= fromQuarters - 1e-9 && quarters < toQuarters - 1e-9; }
  /// What it chooses; nothing chosen where it is not listed.
  SectionPart ofPart(int part) const;
  double amountOf(int duck) const;
};
inline constexpr size_t kMostTrackSections = 64;

/// A kick and a bass, ids 1 and 2.
std::vector<Part> pairOfParts();

struct Session {
  Track track;
  Grid grid;
  std::vector<TrackSection> sections;              ///< ascending, none in another; at most kMostTrackSections
  std::vector<Part> parts = pairOfParts();         ///< at least one kick and one bass, at most kMostParts
  std::vector<Duck> ducks = std::vector<Duck>(1);  ///< at least one
  DuckingBus ducking;
  HandOver handOver;
  Backing backing;
  SumBus sum;
  std::vector<Reference> references;  ///< at most kMostReferences
  Targets targets;
  ExportList exports;
  std::vector<Taught> taught;               ///< at most kMostTaught, each control once
  std::vector<Automation> automation = {};  ///< at most kMostAutomations, each value once
  std::vector<KeptState> states = {};       ///< at most kMostStates
  std::set<std::string> meantSo;            ///< ids of intended Ledger lines
  std::string savedOn;                      ///< the machine that saved it last (folder.h); empty: not said
  Unknown unknown;
  bool operator==(const Session&) const = default;

  /// The pair that the window is about: the first kick and the first bass.
  const Part& kick() const { return parts[place(PartRole::Kick)]; }
  Part& kick() { return parts[place(PartRole::Kick)]; }
  const Part& bass() const { return parts[place(PartRole::Bass)]; }
  Part& bass() { return parts[place(PartRole::Bass)]; }
  bool isOfPair(int part) const { return part == kick().id || part == bass().id; }
  /// Index of the first part of a role.
  size_t place(PartRole role) const;
  /// Nothing where no part has that id.
  const Part* part(int id) const;
  Part* part(int id);
  /// The ducking of the bass by the kick's own hits: the first of that kind; else the first.
  const Duck& duck() const { return ducks[placeOfDuck()]; }
  Duck& duck() { return ducks[placeOfDuck()]; }
  size_t placeOfDuck() const;
  /// Of the bass's whole lane by the kick's hits.
  bool isOfPair(const Duck& duck) const;
  /// Nothing where no ducking has that id.
  const Duck* duck(int id) const;
  /// The section that holds that moment, or of that id; nothing where none does.
  const TrackSection* sectionAt(double quarters) const;
  const TrackSection* comparedSection() const;  ///< nothing: all of the track
  const TrackSection* section(int id) const;
  /// Whether the section there mutes that part.
  bool mutedAt(int part, double quarters) const;
  /// Whether a ducking is on and ducks anywhere: its amount, or the automation of it, is not 0.
  bool acts(const Duck& duck) const;
  /// The same of a part or one of its layers.
  bool actsOn(const Duck& duck, int part) const;
  /// Whether something lowers the bass's lane.
  bool ducksBass() const;

  const Layer* kickLayer() const { return kick().firstLayer(); }
  const Layer* bassLayer() const { return bass().firstLayer(); }
};

/// 1: one recorded sound a part. 2: layers, built voices, processors, versions, ties, dives, wheel, grid. 3:
/// parts and duckings as lists, levels of parts, a finish of the sum. 4: a ducking's source, movement, band and
/// target. 5: processors in any order. 6: limiters and clips that hold true peak. 7: songs and sections. 8:
/// automation, what sections choose, kept states.
inline constexpr int kSessionVersion = 8;

/// Tunes a layer to a note, its own shift on top included: sets a built kick's landing or a recorded one's
/// target.
void setLanding(Layer& layer, double midi);
/// The target of that note; nothing for an unshifted recording.
std::optional<double> landingTarget(const Layer& layer);
/// How a built kick changes its length.
enum class Lengthen { Tail, Whole };  ///< the fall lasts as long as before, or scales with the rest
/// Gives a kick's length to its tail: a built one's own, a recorded one's trim.
void setLength(Layer& layer, const TimeValue& length, double tempoBpm, Lengthen how = Lengthen::Tail);
/// Likewise for every layer of the part not already set shorter, since one that rings on is heard at its end.
void setTail(Part& part, const TimeValue& length, double tempoBpm, Lengthen how = Lengthen::Tail);

/// Target length of the kick's tail, and where it comes from.
struct TailTarget {
  TimeValue length = TimeValue::note(1, 16);
  enum class From { Set, Length, Gap, Usual } from = From::Usual;
};
/// The set length; else the kick's own where that is a note; else the shortest gap from a hit to the next
/// bass note, at most a quarter; else a sixteenth (common practice).
TailTarget tailTargetOf(const Session& session);
/// The shortest gap from a hit of the kick to the bass note after it, round the loop, as a note value where it
/// is one; nothing where no note follows.
std::optional<TimeValue> gapToNextNote(const Session& session);

/// The note the bass plays under most hits (sounding at the hit, longest shared time wins a tie); nothing
/// without notes.
std::optional<int> noteUnderMostHits(const Session& session);

/// The document as Heft saves it: keys in a fixed order, two-space indent.
std::string sessionToJson(const Session& session);
/// Reads any version up to kSessionVersion. Size (64 MB) and depth (64) are bounded, every number is checked
/// against its range. Errors: Unreadable, naming the key.
Result<Session> sessionFromJson(const std::string& text, const std::string& fileName);
/// A reference alone, for the shelf. Errors likewise.
std::string referenceToJson(const Reference& reference);
Result<Reference> referenceFromJson(const std::string& text, const std::string& fileName);

}  // namespace heft
