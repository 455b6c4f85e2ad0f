#include "core/library/row.h"

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "core/fault.h"
#include "core/measure/levels/spectrum.h"
#include "core/sound/audio_file.h"

namespace heft {
namespace {

constexpr double kMeasuredSeconds = 30.0;

}  // namespace

std::string LibraryRow::name() const {
  return std::filesystem::path(file.path).filename().string();
}

bool LibraryRow::wasAway() const {
  return fault.starts_with("cannot be opened");
}

namespace {

void measureInto(LibraryRow& row, const FileStamp& file) {
  auto loaded = loadSound(file.path);
  if (!loaded) {
    row.fault = loaded.error().reason;
    return;
  }
  AudioBuffer head = *loaded->sound;
  row.seconds = head.seconds();
  // Measures no more of a whole track than a drum could last.
  if (row.seconds > kMeasuredSeconds)
    for (auto& channel : head.channels) channel.resize(static_cast<size_t>(kMeasuredSeconds * head.sampleRate));
  const SoundFacts facts = measureSound(head);
  row.noteHz = facts.landing.noteHz();
  row.lands = !facts.landing.slides();
  row.confidence = row.lands ? facts.landing.confidence : facts.landing.heardConfidence;
  row.startHz = facts.landing.startHz;
  row.tailMs = facts.tailMs;
  row.peakDbfs = facts.peakDbfs, row.rmsDbfs = facts.rmsDbfs;
  const Balance balance = balanceOf(head);
  row.brightnessHz = balance.brightnessHz, row.weight = balance.weight;
}

}  // namespace

LibraryRow measureFile(const FileStamp& file) {
  LibraryRow row;
  row.file = file;
  try {
    measureInto(row, file);
  } catch (...) {
    row.fault = faultSentence();
  }
  return row;
}

}  // namespace heft
