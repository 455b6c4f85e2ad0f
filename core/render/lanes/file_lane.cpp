#include "core/render/lanes/file_lane.h"

#include <algorithm>
#include <cmath>

#include "core/render/lanes/lane_gain.h"
#include "core/sound/interpolate.h"

namespace heft {
namespace {

/// Where a block reads its file.
struct FileStretch {
  int64_t first = 0;  ///< of the window, in samples of the file; may lie outside
  size_t count = 0;
  double start = 0.0;  ///< of the block's first frame in the window
};

struct FileReader {
  double ratio;   ///< samples of the file a frame
  double offset;  ///< samples of the file at the span's start, a whole number

  FileStretch of(size_t first, size_t frames) const {
    const double at = offset + static_cast<double>(first) * ratio;
    const auto pad = static_cast<int64_t>(std::ceil(40.0 * std::max(1.0, ratio)));
    FileStretch out;
    out.first = static_cast<int64_t>(std::floor(at)) - pad;
    out.count =
        static_cast<size_t>(std::ceil(static_cast<double>(frames) * ratio)) + 2 * static_cast<size_t>(pad);
    out.start = at - static_cast<double>(out.first);
    return out;
  }
};

std::vector<float> windowAt(const std::vector<float>& x, int64_t first, size_t count) {
  std::vector<float> out(count, 0.0f);
  const auto end = static_cast<int64_t>(x.size());
  const int64_t from = std::clamp<int64_t>(first, 0, end),
                to = std::clamp<int64_t>(first + static_cast<int64_t>(count), from, end);
  std::copy(x.begin() + from, x.begin() + to, out.begin() + (from - first));
  return out;
}

}  // namespace

Signal fileLane(const Sound& given, const std::string& hash, double offsetSeconds, double rate,
                const Span& span, const StepCache& cache) {
  StepCache steps = cache;
  if (!given || given->channelCount() == 0) return gainAtRest(span, steps, 0.0f);
  const Sound sound = given->channelCount() > 2 ? std::make_shared<const AudioBuffer>(stereoOf(*given)) : given;
  const FileReader reader{sound->sampleRate / rate, std::round(offsetSeconds * sound->sampleRate)};
  const Signal like(span, sound->channelCount());
  return Signal(span, sound->channelCount(), cache,
                {[=](size_t b) {
                   return KeyMaker("file over a span 1")
                       .add(hash)
                       .add(rate)
                       .add(reader.offset)
                       .add(b)
                       .add(like.blockSize(b))
                       .key();
                 },
                 [=](size_t b) {
                   const size_t frames = like.blockSize(b);
                   const FileStretch stretch = reader.of(b * kBlockFrames, frames);
                   Block block;
                   for (const auto& channel : sound->channels) {
                     const auto window = windowAt(channel, stretch.first, stretch.count);
                     if (reader.ratio == 1.0) {
                       const auto first = window.begin() + static_cast<ptrdiff_t>(stretch.start);
                       block.channels.emplace_back(first, first + static_cast<ptrdiff_t>(frames));
                     } else {
                       block.channels.push_back(readAt(window, stretch.start, reader.ratio, frames));
                     }
                   }
                   return block;
                 }});
}

}  // namespace heft
