#include "core/tune/kit.h"

#include <cctype>
#include <cmath>
#include <filesystem>

#include "core/measure/levels/spectrum.h"
#include "core/shape/trim.h"
#include "core/theory/note.h"
#include "core/theory/text.h"
#include "core/tune/targets.h"

namespace heft {

int kitTarget(double landingMidi, const Key& key) {
  return easiestTarget(landingMidi, key).midi;
}

std::string nameWithNote(const std::string& path, const std::string& note) {
  std::string stem = std::filesystem::path(path).stem().string();
  // A note at its end belongs to the original.
  if (const auto space = stem.find_last_of(" _-"); space != std::string::npos && space > 0)
    if (const std::string last = stem.substr(space + 1);
        last.size() >= 2 && last[0] >= 'A' && last[0] <= 'G' && std::isdigit(last.back()) && parsePitch(last))
      stem = stem.substr(0, space);
  return stem + " " + note;
}

std::optional<double> Drum::landingMidi(double a4Hz) const {
  const auto hz = facts.landing.noteHz();
  return hz ? std::optional<double>(midiFromHz(*hz, a4Hz)) : std::nullopt;
}

double Drum::semitones(double a4Hz) const {
  const auto landing = landingMidi(a4Hz);
  return landing && targetMidi ? *targetMidi - *landing : 0.0;
}

void measureDrum(Drum& drum, const Key& key, double a4Hz) {
  drum.targetMidi.reset();
  drum.fault.clear();
  drum.facts = measureSound(*drum.sound, drum.band);
  if (const auto landing = drum.landingMidi(a4Hz))
    drum.targetMidi = kitTarget(*landing, key);
  else
    drum.fault = "has no landing to tune from (" + drum.facts.landing.reason + ")";
}

Drum readDrum(const std::string& path, const Key& key, const Retune& how, const LandingOptions& band,
              double a4Hz, const std::stop_token& stop) {
  Drum out;
  out.path = path, out.how = how, out.band = band;
  auto loaded = loadSound(path, stop);
  if (!loaded) {
    out.fault = loaded.error().reason;
    return out;
  }
  out.warnings = loaded->warnings;
  out.sound = loaded->sound;
  measureDrum(out, key, a4Hz);
  return out;
}

void setDrumLength(Drum& drum, const TimeValue& length, double tempoBpm) {
  const double ms = length.toMs(tempoBpm);
  if (ms >= drum.facts.tailMs)
    drum.length.reset();
  else
    drum.length = ms < kShortestTailMs ? TimeValue::milliseconds(kShortestTailMs) : length;
}

Result<Landed> tunedDrum(const Drum& drum, double a4Hz, double tempoBpm) {
  if (!drum.sound || !drum.targetMidi) return badUsage(drum.path + ": " + drum.fault);
  auto landed = retunedToLand(*drum.sound, drum.facts, hzFromMidi(*drum.targetMidi, a4Hz), drum.how);
  if (!landed || !drum.length) return landed;
  const bool speeds = drum.how.method == TuneMethod::Varispeed;
  const double onset =
      drum.facts.onsetSeconds.value_or(0.0) / (speeds ? std::exp2(landed->semitones / 12.0) : 1.0);
  landed->result.sound = trimmedTail(landed->result.sound, onset, drum.length->toMs(tempoBpm) / 1000.0);
  return landed;
}

DrumSpectra drumSpectra(const Drum& drum, double a4Hz, double tempoBpm) {
  const auto of = [](const AudioBuffer& sound) {
    const auto mono = monoFold(sound);
    return spectrumOf(std::vector<float>(mono.begin(), mono.end()), sound.sampleRate);
  };
  DrumSpectra out;
  if (!drum.sound) return out;
  out.recordedDb = of(*drum.sound);
  if (const auto tuned = tunedDrum(drum, a4Hz, tempoBpm)) out.tunedDb = of(tuned->result.sound);
  return out;
}

std::string doubtOf(const TunedDrum& tuned) {
  constexpr double kSureCents = 5.0;
  if (!tuned.afterHz) return "measured again it has no note that rests; listen to it";
  const double off = centsBetween(tuned.targetHz, *tuned.afterHz);
  if (std::abs(off) <= kSureCents) return {};
  return "measured again it lands " + formatNumber(std::abs(off), 0) + " cents " +
         (off > 0 ? "over" : "under") + " its target: its note does not rest; listen to it";
}

Result<TunedDrum> writeDrum(const Drum& drum, const std::string& folder, const NoteStyle& notes,
                            double tempoBpm) {
  const auto landed = tunedDrum(drum, notes.a4Hz, tempoBpm);
  if (!landed) return Fail(landed.error());
  const std::string name =
      nameWithNote(drum.path, noteName(static_cast<int>(std::lround(*drum.targetMidi)), notes));
  // Overwrites neither a drum still waiting nor any other existing file.
  TunedDrum out{freePath(folder, name, ".wav"), landed->afterHz, landed->semitones, landed->result.bodyGainDb,
                hzFromMidi(*drum.targetMidi, notes.a4Hz)};
  if (auto saved =
          saveSound(landed->result.sound, out.output, SampleFormat::WavFloat, RootNote{*drum.targetMidi});
      !saved)
    return Fail(saved.error());
  return out;
}

}  // namespace heft
