#include "core/duck/gain_files.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/sound/midi_file.h"
#include "core/sound/midi_reader.h"

namespace heft {
namespace {

constexpr double kThinnedDb = 0.1, kJudgedFromDb = -40.0;

double offDb(double gain, double written) {
  const double a = dbFromAmplitude(gain, kJudgedFromDb), b = dbFromAmplitude(written, kJudgedFromDb);
  return std::abs(std::max(a, kJudgedFromDb) - std::max(b, kJudgedFromDb));
}

}  // namespace

std::string gainCsv(std::span<const float> gain, double sampleRate) {
  std::string out = "time_s,gain_db\n";
  char row[64];
  auto add = [&](size_t frame) {
    std::snprintf(row, sizeof row, "%.6f,%.4f\n", static_cast<double>(frame) / sampleRate,
                  dbFromAmplitude(gain[frame], -kSilentDepthDb));
    out += row;
  };
  const double step = sampleRate / 1000.0;
  size_t written = 0;
  for (double at = 0.0; at < static_cast<double>(gain.size()); at += step)
    add(written = std::min(gain.size() - 1, static_cast<size_t>(std::lround(at))));
  if (!gain.empty() && written != gain.size() - 1) add(gain.size() - 1);
  return out;
}

AudioBuffer gainSignal(std::span<const float> gain, double sampleRate) {
  AudioBuffer out;
  out.sampleRate = sampleRate;
  out.channels = {{gain.begin(), gain.end()}};
  return out;
}

std::string triggersCsv(std::span<const Trigger> triggers, double sampleRate) {
  std::string out = "time_s,velocity\n";
  char row[64];
  for (const Trigger& t : triggers) {
    std::snprintf(row, sizeof row, "%.6f,%.4f\n", t.frame / sampleRate, t.velocity);
    out += row;
  }
  return out;
}

std::string triggersMidi(std::span<const Trigger> triggers, double sampleRate, double tempoBpm) {
  constexpr double kLength = 1.0 / 16.0;  // of a quarter
  constexpr int kNote = 36;
  const double perFrame = tempoBpm / 60.0 / sampleRate;
  MidiFile file;
  file.tempoBpm = tempoBpm;
  MidiTrack track;
  track.name = "Triggers";
  for (size_t i = 0; i < triggers.size(); ++i) {
    const double start = triggers[i].frame * perFrame;
    const double gap = i + 1 < triggers.size() ? triggers[i + 1].frame * perFrame - start : kLength;
    const int velocity = std::clamp(static_cast<int>(std::lround(127.0 * triggers[i].velocity)), 1, 127);
    track.notes.push_back({start, std::min(kLength, gap), 0, kNote, velocity});
  }
  file.tracks = {track};
  return midiBytes(file);
}

GainMidi gainMidi(std::span<const float> gain, double sampleRate, double tempoBpm, const GainMidiOptions& o) {
  MidiTrackWriter track(tempoBpm, o.channel);
  const int most = o.fine ? 16383 : 127;
  GainMidi out;
  int sent = -1;
  for (size_t i = 0; i < gain.size(); ++i) {
    const int value = static_cast<int>(std::lround(most * std::clamp(gain[i], 0.0f, 1.0f)));
    const double held = static_cast<double>(sent) / most;
    const bool last = i + 1 == gain.size();
    const bool due = last || value == most || offDb(gain[i], held) > kThinnedDb;
    if (sent < 0 || (value != sent && due)) {
      const double at = static_cast<double>(i) / sampleRate;
      track.controller(at, o.controller, o.fine ? value >> 7 : value);
      if (o.fine) track.controller(at, o.controller + 32, value & 127);
      sent = value, ++out.values;
    }
    out.errorDb = std::max(out.errorDb, offDb(gain[i], static_cast<double>(sent) / most));
  }
  out.bytes = track.file();
  return out;
}

}  // namespace heft
