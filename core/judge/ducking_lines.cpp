// Duck: does each ducking trigger, on the hits it should, and which of its settings do nothing.

#include <algorithm>
#include <cmath>

#include "core/judge/lines.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/values.h"
#include "core/theory/text.h"

namespace heft {
namespace {

struct DuckView {
  const LedgerView& v;
  const Duck& duck;
  const DuckFacts& facts;

  Finding line(const std::string& kind, Verdict verdict) const {
    Finding f{.id = "duck-" + std::to_string(duck.id) + "-" + kind, .stage = Stage::Duck};
    f.verdict = verdict;
    return f;
  }
  std::string word() const {
    std::string out = "The ducking of " + duckWord(v.session, duck);
    return out;
  }
  std::string source() const {
    const DuckSource& s = duck.source;
    if (s.kind == TriggerKind::Audio) return s.asset.name.empty() ? "its sound" : s.asset.name;
    if (s.kind == TriggerKind::Midi) return s.midiName.empty() ? "its MIDI file" : s.midiName;
    const Part* part = v.session.part(s.part);
    return s.kind == TriggerKind::Drawn ? "its drawn hits" : part ? part->title() : "its part";
  }
  int triggers() const { return static_cast<int>(facts.dip.each.size()); }
  bool byTriggers() const { return duck.movement == Movement::Curve; }
};

std::string milliseconds(double ms) {
  return formatNumber(ms, ms < 10 ? 1 : 0) + " ms";
}

void addGone(const DuckView& d, std::vector<Finding>& out) {
  if (!d.facts.sourceGone && !d.facts.targetGone) return;
  Finding f = d.line("gone", Verdict::Off);
  f.sentence = d.word() + (d.facts.sourceGone ? " has no trigger" : " has no target to duck");
  f.measured = d.facts.sourceGone ? (d.duck.source.kind == TriggerKind::Midi ? d.source() + " holds no notes"
                                                                             : d.source() + " is missing")
                                  : "what it lowers is missing";
  f.target = d.facts.sourceGone ? "a part, a sound or hits" : "a part, a layer or the backing";
  if (d.facts.sourceGone) f.options = {remedyOf("Use kick", setTriggerPart(d.duck, d.v.session.kick().id))};
  out.push_back(f);
}

// The kick's hits under the pair's own ducking have a line of their own.
void addFires(const DuckView& d, std::vector<Finding>& out) {
  if (d.duck.movement == Movement::Static || d.facts.sourceGone || d.v.session.isOfPair(d.duck)) return;
  const int all = d.triggers(), fired = d.facts.dip.fired;
  Finding f = d.line("fires", fired == all && all > 0 ? Verdict::Holds
                              : fired > 0             ? Verdict::Watch
                                                      : Verdict::Off);
  f.value = fired, f.unit = "hits";
  f.sentence =
      all == 0 ? d.word() + " finds no hits to trigger on"
               : d.word() + " triggers on " + std::to_string(fired) + " of " + std::to_string(all) + " hits";
  f.measured = all == 0 ? "no hit in " + d.source() : "deepest " + plainDb(d.facts.dip.depthDb);
  f.target = "every hit";
  if (all == 0 && d.duck.source.kind == TriggerKind::Audio)
    f.options = {remedyOf("Lower threshold",
                          putValue("lower the trigger's threshold", {.duck = d.duck.id}, "source.threshold_db",
                                   std::max(-80.0, d.duck.source.thresholdDb - 20.0)))};
  out.push_back(f);
}

void addDoubtful(const DuckView& d, std::vector<Finding>& out) {
  if (d.duck.source.kind != TriggerKind::Audio || d.facts.sourceGone || d.triggers() == 0) return;
  const int doubtful = d.facts.doubtful;
  Finding f = d.line("doubtful", doubtful > 0 || d.facts.busy ? Verdict::Watch : Verdict::Holds);
  f.value = doubtful, f.unit = "hits";
  f.sentence = doubtful == 0 ? "The hits found in " + d.source() + " are of one drum"
                             : std::to_string(doubtful) + " of " + std::to_string(d.triggers()) +
                                   " hits found in " + d.source() + " may be another drum";
  f.measured = std::to_string(d.triggers()) + " trigger, " + std::to_string(d.facts.nearly) + " nearly, at " +
               formatNumber(d.facts.soundRate / 1000.0, 1) + " kHz";
  f.target = "none in doubt: take false ones out in the trigger lane";
  if (d.facts.busy) {
    f.sentence = d.source() + " has more lows than drum hits, so some triggers may be bass notes";
    f.target = "a drum stem, or a band that only the kick fills";
  }
  out.push_back(f);
}

void addSpan(const DuckView& d, std::vector<Finding>& out) {
  constexpr double kNoMatter = 0.05;  // seconds
  const double silent = d.facts.silentSeconds, beyond = d.facts.beyondSeconds;
  if (silent > kNoMatter) {
    Finding f = d.line("span", Verdict::Watch);
    f.value = silent, f.unit = "s";
    f.sentence = d.source() + " ends " + formatNumber(silent, 2) + " s before the loop: no triggers there";
    f.measured = formatNumber(silent, 2) + " s without a trigger";
    f.target = "as long as the loop, or repeating";
    f.options = {remedyOf("Repeat trigger",
                          putValue("repeat the trigger", {.duck = d.duck.id}, "source.repeats", true))};
    out.push_back(f);
  } else if (beyond > kNoMatter) {
    Finding f = d.line("span", Verdict::Holds);
    f.value = beyond, f.unit = "s";
    f.sentence =
        d.source() + " continues " + formatNumber(beyond, 1) + " s after the loop, without triggers there";
    f.measured = formatNumber(beyond, 1) + " s beyond the loop";
    f.target = "only the loop triggers";
    out.push_back(f);
  }
}

void addFollower(const DuckView& d, std::vector<Finding>& out) {
  if (d.duck.movement != Movement::Follower || d.facts.sourceGone) return;
  const bool never = d.facts.isNever(), always = d.facts.isAlways();
  if (!never && !always) return;
  Finding f = d.line("threshold", Verdict::Off);
  f.value = d.duck.follower.thresholdDb, f.unit = "dB";
  f.sentence = never ? d.word() + " never ducks: its key signal stays below the threshold"
                     : d.word() + " never releases: its key signal stays above the threshold";
  f.measured = "threshold " + plainDb(d.duck.follower.thresholdDb) + ", loudest " + plainDb(d.facts.loudestDb);
  f.target = "over it at each hit, under it between";
  if (d.facts.thresholdForSix)
    f.options = {remedyOf("Set threshold", setThreshold(d.duck, *d.facts.thresholdForSix))};
  out.push_back(f);
}

void addTimes(const DuckView& d, std::vector<Finding>& out) {
  const DuckCurve& c = d.duck.curve;
  const double tempo = d.v.session.track.tempoBpm;
  constexpr double kNothingMs = 5.0;
  const double whole = c.points.size() >= 2 ? c.length.toMs(tempo) : c.hold.toMs(tempo) + c.release.toMs(tempo);
  if (d.byTriggers() && c.lasts == CurveLasts::AsSet && whole < kNothingMs) {
    Finding f = d.line("times", Verdict::Watch);
    f.value = whole, f.unit = "ms";
    f.sentence = d.word() + " is over in " + milliseconds(whole) + " and clears next to nothing";
    f.measured = milliseconds(whole), f.target = "at least " + milliseconds(kNothingMs);
    f.options = {remedyOf("Lengthen curve", startCurve(d.duck, DuckNeed::StrikeOnly))};
    out.push_back(f);
  }
  const double attack = d.duck.movement == Movement::Follower ? d.duck.follower.attackMs : c.attack.toMs(tempo);
  const bool attacks = d.duck.movement == Movement::Follower || (d.byTriggers() && c.points.empty());
  if (!attacks || d.facts.closestMs <= 0.0 || d.facts.closestMs >= attack) return;
  Finding f = d.line("attack", Verdict::Watch);
  f.value = d.facts.closestMs, f.unit = "ms";
  f.sentence = d.word() + " has hits " + milliseconds(d.facts.closestMs) + " apart, closer than its attack";
  f.measured = "attack " + milliseconds(attack), f.target = "under " + milliseconds(d.facts.closestMs);
  const bool follower = d.duck.movement == Movement::Follower;
  const double shorter = std::max(0.5, std::floor(5.0 * d.facts.closestMs) / 10.0);
  f.options = {remedyOf("Shorten attack",
                        follower
                            ? putValue("shorten the attack", {.duck = d.duck.id}, "follower.attack_ms", shorter)
                            : putValue("shorten the attack", {.duck = d.duck.id}, "curve.attack",
                                       TimeValue::milliseconds(shorter)))};
  out.push_back(f);
}

void addBell(const DuckView& d, std::vector<Finding>& out) {
  if (d.duck.band.kind != DuckBandKind::Bell || d.facts.bellHz) return;
  Finding f = d.line("bell", Verdict::Watch);
  f.sentence = d.word() + " has no note for its bell, so the bell is at the tonic";
  f.measured = "no landing was found", f.target = "a note";
  f.options = {
      remedyOf("Use tonic", setBellNote(d.duck, lowTonic(d.v.session.track.key), d.v.session.track.key))};
  out.push_back(f);
}

}  // namespace

void addDuckingLines(const LedgerView& view, std::vector<Finding>& out) {
  for (const DuckFacts& facts : view.study.ducks) {
    const Duck* duck = view.session.duck(facts.id);
    if (!duck) continue;
    const DuckView d{view, *duck, facts};
    for (auto add : {addGone, addFires, addDoubtful, addSpan, addFollower, addTimes, addBell}) add(d, out);
  }
}

}  // namespace heft
