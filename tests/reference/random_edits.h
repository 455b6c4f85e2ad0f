#pragma once
/// Edits as made by hand, by wheels, controllers and the command line, with numbers out of range as often as
/// within.

#include <cmath>
#include <limits>
#include <random>

#include "core/session/edits/automation.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/contour.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/events.h"
#include "core/session/edits/files.h"
#include "core/session/edits/gaps.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/patterns.h"
#include "core/session/edits/rhythm.h"
#include "core/session/edits/sections.h"
#include "core/session/edits/sounds.h"
#include "core/session/edits/split.h"
#include "core/session/edits/taught.h"
#include "core/session/edits/track.h"
#include "core/session/edits/values.h"
#include "core/session/versions.h"
#include "tests/reference/random_session.h"

namespace heft::reference {

class RandomEdits {
 public:
  RandomEdits(unsigned seed, std::vector<AssetRef> assets) : random_(seed), assets_(std::move(assets)) {}

  Edit next(const Session& s) {
    const Part& part = s.parts[below(s.parts.size())];
    const Duck& duck = s.ducks[below(s.ducks.size())];
    switch (below(7)) {
      case 6:
        return along(s, part, duck);
      case 0:
        return events(s, part);
      case 1:
        return sounds(s, part);
      case 2:
        return ducks(s, duck);
      case 3:
        return whole(s, part);
      case 4:
        return parts(s, part);
      default:
        return value(s);
    }
  }
  size_t below(size_t n) { return n == 0 ? 0 : random_() % n; }
  double number() {
    constexpr double kOdd[] = {0.0,
                               -1.0,
                               1.0,
                               0.5,
                               3.0,
                               -24.0,
                               47.0,
                               120.0,
                               1e9,
                               -1e9,
                               1e308,
                               std::numeric_limits<double>::infinity(),
                               std::numeric_limits<double>::quiet_NaN()};
    if (below(2)) return kOdd[below(std::size(kOdd))];
    return std::uniform_real_distribution<double>(-4.0, 100.0)(random_);
  }
  int whole() { return static_cast<int>(below(160)) - 20; }
  TimeValue time() {
    return below(2)
               ? TimeValue::note(1, 1 << below(8))
               : TimeValue::milliseconds(std::abs(std::uniform_real_distribution<double>(0, 9000)(random_)));
  }
  AssetRef asset() { return assets_.empty() || below(6) == 0 ? AssetRef() : assets_[below(assets_.size())]; }

 private:
  double at() { return 0.25 * static_cast<double>(below(20)) - 0.5; }
  double someStart(const Part& p) {
    if (p.playsNotes() && !p.notes.empty()) return p.notes[below(p.notes.size())].startQuarters;
    if (!p.hits.empty()) return p.hits[below(p.hits.size())].startQuarters;
    return at();
  }
  int someLayer(const Part& p) { return p.layers.empty() ? 1 : p.layers[below(p.layers.size())].id; }

