#include "core/looks/layer_looks.h"

#include <algorithm>
#include <cmath>

#include "core/looks/layer_joint.h"
#include "core/measure/levels/levels.h"
#include "core/measure/levels/spectrum.h"
#include "core/render/sounds/phrases.h"
#include "core/session/versions.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kTailWindowSeconds = 0.018;  // as where no landing is known

struct Heard {
  std::shared_ptr<const AudioBuffer> sound;
  double onsetSeconds = 0.0;
};

Heard fromBeat(const Keyed& note) {
  return {note.sound, note.leadSeconds()};
}

// At a full hit, or at the part's first phrase.
Heard heardLayer(const Layer& layer, const Part& part, const Track& track, const SoundSteps& steps) {
  if (!part.playsNotes()) {
    const auto ready = steps.kickLayer(layer, track);
    return ready ? Heard{{ready, &ready->sound}, ready->onsetSeconds} : Heard();
  }
  const auto phrases = phrasesOf(part, track);
  return phrases.empty() ? Heard() : fromBeat(steps.bassLayer(layer, track, phrases.front().ask));
}

SoundLook lookOf(const Heard& heard, double fromSeconds, double gain) {
  const double rate = heard.sound->sampleRate;
  const auto& samples = louderChannel(*heard.sound);
  SoundLook out;
  out.sampleRate = rate;
  out.spectrum = spectrumOf(samples, rate, gain);
  for (int i = 0; i < static_cast<int>((kLookMs + kLookLeadMs) / 1000.0 * rate); ++i) {
    const auto at = std::llround((fromSeconds - kLookLeadMs / 1000.0) * rate) + i;
    const bool inside = at >= 0 && at < static_cast<int64_t>(samples.size());
    out.strike.push_back(inside ? static_cast<float>(gain) * samples[static_cast<size_t>(at)] : 0.0f);
  }
  return out;
}

std::optional<SoundLook> partLook(const Session& s, const Part& part, const SoundSteps& steps) {
  Heard heard;
  std::vector<std::string> figures;
  if (part.playsNotes()) {
    const auto phrases = phrasesOf(part, s.track);
    if (!phrases.empty()) heard = fromBeat(steps.bassPhrase(part, s.track, phrases.front().ask));
  } else if (auto ready = steps.kick(part, s.track)) {
    heard = {{ready, &ready->sound}, ready->onsetSeconds};
    if (const auto facts = steps.kickFacts(part, s.track)) {
      if (facts->landing.hz)
        figures.push_back("lands on " +
                          pitchText(midiFromHz(*facts->landing.hz, s.track.notes.a4Hz), s.track.notes));
      figures.push_back("tail " + fixedNumber(facts->tailMs, 0) + " ms");
    }
  }
  if (!heard.sound || heard.sound->frames() == 0) return std::nullopt;
  figures.push_back("peak " + fixedNumber(dbFromAmplitude(std::max(1e-9, peakOf(*heard.sound))), 1) + " dBFS");
  SoundLook out = lookOf(heard, heard.onsetSeconds, 1.0);
  out.figures = std::move(figures);
  return out;
}

LayerSound soundOf(const Layer& layer, const Part& part, const Track& track, const SoundSteps& steps,
                   const Assets& assets) {
  LayerSound out{part.id, layer.id, nullptr};
  out.asset = layer.asset().hash;
  if (part.playsNotes() && layer.recorded()) {
    out.sound = assets.sound(layer.asset());
    return out;
  }
  const Heard heard = heardLayer(layer, part, track, steps);
  out.sound = heard.sound, out.onsetSeconds = heard.onsetSeconds;
  return out;
}

LayerSound::Figures figuresOf(const LayerSound& of, const Layer& layer, const Part& part, const Track& track,
                              const SoundSteps& steps, StepCache& cache) {
  LayerSound::Figures out;
  out.joint = jointOf(part, layer, track, steps, cache);
  if (!part.playsNotes())
    out.tailMs =
        1000.0 * tailSeconds(monoFold(*of.sound), of.sound->sampleRate, of.onsetSeconds, kTailWindowSeconds);
  const bool strike = layer.recorded() && layer.recorded()->split.side == Side::Strike;
  if (const auto facts = layer.recorded() && !strike ? steps.facts(*layer.recorded()) : nullptr)
    out.recordedHz = facts->landing.noteHz();
  if (!part.playsNotes() && layer.recorded()) {
    Layer whole = layer;
    whole.recorded()->split = {};
    StepKey key;
    if (const auto ready = steps.kickLayer(whole, track, 1.0, &key))
      out.strikeEndMs = *cache.get<double>(
          KeyMaker("strike end 1").add(key).key(),
          [&] { return strikeEndMs(ready->sound, ready->onsetSeconds); },
          [](double) { return sizeof(double); });
  }
  return out;
}

}  // namespace

void keepFigures(std::vector<LayerSound>& layers, const std::vector<LayerSound>& before) {
  for (LayerSound& l : layers) {
    if (l.figures) continue;
    const auto same = std::find_if(before.begin(), before.end(), [&](const LayerSound& b) {
      return b.part == l.part && b.layer == l.layer && b.asset == l.asset;
    });
    if (same != before.end()) l.figures = same->figures;
  }
}

std::vector<LayerSound> layerSounds(const Session& s, const Assets& assets, StepCache& cache,
                                    bool withFigures) {
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  std::vector<LayerSound> out;
  for (const Part& part : s.parts)
    for (const Layer& layer : part.layers) {
      LayerSound one = soundOf(layer, part, s.track, steps, assets);
      if (withFigures && one.sound) one.figures = figuresOf(one, layer, part, s.track, steps, cache);
      out.push_back(std::move(one));
    }
  return out;
}

std::vector<SoundLook> layerLooks(const Session& s, int id, const Assets& assets, StepCache& cache) {
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  std::vector<SoundLook> out;
  const Part* part = s.part(id);
  if (!part) return out;
  for (const Layer* l : heardLayers(part->layers)) {
    const Heard heard = heardLayer(*l, *part, s.track, steps);
    if (!heard.sound || heard.sound->frames() == 0) continue;
    out.push_back(lookOf(heard, heard.onsetSeconds - l->offsetMs / 1000.0, amplitudeFromDb(l->levelDb)));
    out.back().id = l->id, out.back().name = l->title();
  }
  return out;
}

std::vector<SoundLook> versionLooks(const Session& s, int id, size_t version, const Assets& assets,
                                    StepCache& cache) {
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  std::vector<SoundLook> out;
  const Part* part = s.part(id);
  if (!part || version >= part->versions.all.size()) return out;
  Part other = *part;
  switchVersion(other, version);
  for (const auto& [of, place] :
       {std::pair(part, static_cast<size_t>(part->versions.now)), {static_cast<const Part*>(&other), version}})
    if (auto look = partLook(s, *of, steps)) {
      look->id = static_cast<int>(place), look->name = part->versions.all[place].name;
      out.push_back(std::move(*look));
    }
  if (out.size() == 2) {
    const double more = lowEnergyDb(out[0].spectrum) - lowEnergyDb(out[1].spectrum);
    out[more < 0.0].figures.push_back(fixedNumber(std::abs(more), 1) + " dB more below 120 Hz");
  }
  return out;
}

}  // namespace heft
