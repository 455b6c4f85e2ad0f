#include "core/render/lanes/lane_gain.h"

#include "core/duck/apply.h"
#include "core/render/lanes/lane_blocks.h"
#include "core/render/sounds/field_keys.h"
#include "core/session/fields.h"

namespace heft {
namespace {

StepKey restingKey(size_t size, float gain) {
  return KeyMaker("gain at rest 2").add(size).add(gain).key();
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
std::vector<float> midOf(const Signal& x, int64_t first, size_t count) {
  auto out = x.read(0, first, count);
  if (x.channels() < 2) return out;
  const auto other = x.read(1, first, count);
  for (size_t i = 0; i < count; ++i) out[i] = 0.5f * (out[i] + other[i]);
  return out;
}

// The bands of a multiband movement by its shares: x minus their sum passes unchanged.
Signal severalDucked(const Signal& x, const std::vector<Signal>& lows, const ActingBand& band,
                     const Signal& gain, StepCache& cache) {
  return blocksOf(
      x, cache,
      [=](size_t b) {
        KeyMaker maker("ducked in bands 1");
        maker.add(x.key(b)).add(gain.key(b)).add(band.aboveShare);
        for (const Signal& low : lows) maker.add(low.key(b));
        for (const BandStep& step : band.steps) maker.add(step.share);
        return maker.key();
      },
      [=](size_t b) {
        Block block = *x.hold(b);
        const auto by = gain.hold(b);
        std::vector<std::shared_ptr<const Block>> held;
        for (const Signal& low : lows) held.push_back(low.hold(b));
        for (size_t c = 0; c < block.channels.size(); ++c) {
          std::vector<const std::vector<float>*> each;
          for (const auto& low : held) each.push_back(&low->channels[std::min(c, low->channels.size() - 1)]);
          lowerInBands(block.channels[c], each, band, by->channels[0]);
        }
        return block;
      });
}

Signal bellPart(const Signal& x, const ActingBand& band, double rate, StepCache& cache) {
  KeyMaker what("bell part 1");
  what.add(band.bellHz).add(band.octaves);
  const auto section = bellSection(rate, band.bellHz, band.octaves);
  auto make = [x, section](size_t b, Memory& memory) {
    Block block = *x.hold(b);
    memory.resize(2 * block.channels.size(), 0.0);
    for (size_t c = 0; c < block.channels.size(); ++c) {
      Biquad filter(section);
      filter.goOnFrom(memory[2 * c], memory[2 * c + 1]);
      for (float& v : block.channels[c]) v = static_cast<float>(filter.process(v));
      const auto left = filter.state();
      memory[2 * c] = left[0], memory[2 * c + 1] = left[1];
    }
    return block;
  };
  return running(x, {what.key(), 0, 0, 3.0, rate, x.channels(), make}, cache);
}

bool isAtRest(const Signal& gain) {
  for (size_t b = 0; b < gain.blockCount(); ++b)
    if (!(gain.key(b) == restingKey(gain.blockSize(b), 1.0f))) return false;
  return true;
}

}  // namespace

Signal gainLane(const DrawnDip& dip, const std::vector<Trigger>& triggers, double rate, const Span& span,
                StepCache& cache) {
  if (triggers.empty()) return gainAtRest(span, cache);
  const auto plan = std::make_shared<const DipPlan>(dip, triggers, rate, span);
  const StepKey shape = keyOfDip(dip);
  const Signal like(span, 1);
  return blocksOf(
      like, cache,
      [=](size_t b) {
        const size_t first = b * kBlockFrames, size = like.blockSize(b);
        if (plan->rests(first, size)) return restingKey(size, 1.0f);
        KeyMaker maker("gain block 3");
        maker.add(rate).add(size).add(shape);
        for (const DipPlan::Start& s : plan->startsFor(first, size))
          maker.add(s.frame - static_cast<double>(first)).add(s.fromGain).add(s.low).add(s.length);
        return maker.key();
      },
      [=](size_t b) {
        Block block{{std::vector<float>(like.blockSize(b), 1.0f)}};
        if (!plan->rests(b * kBlockFrames, like.blockSize(b))) plan->fill(b * kBlockFrames, block.channels[0]);
        return block;
      });
}

Signal gainAtRest(const Span& span, StepCache& cache, float gain) {
  const Signal like(span, 1);
  return blocksOf(
      like, cache, [=](size_t b) { return restingKey(like.blockSize(b), gain); },
      [=](size_t b) { return Block{{std::vector<float>(like.blockSize(b), gain)}}; });
}

Signal followedGain(const Follower& f, const Signal& heard, double rate, StepCache& cache) {
  KeyMaker what("follower 1");
  addFields(what, f, 120.0);
  const auto ahead = static_cast<int64_t>(lookaheadFrames(f, rate));
  // Forty time constants: the start's remainder is below a double's precision.
  const double settle = 0.04 * std::max({f.attackMs, f.releaseMs, 1000.0 * kRmsSeconds}) + f.holdMs / 1000.0;
  auto make = [f, heard, ahead, rate](size_t b, Memory& memory) {
    memory.resize(3, 0.0);
    FollowerState state{memory[0], memory[1], memory[2]};
    Block block{{std::vector<float>(heard.blockSize(b))}};
    followLevel(f, heard.loudest(blockStart(b) + ahead, heard.blockSize(b)), rate, state, block.channels[0]);
    memory = {state.reductionDb, state.holdFrames, state.meanSquare};
    return block;
  };
  return running(heard, {what.key(), -ahead, ahead, settle, rate, 1, make}, cache);
}

Signal mirroredGain(const Mirror& m, const Signal& source, bool isEnvelope, const Signal& target, double rate,
                    StepCache& cache) {
  const Signal sourceLow = isEnvelope ? source : lowStem(source, rate, m.belowHz, cache),
               targetLow = lowStem(target, rate, m.belowHz, cache);
  const auto reach = static_cast<int64_t>(mirrorReach(rate));
  const Signal shape(target.span(), 1);
  auto count = [shape, reach](size_t b) { return static_cast<int64_t>(shape.blockSize(b)) + 2 * reach; };
  return blocksOf(
      shape, cache,
      [=](size_t b) {
        KeyMaker maker("mirror 1");
        addFields(maker, m, 120.0);
        maker.add(rate).add(b);
        addSpan(maker, sourceLow, blockStart(b) - reach, count(b));
        addSpan(maker, targetLow, blockStart(b) - reach, count(b));
        return maker.key();
      },
      [=](size_t b) {
        const int64_t first = blockStart(b) - reach;
        const auto size = static_cast<size_t>(count(b));
        return Block{{mirrorGain(m, midOf(sourceLow, first, size), midOf(targetLow, first, size), rate,
                                 static_cast<size_t>(blockStart(b)))}};
      });
}

Signal gainAtAmount(const Signal& gain, double amount, StepCache& cache) {
  if (amount == 1.0) return gain;
  return blocksOf(
      gain, cache, [=](size_t b) { return KeyMaker("gain at amount 1").add(gain.key(b)).add(amount).key(); },
      [=](size_t b) {
        Block block = *gain.hold(b);
        for (float& g : block.channels[0]) g = atShare(g, amount);
        return block;
      });
}

Signal gainsTogether(const Signal& a, const Signal& b, GainsMeet meet, StepCache& cache) {
  if (isAtRest(b)) return a;
  if (isAtRest(a)) return b;
  if (meet == GainsMeet::Multiply) return duckedStem(a, b, cache);
  return blocksOf(
      a, cache, [=](size_t i) { return KeyMaker("deepest 1").add(a.key(i)).add(b.key(i)).key(); },
      [=](size_t i) {
        Block block = *a.hold(i);
        const auto held = b.hold(i);
        const auto& other = held->channels[0];
        for (size_t k = 0; k < other.size(); ++k)
          block.channels[0][k] = std::min(block.channels[0][k], other[k]);
        return block;
      });
}

Signal duckedLane(const Signal& x, const Signal& stood, const AlignMove& move, std::vector<LaneGain> gains,
                  GainsMeet meet, double rate, StepCache& cache) {
  // Combines gains of the same band.
  std::vector<LaneGain> bands;
  std::vector<Signal> whole;
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
  Signal out = x;
  bool untouched = true;
  for (const LaneGain& band : bands) {
    // The first band is split before the move, so it stays cached while the lane is dragged.
    const bool moves = untouched && band.band.kind == DuckBandKind::Several;
    if (band.band.kind == DuckBandKind::Bell) {
      out = duckedBelow(out, bellPart(out, band.band, rate, cache), band.gain, cache);
    } else {
      std::vector<Signal> lows;
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
    for (const Signal& gain : whole) out = duckedStem(out, gain, cache);
    return out;
  }
  Signal deepest = gainAtRest(x.span(), cache);
  for (const Signal& gain : whole) deepest = gainsTogether(deepest, gain, meet, cache);
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
