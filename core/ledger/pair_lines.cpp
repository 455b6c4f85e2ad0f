// Align: do kick and bass push the same way, over all hits and at each.

#include <algorithm>
#include <cmath>
#include <map>

#include "core/ledger/lines.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/patterns.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kAlikeDb = 0.1, kMostNoteMoveMs = 12.0;

Remedy alignTo(const LedgerView& v) {
  return remedyOf("Align", alignBy(v.session.bass(), v.study.best));
}

std::string noteOf(const LedgerView& v, const HitFacts& hit) {
  return hit.noteMidi ? " at " + hzText(hzFromMidi(*hit.noteMidi, v.session.track.notes.a4Hz)) : "";
}

// "-3.1 dB against perfect phase as it sounds, -4 dB without ducking".
std::string againstPerfect(const LedgerView& v, double heardDb, double unduckedDb) {
  return signedDb(heardDb) + " against perfect phase" +
         (v.session.ducksBass() ? " as it sounds, " + signedDb(unduckedDb) + " without ducking" : "");
}

void addPairAll(const LedgerView& v, std::vector<Finding>& out) {
  // The proposal may stay a quarter of a decibel under the best for a smaller move.
  const double loss = v.study.best.afterDb - v.study.alignedDb;
  Finding f{.id = "pair-level", .stage = Stage::Align, .value = v.study.alignedDb, .unit = "dB"};
  f.verdict = judged(loss, v.limits.pairHolds, v.limits.pairWatch);
  f.sentence = f.verdict == Verdict::Holds
                   ? "Kick and bass are in phase"
                   : "Kick and bass lose " + plainDb(-v.study.alignedDb) + " to phase over all hits";
  f.measured = againstPerfect(v, v.study.alignedDb, v.study.unduckedDb);
  f.target = signedDb(v.study.best.afterDb) + ", the best possible";
  if (f.verdict != Verdict::Holds) f.options = {alignTo(v)};
  out.push_back(f);
}

// The notes that sound at these hits, by as much as would suit them.
Remedy moveNotes(const LedgerView& v, const std::vector<size_t>& hits) {
  const double byMs = v.study.hits[hits.front()].own.delayMs - v.session.bass().align.delayMs;
  std::vector<double> at;
  for (size_t i : hits) at.push_back(v.study.hits[i].frame / v.session.track.framesPerQuarter());
  return remedyOf("Move note", moveNotesAt(v.session.bass(), at, byMs));
}

Remedy duckPair(const Session& session) {
  const Duck& duck = session.duck();
  constexpr double kFirstDepthDb = 8.5, kDeeperDb = 6.0, kDeepestDb = 24.0;
  const double depth = duck.on ? std::min(kDeepestDb, duck.curve.depthDb + kDeeperDb)
                               : std::max(kFirstDepthDb, duck.curve.depthDb);
  return remedyOf("Duck", duckBy(session, depth), "duck bass under the kick");
}

std::string hitsText(const std::vector<size_t>& hits) {
  std::string out = hits.size() == 1 ? "At hit " : "At hits ";
  for (size_t i = 0; i < hits.size(); ++i) {
    if (i == 6 && hits.size() > 7) return out + " and " + std::to_string(hits.size() - 6) + " more";
    out += (i == 0 ? "" : i + 1 == hits.size() ? " and " : ", ") + std::to_string(hits[i] + 1);
  }
  return out;
}

constexpr size_t kMostHitLines = 12;

// Hits that lose as much on the same note have one line together.
std::vector<std::vector<size_t>> losingHits(const LedgerView& v) {
  std::map<std::pair<int, long>, std::vector<size_t>> groups;
  for (size_t i = 0; i < v.study.hits.size(); ++i) {
    const HitFacts& h = v.study.hits[i];
    if (!h.curve.overlap || h.own.afterDb - h.heardDb <= v.limits.hitHolds) continue;
    groups[{h.noteMidi.value_or(-1), std::lround(h.heardDb / kAlikeDb)}].push_back(i);
  }
  std::vector<std::vector<size_t>> out;
  for (auto& [key, hits] : groups) out.push_back(std::move(hits));
  std::sort(out.begin(), out.end(), [&](const auto& a, const auto& b) {
    return v.study.hits[a.front()].heardDb < v.study.hits[b.front()].heardDb;
  });
  // Each line's moves are tried one by one: of many the worst are told.
  if (out.size() > kMostHitLines) out.resize(kMostHitLines);
  return out;
}

