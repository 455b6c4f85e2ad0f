#include "engine/player/snapshot.h"

#include <algorithm>
#include <cmath>

#include "core/render/lanes/lane_blocks.h"
#include "core/render/lanes/lane_chain.h"
#include "core/render/lanes/lane_steps.h"
#include "core/sound/interpolate.h"

namespace heft {
namespace {

struct NamedLane {
  int id = 0;
  const Stem* stem = nullptr;
};

std::vector<NamedLane> lanesOf(const Stems& stems) {
  std::vector<NamedLane> out;
  for (const Lane& lane : stems.lanes) out.push_back({lane.part, &lane.heard});
  out.push_back({kBackingLane, &stems.backing});
  return out;
}

// The finished sum of the audible lanes.
Stem heardSum(const Stems& stems, const SilencedLanes& silenced, StepCache& cache) {
  const auto all = heardLanes(stems, silenced);
  if (all.empty()) return gainAtRest(0, cache);
  return chainedLane(sumOf(all, cache), stems.sumChain, stems.hitFrames(), stems.sampleRate, cache);
}

Stem silence(size_t frames, StepCache& cache) {
  Stem out(frames, 1);
  for (size_t b = 0; b < out.blockCount(); ++b) {
    const StepKey key = KeyMaker("silence 1").add(out.blockSize(b)).key();
    out.push(cache.get<Block>(
                 key, [&] { return Block{{std::vector<float>(out.blockSize(b), 0.0f)}}; }, bytesOfBlock),
             key);
  }
  return out;
}

// A finished sum as it is heard under a limiter or as a lossy file.
Stem sumThrough(const Stem& sum, double rate, const ListenTo& to, StepCache& cache) {
  if (!to.isPrepared() || sum.frames() == 0) return sum;
  const StepKey key = KeyMaker("heard through 1")
                          .add(sum.key())
                          .add(rate)
                          .add(listenText(to))
                          .add(to.ceilingDb)
                          .add(to.releaseMs)
                          .key();
  const auto heard = cache.get<AudioBuffer>(
      key, [&] { return heardThrough(stereoOf(sum.toBuffer(rate)), true, to); },
      [](const AudioBuffer& b) { return 4 * b.channelCount() * b.frames() + 64; });
  Stem out(sum.frames(), heard->channelCount());
  for (size_t b = 0; b < out.blockCount(); ++b) {
    const StepKey own = KeyMaker("block heard through 1").add(key).add(b).key();
    out.push(
        std::make_shared<const Block>(Block{framesOf(*heard, b * kBlockFrames, out.blockSize(b)).channels}),
        own);
  }
  return out;
}

/// The lanes of both renders beside each other.
struct Pairs {
  std::vector<int> ids;
  std::vector<Stem> after, before;
};

Pairs pairsOf(const SnapshotAsk& ask, StepCache& cache) {
  Pairs out;
  if (ask.after.sumChain.works() || ask.before.sumChain.works() || ask.listen.isPrepared()) {
    out.ids = {LoopSnapshot::kWholeSum};
    for (auto [stems, into] : {std::pair{&ask.after, &out.after}, std::pair{&ask.before, &out.before}}) {
      Stem sum = heardSum(*stems, ask.silenced, cache);
      into->push_back(sum.frames() ? sumThrough(sum, stems->sampleRate, ask.listen, cache)
                                   : silence(stems->frames, cache));
    }
    return out;
  }
  const auto now = lanesOf(ask.after), then = lanesOf(ask.before);
  auto find = [](const std::vector<NamedLane>& lanes, int id) {
    return std::find_if(lanes.begin(), lanes.end(), [id](const NamedLane& l) { return l.id == id; });
  };
  for (const NamedLane& lane : now) {
    const auto was = find(then, lane.id);
    out.ids.push_back(lane.id);
    out.after.push_back(*lane.stem);
    out.before.push_back(was != then.end() ? *was->stem : silence(ask.before.frames, cache));
  }
  for (const NamedLane& lane : then) {
    if (find(now, lane.id) != now.end() || out.ids.size() >= kMostLanes) continue;
    out.ids.push_back(lane.id);
    out.after.push_back(silence(ask.after.frames, cache));
    out.before.push_back(*lane.stem);
  }
  return out;
}

}  // namespace

std::vector<const Stem*> heardLanes(const Stems& stems, const SilencedLanes& silenced) {
  std::vector<const Stem*> out;
  for (const NamedLane& lane : lanesOf(stems))
    if (!silenced.contains(lane.id)) out.push_back(lane.stem);
  return out;
}

Stem convertedLoop(const Stem& stem, double fromRate, double toRate, StepCache& cache) {
  if (fromRate == toRate || stem.frames() == 0) return stem;
  const auto frames = static_cast<size_t>(std::lround(static_cast<double>(stem.frames()) * toRate / fromRate));
  const double step = static_cast<double>(stem.frames()) / static_cast<double>(frames);
  const auto pad = static_cast<int64_t>(std::ceil(40.0 * std::max(1.0, step)));
  // Start of a block in its source, and the range that it reads.
  auto at = [&](size_t b) { return static_cast<double>(b * kBlockFrames) * step; };
  auto first = [&](size_t b) { return static_cast<int64_t>(std::floor(at(b))) - pad; };
  const Stem shape(frames, stem.channels());
  auto count = [&](size_t b) {
    return static_cast<size_t>(std::ceil(static_cast<double>(shape.blockSize(b)) * step)) +
           2 * static_cast<size_t>(pad);
  };
  return blocksOf(
      shape, cache,
      [&](size_t b) {
        KeyMaker maker("converted 2");
        maker.add(step).add(at(b) - std::floor(at(b))).add(shape.blockSize(b));
        addSpan(maker, stem, first(b), static_cast<int64_t>(count(b)));
        return maker.key();
      },
      [&](size_t b) {
        Block block;
        for (size_t c = 0; c < stem.channels(); ++c)
          block.channels.push_back(readAt(stem.wrapped(c, first(b), count(b)),
                                          at(b) - static_cast<double>(first(b)), step, shape.blockSize(b)));
        return block;
      },
      Work::Heavy);
}

std::shared_ptr<const LoopSnapshot> makeSnapshot(const SnapshotAsk& ask, StepCache& cache) {
  if (ask.before.frames != ask.after.frames || ask.before.sampleRate != ask.after.sampleRate)
    return makeSnapshot({ask.after, ask.after, ask.framesPerQuarter, ask.deviceRate, ask.silenced, ask.listen},
                        cache);
  auto out = std::make_shared<LoopSnapshot>();
  const Pairs pairs = pairsOf(ask, cache);
  std::vector<const Stem*> now, then;
  HeardLanes heard = 0;
  out->lanes = pairs.ids.size();
  for (size_t i = 0; i < pairs.ids.size(); ++i) {
    out->ids[i] = pairs.ids[i];
    out->after[i] = convertedLoop(pairs.after[i], ask.after.sampleRate, ask.deviceRate, cache);
    out->before[i] = convertedLoop(pairs.before[i], ask.before.sampleRate, ask.deviceRate, cache);
    now.push_back(&pairs.after[i]), then.push_back(&pairs.before[i]);
    if (!ask.silenced.contains(pairs.ids[i])) heard |= HeardLanes{1} << i;
  }
  out->frames = out->after[0].frames();
  out->framesPerQuarter = ask.framesPerQuarter * ask.deviceRate / ask.after.sampleRate;
  out->beforeGains = matchedGains(now, then, ask.after.sampleRate, heard, cache);
  return out;
}

}  // namespace heft
