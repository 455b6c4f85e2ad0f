#include "core/study/study_ducks.h"

#include <algorithm>
#include <cmath>

#include "core/duck/drawn_from.h"
#include "core/render/lanes/lane_steps.h"
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

/// Triggers of a song that are measured together.
constexpr size_t kTriggersAtOnce = 16;

// Of a song by groups of triggers, each under the keys of the blocks that it reaches over: an edit renews the
// groups that it touched.
DipFacts dipOfSong(const Signal& gain, std::span<const Trigger> triggers, double rate, StepCache& cache) {
  DipFacts out;
  for (size_t first = 0; first < triggers.size(); first += kTriggersAtOnce) {
    const size_t last = std::min(triggers.size(), first + kTriggersAtOnce);
    const auto begin = static_cast<int64_t>(triggers[first].frame);
    // The next trigger's curve may begin before it: it is measured with the group, and not counted.
    const bool more = last < triggers.size();
    const auto end = more ? static_cast<int64_t>(triggers[last].frame) + static_cast<int64_t>(0.05 * rate)
                          : static_cast<int64_t>(gain.frames());
    std::vector<Trigger> group;
    KeyMaker maker("dip facts of a song 1");
    maker.add(rate).add(more);
    for (size_t i = first; i < last + (more ? 1 : 0); ++i) {
      group.push_back({triggers[i].frame - static_cast<double>(begin)});
      maker.add(group.back().frame);
    }
    addSpan(maker, gain, begin, end - begin);
    const auto facts = cache.get<DipFacts>(
        maker.key(),
        [&] { return measureDip(gain.read(0, begin, static_cast<size_t>(end - begin)), group, rate); },
        [](const DipFacts& f) { return sizeof f + f.each.size() * sizeof(TriggerFacts); });
    for (size_t i = 0; i < last - first; ++i) {
      const TriggerFacts& each = facts->each[i];
      out.each.push_back(each);
      out.depthDb = std::min(out.depthDb, each.depthDb);
      out.returnMs = std::max(out.returnMs, each.returnMs);
      out.fired += each.fired() ? 1 : 0;
    }
  }
  return out;
}

DipFacts dipOf(const Signal& gain, std::span<const Trigger> triggers, double rate, StepCache& cache) {
  if (!gain.span().wraps) return dipOfSong(gain, triggers, rate, cache);
  return *cache.get<DipFacts>(
      keyOf("dip facts 1", gain, triggers, rate),
      [&] { return measureDip(gain.read(0, 0, gain.frames()), triggers, rate, true); },
      [](const DipFacts& f) { return sizeof f + f.each.size() * sizeof(TriggerFacts); });
}

// The share of frames below -0.5 dB, from counts of blocks.
double downShareOf(const Signal& gain, StepCache& cache) {
  constexpr float kDown = 0.94406f;
  size_t down = 0;
  for (size_t b = 0; b < gain.blockCount(); ++b)
    down += *cache.get<size_t>(
        KeyMaker("frames down 1").add(gain.key(b)).key(),
        [&] {
          const auto held = gain.hold(b);
          return static_cast<size_t>(std::count_if(held->channels[0].begin(), held->channels[0].end(),
                                                   [](float g) { return g < kDown; }));
        },
        [](size_t) { return size_t{16}; });
  return static_cast<double>(down) / static_cast<double>(std::max<size_t>(1, gain.frames()));
}

double loudestDb(const Signal& x) {
  float most = 0.0f;
  for (size_t b = 0; b < x.blockCount(); ++b) {
    const auto held = x.hold(b);
    for (const auto& channel : held->channels)
      for (const float v : channel) most = std::max(most, std::abs(v));
  }
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
  out.downShare = downShareOf(resolved.gain, cache);
  if (duck.movement == Movement::Follower) studyFollower(out, duck, resolved, rate, cache);
  out.drawn = *cache.get<std::optional<DrawnDip>>(
      keyOf("drawn from 1", resolved.gain, resolved.triggers, rate),
      [&] {
        // Of a song its first minute: a curve for all of it is an average.
        constexpr double kSeconds = 60.0;
        const auto most = static_cast<size_t>(kSeconds * rate);
        const size_t frames = resolved.gain.span().wraps ? stems.frames : std::min(stems.frames, most);
        std::vector<Trigger> there;
        for (const Trigger& t : resolved.triggers)
          if (t.frame < static_cast<double>(frames)) there.push_back(t);
        return drawnFrom(resolved.gain.read(0, 0, frames), there, rate);
      },
      [](const auto&) { return size_t{800}; });
  return out;
}

}  // namespace

void studyDucks(Study& out, const Session& s, const Stems& stems, StepCache& cache) {
  const auto hits = triggersAt(stems.hitFrames());
  if (s.ducksBass()) out.pair.dip = dipOf(stems.gain(), hits, stems.sampleRate, cache);
  for (size_t i = 0; i < s.ducks.size(); ++i)
    if (stems.ducks[i].acts) out.ducks.push_back(factsOf(s.ducks[i], stems.ducks[i], s, stems, cache));
}

}  // namespace heft
