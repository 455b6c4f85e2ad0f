#pragma once
/// Level matching of everything that can be heard in turn, as it is heard: Now, Before, a reference, each
/// through what one listens with.

#include "engine/player/listening.h"
#include "engine/player/reference_sound.h"
#include "engine/player/snapshot.h"

namespace heft {

/// What the loudness is taken of.
enum class MatchBy {
  Loudness,
  Above200
};  ///< the whole, or what is above 200 Hz: then the lows' own difference is heard

/// How something is heard.
struct HeardHow {
  ListenTo listen;
  MatchBy by = MatchBy::Loudness;
  bool operator==(const HeardHow&) const = default;
};

/// Loudness by ITU-R BS.1770-4 of the loop's lanes that are not silenced, Now or Before (as its snapshot
/// matches it), round and round. Nothing for silence. Cost: about 8 ms a second.
std::optional<double> heardLufs(const LoopSnapshot& loop, const SilencedLanes& silenced, bool before,
                                const HeardHow& how, double deviceRate);
/// Likewise of a reference's section.
std::optional<double> heardLufs(const ReferenceSound& reference, const HeardHow& how, double deviceRate);

/// The gain in dB from one to the other, within 24 either way; 0 where either has no loudness.
double matchDb(const std::optional<double>& wanted, const std::optional<double>& has);

/// Gains in dB that bring Before (beyond its snapshot's own) and a reference to the loop as it is now. Beside a
/// silent loop a reference plays at -18 LUFS.
struct HeardGains {
  double beforeDb = 0.0, referenceDb = 0.0;
};
HeardGains heardGains(const HeardHow& how, const std::optional<double>& now,
                      const std::optional<double>& before, const std::optional<double>& reference);

/// The same section through what looks ahead; others leave it. Cost: see heardThrough.
std::shared_ptr<const ReferenceSound> referenceThrough(const ReferenceSound& reference, const ListenTo& to);

/// A section for the player: at the device's rate, two channels; its end crossfades over 20 ms into its start
/// with what follows it in the file. Nothing where it cannot be converted, or is empty.
std::shared_ptr<const ReferenceSound> preparedReference(const AudioBuffer& track, double fromSeconds,
                                                        double toSeconds, std::optional<double> tempoBpm,
                                                        double deviceRate);

}  // namespace heft
