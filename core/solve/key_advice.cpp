#include "core/solve/key_advice.h"

#include <cmath>
#include <numbers>

#include "core/measure/levels/listening_places.h"
#include "core/render/cache/until_stopped.h"

namespace heft {
namespace {

std::vector<double> sineOf(double hz, double rate) {
  constexpr double kSeconds = 0.6, kAmplitude = 0.5;
  std::vector<double> out(static_cast<size_t>(kSeconds * rate));
  for (size_t i = 0; i < out.size(); ++i)
    out[i] = kAmplitude * std::sin(2.0 * std::numbers::pi * hz * static_cast<double>(i) / rate);
  return out;
}

HeardBands bandsAt(const Session& s, const SoundSteps& steps, int midi, StepCache& cache) {
  const Keyed note = s.bassLayer() ? steps.bassNote(s.bass(), s.track, midi) : Keyed{};
  if (!note.sound || !(peakOf(*note.sound) > 0.0f))
    return heardBands(sineOf(hzFromMidi(midi, s.track.notes.a4Hz), s.track.sampleRate), s.track.sampleRate);
  return *cache.get<HeardBands>(
      KeyMaker("heard bass 1").add(note.key).key(),
      [&] { return heardBands(monoFold(*note.sound), note.sound->sampleRate); },
      [](const HeardBands& b) { return b.bytes(); });
}

}  // namespace

Result<std::vector<KeyAdvice>> keyAdvice(const Session& s, const Assets& assets, StepCache& cache,
                                         const std::stop_token& stop) {
  if (!cache.endsBy(stop))
    return untilStopped(cache, stop, [&](StepCache& mine) { return keyAdvice(s, assets, mine, stop); });
  constexpr int kFifth = 7;
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  const double level = s.track.listening.fullScaleDb;
  std::vector<KeyAdvice> out;
  for (int up = 0; up < 12; ++up) {
    if (stop.stop_requested()) return cancelled();
    KeyAdvice advice;
    advice.key = s.track.key;
    advice.key.tonic = (s.track.key.tonic + up) % 12;
    Key fifth = advice.key;
    fifth.tonic = (advice.key.tonic + kFifth) % 12;
    advice.tonicMidi = lowTonic(advice.key), advice.fifthMidi = lowTonic(fifth);
    const HeardBands tonic = bandsAt(s, steps, advice.tonicMidi, cache);
    advice.tonicPhon = tonic.phon(level);
    advice.tonicLaptopPhon = heardThere(tonic, Place::Laptop).phon(level);
    advice.fifthPhon = bandsAt(s, steps, advice.fifthMidi, cache).phon(level);
    if (const Layer* bass = s.bassLayer(); bass && bass->recorded())
      advice.shiftSemitones = steps.bassShift(*bass, s.track, advice.tonicMidi);
    out.push_back(advice);
  }
  return out;
}

}  // namespace heft
