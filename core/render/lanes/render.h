#pragma once
/// Session and sounds in, finished lanes out: the one path that playback, export and the command line share.

#include <functional>
#include <stop_token>

#include "core/render/lanes/duck_steps.h"
#include "core/render/lanes/signal.h"
#include "core/render/sounds/contour_line.h"
#include "core/render/sounds/sounds.h"
#include "core/session/assets.h"
#include "core/session/edits/edit.h"

namespace heft {

/// One part over the loop.
struct Lane {
  int part = 0;   ///< its id
  Signal placed;  ///< tuned, shaped, finished, at its level; not yet moved or ducked
  Signal heard;   ///< moved and ducked
  Signal gain;    ///< of all its duckings together, as an amplitude; all 1 without ducking
  std::shared_ptr<const ContourLine> contour = {};  ///< of its notes; nothing where that does nothing
  std::vector<double> eventFrames;                  ///< at which its hits or notes start
};

/// The lanes of one loop in its steady state, tails wrapped in. All have the same number of frames.
struct Stems {
  double sampleRate = 48000.0;
  Span span;
  size_t frames = 0;                  ///< of the span: a song's with its tails
  std::vector<Lane> lanes;            ///< in the order of the session's parts
  Signal backing;                     ///< at its level, ducked
  Signal backingGain;                 ///< of all its duckings together
  Signal sum;                         ///< of all lanes and the backing, in that order, through its processors
  ReadyChain sumChain;                ///< which strike at the kick's hits
  std::vector<ResolvedDuck> ducks;    ///< in the order of the session's duckings; no triggers where one is off
  size_t kickLane = 0, bassLane = 1;  ///< of the pair

  const Lane* lane(int part) const;
  const Signal& kick() const { return lanes[kickLane].heard; }
  const Signal& bass() const { return lanes[bassLane].heard; }
  const Signal& bassPlaced() const { return lanes[bassLane].placed; }
  const Signal& gain() const { return lanes[bassLane].gain; }
  const std::vector<double>& hitFrames() const { return lanes[kickLane].eventFrames; }
};

/// Stretching costs a twelfth of the sound's length: it never makes a render longer than 10 s.
inline constexpr double kMostStretchedSeconds = 120.0;
/// Of the bass's layers that keep their length: the sounds' seconds, once for every note played.
double stretchedSeconds(const Session& session, const Assets& assets);

/// Pure. Computes only what changed; shares unchanged blocks with earlier results through `cache`. Errors:
/// Cancelled where `stop` was requested; BadUsage where more than kMostStretchedSeconds would have to be
/// stretched.
Result<Stems> render(const Session& session, const Assets& assets, StepCache& cache, std::stop_token stop = {});

/// Whose moves Before bypasses: a stage's own, or all.
enum class MovesOf { All, Sounds, Tune, Align, Duck };

/// The session without those moves. Sounds: lengths, processors and finishes; Tune: targets and edited paths;
/// Align: delay and polarity; Duck: the ducking.
Session withoutMoves(Session session, MovesOf of = MovesOf::All);

/// The same as an edit, named like the button that plays a session against itself: "Before".
Edit leaveOut(MovesOf of = MovesOf::All, const std::string& name = "Before");

}  // namespace heft
