// Duck: does the bass make room, at every kick and not for too long.

#include <algorithm>
#include <cmath>

#include "core/judge/lines.h"
#include "core/session/edits/ducks.h"
#include "core/theory/text.h"

namespace heft {
namespace {

void addOverlap(const LedgerView& v, std::vector<Finding>& out) {
  const HitFacts* worst = nullptr;
  for (const HitFacts& h : v.study.pair.hits)
    if (!worst || h.bassReKickDb > worst->bassReKickDb) worst = &h;
  if (!worst) return;
  Finding f{
      .id = "overlap", .stage = Stage::Duck, .value = worst->bassReKickDb.value_or(kNothingDb), .unit = "dB"};
  f.hit = static_cast<int>(worst - v.study.pair.hits.data());
  judgeHits(v, f, v.study.pair.hits.size(), [&](size_t i) -> std::optional<HitLine> {
    const auto& db = v.study.pair.hits[i].bassReKickDb;
    if (!db) return std::nullopt;
    return HitLine{0, judged(*db, v.limits.overlapHolds, v.limits.overlapWatch), *db};
  });
  f.sentence = f.verdict == Verdict::Holds ? "The bass leaves room for every kick"
               : v.session.ducksBass()     ? "Bass still masks the kick " + atHits(v, f)
                                           : "Bass masks the kick " + atHits(v, f) + ", without ducking";
  f.measured = !worst->bassReKickDb
                   ? "no bass under any hit"
                   : "bass to kick " + signedDb(f.value) + " below 150 Hz at " + hitName(v, *f.hit);
  f.target = "below " + plainDb(v.limits.overlapHolds);
  if (f.verdict != Verdict::Holds) {
    // Only where another line's fix needs it as well; on its own the ways fix it.
    const double had = v.session.ducksBass() ? v.session.duck().curve.depthDb : 0.0;
    const double lacks = std::ceil(2.0 * (f.value - v.limits.overlapHolds)) / 2.0;
    f.byWaysToMakeRoom = true;
    f.options = {remedyOf("Duck bass", duckBy(v.session, std::min(kDeepestWayDb, had + lacks + 1.0)))};
  }
  out.push_back(f);
}

void addFiring(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.session.ducksBass()) return;
  const int hits = static_cast<int>(v.study.pair.hitsInLoop), fired = v.study.pair.dip.fired;
  Finding f{.id = "duck-fires", .stage = Stage::Duck, .value = static_cast<double>(fired), .unit = "hits"};
  constexpr double kFires = -0.5;
  const Verdict missed = fired > 0 ? Verdict::Watch : Verdict::Off;
  f.verdict = fired == hits && hits > 0 ? Verdict::Holds : missed;
  const auto& each = v.study.pair.dip.each;
  judgeHits(v, f, std::min(each.size(), v.study.pair.hitsInLoop), [&](size_t i) {
    return HitLine{0, each[i].depthDb < kFires ? Verdict::Holds : missed, each[i].depthDb};
  });
  f.sentence = "Ducking triggers on " + std::to_string(fired) + " of " + std::to_string(hits) + " kicks";
  f.measured = "deepest " + plainDb(v.study.pair.dip.depthDb);
  f.target = "every kick";
  if (f.verdict != Verdict::Holds && hits > 0) f.options = {remedyOf("Duck bass", duckBy(v.session, 8.5))};
  out.push_back(f);
}

void addReturn(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.session.ducksBass() || v.study.pair.dip.fired == 0) return;
  const double quarter = 60000.0 / v.session.track.tempoBpm;
  Finding f{.id = "duck-return", .stage = Stage::Duck, .value = v.study.pair.dip.returnMs, .unit = "ms"};
  f.verdict = judged(v.study.pair.dip.returnMs, 0.5 * quarter, quarter);
  f.sentence = f.verdict == Verdict::Holds
                   ? "The bass recovers in time"
                   : "The bass stays ducked for " + formatNumber(f.value, 0) + " ms after a kick";
  f.measured = "back after " + formatNumber(f.value, 0) + " ms";
  f.target = "1/8 is " + formatNumber(0.5 * quarter, 0) + " ms";
  const bool drawn = v.session.isOfPair(v.session.duck()) && v.session.duck().movement == Movement::Curve;
  if (f.verdict != Verdict::Holds && drawn) {
    f.options.push_back(remedyOf("Shorten ducking", duckAsSource(v.session.duck())));
    const double factor = 0.45 * quarter / std::max(1.0, f.value);
    f.options.push_back(remedyOf("Shorten ducking", shortenDucking(v.session.duck(), factor)));
  }
  out.push_back(f);
}

}  // namespace

void addDuckLines(const LedgerView& view, std::vector<Finding>& out) {
  if (view.study.pair.hits.empty() || !view.study.pair.bass.sound || view.study.pair.kick.muted ||
      view.study.pair.bass.muted)
    return;
  addOverlap(view, out);
  addFiring(view, out);
  addReturn(view, out);
}

}  // namespace heft
