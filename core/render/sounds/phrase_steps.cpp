// The bass: its layers over a phrase of tied notes, and their sum.

#include <algorithm>
#include <cmath>

#include "core/align/rotation.h"
#include "core/render/sounds/field_keys.h"
#include "core/render/sounds/layer_sum.h"
#include "core/render/sounds/sounds.h"
#include "core/shape/trim.h"
#include "core/sound/interpolate.h"
#include "core/sound/stretch.h"

namespace heft {
namespace {

constexpr double kNoteReleaseSeconds = 0.012;

void addPhrase(KeyMaker& maker, const Phrase& p) {
  maker.add(p.notes.size()).add(p.bend.size()).add(p.quarterSeconds).add(p.phaseDegrees);
  for (const PhraseNote& n : p.notes) {
    maker.add(n.start).add(n.length).add(n.midi).add(n.gain / p.notes.front().gain);
    if (n.dive.semitones > 0.0)
      maker.add(n.dive.semitones).add(n.dive.startQuarters).add(n.dive.lengthQuarters).add(n.dive.bend);
  }
  for (const PitchPointAt& b : p.bend) maker.add(b.seconds).add(b.semitones);
}

// Whether it stays on one pitch.
bool isPlain(const Phrase& p) {
  return p.notes.size() == 1 && p.notes[0].dive.semitones == 0.0 && p.bend.empty();
}

AudioBuffer fromOnset(const AudioBuffer& in, double onsetSeconds) {
  AudioBuffer out = in;
  const auto skip = std::min(in.frames(), static_cast<size_t>(onsetSeconds * in.sampleRate));
  for (auto& channel : out.channels)
    channel.erase(channel.begin(), channel.begin() + static_cast<ptrdiff_t>(skip));
  return out;
}

// Read at the speed of the phrase's pitch, sample by sample.
AudioBuffer readAlongPitch(const AudioBuffer& in, const Phrase& phrase, double root, double glideMs) {
  std::vector<double> positions;
  const auto most = static_cast<size_t>((phrase.seconds() + 0.1) * in.sampleRate) + 1;
  double at = 0.0;
  while (at < static_cast<double>(in.frames()) && positions.size() < most) {
    positions.push_back(at);
    const double t = (static_cast<double>(positions.size()) - 0.5) / in.sampleRate;
    at += std::exp2(std::clamp(pitchAt(phrase, glideMs, t) - root, -60.0, 60.0) / 12.0);
  }
  AudioBuffer out;
  out.sampleRate = in.sampleRate;
  for (const auto& channel : in.channels) out.channels.push_back(readAlong(channel, positions));
  return out;
}

// Sound before its note takes the gain of the note's start.
Keyed throughContour(const Keyed& from, const ContourGain& contour, const StepKey& key, StepCache& cache) {
  auto made = cache.get<AudioBuffer>(
      key,
      [&] {
        AudioBuffer out = *from.sound;
        std::vector<float> gain(out.frames());
        for (size_t i = 0; i < gain.size(); ++i) {
          const auto since =
              static_cast<double>(std::max<int64_t>(0, static_cast<int64_t>(i) - from.leadFrames));
          gain[i] = static_cast<float>(contour.at(since / out.sampleRate));
        }
        for (auto& channel : out.channels)
          for (size_t i = 0; i < gain.size(); ++i) channel[i] *= gain[i];
        return out;
      },
      bytesOf);
  return {made, key, from.leadFrames};
}

}  // namespace

double contourRings(const Part& part, const Track& track, const PhraseAsk& ask) {
  if (!part.contour.works()) return 0.0;
  const double end = ask.phrase.seconds();
  return ContourGain(part.contour, track.tempoBpm, end, !ask.whole).endSeconds() - end;
}

std::optional<double> SoundSteps::bassRoot(const Layer& layer, const Track& track) const {
  const Recorded* r = layer.recorded();
  if (!r) return std::nullopt;
  if (r->rootMidi) return r->rootMidi;
  const auto measured = facts(r->asset, r->band);
  if (!measured || !measured->landing.noteHz()) return std::nullopt;
  return midiFromHz(*measured->landing.noteHz(), track.notes.a4Hz);
}

// A recorded layer at the phrase's pitch, shaped; not yet cut to its length.
Keyed SoundSteps::shapedNote(const Layer& layer, const Track& track, const PhraseAsk& ask) const {
  const Recorded* r = layer.recorded();
  if (!r) return {};
  const Keyed from = source(r->asset);
  const auto measured = facts(*r);
  if (!from.sound || !measured) return {};
  const double first = ask.phrase.notes.front().midi;
  const auto known = bassRoot(layer, track);
  // Without a root, or with its pitch fixed, it plays unshifted.
  const double root = (r->followNotes && known ? *known : first) - layer.semitones;
  const bool plain = isPlain(ask.phrase) || !r->followNotes || r->keepLength;
  const double speed = std::exp2(std::clamp(first - root, -60.0, 60.0) / 12.0);
  KeyMaker pitchedMaker("pitched bass note 1");
  pitchedMaker.add(from.key).add(r->keepLength).add(plain);
  if (r->onsetMs) pitchedMaker.add(*r->onsetMs);
  plain ? pitchedMaker.add(speed)
        : (addPhrase(pitchedMaker, ask.phrase), pitchedMaker.add(root).add(r->glideMs));
  KeyMaker maker("bass note 3");
  maker.add(pitchedMaker.key()).add(ask.phrase.phaseDegrees);
  const ReadyChain chain = ready(layer.chain);
  addShape(maker, layer, chain, track.tempoBpm);
  const StepKey key = maker.key();
  auto made = cache_.get<AudioBuffer>(
      key,
      [&] {
        // While a layer is shaped its pitch stays.
        AudioBuffer out = *cache_.get<AudioBuffer>(
            pitchedMaker.key(),
            [&] {
              // From the onset, so that the note starts where the pattern says.
              AudioBuffer whole = fromOnset(*from.sound, measured->onsetSeconds.value_or(0.0));
              if (!plain) return readAlongPitch(whole, ask.phrase, root, r->glideMs);
              if (r->keepLength)
                if (auto kept = pitchedKeepingLength(whole, speed)) return std::move(*kept);
              return playedFaster(whole, speed);
            },
            bytesOf);
        turnLows(out, ask.phrase.phaseDegrees);
        double onset = 0.0;
        shapeLayer(out, layer, onset, chain);
        return out;
      },
      bytesOf);
  return {made, key, static_cast<int64_t>(leadFrames(chain))};
}

Keyed SoundSteps::bassLayer(const Layer& layer, const Track& track, const PhraseAsk& ask) const {
  if (!layer.bassVoice()) {
    const Keyed note = shapedNote(layer, track, ask);
    if (!note.sound || ask.whole) return note;
    const auto frames = static_cast<size_t>(std::max<int64_t>(
        1, note.leadFrames + std::llround((ask.phrase.seconds() + ask.ringsSeconds) * rate_)));
    return cutTo(note, frames, kNoteReleaseSeconds, cache_);
  }
  KeyMaker maker("built bass 1");
  maker.add(rate_).add(track.notes.a4Hz).add(layer.semitones);
  addFields(maker, *layer.bassVoice(), track.tempoBpm);
  addPhrase(maker, ask.phrase);
  if (layer.bassVoice()->freePhase) maker.add(ask.phrase.startInSong);
  const ReadyChain chain = ready(layer.chain);
  addShape(maker, layer, chain, track.tempoBpm);
  const StepKey key = maker.key();
  auto made = cache_.get<AudioBuffer>(
      key,
      [&] {
        Phrase phrase = ask.phrase;
        const double level = phrase.notes.front().gain;
        for (PhraseNote& n : phrase.notes)
          n.midi += layer.semitones, n.gain = level > 0.0 ? n.gain / level : 1.0;
        // While partials are dragged the rest stays cached.
        BassVoice above = *layer.bassVoice();
        above.partialDb = BassVoice().partialDb, above.octaveBelowDb.reset(), above.width = 0.0;
        KeyMaker courseKey("bass course 1");
        courseKey.add(rate_).add(track.notes.a4Hz).add(above.freePhase ? phrase.startInSong : 0.0);
        addFields(courseKey, above, track.tempoBpm);
        addPhrase(courseKey, phrase);
        const auto course = cache_.get<BassCourse>(
            courseKey.key(), [&] { return bassCourse(above, phrase, track.notes.a4Hz, rate_); },
            [](const BassCourse& c) { return c.bytes(); });
        AudioBuffer out = renderBassOver(*layer.bassVoice(), *course, rate_);
        double onset = 0.0;
        shapeLayer(out, layer, onset, chain);
        return out;
      },
      bytesOf);
  return {made, key, static_cast<int64_t>(leadFrames(chain))};
}

Keyed SoundSteps::bassPhrase(const Part& part, const Track& track, const PhraseAsk& ask) const {
  if (ask.phrase.notes.empty()) return {};
  const ContourGain contour(part.contour, track.tempoBpm, ask.phrase.seconds(), !ask.whole);
  PhraseAsk rung = ask;
  if (part.contour.works()) rung.ringsSeconds = contourRings(part, track, ask);
  std::vector<Keyed> sounds;
  std::vector<LaidSound> laid;
  double lead = 0.0;
  const auto layers = layersAt(part.layers, ask.without);
  bool between = false;
  // When a layer's sound begins, against the beat.
  auto startOf = [this](const Layer& l) {
    return l.offsetMs / 1000.0 - static_cast<double>(leadFrames(ready(l.chain))) / rate_;
  };
  for (const Layer* l : layers) lead = std::min(lead, startOf(*l)), between = between || l->betweenSamples;
  KeyMaker maker("bass phrase 1");
  const double velocity = ask.phrase.notes.front().gain;
  for (const Layer* layer : layers) {
    const Keyed sound = bassLayer(*layer, track, rung);
    if (!sound.sound || sound.sound->frames() == 0) continue;
    // Placing multiplies by velocity; this makes up for a layer that follows velocity less.
    const double own = velocityGain(velocity, velocityAmount(*layer)) / std::max(1e-3, velocity);
    sounds.push_back(sound);
    laid.push_back({sound.sound.get(), 0, own * amplitudeFromDb(layer->levelDb)});
    layAt(laid.back(), (startOf(*layer) - lead) * rate_, between);
    maker.add(sound.key).add(laid.back().at).add(laid.back().gain);
    if (between) maker.add(laid.back().fraction);
  }
  if (laid.empty()) return {};
  const ReadyChain finish = ready(part.finish);
  addChain(maker, finish);
  const StepKey key = maker.key();
  auto made = cache_.get<AudioBuffer>(
      key,
      [&] {
        AudioBuffer sum = laidOver(laid, rate_);
        applyChain(sum, finish, -lead);
        return sum;
      },
      bytesOf);
  const Keyed all{made, key, std::llround(-lead * rate_) + static_cast<int64_t>(leadFrames(finish))};
  if (!part.contour.works()) return all;
  KeyMaker contoured("contoured 1");
  contoured.add(key).add(all.leadFrames).add(ask.phrase.seconds()).add(ask.whole);
  addFields(contoured, part.contour, track.tempoBpm);
  return throughContour(all, contour, contoured.key(), cache_);
}

Keyed SoundSteps::bassNote(const Part& part, const Track& track, double midi, double heldSeconds) const {
  PhraseAsk ask;
  ask.phrase.notes = {{0.0, heldSeconds, midi, 1.0, {}}};
  ask.phrase.quarterSeconds = 60.0 / track.tempoBpm;
  ask.whole = true;
  Part all = part;
  if (heardLayers(part.layers).empty())
    for (Layer& l : all.layers) l.mute = l.solo = false;
  return bassPhrase(all, track, ask);
}

std::shared_ptr<const SoundFacts> SoundSteps::bassFacts(const Part& part, const Track& track,
                                                        double midi) const {
  if (part.layers.empty()) return nullptr;
  const Layer& first = part.layers.front();
  Part alone;
  alone.plays = Plays::Notes;
  alone.layers = {first};
  alone.layers.front().mute = alone.layers.front().solo = false;
  const Keyed note = bassNote(alone, track, midi);
  if (!note.sound) return nullptr;
  // A built bass's note is the requested one: an octave below may sound with it. A recording's is searched
  // about its own note plus the shift.
  const double hz = hzFromMidi(midi + first.semitones, track.notes.a4Hz);
  LandingOptions band{std::max(20.0, 0.75 * hz), std::clamp(2.0 * hz, 400.0, kHighestBandHz)};
  if (const Recorded* r = first.recorded())
    band = bandFaster(r->band, std::exp2(bassShift(first, track, midi) / 12.0));
  return cache_.get<SoundFacts>(
      KeyMaker("bass facts 4").add(note.key).add(bandKey(band)).key(),
      [&] { return measureSound(*note.sound, band); }, bytesOfFacts);
}

std::shared_ptr<const SoundFacts> SoundSteps::bassSourceFacts(const Part& part) const {
  const Recorded* r = part.layers.empty() ? nullptr : part.layers.front().recorded();
  return r ? facts(r->asset, r->band) : nullptr;
}

double SoundSteps::bassShift(const Layer& layer, const Track& track, double midi) const {
  const Recorded* r = layer.recorded();
  if (!r) return 0.0;
  const auto root = bassRoot(layer, track);
  return (r->followNotes && root ? midi - *root : 0.0) + layer.semitones;
}

}  // namespace heft
