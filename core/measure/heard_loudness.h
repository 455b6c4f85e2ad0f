#pragma once
/// How loud a stretch of low sound is heard: power in third-octave bands (IEC 61260-1:2014, base ten), each
/// band heard as a tone of its mid-frequency (ISO 226:2003); loudness adds up in sones (a doubling every 10
/// phon, Stevens 1936). The method of small_speaker.h without a speaker.

#include <optional>
#include <span>
#include <vector>

namespace heft {

/// What a full-scale sine is taken to play at where nothing else is said, dB SPL (a moderate level; common
/// practice).
inline constexpr double kUsualListeningDb = 80.0, kLeastListeningDb = 50.0, kMostListeningDb = 100.0;

/// Power of the bands from 20 Hz to 12.5 kHz, re a full-scale sine.
struct HeardBands {
  struct Band {
    double hz = 0.0, power = 0.0;
  };
  std::vector<Band> bands;
  /// Loudness level in phon, `gainDb` louder than it is; 0 where nothing passes the threshold.
  double phon(double listeningDb, double gainDb = 0.0) const;
  /// The gain that brings it to that loudness level, within `mostDb` either way; nothing for silence.
  std::optional<double> gainTo(double phon, double listeningDb, double mostDb) const;
};

/// Of all of `mono`, its first and last fifth less and less; one transform of its length.
HeardBands heardBands(std::span<const double> mono, double sampleRate);

}  // namespace heft
