#pragma once
/// A section of a track, or a loop, as Compare sees it: its low-end profile over time, by note, its width,
/// and its low band for folding over the bar.

#include <array>
#include <optional>
#include <stop_token>
#include <vector>

#include "core/measure/levels/low_end.h"

namespace heft {

/// The 10th, 50th and 90th percentile of each 1/24-octave band over time, dB re the section's loudness,
/// smoothed as drawn. Blocks of 400 ms every 100 ms that pass the gates of ITU-R BS.1770-4. Empty without
/// such a block.
struct OverTime {
  std::vector<double> low, middle, high;  ///< one value a profileHz()
  bool empty() const { return middle.empty(); }
};

/// Power of each quarter of a semitone, 16 to 560 Hz, in dB re the section's loudness; nothing quieter than
/// -120.
struct ByNote {
  static constexpr int kLowestMidi = 12, kHighestMidi = 73, kPerSemitone = 4;
  std::vector<double> db;  ///< from kLowestMidi on, A4 = 440 Hz; empty without a loudness
  /// Power of the semitone about a pitch, dB, for any tuning of A4; -120 outside.
  double semitoneDb(double midi) const;
};

/// Both channels in sixth octaves (IEC 61260-1 mid-bands, base ten).
struct StereoWidth {
  struct Band {
    double hz = 0.0;
    double mid = 0.0, side = 0.0;  ///< mean squares
    double sideDb() const;         ///< side re mid; -120 to 120
    double lossDb() const;         ///< power of (L+R)/2 re the mean power of L and R: 0 to -120
  };
  std::vector<Band> bands;  ///< 20 Hz to 16 kHz, below 0.45 of the rate
  /// Whether a band holds a millionth of the whole's power: a quieter one has no width to judge.
  bool sounds(const Band& band) const;
  /// Side re mid from 20 Hz up to a frequency; nothing where nothing sounds there.
  std::optional<double> sideBelowDb(double hz) const;
  /// Highest frequency below which side is 20 dB or more under mid in every band that sounds: a band's upper
  /// edge. Nothing where the lowest such band is wider.
  std::optional<double> monoBelowHz() const;
};
inline constexpr double kMonoDb = -20.0;

struct SectionProfile {
  ProgrammeFacts facts;
  OverTime overTime;
  ByNote byNote;
  StereoWidth width;
  LowEndParts low;  ///< its mid and side at about kLowEndRate
  double seconds = 0.0;
  std::optional<double> rangeLu;  ///< EBU Tech 3342; not of a loop, nor under 10 s
};

/// The frames of a stretch in seconds, cut to the sound's own; empty where they do not overlap.
AudioBuffer stretchOf(const AudioBuffer& sound, double fromSeconds, double toSeconds);

/// `wraps`: a loop, whose end meets its start. Silence gives no loudness and empty curves. Errors: a rate
/// that libebur128 does not take; Cancelled. Cost: about 15 ms a second, mostly its true peak.
Result<SectionProfile> profileSection(const AudioBuffer& section, bool wraps = false,
                                      const std::stop_token& stop = {});

}  // namespace heft
