// The kick: its layers, and their sum at a hit.

#include <algorithm>
#include <cmath>

#include "core/render/sounds/field_keys.h"
#include "core/render/sounds/layer_sum.h"
#include "core/render/sounds/sounds.h"
#include "core/shape/trim.h"
#include "core/sound/interpolate.h"
#include "core/tune/path_edit.h"

namespace heft {
namespace {

size_t sizeOfReady(const ReadyKick& k) {
  return bytesOf(k.sound) + 64;
}

// Inputs of a layer's tuning, or of its voice, besides its source.
void addPitched(KeyMaker& maker, const Layer& l, const Track& track, double velocity) {
  maker.add(l.semitones).add(track.notes.a4Hz);
  if (const KickVoice* voice = l.kickVoice()) {
    addFields(maker, *voice, track.tempoBpm);
    maker.add(voice->velocityToLength > 0.0 ? velocity : 1.0);
  } else if (const Recorded* r = l.recorded()) {
    maker.add(r->targetMidi.value_or(-1.0)).add(r->method).add(r->strikeMs).add(bandKey(r->band));
    maker.add(r->strikeSemitones).add(r->flatten);
    if (r->onsetMs) maker.add(*r->onsetMs);
  }
}

ReadyKick tuned(const Recorded& layer, const Track& track, const AudioBuffer& recorded,
                const SoundFacts& found) {
  ReadyKick out;
  // Path edits first, then a new measurement: tuning uses the resting pitch of the edited path.
  const PathEdit edit{layer.strikeSemitones, layer.strikeMs, layer.flatten};
  const AudioBuffer source = pathEdited(recorded, found, edit);
  LandingOptions band = layer.band;
  // A hand-set landing time has moved by now; its pitch does not change with the edit.
  if (edit.works() && band.byHand()) band.atHz = found.landing.hz, band.atMs.reset();
  SoundFacts measured = edit.works() ? measureSound(source, band) : found;
  if (layer.onsetMs) measured.onsetSeconds = *layer.onsetMs / 1000.0;
  out.sound = source;
  out.band = measured.band;
  if (layer.targetMidi) {
    auto landed = retunedToLand(source, measured, hzFromMidi(*layer.targetMidi, track.notes.a4Hz),
                                Retune{layer.method, 0.0, layer.strikeMs});
    if (landed) {
      out.sound = std::move(landed->result.sound);
      out.semitones = landed->semitones;
      out.band = bandAfter(measured, Retune{layer.method, landed->semitones, layer.strikeMs});
      out.bodyGainDb = landed->result.bodyGainDb;
    } else {
      out.problem = landed.error().reason;
    }
  }
  const bool speeds = layer.method == TuneMethod::Varispeed;
  out.onsetSeconds = measured.onsetSeconds.value_or(0.0) / (speeds ? std::exp2(out.semitones / 12.0) : 1.0);
  return out;
}

void shiftBySpeed(ReadyKick& kick, double semitones) {
  if (semitones == 0.0) return;
  const double speed = std::exp2(semitones / 12.0);
  kick.sound = playedFaster(kick.sound, speed);
  kick.onsetSeconds /= speed;
  kick.semitones += semitones;
  const LandingOptions usual;
  const bool chosen = kick.band.lowHz != usual.lowHz || kick.band.highHz != usual.highHz;
  kick.band = bandFaster(kick.band, speed);
  if (!chosen) kick.band.lowHz = usual.lowHz, kick.band.highHz = std::max(usual.highHz, kick.band.highHz);
}

// Measured before any trim and without resting layers: a trim shortens a sound but keeps its pitch.
Part untrimmed(Part part) {
  for (Layer& l : part.layers)
    if (Recorded* r = l.recorded()) r->length.reset();
  return part;
}

bool isTrimmed(const Part& part) {
  return std::any_of(part.layers.begin(), part.layers.end(),
                     [](const Layer& l) { return l.recorded() && l.recorded()->length; });
}

// A recording heard alone and shifted as a whole.
const Layer* shiftedAlone(const Part& part) {
  const auto heard = heardLayers(part.layers);
  const Recorded* r = heard.size() == 1 ? heard.front()->recorded() : nullptr;
  if (!r || r->split.side != Side::Whole || r->flatten != 0.0 || r->strikeSemitones != 0.0) return nullptr;
  return r->targetMidi || heard.front()->semitones != 0.0 ? heard.front() : nullptr;
}

Part unshifted(Part part, int layer) {
  Layer& l = *part.layer(layer);
  l.semitones = 0.0;
  l.recorded()->targetMidi.reset();
  return part;
}

bool isPlain(const Part& part, const Layer& layer) {
  auto works = [](const Chain& c) {
    return c.on && std::any_of(c.list.begin(), c.list.end(), [](const Processor& p) { return p.works(); });
  };
  return !works(layer.chain) && !works(part.finish) && layer.shape == decltype(layer.shape)();
}

// A shift moves a sound's note by exactly that much and neither finds nor loses one: measuring a short or
// gliding sound at another speed varies by some tens of cents, though it sounds the same. Beyond that the
// processors moved the note, and the measurement counts.
void carryNote(Landing& found, const Landing& before, double semitones, bool plain) {
  constexpr double kSameNoteCents = 60.0;
  const auto was = before.noteHz(), is = found.noteHz();
  if (!was) return;
  const double ratio = std::exp2(semitones / 12.0);
  if (is && !plain && std::abs(1200.0 * std::log2(*is / (*was * ratio))) > kSameNoteCents) return;
  auto moved = [ratio](const std::optional<double>& hz) {
    return hz ? std::optional(*hz * ratio) : std::nullopt;
  };
  found.hz = moved(before.hz), found.heardHz = moved(before.heardHz);
  found.confidence = before.confidence, found.heardConfidence = before.heardConfidence;
  found.slideCents = before.slideCents, found.reason = before.reason;
}

}  // namespace

std::shared_ptr<const ReadyKick> SoundSteps::kickLayer(const Layer& layer, const Track& track, double velocity,
                                                       StepKey* keyOut) const {
  KeyMaker pitchedMaker("pitched kick layer 2");
  Keyed from;
  std::shared_ptr<const SoundFacts> measured;
  const Recorded* recorded = layer.recorded();
  if (!recorded && !layer.kickVoice()) return nullptr;
  if (recorded) {
    from = source(recorded->asset);
    measured = facts(*recorded);
    if (!from.sound || !measured) return nullptr;
    pitchedMaker.add(from.key);
  }
  pitchedMaker.add(rate_);
  addPitched(pitchedMaker, layer, track, velocity);
  KeyMaker maker("kick layer 3");
  maker.add(pitchedMaker.key());
  maker.add(recorded && recorded->length ? recorded->length->toMs(track.tempoBpm) : -1.0);
  const TailFade fade = recorded ? recorded->fade : TailFade();
  if (recorded && recorded->length && fade != TailFade()) addFields(maker, fade, track.tempoBpm);
  const SoundSide side = recorded ? recorded->split : SoundSide();
  if (side.side != Side::Whole) maker.add(side.side).add(side.atMs).add(side.joinMs);
  const ReadyChain chain = ready(layer.chain);
  addShape(maker, layer, chain, track.tempoBpm);
  const StepKey key = maker.key();
  if (keyOut) *keyOut = key;
  return cache_.get<ReadyKick>(
      key,
      [&] {
        // While a layer is shaped its tuning stays.
        ReadyKick out = *cache_.get<ReadyKick>(
            pitchedMaker.key(),
            [&] {
              ReadyKick pitched;
              if (recorded)
                pitched = tuned(*recorded, track, *from.sound, *measured);
              else
                pitched.sound =
                    renderKick(*layer.kickVoice(), track.tempoBpm, track.notes.a4Hz, rate_, velocity);
              shiftBySpeed(pitched, layer.semitones);
              return pitched;
            },
            sizeOfReady);
        if (side.side != Side::Whole)
          out.sound = sideOf(out.sound, side.side, out.onsetSeconds + side.atMs / 1000.0, side.joinMs / 1000.0);
        if (recorded && recorded->length)
          out.sound =
              trimmedTail(out.sound, out.onsetSeconds, recorded->length->toMs(track.tempoBpm) / 1000.0, fade);
        shapeLayer(out.sound, layer, out.onsetSeconds, chain);
        // Pre-ringing delays a hand-set landing time.
        if (out.band.atMs) *out.band.atMs += 1000.0 * static_cast<double>(leadFrames(chain)) / rate_;
        return out;
      },
      sizeOfReady);
}

HitSound SoundSteps::kickHit(const Part& part, const Track& track, const HitAsk& ask) const {
  struct Heard {
    const Layer* layer;
    std::shared_ptr<const ReadyKick> ready;
    double gain;
  };
  std::vector<Heard> heard;
  HitSound out;
  KeyMaker maker("kick hit 2");
  bool alike = true;
  std::vector<StepKey> keys;
  for (const Layer* layer : layersAt(part.layers, ask.without)) {
    StepKey key;
    auto ready = kickLayer(*layer, track, ask.velocity, &key);
    if (!ready || ready->sound.frames() == 0) continue;
    heard.push_back({layer, std::move(ready), velocityGain(ask.velocity, velocityAmount(*layer))});
    keys.push_back(key);
    alike = alike && heard.back().gain == heard.front().gain;
  }
  if (heard.empty()) return out;
  if (alike) {
    // The velocity scaling that all layers share is left to placing, so that one sound serves all hits.
    out.gain = heard.front().gain;
    for (Heard& h : heard) h.gain = 1.0;
  }
  double lead = 0.0;
  for (const Heard& h : heard) lead = std::max(lead, h.ready->onsetSeconds - h.layer->offsetMs / 1000.0);
  for (size_t i = 0; i < heard.size(); ++i) {
    heard[i].gain *= amplitudeFromDb(heard[i].layer->levelDb);
    maker.add(keys[i]).add(heard[i].gain).add(heard[i].layer->offsetMs);
  }
  // A layer with a sub-sample offset keeps it against the others.
  const bool between =
      std::any_of(heard.begin(), heard.end(), [](const Heard& h) { return h.layer->betweenSamples; });
  if (between) maker.add(std::string("between samples"));
  const ReadyChain finish = ready(part.finish);
  addChain(maker, finish);
  out.key = maker.key();
  out.ready = cache_.get<ReadyKick>(
      out.key,
      [&] {
        const ReadyKick& first = *heard.front().ready;
        ReadyKick sum{{}, first.semitones, first.band, lead, first.bodyGainDb, first.problem};
        // A hand-set landing time moves with the layer's delay in the sum.
        if (sum.band.atMs)
          *sum.band.atMs += 1000.0 * (lead - first.onsetSeconds) + heard.front().layer->offsetMs;
        std::vector<LaidSound> laid;
        for (const Heard& h : heard) {
          const double at = lead - h.ready->onsetSeconds + h.layer->offsetMs / 1000.0;
          laid.push_back({&h.ready->sound, 0, h.gain});
          layAt(laid.back(), at * rate_, between);
        }
        sum.sound = laidOver(laid, rate_);
        sum.onsetSeconds = applyChain(sum.sound, finish, lead);
        if (sum.band.atMs) *sum.band.atMs += 1000.0 * (sum.onsetSeconds - lead);
        return sum;
      },
      sizeOfReady);
  return out;
}

std::shared_ptr<const ReadyKick> SoundSteps::kick(const Part& part, const Track& track, StepKey* key) const {
  Part all = part;
  if (heardLayers(part.layers).empty())
    for (Layer& l : all.layers) l.mute = l.solo = false;
  const HitSound hit = kickHit(all, track);
  if (key) *key = hit.key;
  return hit.ready;
}

std::shared_ptr<const SoundFacts> SoundSteps::kickFacts(const Part& part, const Track& track) const {
  StepKey key;
  const auto ready = kick(part, track, &key);
  if (!ready) return nullptr;
  const LandingOptions& band = ready->band;
  const auto longer = isTrimmed(part) ? kickFacts(untrimmed(part), track) : nullptr;
  const Layer* moved = longer ? nullptr : shiftedAlone(part);
  const auto before = moved ? kickFacts(unshifted(part, moved->id), track) : nullptr;
  return cache_.get<SoundFacts>(
      KeyMaker("kick facts 8").add(key).add(bandKey(band)).key(),
      [&] {
        SoundFacts found = measureSound(ready->sound, band);
        if (longer && longer->landing.noteHz())
          found.landing = keptUntil(longer->landing, found.durationSeconds, band);
        if (before) carryNote(found.landing, before->landing, ready->semitones, isPlain(part, *moved));
        return found;
      },
      bytesOfFacts);
}

std::optional<double> SoundSteps::kickBodySeconds(const Part& part, const Track& track) const {
  constexpr double kLeast = 0.03, kMost = 0.06;
  Part whole = untrimmed(part);
  for (Layer& l : whole.layers)
    if (KickVoice* voice = l.kickVoice())
      if (const TimeValue plain = KickVoice().length;
          voice->length.toMs(track.tempoBpm) < plain.toMs(track.tempoBpm))
        setKickLength(*voice, plain, track.tempoBpm, false);
  const auto found = kickFacts(whole, track);
  if (!found || !found->onsetSeconds) return std::nullopt;
  return std::clamp(0.5 * found->tailLowMs / 1000.0, kLeast, kMost);
}

std::shared_ptr<const SoundFacts> SoundSteps::kickSourceFacts(const Part& part, const Track& track) const {
  if (part.layers.empty()) return nullptr;
  const Layer& first = part.layers.front();
  if (const Recorded* r = first.recorded()) return facts(*r);
  Layer bare;
  bare.what = first.what;
  Part alone;
  alone.layers = {bare};
  return kickFacts(alone, track);
}

}  // namespace heft
