// Align and duck: do kick and bass push the same way, and does the bass make room.

#include <algorithm>
#include <cmath>

#include "core/ledger/lines.h"
#include "core/theory/text.h"

namespace heft {
namespace {

std::string db(double value) {
  return fixedNumber(value, 1) + " dB";
}
std::string signedDb(double value) {
  return (value > 0.04 ? "+" : "") + db(value);
}

Remedy alignTo(const AlignAnswer& best) {
  return {"Align", "align bass", [best](const Session& s) {
            Session next = s;
            next.align.delayMs = best.delayMs;
            next.align.invert = best.invert;
            return next;
          }};
}

std::string noteOf(const LedgerView& v, const HitFacts& hit) {
  return hit.noteMidi < 0 ? "" : " at " + hzText(hzFromMidi(hit.noteMidi, v.session.track.notes.a4Hz));
}

void addPairAll(const LedgerView& v, std::vector<Finding>& out) {
  // The proposal may stay a quarter of a decibel under the best for a smaller move.
  const double loss = v.study.best.afterDb - v.study.alignedDb;
  Finding f{.id = "pair-level", .stage = Stage::Align, .value = v.study.alignedDb, .unit = "dB"};
  f.verdict = judged(loss, v.limits.pairHolds, v.limits.pairWatch);
  f.sentence = f.verdict == Verdict::Holds ? "Kick and bass push the same way"
                                           : "Over all hits the pair loses " + db(-v.study.alignedDb);
  f.measured = signedDb(v.study.alignedDb) + " re perfect phase";
  f.target = signedDb(v.study.best.afterDb) + " within reach";
  if (f.verdict != Verdict::Holds) f.remedy = alignTo(v.study.best);
  out.push_back(f);
}

void addPairHits(const LedgerView& v, std::vector<Finding>& out) {
  std::vector<const HitFacts*> losing;
  for (const HitFacts& h : v.study.hits)
    if (h.curve.overlap && h.bestDb - h.levelDb > v.limits.pairHolds) losing.push_back(&h);
  std::sort(losing.begin(), losing.end(),
            [](auto* a, auto* b) { return a->bestDb - a->levelDb > b->bestDb - b->levelDb; });
  if (losing.size() > 2) losing.resize(2);
  for (const HitFacts* h : losing) {
    const int index = static_cast<int>(h - v.study.hits.data());
    Finding f{.id = "pair-hit-" + std::to_string(index + 1),
              .stage = Stage::Align,
              .value = h->levelDb,
              .unit = "dB",
              .hit = index};
    f.verdict = judged(h->bestDb - h->levelDb, v.limits.pairHolds, v.limits.pairWatch);
    f.sentence = "At hit " + std::to_string(index + 1) + " the pair loses " + db(-h->levelDb) + noteOf(v, *h);
    f.measured = signedDb(h->levelDb) + " re perfect phase";
    f.target = signedDb(h->bestDb) + " with the move for all hits";
    f.remedy = alignTo(v.study.best);
    out.push_back(f);
  }
}

Remedy duckBy(double depthDb) {
  return {"Duck", "duck bass under the kick", [depthDb](const Session& s) {
            Session next = s;
            next.duck.on = true;
            next.duck.depthDb = std::max(depthDb, next.duck.on && s.duck.on ? s.duck.depthDb : 0.0);
            next.duck.asKick = true;
            return next;
          }};
}

void addOverlap(const LedgerView& v, std::vector<Finding>& out) {
  const HitFacts* worst = nullptr;
  for (const HitFacts& h : v.study.hits)
    if (!worst || h.bassReKickDb > worst->bassReKickDb) worst = &h;
  if (!worst) return;
  Finding f{.id = "overlap", .stage = Stage::Duck, .value = worst->bassReKickDb, .unit = "dB"};
  f.hit = static_cast<int>(worst - v.study.hits.data());
  f.verdict = judged(f.value, v.limits.overlapHolds, v.limits.overlapWatch);
  const std::string at = "hit " + std::to_string(f.hit + 1);
  f.sentence = f.verdict == Verdict::Holds ? "The bass leaves room for every kick"
               : v.session.duck.on         ? "At " + at + " the bass still stands in the kick's way"
                                           : "At " + at + " kick and bass overlap and nothing ducks";
  f.measured =
      f.value <= -119 ? "no bass under any hit" : "bass " + signedDb(f.value) + " re the kick, below 150 Hz";
  f.target = "below " + db(v.limits.overlapHolds);
  // Two decibels over what it takes, since the dip only reaches its depth for a part of the kick.
  if (f.verdict != Verdict::Holds)
    f.remedy = duckBy(std::clamp(std::ceil(2.0 * (f.value - v.limits.overlapHolds + 2.5)) / 2.0 +
                                     (v.session.duck.on ? v.session.duck.depthDb : 0.0),
                                 6.0, 24.0));
  out.push_back(f);
}

void addFiring(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.session.duck.on) return;
  const int hits = static_cast<int>(v.study.hits.size()), fired = v.study.dip.fired;
  Finding f{.id = "duck-fires", .stage = Stage::Duck, .value = static_cast<double>(fired), .unit = "hits"};
  f.verdict = fired == hits && hits > 0 ? Verdict::Holds : fired > 0 ? Verdict::Watch : Verdict::Off;
  f.sentence = "The ducking fired on " + std::to_string(fired) + " of " + std::to_string(hits) + " kicks";
  f.measured = "deepest " + db(v.study.dip.depthDb);
  f.target = "every kick";
  if (f.verdict != Verdict::Holds && hits > 0) f.remedy = duckBy(8.5);
  out.push_back(f);
}

void addReturn(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.session.duck.on || v.study.dip.fired == 0) return;
  const double quarter = 60000.0 / v.session.track.tempoBpm;
  Finding f{.id = "duck-return", .stage = Stage::Duck, .value = v.study.dip.returnMs, .unit = "ms"};
  f.verdict = judged(v.study.dip.returnMs, 0.5 * quarter, quarter);
  f.sentence = f.verdict == Verdict::Holds
                   ? "The bass is back before anyone hears a hole"
                   : "The bass is away for " + formatNumber(f.value, 0) + " ms after a kick";
  f.measured = formatNumber(f.value, 0) + " ms until within 0.5 dB";
  f.target = "1/8 is " + formatNumber(0.5 * quarter, 0) + " ms";
  if (f.verdict != Verdict::Holds)
    f.remedy = Remedy{"Shorten", "return as the kick", [](const Session& s) {
                        Session next = s;
                        next.duck.asKick = true;
                        return next;
                      }};
  out.push_back(f);
}

}  // namespace

void addAlignLines(const LedgerView& view, std::vector<Finding>& out) {
  if (!view.study.all.overlap) return;
  addPairAll(view, out);
  addPairHits(view, out);
}

void addDuckLines(const LedgerView& view, std::vector<Finding>& out) {
  if (view.study.hits.empty() || !view.study.bass) return;
  addOverlap(view, out);
  addFiring(view, out);
  addReturn(view, out);
}

}  // namespace heft
