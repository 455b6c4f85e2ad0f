#include "core/render/lanes/lane_steps.h"

#include <array>
#include <cmath>

#include "core/duck/apply.h"
#include "core/render/lanes/lane_blocks.h"
#include "core/render/sounds/field_keys.h"
#include "core/sound/elementwise.h"
#include "core/sound/interpolate.h"

namespace heft {
namespace {

constexpr int64_t kMargin = 48;  // frames that reading between samples looks at on either side

}  // namespace

void addSpan(KeyMaker& maker, const Stem& x, int64_t first, int64_t count) {
  const auto frames = static_cast<int64_t>(x.frames());
  maker.add(frames).add(first).add(count);
  // The last block is shorter than the others: no step may be longer than it.
  for (int64_t at = first; at < first + count;) {
    const int64_t inLoop = ((at % frames) + frames) % frames;
    const auto b = static_cast<size_t>(inLoop) / kBlockFrames;
    maker.add(x.key(b));
    at += static_cast<int64_t>(b * kBlockFrames + x.blockSize(b)) - inLoop;
  }
}

Stem filteredStem(const Stem& x, const StepKey& what, const std::vector<Biquad::Coefficients>& sections,
                  double settleSeconds, double rate, StepCache& cache) {
  if (x.frames() == 0 || sections.empty()) return x;
  return running(x, what, {}, settleSeconds, rate, cache, x.channels(), [&](size_t b, Memory& memory) {
    Block block = x.block(b);
    memory.resize(2 * sections.size() * block.channels.size(), 0.0);
    double* m = memory.data();
    for (auto& channel : block.channels) {
      std::vector<Biquad> filters(sections.begin(), sections.end());
      for (size_t k = 0; k < filters.size(); ++k) filters[k].goOnFrom(m[2 * k], m[2 * k + 1]);
      filterBy(filters, channel);
      for (const Biquad& filter : filters)
        for (const double left : filter.state()) *m++ = left;
    }
    return block;
  });
}

Stem rotatedStem(const Stem& x, const Rotation& rotation, double rate, StepCache& cache) {
  KeyMaker what("rotation 1");
  addFields(what, rotation, 120.0);
  return filteredStem(x, what.key(), rotationSections(rotation, rate), rotationSettles(rotation), rate, cache);
}

Stem movedStem(const Stem& lane, const AlignMove& move, double rate, StepCache& cache) {
  const Stem x = rotatedStem(lane, move.rotation, rate, cache);
  if (x.frames() == 0 || (move.delayMs == 0.0 && !move.invert)) return x;
  const double delay = move.delayMs / 1000.0 * rate, whole = std::floor(delay), fraction = delay - whole;
  const auto from = [&](size_t b) { return blockStart(b) - static_cast<int64_t>(whole) - kMargin; };
  const auto count = [&](size_t b) { return static_cast<int64_t>(x.blockSize(b)) + 2 * kMargin; };
  return blocksOf(
      x, cache,
      [&](size_t b) {
        KeyMaker maker("moved 1");
        maker.add(fraction).add(move.invert);
        addSpan(maker, x, from(b), count(b));
        return maker.key();
      },
      [&](size_t b) {
        Block block;
        for (size_t c = 0; c < x.channels(); ++c) {
          const auto window = x.wrapped(c, from(b), static_cast<size_t>(count(b)));
          auto y = readAt(window, static_cast<double>(kMargin) - fraction, 1.0, x.blockSize(b));
          if (fraction == 0.0) y.assign(window.begin() + kMargin, window.end() - kMargin);
          if (move.invert)
            for (float& v : y) v = -v;
          block.channels.push_back(std::move(y));
        }
        return block;
      },
      Work::Heavy);
}

Stem lowStem(const Stem& x, double rate, double hz, StepCache& cache) {
  const auto reach = static_cast<int64_t>(LowPart::reach(rate, hz));
  const auto count = [&](size_t b) { return static_cast<int64_t>(x.blockSize(b)) + 2 * reach; };
  return blocksOf(
      x, cache,
      [&](size_t b) {
        KeyMaker maker("below 2");
        maker.add(hz).add(rate);
        addSpan(maker, x, blockStart(b) - reach, count(b));
        return maker.key();
      },
      [&](size_t b) {
        const size_t frames = x.blockSize(b);
        const auto lowPart = cache.get<LowPart>(
            KeyMaker("low part 1").add(rate).add(hz).add(frames).key(),
            [&] { return LowPart(rate, hz, frames); }, [](const LowPart& l) { return l.bytes(); });
        Block block;
        for (size_t c = 0; c < x.channels(); ++c)
          block.channels.push_back(
              lowPart->inside(x.wrapped(c, blockStart(b) - reach, static_cast<size_t>(count(b)))));
        return block;
      },
      Work::Heavy);
}

Stem duckedStem(const Stem& x, const Stem& gain, StepCache& cache) {
  return blocksOf(
      x, cache, [&](size_t b) { return KeyMaker("ducked 2").add(x.key(b)).add(gain.key(b)).key(); },
      [&](size_t b) {
        Block block = x.block(b);
        const auto& g = gain.block(b).channels[0];
        for (auto& channel : block.channels)
          for (size_t i = 0; i < g.size(); ++i) channel[i] *= g[i];
        return block;
      },
      Work::Heavy);
}

Stem duckedBelow(const Stem& x, const Stem& low, const Stem& gain, StepCache& cache) {
  return blocksOf(
      x, cache,
      [&](size_t b) { return KeyMaker("ducked below 2").add(x.key(b)).add(low.key(b)).add(gain.key(b)).key(); },
      [&](size_t b) {
        Block block = x.block(b);
        const auto& g = gain.block(b).channels[0];
        for (size_t c = 0; c < block.channels.size(); ++c)
          for (size_t i = 0; i < g.size(); ++i)
            block.channels[c][i] += (g[i] - 1.0f) * low.block(b).channels[c][i];
        return block;
      },
      Work::Heavy);
}

Stem levelled(const Stem& x, double levelDb, StepCache& cache) {
  if (levelDb == 0.0) return x;
  const auto gain = static_cast<float>(amplitudeFromDb(levelDb));
  return blocksOf(
      x, cache, [&](size_t b) { return KeyMaker("levelled 1").add(x.key(b)).add(gain).key(); },
      [&](size_t b) {
        Block block = x.block(b);
        for (auto& channel : block.channels)
          for (float& v : channel) v *= gain;
        return block;
      });
}

Stem sumOf(const std::vector<const Stem*>& lanes, StepCache& cache) {
  size_t channels = 1;
  for (const Stem* lane : lanes) channels = std::max(channels, lane->channels());
  const Stem shape(lanes.front()->frames(), channels);
  return blocksOf(
      shape, cache,
      [&](size_t b) {
        KeyMaker maker("sum 2");
        for (const Stem* lane : lanes) maker.add(lane->key(b));
        return maker.add(channels).key();
      },
      [&](size_t b) {
        Block block;
        for (size_t c = 0; c < channels; ++c) {
          auto& sum = block.channels.emplace_back(lanes.front()->channel(b, c));
          for (size_t k = 1; k < lanes.size(); ++k) {
            const auto& add = lanes[k]->channel(b, c);
            for (size_t i = 0; i < sum.size(); ++i) sum[i] += add[i];
          }
        }
        return block;
      },
      Work::Heavy);
}

Stem differenceOf(const Stem& x, const Stem& y, StepCache& cache) {
  return blocksOf(
      x, cache, [&](size_t b) { return KeyMaker("difference 1").add(x.key(b)).add(y.key(b)).key(); },
      [&](size_t b) {
        Block block = x.block(b);
        for (size_t c = 0; c < block.channels.size(); ++c) {
          const auto& other = y.channel(b, c);
          for (size_t i = 0; i < other.size(); ++i) block.channels[c][i] -= other[i];
        }
        return block;
      });
}

Stem withInstead(const Stem& x, const Stem& part, const Stem& instead, StepCache& cache) {
  return blocksOf(
      x, cache,
      [&](size_t b) {
        return KeyMaker("with instead 1").add(x.key(b)).add(part.key(b)).add(instead.key(b)).key();
      },
      [&](size_t b) {
        Block block = x.block(b);
        for (size_t c = 0; c < block.channels.size(); ++c) {
          const auto &was = part.channel(b, c), &is = instead.channel(b, c);
          for (size_t i = 0; i < was.size(); ++i) block.channels[c][i] += is[i] - was[i];
        }
        return block;
      });
}

LanePeak peakOf(const Stem& x, StepCache& cache) {
  std::array<float, 2> most{};
  for (size_t b = 0; b < x.blockCount(); ++b) {
    const auto peaks = cache.get<std::vector<float>>(
        KeyMaker("block peaks 1").add(x.key(b)).key(),
        [&] {
          std::vector<float> out;
          for (const auto& channel : x.block(b).channels) out.push_back(peakOf(channel));
          return out;
        },
        [](const std::vector<float>& kept) { return kept.size() * sizeof(float); });
    for (size_t c = 0; c < std::min(most.size(), peaks->size()); ++c) most[c] = std::max(most[c], (*peaks)[c]);
  }
  return {std::max(most[0], most[1]), drawnOf(most[0], most[1])};
}

}  // namespace heft
