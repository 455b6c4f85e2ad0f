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

void addSpan(KeyMaker& maker, const Signal& x, int64_t first, int64_t count) {
  maker.add(x.frames()).add(first).add(count);
  // The last block is shorter than the others: no step may be longer than it.
  for (int64_t at = first; at < first + count;) {
    const auto inside = x.span().inside(at);
    if (!inside) {
      // Silence before a song, and after it.
      if (at >= 0) break;
      at = 0;
      continue;
    }
    const size_t b = *inside / kBlockFrames;
    maker.add(x.key(b));
    at += static_cast<int64_t>(b * kBlockFrames + x.blockSize(b) - *inside);
  }
}

Signal filteredStem(const Signal& x, const StepKey& what, const std::vector<Biquad::Coefficients>& sections,
                    double settleSeconds, double rate, StepCache& cache) {
  if (x.frames() == 0 || sections.empty()) return x;
  auto make = [x, sections](size_t b, Memory& memory) {
    Block block = *x.hold(b);
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
  };
  return running(x, {what, 0, 0, settleSeconds, rate, x.channels(), make}, cache);
}

Signal rotatedStem(const Signal& x, const Rotation& rotation, double rate, StepCache& cache) {
  KeyMaker what("rotation 1");
  addFields(what, rotation, 120.0);
  return filteredStem(x, what.key(), rotationSections(rotation, rate), rotationSettles(rotation), rate, cache);
}

Signal movedStem(const Signal& lane, const AlignMove& move, double rate, StepCache& cache) {
  const Signal x = rotatedStem(lane, move.rotation, rate, cache);
  if (x.frames() == 0 || (move.delayMs == 0.0 && !move.invert)) return x;
  const double delay = move.delayMs / 1000.0 * rate, whole = std::floor(delay), fraction = delay - whole;
  const auto from = [whole](size_t b) { return blockStart(b) - static_cast<int64_t>(whole) - kMargin; };
  const auto count = [x](size_t b) { return static_cast<int64_t>(x.blockSize(b)) + 2 * kMargin; };
  return blocksOf(
      x, cache,
      [=](size_t b) {
        KeyMaker maker("moved 1");
        maker.add(fraction).add(move.invert);
        addSpan(maker, x, from(b), count(b));
        return maker.key();
      },
      [=](size_t b) {
        Block block;
        for (size_t c = 0; c < x.channels(); ++c) {
          const auto window = x.read(c, from(b), static_cast<size_t>(count(b)));
          auto y = readAt(window, static_cast<double>(kMargin) - fraction, 1.0, x.blockSize(b));
          if (fraction == 0.0) y.assign(window.begin() + kMargin, window.end() - kMargin);
          if (move.invert)
            for (float& v : y) v = -v;
          block.channels.push_back(std::move(y));
        }
        return block;
      });
}

Signal lowStem(const Signal& x, double rate, double hz, StepCache& cache) {
  const auto reach = static_cast<int64_t>(LowPart::reach(rate, hz));
  const auto count = [x, reach](size_t b) { return static_cast<int64_t>(x.blockSize(b)) + 2 * reach; };
  return blocksOf(
      x, cache,
      [=](size_t b) {
        KeyMaker maker("below 2");
        maker.add(hz).add(rate);
        addSpan(maker, x, blockStart(b) - reach, count(b));
        return maker.key();
      },
      [=](size_t b) {
        const size_t frames = x.blockSize(b);
        const auto lowPart = cache.get<LowPart>(
            KeyMaker("low part 1").add(rate).add(hz).add(frames).key(),
            [&] { return LowPart(rate, hz, frames); }, [](const LowPart& l) { return l.bytes(); });
        Block block;
        for (size_t c = 0; c < x.channels(); ++c)
          block.channels.push_back(
              lowPart->inside(x.read(c, blockStart(b) - reach, static_cast<size_t>(count(b)))));
        return block;
      });
}

Signal duckedStem(const Signal& x, const Signal& gain, StepCache& cache) {
  return blocksOf(
      x, cache, [=](size_t b) { return KeyMaker("ducked 2").add(x.key(b)).add(gain.key(b)).key(); },
      [=](size_t b) {
        Block block = *x.hold(b);
        const auto held = gain.hold(b);
        const auto& g = held->channels[0];
        for (auto& channel : block.channels)
          for (size_t i = 0; i < g.size(); ++i) channel[i] *= g[i];
        return block;
      });
}

