#include "core/measure/events/material.h"

#include <algorithm>
#include <cmath>

#include "core/measure/pitch/steady_period.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kStepSeconds = 0.01, kHeardSeconds = 30.0, kApartSeconds = 0.1;
constexpr size_t kLookBack = 8, kStepsAWindow = 4;  // steps
constexpr double kRiseDb = 5.0, kUnderLoudestDb = 18.0;

// In windows of four steps: a low note's own cycles are no onsets.
std::vector<double> windowLevels(const AudioBuffer& sound) {
  const auto step = std::max<size_t>(1, static_cast<size_t>(kStepSeconds * sound.sampleRate));
  const auto most = static_cast<size_t>(kHeardSeconds * sound.sampleRate);
  std::vector<double> steps, out;
  for (size_t at = 0; at + step <= std::min(sound.frames(), most); at += step) {
    double power = 0.0;
    for (const auto& channel : sound.channels)
      for (size_t i = at; i < at + step; ++i) power += static_cast<double>(channel[i]) * channel[i];
    steps.push_back(power / static_cast<double>(step));
  }
  for (size_t i = 0; i < steps.size(); ++i) {
    double power = 0.0;
    for (size_t k = i; k < std::min(steps.size(), i + kStepsAWindow); ++k) power += steps[k] / kStepsAWindow;
    out.push_back(dbFromPower(power));
  }
  return out;
}

// Notes of a line that ring into each other leave no rise of the level.
bool hasSecondNote(const AudioBuffer& sound) {
  constexpr double kLeastSeconds = 1.0, kRate = 2000.0, kLowHz = 30.0;
  if (sound.seconds() < kLeastSeconds) return false;
  const auto mono = monoFold(sound);
  return stepsToAnotherNote(decimated(std::span<const double>(mono), sound.sampleRate, kRate), kLowHz);
}

}  // namespace

MaterialFacts recogniseMaterial(const AudioBuffer& sound) {
  MaterialFacts out;
  out.seconds = sound.seconds();
  const auto levels = windowLevels(sound);
  const double loudest = levels.empty() ? -200.0 : *std::max_element(levels.begin(), levels.end());
  if (loudest <= -120.0) return out;
  for (size_t i = 0; i < levels.size(); ++i) {
    if (levels[i] < loudest - kUnderLoudestDb) continue;
    double quietest = i < kLookBack ? -200.0 : levels[i];
    for (size_t back = 1; back <= std::min(kLookBack, i); ++back)
      quietest = std::min(quietest, levels[i - back]);
    const double at = static_cast<double>(i) * kStepSeconds;
    if (levels[i] - quietest >= kRiseDb && (out.onsets.empty() || at - out.onsets.back() >= kApartSeconds))
      out.onsets.push_back(at);
  }
  if (out.seconds >= kTrackSeconds)
    out.kind = Material::Track;
  else if (out.onsets.size() >= kLoopOnsets || out.seconds >= kLongestOneShotSeconds || hasSecondNote(sound))
    out.kind = Material::Loop;
  return out;
}

}  // namespace heft
