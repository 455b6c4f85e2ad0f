#pragma once
/// How loud a stretch of low sound is heard: its tones below 285 Hz and the power of third-octave bands above (IEC
/// 61260-1:2014, base ten) over 200 ms, as long as hearing adds up, each heard as a tone of its frequency (ISO
/// 226:2003). What hearing does not part (up to 90, 180 and 285 Hz, the groups of ISO 532-1:2017, from memory) adds up
/// in power, as loud as it is at one frequency; what lies further apart in sones (a doubling every 10 phon, Stevens
/// 1936). The loudest 200 ms count, so that of two notes alike but for length the longer one is not softer.

#include <optional>
#include <span>
#include <vector>

namespace heft {

/// What a full-scale sine is taken to play at where nothing else is said, dB SPL (a moderate level; common
/// practice).
inline constexpr double kUsualListeningDb = 80.0, kLeastListeningDb = 50.0, kMostListeningDb = 100.0;

/// Power of the tones and bands from 20 Hz to 12.5 kHz, re a full-scale sine, of windows of 200 ms every 50 ms.
struct HeardBands {
  struct Band {
    double hz = 0.0, power = 0.0;
  };
  std::vector<std::vector<Band>> windows;
  /// Loudness level in phon, `gainDb` louder than it is; 0 where nothing passes the threshold.
  double phon(double listeningDb, double gainDb = 0.0) const;
  /// The gain that brings it to that loudness level, within `mostDb` either way; nothing for silence.
  std::optional<double> gainTo(double phon, double listeningDb, double mostDb) const;
  size_t bytes() const;
};

/// Of what of `mono` lies within 20 dB of its largest sample. Windows are tapered (Hann: what leaks from a low tone lies
/// 60 dB and more below it where it would be heard) and lie within that, so that a note's ends are not heard as tones of
/// their own; what is shorter has one as long as it is and counts for that part of 200 ms. A transform each.
HeardBands heardBands(std::span<const double> mono, double sampleRate);

}  // namespace heft
