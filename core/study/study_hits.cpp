#include "core/study/study_hits.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/levels.h"
#include "core/sound/filter.h"
#include "core/study/hand_overs.h"
#include "core/study/pair_lanes.h"

namespace heft {
namespace {

// Silence is below this.
std::optional<double> aboveFloor(double db) {
  constexpr double kFloorDb = -119.0;
  if (db <= kFloorDb) return std::nullopt;
  return db;
}

// Level of the bass re the kick over the first `seconds` of a hit.
std::optional<double> bassReKick(const PairLanes& lanes, double at, double seconds) {
  const double k = energyOf(lanes.kick->from(lanes.kick->low, at, seconds)),
               b = energyOf(lanes.bass->from(lanes.bass->low, at, seconds));
  if (!(k > 0.0) || !(b > 0.0)) return std::nullopt;
  return aboveFloor(dbFromPower(b) - dbFromPower(k));
}

// The last moment of the kick's tail at which it is the louder one, by RMS over 20 ms. Beyond its tail the
// next strike would already show.
std::optional<double> lastOver(const SlowLane& kick, const SlowLane& other, double atSeconds,
                               double tailSeconds) {
  constexpr double kHop = 0.005, kWindow = 0.02, kFloorDb = -80.0;
  double loudest = 0.0, overUntil = -1.0;
  for (double at = 0.0; at < tailSeconds; at += kHop) {
    const double k = energyOf(kick.from(kick.low, atSeconds + at, kWindow)),
                 o = energyOf(other.from(other.low, atSeconds + at, kWindow));
    loudest = std::max(loudest, o);
    if (k > o && k > 0.0) overUntil = std::min(at + 0.5 * kWindow, tailSeconds);
  }
  if (overUntil < 0.0 || dbFromPower(std::max(loudest, 1e-30)) < kFloorDb) return std::nullopt;
  return 1000.0 * overUntil;
}

// How far a pattern is from itself where it comes round: a loop has a round before and after it, a song none.
std::vector<double> roundsOf(const Track& track) {
  if (track.song) return {0.0};
  return {-track.loopQuarters(), 0.0, track.loopQuarters()};
}

// The note that ended last before a hit, where none is held at it or starts with it.
const Note* releasedBefore(const Session& s, double hitQuarters) {
  constexpr double kWithHit = 0.05, kLongestWaitSeconds = 1.0;
  const Note* out = nullptr;
  const double loop = s.track.loopQuarters();
  const auto rounds = roundsOf(s.track);
  double nearest = kLongestWaitSeconds * s.track.tempoBpm / 60.0;
  for (const Note& n : s.bass().notes) {
    if (n.startQuarters >= loop) continue;
    for (const double round : rounds) {
      const double start = n.startQuarters + round, end = n.endQuarters() + round;
      if (start <= hitQuarters + kWithHit && end > hitQuarters + 1e-9) return nullptr;
      if (end <= hitQuarters + 1e-9 && hitQuarters - end < nearest) nearest = hitQuarters - end, out = &n;
    }
  }
  return out;
}

std::optional<double> releaseAt(const Session& s, const PairLanes& lanes, double atSeconds) {
  constexpr double kWindow = 0.02, kFloorDb = -80.0;
  const double quarter = 60.0 / s.track.tempoBpm;
  const Note* note = releasedBefore(s, atSeconds / quarter);
  if (!note) return std::nullopt;
  const double start = note->startQuarters * quarter;
  auto level = [&](double at) { return energyOf(lanes.bass->from(lanes.bass->low, at, kWindow)); };
  double loudest = 0.0;
  for (double at = start; at < note->endQuarters() * quarter; at += 0.5 * kWindow)
    loudest = std::max(loudest, level(at));
  // Ignores what the strike masks.
  const double left = level(atSeconds + kWindow);
  if (dbFromPower(std::max(loudest, 1e-30)) < kFloorDb) return std::nullopt;
  return std::max(kFloorDb, dbFromPower(std::max(left, 1e-30)) - dbFromPower(loudest));
}

void nextNote(HitFacts& hit, const Session& s, double hitQuarters, const SoundFacts& kick,
              const std::vector<double>& envelope, double peak) {
  const double loop = s.track.loopQuarters();
  double gap = 1e9;
  for (const Note& n : s.bass().notes) {
    if (n.startQuarters >= loop) continue;
    double ahead = n.startQuarters - hitQuarters;
    while (!s.track.song && ahead < 0.02) ahead += loop;
    if (ahead >= 0.02) gap = std::min(gap, ahead);
  }
  if (gap >= loop - 0.02 || envelope.empty()) return;
  hit.nextNoteGapMs = gap * 60000.0 / s.track.tempoBpm;
  const auto at =
      static_cast<size_t>((kick.onsetSeconds.value_or(0.0) + *hit.nextNoteGapMs / 1000.0) * kick.sampleRate);
  if (at < envelope.size() && peak > 0.0)
    hit.tailAtNextNoteDb = aboveFloor(dbFromAmplitude(envelope[at] / peak));
}

// For the picture: a lead before the hit long enough for any delay, and 0.4 s after it.
void addWaves(HitFacts& out, const AlignQuestion& q, const PairLanes& lanes, double at, StepCache& cache) {
  const double lead = kLeastLeadSeconds + q.maxDelayMs / 1000.0,
               count = lead + kWaveSeconds + q.maxDelayMs / 1000.0;
  out.waveRate = lanes.kick->rate;
  // A frame may be a little off the requested moment; the lead corrects that.
  out.waveLeadSeconds =
      at + lanes.kick->leadSeconds - static_cast<double>(lanes.kick->at(at - lead)) / lanes.kick->rate;
  auto wave = [&](const SlowLane& lane) {
    const auto part = lane.from(lane.samples, at - lead, count);
    KeyMaker maker("wave 2");
    maker.add(q.lowHz).add(q.highHz).add(lane.rate);
    maker.add(part);
    return cache.get<BandWave>(
        maker.key(),
        [&] {
          const auto band = bandLimited(part, lane.rate, q.lowHz, q.highHz), envelope = analyticEnvelope(band);
          return BandWave{{band.begin(), band.end()}, {envelope.begin(), envelope.end()}};
        },
        [](const BandWave& w) { return 8 * w.samples.size() + 64; });
  };
  out.kickWave = wave(*lanes.kick), out.bassWave = wave(*lanes.turned);
}

// The last note that sounds at a hit or starts within a sixteenth after it, across a loop's end too.
std::optional<int> noteUnder(const Session& s, double hitQuarters) {
  std::optional<int> out;
  const double loop = s.track.loopQuarters();
  for (const double round : roundsOf(s.track))
    for (const Note& n : s.bass().notes) {
      if (n.startQuarters >= loop) continue;
      const double start = n.startQuarters + round, end = n.endQuarters() + round;
      if (start < hitQuarters + 0.25 && end > hitQuarters + 0.02) out = n.midi;
    }
  return out;
}

HitFacts meetingAt(const Session& s, const MeetingSpan& span, double frame, const PairLanes& lanes,
                   StepCache& cache) {
  HitFacts out;
  out.frame = frame;
  const AlignMove& move = s.bass().align;
  addWaves(out, move.question, lanes, span.atSeconds, cache);
  out.curve = curveAt(lanes, move.question, span, PairHeard::AsDucked, cache);
  out.plain = lanes.left.empty() ? out.curve : curveAt(lanes, move.question, span, PairHeard::Plain, cache);
  if (out.meets()) {
    out.own = ownMoveAt(lanes, move.question, span, cache);
    out.levelDb = out.plain->levelAt(move.delayMs, move.invert);
    out.heardDb = out.curve->levelAt(move.delayMs, move.invert);
  }
  const double hitQuarters = out.frame / s.track.framesPerQuarter();
  out.noteMidi = noteUnder(s, hitQuarters);
  return out;
}

}  // namespace

Result<void> studyHits(PairFacts& out, const Session& s, const Assets& assets, const Stems& stems,
                       StepCache& cache, const std::stop_token& stop) {
  const std::shared_ptr<const SoundFacts> kick = out.kick.sound;
  const std::shared_ptr<const ReadyKick> full = out.kick.hit;
  if (!kick || !kick->onsetSeconds || !full || stems.hitFrames().empty()) return {};
  const auto envelope =
      slidingPeak(monoFold(full->sound), full->sound.sampleRate, envelopeWindowSeconds(kick->landing));
  const double peak = envelope.empty() ? 0.0 : *std::max_element(envelope.begin(), envelope.end());
  const auto body = SoundSteps(assets, cache, s.track.sampleRate).kickBodySeconds(s.kick(), s.track);
  const PairLanes lanes = pairLanes(s, stems, cache);
  const bool hasBacking = !s.backing.asset.empty() && !s.backing.mute;
  const auto backing = hasBacking ? besidePair(s, stems, stems.backing, cache) : nullptr;
  const auto crossings = crossingsOf(s);
  AlignCurve plain;
  out.hitsInLoop = stems.hitFrames().size();
  const auto spans = meetingSpans(stems);
  for (size_t i = 0; i < std::min(kMostJudgedHits, stems.hitFrames().size()); ++i) {
    if (stop.stop_requested()) return cancelled();
    HitFacts hit = meetingAt(s, spans[i], stems.hitFrames()[i], lanes, cache);
    if (body) hit.bassReKickDb = bassReKick(lanes, hit.frame / stems.sampleRate, *body);
    const double tail = std::min(kick->tailMs / 1000.0, spans[i].seconds);
    hit.overBassMs = lastOver(*lanes.kick, *lanes.bass, spans[i].atSeconds, tail);
    if (backing) hit.overBackingMs = lastOver(*lanes.kick, *backing, spans[i].atSeconds, tail);
    for (const Crossing& c : crossings)
      if (c.hit == i) hit.handOver = handOverAt(lanes, spans[i], c, s.handOver, cache);
    hit.releaseDb = releaseAt(s, lanes, spans[i].atSeconds);
    nextNote(hit, s, hit.frame / s.track.framesPerQuarter(), *kick, envelope, peak);
    addTo(out.all, *hit.curve), addTo(plain, *hit.plain);
    out.hits.push_back(std::move(hit));
  }
  out.best = bestAlignment(out.all);
  const AlignMove& move = s.bass().align;
  if (out.all.overlap) {
    out.alignedDb = out.all.levelAt(move.delayMs, move.invert);
    out.unduckedDb = plain.levelAt(move.delayMs, move.invert);
  }
  for (HitFacts& hit : out.hits)
    if (hit.meets()) hit.bestDb = hit.curve->levelAt(out.best.delayMs, out.best.invert);
  return {};
}

double RoomFacts::worstDb() const {
  double out = kNothing;
  for (const auto& db : bassToKickDb) out = std::max(out, db.value_or(kNothing));
  return out;
}

std::optional<RoomFacts> measureRoom(const Session& s, const Assets& assets, const Stems& stems,
                                     StepCache& cache, std::optional<size_t> atHit) {
  const auto body = SoundSteps(assets, cache, s.track.sampleRate).kickBodySeconds(s.kick(), s.track);
  if (!body || stems.hitFrames().empty()) return std::nullopt;
  const PairLanes lanes = pairLanes(s, stems, cache);
  RoomFacts out;
  size_t worst = 0;
  for (size_t i = 0; i < std::min(kMostJudgedHits, stems.hitFrames().size()); ++i) {
    out.bassToKickDb.push_back(bassReKick(lanes, stems.hitFrames()[i] / stems.sampleRate, *body));
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
