#pragma once
/// The low-end profile: power in bands and along a 1/24-octave curve from 20 to 500 Hz, its side signal, and
/// its crest.
///
/// Method: mid and side are decimated to about 3 kHz, then power spectra of Hann windows at three quarters
/// overlap are averaged so that every sample counts the same; short sounds and loops are transformed whole.
/// Band power adds up fractional bins. Mid-bands and edges of the curve after IEC 61260-1:2014 (base-ten
/// octaves, reference 1 kHz).

#include <array>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "core/result.h"
#include "core/sound/buffer.h"

namespace heft {

struct Band {
  double lowHz, highHz;
  bool operator==(const Band&) const = default;
};
/// The bands that Compare speaks of.
inline constexpr std::array<Band, 6> kBands = {
    {{20, 40}, {40, 60}, {60, 90}, {90, 120}, {120, 180}, {180, 250}}};

/// Mid-band frequencies of the 1/24-octave bands between 20 and 500 Hz.
const std::vector<double>& profileHz();

struct LowEnd {
  double totalPower = 0.0;               ///< mean square, summed over channels (mono counts as two)
  std::array<double, 6> bandPower{};     ///< the same in each of kBands
  std::vector<double> curveDb;           ///< power in each 1/24 octave re total power; one per profileHz()
  std::optional<double> sideDbBelow120;  ///< side re mid, 20 to 120 Hz; nothing for one channel
  double crestLowDb = 0.0;               ///< peak over RMS of the mid signal below 120 Hz
  /// Power of mid and of side (empty for one channel) summed from 20 Hz up to the upper edge of each of
  /// profileHz().
  std::vector<double> midBelow, sideBelow;

  /// 10 log10(band power / total power), floor -120.
  double bandDb(size_t band) const { return bandDb(kBands[band]); }
  double bandDb(const Band& band) const;
  /// Power in any band within 20 to 500 Hz, as of bandPower; straight between the sums' edges.
  double powerIn(const Band& band) const;
  /// Side re mid from 20 Hz up to a frequency, at most 500; nothing for one channel.
  std::optional<double> sideBelowDb(double hz) const;
};

/// Input of a profile: mid and side (empty for one channel) at about kLowEndRate, and the mean square of the
/// whole, summed over channels (mono counts as two).
inline constexpr double kLowEndRate = 3000.0;
struct LowEndParts {
  std::vector<double> mid, side;
  double rate = 1.0, power = 0.0;
  bool wraps = false;  ///< a loop: its end meets its start
};
LowEnd lowEndOf(const LowEndParts& parts);
LowEndParts lowEndPartsOf(const AudioBuffer& buffer, bool wraps = false);

/// The same of a long sound, from stretches that are each measured alone: an edit renews few of them. Windows
/// of a loop go on over its end.
struct LowEndStretch {
  std::vector<double> mid, side;  ///< power of the windows that begin in it, added up; no side for one channel
  double peak = 0.0, energy = 0.0;  ///< of its own samples of the mid signal, below 120 Hz
};
class LowEndStretches {
 public:
  /// `samples` at `rate` in all.
  LowEndStretches(size_t samples, double rate, bool wraps);
  size_t count() const;
  /// What a stretch reads: from a sample to before another, either beyond the sound's ends.
  struct Reads {
    int64_t from = 0, to = 0;
  };
  Reads reads(size_t stretch) const;
  /// Of what it reads; `side` empty for one channel.
  LowEndStretch measured(size_t stretch, std::span<const double> mid, std::span<const double> side) const;
  /// `power`: the mean square of the whole, as of LowEndParts.
  LowEnd together(const std::vector<std::shared_ptr<const LowEndStretch>>& all, double power) const;

 private:
  int64_t firstWindow() const;
  int64_t samples_;
  double rate_;
  bool wraps_;
  int64_t size_ = 1, hop_ = 1;  ///< of windows
};

/// `wraps`: the buffer is a loop and its end meets its start.
LowEnd measureLowEnd(const AudioBuffer& buffer, bool wraps = false);

/// One finished programme as Compare sees it.
struct ProgrammeFacts {
  LowEnd low;
  std::optional<double> integratedLufs;
  double truePeakDbtp = -200.0;
  /// Level of a band re the programme's loudness: dB of its power minus LUFS; nothing without a loudness.
  std::optional<double> bandReLufs(const Band& band) const;
};
/// A loop as the loudness gate wants it: repeated until it lasts three seconds.
AudioBuffer repeatedForTheGate(AudioBuffer loop);
/// A loop (`wraps`) is repeated for the loudness gate until it lasts three seconds. See measureLoudness for the
/// peak.
Result<ProgrammeFacts> measureProgramme(const AudioBuffer& buffer, bool wraps = false,
                                        bool withTruePeak = true);

}  // namespace heft
