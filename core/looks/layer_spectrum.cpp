#include "core/looks/layer_spectrum.h"

#include <algorithm>
#include <cmath>

#include "core/session/edits/sounds.h"
#include "core/session/pattern.h"

namespace heft {
namespace {

constexpr double kBehindStrikeSeconds = 0.015;

// After the strike.
std::vector<double> bodyOf(const Session& s, const Part& part, const Layer& layer, const SoundSteps& steps) {
  std::shared_ptr<const AudioBuffer> sound;
  double onset = 0.0;
  if (part.playsNotes()) {
    Part alone = part;
    alone.layers = {layer}, alone.finish = {}, alone.contour.on = false;
    alone.layers[0].mute = false;
    const Keyed note = steps.bassNote(alone, s.track, mainNote(part, s.track), 0.6);
    sound = note.sound, onset = note.leadSeconds();
  } else if (const auto ready = steps.kickLayer(layer, s.track)) {
    sound = {ready, &ready->sound}, onset = ready->onsetSeconds;
  }
  if (!sound || sound->frames() == 0) return {};
  auto mono = monoFold(*sound);
  const auto skip = static_cast<size_t>((onset + kBehindStrikeSeconds) * sound->sampleRate);
  mono.erase(mono.begin(), mono.begin() + static_cast<ptrdiff_t>(std::min(skip, mono.size())));
  if (mono.empty()) return {};
  return fineSpectrum(mono, sound->sampleRate);
}

// A third above its landing or note: anything lower is the sound itself.
double aboveFundamental(const Session& s, const Part& part, const Layer& layer, const SoundSteps& steps) {
  constexpr double kAbove = 1.35, kUsualHz = 80.0;
  const double a4 = s.track.notes.a4Hz;
  std::optional<double> hz;
  if (part.playsNotes()) {
    hz = hzFromMidi(mainNote(part, s.track) + layer.semitones, a4);
  } else {
    Part alone;
    alone.layers = {layer};
    if (const auto facts = steps.kickFacts(alone, s.track)) hz = facts->landing.noteHz();
  }
  return hz ? kAbove * *hz : kUsualHz;
}

// The bell that brings the peak down to its neighbours, judged on renders because a drive restores part of a
// cut.
LayerSpectrum::Cut cutFor(const Session& s, const Part& part, const Layer& layer, const StandingOut& peak,
                          double fromHz, const SoundSteps& steps) {
  constexpr int kTries = 4;
  constexpr double kEven = 0.5, kDeepest = 24.0;
  LayerSpectrum::Cut out{
      peak, {true, EqBand::Kind::Bell, std::round(peak.hz), -peak.overDb, peak.q}, peak.overDb};
  double gain = peak.overDb, best = 0.0, least = 1e9;
  for (int i = 0; i < kTries; ++i) {
    out.band.gainDb = -std::round(10.0 * std::clamp(gain, 0.5, kDeepest)) / 10.0;
    Layer cut = layer;
    if (!putEqBand(cut.chain, out.band)) return out;
    const double left = standsOver(bodyOf(s, part, cut, steps), peak.hz, fromHz);
    if (std::abs(left) < least) least = std::abs(left), best = out.band.gainDb, out.leftDb = left;
    if (std::abs(left) <= kEven) break;
    gain += left;
  }
  out.band.gainDb = best;
  out.band.q = std::round(10.0 * out.band.q) / 10.0;
  return out;
}

}  // namespace

LayerSpectrum layerSpectrum(const Session& s, int partId, int layerId, const Assets& assets, StepCache& cache,
                            const std::stop_token& stop) {
  LayerSpectrum out;
  const Part* part = s.part(partId);
  const Layer* layer = part ? part->layer(layerId) : nullptr;
  if (!layer) return out;
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  out.heardDb = bodyOf(s, *part, *layer, steps);
  if (out.heardDb.empty()) return out;
  Layer bare = *layer;
  for (Processor& p : bare.chain.list)
    if (Eq* eq = p.as<Eq>()) eq->on = false;
  if (bare.chain != layer->chain) out.withoutEqDb = bodyOf(s, *part, bare, steps);
  const double from = aboveFundamental(s, *part, *layer, steps);
  for (const StandingOut& peak : standingOut(out.heardDb, from)) {
    if (stop.stop_requested()) return out;
    out.cuts.push_back(cutFor(s, *part, *layer, peak, from, steps));
  }
  return out;
}

}  // namespace heft
