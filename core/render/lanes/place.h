#pragma once
/// A part's sounds in place: its lane before it is moved or ducked. Block by block, each cached as long as
/// the sounds in it stay the same.

#include <stop_token>

#include "core/render/lanes/crossings.h"
#include "core/render/lanes/signal.h"
#include "core/render/sounds/sounds.h"

namespace heft {

/// Hits of a part within the loop.
std::vector<Hit> hitsInLoop(const Part& part, const Track& track);
/// A hit, or a note that is struck, at the frame where it sounds: tied notes are struck once, and one with an
/// offset of its own where that puts it.
struct StrikeEvent {
  double frame = 0.0;  ///< 0 to below the loop's frames
  double velocity = 1.0;
};
/// Of a part within the loop, ascending.
std::vector<StrikeEvent> strikeEvents(const Part& part, const Track& track);
/// Their frames alone.
std::vector<double> eventFrames(const Part& part, const Track& track);

/// The part's hits or notes over the loop, tails wrapped; its finish is applied to each where it is held to
/// hits. `fades`: their hand-over. Each sounds as its section and the session's automation have it at its
/// start.
Signal placedLane(const Session& session, const Part& part, const SoundSteps& steps, StepCache& cache,
                  const std::stop_token& stop, const LaneFades& fades = {});

/// The backing over the loop at its level; silence where it is muted or missing.
Signal backingLane(const Session& session, const SoundSteps& steps, StepCache& cache);

}  // namespace heft
