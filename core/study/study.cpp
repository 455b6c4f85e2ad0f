#include "core/study/study.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/small_speaker.h"
#include "core/render/cache/until_stopped.h"
#include "core/render/lanes/figure_steps.h"
#include "core/render/lanes/judged_stretch.h"
#include "core/session/moments.h"
#include "core/session/pattern.h"
#include "core/study/hit_sounds.h"
#include "core/study/pair_lanes.h"
#include "core/study/study_ducks.h"
#include "core/study/study_hits.h"

namespace heft {
namespace {

LowEnd soundLow(const AudioBuffer& sound, const StepKey& key, StepCache& cache) {
  return *cache.get<LowEnd>(
      KeyMaker("sound low 1").add(key).key(), [&] { return measureLowEnd(sound); },
      [](const LowEnd&) { return size_t{3000}; });
}

bool allMuted(const std::vector<Layer>& layers) {
  return std::any_of(layers.begin(), layers.end(), [](const Layer& l) { return !l.isEmpty(); }) &&
         heardLayers(layers).empty();
}

PartFacts kickFacts(const Session& s, const SoundSteps& steps, StepCache& cache) {
  PartFacts out{.part = s.kick().id, .muted = allMuted(s.kick().layers)};
  if (!s.kickLayer()) return out;
  out.source = steps.kickSourceFacts(s.kick(), s.track);
  out.sound = steps.kickFacts(s.kick(), s.track);
  StepKey key;
  out.hit = steps.kick(s.kick(), s.track, &key);
  if (out.hit) out.spectrum = soundLow(out.hit->sound, key, cache);
  return out;
}

PartFacts bassFacts(const Session& s, const SoundSteps& steps, StepCache& cache) {
  PartFacts out{.part = s.bass().id, .muted = allMuted(s.bass().layers)};
  const Layer* layer = s.bassLayer();
  if (!layer) return out;
  out.noteMidi = noteUnderMostHits(s);
  out.rootMidi = steps.bassRoot(*layer, s.track);
  const double midi = out.noteMidi       ? *out.noteMidi
                      : layer->isBuilt() ? lowTonic(s.track.key)
                                         : out.rootMidi.value_or(lowTonic(s.track.key));
  out.source = steps.bassSourceFacts(s.bass());
  out.sound = steps.bassFacts(s.bass(), s.track, midi);
  const Keyed note = steps.bassNote(s.bass(), s.track, midi);
  if (!note.sound) return out;
  out.spectrum = soundLow(*note.sound, note.key, cache);
  out.phon = *cache.get<std::optional<double>>(
      KeyMaker("small speaker 2").add(note.key).key(), [&] { return smallSpeakerPhon(*note.sound); },
      [](const auto&) { return size_t{64}; });
  return out;
}

// The layer that lands where all of them together do, within a quarter tone.
std::optional<int> noteLayerOf(const Part& part, const SoundFacts& all, const Track& track,
                               const SoundSteps& steps) {
  const auto hz = all.landing.noteHz();
  const auto heard = heardLayers(part.layers);
  if (!hz || heard.size() < 2) return std::nullopt;
  std::optional<int> out;
  double nearest = 0.5;
  for (const Layer* layer : heard) {
    Part alone = part;
    alone.layers = {*layer};
    const auto facts = steps.kickFacts(alone, track);  // nothing where its file is missing or trimmed away
    const auto own = facts ? facts->landing.noteHz() : std::nullopt;
    const double off = own ? std::abs(12.0 * std::log2(*own / *hz)) : nearest;
    if (off < nearest) nearest = off, out = layer->id;
  }
  return out;
}

PartFacts otherFacts(const Part& part, const Track& track, const SoundSteps& steps, StepCache& cache) {
  PartFacts out{.part = part.id, .muted = allMuted(part.layers)};
  const size_t audible = heardLayers(part.layers).size();
  if (audible == 0) return out;
  if (!part.playsNotes()) {
    out.sound = steps.kickFacts(part, track);
    if (out.sound) out.noteLayer = noteLayerOf(part, *out.sound, track, steps);
  } else if (!part.notes.empty()) {
    out.noteMidi = mainNote(part, track);
    out.sound = steps.bassFacts(part, track, *out.noteMidi);
  }
  if (audible > 1) out.layers = layerFacts(part, track, steps, cache);
  return out;
}

// Errors: Cancelled.
Result<void> studyReferences(Study& out, const Session& s, const Assets& assets, StepCache& cache,
                             const std::stop_token& stop, References references) {
  for (const SectionRef& ref : sectionsOf(s)) {
    if (stop.stop_requested()) return cancelled();
    const auto known = knownSection(ref, cache);
    if (known || references == References::Measure) {
      out.references.push_back({ref, known ? *known : measureSection(ref, assets, cache)});
    } else {
      out.references.push_back({ref, nullptr});
      if (assets.find(ref.asset)) out.notMeasured.push_back(ref);
    }
  }
  const auto present = out.presentReferences();
  for (const BandAim& aim : comparedBands(s.targets)) {
    out.differences.push_back(bandDifference(out.sum, present, aim.band(), aim.targetDb));
    out.differences.back().toleranceDb = aim.toleranceDb;
  }
  return {};
}

// At the references' median loudness, where that is over the sum's own.
std::optional<CeilingLoss> ceilingLossOf(const Study& of, const Stems& stems,
                                         const std::optional<FrameRange>& range, StepCache& cache) {
  std::vector<double> lufs;
  for (const ProgrammeFacts& r : of.presentReferences())
    if (r.integratedLufs) lufs.push_back(*r.integratedLufs);
  if (lufs.empty() || !of.sum.integratedLufs || !of.hasBacking) return std::nullopt;
  const CeilingAsk ask{median(lufs)};
  const double gainDb = ask.lufs - *of.sum.integratedLufs;
  if (!(gainDb > 0.0)) return std::nullopt;
  KeyMaker key("ceiling loss 4");
  if (range) key.add(range->from).add(range->to);
  key.add(stems.sum.key()).add(stems.sampleRate).add(gainDb);
  for (const double frame : stems.hitFrames()) key.add(frame);
  return *cache.get<std::optional<CeilingLoss>>(
      key.key(),
      [&] {
        // Of a song where it is loudest: there a limiter works the most.
        const JudgedStretch where = judgedStretch(stems.sum, stems.sampleRate, cache, range);
        auto loss = estimatedLoss(ceilingPartsOf(stems.sum, where, cache), ask, gainDb,
                                  where.within(stems.hitFrames()));
        // Counted among all hits.
        if (loss)
          loss->worst += static_cast<size_t>(
              std::count_if(stems.hitFrames().begin(), stems.hitFrames().end(),
                            [&](double frame) { return frame < static_cast<double>(where.first); }));
        return loss;
      },
      [](const auto&) { return size_t{512}; });
}

}  // namespace

bool Study::anyReference() const {
  return std::any_of(references.begin(), references.end(),
                     [](const MeasuredSection& r) { return r.of.counts && r.isLoud(); });
}

PartFacts* Study::part(int id) {
  if (id == pair.kick.part) return &pair.kick;
  if (id == pair.bass.part) return &pair.bass;
  for (PartFacts& of : others)
    if (of.part == id) return &of;
  return nullptr;
}

std::shared_ptr<const SoundFacts> Study::soundOf(int id) const {
  const PartFacts* of = part(id);
  return of ? of->sound : nullptr;
}

const ContourFacts* Study::contourOf(int id) const {
  const PartFacts* of = part(id);
  return of && of->contour ? &*of->contour : nullptr;
}

std::optional<double> Study::kickToBassDb() const {
  double ofKick = 0.0, ofBass = 0.0;
  for (size_t b = 0; b < kBands.size() && kBands[b].highHz <= 120.0; ++b)
    ofKick += pair.kick.low.bandPower[b], ofBass += pair.bass.low.bandPower[b];
  if (!(ofKick > 0.0) || !(ofBass > 0.0)) return std::nullopt;
  return dbFromPower(ofKick / ofBass);
}

std::vector<ProgrammeFacts> Study::presentReferences() const {
  std::vector<ProgrammeFacts> out;
  for (const MeasuredSection& r : references)
    if (r.of.counts && r.profile) out.push_back(r.profile->facts);
  return out;
}

Result<PairFacts> studyPair(const Session& s, const Assets& assets, const Stems& stems, StepCache& cache,
                            std::stop_token stop) {
  if (!cache.endsBy(stop))
    return untilStopped(cache, stop, [&](StepCache& mine) { return studyPair(s, assets, stems, mine, stop); });
  if (mutesBySection(s)) return studyPair(asPlayed(s), assets, stems, cache, stop);
  PairFacts out;
  out.kick = kickFacts(s, SoundSteps(assets, cache, s.track.sampleRate), cache);
  out.bass.part = s.bass().id;
  if (auto hits = studyHits(out, s, assets, stems, cache, stop); !hits) return Fail(hits.error());
  return out;
}

// Lanes too long to stay in memory: every figure of a block while its sound is there, or each figure would make
// all of it again.
static void measureByBlock(const Session& s, const Stems& stems, StepCache& cache,
                           const std::stop_token& stop) {
  if (stems.sum.keepsBlocks()) return;
  const PairSignals pair = pairSignals(s, stems, cache);
  for (size_t b = 0; b < stems.sum.blockCount() && !stop.stop_requested(); ++b) {
    for (const Lane& lane : stems.lanes) measureLowEndBlock(lane.heard, b, stems.sampleRate, cache);
    measurePairBlock(s, stems, pair, b, cache);
    measureProgrammeBlock(stems.sum, b, stems.sampleRate, cache);
  }
}

Result<Study> study(const Session& s, const Assets& assets, const Stems& stems, StepCache& cache,
                    std::stop_token stop, References references) {
  if (!cache.endsBy(stop))
    return untilStopped(cache, stop,
                        [&](StepCache& mine) { return study(s, assets, stems, mine, stop, references); });
  if (mutesBySection(s)) return study(asPlayed(s), assets, stems, cache, stop, std::move(references));
  Study out;
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  out.pair.kick = kickFacts(s, steps, cache), out.pair.bass = bassFacts(s, steps, cache);
  out.pair.kick.layers = layerFacts(s.kick(), s.track, steps, cache);
  out.pair.bass.layers = layerFacts(s.bass(), s.track, steps, cache);
  for (const Part& part : s.parts)
    if (!s.isOfPair(part.id)) out.others.push_back(otherFacts(part, s.track, steps, cache));
  measureByBlock(s, stems, cache, stop);
  if (stop.stop_requested()) return cancelled();
  if (auto hits = studyHits(out.pair, s, assets, stems, cache, stop); !hits) return Fail(hits.error());
  addHitSounds(out.pair, s, steps);
  studyDucks(out, s, stems, cache);
  out.hasBacking = assets.find(s.backing.asset) != nullptr && !s.backing.mute;
  const auto range = comparedRange(s, stems.span);
  for (const Lane& lane : stems.lanes)
    if (PartFacts* of = out.part(lane.part)) of->low = laneLowEnd(lane.heard, stems.sampleRate, cache, range);
  if (stop.stop_requested()) return cancelled();
  for (ContourFacts& contour : contourFacts(s, steps, stems, cache, stop))
    if (PartFacts* of = out.part(contour.part)) of->contour = std::move(contour);
  if (stop.stop_requested()) return cancelled();
  if (!s.bass().notes.empty()) out.line = lineHeard(s, stems, cache);
  out.sum = laneProgramme(stems.sum, stems.sampleRate, cache, range).value_or(ProgrammeFacts{});
  out.wholeLufs = range ? laneLoudness(stems.sum, stems.sampleRate, cache) : out.sum.integratedLufs;
  out.empty = !(out.sum.low.totalPower > 0.0);
  if (auto done = studyReferences(out, s, assets, cache, stop, references); !done) return Fail(done.error());
  if (s.targets.ofThePair() && !out.empty) out.pair.figures = pairFiguresOf(stems, range, cache);
  out.ceiling = ceilingLossOf(out, stems, range, cache);
  return out;
}

}  // namespace heft
