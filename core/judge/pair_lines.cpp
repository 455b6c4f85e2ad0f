// Align: whether kick and bass are in phase, over all hits and at each.

#include <algorithm>
#include <cmath>
#include <map>

#include "core/judge/lines.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/patterns.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kAlikeDb = 0.1, kMostNoteMoveMs = 12.0;
constexpr size_t kMostMovedGroups = 12;

Remedy alignTo(const LedgerView& v) {
  const AlignAnswer& best = v.study.pair.best;
  const AlignMove& now = v.session.bass().align;
  const bool inverts = best.invert != now.invert, delays = std::abs(best.delayMs - now.delayMs) >= 0.005;
  return remedyOf(inverts && !delays   ? "Invert bass"
                  : delays && !inverts ? "Delay bass"
                                       : "Align bass",
                  alignBy(v.session.bass(), best));
}

// "-3.1 dB against perfect phase as it sounds, -4 dB without ducking".
std::string againstPerfect(const LedgerView& v, double heardDb, double unduckedDb) {
  return signedDb(heardDb) + " against perfect phase" +
         (v.session.ducksBass() ? ", " + signedDb(unduckedDb) + " without ducking" : "");
}

// Moves the notes at these hits by what suits them best.
Edit moveNotes(const LedgerView& v, const std::vector<size_t>& hits) {
  const double byMs = v.study.pair.hits[hits.front()].own.delayMs - v.session.bass().align.delayMs;
  std::vector<double> at;
  for (size_t i : hits) at.push_back(v.study.pair.hits[i].frame / v.session.track.framesPerQuarter());
  return moveNotesAt(v.session.bass(), at, byMs);
}

Remedy duckPair(const Session& session) {
  const Duck& duck = session.duck();
  constexpr double kFirstDepthDb = 8.5, kDeeperDb = 3.5, kDeepestDb = 24.0;
  const double depth = duck.on ? std::min(kDeepestDb, duck.curve.depthDb + kDeeperDb)
                               : std::max(kFirstDepthDb, duck.curve.depthDb);
  return remedyOf("Duck bass", duckBy(session, depth), "duck bass under the kick");
}

double lossAt(const HitFacts& h) {
  return h.own.afterDb - h.heardDb;
}

// Hits that lose as much on the same note, the worst first: they move together.
std::vector<std::vector<size_t>> losingHits(const LedgerView& v) {
  std::map<std::pair<int, long>, std::vector<size_t>> groups;
  for (size_t i = 0; i < v.study.pair.hits.size(); ++i) {
    const HitFacts& h = v.study.pair.hits[i];
    if (!h.meets() || lossAt(h) <= v.limits.hitHolds) continue;
    groups[{h.noteMidi.value_or(-1), std::lround(h.heardDb / kAlikeDb)}].push_back(i);
  }
  std::vector<std::vector<size_t>> out;
  for (auto& [key, hits] : groups) out.push_back(std::move(hits));
  std::sort(out.begin(), out.end(), [&](const auto& a, const auto& b) {
    return v.study.pair.hits[a.front()].heardDb < v.study.pair.hits[b.front()].heardDb;
  });
  if (out.size() > kMostMovedGroups) out.resize(kMostMovedGroups);
  return out;
}

// Single notes at the hits that lose, where each needs a small move and keeps its polarity: the worst alone,
// then all.
std::vector<Remedy> noteMoves(const LedgerView& v) {
  std::vector<Edit> moves;
  for (const auto& hits : losingHits(v)) {
    const AlignAnswer& own = v.study.pair.hits[hits.front()].own;
    if (own.invert == v.session.bass().align.invert &&
        std::abs(own.delayMs - v.session.bass().align.delayMs) <= kMostNoteMoveMs)
      moves.push_back(moveNotes(v, hits));
  }
  std::vector<Remedy> out;
  if (moves.empty()) return out;
  out.push_back(remedyOf("Move note", moves.front()));
  if (moves.size() > 1) out.push_back(remedyOf("Move notes", allOf("move single notes into phase", moves)));
  return out;
}

