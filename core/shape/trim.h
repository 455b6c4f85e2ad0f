#pragma once
/// The length of a one-shot: its start and its end.

#include <optional>
#include <string>
#include <vector>

#include "core/result.h"
#include "core/sound/buffer.h"
#include "core/theory/names.h"

namespace heft {

enum class FadeShape { Smooth, Linear, EqualPower, Exponential, Drawn };
template <>
inline constexpr std::array kWordsOf<FadeShape> = {"smooth", "linear", "equal_power", "exponential", "drawn"};

/// A point of a drawn fade.
struct FadePoint {
  double at = 0.5;    ///< of the way from where the fade begins to the length, 0 to 1
  double gain = 0.5;  ///< an amplitude, 0 to 1
  bool operator==(const FadePoint&) const = default;
};
inline constexpr size_t kMostFadePoints = 16;

/// Range of a tail's length.
inline constexpr double kShortestTailMs = 20.0, kLongestTailMs = 10000.0;

/// The fade of a trimmed tail.
struct TailFade {
  FadeShape shape = FadeShape::Smooth;
  double from = 0.4;  ///< where it begins, as a fraction of the length, 0 to 0.95
  double bend =
      0.0;  ///< of a drawn one without points: -1 holds long and falls late, 0 is linear, 1 falls early
  std::vector<FadePoint> points = {};  ///< of a drawn one, ascending: straight through them from 1 to nothing
  bool operator==(const TailFade&) const = default;
  /// The gain at a part of the length, 1 up to `from`. Smooth (raised cosine, squared): over 40 dB down with
  /// any tail that decays at 1, nothing from 1.2 on. The others are nothing from 1 on: a line, a quarter of a
  /// cosine, a fall of 60 dB straight in decibels, a power of the line or
  /// straight through points.
  double gainAt(double share) const;
};

/// Fades the sound out by `lengthSeconds` after `onsetSeconds`: at least 40 dB down there. A shorter sound
/// stays unchanged.
AudioBuffer trimmedTail(const AudioBuffer& in, double onsetSeconds, std::optional<double> lengthSeconds,
                        const TailFade& fade = {});

/// Raised-cosine fade over the last `fadeSeconds`.
void fadeOut(AudioBuffer& sound, double fadeSeconds);

}  // namespace heft
