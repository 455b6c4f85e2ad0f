#include "core/study/layer_facts.h"

#include <algorithm>
#include <cmath>

#include "core/shape/eq.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kStrikeHz = 800.0, kLowHz = 120.0;

// For a sound whose beat is `leadSeconds` into it, before any level.
LayerFacts measured(const AudioBuffer& sound, double leadSeconds) {
  LayerFacts out;
  const double rate = sound.sampleRate;
  const auto mono = monoFold(sound);
  auto frame = [&](double seconds) {
    return std::min(mono.size(), static_cast<size_t>(std::max(0.0, (leadSeconds + seconds) * rate)));
  };
  AudioBuffer high(rate, 1, 0);
  high.channels[0].assign(mono.begin(), mono.begin() + static_cast<ptrdiff_t>(frame(0.05)));
  Eq eq;
  eq.lowCut = {true, kStrikeHz, 24};
  applyEq(high, eq);
  double peak = 0.0;
  for (size_t i = 0; i < std::min(high.frames(), frame(0.03)); ++i)
    peak = std::max<double>(peak, std::abs(high.channels[0][i]));
  // Where it first comes within 6 dB of its peak, which the ear takes as the hit.
  for (size_t i = 0; i < high.frames() && peak > 0.0; ++i)
    if (std::abs(high.channels[0][i]) >= 0.5 * peak) {
      out.strikeMs = (static_cast<double>(i) / rate - leadSeconds) * 1000.0;
      break;
    }
  out.strikeDb = dbFromAmplitude(peak, -120.0);
  out.peakDb = dbFromAmplitude(peakOf(sound), -120.0);
  const auto slow = decimated(std::span<const double>(mono), rate, 1000.0);
  const auto low = bandLimited(slow.samples, slow.sampleRate, 0.0, kLowHz);
  const auto from = std::min(low.size(), static_cast<size_t>((leadSeconds + 0.05) * slow.sampleRate));
  const auto to = std::min(low.size(), static_cast<size_t>((leadSeconds + 0.25) * slow.sampleRate));
  if (to > from)
    out.lowTailDb = dbFromPower(
        energyOf(std::span<const double>(low).subspan(from, to - from)) / (0.2 * slow.sampleRate), -120.0);
  out.low = measureLowEnd(sound), out.seconds = sound.seconds();
  return out;
}

LayerFacts factsOf(const Layer& layer, const AudioBuffer& sound, const StepKey& key, double lead,
                   StepCache& cache) {
  LayerFacts out = *cache.get<LayerFacts>(
      KeyMaker("layer facts 3").add(key).add(lead).key(), [&] { return measured(sound, lead); },
      [](const LayerFacts&) { return size_t{6000}; });
  out.id = layer.id;
  out.title = layer.title();
  out.strikeMs += layer.offsetMs;
  out.levelDb = layer.levelDb;
  out.strikeDb += layer.levelDb, out.lowTailDb += layer.levelDb, out.peakDb += layer.levelDb;
  return out;
}

// How far the strike peaks above the rest of the layer.
double strikeOver(const LayerFacts& f) {
  return f.strikeDb - std::max(f.lowTailDb, f.peakDb - 20.0);
}

// Switches its drives off; false where none was on.
bool takeDrivesOut(Layer& layer) {
  bool was = false;
  auto out = [&was](Drive& drive) { was = was || drive.on, drive.on = false; };
  if (layer.kickVoice()) out(layer.kickVoice()->drive);
  for (Processor& p : layer.chain.list)
    if (Drive* drive = p.as<Drive>(); drive && layer.chain.on) out(*drive);
  return was;
}

std::optional<LayerFacts> kickFactsOf(const Layer& layer, const Track& track, const SoundSteps& steps,
                                      StepCache& cache) {
  StepKey key;
  const auto ready = steps.kickLayer(layer, track, 1.0, &key);
  if (!ready || ready->sound.frames() == 0) return std::nullopt;
  LayerFacts out = factsOf(layer, ready->sound, key, ready->onsetSeconds, cache);
  if (const Recorded* recorded = layer.recorded()) {
    out.semitones = ready->semitones;
    if (recorded->split.side != Side::Whole) out.otherSide = recorded->split.otherLayer;
    out.pitchesStrike = recorded->method == TuneMethod::Varispeed || layer.semitones != 0.0;
  }
  return out;
}

// The largest shift of a recorded layer from its root over the line.
double furthestShift(const Layer& layer, const Part& part, const Track& track, const SoundSteps& steps) {
  double out = 0.0;
  for (const Note& n : part.notes) {
    if (n.startQuarters >= track.loopQuarters()) continue;
    const double shift = steps.bassShift(layer, track, n.midi);
    if (std::abs(shift) > std::abs(out)) out = shift;
  }
  return out;
}

std::vector<LayerFacts> ofHits(const Part& part, const Track& track, const SoundSteps& steps,
                               StepCache& cache) {
  std::vector<LayerFacts> out;
  for (const Layer* l : heardLayers(part.layers)) {
    auto facts = kickFactsOf(*l, track, steps, cache);
    if (!facts) continue;
    Layer clean = *l;
    if (takeDrivesOut(clean)) {
      if (const auto without = kickFactsOf(clean, track, steps, cache))
        facts->strikeLossDb = std::max(0.0, strikeOver(*without) - strikeOver(*facts));
    }
    out.push_back(*facts);
  }
  return out;
}

std::vector<LayerFacts> ofNotes(const Part& part, const Track& track, const SoundSteps& steps,
                                StepCache& cache) {
  std::vector<LayerFacts> out;
  const auto phrases = phrasesOf(part, track);
  if (phrases.empty()) return out;
  for (const Layer* l : heardLayers(part.layers)) {
    const Keyed sound = steps.bassLayer(*l, track, phrases.front().ask);
    if (!sound.sound || sound.sound->frames() == 0) continue;
    out.push_back(factsOf(*l, *sound.sound, sound.key, sound.leadSeconds(), cache));
    out.back().semitones = furthestShift(*l, part, track, steps);
  }
  return out;
}

}  // namespace

double LayerFacts::energyIn(const Band& band) const {
  return low.powerIn(band) * seconds * std::pow(amplitudeFromDb(levelDb), 2);
}

std::vector<LayerFacts> layerFacts(const Part& part, const Track& track, const SoundSteps& steps,
                                   StepCache& cache) {
  return part.playsNotes() ? ofNotes(part, track, steps, cache) : ofHits(part, track, steps, cache);
}

}  // namespace heft
