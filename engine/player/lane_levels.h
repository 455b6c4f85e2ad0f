#pragma once
/// Meters at the heads of lanes during playback, made once for each render and read at the playhead.

#include <map>
#include <set>

#include "core/render/lanes/lane_steps.h"
#include "core/render/lanes/lane_wave.h"
#include "core/render/lanes/render.h"
#include "core/render/lanes/taken.h"
#include "engine/player/snapshot.h"

namespace heft {

/// One lane as heard.
struct LaneLevel {
  LoopLine peak;   ///< between samples too (engine/player/output_meter.h), an amplitude
  LoopLine taken;  ///< dB
};

struct LoopLevels {
  std::map<int, LaneLevel> lanes;  ///< by part id or kBackingLane
  LoopLine sumTaken;               ///< by the sum's processors, of the audible lanes
};

/// How they are drawn.
struct LanePeaks {
  std::map<int, LanePeak> lanes;  ///< by part id or kBackingLane
  LanePeak sum;
};
LanePeaks lanePeaks(const Stems& stems, StepCache& cache);

/// A song's lanes as they are drawn.
struct LaneWaves {
  std::map<int, LaneWave> lanes, gains;  ///< by part id or kBackingLane
  LaneWave sum;
  LanePeaks peaks() const;
};
/// A pass over all blocks, several at a time; with the levels' figures of the same blocks, so that those need
/// no other. Where `stop` was requested it is cut off.
LaneWaves laneWaves(const Stems& stems, const StepCache& cache, const std::stop_token& stop = {});

struct LevelsAsk {
  const Session& session;
  const Assets& assets;
  const Stems& stems;  ///< of that session
  const SilencedLanes& silenced;
};

/// Cost: about 2 ms for each second and lane that is new to `cache`. Where `stop` was requested it is cut off.
LoopLevels levelsOf(const LevelsAsk& ask, StepCache& cache, const std::stop_token& stop = {});

}  // namespace heft
