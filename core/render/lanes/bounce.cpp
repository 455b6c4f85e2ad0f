#include "core/render/lanes/bounce.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/loudness.h"
#include "core/render/sounds/layer_sum.h"
#include "core/session/pattern.h"

namespace heft {
namespace {

// A layer alone, ignoring mutes.
Part aloneOf(const Part& part, const Layer& layer) {
  Part out;
  out.plays = part.plays, out.role = part.role;
  out.layers = {layer};
  out.layers.front().mute = out.layers.front().solo = false;
  out.layers.front().levelDb = 0.0, out.layers.front().offsetMs = 0.0;
  return out;
}

double commonVelocity(const std::vector<const Layer*>& layers) {
  if (layers.empty()) return 1.0;
  const double first = velocityAmount(*layers.front());
  for (const Layer* l : layers)
    if (velocityAmount(*l) != first) return 1.0;
  return first;
}

constexpr double kFadeInMs = 5.0;

struct Made {
  AudioBuffer sound;
  double onsetMs = 0.0;
  std::optional<double> root;
  double leadMs = 0.0;  ///< of a note: sound that starts before it
};

std::optional<Made> made(const Part& part, const Track& track, const SoundSteps& steps, double longestSeconds) {
  if (!part.playsNotes()) {
    const auto ready = steps.kick(part, track);
    if (!ready || ready->sound.frames() == 0) return std::nullopt;
    return Made{ready->sound, 1000.0 * ready->onsetSeconds, std::nullopt};
  }
  const double root = mainNote(part, track);
  const Keyed note = steps.bassNote(part, track, root, std::max(2.0, longestSeconds));
  if (!note.sound || note.sound->frames() == 0) return std::nullopt;
  return Made{*note.sound, 0.0, root, 1000.0 * note.leadSeconds()};
}

Layer recordedAs(const Made& made, const AssetRef& file, int id, double velocityToLevel) {
  Layer out;
  out.id = id;
  Recorded recorded{file};
  recorded.onsetMs = made.onsetMs;
  recorded.rootMidi = made.root;
  recorded.velocityToLevel = velocityToLevel;
  out.what = recorded;
  out.offsetMs = -made.leadMs;
  return out;
}

// Cuts pre-ringing that is longer than an offset can express: the far end of a linear-phase EQ.
void cutLead(Made& made, double offsetMs) {
  const double tooEarlyMs = made.leadMs - (offsetMs + kMostOffsetMs);
  const double perMs = made.sound.sampleRate / 1000.0;
  const auto frames = static_cast<std::ptrdiff_t>(std::ceil(std::max(0.0, tooEarlyMs) * perMs));
  if (frames == 0 || made.sound.frames() <= static_cast<size_t>(frames)) return;
  made.leadMs -= static_cast<double>(frames) / perMs;
  const auto fade = static_cast<size_t>(std::max(0.0, std::min(kFadeInMs, made.leadMs)) * perMs);
  for (auto& channel : made.sound.channels) {
    channel.erase(channel.begin(), channel.begin() + frames);
    for (size_t i = 0; i < std::min(fade, channel.size()); ++i)
      channel[i] *= static_cast<float>(i) / static_cast<float>(fade);
  }
}

// Raises the sound to the true peak set for one-shots, as far as the layer's level can compensate, so that
// the loudness in the loop stays. Returns the gain in dB.
double raisedToPeak(AudioBuffer& sound, double levelDb, const ExportList& exports) {
  const auto wanted = exports.oneShotPeakDb ? gainToPeakDb(sound, *exports.oneShotPeakDb) : std::nullopt;
  if (!wanted) return 0.0;
  const double gainDb = std::clamp(*wanted, levelDb - kMostLevelDb, levelDb - kLeastLevelDb);
  const auto gain = static_cast<float>(amplitudeFromDb(gainDb));
  for (auto& channel : sound.channels)
    for (float& x : channel) x *= gain;
  return gainDb;
}

}  // namespace

Result<Bounce> bounced(const Session& s, const Assets& assets, int partId, std::optional<int> layerId,
                       StepCache& cache) {
  const Part* part = s.part(partId);
  const Layer* layer = part && layerId ? part->layer(*layerId) : nullptr;
  if (!part || (layerId && !layer)) return badUsage("there is nothing to bounce");
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  Part heard = layer ? aloneOf(*part, *layer) : *part;
  if (layer) heard.notes = part->notes;
  heard.contour.on = false;  // it affects the bounce as it did the layers
  if (part->finishOver == FinishOver::Lane) heard.finish = {};
  auto sound = made(heard, s.track, steps, 60.0 * s.track.loopQuarters() / s.track.tempoBpm);
  if (!sound) return badUsage(part->title() + " makes no sound that could be bounced");
  if (part->playsNotes()) cutLead(*sound, layer ? layer->offsetMs : 0.0);
  const double levelDb = layer ? layer->levelDb : 0.0,
               raisedDb = raisedToPeak(sound->sound, levelDb, s.exports);
  auto bytes = encodeSound(sound->sound, SampleFormat::WavFloat,
                           sound->root ? std::optional(RootNote{*sound->root}) : std::nullopt);
  if (!bytes) return Fail(bytes.error());
  const std::string title = layer ? layer->title() : part->title();
  sound->sound = {};
  Layer fresh = recordedAs(*sound, {}, layer ? layer->id : freshLayerId(*part),
                           layer ? velocityAmount(*layer) : commonVelocity(heardLayers(part->layers)));
  fresh.name = title + " bounced";
  fresh.levelDb = levelDb - raisedDb;
  if (layer) {
    fresh.offsetMs += layer->offsetMs;
    fresh.betweenSamples = layer->betweenSamples;
    fresh.mute = layer->mute, fresh.solo = layer->solo;
  }
  const bool finished = !layer && part->finishOver == FinishOver::Hits;
  auto edit = [=, id = partId](const AssetRef& file) {
    Layer placed = fresh;
    placed.recorded()->asset = file;
    return onPart("bounce " + title, id, [=](Part& p) {
      if (!layerId) {
        p.layers = {placed};
        if (finished) p.finish = {};
        for (Hit& h : p.hits) h.without.clear();
        for (Note& n : p.notes) n.without.clear();
      } else if (Layer* l = p.layer(*layerId)) {
        *l = placed;
      }
    });
  };
  return Bounce{title + " bounced.wav", std::move(*bytes), edit};
}

}  // namespace heft
