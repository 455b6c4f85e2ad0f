// Compare: figures that were taken as targets.

#include <algorithm>
#include <cmath>

#include "core/judge/lines.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/parts.h"
#include "core/theory/text.h"

namespace heft {
namespace {

// A figure beside its target, judged by how far it is off.
struct Aim {
  const char* id;
  const char* name;  // as in "Kick length"
  double now, target, holds, watch;
  std::function<std::string(double)> text;
};

Finding lineOf(const Aim& aim, Stage stage, const std::string& unit) {
  const double off = aim.now - aim.target;
  Finding f{.id = aim.id, .stage = stage, .value = aim.now, .unit = unit};
  f.verdict = judged(std::abs(off), aim.holds, aim.watch);
  f.sentence = f.verdict == Verdict::Holds ? std::string(aim.name) + " meets its target"
                                           : std::string(aim.name) + " is " + aim.text(std::abs(off)) +
                                                 (off > 0 ? " over" : " under") + " its target";
  f.measured = aim.text(aim.now);
  f.target = aim.text(aim.target) + " within " + aim.text(aim.holds);
  return f;
}

void addKickLength(const LedgerView& v, double now, std::vector<Finding>& out) {
  constexpr double kHolds = 0.15, kWatch = 0.35;
  const double target = *v.session.targets.kickMs;
  Finding f = lineOf({"target-kick-length", "Kick length", now, target, std::max(5.0, kHolds * target),
                      std::max(10.0, kWatch * target), plainMs},
                     Stage::Sounds, "ms");
  if (f.verdict != Verdict::Holds && v.study.pair.kick.sound) {
    // Its tail is longer than it stands: both change alike.
    const double tail = v.study.pair.kick.sound->tailMs, wanted = tail * target / std::max(1.0, now);
    for (const double of : {1.0, 0.85, 1.2, 0.7, 1.5}) {
      const auto length =
          TimeValue::milliseconds(std::clamp(std::round(of * wanted), kShortestTailMs, kLongestTailMs));
      const Part& kick = v.session.kick();
      f.options.push_back(
          remedyOf(now > target ? "Trim kick" : "Lengthen kick",
                   {std::string(now > target ? "trim" : "lengthen") + " kick to " + length.text(),
                    [id = kick.id, length](Session& s) {
                      Part* part = s.part(id);
                      if (!part) return;
                      for (Layer& layer : part->layers) setLength(layer, length, s.track.tempoBpm);
                    }}));
    }
  }
  out.push_back(f);
}

void addDip(const LedgerView& v, std::vector<Finding>& out) {
  constexpr double kHoldsDb = 1.5, kWatchDb = 3.0;
  const double target = *v.session.targets.dipDb, now = std::max(0.0, -v.study.pair.dip.depthDb);
  Finding f =
      lineOf({"target-dip", "Ducking depth", now, target, kHoldsDb, kWatchDb, plainDb}, Stage::Duck, "dB");
  if (f.verdict != Verdict::Holds) {
    const Duck& duck = v.session.duck();
    const double rounded = std::round(2.0 * target) / 2.0;
    if (v.session.isOfPair(duck) && v.session.acts(duck) && duck.movement == Movement::Curve)
      f.options.push_back(remedyOf("Set depth", setDepth(duck, rounded)));
    else if (target > 0.0)
      f.options.push_back(remedyOf("Duck bass", duckBy(v.session, rounded)));
  }
  out.push_back(f);
}

void addReturnTarget(const LedgerView& v, std::vector<Finding>& out) {
  constexpr double kHolds = 0.15, kWatch = 0.35;
  if (v.study.pair.dip.fired == 0) return;
  const double target = *v.session.targets.backMs, now = v.study.pair.dip.returnMs;
  Finding f = lineOf({"target-return", "Ducking return", now, target, std::max(10.0, kHolds * target),
                      std::max(20.0, kWatch * target), plainMs},
                     Stage::Duck, "ms");
  const Duck& duck = v.session.duck();
  if (f.verdict != Verdict::Holds && v.session.isOfPair(duck) && duck.movement == Movement::Curve)
    for (const double part : {1.0, 0.9, 1.15})
      f.options.push_back(
          remedyOf(now > target ? "Shorten ducking" : "Lengthen ducking",
                   shortenDucking(duck, std::clamp(part * target / std::max(1.0, now), 0.05, 20.0))));
  out.push_back(f);
}

void addKickToBass(const LedgerView& v, double now, std::vector<Finding>& out) {
  constexpr double kHoldsDb = 1.5, kWatchDb = 3.0;
  const double target = *v.session.targets.kickToBassDb, off = std::round(2.0 * (target - now)) / 2.0;
  Finding f = lineOf({"target-kick-to-bass", "Kick to bass", now, target, kHoldsDb, kWatchDb, signedDb},
                     Stage::Sounds, "dB");
  f.target = signedDb(target) + " within " + plainDb(kHoldsDb);
  if (f.verdict != Verdict::Holds) {
    const int kick = v.session.kick().id, bass = v.session.bass().id;
    f.sentence = std::string("Kick to bass is ") + plainDb(std::abs(now - target)) +
                 (now > target ? " over" : " under") + " its target";
    for (const double part : {1.0, 1.4, 0.7}) {
      const double half = std::round(part * off) / 2.0;
      if (half == 0.0) continue;
      f.options.push_back(
          {"Balance levels", {}, laneBy(v.session, kick, half) + laneBy(v.session, bass, -half)});
      f.options.push_back({(off > 0 ? "Lower bass " : "Raise bass ") + plainDb(std::abs(2.0 * half)),
                           {},
                           laneBy(v.session, bass, -2.0 * half)});
    }
  }
  out.push_back(f);
}

}  // namespace

void addTargetLines(const LedgerView& v, std::vector<Finding>& out) {
  const Targets& targets = v.session.targets;
  if (targets.kickMs && v.study.pair.figures.kickMs) addKickLength(v, v.study.pair.figures.kickMs->value, out);
  // The others are about the bass.
  if (v.session.bass().notes.empty() || !v.study.pair.kick.sound || !v.study.pair.bass.sound) return;
  if (targets.kickToBassDb && v.study.pair.figures.kickToBassDb)
    addKickToBass(v, v.study.pair.figures.kickToBassDb->value, out);
  if (targets.dipDb) addDip(v, out);
  if (targets.backMs) addReturnTarget(v, out);
}

}  // namespace heft
