#include "core/study/study_ducks.h"

#include <algorithm>
#include <cmath>

#include "core/duck/drawn_from.h"
#include "core/render/sounds/field_keys.h"
#include "core/session/fields.h"

namespace heft {
namespace {

std::vector<Trigger> triggersAt(const std::vector<double>& frames) {
  std::vector<Trigger> out;
  for (const double f : frames) out.push_back({f});
  return out;
}

StepKey keyOf(const char* what, const Signal& gain, std::span<const Trigger> triggers, double rate) {
  KeyMaker maker(what);
  maker.add(gain.key()).add(rate).add(triggers.size());
  for (const Trigger& t : triggers) maker.add(t.frame);
  return maker.key();
}

DipFacts dipOf(const Signal& gain, std::span<const Trigger> triggers, double rate, StepCache& cache) {
  return *cache.get<DipFacts>(
      keyOf("dip facts 1", gain, triggers, rate),
      [&] { return measureDip(gain.read(0, 0, gain.frames()), triggers, rate, true); },
      [](const DipFacts& f) { return sizeof f + f.each.size() * sizeof(TriggerFacts); });
}

double loudestDb(const Signal& x) {
  float most = 0.0f;
  for (size_t b = 0; b < x.blockCount(); ++b)
    for (const auto& channel : x.block(b).channels)
      for (const float v : channel) most = std::max(most, std::abs(v));
  return dbFromAmplitude(most, -120.0);
}

// Searches for a threshold only where the present one does not work.
void studyFollower(DuckFacts& out, const Duck& duck, const ResolvedDuck& resolved, double rate,
                   StepCache& cache) {
  out.loudestDb = *cache.get<double>(
      KeyMaker("loudest heard 1").add(resolved.heard.key()).key(), [&] { return loudestDb(resolved.heard); },
      [](double) { return size_t{8}; });
  if (!out.isNever() && !out.isAlways()) return;
  Follower any = duck.follower;
  any.thresholdDb = 0.0;
  KeyMaker maker("threshold for 1");
  addFields(maker, any, 120.0);
  maker.add(resolved.heard.key()).add(rate);
  out.thresholdForSix = *cache.get<std::optional<double>>(
      maker.key(), [&] { return thresholdFor(resolved, any, rate, kUsualTakenDb); },
      [](const auto&) { return size_t{16}; });
}

void studyFile(DuckFacts& out, const Duck& duck, const ResolvedDuck& resolved, const Session& s,
               const Stems& stems) {
  const double loop = static_cast<double>(stems.frames) / stems.sampleRate;
  double seconds = out.soundSeconds - duck.source.offsetSeconds;
  if (duck.source.kind == TriggerKind::Midi) {
    double end = duck.source.midiQuarters;
    for (const TriggerHit& n : duck.source.notes) end = std::max(end, n.startQuarters + n.lengthQuarters);
    seconds = end * 60.0 / s.track.tempoBpm;
  }
  if (seconds > loop) out.beyondSeconds = seconds - loop;
  if (seconds < loop && !resolved.repeatFrames) out.silentSeconds = loop - seconds;
}

bool isTargetGone(const Session& s, const DuckTarget& target) {
  if (target.kind == DuckTargetKind::Backing) return s.backing.asset.empty();
  const Part* part = s.part(target.part);
  return !part || (target.kind == DuckTargetKind::Layer && !part->layer(target.layer));
}

bool isSourceGone(const Session& s, const DuckSource& source, const ResolvedDuck& resolved) {
  switch (source.kind) {
    case TriggerKind::Part:
      return !s.part(source.part);
    case TriggerKind::Audio:
      return !resolved.search;
    case TriggerKind::Midi:
      return source.notes.empty();
    case TriggerKind::Drawn:
      break;
  }
  return false;
}

DuckFacts factsOf(const Duck& duck, const ResolvedDuck& resolved, const Session& s, const Stems& stems,
                  StepCache& cache) {
  DuckFacts out;
  out.id = duck.id;
  const double rate = stems.sampleRate;
  out.dip = dipOf(resolved.gain, resolved.triggers, rate, cache);
  for (const LaneHit& hit : resolved.hits) {
    out.doubtful += hit.verdict == HitVerdict::Doubtful ? 1 : 0;
    out.nearly += !hit.fires() && !hit.byHand ? 1 : 0;
  }
  out.sourceGone = isSourceGone(s, duck.source, resolved);
  out.targetGone = isTargetGone(s, duck.target);
  out.bellHz = resolved.bellHz;
  if (resolved.search) out.busy = resolved.search->isBusy;
  if (resolved.search) out.soundSeconds = resolved.soundSeconds, out.soundRate = resolved.soundRate;
  if (duck.source.kind == TriggerKind::Audio || duck.source.kind == TriggerKind::Midi)
    if (!out.sourceGone) studyFile(out, duck, resolved, s, stems);
  for (size_t i = 1; i < resolved.triggers.size(); ++i) {
    const double ms = (resolved.triggers[i].frame - resolved.triggers[i - 1].frame) / rate * 1000.0;
    out.closestMs = out.closestMs == 0.0 ? ms : std::min(out.closestMs, ms);
  }
  if (duck.movement == Movement::Curve || duck.movement == Movement::Static) return out;
  const auto gain = resolved.gain.read(0, 0, resolved.gain.frames());
  constexpr float kDown = 0.94406f;  // -0.5 dB
  const auto down = std::count_if(gain.begin(), gain.end(), [](float g) { return g < kDown; });
  out.downShare = static_cast<double>(down) / static_cast<double>(std::max<size_t>(1, gain.size()));
  if (duck.movement == Movement::Follower) studyFollower(out, duck, resolved, rate, cache);
  out.drawn = *cache.get<std::optional<DrawnDip>>(
      keyOf("drawn from 1", resolved.gain, resolved.triggers, rate),
      [&] { return drawnFrom(gain, resolved.triggers, rate); }, [](const auto&) { return size_t{800}; });
  return out;
}

}  // namespace

void studyDucks(Study& out, const Session& s, const Stems& stems, StepCache& cache) {
  const auto hits = triggersAt(stems.hitFrames());
  if (s.ducksBass()) out.dip = dipOf(stems.gain(), hits, stems.sampleRate, cache);
  for (size_t i = 0; i < s.ducks.size(); ++i)
    if (s.ducks[i].acts()) out.ducks.push_back(factsOf(s.ducks[i], stems.ducks[i], s, stems, cache));
}

}  // namespace heft
