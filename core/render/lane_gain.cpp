#include "core/render/lane_gain.h"

#include "core/render/lane_steps.h"

namespace heft {
namespace {

std::shared_ptr<const Block> restingBlock(size_t size, StepCache& cache, StepKey& key) {
  key = KeyMaker("gain at rest 1").add(size).key();
  return cache.get<Block>(
      key, [&] { return Block{{std::vector<float>(size, 1.0f)}}; }, bytesOfBlock);
}

}  // namespace

Stem gainLane(const ResolvedDuck& duck, double rate, size_t frames, StepCache& cache) {
  const DipPlan plan(duck.dip, duck.triggersFrames, rate, frames);
  Stem out(frames, 1);
  for (size_t b = 0; b < out.blockCount(); ++b) {
    const size_t first = b * kBlockFrames, size = out.blockSize(b);
    StepKey key;
    if (duck.triggersFrames.empty() || plan.rests(first, size)) {
      auto block = restingBlock(size, cache, key);
      out.push(std::move(block), key);
      continue;
    }
    KeyMaker maker("gain block 2");
    maker.add(rate)
        .add(size)
        .add(duck.dip.depthDb)
        .add(duck.dip.attackMs)
        .add(duck.dip.holdMs)
        .add(duck.dip.returnMs);
    for (const DipPlan::Start& s : plan.startsFor(first, size))
      maker.add(s.frame - static_cast<double>(first)).add(s.fromGain);
    key = maker.key();
    out.push(cache.get<Block>(
                 key,
                 [&] {
                   Block block{{std::vector<float>(size, 1.0f)}};
                   plan.fill(first, block.channels[0]);
                   return block;
                 },
                 bytesOfBlock),
             key);
  }
  return out;
}

Stem gainAtRest(size_t frames, StepCache& cache) {
  Stem out(frames, 1);
  for (size_t b = 0; b < out.blockCount(); ++b) {
    StepKey key;
    auto block = restingBlock(out.blockSize(b), cache, key);
    out.push(std::move(block), key);
  }
  return out;
}

Stem gainsTogether(const Stem& a, const Stem& b, StepCache& cache) {
  return duckedStem(a, b, cache);
}

DrawnDip resolvedDip(const Duck& duck, double tempoBpm, double sourceTailMs) {
  DrawnDip out{duck.depthDb, duck.attack.toMs(tempoBpm), duck.hold.toMs(tempoBpm), duck.release.toMs(tempoBpm)};
  const double rest = out.holdMs + out.returnMs;
  if (duck.asSource && sourceTailMs > out.attackMs + 5.0 && rest > 0.0) {
    const double scale = (sourceTailMs - out.attackMs) / rest;
    out.holdMs *= scale, out.returnMs *= scale;
  }
  return out;
}

}  // namespace heft
