#include "core/render/lanes/lane_blocks.h"

#include <algorithm>
#include <map>
#include <mutex>

namespace heft {
namespace {

struct Piece {
  static constexpr bool kIsSound = true;
  Block block;
  Memory after;
};

size_t bytesOfPiece(const Piece& p) {
  return p.block.bytes() + 8 * p.after.size();
}

// What a block reads of the lane.
void addInput(KeyMaker& maker, const Signal& x, const Running& run, size_t b) {
  maker.add(run.what).add(run.rate).add(x.blockSize(b));
  addSpan(maker, x, blockStart(b) - run.before, static_cast<int64_t>(x.blockSize(b)) + run.before + run.after);
}

BlockSteps withoutMemory(const Signal& x, const Running& run) {
  return {[x, run](size_t b) {
            KeyMaker maker("running, of no memory 1");
            addInput(maker, x, run, b);
            return maker.key();
          },
          [run](size_t b) {
            Memory none;
            return run.make(b, none);
          }};
}

// A short loop as a whole: keyed by the memory's values, so that what an edit changed is made again only until
// the memory is as it was.
class WholeLoop final : public BlockSource {
 public:
  WholeLoop(const Signal& x, Running run, const StepCache& cache)
      : x_(x), run_(std::move(run)), cache_(cache) {}
  StepKey key(size_t b) override {
    makeAll();
    return keys_[b];
  }
  std::shared_ptr<const Block> block(size_t b) override {
    makeAll();
    return blocks_[b];
  }

 private:
  void makeAll() {
    const std::lock_guard lock(mutex_);
    if (!blocks_.empty()) return;
    const size_t n = x_.blockCount();
    Memory memory;
    const auto ahead =
        static_cast<size_t>(std::ceil(std::min(10.0, run_.settleSeconds) * run_.rate / kBlockFrames));
    for (size_t i = 0; i < ahead; ++i) piece((n * (ahead / n + 1) - ahead + i) % n, memory);
    for (size_t b = 0; b < n; ++b) {
      auto [block, key] = piece(b, memory);
      blocks_.push_back(std::move(block)), keys_.push_back(key);
    }
  }
  std::pair<std::shared_ptr<const Block>, StepKey> piece(size_t b, Memory& memory) {
    KeyMaker maker("running 1");
    addInput(maker, x_, run_, b);
    for (const double m : memory) maker.add(m);
    const StepKey key = maker.key();
    auto made = cache_.get<Piece>(
        key,
        [&] {
          Piece p;
          p.after = memory;
          p.block = run_.make(b, p.after);
          return p;
        },
        bytesOfPiece);
    memory = made->after;
    return {std::shared_ptr<const Block>(made, &made->block), key};
  }

  Signal x_;
  Running run_;
  StepCache cache_;
  std::mutex mutex_;
  std::vector<std::shared_ptr<const Block>> blocks_;
  std::vector<StepKey> keys_;
};

// Segments that each run in: a block's key holds what was read since its segment's run-in began.
class Segments final : public BlockSource {
 public:
  Segments(const Signal& x, Running run, const StepCache& cache) : x_(x), run_(std::move(run)), cache_(cache) {
    constexpr double kMostSeconds = 60.0;
    runIn_ =
        static_cast<size_t>(std::ceil(std::min(kMostSeconds, run_.settleSeconds) * run_.rate / kBlockFrames));
    // A loop is never run in by more than itself.
    if (x.span().wraps) runIn_ = std::min(runIn_, x.blockCount());
    length_ = std::max(kSegmentBlocks, runIn_);
  }
  StepKey key(size_t b) override { return chainOf(b)->keys[placeOf(b)]; }
  std::shared_ptr<const Block> block(size_t b) override {
    const auto made = piece(*chainOf(b), placeOf(b));
    return {made, &made->block};
  }

 private:
  /// The run of a segment: blocks in order, each with a key that holds those before it.
  struct Chain {
    std::vector<size_t> blocks;
    std::vector<StepKey> keys;
  };
  // A song's first segment begins at rest, and none runs in from before it.
  size_t runInOf(size_t segment) const {
    return x_.span().wraps ? runIn_ : std::min(runIn_, segment * length_);
  }
  size_t placeOf(size_t b) const { return runInOf(b / length_) + b % length_; }

  std::shared_ptr<const Chain> chainOf(size_t b) {
    const size_t segment = b / length_;
    {
      const std::lock_guard lock(mutex_);
      if (const auto known = chains_.find(segment); known != chains_.end()) return known->second;
    }
    auto made = std::make_shared<Chain>();
    const size_t n = x_.blockCount(), first = segment * length_, runIn = runInOf(segment);
    StepKey before = KeyMaker("running in a segment 1").key();
    for (size_t i = 0; i < runIn + std::min(length_, n - first); ++i) {
      const size_t at = (first + n - runIn + i) % n;
      KeyMaker maker("running on 1");
      maker.add(before);
      addInput(maker, x_, run_, at);
      before = maker.key();
      made->blocks.push_back(at), made->keys.push_back(before);
    }
    const std::lock_guard lock(mutex_);
    return chains_.emplace(segment, std::move(made)).first->second;
  }

  // The run up to a place in its chain, from the latest piece that is known.
  std::shared_ptr<const Piece> piece(const Chain& chain, size_t place) {
    std::shared_ptr<const Piece> last;
    size_t next = 0;
    for (size_t i = place + 1; i-- > 0 && !last;)
      if ((last = cache_.known<Piece>(chain.keys[i]))) next = i + 1;
    for (; next <= place; ++next)
      last = cache_.get<Piece>(
          chain.keys[next],
          [&] {
            Piece p;
            if (last) p.after = last->after;
            p.block = run_.make(chain.blocks[next], p.after);
            return p;
          },
          bytesOfPiece);
    return last;
  }

  Signal x_;
  Running run_;
  StepCache cache_;
  size_t runIn_ = 0, length_ = kSegmentBlocks;
  std::mutex mutex_;
  std::map<size_t, std::shared_ptr<const Chain>> chains_;
};

}  // namespace

AudioBuffer windowOf(const Signal& x, size_t b, size_t before, size_t after, double rate) {
  AudioBuffer out;
  out.sampleRate = rate;
  const int64_t first = blockStart(b) - static_cast<int64_t>(before);
  for (size_t c = 0; c < x.channels(); ++c)
    out.channels.push_back(x.read(c, first, before + x.blockSize(b) + after));
  return out;
}

Signal running(const Signal& x, Running run, StepCache& cache) {
  const size_t channels = run.channels;
  if (run.settleSeconds == 0.0) return Signal(x.span(), channels, cache, withoutMemory(x, run));
  std::shared_ptr<BlockSource> source;
  if (x.span().wraps && x.blockCount() <= kWholeLoopBlocks)
    source = std::make_shared<WholeLoop>(x, std::move(run), cache);
  else
    source = std::make_shared<Segments>(x, std::move(run), cache);
  return Signal(x.span(), channels, std::move(source));
}

}  // namespace heft
