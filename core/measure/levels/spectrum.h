#pragma once
/// The whole spectrum of a single sound: by twelfths of an octave for pictures, and two figures of its balance.

#include <span>
#include <vector>

#include "core/sound/buffer.h"

namespace heft {

inline constexpr double kSpectrumLowHz = 20.0, kSpectrumHighHz = 16000.0;
inline constexpr int kSpectrumPerOctave = 12;

/// Mean power density of the first second in each band from 20 Hz up, dB; comparable between sounds. `gain`: an
/// amplitude.
std::vector<double> spectrumOf(std::span<const float> samples, double sampleRate, double gain = 1.0);
/// Centre of band `i`, Hz.
double spectrumHz(size_t i);
/// Energy below 120 Hz of what spectrumOf gives, dB.
double lowEnergyDb(const std::vector<double>& spectrum);

struct Balance {
  double brightnessHz = 0.0;  ///< centroid of the power spectrum
  double weight = 0.0;        ///< part of the energy below 120 Hz, 0 to 1
};
/// Of the first two seconds, channels folded.
Balance balanceOf(const AudioBuffer& sound);

}  // namespace heft