  Edit events(const Session& s, const Part& p) {
    const double start = someStart(p);
    switch (below(18)) {
      case 0:
        return p.playsNotes() ? placeNote(p, Note{at(), number(), whole(), number()})
                              : placeHit(p, {at(), number()});
      case 1:
        return p.playsNotes() ? moveNote(p, start, number(), whole()) : moveHit(p, start, number());
      case 2:
        return p.playsNotes() ? removeNote(p, start) : removeHit(p, start);
      case 3:
        return lengthenNote(p, start, number());
      case 4:
        return setNotePitch(p, start, whole());
      case 5:
        return toggleTie(p, start);
      case 6:
        return diveBy(p, start, number());
      case 7:
        return setVelocity(p, start, number());
      case 8:
        return toggleLayerAt(p, start, someLayer(p));
      case 9:
        return placeWheelPoint(p, at(), number());
      case 10:
        return setWheelRange(p, number());
      case 11:
        return nudgePatterns(at());
      case 12:
        return kickOnEveryBeat();
      case 13:
        return bassUnderFirstBeat();
      case 14:
        return copyFirstBar();
      case 15:
        return playLegato(p);
      case 16:
        return shortenNotes(p, number());
      default:
        return copyRhythm(p, s.parts[below(s.parts.size())]);
    }
  }
  Edit sounds(const Session& s, const Part& p) {
    const int l = someLayer(p);
    switch (below(22)) {
      case 0:
        return addBuiltLayer(p);
      case 1:
        return duplicateLayer(p, l, freshLayerId(p));
      case 2:
        return removeLayer(p, l);
      case 3:
        return renameLayer(p, l, hostileName(random_()));
      case 4:
        return placePartSound(p, asset(), {SoundPlace::At::New}, 44100.0);
      case 5:
        return trimPart(p, time());
      case 6:
        return setLayerLength("length", p.id, l, time(), below(2) ? Lengthen::Tail : Lengthen::Whole);
      case 7:
        return setLayerLanding("landing", p.id, l, number());
      case 8:
        return setSearchBand(p.id, l, number(), number());
      case 9:
        return addFallPoint(p.id, l, number());
      case 10:
        return moveFallPoint(p.id, l, below(4), number(), number(), {});
      case 11:
        return moveFallEnd(p.id, l, number(), {});
      case 12:
        return bendFallThrough(p.id, l, below(4), number(), {});
      case 13:
        return placeFadePoint(p.id, l, number(), number());
      case 14:
        return splitLayer(p, l, number());
      case 15:
        return setCut(p, l, number(), number());
      case 16:
        return joinSides(p, l);
      case 17:
        return moveContourPoint(p, below(3), time(), number());
      case 18:
        return placeContourPoint(p, time(), number());
      case 19:
        return nameLandingPitch(p.id, l, number());
      case 20:
        return cutLayerLows("cut", p.id, l, number(), whole());
      default:
        return processor(s, p, l);
    }
  }
  Edit processor(const Session& s, const Part& p, int l) {
    const Owner of = below(2) ? Owner{p.id, l} : below(2) ? Owner{p.id} : Owner{};
    RandomValues values(static_cast<unsigned>(random_()), assets_);
    Processor fresh;
    values.fill(tableOf<Processor>(), &fresh);
    const Chain* chain = chainOf(s, of);
    const int id = chain && !chain->list.empty() ? chain->list[below(chain->list.size())].id : 1;
    switch (below(6)) {
      case 0:
        return removeProcessor(of, id);
      case 1:
        return duplicateProcessor(of, id);
      case 2:
        return moveProcessor(of, id, whole());
      case 3:
        return switchChain(of, below(2));
      case 4:
        return cutPeak(p.id, l, EqBand{});
      default:
        return addProcessor(of, fresh);
    }
  }
  Edit ducks(const Session& s, const Duck& d) {
    const std::optional<double> hz = below(3) ? std::optional(number()) : std::nullopt;
    switch (below(20)) {
      case 0:
        return addDuck(freshDuckId(s), s.parts[below(s.parts.size())].id);
      case 1:
        return duplicateDuck(d, freshDuckId(s));
      case 2:
        return removeDuck(d);
      case 3:
        return setDucking(d, below(2));
      case 4:
        return setTriggerPart(d, whole());
      case 5:
        return setTriggerAudio(d, asset());
      case 6:
        return setTriggerDrawn(d, {{at(), number(), number(), whole()}});
      case 7:
        return togglePitch(d, whole());
      case 8:
        return placeTriggerHit(d, number(), number());
      case 9:
        return markHit(d, number(), below(2));
      case 10:
        return setTriggerBand(d, hz, number());
      case 11:
        return setDipTime(d, static_cast<DipTime>(below(3)), time());
      case 12:
        return setDepth(d, number());
      case 13:
        return shortenDucking(d, number());
      case 14:
        return moveDipPoint(d, below(4), number(), number());
      case 15:
        return addBandStep(d);
      case 16:
        return moveBandStep(d, below(3), number());
      case 17:
        return setDuckBelow(d, hz);
      case 18:
        return setBellNote(d, number(), s.track.key);
      default:
        return setThreshold(d, number());
    }
  }
  Edit parts(const Session& s, const Part& p) {
    switch (below(17)) {
      case 0:
        return addPart(freshPartId(s), hostileName(random_()), below(2) ? Plays::Hits : Plays::Notes);
      case 1:
        return removePart(s, p.id);
      case 2:
        return renamePart(p, hostileName(random_()));
      case 3:
        return movePart(p, whole());
      case 4:
        return duplicatePart(p, freshPartId(s));
      case 5:
        return setPartLevel(p, number());
      case 6:
        return setPlays(p, below(2) ? Plays::Hits : Plays::Notes);
      case 7:
        return tunePart(p, number(), whole(), {});
      case 8:
        return shiftLayers(p, number());
      case 9:
        return shortenReleases(p, number());
      case 10:
        return driveFirstLayer(p, number());
      case 11:
        return makeMono(p);
      case 12:
        return cutPartLows(p, number());
      case 13:
        return makeVersion(p, hostileName(random_()));
      case 14:
        return playVersion(p, below(4));
      case 15:
        return dropVersion(p, below(4));
      default:
        return setFinishOver(p, below(2) ? FinishOver::Lane : FinishOver::Hits);
    }
  }
  Edit whole(const Session& s, const Part& p) {
    switch (below(20)) {
      case 0:
        return nameTrack(hostileName(random_()));
      case 1:
        return setTempo(number());
      case 2:
        return setTuning(number());
      case 3:
        return setMetre(whole(), whole());
      case 4:
        return setLoopBeats(whole());
      case 5:
        return setSwing(number());
      case 6:
        return setGridDivision(time());
      case 7:
        return addReference({.asset = asset()});
      case 8:
        return removeReference(below(4));
      case 9:
        return setMeantSo(hostileName(random_()), below(2));
      case 10:
        return placeBacking(asset(), 44100.0);
      case 11:
        return moveBacking(number());
      case 12:
        return setBackingLevel(number());
      case 13:
        return setDelay(p, number());
      case 14:
        return setAlignBand(p, number(), number());
      case 15:
        return delayToGap(number());
      case 16:
        return tieOverGap(number());
      case 17:
        return endBeforeHits(number());
      case 18:
        return setPolarity(p, below(2));
      default:
        return duckBy(s, number());
    }
  }
  // What moves along the track, or is chosen by section.
  Edit along(const Session& s, const Part& p, const Duck& d) {
    const Owner layer{p.id, someLayer(p)}, duck{.duck = d.id};
    const AutomationOf some[] = {
        {{p.id}, "level_db"},     {layer, "semitones"},      {layer, "built_kick.length"},
        {duck, "curve.depth_db"}, {duck, "amount"},          {{}, "ducking.amount"},
        {{}, "backing.level_db"}, {layer, "shape.start_ms"}, {{.processor = 1}, "no.such"},
        {duck, "band.kind"},      {duck, "band.below_hz"},   {layer, "invert"}};
    const AutomationOf of = some[below(std::size(some))];
    const int section = s.sections.empty() ? 1 : s.sections[below(s.sections.size())].id;
    switch (below(11)) {
      case 0:
        return addSection(hostileName(random_()), at(), at() + number());
      case 1:
        return below(2) ? muteInSection(section, p.id, below(2))
                        : versionInSection(section, p.id, versionName(p, below(4)));
      case 3:
        return duckAmountInSection(section, d.id, number());
      case 4:
        return below(2) ? removeAutomationPoint(of, below(3))
                        : moveAutomationPoint(of, below(3), number(), number());
      case 6:
        return bendAutomation(of, below(3), number());
      case 7:
        return setAutomationOver(of, at(), at() + number(), number());
      case 8:
        return insertAutomation(of, {{at(), number()}, {at(), number(), number()}});
      case 9:
        return below(3) ? switchAutomation(of, below(2)) : removeAutomation(of);
      default:
        return placeAutomationPoint(of, at(), number());
    }
  }
  // Any value by its key, as a field, the wheel or a controller sets it.
  Edit value(const Session& s) {
    static const std::pair<Owner, const char*> kKeys[] = {{{}, "hand_over.ms"},
                                                          {{}, "backing.offset_s"},
                                                          {{}, "export.gain_controller"},
                                                          {{}, "track.a4_hz"},
                                                          {{.duck = 1}, "curve.attack"},
                                                          {{.duck = 1}, "curve.length"},
                                                          {{.duck = 1}, "follower.release_ms"},
                                                          {{.duck = 1}, "amount"},
                                                          {{1}, "tail_target"},
                                                          {{2}, "contour.release"},
                                                          {{2}, "align.delay_ms"},
                                                          {{2}, "align.low_hz"},
                                                          {{1, 1}, "recorded.length"},
                                                          {{1, 1}, "built_kick.length"},
                                                          {{1, 1}, "recorded.band_low_hz"},
                                                          {{2, 1}, "built_bass.partial_2_db"},
                                                          {{1, 1}, "semitones"},
                                                          {{1, 1}, "shape.start_ms"}};
    const auto& [owner, key] = kKeys[below(std::size(kKeys))];
    const auto now = valueAt(s, owner, key);
    if (!now) return {"nothing", [](Session&) {}};
    Value to;
    if (std::holds_alternative<TimeValue>(now->byDefault) || std::holds_alternative<TimeValue>(now->now))
      to = time();
    else if (std::holds_alternative<int>(now->now))
      to = whole() * 1000;
    else if (below(8))
      to = number();
    return putValue("value", owner, key, to);
  }

  std::mt19937 random_;
  std::vector<AssetRef> assets_;
};

}  // namespace heft::reference
