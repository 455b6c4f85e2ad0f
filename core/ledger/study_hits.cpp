#include "core/ledger/study_hits.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels.h"
#include "core/render/figure_steps.h"
#include "core/render/lane_steps.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kLongestTailSeconds = 2.0;  // no tail is judged for longer
constexpr double kWaveSeconds = 0.4, kLeastLead = 0.05;
constexpr double kBassFromHz = 20.0, kBassToHz = 150.0;  // in which the bass stands in the kick's way

/// A lane folded to mono at a slow rate, from a lead before the loop's start to a stretch beyond its end.
struct SlowLane {
  std::vector<double> samples, low;  ///< all of it; what lies between kBassFromHz and kBassToHz
  double rate = 1.0, leadSeconds = 0.0;

  // Where a moment of the loop lies; may be read from there to the end of the stretch.
  size_t at(double seconds) const {
    return static_cast<size_t>(std::llround(std::max(0.0, (seconds + leadSeconds) * rate)));
  }
  std::span<const double> from(const std::vector<double>& x, double seconds, double count) const {
    const size_t first = std::min(x.size(), at(seconds));
    return std::span<const double>(x).subspan(
        first, std::min(x.size() - first, static_cast<size_t>(std::max(0.0, count * rate))));
  }
};

size_t laneBytes(const SlowLane& l) {
  return 16 * l.samples.size() + 128;
}

std::shared_ptr<const SlowLane> slowLane(const Stem& stem, double rate, double slowRate, double lead,
                                         StepCache& cache) {
  const StepKey key = KeyMaker("slow lane 2").add(stem.key()).add(rate).add(slowRate).add(lead).key();
  return cache.get<SlowLane>(
      key,
      [&] {
        const auto before = static_cast<int64_t>(std::ceil(lead * rate));
        const size_t count = stem.frames() + 2 * static_cast<size_t>(before) +
                             static_cast<size_t>((kLongestTailSeconds + kWaveSeconds) * rate);
        auto slow = decimatedLane(stem, Fold::Mid, rate, slowRate, -before, count, cache);
        SlowLane out;
        out.rate = slow.sampleRate, out.leadSeconds = static_cast<double>(before) / rate;
        out.low = bandLimited(slow.samples, slow.sampleRate, kBassFromHz, kBassToHz);
        out.samples = std::move(slow.samples);
        return out;
      },
      laneBytes);
}

struct Lanes {
  /// Of the bass: where it stands, its phase turned, moved as well, and ducked as well. What is not done is the
  /// same lane.
  std::shared_ptr<const SlowLane> kick, placed, turned, moved, bass;
  std::vector<double> left;  ///< of the bass after the ducking, all through; empty: all of it
};

// What is left of the bass in its band, by the root of its power about each sample.
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

Lanes lanesOf(const Session& s, const Stems& stems, StepCache& cache) {
  const auto& q = s.bass().align.question;
  const double slowRate = 14.0 * std::max(q.highHz, kBassToHz);
  const double lead = kLeastLead + std::max(q.maxDelayMs, std::abs(s.bass().align.delayMs)) / 1000.0;
  auto slow = [&](const Stem& stem) { return slowLane(stem, stems.sampleRate, slowRate, lead, cache); };
  const AlignMove& move = s.bass().align;
  const Stem turned = rotatedStem(stems.bassPlaced(), move.rotation, stems.sampleRate, cache);
  Lanes out{slow(stems.kick()), slow(stems.bassPlaced()), slow(turned), {}, slow(stems.bass()), {}};
  out.moved = slow(movedStem(stems.bassPlaced(), move, stems.sampleRate, cache));
  if (s.ducksBass()) out.left = leftOf(*out.moved, *out.bass);
  return out;
}

void add(KeyMaker& maker, std::span<const double> x) {
  maker.add(std::string(reinterpret_cast<const char*>(x.data()), x.size_bytes()));
}

// The half of the tail in which the kick is within 20 dB of its peak.
double bodySeconds(const SoundFacts& kick) {
  return std::clamp(0.5 * kick.tailLowMs / 1000.0, 0.03, 0.1);
}

// Beneath it is silence.
std::optional<double> aboveFloor(double db) {
  constexpr double kFloorDb = -119.0;
  if (db <= kFloorDb) return std::nullopt;
  return db;
}

