#pragma once
/// Duckings of a session over its loop: their triggers, their sidechain and the resulting gain.

#include <stop_token>

#include "core/duck/detector.h"
#include "core/duck/hit_spectra.h"
#include "core/render/lanes/crossings.h"
#include "core/render/lanes/lane_gain.h"
#include "core/render/sounds/sounds.h"

namespace heft {

/// A hit in the trigger lane, on the loop.
struct LaneHit {
  double frame = 0.0;
  double velocity = 1.0;
  HitVerdict verdict = HitVerdict::Hit;
  std::optional<double> fileSeconds = {};  ///< of a hit in an audio file: where in it
  bool byHand = false;                     ///< set by a mark, or drawn
  double strengthDb = 0.0, shareDb = 0.0;  ///< of found ones: FoundHit
  double lengthQuarters = 0.25;            ///< of drawn ones and notes: how long it sounds
  bool fires() const { return verdict == HitVerdict::Hit || verdict == HitVerdict::Doubtful; }
};

/// A ducking with its times in ms and its triggers in frames of the loop.
struct ResolvedDuck {
  int id = 0;
  bool acts = false;
  Movement movement = Movement::Curve;
  DrawnDip dip;
  std::optional<double> sourceTailMs;         ///< length of the trigger's sound, for a curve that lasts as long
  std::vector<Trigger> triggers;              ///< ascending; none where it is off
  std::vector<LaneHit> hits;                  ///< triggering ones and near misses
  std::shared_ptr<const HitSearch> search;    ///< of an audio file
  std::shared_ptr<const HitSpectra> spectra;  ///< of the same, corrected by hand
  double soundSeconds = 0.0, soundRate = 0.0;  ///< of that file
  double levelFromSeconds = 0.0;               ///< position in that file at the loop's start
  std::optional<double> repeatFrames;          ///< after which the file repeats
  ActingBand band;
  std::optional<double> bellHz;  ///< frequency of a bell; empty where no note is known
  Signal heard;                  ///< sidechain of a follower or a mirror; empty for other modes
  Signal gain;                   ///< its own, amounts included; all 1 while it is off

  std::vector<double> triggersFrames() const;
};

/// What `resolveDuck` reads besides the session.
struct DuckSources {
  const Assets& assets;
  const SoundSteps& steps;
  StepCache& cache;
  std::stop_token stop;
};

/// The detector's hits in a sound; a new threshold only repeats the search.
std::shared_ptr<const HitSearch> hitSearch(const LoadedSound& sound, const DetectorOptions& options,
                                           StepCache& cache);

/// Its triggers, band and sidechain, without its gain, since a mirror's needs its target's lane. Ignores mute
/// and solo of the source's layers. Silence, a removed part or a missing sound gives no triggers.
ResolvedDuck resolveDuck(const Duck& duck, const Session& session, const DuckSources& from);

/// Its gain, automated values included; `target`: the lane it ducks, for a mirror.
Signal gainOf(const ResolvedDuck& duck, const Duck& set, const Session& session, const Signal& target,
              StepCache& cache);

/// A ducking that acts on a lane, with its gain.
struct DuckOnLane {
  const Duck* set = nullptr;
  const ResolvedDuck* resolved = nullptr;
};
/// duckedLane() by these, along the track where bands are automated: crossfaded from one band to the next.
Signal duckedAlong(const Signal& x, const Signal& stood, const AlignMove& move,
                   const std::vector<DuckOnLane>& duckings, const Session& session, const DuckSources& from);

/// The threshold at which a follower ducks by `takesDb` at the loudest moment of its sidechain; empty for
/// silence. Cost: some fourteen passes over the loop, 20 ms a bar: run it aside.
std::optional<double> thresholdFor(const ResolvedDuck& duck, const Follower& follower, double rate,
                                   double takesDb);

/// A part over the loop: placed, handed over, finished where that runs over the lane, at its level.
Signal partLane(const Session& session, const Part& part, const SoundSteps& steps, StepCache& cache,
                const std::stop_token& stop, const LaneFades& fades = {});

}  // namespace heft
