#include "engine/snapshot.h"

#include <algorithm>
#include <cmath>

#include "core/sound/interpolate.h"

namespace heft {
Stem convertedLoop(const Stem& stem, double fromRate, double toRate) {
  if (fromRate == toRate || stem.frames() == 0) return stem;
  const auto frames = static_cast<size_t>(std::lround(static_cast<double>(stem.frames()) * toRate / fromRate));
  const double step = static_cast<double>(stem.frames()) / static_cast<double>(frames);
  const auto pad = static_cast<int64_t>(std::ceil(40.0 * std::max(1.0, step)));
  Stem out(frames, stem.channels());
  std::vector<std::vector<float>> channels;
  for (size_t c = 0; c < stem.channels(); ++c) {
    const auto longer = stem.wrapped(c, -pad, stem.frames() + 2 * static_cast<size_t>(pad));
    channels.push_back(readAt(longer, static_cast<double>(pad), step, frames));
  }
  const StepKey whole = KeyMaker("converted 1").add(stem.key()).add(toRate).key();
  for (size_t b = 0; b < out.blockCount(); ++b) {
    Block block;
    for (const auto& channel : channels) {
      const auto first = channel.begin() + static_cast<ptrdiff_t>(b * kBlockFrames);
      block.channels.emplace_back(first, first + static_cast<ptrdiff_t>(out.blockSize(b)));
    }
    out.push(std::make_shared<const Block>(std::move(block)), KeyMaker("block").add(whole).add(b).key());
  }
  return out;
}

std::shared_ptr<const LoopSnapshot> makeSnapshot(const Stems& after, const Stems& before,
                                                 double framesPerQuarter, double deviceRate, StepCache& cache) {
  auto out = std::make_shared<LoopSnapshot>();
  auto convert = [&](const Stem& s) { return convertedLoop(s, after.sampleRate, deviceRate); };
  out->after = {convert(after.kick), convert(after.bass), convert(after.backing)};
  out->before = {convert(before.kick), convert(before.bass), convert(before.backing)};
  out->frames = out->after[0].frames();
  out->framesPerQuarter = framesPerQuarter * deviceRate / after.sampleRate;
  out->beforeGains = matchedGains(after, before, cache);
  return out;
}

}  // namespace heft
