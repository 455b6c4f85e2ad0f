#include "core/study/pair_lanes.h"

#include <algorithm>
#include <cmath>

#include "core/render/lanes/figure_steps.h"
#include "core/render/lanes/lane_steps.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

size_t laneBytes(const SlowLane& l) {
  return 16 * l.samples.size() + 128;
}

// Level of the remaining bass in its band: RMS about each sample.
std::vector<double> leftOf(const SlowLane& moved, const SlowLane& ducked) {
  constexpr double kWindowSeconds = 0.012, kMostLeft = 4.0;
  const auto half = static_cast<size_t>(0.5 * kWindowSeconds * moved.rate);
  const size_t n = std::min(moved.low.size(), ducked.low.size());
  std::vector<double> had(n + 1, 0.0), has(n + 1, 0.0), out(n, 1.0);
  for (size_t i = 0; i < n; ++i) {
    had[i + 1] = had[i] + moved.low[i] * moved.low[i];
    has[i + 1] = has[i] + ducked.low[i] * ducked.low[i];
  }
  for (size_t i = 0; i < n; ++i) {
    const size_t from = i > half ? i - half : 0, to = std::min(n, i + half + 1);
    const double was = had[to] - had[from], is = has[to] - has[from];
    if (was > 1e-18) out[i] = std::min(kMostLeft, std::sqrt(std::max(0.0, is) / was));
  }
  return out;
}

size_t curveBytes(const AlignCurve& c) {
  return 24 * c.size() + 200;
}

StepKey keyOf(const char* what, const Meeting& meeting, double rate, const AlignQuestion& q) {
  KeyMaker maker(what);
  maker.add(q.lowHz).add(q.highHz).add(q.maxDelayMs).add(rate);
  for (const auto& part : {meeting.kick, meeting.bass, meeting.left, meeting.unturned}) addSamples(maker, part);
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

std::shared_ptr<const SlowLane> slowLane(const Signal& stem, double rate, double slowRate, double lead,
                                         StepCache& cache) {
  const StepKey key = KeyMaker("slow lane 2").add(stem.key()).add(rate).add(slowRate).add(lead).key();
  return cache.get<SlowLane>(
      key,
      [&] {
        const DecimatedPieces pieces = slowPieces(stem, rate, slowRate, lead);
        SlowLane out;
        out.rate = rate / static_cast<double>(pieces.factor());
        out.leadSeconds = std::ceil(lead * rate) / rate;
        for (size_t i = 0; i < pieces.size(); ++i) {
          const auto piece = pieces.at(i, cache);
          out.samples.insert(out.samples.end(), piece->begin(), piece->end());
        }
        out.low = bandLimited(out.samples, out.rate, kBassFromHz, kBassToHz);
        return out;
      },
      laneBytes);
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

std::span<const double> SlowLane::from(const std::vector<double>& x, double seconds, double count) const {
  const size_t first = std::min(x.size(), at(seconds));
  return std::span<const double>(x).subspan(
      first, std::min(x.size() - first, static_cast<size_t>(std::max(0.0, count * rate))));
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
  if (s.ducksBass()) out.left = leftOf(*out.moved, *out.bass);
  return out;
}

std::shared_ptr<const AlignCurve> curveAt(const PairLanes& lanes, const AlignQuestion& q,
                                          const MeetingSpan& span, PairHeard heard, StepCache& cache) {
  const Meeting meeting = lanes.meeting(span, heard);
  const double rate = lanes.kick->rate;
  return cache.get<AlignCurve>(
      keyOf("meeting 3", meeting, rate, q), [&] { return alignCurve(meeting, rate, q); }, curveBytes);
}

std::shared_ptr<const MeetingFigures> figuresAt(const PairLanes& lanes, const AlignQuestion& q,
                                                const MeetingSpan& span, PairHeard heard, StepCache& cache) {
  const Meeting meeting = lanes.meeting(span, heard);
  return cache.get<MeetingFigures>(
      keyOf("meeting figures 1", meeting, lanes.kick->rate, q),
      [&] { return meetingFigures(meeting, lanes.kick->rate, q); },
      [](const MeetingFigures& f) { return curveBytes(f.curve) + 16 * f.cross.size(); });
}

void addSamples(KeyMaker& maker, std::span<const double> x) {
  maker.add(std::string(reinterpret_cast<const char*>(x.data()), x.size_bytes()));
}

}  // namespace heft