// Over all hits and at each of them: one matter, one line.
void addPair(const LedgerView& v, std::vector<Finding>& out) {
  // The proposal may stay a quarter of a decibel under the best for a smaller move.
  const double loss = v.study.pair.best.afterDb - v.study.pair.alignedDb;
  Finding f{.id = "pair-level", .stage = Stage::Align, .value = v.study.pair.alignedDb, .unit = "dB"};
  const Verdict overAll = judged(loss, v.limits.pairHolds, v.limits.pairWatch);
  f.verdict = overAll;
  const HitFacts* worst = nullptr;
  for (const HitFacts& h : v.study.pair.hits)
    if (h.meets() && (!worst || lossAt(h) > lossAt(*worst))) worst = &h;
  if (worst && lossAt(*worst) > v.limits.hitHolds) f.hit = static_cast<int>(worst - v.study.pair.hits.data());
  judgeHits(v, f, v.study.pair.hits.size(), [&](size_t i) -> std::optional<HitLine> {
    const HitFacts& h = v.study.pair.hits[i];
    if (!h.meets()) return std::nullopt;
    return HitLine{0, judged(lossAt(h), v.limits.hitHolds, v.limits.hitWatch), h.heardDb};
  });
  f.sentence = f.verdict == Verdict::Holds ? "Kick and bass are in phase"
               : f.hit                     ? "Kick and bass cancel " + atHits(v, f)
                       : "Kick and bass lose " + plainDb(-v.study.pair.alignedDb) + " to phase";
  f.measured = againstPerfect(v, v.study.pair.alignedDb, v.study.pair.unduckedDb);
  f.target = signedDb(v.study.pair.best.afterDb) + ", the best move for all hits";
  if (overAll == Verdict::Holds && f.hit) {
    f.measured = againstPerfect(v, worst->heardDb, worst->levelDb) + " at " + hitName(v, *f.hit);
    f.target = signedDb(worst->own.afterDb) + ", aligned on its own";
  }
  if (f.verdict != Verdict::Holds) {
    f.options = {alignTo(v)};
    // Single notes move, and the bass yields, only where all of it is already where it fits best.
    if (overAll == Verdict::Holds) {
      for (Remedy& move : noteMoves(v)) f.options.push_back(std::move(move));
      f.options.push_back(duckPair(v.session));
    }
  }
  out.push_back(f);
}

// Where the kick still sounds as the next note starts: the least even one.
void addHandOver(const LedgerView& v, std::vector<Finding>& out) {
  const HitFacts* worst = nullptr;
  double alike = 0.0;
  int count = 0;
  for (const HitFacts& h : v.study.pair.hits) {
    if (!h.handOver) continue;
    alike += h.handOver->alike, ++count;
    if (!worst || h.handOver->ripple() > worst->handOver->ripple()) worst = &h;
  }
  if (!worst) return;
  const HandOverFacts& facts = *worst->handOver;
  Finding f{.id = "hand-over", .stage = Stage::Align, .value = facts.ripple(), .unit = "dB"};
  f.hit = static_cast<int>(worst - v.study.pair.hits.data());
  judgeHits(v, f, v.study.pair.hits.size(), [&](size_t i) -> std::optional<HitLine> {
    const auto& over = v.study.pair.hits[i].handOver;
    if (!over) return std::nullopt;
    return HitLine{0, judged(over->ripple(), v.limits.rippleHolds, v.limits.rippleWatch), over->ripple()};
  });
  const bool hole = -facts.holeDb >= facts.pileDb;
  f.sentence = f.verdict == Verdict::Holds
                   ? "Kick and bass cross over smoothly"
                   : std::string("Kick to bass ") + (hole ? "leaves a hole of " : "piles up by ") +
                         plainDb(f.value) + " after " + hitName(v, *f.hit);
  f.measured = plainDb(-facts.holeDb) + " under and " + plainDb(facts.pileDb) +
               " above the kick or bass alone, over " + formatNumber(facts.overMs, 0) + " ms";
  f.target = "within " + plainDb(v.limits.rippleHolds);
  // Equal within the measurement's error; different tones; waves that cancel.
  const std::pair<double, double> ways[] = {
      {30, alike / count}, {10, alike / count}, {60, alike / count}, {30, 0.0}, {10, kLeastAlike}};
  if (f.verdict != Verdict::Holds)
    for (const auto& [ms, as] : ways) f.options.push_back(remedyOf("Crossfade", handOverIn(ms, as)));
  out.push_back(f);
}

}  // namespace

void addAlignLines(const LedgerView& view, std::vector<Finding>& out) {
  addHandOver(view, out);
  if (!view.study.pair.all.overlap) return;
  addPair(view, out);
  const Study& s = view.study;
  if (s.pair.hits.size() < s.pair.hitsInLoop)
    out.push_back({.id = "hits-judged",
                   .stage = Stage::Align,
                   .sentence = "The first " + std::to_string(s.pair.hits.size()) + " of " +
                               std::to_string(s.pair.hitsInLoop) + " hits are judged",
                   .measured = std::to_string(s.pair.hitsInLoop) + " hits in the " +
                               (view.session.track.song ? "song" : "loop"),
                   .target = "at most " + std::to_string(kMostJudgedHits)});
}

}  // namespace heft
