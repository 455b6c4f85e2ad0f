#pragma once
/// Onset, tail and levels of a single hit.

#include <optional>
#include <span>
#include <vector>

namespace heft {

/// Seconds at which the sound starts: the first crossing of -30 dB re its peak, traced back to where it left
/// the noise floor. Where the file starts with 30 ms or more of steady noise from which the sound jumps by 12
/// dB, that noise is skipped however loud; a swell or a quiet note before a loud one is not. nullopt for
/// silence (peak below -100 dBFS).
std::optional<double> findOnset(std::span<const double> mono, double sampleRate);

/// Sliding peak of |x| over `windowSeconds`, centred; same length.
std::vector<double> slidingPeak(std::span<const double> mono, double sampleRate, double windowSeconds);

/// Seconds from the onset until the envelope (sliding peak over `windowSeconds`, one period of the landing
/// pitch) is last above -40 dB re its peak.
double tailSeconds(std::span<const double> mono, double sampleRate, double onsetSeconds, double windowSeconds);

}  // namespace heft
