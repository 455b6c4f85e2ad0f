#include "core/render/lanes/lane_wave.h"

#include <algorithm>
#include <array>

namespace heft {
namespace {

using LeastMost = std::pair<float, float>;
static_assert(kBlockFrames % LaneWave::kStepFrames == 0);

/// Both channels' steps of a block; of a mono one the first alone.
struct BlockWave {
  std::array<std::vector<LeastMost>, 2> steps;
  std::array<float, 2> peak{};
};

BlockWave blockWave(const Block& block) {
  BlockWave out;
  for (size_t c = 0; c < std::min<size_t>(2, block.channels.size()); ++c) {
    const auto& x = block.channels[c];
    for (size_t i = 0; i < x.size(); i += LaneWave::kStepFrames) {
      const auto first = x.begin() + static_cast<ptrdiff_t>(i),
                 last = x.begin() + static_cast<ptrdiff_t>(std::min(x.size(), i + LaneWave::kStepFrames));
      const auto [least, most] = std::minmax_element(first, last);
      out.steps[c].emplace_back(*least, *most);
      out.peak[c] = std::max({out.peak[c], std::abs(*least), std::abs(*most)});
    }
  }
  return out;
}

size_t bytesOfWave(const BlockWave& w) {
  return 8 * (w.steps[0].size() + w.steps[1].size()) + 64;
}

std::shared_ptr<const BlockWave> knownWave(const Signal& x, size_t b, const StepCache& cache) {
  return cache.get<BlockWave>(
      KeyMaker("wave of a block 1").add(x.key(b)).key(), [&] { return blockWave(*x.hold(b)); }, bytesOfWave);
}

}  // namespace

void waveOfBlock(const Signal& x, size_t b, const StepCache& cache) {
  knownWave(x, b, cache);
}

std::pair<float, float> LaneWave::range(int64_t from, int64_t to) const {
  const auto all = static_cast<int64_t>(steps.size()), step = static_cast<int64_t>(kStepFrames);
  const int64_t first = std::max<int64_t>(0, from / step), last = std::min(all, (to + step - 1) / step);
  if (first >= last) return {0.0f, 0.0f};
  LeastMost out = steps[static_cast<size_t>(first)];
  for (int64_t i = first + 1; i < last; ++i) {
    const LeastMost& s = steps[static_cast<size_t>(i)];
    out = {std::min(out.first, s.first), std::max(out.second, s.second)};
  }
  return out;
}

LaneWave waveOf(const Signal& x, const StepCache& cache, const std::stop_token& stop) {
  LaneWave out;
  out.frames = x.frames();
  std::vector<std::shared_ptr<const BlockWave>> blocks;
  std::array<float, 2> peak{};
  for (size_t b = 0; b < x.blockCount() && !stop.stop_requested(); ++b) {
    blocks.push_back(knownWave(x, b, cache));
    for (size_t c = 0; c < 2; ++c) peak[c] = std::max(peak[c], blocks.back()->peak[c]);
  }
  out.peak = {std::max(peak[0], peak[1]), drawnOf(peak[0], peak[1])};
  for (const auto& block : blocks) {
    const auto& steps = block->steps[block->steps[1].empty() ? 0 : out.peak.channel];
    out.steps.insert(out.steps.end(), steps.begin(), steps.end());
  }
  return out;
}

}  // namespace heft
