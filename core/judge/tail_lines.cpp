// Sounds: is the kick's tail as long as it should be.

#include <algorithm>
#include <cmath>

#include "core/judge/lines.h"
#include "core/session/edits/parts.h"
#include "core/theory/text.h"

namespace heft {
namespace {

// Trims all layers, since the longest one is heard. Drives and compressors lengthen a tail: then shorter
// still.
std::vector<Remedy> trimMoves(const LedgerView& v, const TimeValue& length) {
  const double tempo = v.session.track.tempoBpm;
  std::vector<Remedy> out;
  for (double part : {1.0, 0.85, 0.7, 0.5}) {
    const TimeValue to =
        part == 1.0 ? length
                    : TimeValue::milliseconds(std::max(kShortestTailMs, std::round(part * length.toMs(tempo))));
    out.push_back(remedyOf("Trim kick", trimPart(v.session.kick(), to)));
  }
  // A built kick cut within its fall never lands, so the fall is shortened with it.
  const auto& layers = v.session.kick().layers;
  if (std::any_of(layers.begin(), layers.end(), [](const Layer& l) { return l.kickVoice() != nullptr; }))
    out.insert(out.begin() + 1, remedyOf("Shorten kick", shortenPart(v.session.kick(), length)));
  return out;
}

std::string targetName(const TailTarget& target) {
  if (target.from == TailTarget::From::Gap) return "the gap to the next bass note";
  return target.length == TimeValue::note(1, 16) ? "the sixteenth" : target.length.text();
}

// Where the kick still rings as bass notes start.
const HitFacts* mostOver(const LedgerView& v) {
  const HitFacts* worst = nullptr;
  for (const HitFacts& h : v.study.pair.hits)
    if (h.tailAtNextNoteDb && (!worst || *h.tailAtNextNoteDb > *worst->tailAtNextNoteDb)) worst = &h;
  return worst;
}

// Its length, and whether it ends before the next notes: one matter, since one trim fixes both.
void addTail(const LedgerView& v, std::vector<Finding>& out) {
  const TailTarget target = tailTargetOf(v.session);
  const double wanted = target.length.toMs(v.session.track.tempoBpm), tail = v.study.pair.kick.sound->tailMs;
  if (!(wanted > 0.0)) return;
  Finding f{.id = "kick-tail", .stage = Stage::Sounds, .value = tail, .unit = "ms"};
  // A length that was taken from a reference is judged by its own line (target_lines.cpp).
  const bool taken = v.session.targets.kickMs.has_value();
  const Verdict length = taken ? Verdict::Holds : judged(tail / wanted, v.limits.tailHolds, v.limits.tailWatch);
  f.verdict = length;
  const HitFacts* over = mostOver(v);
  if (over && *over->tailAtNextNoteDb > v.limits.overHolds)
    f.hit = static_cast<int>(over - v.study.pair.hits.data());
  judgeHits(v, f, v.study.pair.hits.size(), [&](size_t i) -> std::optional<HitLine> {
    const HitFacts& h = v.study.pair.hits[i];
    if (!h.nextNoteGapMs) return std::nullopt;
    const double db = h.tailAtNextNoteDb.value_or(kNothingDb);
    return HitLine{0, judged(db, v.limits.overHolds, v.limits.overWatch), db};
  });
  const std::string name = targetName(target);
  f.sentence = f.verdict == Verdict::Holds ? "Kick fits " + name
               : f.hit                     ? "Kick rings over the bass note after " + atHits(v, f).substr(3)
                                           : "Kick rings " + plainMs(tail - wanted) + " past " + name;
  f.measured = plainMs(tail) + " to -40 dB";
  f.target = (target.length.isNote() ? target.length.text() + ", " : std::string()) + "up to " +
             plainMs(wanted * v.limits.tailHolds);
  if (f.hit && length == Verdict::Holds) {
    f.measured = formatNumber(-*over->tailAtNextNoteDb, 0) + " dB below its peak at the note, " +
                 plainMs(*over->nextNoteGapMs) + " after " + hitName(v, *f.hit);
    f.target = "at least " + formatNumber(-v.limits.overHolds, 0) + " dB below";
  }
  if (length != Verdict::Holds) f.options = trimMoves(v, target.length);
  if (f.hit)
    for (Remedy& move :
         trimMoves(v, TimeValue::milliseconds(std::max(kShortestTailMs, std::floor(*over->nextNoteGapMs)))))
      f.options.push_back(std::move(move));
  out.push_back(f);
}

// For a note released before the hit.
void addRelease(const LedgerView& v, std::vector<Finding>& out) {
  const HitFacts* worst = nullptr;
  for (const HitFacts& h : v.study.pair.hits)
    if (h.releaseDb && (!worst || *h.releaseDb > *worst->releaseDb)) worst = &h;
  if (!worst) return;
  Finding f{.id = "bass-release", .stage = Stage::Sounds, .value = *worst->releaseDb, .unit = "dB"};
  f.hit = static_cast<int>(worst - v.study.pair.hits.data());
  judgeHits(v, f, v.study.pair.hits.size(), [&](size_t i) -> std::optional<HitLine> {
    const auto& db = v.study.pair.hits[i].releaseDb;
    if (!db) return std::nullopt;
    return HitLine{0, judged(*db, v.limits.releaseHolds, v.limits.releaseWatch), *db};
  });
  f.sentence = f.verdict == Verdict::Holds ? "Bass releases end before the next hit"
                                           : "Released bass notes ring into " + atHits(v, f).substr(3);
  f.measured = formatNumber(-f.value, 0) + " dB below its loudest at " + hitName(v, *f.hit);
  f.target = "at least " + formatNumber(-v.limits.releaseHolds, 0) + " dB below";
  if (f.verdict != Verdict::Holds)
    for (const double most : {60.0, 30.0, 15.0, 5.0})
      f.options.push_back(remedyOf("Shorten release", shortenReleases(v.session.bass(), most)));
  out.push_back(f);
}

}  // namespace

void addTailLines(const LedgerView& view, std::vector<Finding>& out) {
  if (!view.study.pair.bass.muted && !isOfAPiece(view.session.bass(), view.study.pair.bass.source))
    addRelease(view, out);
  if (isOfAPiece(view.session.kick(), view.study.pair.kick.source)) return;
  if (!view.study.pair.kick.sound || !view.study.pair.kick.sound->onsetSeconds || view.study.pair.kick.muted)
    return;
  addTail(view, out);
}

}  // namespace heft
