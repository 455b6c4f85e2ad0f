#include "core/study/pair_lanes.h"

#include <algorithm>
#include <cmath>

#include "core/render/lanes/figure_steps.h"
#include "core/render/lanes/lane_blocks.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

using Samples = std::vector<double>;

// One stretch of a lane, made of pieces.
struct SlowStretch {
  std::shared_ptr<const Samples> samples, low;
};

// Level of the remaining bass in its band: RMS about each sample.
Samples leftOf(const Samples& moved, const Samples& ducked, double rate) {
  constexpr double kWindowSeconds = 0.012, kMostLeft = 4.0;
  const auto half = static_cast<size_t>(0.5 * kWindowSeconds * rate);
  const size_t n = std::min(moved.size(), ducked.size());
  Samples had(n + 1, 0.0), has(n + 1, 0.0), out(n, 1.0);
  for (size_t i = 0; i < n; ++i) {
    had[i + 1] = had[i] + moved[i] * moved[i];
    has[i + 1] = has[i] + ducked[i] * ducked[i];
  }
  for (size_t i = 0; i < n; ++i) {
    const size_t from = i > half ? i - half : 0, to = std::min(n, i + half + 1);
    const double was = had[to] - had[from], is = has[to] - has[from];
    if (was > 1e-18) out[i] = std::min(kMostLeft, std::sqrt(std::max(0.0, is) / was));
  }
  return out;
}

size_t curveBytes(const SmallCurve& c) {
  return 8 * c.cross.size() + 200;
}

StepKey keyOf(const char* what, const Meeting& meeting, double rate, const AlignQuestion& q) {
  KeyMaker maker(what);
  maker.add(q.lowHz).add(q.highHz).add(q.maxDelayMs).add(rate);
  for (const auto& part : {meeting.kick, meeting.bass, meeting.left, meeting.unturned}) maker.add(part);
  return maker.key();
}

}  // namespace

namespace {

DecimatedPieces slowPieces(const Signal& stem, double rate, double slowRate, double lead) {
  const auto before = static_cast<int64_t>(std::ceil(lead * rate));
  const size_t count = stem.frames() + 2 * static_cast<size_t>(before) +
                       static_cast<size_t>((kLongestTailSeconds + kWaveSeconds) * rate);
  return {stem, Fold::Mid, rate, slowRate, -before, count};
}

/// Rate and lead of the lanes beside a pair.
struct SlowAsk {
  double rate = 1.0, lead = 0.0;
};
SlowAsk slowAskOf(const Session& s) {
  const auto& q = s.bass().align.question;
  return {14.0 * std::max(q.highHz, kBassToHz),
          kLeastLeadSeconds + std::max(q.maxDelayMs, std::abs(s.bass().align.delayMs)) / 1000.0};
}

}  // namespace