void addPairHits(const LedgerView& v, std::vector<Finding>& out) {
  for (const auto& hits : losingHits(v)) {
    const HitFacts& h = v.study.hits[hits.front()];
    Finding f{.id = "pair-hit-" + std::to_string(hits.front() + 1),
              .stage = Stage::Align,
              .value = h.heardDb,
              .unit = "dB"};
    f.hit = static_cast<int>(hits.front());
    f.verdict = judged(h.own.afterDb - h.heardDb, v.limits.hitHolds, v.limits.hitWatch);
    f.sentence = hitsText(hits) + " kick and bass lose " + plainDb(-h.heardDb) + " to phase" + noteOf(v, h);
    f.measured = againstPerfect(v, h.heardDb, h.levelDb);
    f.target = signedDb(h.own.afterDb) + " aligned on its own, " + signedDb(h.bestDb) + " with all";
    f.options = {alignTo(v)};
    if (h.own.invert == v.session.bass().align.invert &&
        std::abs(h.own.delayMs - v.session.bass().align.delayMs) <= kMostNoteMoveMs)
      f.options.push_back(moveNotes(v, hits));
    f.options.push_back(duckPair(v.session));
    out.push_back(f);
  }
}

// Where the kick still sounds as the next note starts: the one that goes least evenly.
void addHandOver(const LedgerView& v, std::vector<Finding>& out) {
  const HitFacts* worst = nullptr;
  double alike = 0.0;
  int count = 0;
  for (const HitFacts& h : v.study.hits) {
    if (!h.handOver) continue;
    alike += h.handOver->alike, ++count;
    if (!worst || h.handOver->ripple() > worst->handOver->ripple()) worst = &h;
  }
  if (!worst) return;
  const HandOverFacts& facts = *worst->handOver;
  Finding f{.id = "hand-over", .stage = Stage::Align, .value = facts.ripple(), .unit = "dB"};
  f.hit = static_cast<int>(worst - v.study.hits.data());
  f.verdict = judged(f.value, v.limits.rippleHolds, v.limits.rippleWatch);
  const bool hole = -facts.holeDb >= facts.pileDb;
  f.sentence = f.verdict == Verdict::Holds
                   ? "Kick and bass cross over smoothly"
                   : "From hit " + std::to_string(*f.hit + 1) + " to the next note kick and bass " +
                         (hole ? "leave a hole of " : "pile up by ") + plainDb(f.value);
  f.measured = plainDb(-facts.holeDb) + " under and " + plainDb(facts.pileDb) +
               " over kick and bass by themselves, within " + formatNumber(facts.overMs, 0) + " ms";
  f.target = "within " + plainDb(v.limits.rippleHolds);
  // As alike as they are measured, as different tones, as waves that cancel.
  const std::pair<double, double> ways[] = {
      {30, alike / count}, {10, alike / count}, {60, alike / count}, {30, 0.0}, {10, kLeastAlike}};
  if (f.verdict != Verdict::Holds)
    for (const auto& [ms, as] : ways) f.options.push_back(remedyOf("Hand over", handOverIn(ms, as)));
  out.push_back(f);
}

}  // namespace

void addAlignLines(const LedgerView& view, std::vector<Finding>& out) {
  addHandOver(view, out);
  if (!view.study.all.overlap) return;
  addPairAll(view, out);
  addPairHits(view, out);
  const Study& s = view.study;
  if (s.hits.size() < s.hitsInLoop)
    out.push_back({.id = "hits-judged",
                   .stage = Stage::Align,
                   .sentence = "The first " + std::to_string(s.hits.size()) + " of " +
                               std::to_string(s.hitsInLoop) + " hits are judged",
                   .measured = std::to_string(s.hitsInLoop) + " hits in the loop",
                   .target = "at most " + std::to_string(kMostJudgedHits)});
}

}  // namespace heft
