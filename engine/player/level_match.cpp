#include "engine/player/level_match.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/k_weighting.h"
#include "core/render/lanes/lane_blocks.h"

namespace heft {
namespace {

constexpr double kMostGain = 4.0;  // 12 dB
constexpr double kFullScale = 0.999;
constexpr double kWarmSeconds = 0.2, kSegmentSeconds = 0.1;
constexpr size_t kSegmentsABlock = 4;

using Lanes = std::vector<const Signal*>;

// A lane as loudness hears it, block by block: what ran in a fifth of a second before a block is as good as all
// that did.
Signal weighted(const Signal& stem, double rate, StepCache& cache) {
  const auto warm = static_cast<int64_t>(std::min(static_cast<double>(stem.frames()), kWarmSeconds * rate));
  auto first = [warm](size_t b) { return blockStart(b) - warm; };
  auto count = [stem, warm](size_t b) { return static_cast<size_t>(warm) + stem.blockSize(b); };
  return blocksOf(
      stem, cache,
      [=](size_t b) {
        KeyMaker maker("k weighted 2");
        maker.add(rate);
        addSpan(maker, stem, first(b), static_cast<int64_t>(count(b)));
        return maker.key();
      },
      [=](size_t b) {
        Block block;
        const auto sections = kWeighting(rate);
        for (size_t c = 0; c < stem.channels(); ++c) {
          auto x = stem.read(c, first(b), count(b));
          Biquad shelf(sections[0]), high(sections[1]);
          for (float& v : x) v = static_cast<float>(high.process(shelf.process(v)));
          block.channels.emplace_back(x.begin() + static_cast<ptrdiff_t>(warm), x.end());
        }
        return block;
      });
}

/// Energies of lanes against each other, a matrix for each tenth of a second.
struct Energies {
  size_t lanes = 0;
  std::vector<std::vector<double>> segments;  ///< lanes x lanes each, row by row
  double framesASegment = 1.0;

  // Loudness of the lanes under these gains. Blocks go round the loop's end.
  std::optional<double> lufs(const std::vector<double>& gains) const {
    std::vector<double> power, blocks;
    for (const auto& m : segments) {
      double sum = 0.0;
      for (size_t i = 0; i < lanes; ++i) {
        if (gains[i] == 0.0) continue;
        for (size_t j = 0; j < lanes; ++j) sum += gains[i] * gains[j] * m[i * lanes + j];
      }
      power.push_back(std::max(0.0, sum));
    }
    const size_t n = power.size(), length = std::min(kSegmentsABlock, n);
    for (size_t at = 0; at < n; ++at) {
      double sum = 0.0;
      for (size_t k = 0; k < length; ++k) sum += power[(at + k) % n];
      blocks.push_back(sum / (static_cast<double>(length) * framesASegment));
    }
    return gatedLufs(blocks);
  }
};

/// Sums of products of two lanes over each segment, both sides of the stage together.
using PairEnergies = std::vector<double>;

std::shared_ptr<const PairEnergies> pairEnergies(const Signal& a, const Signal& b, double rate, size_t count,
                                                 StepCache& cache) {
  // Alike whichever comes first, so that a lane that did not change finds its pairs.
  const Signal &first = a.key() < b.key() ? a : b, &second = a.key() < b.key() ? b : a;
  return cache.get<PairEnergies>(
      KeyMaker("pair energies 1").add(first.key()).add(second.key()).add(rate).add(count).key(),
      [&] {
        PairEnergies out(count, 0.0);
        const Signal x = weighted(first, rate, cache), y = weighted(second, rate, cache);
        const size_t frames = first.frames(), channels = std::max(x.channels(), y.channels());
        for (size_t c = 0; c < channels; ++c)
          for (size_t n = 0; n < x.blockCount(); ++n) {
            const auto one = x.hold(n), other = y.hold(n);
            const auto &left = one->channels[std::min(c, one->channels.size() - 1)],
                       &right = other->channels[std::min(c, other->channels.size() - 1)];
            const size_t start = n * kBlockFrames;
            for (size_t s = start * count / frames; s < count && s * frames / count < start + left.size();
                 ++s) {
              const size_t from = std::max(start, s * frames / count),
                           to = std::min(start + left.size(), (s + 1) * frames / count);
              double sum = 0.0;
              for (size_t k = from; k < to; ++k) sum += static_cast<double>(left[k - start]) * right[k - start];
              // One channel sounds on both sides.
              out[s] += channels == 1 ? 2.0 * sum : sum;
            }
          }
        return out;
      },
      [](const PairEnergies& e) { return e.size() * sizeof(double) + 64; });
}

Energies energiesOf(const Lanes& lanes, double rate, StepCache& cache) {
  Energies out;
  const size_t frames = lanes[0]->frames();
  if (frames == 0) return out;
  const size_t count =
      std::max<size_t>(1, static_cast<size_t>(static_cast<double>(frames) / rate / kSegmentSeconds));
  out.lanes = lanes.size();
  out.segments.assign(count, std::vector<double>(lanes.size() * lanes.size()));
  out.framesASegment = static_cast<double>(frames) / static_cast<double>(count);
  const size_t n = lanes.size();
  for (size_t i = 0; i < n; ++i)
    for (size_t j = i; j < n; ++j) {
      const auto pair = pairEnergies(*lanes[i], *lanes[j], rate, count, cache);
      for (size_t s = 0; s < count; ++s) out.segments[s][i * n + j] = out.segments[s][j * n + i] = (*pair)[s];
    }
  return out;
}

double peakOfLane(const Signal& lane, StepCache& cache) {
  return *cache.get<double>(
      KeyMaker("lane peak 1").add(lane.key()).key(),
      [&] {
        float peak = 0.0f;
        for (size_t b = 0; b < lane.blockCount(); ++b) {
          const auto held = lane.hold(b);
          for (const auto& channel : held->channels)
            for (const float x : channel) peak = std::max(peak, std::abs(x));
        }
        return static_cast<double>(peak);
      },
      [](double) { return sizeof(double); });
}

double peakUnder(const Lanes& lanes, const std::vector<double>& gains) {
  double peak = 0.0;
  const Signal& first = *lanes[0];
  for (size_t b = 0; b < first.blockCount(); ++b)
    for (size_t c = 0; c < 2; ++c) {
      std::vector<double> sum(first.blockSize(b), 0.0);
      for (size_t i = 0; i < lanes.size(); ++i) {
        if (gains[i] == 0.0) continue;
        const auto held = lanes[i]->hold(b);
        const auto& x = held->channels[std::min(c, held->channels.size() - 1)];
        for (size_t k = 0; k < sum.size(); ++k) sum[k] += gains[i] * x[k];
      }
      for (const double x : sum) peak = std::max(peak, std::abs(x));
    }
  return peak;
}

/// One choice of heard lanes.
struct Choice {
  std::vector<bool> heard, differs;

