#pragma once
/// Functions of many values, several at a time: a tenth to a third of the time of one after the other. Each
/// value is within 4 units in the last place of what <cmath> gives.

#include <span>

namespace heft {

/// 20 log10 of each, at least `floorDb` (-300 or more), which 0 gives too. `db` is as long as `amplitudes`,
/// which are >= 0 and finite.
void dbFromAmplitudes(std::span<const float> amplitudes, double floorDb, std::span<double> db);
/// Each value in dB (-6000 to 6000) becomes an amplitude.
void amplitudesFromDb(std::span<double> values);
/// The highest magnitude; 0 for none. All are finite.
float peakOf(std::span<const float> samples);
/// Of angles in turns (a few thousand at most); both are as long as `turns`.
void sinesAndCosines(std::span<const double> turns, std::span<double> sines, std::span<double> cosines);

}  // namespace heft
