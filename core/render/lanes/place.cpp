#include "core/render/lanes/place.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "core/render/cache/at_once.h"
#include "core/render/lanes/automation_lanes.h"
#include "core/render/lanes/file_lane.h"
#include "core/render/lanes/lane_blocks.h"
#include "core/render/lanes/lane_chain.h"
#include "core/render/sounds/phrases.h"

namespace heft {
namespace {

/// Fade of a sound that the next one ends: 20 ms leave no click in a low tone (tests/render/render_test.cpp).
constexpr double kChokeSeconds = 0.02;

/// One sound somewhere in the span: of a loop, on its circle.
struct Placed {
  std::shared_ptr<const AudioBuffer> sound;
  StepKey key;
  int64_t start = 0;
  float gain = 1.0f;
  int64_t end() const { return start + static_cast<int64_t>(sound->frames()); }
};

// Adds the part of `placed` within the block at `first`: of a loop, on every pass.
void addTo(Block& block, const Placed& placed, int64_t first, const Span& span) {
  const auto size = static_cast<int64_t>(block.channels[0].size()), loop = static_cast<int64_t>(span.frames);
  const auto length = static_cast<int64_t>(placed.sound->frames());
  int64_t start = placed.start;
  while (span.wraps && start + length > 0) start -= loop;
  for (; start < first + size; start += loop) {
    const int64_t from = std::max(first, start), to = std::min(first + size, start + length);
    for (size_t c = 0; c < block.channels.size() && from < to; ++c) {
      const auto& source = placed.sound->channels[placed.sound->channelCount() == 1 ? 0 : c];
      for (int64_t i = from; i < to; ++i)
        block.channels[c][static_cast<size_t>(i - first)] +=
            placed.gain * source[static_cast<size_t>(i - start)];
    }
    if (!span.wraps) return;
  }
}

/// Sounds in order, and which of them reach into each block.
struct PlacedSounds {
  std::vector<Placed> all;
  std::vector<std::vector<uint32_t>> inBlock;
};

PlacedSounds byBlock(std::vector<Placed> all, const Signal& like) {
  PlacedSounds out{std::move(all), std::vector<std::vector<uint32_t>>(like.blockCount())};
  const auto loop = static_cast<int64_t>(like.frames());
  auto reach = [&](uint32_t i, int64_t from, int64_t to) {
    from = std::max<int64_t>(0, from), to = std::min(loop, to);
    for (int64_t b = from / static_cast<int64_t>(kBlockFrames); b * static_cast<int64_t>(kBlockFrames) < to;
         ++b) {
      auto& mine = out.inBlock[static_cast<size_t>(b)];
      if (mine.empty() || mine.back() != i) mine.push_back(i);
    }
  };
  for (uint32_t i = 0; i < out.all.size(); ++i) {
    const Placed& p = out.all[i];
    if (!like.span().wraps) {
      reach(i, p.start, p.end());
      continue;
    }
    const int64_t start = ((p.start % loop) + loop) % loop, length = p.end() - p.start;
    if (length >= loop) {
      reach(i, 0, loop);
      continue;
    }
    if (start + length > loop) reach(i, 0, start + length - loop);
    reach(i, start, start + length);
  }
  return out;
}

Signal placedSignal(std::vector<Placed> all, const Span& span, StepCache& cache) {
  size_t channels = 1;
  for (const Placed& p : all) channels = std::max(channels, p.sound->channelCount());
  const Signal like(span, channels);
  const auto placed = std::make_shared<const PlacedSounds>(byBlock(std::move(all), like));
  return blocksOf(
      like, cache,
      [=](size_t b) {
        KeyMaker maker("placed 1");
        maker.add(like.blockSize(b)).add(channels).add(span.wraps ? span.frames : 0);
        for (const uint32_t i : placed->inBlock[b]) {
          const Placed& p = placed->all[i];
          maker.add(p.key).add(p.start - blockStart(b)).add(p.gain);
        }
        return maker.key();
      },
      [=](size_t b) {
        Block block{std::vector<std::vector<float>>(channels, std::vector<float>(like.blockSize(b), 0.0f))};
        for (const uint32_t i : placed->inBlock[b]) addTo(block, placed->all[i], blockStart(b), span);
        return block;
      });
}

int64_t frameOf(double quarters, const Track& track) {
  return std::llround(quarters * track.framesPerQuarter());
}

// Where the last event of the span is cut: by the loop's first one, or at the end of the song's tails.
int64_t afterTheLast(double firstQuarters, const Track& track) {
  const auto frames = static_cast<int64_t>(track.span().frames);
  return track.song ? frames : frameOf(firstQuarters, track) + frames;
}

// Fades out from a frame over the hand-over's time, or fades in over it from its start.
Keyed handedOver(const Keyed& from, std::optional<int64_t> outFrom, const HandOver& by, StepCache& cache) {
  const double rate = from.sound->sampleRate, count = std::max(1.0, by.ms / 1000.0 * rate);
  const StepKey key =
      KeyMaker("handed over 1").add(from.key).add(outFrom.value_or(-1)).add(by.ms).add(by.alike).key();
  auto made = cache.get<AudioBuffer>(
      key,
      [&] {
        AudioBuffer out = *from.sound;
        const auto first = static_cast<double>(outFrom.value_or(0));
        for (auto& channel : out.channels) {
          if (outFrom) channel.resize(std::min(channel.size(), static_cast<size_t>(first + count) + 1));
          for (size_t i = 0; i < channel.size(); ++i) {
            const double part = (static_cast<double>(i) - first) / count;
            if (part > 0.0 || !outFrom)
              channel[i] *= static_cast<float>(by.gainIn(outFrom ? 1.0 - part : part));
          }
        }
        return out;
      },
      bytesOf);
  return {made, key};
}

// The part as it is at the start of each event.
template <class Event>
std::vector<const Part*> partsAt(PartMoments& moments, const std::vector<Event>& events) {
  std::vector<const Part*> out;
  for (const Event& e : events) out.push_back(&moments.at(e.startQuarters));
  return out;
}

std::vector<Placed> placeHits(const Part& part, const Track& track, PartMoments& moments,
                              const SoundSteps& steps, StepCache& cache, const std::stop_token& stop,
                              const LaneFades& fades) {
  std::vector<Placed> out;
  const auto hits = hitsInLoop(part, track);
  const auto there = partsAt(moments, hits);
  const auto sounds = madeAtOnce(hits.size(), cache, stop, [&](size_t i) {
    return steps.kickHit(*there[i], track, {hits[i].velocity, hits[i].without});
  });
  for (size_t i = 0; i < hits.size() && !stop.stop_requested(); ++i) {
    const HitSound& hit = sounds[i];
    if (!hit.ready || hit.ready->sound.frames() == 0) continue;
    const Keyed whole{std::shared_ptr<const AudioBuffer>(hit.ready, &hit.ready->sound), hit.key};
    const auto onset =
        static_cast<int64_t>(std::llround(hit.ready->onsetSeconds * hit.ready->sound.sampleRate));
    const int64_t at = frameOf(hits[i].startQuarters, track);
    const int64_t next = i + 1 < hits.size() ? frameOf(hits[i + 1].startQuarters, track)
                                             : afterTheLast(hits[0].startQuarters, track);
    // One voice at a time: the next hit chokes this one. Its onset, not its first sample, is on the grid.
    Keyed cut =
        cutTo(whole, static_cast<size_t>(std::max<int64_t>(1, next - at + onset)), kChokeSeconds, cache);
    if (i < fades.outAfterSeconds.size() && fades.outAfterSeconds[i])
      cut = handedOver(cut, onset + std::llround(*fades.outAfterSeconds[i] * cut.sound->sampleRate),
                       fades.handOver, cache);
    out.push_back({cut.sound, cut.key, at - onset, static_cast<float>(hit.gain)});
  }
  return out;
}

std::vector<Placed> placeNotes(const Part& part, const Track& track, PartMoments& moments,
                               const SoundSteps& steps, StepCache& cache, const std::stop_token& stop,
                               const LaneFades& fades) {
  std::vector<Placed> out;
  const auto phrases = phrasesOf(part, track);
  const auto there = partsAt(moments, phrases);
  // The longest first, so that no thread starts one at the end.
  std::vector<size_t> order(phrases.size());
  std::iota(order.begin(), order.end(), size_t{0});
  std::stable_sort(order.begin(), order.end(), [&](size_t a, size_t b) {
    return phrases[a].ask.phrase.seconds() > phrases[b].ask.phrase.seconds();
  });
  std::vector<Keyed> sounds(phrases.size());
  const auto made = madeAtOnce(phrases.size(), cache, stop, [&](size_t i) {
    return steps.bassPhrase(*there[order[i]], track, phrases[order[i]].ask);
  });
  for (size_t i = 0; i < made.size(); ++i) sounds[order[i]] = made[i];
  for (size_t i = 0; i < phrases.size() && !stop.stop_requested(); ++i) {
    const Keyed& sound = sounds[i];
    if (!sound.sound || sound.sound->frames() == 0) continue;
    const int64_t at = frameOf(phrases[i].startQuarters, track) - sound.leadFrames;
    const int64_t next = i + 1 < phrases.size() ? frameOf(phrases[i + 1].startQuarters, track)
                                                : afterTheLast(phrases[0].startQuarters, track);
    // One voice at a time here as well, regardless of its release.
    Keyed cut = cutTo(sound, static_cast<size_t>(std::max<int64_t>(1, next - at)), kChokeSeconds, cache);
    if (i < fades.in.size() && fades.in[i]) cut = handedOver(cut, {}, fades.handOver, cache);
    out.push_back(
        {cut.sound, cut.key, at,
         static_cast<float>(amplitudeFromDb(phrases[i].trimDb) * phrases[i].ask.phrase.notes.front().gain)});
  }
  return out;
}

}  // namespace

std::vector<Hit> hitsInLoop(const Part& part, const Track& track) {
  std::vector<Hit> out;
  for (const Hit& h : part.hits)
    if (h.startQuarters < track.loopQuarters() - 1e-9) out.push_back(h);
  return out;
}

std::vector<StrikeEvent> strikeEvents(const Part& part, const Track& track) {
  std::vector<StrikeEvent> out;
  const Span span = track.span();
  auto add = [&](double quarters, double velocity) {
    // What a song's first note is moved to before its start sounds there.
    const int64_t frame =
        track.song ? std::max<int64_t>(0, frameOf(quarters, track)) : frameOf(quarters, track);
    if (const auto inside = span.inside(frame)) out.push_back({static_cast<double>(*inside), velocity});
  };
  if (part.playsNotes())
    for (const PlacedPhrase& p : phrasesOf(part, track)) add(p.startQuarters, p.ask.phrase.notes.front().gain);
  else
    for (const Hit& hit : hitsInLoop(part, track)) add(hit.startQuarters, hit.velocity);
  std::stable_sort(out.begin(), out.end(),
                   [](const StrikeEvent& a, const StrikeEvent& b) { return a.frame < b.frame; });
  return out;
}

std::vector<double> eventFrames(const Part& part, const Track& track) {
  std::vector<double> out;
  for (const StrikeEvent& e : strikeEvents(part, track)) out.push_back(e.frame);
  return out;
}

Signal placedLane(const Session& s, const Part& part, const SoundSteps& steps, StepCache& cache,
                  const std::stop_token& stop, const LaneFades& fades) {
  const Track& track = s.track;
  Part bare;
  const bool overLane = part.finishOver == FinishOver::Lane && part.finish.works();
  if (overLane) bare = part, bare.finish = {};
  const Part& placed = overLane ? bare : part;
  PartMoments moments(s, placed);
  const auto sounds = part.playsNotes() ? placeNotes(placed, track, moments, steps, cache, stop, fades)
                                        : placeHits(placed, track, moments, steps, cache, stop, fades);
  return placedSignal(sounds, track.span(), cache);
}

namespace {

// A song's is as long as the file: nothing holds all of it, and no edit waits for all of it to be converted.
Signal backingByBlocks(const Session& s, const SoundSteps& steps, const Span& span, StepCache& cache) {
  const Backing& b = s.backing;
  const Sound sound = b.mute ? nullptr : steps.sound(b.asset);
  Signal out = fileLane(sound, b.asset.hash, b.offsetSeconds, s.track.sampleRate, span, cache);
  if (!sound) return out;
  Eq cut;
  if (b.lowCutHz) cut.lowCut = {true, *b.lowCutHz, 24};
  out = equalised(out, cut, s.track.sampleRate, cache);
  return atLevelOf(out, s, {}, "backing.level_db", b.levelDb, cache);
}

}  // namespace

Signal backingLane(const Session& s, const SoundSteps& steps, StepCache& cache) {
  const Span span = s.track.span();
  // Loops of up to eight bars sound to the bit as they did before there were longer ones.
  constexpr int kBarsAtOnce = 8;
  if (s.track.song || s.track.loopBeats > kBarsAtOnce * s.track.beatsPerBar)
    return backingByBlocks(s, steps, span, cache);
  std::vector<Placed> all;
  const Keyed source = s.backing.mute ? Keyed{} : steps.backing(s.backing, span.frames, cache);
  const Automation* level = heardAutomation(s, {}, "backing.level_db");
  const double levelDb = level ? 0.0 : s.backing.levelDb;
  if (source.sound && source.sound->frames() > 0)
    all.push_back({source.sound, source.key, 0, static_cast<float>(amplitudeFromDb(levelDb))});
  const Signal out = placedSignal(std::move(all), span, cache);
  return level ? levelAlong(out, *level, s.track, cache) : out;
}

}  // namespace heft
