#include "core/render/render.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/render/bass_steps.h"
#include "core/render/phrases.h"
#include "core/sound/filter.h"
#include "core/sound/interpolate.h"
#include "core/theory/text.h"

namespace heft {
namespace {

/// A sound that the next one ends fades over this: 20 ms leave no click of a low tone (tests/render_test.cpp).
constexpr double kChokeSeconds = 0.02;

/// One sound somewhere on the loop's circle.
struct Placed {
  std::shared_ptr<const AudioBuffer> sound;
  StepKey key;
  int64_t start = 0;
  float gain = 1.0f;
};

// Adds what of `placed` falls into the block that starts at `first`, on every turn of the loop.
void addTo(Block& block, const Placed& placed, int64_t first, int64_t loop) {
  const auto size = static_cast<int64_t>(block.channels[0].size());
  const auto length = static_cast<int64_t>(placed.sound->frames());
  int64_t start = placed.start;
  while (start + length > 0) start -= loop;
  for (; start < first + size; start += loop) {
    const int64_t from = std::max(first, start), to = std::min(first + size, start + length);
    for (size_t c = 0; c < block.channels.size() && from < to; ++c) {
      const auto& source = placed.sound->channels[placed.sound->channelCount() == 1 ? 0 : c];
      for (int64_t i = from; i < to; ++i)
        block.channels[c][static_cast<size_t>(i - first)] +=
            placed.gain * source[static_cast<size_t>(i - start)];
    }
  }
}

bool touches(const Placed& placed, int64_t first, int64_t size, int64_t loop) {
  const auto length = static_cast<int64_t>(placed.sound->frames());
  if (length >= loop) return true;
  const int64_t start = ((placed.start % loop) + loop) % loop;
  return (start < first + size && start + length > first) || start + length - loop > first;
}

Stem placedStem(const std::vector<Placed>& all, size_t frames, StepCache& cache) {
  size_t channels = 1;
  for (const Placed& p : all) channels = std::max(channels, p.sound->channelCount());
  Stem out(frames, channels);
  const auto loop = static_cast<int64_t>(frames);
  for (size_t b = 0; b < out.blockCount(); ++b) {
    const auto first = static_cast<int64_t>(b * kBlockFrames), size = static_cast<int64_t>(out.blockSize(b));
    KeyMaker maker("placed 1");
    maker.add(size).add(channels).add(loop);
    std::vector<const Placed*> mine;
    for (const Placed& p : all)
      if (touches(p, first, size, loop)) {
        maker.add(p.key).add(p.start - first).add(p.gain);
        mine.push_back(&p);
      }
    const StepKey key = maker.key();
    out.push(cache.get<Block>(
                 key,
                 [&] {
                   Block block{std::vector<std::vector<float>>(
                       channels, std::vector<float>(static_cast<size_t>(size), 0.0f))};
                   for (const Placed* p : mine) addTo(block, *p, first, loop);
                   return block;
                 },
                 bytesOfBlock),
             key);
  }
  return out;
}

int64_t frameOf(double quarters, const Track& track) {
  return std::llround(quarters * track.framesPerQuarter());
}

std::vector<Hit> hitsInLoop(const Session& s) {
  std::vector<Hit> out;
  for (const Hit& h : s.kick.hits)
    if (h.startQuarters < s.track.loopQuarters() - 1e-9) out.push_back(h);
  return out;
}

std::vector<Placed> placeKick(const Session& s, const SoundSteps& steps, StepCache& cache, size_t frames,
                              const std::stop_token& stop) {
  std::vector<Placed> out;
  const auto hits = hitsInLoop(s);
  for (size_t i = 0; i < hits.size() && !stop.stop_requested(); ++i) {
    const HitSound hit = steps.kickHit(s.kick, s.track, {hits[i].velocity, hits[i].without});
    if (!hit.ready || hit.ready->sound.frames() == 0) continue;
    const Keyed whole{std::shared_ptr<const AudioBuffer>(hit.ready, &hit.ready->sound), hit.key};
    const auto onset =
        static_cast<int64_t>(std::llround(hit.ready->onsetSeconds * hit.ready->sound.sampleRate));
    const int64_t at = frameOf(hits[i].startQuarters, s.track);
    const int64_t next = i + 1 < hits.size()
                             ? frameOf(hits[i + 1].startQuarters, s.track)
                             : frameOf(hits[0].startQuarters, s.track) + static_cast<int64_t>(frames);
    // One voice at a time: the next hit ends this one. Its onset, not its first sample, stands on the grid.
    const Keyed cut =
        cutTo(whole, static_cast<size_t>(std::max<int64_t>(1, next - at + onset)), kChokeSeconds, cache);
    out.push_back({cut.sound, cut.key, at - onset, static_cast<float>(hit.gain)});
  }
  return out;
}

std::vector<Placed> placeBass(const Session& s, const SoundSteps& steps, StepCache& cache, size_t frames,
                              const std::stop_token& stop) {
  std::vector<Placed> out;
  const auto phrases = phrasesOf(s);
  for (size_t i = 0; i < phrases.size() && !stop.stop_requested(); ++i) {
    const auto [sound, lead] = steps.bassPhrase(s.bass, s.track, phrases[i].ask);
    if (!sound.sound || sound.sound->frames() == 0) continue;
    const int64_t at = frameOf(phrases[i].startQuarters, s.track) - lead;
    const int64_t next = i + 1 < phrases.size()
                             ? frameOf(phrases[i + 1].startQuarters, s.track)
                             : frameOf(phrases[0].startQuarters, s.track) + static_cast<int64_t>(frames);
    // One voice at a time here too, whatever its release.
    const Keyed cut = cutTo(sound, static_cast<size_t>(std::max<int64_t>(1, next - at)), kChokeSeconds, cache);
    out.push_back({cut.sound, cut.key, at, static_cast<float>(phrases[i].ask.phrase.notes.front().gain)});
  }
  return out;
}

Stem backingStem(const Session& s, const SoundSteps& steps, StepCache& cache, size_t frames) {
  std::vector<Placed> all;
  const Keyed source = s.backing.mute ? Keyed{} : steps.backing(s.backing, frames, cache);
  if (source.sound && source.sound->frames() > 0)
    all.push_back({source.sound, source.key, 0, static_cast<float>(amplitudeFromDb(s.backing.levelDb))});
  return placedStem(all, frames, cache);
}

Stem gainStem(const DipPlan& plan, const DrawnDip& dip, const std::vector<double>& triggers, size_t frames,
              StepCache& cache) {
  Stem out(frames, 1);
  KeyMaker whole("gain 1");
  whole.add(dip.depthDb).add(dip.attackMs).add(dip.holdMs).add(dip.returnMs).add(frames);
  for (double t : triggers) whole.add(t);
  const StepKey wholeKey = whole.key();
  for (size_t b = 0; b < out.blockCount(); ++b) {
    const size_t first = b * kBlockFrames, size = out.blockSize(b);
    const bool rests = triggers.empty() || plan.rests(first, size);
    const StepKey key = rests ? KeyMaker("gain at rest 1").add(size).key()
                              : KeyMaker("gain block 1").add(wholeKey).add(b).key();
    out.push(cache.get<Block>(
                 key,
                 [&] {
                   Block block{{std::vector<float>(size, 1.0f)}};
                   if (!rests) plan.fill(first, block.channels[0]);
                   return block;
                 },
                 bytesOfBlock),
             key);
  }
  return out;
}

Stem summed(const Stem& kick, const Stem& bass, const Stem& backing, StepCache& cache) {
  const size_t channels = std::max({kick.channels(), bass.channels(), backing.channels()});
  Stem out(kick.frames(), channels);
  for (size_t b = 0; b < kick.blockCount(); ++b) {
    const StepKey key =
        KeyMaker("sum 1").add(kick.key(b)).add(bass.key(b)).add(backing.key(b)).add(channels).key();
    out.push(
        cache.get<Block>(
            key,
            [&] {
              Block block{std::vector<std::vector<float>>(channels, std::vector<float>(kick.blockSize(b)))};
              auto lane = [&](const Stem& s, size_t c) -> const std::vector<float>& {
                return s.block(b).channels[s.channels() == 1 ? 0 : c];
              };
              for (size_t c = 0; c < channels; ++c) {
                const auto &k = lane(kick, c), &l = lane(bass, c), &r = lane(backing, c);
                for (size_t i = 0; i < k.size(); ++i) block.channels[c][i] = k[i] + l[i] + r[i];
              }
              return block;
            },
            bytesOfBlock),
        key);
  }
  return out;
}

}  // namespace

DrawnDip resolvedDip(const DuckMove& duck, double tempoBpm, double kickTailMs) {
  DrawnDip out{duck.depthDb, duck.attack.toMs(tempoBpm), duck.hold.toMs(tempoBpm), duck.release.toMs(tempoBpm)};
  const double rest = out.holdMs + out.returnMs;
  if (duck.asKick && kickTailMs > out.attackMs + 5.0 && rest > 0.0) {
    const double scale = (kickTailMs - out.attackMs) / rest;
    out.holdMs *= scale, out.returnMs *= scale;
  }
  return out;
}

double stretchedSeconds(const Session& s, const Assets& assets) {
  std::set<int> notes;
  for (const Note& n : s.bass.notes)
    if (n.startQuarters < s.track.loopQuarters()) notes.insert(n.midi);
  double out = 0.0;
  for (const Layer& l : s.bass.layers)
    if (const auto sound = assets.sound(l.asset);
        sound && !l.isBuilt() && l.keepLength && l.followNotes && !l.mute)
      out += sound->seconds() * static_cast<double>(notes.size());
  return out;
}

Result<Stems> render(const Session& s, const Assets& assets, StepCache& cache, std::stop_token stop) {
  if (const double seconds = stretchedSeconds(s, assets); seconds > kMostStretchedSeconds)
    return badUsage("the bass's layers that keep their length would stretch " + formatNumber(seconds, 0) +
                    " s of sound, " + formatNumber(kMostStretchedSeconds, 0) +
                    " s at the most: let some of them play by speed");
  Stems out;
  out.sampleRate = s.track.sampleRate;
  out.frames = s.track.loopFrames();
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  for (const Hit& h : hitsInLoop(s))
    out.hitFrames.push_back(static_cast<double>(frameOf(h.startQuarters, s.track)));
  out.kick = placedStem(placeKick(s, steps, cache, out.frames, stop), out.frames, cache);
  if (stop.stop_requested()) return cancelled();
  out.bassPlaced = placedStem(placeBass(s, steps, cache, out.frames, stop), out.frames, cache);
  if (stop.stop_requested()) return cancelled();
  const auto kickFacts = s.duck.asKick ? steps.kickFacts(s.kick, s.track) : nullptr;
  out.dip = resolvedDip(s.duck, s.track.tempoBpm, kickFacts ? kickFacts->tailMs : 0.0);
  // The pattern triggers, whatever of the kick can be heard.
  if (s.duck.on) out.triggers = out.hitFrames;
  const DipPlan plan(out.dip, out.triggers, out.sampleRate, out.frames);
  out.gain = gainStem(plan, out.dip, out.triggers, out.frames, cache);
  if (stop.stop_requested()) return cancelled();
  out.bass = movedStem(out.bassPlaced, s.align, out.sampleRate, cache);
  if (s.duck.on && s.duck.crossoverHz > 0.0)
    // The move is taken from the lows that stood still: they stay as they are while the bass is dragged.
    out.bass = duckedBelow(out.bass,
                           movedStem(lowStem(out.bassPlaced, out.sampleRate, s.duck.crossoverHz, cache),
                                     s.align, out.sampleRate, cache),
                           out.gain, cache);
  else if (s.duck.on)
    out.bass = duckedStem(out.bass, out.gain, cache);
  out.backing = backingStem(s, steps, cache, out.frames);
  if (stop.stop_requested()) return cancelled();
  out.sum = summed(out.kick, out.bass, out.backing, cache);
  return out;
}

Session withoutMoves(Session session, MovesOf of) {
  auto leaves = [of](MovesOf stage) { return of == MovesOf::All || of == stage; };
  for (auto* layers : {&session.kick.layers, &session.bass.layers})
    for (Layer& l : *layers) {
      if (leaves(MovesOf::Tune)) l.targetMidi.reset(), l.strikeSemitones = l.flatten = 0.0;
      if (leaves(MovesOf::Sounds)) l.length.reset(), l.shape = {};
    }
  if (leaves(MovesOf::Sounds)) session.kick.finish = session.bass.finish = {};
  if (leaves(MovesOf::Align)) session.align.delayMs = 0.0, session.align.invert = false;
  if (leaves(MovesOf::Duck)) session.duck.on = false;
  return session;
}

}  // namespace heft
