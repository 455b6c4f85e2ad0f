// Duck: does the bass make room, at every kick and not for too long.

#include <algorithm>
#include <cmath>

#include "core/ledger/lines.h"
#include "core/ledger/ways.h"
#include "core/session/edits/ducks.h"
#include "core/theory/text.h"

namespace heft {
namespace {

void addOverlap(const LedgerView& v, std::vector<Finding>& out) {
  const HitFacts* worst = nullptr;
  for (const HitFacts& h : v.study.hits)
    if (!worst || h.bassReKickDb > worst->bassReKickDb) worst = &h;
  if (!worst) return;
  Finding f{
      .id = "overlap", .stage = Stage::Duck, .value = worst->bassReKickDb.value_or(kNothingDb), .unit = "dB"};
  f.hit = static_cast<int>(worst - v.study.hits.data());
  f.verdict = judged(f.value, v.limits.overlapHolds, v.limits.overlapWatch);
  const std::string at = "hit " + std::to_string(*f.hit + 1);
  f.sentence = f.verdict == Verdict::Holds ? "The bass leaves room for every kick"
               : v.session.ducksBass()     ? "At " + at + " the bass still masks the kick"
                                           : "At " + at + " kick and bass overlap without ducking";
  f.measured =
      !worst->bassReKickDb ? "no bass under any hit" : "bass to kick " + signedDb(f.value) + ", below 150 Hz";
  f.target = "below " + plainDb(v.limits.overlapHolds);
  if (f.verdict != Verdict::Holds) {
    // Where another line's move needs it beside itself; by itself it is mended by the ways.
    const double had = v.session.ducksBass() ? v.session.duck().curve.depthDb : 0.0;
    const double lacks = std::ceil(2.0 * (f.value - v.limits.overlapHolds)) / 2.0;
    f.byWaysToMakeRoom = true;
    f.options = {remedyOf("Duck", duckBy(v.session, std::min(kDeepestWayDb, had + lacks + 1.0)))};
  }
  out.push_back(f);
}

void addFiring(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.session.ducksBass()) return;
  const int hits = static_cast<int>(v.study.hitsInLoop), fired = v.study.dip.fired;
  Finding f{.id = "duck-fires", .stage = Stage::Duck, .value = static_cast<double>(fired), .unit = "hits"};
  f.verdict = fired == hits && hits > 0 ? Verdict::Holds : fired > 0 ? Verdict::Watch : Verdict::Off;
  f.sentence = "Ducking triggers on " + std::to_string(fired) + " of " + std::to_string(hits) + " kicks";
  f.measured = "deepest " + plainDb(v.study.dip.depthDb);
  f.target = "every kick";
  if (f.verdict != Verdict::Holds && hits > 0) f.options = {remedyOf("Duck", duckBy(v.session, 8.5))};
  out.push_back(f);
}

void addReturn(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.session.ducksBass() || v.study.dip.fired == 0) return;
  const double quarter = 60000.0 / v.session.track.tempoBpm;
  Finding f{.id = "duck-return", .stage = Stage::Duck, .value = v.study.dip.returnMs, .unit = "ms"};
  f.verdict = judged(v.study.dip.returnMs, 0.5 * quarter, quarter);
  f.sentence = f.verdict == Verdict::Holds
                   ? "The bass recovers in time"
                   : "The bass is away for " + formatNumber(f.value, 0) + " ms after a kick";
  f.measured = "back after " + formatNumber(f.value, 0) + " ms";
  f.target = "1/8 is " + formatNumber(0.5 * quarter, 0) + " ms";
  const bool drawn = v.session.isOfPair(v.session.duck()) && v.session.duck().movement == Movement::Curve;
  if (f.verdict != Verdict::Holds && drawn) {
    f.options.push_back(remedyOf("Shorten", duckAsSource(v.session.duck())));
    const double factor = 0.45 * quarter / std::max(1.0, f.value);
    f.options.push_back(remedyOf("Shorten", shortenDucking(v.session.duck(), factor)));
  }
  out.push_back(f);
}

}  // namespace

void addDuckLines(const LedgerView& view, std::vector<Finding>& out) {
  if (view.study.hits.empty() || !view.study.bass || view.study.kickMuted || view.study.bassMuted) return;
  addOverlap(view, out);
  addFiring(view, out);
  addReturn(view, out);
}

}  // namespace heft
