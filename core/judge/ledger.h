#pragma once
/// What is right and wrong with a session, in sentences, each with the fix for it.

#include <optional>
#include <string>
#include <vector>

#include "core/session/edits/levels.h"
#include "core/study/study.h"

namespace heft {

enum class Stage { Sounds, Tune, Align, Duck, Compare, Export };
const char* stageName(Stage stage);  ///< "Sounds"

enum class Verdict { Holds, Watch, Off };
const char* verdictName(Verdict verdict);  ///< "holds", "watch", "off": in files and for programs
const char* verdictWord(Verdict verdict);  ///< "in range", "watch", "out": for people

/// One move, done as one undoable edit.
struct Remedy {
  std::string label;                       ///< for a button: "Tune to A1"
  std::vector<Edit> moves;                 ///< its moves besides levels, in order
  LaneLevels levels = {};                  ///< its level changes, which add up over several fixes
  std::string price = {};                  ///< its side effect, where another line gets worse; empty: none
  std::vector<std::string> replaces = {};  ///< what it replaces that was set by hand (replaced.h)
  std::string asks = {};                   ///< why it asks before it acts (drastic.h); empty: it acts at once

  std::string move() const;  ///< without levels: "tune kick to A1"; may be empty
  Edit edit() const;         ///< all of it, named for Undo: "tune kick to A1, lower bass by 2 dB"
  std::string name() const { return edit().name; }
  Session applied(const Session& session) const { return edit().applied(session); }
};

/// One of the hits that a line is about.
struct HitLine {
  int hit = 0;  ///< from 0
  Verdict verdict = Verdict::Holds;
  double value = 0.0;  ///< in the line's own unit, or the one that its sentence gives
  std::string section = {};  ///< of the song, that the hit is in; empty elsewhere and in a loop
  bool operator==(const HitLine&) const = default;
};

struct Finding {
  std::string id;  ///< stable: "kick-key", "band-40-60"
  Stage stage = Stage::Sounds;
  Verdict verdict = Verdict::Holds;
  std::string sentence;  ///< "Kick lands 58 cents under A1"
  std::string measured;  ///< with its unit
  std::string target;    ///< with its unit
  double value = 0.0;    ///< the measured figure
  std::string unit;
  /// Moves that may fix it, the likeliest first. Only a try tells whether one does.
  std::vector<Remedy> options;
  /// The ways to make room (ways.h) come before these, the cheapest first: they are solved when the line is
  /// tried.
  bool byWaysToMakeRoom = false;
  /// The one that improved the session when tried on a copy (remedies.h).
  std::optional<Remedy> remedy;
  bool tried = false;              ///< its options were tried: without a remedy only the ear can decide
  std::optional<int> hit;          ///< the kick hit to mark, from 0: the worst
  std::vector<HitLine> hits = {};  ///< all that the line judges; empty where it is not about hits
  bool meantSo = false;
  bool ofANote = false;  ///< a note was found and is judged: a move that loses it fixes nothing
  /// The cost of a move rather than a fault: in watch it counts for nothing, but shows as a side effect.
  bool isPrice = false;
};

/// Limits of the verdicts (docs/ledger.md says where each comes from).
struct Limits {
  double keyHolds = 5, keyWatch = 20;              ///< cents
  double looseHolds = 20, looseWatch = 50;         ///< cents, of a kick that is short or slides
  double strainHolds = 1, strainWatch = 2;         ///< semitones, of a recorded drum
  double lowStrainHolds = 6, lowStrainWatch = 12;  ///< semitones, of a plain low layer and of a recorded bass
  double slideHolds = 60, slideWatch = 200;        ///< cents, of a kick with a tail to hear it
  double tailHolds = 1.1, tailWatch = 1.5;         ///< times the target
  double overHolds = -20, overWatch = -12;         ///< dB of the kick's tail at the next note
  double releaseHolds = -20, releaseWatch = -12;   ///< dB of a bass note that is released, at the next hit
  double pairHolds = 0.6, pairWatch = 1.2;         ///< dB under the best reachable
  double hitHolds = 1.5, hitWatch = 3;             ///< dB below what a single hit could reach
  double overlapHolds = -6, overlapWatch = -1;     ///< dB, bass re kick
  double rippleHolds = 4, rippleWatch = 8;         ///< dB under or over both sides of a hand-over
  double bandHolds = 1.5, bandWatch = 3;           ///< dB outside the references' span
  double sideHolds = -30, sideWatch = -20;         ///< dB
  double peakHolds = -1, peakWatch = 0;            ///< dBTP
  double strikesApartMs = 0.5, strikesFarMs = 15;  ///< between these two strikes smear each other
  double strikesHold = 18, strikesOff = 6;         ///< dB between their levels
  double tailsHold = 15, tailsOff = 8;             ///< dB between two layers' low tails
  double spreadHolds = 1.5,
         spreadWatch = 3;  ///< dB of the pair's level over the hits, with a free-running phase
  double strikeLossHolds = 6, strikeLossWatch = 12;  ///< dB by which a drive lowers the strike
  double boost = 2;                                  ///< dB above which a boost counts as one
};

/// The id of a low band's line: "band-40-60".
std::string bandLineId(const Band& band);
/// How far it may be outside its span.
double bandTolerance(const BandDifference& difference, const Limits& limits = {});
/// Of a band beside the references; nothing where it cannot be judged.
std::optional<Verdict> bandVerdict(const BandDifference& difference, const Limits& limits = {});

/// Pure; does not try remedies. Worst first within the order of the stages; a session without sounds has no
/// lines.
std::vector<Finding> ledger(const Session& session, const Study& study, const Limits& limits = {});

/// 1 for a line in watch, 3 for one that is out, one more where more than a quarter of its hits are not in
/// range; 0 for intended ones.
int weightOf(const Finding& finding);
/// How much is wrong: the weights of all lines.
int faultsIn(const std::vector<Finding>& findings);
/// Fewer faults; or as many, with fewer in the first stage that differs, because later stages can still be
/// fixed there. A strict order, so moves that improve a session cannot cycle.
bool isBetter(const std::vector<Finding>& findings, const std::vector<Finding>& than);

/// The worst verdict of a stage's lines, intended ones apart; nothing where it has none.
std::optional<Verdict> stageVerdict(const std::vector<Finding>& findings, Stage stage);

}  // namespace heft