Signal duckedBelow(const Signal& x, const Signal& low, const Signal& gain, StepCache& cache) {
  return blocksOf(
      x, cache,
      [=](size_t b) { return KeyMaker("ducked below 2").add(x.key(b)).add(low.key(b)).add(gain.key(b)).key(); },
      [=](size_t b) {
        Block block = *x.hold(b);
        const auto held = gain.hold(b);
        const auto& g = held->channels[0];
        const auto lows = low.hold(b);
        for (size_t c = 0; c < block.channels.size(); ++c)
          for (size_t i = 0; i < g.size(); ++i) block.channels[c][i] += (g[i] - 1.0f) * lows->channels[c][i];
        return block;
      });
}

Signal levelled(const Signal& x, double levelDb, StepCache& cache) {
  if (levelDb == 0.0) return x;
  const auto gain = static_cast<float>(amplitudeFromDb(levelDb));
  return blocksOf(
      x, cache, [=](size_t b) { return KeyMaker("levelled 1").add(x.key(b)).add(gain).key(); },
      [=](size_t b) {
        Block block = *x.hold(b);
        for (auto& channel : block.channels)
          for (float& v : channel) v *= gain;
        return block;
      });
}

Signal sumOf(const std::vector<const Signal*>& lanes, StepCache& cache) {
  size_t channels = 1;
  std::vector<Signal> all;
  for (const Signal* lane : lanes) channels = std::max(channels, lane->channels()), all.push_back(*lane);
  return blocksOf(
      Signal(all.front().span(), channels), cache,
      [=](size_t b) {
        KeyMaker maker("sum 2");
        for (const Signal& lane : all) maker.add(lane.key(b));
        return maker.add(channels).key();
      },
      [=](size_t b) {
        Block block = *all.front().hold(b);
        block.channels.resize(channels, block.channels[0]);
        for (size_t k = 1; k < all.size(); ++k) {
          const auto held = all[k].hold(b);
          for (size_t c = 0; c < channels; ++c) {
            const auto& add = held->channels[std::min(c, held->channels.size() - 1)];
            auto& sum = block.channels[c];
            for (size_t i = 0; i < sum.size(); ++i) sum[i] += add[i];
          }
        }
        return block;
      });
}

Signal differenceOf(const Signal& x, const Signal& y, StepCache& cache) {
  return blocksOf(
      x, cache, [=](size_t b) { return KeyMaker("difference 1").add(x.key(b)).add(y.key(b)).key(); },
      [=](size_t b) {
        Block block = *x.hold(b);
        const auto less = y.hold(b);
        for (size_t c = 0; c < block.channels.size(); ++c) {
          const auto& other = less->channels[std::min(c, less->channels.size() - 1)];
          for (size_t i = 0; i < other.size(); ++i) block.channels[c][i] -= other[i];
        }
        return block;
      });
}

Signal withInstead(const Signal& x, const Signal& part, const Signal& instead, StepCache& cache) {
  return blocksOf(
      x, cache,
      [=](size_t b) {
        return KeyMaker("with instead 1").add(x.key(b)).add(part.key(b)).add(instead.key(b)).key();
      },
      [=](size_t b) {
        Block block = *x.hold(b);
        const auto less = part.hold(b), more = instead.hold(b);
        for (size_t c = 0; c < block.channels.size(); ++c) {
          const auto &was = less->channels[std::min(c, less->channels.size() - 1)],
                     &is = more->channels[std::min(c, more->channels.size() - 1)];
          for (size_t i = 0; i < was.size(); ++i) block.channels[c][i] += is[i] - was[i];
        }
        return block;
      });
}

LanePeak peakOf(const Signal& x, StepCache& cache) {
  std::array<float, 2> most{};
  for (size_t b = 0; b < x.blockCount(); ++b) {
    const auto peaks = cache.get<std::vector<float>>(
        KeyMaker("block peaks 1").add(x.key(b)).key(),
        [&] {
          std::vector<float> out;
          const auto held = x.hold(b);
          for (const auto& channel : held->channels) out.push_back(peakOf(channel));
          return out;
        },
        [](const std::vector<float>& kept) { return kept.size() * sizeof(float); });
    for (size_t c = 0; c < std::min(most.size(), peaks->size()); ++c) most[c] = std::max(most[c], (*peaks)[c]);
  }
  return {std::max(most[0], most[1]), drawnOf(most[0], most[1])};
}

}  // namespace heft
