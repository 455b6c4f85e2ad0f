#include "core/library/row.h"

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "core/sound/audio_file.h"
#include "core/sound/fft.h"

namespace heft {
namespace {

constexpr double kListenSeconds = 2.0, kLowHz = 120.0, kMostSeconds = 30.0;

}  // namespace

std::string LibraryRow::name() const {
  return std::filesystem::path(file.path).filename().string();
}

Balance balanceOf(const AudioBuffer& sound) {
  const auto mono = monoFold(sound);
  const auto count = std::min(mono.size(), static_cast<size_t>(kListenSeconds * sound.sampleRate));
  Balance out;
  if (count == 0) return out;
  RealFft fft(sharedSize(count));
  std::fill(fft.time().begin(), fft.time().end(), 0.0);
  std::copy_n(mono.begin(), count, fft.time().begin());
  fft.forward();
  const double step = sound.sampleRate / static_cast<double>(fft.size());
  double all = 0.0, moment = 0.0, low = 0.0;
  for (size_t k = 1; k < fft.bins().size(); ++k) {
    const double power = std::norm(fft.bins()[k]), hz = step * static_cast<double>(k);
    all += power, moment += power * hz;
    if (hz < kLowHz) low += power;
  }
  if (all > 0.0) out = {moment / all, low / all};
  return out;
}

LibraryRow measureFile(const FileStamp& file) {
  LibraryRow row;
  row.file = file;
  auto loaded = loadSound(file.path);
  if (!loaded) {
    row.fault = loaded.error().reason;
    return row;
  }
  AudioBuffer head = *loaded->sound;
  row.seconds = head.seconds();
  // Of a whole track no more is measured than a drum could last.
  if (row.seconds > kMostSeconds)
    for (auto& channel : head.channels) channel.resize(static_cast<size_t>(kMostSeconds * head.sampleRate));
  const SoundFacts facts = measureSound(head);
  row.landingHz = facts.landing.hz;
  row.confidence = facts.landing.confidence;
  row.startHz = facts.landing.startHz;
  row.tailMs = facts.tailMs;
  row.peakDbfs = facts.peakDbfs, row.rmsDbfs = facts.rmsDbfs;
  const Balance balance = balanceOf(head);
  row.brightnessHz = balance.brightnessHz, row.weight = balance.weight;
  return row;
}

}  // namespace heft
