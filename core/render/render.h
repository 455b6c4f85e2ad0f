#pragma once
/// Session and sounds in, finished lanes out: the one path that playback, export and the command line share.

#include <functional>
#include <stop_token>

#include "core/duck/gain_curve.h"
#include "core/render/sounds.h"
#include "core/render/stem.h"
#include "core/session/assets.h"

namespace heft {

/// The lanes of one loop in its steady state, tails wrapped in. All have the same number of frames.
struct Stems {
  double sampleRate = 48000.0;
  size_t frames = 0;
  Stem kick;        ///< placed, tuned, shaped
  Stem bassPlaced;  ///< before it is moved and ducked
  Stem bass;        ///< moved and ducked
  Stem backing;
  Stem sum;                       ///< kick + bass + backing, in that order
  Stem gain;                      ///< the ducking's gain as an amplitude; all 1 where it is off
  std::vector<double> triggers;   ///< frames at which the ducking starts anew; empty where it is off
  std::vector<double> hitFrames;  ///< of every kick hit in the loop
  DrawnDip dip;                   ///< times resolved to ms
};

/// Stretching costs a twelfth of the sound's length: a render is never kept longer by it than 10 s.
inline constexpr double kMostStretchedSeconds = 120.0;
/// Of the bass's layers that keep their length: the sounds' seconds, once for every note that is played.
double stretchedSeconds(const Session& session, const Assets& assets);

/// Pure. Only what changed is computed anew; blocks that did not change are shared with earlier results through
/// `cache`. Errors: Cancelled where `stop` was requested; BadUsage where more than kMostStretchedSeconds would
/// have to be stretched.
Result<Stems> render(const Session& session, const Assets& assets, StepCache& cache, std::stop_token stop = {});

/// The dip with note values and "as the kick" resolved. `kickTailMs`: measured length of the ready kick.
DrawnDip resolvedDip(const DuckMove& duck, double tempoBpm, double kickTailMs);

/// Whose moves Before leaves out: a stage's own, or all.
enum class MovesOf { All, Sounds, Tune, Align, Duck };

/// The session without those moves. Sounds: lengths, processors and finishes; Tune: targets and edited paths; Align: delay and
/// polarity; Duck: the ducking.
Session withoutMoves(Session session, MovesOf of = MovesOf::All);

/// What a session is heard against: itself without some moves, without one processor, with another version.
struct Before {
  std::string name = "Before";  ///< for the button that it is heard by
  /// Called on the render's thread: holds values only.
  std::function<Session(Session)> of = [](Session s) { return withoutMoves(std::move(s)); };
};

}  // namespace heft
