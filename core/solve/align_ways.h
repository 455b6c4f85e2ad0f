#pragma once
/// Ways to align the bass with the kick: each solved over all hits as they sound, with its result and its
/// cost.

#include <functional>
#include <stop_token>

#include "core/align/solver.h"
#include "core/study/study.h"

namespace heft {

enum class AlignWayKind {
  Polarity,
  Delay,
  DelayAndPolarity,
  StartPhase,
  Turn,
  TurnTwice,
  Together,
  PerNote,
  PhasePerNote
};

struct AlignWay {
  AlignWayKind kind = AlignWayKind::Delay;
  std::string name;         ///< "bass 3.4 ms later", "phase turned at 62 Hz"
  Edit edit;                ///< named for Undo; replaces the present move
  double levelDb = 0.0;     ///< all hits as they sound, re perfect phase
  double unduckedDb = 0.0;  ///< the same without the ducking
  AlignAnswer answer;       ///< the move; nothing for a start phase
  std::optional<double> startPhaseDegrees = {};
  double delayMs = 0.0;                  ///< delay of the bass or of its notes, as a magnitude
  size_t notes = 0;                      ///< notes with a move of their own
  std::vector<NoteMove> noteMoves = {};  ///< start phase of every note of the line
  double smearMs = 0.0;                  ///< by how much a rotated phase delays the main note
};

/// Tolerance of a way: the range in which the pair stays within Limits::pairHolds of it.
struct AlignStands {
  AlignHold delay;
  double lowerCents = 0.0, higherCents = 0.0;  ///< of the bass's tuning, at most kMostCents
  double slowestBpm = 0.0, fastestBpm = 0.0;   ///< within a third of the tempo
  static constexpr double kMostCents = 50.0;
};

struct AlignWays {
  double nowDb = 0.0;          ///< unchanged
  double unmovedDb = 0.0;      ///< without any move of Align
  std::vector<AlignWay> ways;  ///< the best first; within kCloseEnoughDb the one that moves least
  AlignStands stands;          ///< of the first
  /// Why no way aligns them and what would help; empty where one does.
  std::string elsewhere;
};

/// Over all hits of the loop. Cost: some milliseconds a hit, then some hundred for the search. `progress`: 0 to
/// 1. Errors: Cancelled; BadUsage where kick and bass never sound together.
Result<AlignWays> alignWays(const Session& session, const Assets& assets, StepCache& cache,
                            std::stop_token stop = {}, const std::function<void(double)>& progress = {});

}  // namespace heft