namespace {

// How a lane is cut into stretches: in one piece up to the length of a loop that runs as a whole.
struct Stretching {
  size_t all = 0, apart = 1, longest = 0, about = 0;
  size_t first(size_t stretch) const { return stretch * apart; }
  size_t end(size_t stretch) const { return std::min(all, first(stretch) + longest); }
  size_t stretches() const { return all == 0 ? 0 : (all - 1) / apart + 1; }
};

Stretching cutOf(const Signal& stem, const DecimatedPieces& pieces, double slowRate) {
  constexpr double kStretchSeconds = 16.0, kAboutStretchSeconds = 0.8;
  const auto samplesIn = [&](double seconds) { return static_cast<size_t>(std::ceil(seconds * slowRate)); };
  if (stem.blockCount() <= kWholeLoopBlocks) return {pieces.count(), pieces.count() + 1, pieces.count(), 0};
  return {pieces.count(), samplesIn(kStretchSeconds), samplesIn(kStretchSeconds + kLongestReadSeconds),
          samplesIn(kAboutStretchSeconds)};
}

SlowStretch stretchOf(const DecimatedPieces& pieces, const Stretching& cut, size_t i, double slowRate,
                      StepCache& cache) {
  const size_t from = cut.first(i) - std::min(cut.first(i), cut.about),
               to = std::min(cut.all, cut.end(i) + cut.about);
  const Samples all = pieces.between(from, to, cache);
  const Samples low = bandLimited(all, slowRate, kBassFromHz, kBassToHz);
  const auto within = [&](const Samples& x) {
    return std::make_shared<const Samples>(x.begin() + static_cast<ptrdiff_t>(cut.first(i) - from),
                                           x.begin() + static_cast<ptrdiff_t>(cut.end(i) - from));
  };
  return {within(all), within(low)};
}

// `with` of the stretches of two lanes that are cut alike.
SlowSamples leftAlong(const SlowLane& moved, const SlowLane& ducked, StepCache& cache) {
  SlowSamples out{{}, moved.low.apart, std::min(moved.low.count, ducked.low.count)};
  for (size_t i = 0; i < std::min(moved.keys.size(), ducked.keys.size()); ++i)
    out.stretches.push_back(cache.get<Samples>(
        KeyMaker("left of the bass 1").add(moved.keys[i]).add(ducked.keys[i]).key(),
        [&] { return leftOf(*moved.low.stretches[i], *ducked.low.stretches[i], moved.rate); },
        [](const Samples& x) { return 8 * x.size() + 64; }));
  return out;
}

}  // namespace

std::shared_ptr<const SlowLane> slowLane(const Signal& stem, double rate, double slowRate, double lead,
                                         StepCache& cache) {
  const DecimatedPieces pieces = slowPieces(stem, rate, slowRate, lead);
  auto out = std::make_shared<SlowLane>();
  out->rate = rate / static_cast<double>(pieces.factor());
  out->leadSeconds = std::ceil(lead * rate) / rate;
  const Stretching cut = cutOf(stem, pieces, out->rate);
  out->samples.apart = out->low.apart = cut.apart, out->samples.count = out->low.count = cut.all;
  for (size_t i = 0; i < cut.stretches(); ++i) {
    KeyMaker maker("slow stretch 1");
    maker.add(cut.first(i)).add(cut.end(i)).add(cut.about);
    pieces.addTo(maker, cut.first(i) - std::min(cut.first(i), cut.about),
                 std::min(cut.all, cut.end(i) + cut.about));
    out->keys.push_back(maker.key());
    const auto made = cache.get<SlowStretch>(
        out->keys.back(), [&] { return stretchOf(pieces, cut, i, out->rate, cache); },
        [](const SlowStretch& s) { return 16 * s.samples->size() + 128; });
    out->samples.stretches.push_back(made->samples), out->low.stretches.push_back(made->low);
  }
  return out;
}

std::span<const double> SlowSamples::from(size_t first, size_t wanted) const {
  if (first >= count) return {};
  const auto& stretch = *stretches[first / apart];
  const size_t at = first % apart;
  return std::span<const double>(stretch).subspan(
      std::min(at, stretch.size()), std::min(wanted, stretch.size() - std::min(at, stretch.size())));
}

void measurePairBlock(const Session& s, const Stems& stems, const PairSignals& pair, size_t b,
                      StepCache& cache) {
  const SlowAsk ask = slowAskOf(s);
  std::vector<const Signal*> lanes{&stems.kick(), &stems.bassPlaced(), &pair.turned, &pair.moved,
                                   &stems.bass()};
  if (!s.backing.asset.empty() && !s.backing.mute) lanes.push_back(&stems.backing);
  for (const Signal* lane : lanes) {
    const DecimatedPieces pieces = slowPieces(*lane, stems.sampleRate, ask.rate, ask.lead);
    // The lead is over a block late at the most.
    if (b < pieces.size()) pieces.at(b, cache);
  }
}

size_t SlowLane::at(double seconds) const {
  return static_cast<size_t>(std::llround(std::max(0.0, (seconds + leadSeconds) * rate)));
}

std::span<const double> SlowLane::from(const SlowSamples& x, double seconds, double count) const {
  return x.from(at(seconds), static_cast<size_t>(std::max(0.0, count * rate)));
}

