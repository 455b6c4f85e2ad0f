#include "core/render/lanes/judged_stretch.h"

#include <algorithm>
#include <cmath>

#include "core/render/lanes/figure_steps.h"

namespace heft {
namespace {

using Levels = std::vector<double>;

size_t bytesOfLevels(const Levels& x) {
  return 8 * x.size() + 64;
}

// The highest sample of each millisecond of the lane that a block reaches into.
std::shared_ptr<const Levels> millisecondPeaks(const Signal& lane, size_t b, double rate, StepCache& cache) {
  return cache.get<Levels>(
      KeyMaker("millisecond peaks 1").add(lane.key(b)).add(b).add(rate).key(),
      [&] {
        const auto held = lane.hold(b);
        const double step = 0.001 * rate, start = static_cast<double>(b * kBlockFrames);
        const auto first = static_cast<size_t>(start / step);
        Levels peaks;
        for (const auto& channel : held->channels)
          for (size_t i = 0; i < lane.blockSize(b); ++i) {
            const size_t at = static_cast<size_t>((start + static_cast<double>(i)) / step) - first;
            if (at >= peaks.size()) peaks.resize(at + 1, 0.0);
            peaks[at] = std::max(peaks[at], std::abs(static_cast<double>(channel[i])));
          }
        return peaks;
      },
      bytesOfLevels);
}

Levels peaksIn(const Signal& lane, const JudgedStretch& stretch, StepCache& cache) {
  const double step = 0.001 * stretch.rate;
  const auto from = static_cast<size_t>(static_cast<double>(stretch.first) / step);
  Levels out(static_cast<size_t>(static_cast<double>(stretch.count) / step) + 1, 0.0);
  for (size_t b = stretch.first / kBlockFrames; b * kBlockFrames < stretch.first + stretch.count; ++b) {
    const auto peaks = millisecondPeaks(lane, b, stretch.rate, cache);
    const auto at = static_cast<size_t>(static_cast<double>(b * kBlockFrames) / step);
    for (size_t i = 0; i < peaks->size(); ++i)
      if (at + i >= from && at + i - from < out.size())
        out[at + i - from] = std::max(out[at + i - from], (*peaks)[i]);
  }
  return out;
}

// Piece by piece, each with what is about it in the loop; nothing is about a song's stretch.
void addLowEnergy(CeilingParts& to, const Levels& slow, bool wraps, StepCache& cache) {
  constexpr size_t kPiece = 2048;
  const auto n = static_cast<int64_t>(slow.size());
  to.lowEnergy.resize(slow.size(), 0.0);
  for (int64_t at = 0; at < n; at += kPiece) {
    Levels piece(std::min<size_t>(kPiece, slow.size() - static_cast<size_t>(at)) + 2 * kLowAbout, 0.0);
    for (size_t i = 0; i < piece.size(); ++i) {
      const int64_t from = at + static_cast<int64_t>(i) - static_cast<int64_t>(kLowAbout);
      if (wraps || (from >= 0 && from < n)) piece[i] = slow[static_cast<size_t>((from % n + n) % n)];
    }
    KeyMaker maker("low energy 1");
    maker.add(to.lowRate).add(std::span<const double>(piece));
    const auto squares = cache.get<Levels>(
        maker.key(), [&] { return lowSquares(piece, to.lowRate, kLowAbout); }, bytesOfLevels);
    for (size_t i = 0; i < squares->size(); ++i) to.lowEnergy[static_cast<size_t>(at) + i] += (*squares)[i];
  }
}

}  // namespace

std::vector<double> JudgedStretch::within(const std::vector<double>& frames) const {
  std::vector<double> out;
  for (const double frame : frames)
    if (frame >= static_cast<double>(first) && frame < static_cast<double>(first + count))
      out.push_back((frame - static_cast<double>(first)) / rate);
  return out;
}

JudgedStretch judgedStretch(const Signal& lane, double rate, StepCache& cache,
                            const std::optional<FrameRange>& range) {
  constexpr double kSeconds = 60.0;
  JudgedStretch out{0, lane.frames(), lane.span().wraps && !range, rate};
  if (out.wraps) return out;
  const FrameRange within = range.value_or(FrameRange{0, lane.frames()});
  out.first = loudestStretch(lane, within, kSeconds, rate, cache);
  out.count = std::min(within.to - out.first, static_cast<size_t>(kSeconds * rate));
  return out;
}

std::optional<FrameRange> rangeOfSection(const Session& s, const TrackSection& section, const Span& span) {
  const auto frame = [&](double quarters) {
    return std::min(span.frames,
                    static_cast<size_t>(std::llround(std::max(0.0, quarters * s.track.framesPerQuarter()))));
  };
  const FrameRange out{frame(section.fromQuarters), frame(section.toQuarters)};
  return out.from < out.to ? std::optional(out) : std::nullopt;
}

std::optional<FrameRange> comparedRange(const Session& s, const Span& span) {
  const TrackSection* section = s.comparedSection();
  return section ? rangeOfSection(s, *section, span) : std::nullopt;
}

AudioBuffer soundOf(const Signal& lane, const JudgedStretch& stretch) {
  AudioBuffer out;
  out.sampleRate = stretch.rate;
  for (size_t c = 0; c < lane.channels(); ++c)
    out.channels.push_back(lane.read(c, static_cast<int64_t>(stretch.first), stretch.count));
  return out;
}

LowEndParts lowEndPartsOf(const Signal& lane, const JudgedStretch& stretch, StepCache& cache) {
  const auto part = [&](Fold fold) {
    return decimatedLane(lane, fold, stretch.rate, kLowEndRate, static_cast<int64_t>(stretch.first),
                         stretch.count, cache);
  };
  LowEndParts out;
  out.wraps = stretch.wraps;
  if (stretch.count == 0) return out;
  auto mid = part(Fold::Mid);
  out.rate = mid.sampleRate, out.mid = std::move(mid.samples);
  if (lane.channels() > 1) out.side = part(Fold::Side).samples;
  return out;
}

CeilingParts ceilingPartsOf(const Signal& lane, const JudgedStretch& stretch, StepCache& cache) {
  const LowEndParts low = lowEndPartsOf(lane, stretch, cache);
  CeilingParts out{peaksIn(lane, stretch, cache), {}, low.rate};
  for (const auto* slow : {&low.mid, &low.side})
    if (!slow->empty()) addLowEnergy(out, *slow, stretch.wraps, cache);
  return out;
}

}  // namespace heft
