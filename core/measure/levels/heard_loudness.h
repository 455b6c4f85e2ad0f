#pragma once
/// Perceived loudness of a stretch of low sound: its tones below 285 Hz and the power of third-octave bands
/// above (IEC 61260-1:2014, base ten) over 200 ms, the integration time of hearing, each weighted as a tone
/// of its frequency (ISO 226:2003). Within a critical band (up to 90, 180 and 285 Hz, the groups of ISO
/// 532-1:2017, from memory) power adds up, at the loudness of one frequency; across bands sones add up (a
/// doubling every 10 phon, Stevens 1936). The loudest 200 ms count, so of two notes that differ only in
/// length the longer one is not softer.

#include <optional>
#include <span>
#include <vector>

namespace heft {

/// Default playback level of a full-scale sine, dB SPL (a moderate level; common practice).
inline constexpr double kUsualListeningDb = 80.0, kLeastListeningDb = 50.0, kMostListeningDb = 100.0;

/// Power of the tones and bands from 20 Hz to 12.5 kHz, re a full-scale sine, of windows of 200 ms every 50 ms.
struct HeardBands {
  struct Band {
    double hz = 0.0, power = 0.0;
  };
  std::vector<std::vector<Band>> windows;
  /// Loudness level in phon, `gainDb` louder than it is; 0 where nothing passes the threshold.
  double phon(double listeningDb, double gainDb = 0.0) const;
  /// The gain that gives it that loudness level, within `mostDb` either way; nothing for silence.
  std::optional<double> gainTo(double phon, double listeningDb, double mostDb) const;
  size_t bytes() const;
};

/// Over the part of `mono` within 20 dB of its largest sample. Windows are tapered (Hann: leakage of a low
/// tone is 60 dB and more below it where it would be audible) and lie within that part, so that a note's ends
/// do not sound as tones of their own; a shorter sound has one window of its own length and counts for that
/// share of 200 ms. A transform each.
HeardBands heardBands(std::span<const double> mono, double sampleRate);

}  // namespace heft
