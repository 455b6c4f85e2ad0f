#include "core/render/lanes/figure_steps.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>

#include "core/measure/levels/k_weighting.h"
#include "core/measure/levels/loudness.h"
#include "core/render/lanes/lane_blocks.h"
#include "core/sound/raised_cosine.h"

namespace heft {
namespace {

constexpr int64_t kKernelOutputs =
    16;  // outputs that a decimation's kernel reaches over, to one side, and more
constexpr size_t kAround = 64, kFade = 40;  // frames about a block whose true peak is taken

std::vector<float> folded(const Signal& lane, Fold fold, int64_t first, size_t count) {
  auto left = lane.read(0, first, count);
  if (lane.channels() == 1) return left;
  const auto right = lane.read(1, first, count);
  const float sign = fold == Fold::Mid ? 1.0f : -1.0f;
  for (size_t i = 0; i < count; ++i) left[i] = 0.5f * (left[i] + sign * right[i]);
  return left;
}

// A block with its surroundings, faded out beyond the interpolator's reach, so that no edge rings.
double blockTruePeak(const Signal& lane, size_t b, double rate) {
  AudioBuffer piece;
  piece.sampleRate = rate;
  const size_t count = lane.blockSize(b) + 2 * kAround;
  for (size_t c = 0; c < lane.channels(); ++c) {
    auto x = lane.read(c, static_cast<int64_t>(b * kBlockFrames) - static_cast<int64_t>(kAround), count);
    for (size_t i = 0; i < kFade; ++i) {
      const auto gain = static_cast<float>(raisedCosine(static_cast<double>(i) / kFade));
      x[i] *= gain, x[count - 1 - i] *= gain;
    }
    piece.channels.push_back(std::move(x));
  }
  return truePeakOf(piece).value_or(peakOf(piece));
}

double truePeakAt(const Signal& lane, size_t b, double rate, StepCache& cache) {
  KeyMaker maker("block true peak 1");
  maker.add(rate);
  addSpan(maker, lane, static_cast<int64_t>(b * kBlockFrames) - static_cast<int64_t>(kAround),
          static_cast<int64_t>(lane.blockSize(b) + 2 * kAround));
  return *cache.get<double>(
      maker.key(), [&] { return blockTruePeak(lane, b, rate); }, [](double) { return size_t{16}; });
}

double laneTruePeak(const Signal& lane, double rate, StepCache& cache) {
  double peak = 0.0;
  for (size_t b = 0; b < lane.blockCount(); ++b) peak = std::max(peak, truePeakAt(lane, b, rate, cache));
  return peak;
}

constexpr double kSegmentSeconds = 0.1, kWarmSeconds = 0.2;
constexpr size_t kSegmentsABlock = 4;

/// Energies of the segments that a block of the lane reaches into.
struct SegmentSums {
  size_t first = 0;
  std::vector<double> sums;
};

// What ran in a fifth of a second before the block is as good as all that did.
SegmentSums segmentSums(const Signal& lane, size_t b, double rate) {
  const auto warm = static_cast<size_t>(kWarmSeconds * rate);
  const size_t start = b * kBlockFrames, count = lane.blockSize(b);
  const auto weighting = kWeighting(rate);
  const double length = kSegmentSeconds * rate;
  SegmentSums out{static_cast<size_t>(static_cast<double>(start) / length), {}};
  for (size_t c = 0; c < 2; ++c) {
    auto x = lane.read(std::min(c, lane.channels() - 1),
                       static_cast<int64_t>(start) - static_cast<int64_t>(warm), warm + count);
    Biquad shelf(weighting[0]), high(weighting[1]);
    for (size_t i = 0; i < x.size(); ++i) {
      const double y = high.process(shelf.process(x[i]));
      if (i < warm) continue;
      const auto segment = static_cast<size_t>(static_cast<double>(start + i - warm) / length) - out.first;
      if (segment >= out.sums.size()) out.sums.resize(segment + 1, 0.0);
      out.sums[segment] += y * y;
    }
  }
  return out;
}

std::shared_ptr<const SegmentSums> segmentsAt(const Signal& lane, size_t b, double rate, StepCache& cache) {
  const auto warm = static_cast<int64_t>(kWarmSeconds * rate);
  KeyMaker maker("loudness segments 1");
  maker.add(rate).add(b);
  addSpan(maker, lane, static_cast<int64_t>(b * kBlockFrames) - warm,
          warm + static_cast<int64_t>(lane.blockSize(b)));
  return cache.get<SegmentSums>(
      maker.key(), [&] { return segmentSums(lane, b, rate); },
      [](const SegmentSums& sums) { return 8 * sums.sums.size() + 32; });
}

std::optional<Loudness> loudnessBySegments(const Signal& lane, double rate, StepCache& cache,
                                           const std::optional<FrameRange>& range = {}) {
  auto energies = loudnessSegments(lane, rate, cache);
  const auto segmentsIn = [&](size_t frames) {
    return std::min(energies.size(),
                    static_cast<size_t>(static_cast<double>(frames) / (kSegmentSeconds * rate)));
  };
  // A loop's last segment may be a part of one, and goes on at the loop's start.
  if (lane.span().wraps) energies.resize(segmentsIn(lane.frames()));
  if (range) {
    energies.resize(segmentsIn(range->to));
    energies.erase(energies.begin(), energies.begin() + static_cast<ptrdiff_t>(segmentsIn(range->from)));
  }
  std::vector<double> blocks;
  for (size_t i = 0; i + kSegmentsABlock <= energies.size(); ++i) {
    double sum = 0.0;
    for (size_t k = 0; k < kSegmentsABlock; ++k) sum += energies[i + k];
    blocks.push_back(sum / (static_cast<double>(kSegmentsABlock) * kSegmentSeconds * rate));
  }
  Loudness out;
  out.integratedLufs = gatedLufs(blocks);
  return out;
}

// Nothing where the rate cannot be measured.
std::optional<Loudness> loopLoudness(const Signal& lane, double rate, StepCache& cache) {
  if (!lane.span().wraps || lane.blockCount() > kWholeLoopBlocks) return loudnessBySegments(lane, rate, cache);
  return *cache.get<std::optional<Loudness>>(
      KeyMaker("loudness 1").add(lane.key()).add(rate).key(),
      [&]() -> std::optional<Loudness> {
        auto loudness = measureLoudness(repeatedForTheGate(lane.toBuffer(rate)), false);
        if (!loudness) return std::nullopt;
        return *loudness;
      },
      [](const auto&) { return sizeof(Loudness) + 16; });
}

double energyAt(const Signal& lane, size_t b, StepCache& cache) {
  return *cache.get<double>(
      KeyMaker("energy of a block 1").add(lane.key(b)).key(),
      [&] {
        const auto held = lane.hold(b);
        double own = 0.0;
        for (const auto* channel : {&held->channels.front(), &held->channels.back()})
          own += energyOf(std::span<const float>(*channel));
        return own;
      },
      [](double) { return size_t{16}; });
}

double meanSquare(const Signal& lane, StepCache& cache) {
  double sum = 0.0;
  for (size_t b = 0; b < lane.blockCount(); ++b) sum += energyAt(lane, b, cache);
  return sum / static_cast<double>(std::max<size_t>(1, lane.frames()));
}

}  // namespace

DecimatedPieces::DecimatedPieces(Signal lane, Fold fold, double rate, double targetRate, int64_t first,
                                 size_t count)
    : lane_(std::move(lane)), fold_(fold), rate_(rate), targetRate_(targetRate), first_(first) {
  factor_ = std::max<size_t>(1, static_cast<size_t>(std::floor(rate / targetRate)));
  all_ = (count + factor_ - 1) / factor_;
  perPiece_ = std::max<size_t>(1, kBlockFrames / factor_);
}

std::shared_ptr<const std::vector<double>> DecimatedPieces::at(size_t piece, StepCache& cache) const {
  const size_t at = piece * perPiece_, wanted = std::min(perPiece_, all_ - at);
  const int64_t pad = kKernelOutputs * static_cast<int64_t>(factor_),
                from = first_ + static_cast<int64_t>(at * factor_) - pad;
  const size_t span = wanted * factor_ + 2 * static_cast<size_t>(pad);
  KeyMaker maker("slow piece 1");
  maker.add(rate_).add(targetRate_).add(static_cast<int>(fold_));
  addSpan(maker, lane_, from, static_cast<int64_t>(span));
  return cache.get<std::vector<double>>(
      maker.key(),
      [&] {
        auto slow = decimated(std::span<const float>(folded(lane_, fold_, from, span)), rate_, targetRate_);
        const auto begin = slow.samples.begin() + kKernelOutputs;
        return std::vector<double>(begin, begin + static_cast<ptrdiff_t>(wanted));
      },
      [](const auto& x) { return 8 * x.size() + 64; });
}

std::vector<double> DecimatedPieces::between(size_t from, size_t to, StepCache& cache) const {
  std::vector<double> out;
  out.reserve(to - std::min(to, from));
  for (size_t i = from / perPiece_; i * perPiece_ < to; ++i) {
    const auto piece = at(i, cache);
    const size_t start = i * perPiece_, first = std::max(start, from) - start,
                 end = std::min(piece->size(), to - start);
    out.insert(out.end(), piece->begin() + static_cast<ptrdiff_t>(first),
               piece->begin() + static_cast<ptrdiff_t>(end));
  }
  return out;
}

void DecimatedPieces::addTo(KeyMaker& maker, size_t from, size_t to) const {
  const int64_t pad = kKernelOutputs * static_cast<int64_t>(factor_);
  maker.add(rate_).add(targetRate_).add(static_cast<int>(fold_));
  addSpan(maker, lane_, first_ + static_cast<int64_t>(from * factor_) - pad,
          static_cast<int64_t>((to - from) * factor_) + 2 * pad);
}

Decimated decimatedLane(const Signal& lane, Fold fold, double rate, double targetRate, int64_t first,
                        size_t count, StepCache& cache) {
  const DecimatedPieces pieces(lane, fold, rate, targetRate, first, count);
  Decimated out;
  out.factor = pieces.factor();
  out.sampleRate = rate / static_cast<double>(out.factor);
  out.samples = pieces.between(0, pieces.count(), cache);
  return out;
}

void measureLowEndBlock(const Signal& lane, size_t b, double rate, StepCache& cache) {
  energyAt(lane, b, cache);
  for (const Fold fold : {Fold::Mid, Fold::Side}) {
    if (fold == Fold::Side && lane.channels() < 2) continue;
    const DecimatedPieces pieces(lane, fold, rate, kLowEndRate, 0, lane.frames());
    if (b < pieces.size()) pieces.at(b, cache);
  }
}

void measureProgrammeBlock(const Signal& lane, size_t b, double rate, StepCache& cache) {
  measureLowEndBlock(lane, b, rate, cache);
  segmentsAt(lane, b, rate, cache);
  truePeakAt(lane, b, rate, cache);
}

std::vector<double> loudnessSegments(const Signal& lane, double rate, StepCache& cache) {
  std::vector<double> out;
  for (size_t b = 0; b < lane.blockCount(); ++b) {
    const auto sums = segmentsAt(lane, b, rate, cache);
    if (sums->first + sums->sums.size() > out.size()) out.resize(sums->first + sums->sums.size(), 0.0);
    for (size_t i = 0; i < sums->sums.size(); ++i) out[sums->first + i] += sums->sums[i];
  }
  return out;
}

size_t loudestStretch(const Signal& lane, const FrameRange& within, double seconds, double rate,
                      StepCache& cache) {
  const auto energies = loudnessSegments(lane, rate, cache);
  const double length = kSegmentSeconds * rate;
  const auto wide = static_cast<size_t>(seconds / kSegmentSeconds),
             first = static_cast<size_t>(std::ceil(static_cast<double>(within.from) / length)),
             end = std::min(energies.size(), static_cast<size_t>(static_cast<double>(within.to) / length));
  if (end <= first + wide) return within.from;
  const auto start = energies.begin() + static_cast<ptrdiff_t>(first);
  double sum = std::accumulate(start, start + static_cast<ptrdiff_t>(wide), 0.0), most = sum;
  size_t best = first;
  for (size_t i = first + wide; i < end; ++i) {
    sum += energies[i] - energies[i - wide];
    if (sum > most) most = sum, best = i - wide + 1;
  }
  return std::max(within.from, static_cast<size_t>(static_cast<double>(best) * length));
}

namespace {

// The pieces from a sample on: a loop goes on over its end, beyond a song's there is nothing.
std::vector<double> readOver(const DecimatedPieces& pieces, bool wraps, const LowEndStretches::Reads& reads,
                             StepCache& cache) {
  const auto all = static_cast<int64_t>(pieces.count());
  std::vector<double> out;
  for (int64_t at = reads.from; at < reads.to;) {
    const int64_t inside = wraps ? (at % all + all) % all : at;
    if (inside < 0 || inside >= all) {
      const int64_t until = inside < 0 ? std::min<int64_t>(0, reads.to) : reads.to;
      out.resize(out.size() + static_cast<size_t>(until - at), 0.0), at = until;
      continue;
    }
    const int64_t until = std::min(all, inside + reads.to - at);
    const auto part = pieces.between(static_cast<size_t>(inside), static_cast<size_t>(until), cache);
    out.insert(out.end(), part.begin(), part.end()), at += until - inside;
  }
  return out;
}

LowEnd lowEndByStretches(const Signal& lane, double rate, StepCache& cache) {
  const bool wraps = lane.span().wraps, wide = lane.channels() > 1;
  const DecimatedPieces mid(lane, Fold::Mid, rate, kLowEndRate, 0, lane.frames()),
      side(lane, Fold::Side, rate, kLowEndRate, 0, lane.frames());
  const auto factor = static_cast<int64_t>(mid.factor());
  const LowEndStretches stretches(mid.count(), rate / static_cast<double>(factor), wraps);
  std::vector<std::shared_ptr<const LowEndStretch>> all;
  for (size_t i = 0; i < stretches.count(); ++i) {
    const auto reads = stretches.reads(i);
    KeyMaker maker("low end stretch 1");
    maker.add(rate).add(i);
    // With what decimation reads about it.
    const int64_t pad = kKernelOutputs * factor;
    addSpan(maker, lane, reads.from * factor - pad, (reads.to - reads.from) * factor + 2 * pad);
    all.push_back(cache.get<LowEndStretch>(
        maker.key(),
        [&] {
          return stretches.measured(i, readOver(mid, wraps, reads, cache),
                                    wide ? readOver(side, wraps, reads, cache) : std::vector<double>());
        },
        [](const LowEndStretch& s) { return 8 * (s.mid.size() + s.side.size()) + 128; }));
  }
  return stretches.together(all, meanSquare(lane, cache));
}

double meanSquareIn(const Signal& lane, const FrameRange& range, StepCache& cache) {
  double sum = 0.0;
  for (size_t at = range.from; at < range.to;) {
    const size_t b = at / kBlockFrames, start = b * kBlockFrames, end = start + lane.blockSize(b),
                 to = std::min(range.to, end);
    if (at == start && to == end) {
      sum += energyAt(lane, b, cache);
    } else {
      const auto held = lane.hold(b);
      for (const auto* channel : {&held->channels.front(), &held->channels.back()})
        sum += energyOf(std::span<const float>(*channel).subspan(at - start, to - at));
    }
    at = to;
  }
  return sum / static_cast<double>(std::max<size_t>(1, range.count()));
}

LowEnd lowEndIn(const Signal& lane, const FrameRange& range, double rate, StepCache& cache) {
  KeyMaker maker("low end of a range 1");
  maker.add(rate);
  addSpan(maker, lane, static_cast<int64_t>(range.from), static_cast<int64_t>(range.count()));
  return *cache.get<LowEnd>(
      maker.key(),
      [&] {
        LowEndParts parts;
        parts.power = meanSquareIn(lane, range, cache);
        const auto part = [&](Fold fold) {
          const DecimatedPieces pieces(lane, fold, rate, kLowEndRate, 0, lane.frames());
          parts.rate = rate / static_cast<double>(pieces.factor());
          return pieces.between(range.from / pieces.factor(),
                                std::min(pieces.count(), range.to / pieces.factor()), cache);
        };
        parts.mid = part(Fold::Mid);
        if (lane.channels() > 1) parts.side = part(Fold::Side);
        return lowEndOf(parts);
      },
      [](const LowEnd&) { return size_t{3000}; });
}

}  // namespace

LowEnd laneLowEnd(const Signal& lane, double rate, StepCache& cache, const std::optional<FrameRange>& range) {
  if (range) return lowEndIn(lane, *range, rate, cache);
  return *cache.get<LowEnd>(
      KeyMaker("lane low 2").add(lane.key()).add(rate).key(),
      [&] {
        if (lane.blockCount() > kWholeLoopBlocks) return lowEndByStretches(lane, rate, cache);
        LowEndParts parts;
        parts.wraps = lane.span().wraps;
        parts.power = meanSquare(lane, cache);
        auto mid = decimatedLane(lane, Fold::Mid, rate, kLowEndRate, 0, lane.frames(), cache);
        parts.rate = mid.sampleRate, parts.mid = std::move(mid.samples);
        if (lane.channels() > 1)
          parts.side = decimatedLane(lane, Fold::Side, rate, kLowEndRate, 0, lane.frames(), cache).samples;
        return lowEndOf(parts);
      },
      [](const LowEnd&) { return size_t{3000}; });
}

std::optional<double> laneLoudness(const Signal& lane, double rate, StepCache& cache) {
  const auto loudness = loopLoudness(lane, rate, cache);
  return loudness ? loudness->integratedLufs : std::nullopt;
}

double laneTruePeakDbtp(const Signal& lane, double rate, StepCache& cache) {
  return dbFromAmplitude(laneTruePeak(lane, rate, cache));
}

std::optional<ProgrammeFacts> laneProgramme(const Signal& lane, double rate, StepCache& cache,
                                            const std::optional<FrameRange>& range) {
  if (range) {
    auto out = laneProgramme(lane, rate, cache);
    if (!out) return std::nullopt;
    out->low = laneLowEnd(lane, rate, cache, range);
    const auto loudness = loudnessBySegments(lane, rate, cache, range);
    out->integratedLufs = loudness ? loudness->integratedLufs : std::nullopt;
    return out;
  }
  return *cache.get<std::optional<ProgrammeFacts>>(
      KeyMaker("programme 2").add(lane.key()).add(rate).key(),
      [&]() -> std::optional<ProgrammeFacts> {
        const auto loudness = loopLoudness(lane, rate, cache);
        if (!loudness) return std::nullopt;
        ProgrammeFacts out;
        out.low = laneLowEnd(lane, rate, cache);
        out.integratedLufs = loudness->integratedLufs;
        out.truePeakDbtp = laneTruePeakDbtp(lane, rate, cache);
        return out;
      },
      [](const auto&) { return size_t{4000}; });
}

}  // namespace heft