  std::vector<double> gains(double forThoseThatDiffer) const {
    std::vector<double> out(heard.size());
    for (size_t i = 0; i < out.size(); ++i) out[i] = !heard[i] ? 0.0 : differs[i] ? forThoseThatDiffer : 1.0;
    return out;
  }
};

// The gain under which the lanes that differ bring the mix to the wanted loudness: by secants on decibels.
double solved(const Energies& before, const Choice& choice, double wanted) {
  auto off = [&](double db) {
    const auto lufs = before.lufs(choice.gains(std::pow(10.0, db / 20.0)));
    return lufs ? *lufs - wanted : -1e3;
  };
  const double most = 20.0 * std::log10(kMostGain);
  double low = -most, high = most;
  if (off(low) > 0.0) return 1.0 / kMostGain;
  if (off(high) < 0.0) return kMostGain;
  for (int i = 0; i < 24; ++i) {
    const double middle = 0.5 * (low + high);
    (off(middle) < 0.0 ? low : high) = middle;
  }
  return std::pow(10.0, 0.5 * (low + high) / 20.0);
}

// A gain above 1 may not push the mix past full scale, or past the peak of the present mix.
double withoutClipping(const Lanes& now, const Lanes& then, const Choice& choice, double gain,
                       StepCache& cache) {
  if (gain <= 1.0) return gain;
  const auto gains = choice.gains(gain);
  double atMost = 0.0;
  for (size_t i = 0; i < then.size(); ++i) atMost += gains[i] * peakOfLane(*then[i], cache);
  if (atMost <= kFullScale) return gain;
  const double mostPeak = std::max(kFullScale, peakUnder(now, choice.gains(1.0)));
  if (peakUnder(then, gains) <= mostPeak) return gain;
  double low = 1.0, high = gain;
  if (peakUnder(then, choice.gains(low)) > mostPeak) return low;
  for (int i = 0; i < 8; ++i) {
    const double middle = 0.5 * (low + high);
    (peakUnder(then, choice.gains(middle)) <= mostPeak ? low : high) = middle;
  }
  return low;
}

const LaneGains& plainGains() {
  static const LaneGains gains = [] {
    LaneGains ones;
    ones.fill(1.0f);
    return ones;
  }();
  return gains;
}

// All lanes first.
std::vector<HeardLanes> choicesOf(size_t lanes, HeardLanes heard) {
  const HeardLanes all = (HeardLanes{1} << lanes) - 1;
  std::vector<HeardLanes> out{all};
  if (lanes <= 4) {
    for (HeardLanes mask = 1; mask < all; ++mask) out.push_back(mask);
    return out;
  }
  for (size_t i = 0; i < lanes; ++i) out.push_back(HeardLanes{1} << i);
  if ((heard & all) != 0) out.push_back(heard & all);
  return out;
}

}  // namespace

const LaneGains& MatchGains::of(HeardLanes heard) const {
  for (const Set& s : sets)
    if (s.heard == heard) return s.gains;
  return sets.empty() ? plainGains() : sets.front().gains;
}

MatchGains matchedGains(const std::vector<const Signal*>& now, const std::vector<const Signal*>& then,
                        double sampleRate, HeardLanes heard, StepCache& cache) {
  MatchGains out;
  Choice choice{std::vector<bool>(now.size()), std::vector<bool>(now.size())};
  bool any = false;
  for (size_t i = 0; i < now.size(); ++i) {
    choice.differs[i] = now[i]->key() != then[i]->key();
    any = any || choice.differs[i];
  }
  // Another length is another loop: nothing to match.
  if (!any || now[0]->frames() != then[0]->frames() || now[0]->frames() == 0) return out;
  const Energies e = energiesOf(now, sampleRate, cache), b = energiesOf(then, sampleRate, cache);
  for (const HeardLanes mask : choicesOf(now.size(), heard)) {
    auto& set = out.sets.emplace_back(MatchGains::Set{mask, plainGains()});
    bool changes = false;
    for (size_t i = 0; i < now.size(); ++i) {
      choice.heard[i] = (mask >> i) & 1;
      changes = changes || (choice.heard[i] && choice.differs[i]);
    }
    const auto wanted = e.lufs(choice.gains(1.0));
    if (!changes || !wanted || !b.lufs(choice.gains(1.0))) continue;
    const double gain = withoutClipping(now, then, choice, solved(b, choice, *wanted), cache);
    for (size_t i = 0; i < now.size(); ++i)
      if (choice.differs[i]) set.gains[i] = static_cast<float>(gain);
  }
  return out;
}

}  // namespace heft
