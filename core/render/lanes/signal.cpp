#include "core/render/lanes/signal.h"

#include <algorithm>
#include <atomic>
#include <mutex>

namespace heft {
namespace {

class SteppedBlocks final : public BlockSource {
 public:
  SteppedBlocks(const StepCache& cache, BlockSteps steps) : cache_(cache), steps_(std::move(steps)) {}
  StepKey key(size_t b) override { return steps_.keyOf(b); }
  std::shared_ptr<const Block> block(size_t b) override {
    return cache_.get<Block>(
        key(b), [&] { return steps_.make(b); }, bytesOfBlock);
  }

 private:
  StepCache cache_;
  BlockSteps steps_;
};

}  // namespace

/// What copies of a signal share: keys, once known, and blocks in memory.
struct Signal::Held {
  std::mutex mutex;
  std::shared_ptr<BlockSource> source;
  bool keeps = true;
  std::vector<std::optional<StepKey>> keys;
  std::vector<std::shared_ptr<const Block>> kept;
  std::vector<std::atomic<const Block*>> fast;   ///< those of `kept`, for readers without a lock
  std::vector<std::weak_ptr<const Block>> seen;  ///< of a long signal

  std::shared_ptr<const Block> find(size_t b) {
    const std::lock_guard lock(mutex);
    if (keeps) return b < kept.size() ? kept[b] : nullptr;
    return b < seen.size() ? seen[b].lock() : nullptr;
  }
  void put(size_t b, const std::shared_ptr<const Block>& block) {
    const std::lock_guard lock(mutex);
    if (!keeps) {
      seen[b] = block;
    } else if (!kept[b]) {
      kept[b] = block;
      fast[b].store(block.get(), std::memory_order_release);
    }
  }
};

Signal::Signal(const Span& span, size_t channels)
    : span_(span), channels_(channels), held_(std::make_shared<Held>()) {}

Signal::Signal(const Span& span, size_t channels, std::shared_ptr<BlockSource> source)
    : Signal(span, channels) {
  held_->source = std::move(source);
  held_->keeps = keepsBlocks();
  held_->keys.resize(blockCount());
  if (held_->keeps) {
    held_->kept.resize(blockCount());
    held_->fast = std::vector<std::atomic<const Block*>>(blockCount());
  } else {
    held_->seen.resize(blockCount());
  }
}

Signal::Signal(const Span& span, size_t channels, const StepCache& cache, BlockSteps steps)
    : Signal(span, channels, std::make_shared<SteppedBlocks>(cache, std::move(steps))) {}

void Signal::push(std::shared_ptr<const Block> block, const StepKey& key) {
  held_->kept.push_back(std::move(block)), held_->keys.emplace_back(key);
}

std::shared_ptr<const Block> Signal::hold(size_t b) const {
  if (auto known = held_->find(b)) return known;
  auto made = held_->source->block(b);
  held_->put(b, made);
  return held_->keeps ? held_->find(b) : made;
}

const Block* Signal::kept(size_t b) const {
  return b < held_->fast.size() ? held_->fast[b].load(std::memory_order_acquire) : nullptr;
}

std::shared_ptr<const Block> Signal::ready(size_t b) const {
  return held_ ? held_->find(b) : nullptr;
}

StepKey Signal::key(size_t b) const {
  {
    const std::lock_guard lock(held_->mutex);
    if (held_->keys[b]) return *held_->keys[b];
  }
  const StepKey made = held_->source->key(b);
  const std::lock_guard lock(held_->mutex);
  held_->keys[b] = made;
  return made;
}

StepKey Signal::key() const {
  KeyMaker maker("signal 1");
  maker.add(span_.frames).add(span_.wraps).add(channels_);
  for (size_t b = 0; b < blockCount(); ++b) maker.add(key(b));
  return maker.key();
}

std::vector<float> Signal::read(size_t channel, int64_t first, size_t count) const {
  std::vector<float> out(count, 0.0f);
  for (size_t i = 0; i < count && span_.frames > 0;) {
    const int64_t frame = first + static_cast<int64_t>(i);
    const auto inside = span_.inside(frame);
    if (!inside) {
      // Silence before a song, and after it.
      if (frame >= 0) break;
      i = static_cast<size_t>(std::min<int64_t>(static_cast<int64_t>(count), -first));
      continue;
    }
    const auto held = hold(*inside / kBlockFrames);
    const auto& samples = held->channels[held->channels.size() == 1 ? 0 : channel];
    const size_t within = *inside % kBlockFrames, run = std::min(count - i, samples.size() - within);
    std::copy_n(samples.begin() + static_cast<ptrdiff_t>(within), run, out.begin() + static_cast<ptrdiff_t>(i));
    i += run;
  }
  return out;
}

std::vector<float> Signal::loudest(int64_t first, size_t count) const {
  auto out = read(0, first, count);
  for (size_t c = 1; c < channels_; ++c) {
    const auto other = read(c, first, count);
    for (size_t i = 0; i < count; ++i)
      if (std::abs(other[i]) > std::abs(out[i])) out[i] = other[i];
  }
  return out;
}

float Signal::peak(int64_t first, size_t count) const {
  float most = 0.0f;
  for (size_t c = 0; c < channels_ && span_.frames > 0; ++c)
    for (const float x : read(c, first, count)) most = std::max(most, std::abs(x));
  return most;
}

size_t Signal::drawnChannel(int64_t first, size_t count) const {
  if (channels_ < 2) return 0;
  auto peakOf = [&](size_t channel) {
    float most = 0.0f;
    for (const float x : read(channel, first, count)) most = std::max(most, std::abs(x));
    return most;
  };
  return drawnOf(peakOf(0), peakOf(1));
}

AudioBuffer Signal::toBuffer(double sampleRate) const {
  AudioBuffer out;
  out.sampleRate = sampleRate;
  for (size_t c = 0; c < channels_; ++c) out.channels.push_back(read(c, 0, span_.frames));
  return out;
}

}  // namespace heft
