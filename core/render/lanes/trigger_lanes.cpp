#include "core/render/lanes/trigger_lanes.h"

#include <algorithm>
#include <cmath>

#include "core/duck/hits_only.h"
#include "core/render/lanes/file_lane.h"
#include "core/render/lanes/lane_blocks.h"
#include "core/render/lanes/lane_chain.h"

namespace heft {
namespace {

// Ignores mutes and solos.
Part unmuted(Part part) {
  for (Layer& l : part.layers) l.mute = l.solo = false;
  return part;
}

// The file over the loop, beginning again where it repeats; silent where it has nothing.
Signal triggerFile(const DuckSource& source, std::optional<double> every, const Track& track,
                   const DuckSources& from) {
  if (track.song && !every)
    return fileLane(from.assets.sound(source.asset), source.asset.hash, source.offsetSeconds, track.sampleRate,
                    track.span(), from.cache);
  // Converts only as much of a non-repeating file as plays.
  const Backing stretch{.asset = source.asset, .offsetSeconds = source.offsetSeconds};
  const Keyed sound =
      every ? from.steps.source(source.asset) : from.steps.backing(stretch, track.span().frames, from.cache);
  const Signal shape(track.span(), sound.sound ? std::min<size_t>(2, sound.sound->channelCount()) : 1);
  if (!sound.sound) return gainAtRest(shape.span(), from.cache, 0.0f);
  const double offset = every ? std::round(source.offsetSeconds * track.sampleRate) : 0.0;
  const double period = every ? std::round(*every) : 0.0;
  return blocksOf(
      shape, from.cache,
      [=](size_t b) {
        return KeyMaker("trigger file 1")
            .add(sound.key)
            .add(offset)
            .add(period)
            .add(b)
            .add(shape.blockSize(b))
            .key();
      },
      [=](size_t b) {
        Block block;
        for (size_t c = 0; c < shape.channels(); ++c) {
          const auto& x = sound.sound->channels[c];
          auto& out = block.channels.emplace_back(shape.blockSize(b), 0.0f);
          for (size_t i = 0; i < out.size(); ++i) {
            double at = static_cast<double>(blockStart(b)) + static_cast<double>(i) + offset;
            if (period > 0.0) at -= std::floor(at / period) * period;
            if (at >= 0.0 && at < static_cast<double>(x.size())) out[i] = x[static_cast<size_t>(at)];
          }
        }
        return block;
      });
}

// Drawn hits and MIDI notes that fire as a level: their velocity while they last.
Signal levelOf(const ResolvedDuck& duck, const Track& track, StepCache& cache) {
  std::vector<float> level(track.span().frames, 0.0f);
  for (const LaneHit& hit : duck.hits) {
    const auto first = static_cast<size_t>(hit.frame);
    const auto last =
        std::min(level.size(), first + static_cast<size_t>(hit.lengthQuarters * track.framesPerQuarter()));
    for (size_t i = first; i < last; ++i) level[i] = std::max(level[i], static_cast<float>(hit.velocity));
  }
  return blocksOf(
      Signal(track.span(), 1), cache,
      [level](size_t b) {
        KeyMaker maker("trigger level 1");
        const auto first = static_cast<size_t>(blockStart(b)),
                   size = std::min(kBlockFrames, level.size() - first);
        // Runs of one level.
        for (size_t i = first; i < first + size;) {
          size_t end = i;
          while (end < first + size && level[end] == level[i]) ++end;
          maker.add(level[i]).add(end - i);
          i = end;
        }
        return maker.key();
      },
      [level](size_t b) {
        const auto first = level.begin() + blockStart(b);
        return Block{{{first, first + static_cast<ptrdiff_t>(std::min(
                                          kBlockFrames, level.size() - static_cast<size_t>(blockStart(b))))}}};
      });
}

Signal bandOnly(const Signal& x, const DuckSource& source, double rate, StepCache& cache) {
  Eq eq;
  if (source.lowCutHz) eq.lowCut = {true, *source.lowCutHz, 24};
  if (source.highCutHz) eq.highCut = {true, *source.highCutHz, 24};
  return equalised(x, eq, rate, cache);
}

// Of several drums, the sidechain passes only those that trigger: a follower would duck on the others too.
Signal hitsOnly(const Signal& x, const ResolvedDuck& duck, double rate, StepCache& cache) {
  std::vector<HeardOnset> onsets;
  KeyMaker maker("hits only 1");
  for (const LaneHit& hit : duck.hits) {
    // A trigger too soon after another belongs to that one's sound.
    if (hit.verdict == HitVerdict::TooSoon) continue;
    onsets.push_back({hit.frame, hit.fires()});
    maker.add(hit.frame).add(hit.fires());
  }
  const auto before = static_cast<size_t>(kPeakSeconds * rate) + 1;
  constexpr double kSettleSeconds = 3.0;
  auto make = [x, onsets, before, rate](size_t b, Memory& memory) {
    HitGate gate;
    if (memory.size() == 2) gate = {memory[0] != 0.0, memory[1]};
    const AudioBuffer in = windowOf(x, b, before, 0, rate);
    std::vector<float> loudest(in.frames(), 0.0f), gain(x.blockSize(b));
    for (const auto& channel : in.channels)
      for (size_t i = 0; i < loudest.size(); ++i) loudest[i] = std::max(loudest[i], std::abs(channel[i]));
    // The loop's first onset begins a moment before its end.
    std::vector<HeardOnset> mine;
    for (const double turn : {0.0, x.span().wraps ? static_cast<double>(x.frames()) : 1e12})
      for (const HeardOnset& o : onsets)
        mine.push_back({o.frame + turn - static_cast<double>(blockStart(b)), o.fires});
    gateHits(peaksBehind(loudest, before, rate), mine, rate, gate, gain);
    memory = {gate.open ? 1.0 : 0.0, gate.cap};
    Block block;
    for (const auto& channel : in.channels) {
      auto& out = block.channels.emplace_back(channel.begin() + static_cast<ptrdiff_t>(before), channel.end());
      for (size_t i = 0; i < out.size(); ++i) out[i] *= gain[i];
    }
    return block;
  };
  return running(x, {maker.key(), static_cast<int64_t>(before), 0, kSettleSeconds, rate, x.channels(), make},
                 cache);
}

}  // namespace

Signal heardOf(const DuckSource& source, const ResolvedDuck& duck, const Session& s, const DuckSources& from) {
  const double rate = s.track.sampleRate;
  switch (source.kind) {
    case TriggerKind::Part: {
      const Part* part = s.part(source.part);
      if (!part) break;
      return bandOnly(partLane(s, unmuted(*part), from.steps, from.cache, from.stop), source, rate, from.cache);
    }
    case TriggerKind::Audio:
      return hitsOnly(bandOnly(triggerFile(source, duck.repeatFrames, s.track, from), source, rate, from.cache),
                      duck, rate, from.cache);
    case TriggerKind::Midi:
      return levelOf(duck, s.track, from.cache);
    case TriggerKind::Drawn:
      return levelOf(duck, s.track, from.cache);
  }
  return gainAtRest(s.track.span(), from.cache, 0.0f);
}

}  // namespace heft
