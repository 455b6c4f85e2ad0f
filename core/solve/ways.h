#pragma once
/// Ways to make room for the kick: each solved on copies of the session to one goal, with its cost.

#include <functional>
#include <stop_token>

#include "core/judge/ledger.h"

namespace heft {

/// Upper edge of the lows that a way ducks.
inline constexpr double kWayCrossoverHz = 120.0;

enum class WayKind { Level, Octave, Shorter, Align, Bell, LowBand, Full, Mirror, Together };

/// Cost of a way, measured on the rendered lanes.
struct WayCost {
  double loudnessLostDb = 0.0;  ///< of the bass's lane, K-weighted
  double under3DbMs = 0.0;      ///< of the bass's gain after a hit, on average
  double shiftSemitones = 0.0;  ///< how far a recording is shifted
  double shorterMs = 0.0;       ///< share of a sound's length lost
  double peakDb = 0.0;          ///< of the sum, against before

  /// One figure to order by: a dB of loudness lost counts as 100 ms below -3 dB, as two semitones, as 100 ms
  /// of length, as a dB of peak. Our own weighting (docs/ledger.md).
  double sum() const;
};

/// Cost of a move, measured on renders before and after it; shift and length stay 0. Silence costs nothing.
WayCost costBetween(const Stems& before, const Stems& after, StepCache& cache);

struct RoomWay {
  WayKind kind = WayKind::Full;
  std::string name;        ///< "a bell at A1, 9.5 dB deep"
  Edit edit;               ///< named for Undo
  bool reaches = false;    ///< the goal
  bool ofBalance = false;  ///< levels alone, where the kick is far under the bass: the cause, not the symptom
  std::vector<std::string> replaces = {};  ///< what it replaces that was set by hand (replaced.h)
  bool keeps = true;                       ///< and that is only a ducking's depth
  std::string asks = {};                   ///< why it asks before it acts (drastic.h)
  double worstDb = 0.0;                    ///< bass to kick where it is worst; -120: no bass under any hit
  WayCost cost;
  /// Levels after the hit that is worst without any way, as RoomFacts has them.
  std::vector<float> kickLevel, bassLevel;
};

struct RoomWays {
  /// Those that reach the goal first: balance where it is the cause, then by cost, those that keep hand-set
  /// values before those that do not, those that ask last. Then the others, by distance from the goal.
  std::vector<RoomWay> ways;
  double goalDb = 0.0, beforeDb = 0.0;
  std::vector<float> kickBefore, bassBefore;
};

/// Balance is the cause where the kick is at least this far under the bass over the loop, 20 to 120 Hz: at
/// equal peaks a kick that sounds for a quarter of the time is 6 dB under a held bass, and it decays. Our own
/// limit.
inline constexpr double kUnbalancedDb = -10.0;
/// The largest level change of any way, dB.
inline constexpr double kMostLevelWayDb = 12.0;

/// The gentlest of each kind that brings the bass below the kick by `Limits::overlapHolds` at every hit:
/// levels of kick and bass, octaves of both, a shorter kick, alignment, a bell at the kick's landing, the
/// band below 120 Hz, all of the bass, a mirror, and the best ducking with the move that helps it most.
/// Duckings are solved to half a decibel. Each way is judged alone, without the duckings of the bass at the
/// kick's hits, whether triggered by the kick, a silent copy of it or a file's notes; taking a way removes
/// those. A drawn ducking of the pair keeps its band, shape and times where a way of its kind can reach the
/// goal with them. Duckings of the bass at other moments stay. `progress`: 0 to 1. Cost: some thirty renders
/// of what an edit affects. Errors: Cancelled; BadUsage without a kick, a bass or hits, and where the goal is
/// reached without that ducking.
Result<RoomWays> waysToMakeRoom(const Session& session, const Assets& assets, StepCache& cache,
                                std::stop_token stop = {}, const std::function<void(double)>& progress = {});

/// Whether a curve ducks the pair in that way already, whatever its band's own values, so that only its depth
/// needs to change.
bool isDuckedBy(const Session& session, WayKind kind);

/// Whether a drawn ducking of the pair keeps its shape when its depth is solved anew.
enum class DuckShape { Kept, Plain };

/// Raises the kick and lowers the bass by that much together, half each; the bass takes the remainder. Its
/// name says so.
LaneLevels balanceBy(const Session& session, double db);

/// A ducking of the bass by the kick of that kind and depth (for a mirror: what both stay within), in place
/// of the present one; an active one of that kind can keep its shape.
Edit makeRoomBy(const Session& session, WayKind kind, double depthDb, DuckShape shape);

}  // namespace heft
