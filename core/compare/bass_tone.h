#pragma once
/// The bass of a finished mix as a tone: followed between kicks, and how its notes begin.

#include <complex>
#include <optional>
#include <span>
#include <vector>

#include "core/compare/kick_in_mix.h"

namespace heft {

/// A tone in a stretch of a sound.
struct BassTone {
  double hz = 0.0;         ///< by its phase over time
  double turnsAtZero = 0;  ///< its phase at the sound's start, in turns
};

/// What follows a hit.
struct BassAfter {
  size_t at = 0;    ///< the hit, in samples
  size_t room = 0;  ///< samples until the next hit, 0.36 s at most
  /// The bass once the kick is gone; none where nothing there is one steady tone for 80 ms and more, as where
  /// the kick's own tail still falls into it.
  std::optional<BassTone> tone;
  /// The tone sounded before the hit already, in phase: its note goes on through the hit.
  bool goesOn = false;
};

/// One of each hit. Cost: about 0.1 ms a hit.
std::vector<BassAfter> bassAfterHits(const LowEndParts& low, const KickInMix& kick);

/// A tone's amplitude and phase round a moment, weighed by a window of odd length; 0 where that reaches beyond
/// the sound. Phase counts from the sound's start.
std::complex<double> toneAt(const std::vector<double>& x, double rate, double hz, double seconds,
                            std::span<const double> window);

/// How long notes take to rise from -12 to -1 dB where they begin without a kick: three quarters of them take
/// this or less, through a Hann window of 30 ms, by which a note that starts at once takes 10 ms. None where
/// fewer than five such notes are found. Cost: about 40 ms for sixteen bars.
std::optional<double> riseMsWithoutKick(const LowEndParts& low, const KickInMix& kick,
                                        const std::vector<BassAfter>& after);

}  // namespace heft