std::vector<MeetingSpan> meetingSpans(const Stems& stems) {
  return meetingSpans(stems.hitFrames(), stems);
}

std::vector<MeetingSpan> meetingSpans(const std::vector<double>& hits, const Stems& stems) {
  std::vector<MeetingSpan> out;
  for (size_t i = 0; i < hits.size(); ++i) {
    const double end = static_cast<double>(stems.frames) + (stems.span.wraps ? hits[0] : 0.0);
    const double next = i + 1 < hits.size() ? hits[i + 1] : end;
    out.push_back(
        {hits[i] / stems.sampleRate, std::min((next - hits[i]) / stems.sampleRate, kLongestTailSeconds)});
  }
  return out;
}

Meeting PairLanes::meeting(const MeetingSpan& span, PairHeard heard) const {
  auto part = [&](const SlowLane& lane) { return lane.from(lane.samples, span.atSeconds, span.seconds); };
  Meeting out{part(*kick), part(*turned)};
  if (turned != placed) out.unturned = part(*placed);
  if (heard == PairHeard::AsDucked && !left.empty()) out.left = kick->from(left, span.atSeconds, span.seconds);
  return out;
}

std::shared_ptr<const SlowLane> besidePair(const Session& s, const Stems& stems, const Signal& lane,
                                           StepCache& cache) {
  const SlowAsk ask = slowAskOf(s);
  return slowLane(lane, stems.sampleRate, ask.rate, ask.lead, cache);
}

PairSignals pairSignals(const Session& s, const Stems& stems, StepCache& cache) {
  const AlignMove& move = s.bass().align;
  return {rotatedStem(stems.bassPlaced(), move.rotation, stems.sampleRate, cache),
          movedStem(stems.bassPlaced(), move, stems.sampleRate, cache)};
}

PairLanes pairLanes(const Session& s, const Stems& stems, StepCache& cache) {
  auto slow = [&](const Signal& stem) { return besidePair(s, stems, stem, cache); };
  const PairSignals pair = pairSignals(s, stems, cache);
  PairLanes out{slow(stems.kick()), slow(stems.bassPlaced()), slow(pair.turned), {}, slow(stems.bass()), {}};
  out.moved = slow(pair.moved);
  if (s.ducksBass()) out.left = leftAlong(*out.moved, *out.bass, cache);
  return out;
}

std::shared_ptr<const SmallCurve> curveAt(const PairLanes& lanes, const AlignQuestion& q,
                                          const MeetingSpan& span, PairHeard heard, StepCache& cache) {
  const Meeting meeting = lanes.meeting(span, heard);
  const double rate = lanes.kick->rate;
  return cache.get<SmallCurve>(
      keyOf("meeting 3", meeting, rate, q), [&] { return smallCurve(meeting, rate, q); }, curveBytes);
}

AlignAnswer ownMoveAt(const PairLanes& lanes, const AlignQuestion& q, const MeetingSpan& span,
                      StepCache& cache) {
  const Meeting meeting = lanes.meeting(span, PairHeard::AsDucked);
  return *cache.get<AlignAnswer>(
      keyOf("own move 1", meeting, lanes.kick->rate, q),
      [&] { return bestAlignment(curveAt(lanes, q, span, PairHeard::AsDucked, cache)->whole()); },
      [](const AlignAnswer&) { return sizeof(AlignAnswer); });
}

std::shared_ptr<const MeetingFigures> figuresAt(const PairLanes& lanes, const AlignQuestion& q,
                                                const MeetingSpan& span, PairHeard heard, StepCache& cache) {
  const Meeting meeting = lanes.meeting(span, heard);
  return cache.get<MeetingFigures>(
      keyOf("meeting figures 1", meeting, lanes.kick->rate, q),
      [&] { return meetingFigures(meeting, lanes.kick->rate, q); },
      [](const MeetingFigures& f) { return 24 * f.curve.size() + 16 * f.cross.size() + 200; });
}

}  // namespace heft