// Level of the bass re the kick over the first `seconds` of a hit.
std::optional<double> bassReKick(const Lanes& lanes, double at, double seconds) {
  const double k = energyOf(lanes.kick->from(lanes.kick->low, at, seconds)),
               b = energyOf(lanes.bass->from(lanes.bass->low, at, seconds));
  if (!(k > 0.0) || !(b > 0.0)) return std::nullopt;
  return aboveFloor(dbFromPower(b) - dbFromPower(k));
}

void nextNote(HitFacts& hit, const Session& s, double hitQuarters, const SoundFacts& kick,
              const std::vector<double>& envelope) {
  const double loop = s.track.loopQuarters();
  double gap = 1e9;
  for (const Note& n : s.bass().notes) {
    if (n.startQuarters >= loop) continue;
    double ahead = n.startQuarters - hitQuarters;
    while (ahead < 0.02) ahead += loop;
    gap = std::min(gap, ahead);
  }
  if (gap >= loop - 0.02 || envelope.empty()) return;
  hit.nextNoteGapMs = gap * 60000.0 / s.track.tempoBpm;
  const double peak = *std::max_element(envelope.begin(), envelope.end());
  const auto at =
      static_cast<size_t>((kick.onsetSeconds.value_or(0.0) + *hit.nextNoteGapMs / 1000.0) * kick.sampleRate);
  if (at < envelope.size() && peak > 0.0)
    hit.tailAtNextNoteDb = aboveFloor(dbFromAmplitude(envelope[at] / peak));
}

// The picture's waves: a lead before the hit long enough for any delay, and 0.4 s after it.
void addWaves(HitFacts& out, const AlignQuestion& q, const Lanes& lanes, double at, StepCache& cache) {
  const double lead = kLeastLead + q.maxDelayMs / 1000.0, count = lead + kWaveSeconds + q.maxDelayMs / 1000.0;
  out.waveRate = lanes.kick->rate;
  // What stands on a sample stands a little off the moment that was asked for: the lead says so.
  out.waveLeadSeconds = at + lanes.kick->leadSeconds -
                        static_cast<double>(lanes.kick->at(at - lead)) / lanes.kick->rate;
  auto wave = [&](const SlowLane& lane) {
    const auto part = lane.from(lane.samples, at - lead, count);
    KeyMaker maker("wave 1");
    maker.add(q.lowHz).add(q.highHz).add(lane.rate);
    add(maker, part);
    return *cache.get<std::vector<float>>(
        maker.key(),
        [&] {
          const auto band = bandLimited(part, lane.rate, q.lowHz, q.highHz);
          return std::vector<float>(band.begin(), band.end());
        },
        [](const auto& x) { return 4 * x.size() + 64; });
  };
  out.kickWave = wave(*lanes.kick);
  out.bassWave = wave(*lanes.turned);
}

// Kick and bass from a hit on: as the ducking leaves the bass, and without it.
struct MeetingCurves {
  AlignCurve heard, plain;
};

MeetingCurves curvesAt(const Lanes& lanes, const AlignQuestion& q, double at, double count, StepCache& cache) {
  const double rate = lanes.kick->rate;
  Meeting meeting{lanes.kick->from(lanes.kick->samples, at, count),
                  lanes.turned->from(lanes.turned->samples, at, count)};
  if (lanes.turned != lanes.placed) meeting.unturned = lanes.placed->from(lanes.placed->samples, at, count);
  auto curve = [&] {
    KeyMaker maker("meeting 3");
    maker.add(q.lowHz).add(q.highHz).add(q.maxDelayMs).add(rate);
    for (const auto& part : {meeting.kick, meeting.bass, meeting.left, meeting.unturned}) add(maker, part);
    return *cache.get<AlignCurve>(
        maker.key(), [&] { return alignCurve(meeting, rate, q); },
        [](const AlignCurve& c) { return 24 * c.size() + 200; });
  };
  MeetingCurves out;
  out.heard = out.plain = curve();
  if (lanes.left.empty()) return out;
  meeting.left = lanes.kick->from(lanes.left, at, count);
  out.heard = curve();
  return out;
}

