#include "core/render/lanes/duck_steps.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/render/lanes/automation_lanes.h"
#include "core/render/lanes/lane_chain.h"
#include "core/render/lanes/lane_steps.h"
#include "core/render/lanes/place.h"
#include "core/render/lanes/trigger_lanes.h"
#include "core/session/pattern.h"

namespace heft {
namespace {

double frameAt(double quarters, const Track& track) {
  return static_cast<double>(std::llround(quarters * track.framesPerQuarter()));
}

// A file counts in whole beats: some of its end may be missing or too much.
double periodQuarters(double quarters, const Track& track) {
  const double beat = 4.0 / track.beatUnit, beats = quarters / beat, nearest = std::round(beats);
  return beat * std::max(1.0, std::abs(beats - nearest) < 0.06 ? nearest : std::ceil(beats));
}

std::optional<double> repeatFrames(const DuckSource& source, double quarters, const Track& track) {
  if (!source.repeats || !(quarters > 0.0)) return std::nullopt;
  const double period = periodQuarters(quarters, track);
  if (period >= track.loopQuarters() - 1e-9) return std::nullopt;
  return period * track.framesPerQuarter();
}

// The hit at every position in the loop where it plays.
void layHit(std::vector<LaneHit>& out, LaneHit hit, std::optional<double> every, double frames) {
  if (!every) {
    if (hit.frame >= 0.0 && hit.frame < frames) out.push_back(hit);
    return;
  }
  hit.frame -= std::floor(hit.frame / *every) * *every;
  for (; hit.frame < frames; hit.frame += *every) out.push_back(hit);
}

std::vector<LaneHit> partHits(const Part& part, const Track& track) {
  std::vector<LaneHit> out;
  for (const StrikeEvent& e : strikeEvents(part, track)) out.push_back({e.frame, e.velocity});
  return out;
}

std::vector<LaneHit> eventHits(const std::vector<TriggerHit>& events, const std::vector<int>& pitches,
                               std::optional<double> every, const Track& track) {
  std::vector<LaneHit> out;
  const auto frames = static_cast<double>(track.span().frames);
  for (const TriggerHit& e : events) {
    if (!pitches.empty() && std::find(pitches.begin(), pitches.end(), e.midi) == pitches.end()) continue;
    LaneHit hit{frameAt(e.startQuarters, track), e.velocity};
    hit.byHand = true;
    hit.lengthQuarters = e.lengthQuarters;
    layHit(out, hit, every, frames);
  }
  return out;
}

// Hand-set triggers override found ones.
std::vector<FoundHit> corrected(const HitSearch& search, const std::vector<HitMark>& marks,
                                std::set<double>& byHand) {
  std::vector<FoundHit> out;
  for (FoundHit hit : search.all) {
    const auto mark = std::find_if(marks.begin(), marks.end(), [&](const HitMark& m) {
      return std::abs(m.seconds - hit.seconds) <= kMarkSeconds;
    });
    if (mark != marks.end()) {
      hit.verdict = mark->fires ? HitVerdict::Hit : HitVerdict::OtherDrum;
      byHand.insert(hit.seconds);
    }
    out.push_back(hit);
  }
  for (const HitMark& m : marks) {
    const bool known = std::any_of(search.all.begin(), search.all.end(), [&](const FoundHit& h) {
      return std::abs(m.seconds - h.seconds) <= kMarkSeconds;
    });
    if (m.fires && !known) out.push_back({m.seconds, 0.0, 0.0, HitVerdict::Hit}), byHand.insert(m.seconds);
  }
  return out;
}

std::shared_ptr<const HitSpectra> spectraOf(const LoadedSound& sound, const std::vector<FoundHit>& hits,
                                            StepCache& cache) {
  std::vector<double> firing, others;
  KeyMaker maker("hit spectra 1");
  maker.add(sound.hash);
  for (const FoundHit& hit : hits) {
    maker.add(hit.seconds).add(hit.verdict);
    // A trigger too soon after another is ignored with it.
    if (hit.verdict != HitVerdict::TooSoon) (hit.fires() ? firing : others).push_back(hit.seconds);
  }
  return cache.get<HitSpectra>(
      maker.key(), [&] { return hitSpectra(*sound.sound, firing, others); },
      [](const HitSpectra& s) { return (s.firing.size() + s.others.size()) * sizeof(double); });
}

void listenToFile(ResolvedDuck& out, const DuckSource& source, const Track& track, const DuckSources& from) {
  const LoadedSound* loaded = from.assets.find(source.asset);
  if (!loaded) return;
  out.search = hitSearch(*loaded, source.detector(), from.cache);
  const double rate = track.sampleRate;
  const Sound sound = from.assets.sound(source.asset);
  const double seconds = out.soundSeconds = sound->seconds();
  out.soundRate = sound->sampleRate;
  out.levelFromSeconds = source.offsetSeconds;
  out.repeatFrames = repeatFrames(source, seconds * track.tempoBpm / 60.0, track);
  std::set<double> byHand;
  const auto found = corrected(*out.search, source.marks, byHand);
  out.spectra = spectraOf(*loaded, found, from.cache);
  for (const FoundHit& hit : found) {
    LaneHit lane{(hit.seconds - source.offsetSeconds) * rate,
                 std::min(1.0, amplitudeFromDb(hit.strengthDb)),
                 hit.verdict,
                 hit.seconds,
                 byHand.contains(hit.seconds),
                 hit.strengthDb,
                 hit.shareDb};
    layHit(out.hits, lane, out.repeatFrames, static_cast<double>(track.span().frames));
  }
}

std::optional<double> noteOf(const Part& part, const Session& s, const SoundSteps& steps) {
  if (part.playsNotes()) {
    if (part.notes.empty()) return std::nullopt;
    return hzFromMidi(mainNote(part, s.track), s.track.notes.a4Hz);
  }
  const auto facts = steps.kickFacts(part, s.track);
  return facts ? facts->landing.noteHz() : std::nullopt;
}

std::optional<double> bellNote(const Duck& duck, const Session& s, const SoundSteps& steps) {
  if (duck.band.at == BellAt::Key)
    return hzFromMidi(lowTonic(s.track.key) + duck.band.semitones, s.track.notes.a4Hz);
  const bool own = duck.band.at == BellAt::Source && duck.source.kind == TriggerKind::Part;
  const Part* part = own ? s.part(duck.source.part) : &s.kick();
  return part ? noteOf(*part, s, steps) : std::nullopt;
}

void resolveBand(ResolvedDuck& out, const Duck& duck, const Session& s, const SoundSteps& steps) {
  const DuckBand& band = duck.band;
  out.band.kind = band.kind == DuckBandKind::Below ? DuckBandKind::Several : band.kind;
  if (band.kind == DuckBandKind::Below) out.band.steps = {{band.belowHz, 1.0}};
  if (band.kind == DuckBandKind::Several) out.band.steps = band.steps, out.band.aboveShare = band.aboveShare;
  if (band.kind != DuckBandKind::Bell) return;
  out.bellHz = bellNote(duck, s, steps);
  out.band.bellHz = out.bellHz.value_or(hzFromMidi(lowTonic(s.track.key), s.track.notes.a4Hz));
  out.band.octaves = band.octaves;
}

// Length of the trigger's sound, for a dip of the same length.
std::optional<double> tailMsOf(const Duck& duck, const Session& s, const SoundSteps& steps) {
  if (duck.curve.lasts != CurveLasts::AsSource) return std::nullopt;
  const bool own = duck.source.kind == TriggerKind::Part;
  const Part* source = own ? s.part(duck.source.part) : &s.kick();
  if (!source || source->playsNotes()) return std::nullopt;
  const auto facts = steps.kickFacts(*source, s.track);
  return facts ? std::optional(facts->tailMs) : std::nullopt;
}

void findHitsOf(ResolvedDuck& out, const Duck& duck, const Session& s, const DuckSources& from) {
  const DuckSource& source = duck.source;
  switch (source.kind) {
    case TriggerKind::Part:
      if (const Part* part = s.part(source.part)) out.hits = partHits(*part, s.track);
      break;
    case TriggerKind::Audio:
      listenToFile(out, source, s.track, from);
      break;
    case TriggerKind::Midi: {
      double end = source.midiQuarters;
      for (const TriggerHit& n : source.notes) end = std::max(end, n.startQuarters + n.lengthQuarters);
      out.repeatFrames = repeatFrames(source, end, s.track);
      out.hits = eventHits(source.notes, source.pitches, out.repeatFrames, s.track);
      break;
    }
    case TriggerKind::Drawn:
      out.hits = eventHits(source.hits, {}, {}, s.track);
      break;
  }
  std::stable_sort(out.hits.begin(), out.hits.end(),
                   [](const LaneHit& a, const LaneHit& b) { return a.frame < b.frame; });
}

}  // namespace

std::shared_ptr<const HitSearch> hitSearch(const LoadedSound& sound, const DetectorOptions& o,
                                           StepCache& cache) {
  const StepKey cuts =
      KeyMaker("heard band 1").add(sound.hash).add(o.highCutHz).add(o.lowCutHz.value_or(0.0)).key();
  const auto band = cache.get<HeardBand>(
      cuts, [&] { return listenTo(*sound.sound, o); },
      [](const HeardBand& b) { return (b.power.size() + b.wide.size()) * sizeof(double); });
  return cache.get<HitSearch>(
      KeyMaker("hit search 4").add(cuts).add(o.thresholdDb).add(o.shortestGapMs).key(),
      [&] { return searchHits(*sound.sound, *band, o); },
      [](const HitSearch& s) { return s.all.size() * sizeof(FoundHit) + s.levelDb.size() * sizeof(float); });
}

std::vector<double> ResolvedDuck::triggersFrames() const {
  std::vector<double> out;
  for (const Trigger& t : triggers) out.push_back(t.frame);
  return out;
}

Signal partLane(const Session& s, const Part& part, const SoundSteps& steps, StepCache& cache,
                const std::stop_token& stop, const LaneFades& fades) {
  Signal out = placedLane(s, part, steps, cache, stop, fades);
  if (stop.stop_requested()) return out;
  if (part.finishOver == FinishOver::Lane) {
    Session bare;
    bare.track = s.track, bare.parts = {part};
    bare.parts[0].hits.clear(), bare.parts[0].notes.clear();
    const auto frames = eventFrames(part, s.track);
    const Signal placed = out;
    out = alongTrack(bare, chainAutomation(s, bare, part.id), cache, [&](const Session& state) {
      return chainedLane(placed, steps.ready(state.parts[0].finish), frames, s.track.sampleRate, cache);
    });
  }
  return atLevelOf(out, s, Owner{.part = part.id}, "level_db", part.levelDb, cache);
}

// The gain before its amount.
static Signal movementOf(const ResolvedDuck& duck, const Duck& set, const Signal& target, double rate,
                         StepCache& cache) {
  const Span span = target.span();
  const bool envelope = set.source.kind == TriggerKind::Midi || set.source.kind == TriggerKind::Drawn;
  switch (duck.movement) {
    case Movement::Curve:
      return gainLane(duck.dip, duck.triggers, rate, span, cache);
    case Movement::Static:
      return gainAtRest(span, cache, static_cast<float>(gainAtDepth(duck.dip.depthDb)));
    case Movement::Follower:
      return followedGain(set.follower, duck.heard, rate, cache);
    case Movement::Mirror:
      return mirroredGain(set.mirror, duck.heard, envelope, target, rate, cache);
  }
  return gainAtRest(span, cache);
}

std::optional<double> thresholdFor(const ResolvedDuck& duck, const Follower& follower, double rate,
                                   double takesDb) {
  constexpr float kSilence = 1e-4f;
  const Signal& x = duck.heard;
  if (x.frames() == 0) return std::nullopt;
  const auto heard = x.loudest(0, x.frames());
  if (std::none_of(heard.begin(), heard.end(), [](float v) { return std::abs(v) > kSilence; }))
    return std::nullopt;
  Follower deep = follower;
  deep.deepestDb = kSilentDepthDb;
  return thresholdTaking(deep, heard, rate, takesDb);
}

ResolvedDuck resolveDuck(const Duck& duck, const Session& s, const DuckSources& from) {
  ResolvedDuck out;
  out.id = duck.id, out.acts = s.acts(duck), out.movement = duck.movement;
  out.sourceTailMs = tailMsOf(duck, s, from.steps);
  out.dip = resolvedDip(duck, s.track.tempoBpm, out.sourceTailMs);
  resolveBand(out, duck, s, from.steps);
  findHitsOf(out, duck, s, from);
  if (!out.acts) return out;
  for (const LaneHit& hit : out.hits)
    if (hit.fires() && (out.triggers.empty() || hit.frame > out.triggers.back().frame))
      out.triggers.push_back({hit.frame, hit.velocity});
  // A file is drawn too.
  const bool hears = duck.movement == Movement::Follower || duck.movement == Movement::Mirror;
  if (hears || duck.source.kind == TriggerKind::Audio) out.heard = heardOf(duck.source, out, s, from);
  return out;
}

Signal gainOf(const ResolvedDuck& duck, const Duck& set, const Session& s, const Signal& target,
              StepCache& cache) {
  if (!duck.acts) return gainAtRest(target.span(), cache);
  Session bare;
  bare.track = s.track, bare.ducks = {set};
  const Signal out = alongTrack(bare, movementAutomation(s, bare, set.id), cache, [&](const Session& state) {
    ResolvedDuck there = duck;
    there.dip = resolvedDip(state.ducks[0], s.track.tempoBpm, duck.sourceTailMs);
    return movementOf(there, state.ducks[0], target, s.track.sampleRate, cache);
  });
  return gainAtAmounts(out, amountsAlong(s, set), cache);
}

Signal duckedAlong(const Signal& x, const Signal& stood, const AlignMove& move,
                   const std::vector<DuckOnLane>& duckings, const Session& s, const DuckSources& from) {
  Session bare;
  bare.track = s.track, bare.ducks.clear();
  for (const DuckOnLane& d : duckings) bare.ducks.push_back(*d.set);
  const auto automation = bandAutomation(s, bare);
  return alongTrack(bare, automation, from.cache, [&](const Session& state) {
    std::vector<LaneGain> gains;
    for (size_t i = 0; i < duckings.size(); ++i) {
      ResolvedDuck there;
      there.band = duckings[i].resolved->band;
      if (!automation.empty()) resolveBand(there, state.ducks[i], s, from.steps);
      gains.push_back({duckings[i].resolved->gain, there.band});
    }
    return duckedLane(x, stood, move, std::move(gains), s.ducking.meet, s.track.sampleRate, from.cache);
  });
}

}  // namespace heft
