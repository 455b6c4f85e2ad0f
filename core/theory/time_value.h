#pragma once
/// Durations as people of the trade write them: milliseconds or note lengths.

#include <string>
#include <string_view>

#include "core/result.h"

namespace heft {

/// A duration that is either fixed or follows the tempo.
struct TimeValue {
  enum class Feel { Straight, Dotted, Triplet };

  double fixedMs = 0.0;  ///< used where denominator is 0
  int numerator = 0;     ///< of a whole note
  int denominator = 0;   ///< 0: fixed milliseconds; else a power of two to 256
  Feel feel = Feel::Straight;
  bool operator==(const TimeValue&) const = default;

  static TimeValue milliseconds(double ms) { return {ms, 0, 0, Feel::Straight}; }
  static TimeValue note(int numerator, int denominator, Feel feel = Feel::Straight) {
    return {0.0, numerator, denominator, feel};
  }
  bool isNote() const { return denominator != 0; }
  /// Quarter notes; only for note lengths.
  double quarters() const;
  /// Milliseconds at a tempo in quarter notes a minute (> 0).
  double toMs(double tempoBpm) const;
  /// "1/16", "1/8.", "1/8t", "125 ms": to a tenth, under 10 ms to a hundredth.
  std::string text() const;
  /// Likewise with all digits, so that reading it gives the same value.
  std::string exactText() const;
};

/// Reads "1/16", "1/8." (dotted), "1/8t" (triplet), "125 ms", "0.125 s" or a bare number of milliseconds.
/// 0 to 600 s. BadUsage for anything else.
Result<TimeValue> parseTime(std::string_view text);

inline constexpr double kLeastTempo = 40, kMostTempo = 240;  ///< quarter notes a minute
/// Reads a tempo in BPM, 40 to 240 ("122", "122.0 BPM").
Result<double> parseTempo(std::string_view text);

}  // namespace heft
