#pragma once
/// How a mix sounds elsewhere: small speakers, a car, headphones, quietly. Minimum-phase filters of second
/// order (Audio EQ Cookbook), so that one list serves the ear and the figures.

#include <array>
#include <string>
#include <vector>

#include "core/measure/levels/heard_loudness.h"
#include "core/sound/filter.h"

namespace heft {

enum class Place { Phone, Laptop, Radio, Car, Headphones };
inline constexpr std::array kAllPlaces = {Place::Phone, Place::Laptop, Place::Radio, Place::Car,
                                          Place::Headphones};

/// "phone", "kitchen radio".
const char* placeWord(Place place);
/// Where its curve comes from, in a sentence.
const char* placeSource(Place place);
/// One speaker or one channel: a mono sum is heard.
bool playsMono(Place place);

/// Its sections at a sample rate.
std::vector<Biquad::Coefficients> placeFilters(Place place, double sampleRate);
/// Its response in dB at a frequency, re its middle.
double placeDb(Place place, double hz);
/// A sound as that place leaves it.
HeardBands heardThere(HeardBands bands, Place place);

/// A mix balanced where a full-scale sine plays at `usualDb` SPL, heard at `quietDb`: the change of balance
/// alone, re 1 kHz, dB. For tones of a programme 14 dB under full scale (ISO 226:2003).
double quietDb(double hz, double usualDb, double quietDb);
/// Shelves fitted to quietDb() by least squares: within 1.1 dB from 25 Hz to 8 kHz.
std::vector<Biquad::Coefficients> quietFilters(double usualDb, double quietDb, double sampleRate);

}  // namespace heft
