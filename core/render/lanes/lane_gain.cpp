#include "core/render/lanes/lane_gain.h"

#include "core/duck/apply.h"
#include "core/render/lanes/lane_blocks.h"
#include "core/render/sounds/field_keys.h"
#include "core/session/fields.h"

namespace heft {
namespace {

std::shared_ptr<const Block> restingBlock(size_t size, float gain, StepCache& cache, StepKey& key) {
  key = KeyMaker("gain at rest 2").add(size).add(gain).key();
  return cache.get<Block>(
      key, [&] { return Block{{std::vector<float>(size, gain)}}; }, bytesOfBlock);
}

StepKey keyOfDip(const DrawnDip& d) {
  KeyMaker maker("dip 1");
  maker.add(d.depthDb).add(d.attackMs).add(d.holdMs).add(d.returnMs).add(d.toNext);
  maker.add(d.hasPoints());
  if (d.hasPoints())
    for (const DipPoint& p : d.points) maker.add(p.at).add(p.taken).add(p.bend);
  return maker.key();
}

// Both sides together, as the lows are judged everywhere.
std::vector<float> midOf(const Stem& x, int64_t first, size_t count) {
  auto out = x.wrapped(0, first, count);
  if (x.channels() < 2) return out;
  const auto other = x.wrapped(1, first, count);
  for (size_t i = 0; i < count; ++i) out[i] = 0.5f * (out[i] + other[i]);
  return out;
}

// The bands of a multiband movement by its shares: x minus their sum passes unchanged.
Stem severalDucked(const Stem& x, const std::vector<Stem>& lows, const ActingBand& band, const Stem& gain,
                   StepCache& cache) {
  return blocksOf(
      x, cache,
      [&](size_t b) {
        KeyMaker maker("ducked in bands 1");
        maker.add(x.key(b)).add(gain.key(b)).add(band.aboveShare);
        for (const Stem& low : lows) maker.add(low.key(b));
        for (const BandStep& step : band.steps) maker.add(step.share);
        return maker.key();
      },
      [&](size_t b) {
        Block block = x.block(b);
        for (size_t c = 0; c < block.channels.size(); ++c) {
          std::vector<const std::vector<float>*> each;
          for (const Stem& low : lows) each.push_back(&low.channel(b, c));
          lowerInBands(block.channels[c], each, band, gain.block(b).channels[0]);
        }
        return block;
      });
}

Stem bellPart(const Stem& x, const ActingBand& band, double rate, StepCache& cache) {
  KeyMaker what("bell part 1");
  what.add(band.bellHz).add(band.octaves);
  const auto section = bellSection(rate, band.bellHz, band.octaves);
  return running(x, what.key(), {}, 3.0, rate, cache, x.channels(), [&](size_t b, Memory& memory) {
    Block block = x.block(b);
    memory.resize(2 * block.channels.size(), 0.0);
    for (size_t c = 0; c < block.channels.size(); ++c) {
      Biquad filter(section);
      filter.goOnFrom(memory[2 * c], memory[2 * c + 1]);
      for (float& v : block.channels[c]) v = static_cast<float>(filter.process(v));
      const auto left = filter.state();
      memory[2 * c] = left[0], memory[2 * c + 1] = left[1];
    }
    return block;
  });
}

bool isAtRest(const Stem& gain, StepCache& cache) {
  for (size_t b = 0; b < gain.blockCount(); ++b) {
    StepKey rest;
    restingBlock(gain.blockSize(b), 1.0f, cache, rest);
    if (!(gain.key(b) == rest)) return false;
  }
  return true;
}

}  // namespace

Stem gainLane(const DrawnDip& dip, const std::vector<Trigger>& triggers, double rate, size_t frames,
              StepCache& cache) {
  const DipPlan plan(dip, triggers, rate, frames);
  const StepKey shape = keyOfDip(dip);
  Stem out(frames, 1);
  for (size_t b = 0; b < out.blockCount(); ++b) {
    const size_t first = b * kBlockFrames, size = out.blockSize(b);
    StepKey key;
    if (triggers.empty() || plan.rests(first, size)) {
      auto block = restingBlock(size, 1.0f, cache, key);
      out.push(std::move(block), key);
      continue;
    }
    KeyMaker maker("gain block 3");
    maker.add(rate).add(size).add(shape);
    for (const DipPlan::Start& s : plan.startsFor(first, size))
      maker.add(s.frame - static_cast<double>(first)).add(s.fromGain).add(s.low).add(s.length);
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

Stem gainAtRest(size_t frames, StepCache& cache, float gain) {
  Stem out(frames, 1);
  for (size_t b = 0; b < out.blockCount(); ++b) {
    StepKey key;
    auto block = restingBlock(out.blockSize(b), gain, cache, key);
    out.push(std::move(block), key);
  }
  return out;
}

Stem followedGain(const Follower& f, const Stem& heard, double rate, StepCache& cache) {
  KeyMaker what("follower 1");
  addFields(what, f, 120.0);
  const auto ahead = static_cast<int64_t>(lookaheadFrames(f, rate));
  // Forty time constants: the start's remainder is below a double's precision.
  const double settle = 0.04 * std::max({f.attackMs, f.releaseMs, 1000.0 * kRmsSeconds}) + f.holdMs / 1000.0;
  return running(heard, what.key(), {-ahead, ahead}, settle, rate, cache, 1, [&](size_t b, Memory& memory) {
    memory.resize(3, 0.0);
    FollowerState state{memory[0], memory[1], memory[2]};
    Block block{{std::vector<float>(heard.blockSize(b))}};
    followLevel(f, heard.loudest(blockStart(b) + ahead, heard.blockSize(b)), rate, state, block.channels[0]);
    memory = {state.reductionDb, state.holdFrames, state.meanSquare};
    return block;
  });
}

Stem mirroredGain(const Mirror& m, const Stem& source, bool isEnvelope, const Stem& target, double rate,
                  StepCache& cache) {
  const Stem sourceLow = isEnvelope ? source : lowStem(source, rate, m.belowHz, cache),
             targetLow = lowStem(target, rate, m.belowHz, cache);
  const auto reach = static_cast<int64_t>(mirrorReach(rate));
  const Stem shape(target.frames(), 1);
  auto count = [&](size_t b) { return static_cast<int64_t>(shape.blockSize(b)) + 2 * reach; };
  return blocksOf(
      shape, cache,
      [&](size_t b) {
        KeyMaker maker("mirror 1");
        addFields(maker, m, 120.0);
        maker.add(rate).add(b);
        addSpan(maker, sourceLow, blockStart(b) - reach, count(b));
        addSpan(maker, targetLow, blockStart(b) - reach, count(b));
        return maker.key();
      },
      [&](size_t b) {
        const int64_t first = blockStart(b) - reach;
        const auto size = static_cast<size_t>(count(b));
        return Block{{mirrorGain(m, midOf(sourceLow, first, size), midOf(targetLow, first, size), rate,
                                 static_cast<size_t>(blockStart(b)))}};
      },
      Work::Heavy);
}

Stem gainAtAmount(const Stem& gain, double amount, StepCache& cache) {
  if (amount == 1.0) return gain;
  return blocksOf(
      gain, cache, [&](size_t b) { return KeyMaker("gain at amount 1").add(gain.key(b)).add(amount).key(); },
      [&](size_t b) {
        Block block = gain.block(b);
        for (float& g : block.channels[0]) g = atShare(g, amount);
        return block;
      });
}

Stem gainsTogether(const Stem& a, const Stem& b, GainsMeet meet, StepCache& cache) {
  if (isAtRest(b, cache)) return a;
  if (isAtRest(a, cache)) return b;
  if (meet == GainsMeet::Multiply) return duckedStem(a, b, cache);
  return blocksOf(
      a, cache, [&](size_t i) { return KeyMaker("deepest 1").add(a.key(i)).add(b.key(i)).key(); },
      [&](size_t i) {
        Block block = a.block(i);
        const auto& other = b.block(i).channels[0];
        for (size_t k = 0; k < other.size(); ++k)
          block.channels[0][k] = std::min(block.channels[0][k], other[k]);
        return block;
      });
}

Stem duckedLane(const Stem& x, const Stem& stood, const AlignMove& move, std::vector<LaneGain> gains,
                GainsMeet meet, double rate, StepCache& cache) {
  // Combines gains of the same band.
  std::vector<LaneGain> bands;
  std::vector<Stem> whole;
  for (LaneGain& g : gains) {
    if (g.band.kind == DuckBandKind::All) {
      whole.push_back(std::move(g.gain));
      continue;
    }
    const auto same =
        std::find_if(bands.begin(), bands.end(), [&](const LaneGain& o) { return o.band == g.band; });
    if (same == bands.end())
      bands.push_back(std::move(g));
    else
      same->gain = gainsTogether(same->gain, g.gain, meet, cache);
  }
  Stem out = x;
  bool untouched = true;
  for (const LaneGain& band : bands) {
    // The first band is split before the move, so it stays cached while the lane is dragged.
    const bool moves = untouched && band.band.kind == DuckBandKind::Several;
    if (band.band.kind == DuckBandKind::Bell) {
      out = duckedBelow(out, bellPart(out, band.band, rate, cache), band.gain, cache);
    } else {
      std::vector<Stem> lows;
      for (const BandStep& step : band.band.steps)
        lows.push_back(moves ? movedStem(lowStem(stood, rate, step.belowHz, cache), move, rate, cache)
                             : lowStem(out, rate, step.belowHz, cache));
      const bool crossover = lows.size() == 1 && band.band.steps[0].share == 1.0 && band.band.aboveShare == 0.0;
      out = crossover ? duckedBelow(out, lows[0], band.gain, cache)
                      : severalDucked(out, lows, band.band, band.gain, cache);
    }
    untouched = false;
  }
  if (meet == GainsMeet::Multiply) {
    for (const Stem& gain : whole) out = duckedStem(out, gain, cache);
    return out;
  }
  Stem deepest = gainAtRest(x.frames(), cache);
  for (const Stem& gain : whole) deepest = gainsTogether(deepest, gain, meet, cache);
  return whole.empty() ? out : duckedStem(out, deepest, cache);
}

DrawnDip resolvedDip(const Duck& duck, double tempoBpm, std::optional<double> sourceTailMs) {
  const DuckCurve& c = duck.curve;
  DrawnDip out{c.depthDb, c.attack.toMs(tempoBpm), c.hold.toMs(tempoBpm), c.release.toMs(tempoBpm)};
  out.points = c.points, out.lengthMs = c.length.toMs(tempoBpm);
  out.toNext = c.lasts == CurveLasts::ToNext, out.anew = duck.isOfItsOwn();
  out.velocityToDepth = c.velocityToDepth;
  const double rest = out.holdMs + out.returnMs;
  if (c.lasts == CurveLasts::AsSource && sourceTailMs && *sourceTailMs > out.attackMs + 5.0 && rest > 0.0) {
    const double scale = (*sourceTailMs - out.attackMs) / rest;
    out.holdMs *= scale, out.returnMs *= scale;
    out.lengthMs = *sourceTailMs;
  }
  return out;
}

}  // namespace heft