HitFacts meetingAt(const Session& s, const Stems& stems, size_t index, const Lanes& lanes, StepCache& cache) {
  HitFacts out;
  out.frame = stems.hitFrames()[index];
  const double next = index + 1 < stems.hitFrames().size()
                          ? stems.hitFrames()[index + 1]
                          : stems.hitFrames()[0] + static_cast<double>(stems.frames);
  const double at = out.frame / stems.sampleRate,
               count = std::min((next - out.frame) / stems.sampleRate, kLongestTailSeconds);
  const AlignMove& move = s.bass().align;
  MeetingCurves curves = curvesAt(lanes, move.question, at, count, cache);
  addWaves(out, move.question, lanes, at, cache);
  out.curve = std::move(curves.heard), out.plain = std::move(curves.plain);
  if (out.curve.overlap) {
    out.own = bestAlignment(out.curve);
    out.levelDb = out.plain.levelAt(move.delayMs, move.invert);
    out.heardDb = out.curve.levelAt(move.delayMs, move.invert);
  }
  const double hitQuarters = out.frame / s.track.framesPerQuarter();
  for (const Note& n : s.bass().notes)
    if (n.startQuarters < hitQuarters + 0.25 && n.startQuarters + n.lengthQuarters > hitQuarters + 0.02)
      out.noteMidi = n.midi;
  return out;
}

}  // namespace

Result<void> studyHits(Study& out, const Session& s, const Stems& stems, StepCache& cache,
                       const std::stop_token& stop) {
  if (!out.kick || !out.kick->onsetSeconds || !out.readyKick || stems.hitFrames().empty()) return {};
  const auto envelope = slidingPeak(monoFold(out.readyKick->sound), out.readyKick->sound.sampleRate,
                                    envelopeWindowSeconds(out.kick->landing));
  const double kickSeconds = bodySeconds(*out.kick);
  const Lanes lanes = lanesOf(s, stems, cache);
  std::vector<AlignCurve> curves, plain;
  out.hitsInLoop = stems.hitFrames().size();
  for (size_t i = 0; i < std::min(kMostJudgedHits, stems.hitFrames().size()); ++i) {
    if (stop.stop_requested()) return cancelled();
    HitFacts hit = meetingAt(s, stems, i, lanes, cache);
    hit.bassReKickDb = bassReKick(lanes, hit.frame / stems.sampleRate, kickSeconds);
    nextNote(hit, s, hit.frame / s.track.framesPerQuarter(), *out.kick, envelope);
    curves.push_back(hit.curve), plain.push_back(hit.plain);
    out.hits.push_back(std::move(hit));
  }
  out.all = combined(curves);
  out.best = bestAlignment(out.all);
  const AlignMove& move = s.bass().align;
  if (out.all.overlap) {
    out.alignedDb = out.all.levelAt(move.delayMs, move.invert);
    out.unduckedDb = combined(plain).levelAt(move.delayMs, move.invert);
  }
  for (HitFacts& hit : out.hits)
    if (hit.curve.overlap) hit.bestDb = hit.curve.levelAt(out.best.delayMs, out.best.invert);
  return {};
}

double RoomFacts::worstDb() const {
  double out = kNothing;
  for (const auto& db : bassToKickDb) out = std::max(out, db.value_or(kNothing));
  return out;
}

std::optional<RoomFacts> measureRoom(const Session& s, const Assets& assets, const Stems& stems,
                                     StepCache& cache, std::optional<size_t> atHit) {
  const auto kick = SoundSteps(assets, cache, s.track.sampleRate).kickFacts(s.kick(), s.track);
  if (!kick || !kick->onsetSeconds || stems.hitFrames().empty()) return std::nullopt;
  const Lanes lanes = lanesOf(s, stems, cache);
  RoomFacts out;
  size_t worst = 0;
  for (size_t i = 0; i < std::min(kMostJudgedHits, stems.hitFrames().size()); ++i) {
    out.bassToKickDb.push_back(bassReKick(lanes, stems.hitFrames()[i] / stems.sampleRate, bodySeconds(*kick)));
    if (out.bassToKickDb[i].value_or(RoomFacts::kNothing) >
        out.bassToKickDb[worst].value_or(RoomFacts::kNothing))
      worst = i;
  }
  const double at =
      stems.hitFrames()[std::min(atHit.value_or(worst), stems.hitFrames().size() - 1)] / stems.sampleRate;
  constexpr double kShownMs = 250.0, kWindow = 0.02;
  for (double ms = -RoomFacts::kLeadMs; ms < kShownMs; ms += RoomFacts::kStepMs) {
    auto level = [&](const SlowLane& lane) {
      const double from = at + ms / 1000.0 - 0.5 * kWindow;
      return static_cast<float>(
          std::sqrt(2.0 * energyOf(lane.from(lane.low, from, kWindow)) / (kWindow * lane.rate)));
    };
    out.kickLevel.push_back(level(*lanes.kick)), out.bassLevel.push_back(level(*lanes.bass));
  }
  return out;
}

}  // namespace heft
