#pragma once
/// Input of the player: finished lanes, immutable once shared.

#include <array>
#include <memory>
#include <set>

#include "engine/player/level_match.h"
#include "engine/player/listening.h"
#include "engine/player/played_lane.h"

namespace heft {

/// Lanes silenced while listening, by part id or kBackingLane; exports ignore it.
using SilencedLanes = std::set<int>;

/// The same loop with its moves (after) and without them (before), at the device's rate.
struct LoopSnapshot {
  Span span;
  size_t frames = 0;  ///< of the span
  double framesPerQuarter = 24000.0;
  size_t lanes = 0;                   ///< how many there are
  std::array<int, kMostLanes> ids{};  ///< a part's, kBackingLane, or kWholeSum
  /// Of a loop with all blocks; of a song with those that song_feed.h lays out.
  std::array<std::shared_ptr<PlayedLane>, kMostLanes> after, before;
  /// What levels are matched over: a loop, or the stretch of a song that was asked for.
  size_t judgedFirst = 0, judgedFrames = 0;
  MatchGains beforeGains;  ///< the gain that makes Before as loud as Now

  /// The single lane where the sum has a finish: its effect depends on the whole mix, so a solo or mute needs
  /// another snapshot.
  static constexpr int kWholeSum = -1;
};

/// Audible lanes of a render: parts in their order, then the backing.
std::vector<const Signal*> heardLanes(const Stems& stems, const SilencedLanes& silenced);

/// Lanes of two renders, converted where the device's rate is not the session's, and level matched
/// (level_match.h). A part that one of them lacks is silent there. A Before of another length or rate, such as
/// fixes of a loop that has since been made longer, is the loop as it is now: the player reads both at one
/// frame.
struct SnapshotAsk {
  const Stems &after, &before;
  double framesPerQuarter = 24000.0, deviceRate = 48000.0;
  SilencedLanes silenced = {};
  ListenTo listen = {};  ///< what looks ahead is part of the snapshot: the whole sum then, as one lane
  double judgedFromQuarters = 0.0;  ///< of a song: where levels are matched, over 16 s
  bool matchesBefore = true;        ///< of a song: whether Before is heard, so that its level matters
};
std::shared_ptr<const LoopSnapshot> makeSnapshot(const SnapshotAsk& ask, StepCache& cache);

/// A loop at another rate; its end still meets its start. Rounds frames once. Block by block, caching
/// unchanged ones.
Signal convertedLoop(const Signal& stem, double fromRate, double toRate, StepCache& cache);

}  // namespace heft
