#pragma once
/// How far the bass of a finished mix falls after each kick.

#include <stop_token>

#include "core/compare/kick_in_mix.h"

namespace heft {

/// A figure and how sure it is, 0 to 1.
struct Told {
  double value = 0.0, confidence = 0.0;
};

struct DipInMix {
  Told depthDb;  ///< positive
  std::optional<Told>
      backMs;  ///< from the hit until it is last 0.5 dB below its steady level; not of a flat one
  /// The dip over time, dB re the steady level, a value each kStepMs from the hit on.
  std::vector<double> db;
  static constexpr double kStepMs = 2.0;
};

/// Method: the kick is taken out of each hit by the average of those hits whose bass is at another note, so
/// that no bass goes with it. The bass after the hit is then followed in amplitude at its fundamental and its
/// two first overtones, demodulated over 30, 22 and 20 ms (where that is 1.4 periods and more), re its highest
/// 60 ms before the next hit. The overtone at which hits agree best counts, by the median over hits. Nothing
/// where the bass rests under the kick (22 dB and more), where fewer than eight hits, or a fifth of them, have
/// a steady bass after them, where they differ by more than 4 dB, or where a slow start of the bass's notes
/// could be taken for a dip: neither does half of its tones go on through the hits (where sixteen do, only
/// those count), nor do its notes that begin without a kick begin at once. No time back where the bass falls
/// again before it is steady. A limiter's or a saturation's dip of the bass counts: it is heard as well. Cost:
/// about 1 ms a hit.
std::optional<DipInMix> findDip(const LowEndParts& low, const KickInMix& kick,
                                const std::stop_token& stop = {});

}  // namespace heft
