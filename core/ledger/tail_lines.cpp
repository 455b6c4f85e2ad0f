// Sounds: is the kick's tail as long as it should be.

#include <algorithm>
#include <cmath>

#include "core/ledger/lines.h"
#include "core/session/edits/parts.h"
#include "core/theory/text.h"

namespace heft {
namespace {

std::string ms(double value) {
  return formatNumber(value, 0) + " ms";
}

// All layers, for the one that rings on is heard. Drives and compressors draw a tail out: then shorter still.
std::vector<Remedy> trimMoves(const LedgerView& v, const TimeValue& length) {
  const double tempo = v.session.track.tempoBpm;
  std::vector<Remedy> out;
  for (double part : {1.0, 0.85, 0.7, 0.5}) {
    const TimeValue to =
        part == 1.0 ? length
                    : TimeValue::milliseconds(std::max(kShortestTailMs, std::round(part * length.toMs(tempo))));
    out.push_back(remedyOf("Trim", trimPart(v.session.kick(), to)));
  }
  return out;
}

std::string targetName(const TailTarget& target) {
  if (target.from == TailTarget::From::Gap) return "the gap to the next bass note";
  return target.length == TimeValue::note(1, 16) ? "the sixteenth" : target.length.text();
}

void addTailLength(const LedgerView& v, std::vector<Finding>& out) {
  const TailTarget target = tailTargetOf(v.session);
  const double wanted = target.length.toMs(v.session.track.tempoBpm), tail = v.study.kick->tailMs;
  if (!(wanted > 0.0)) return;
  const std::string name = targetName(target);
  Finding f{.id = "kick-tail", .stage = Stage::Sounds, .value = tail, .unit = "ms"};
  f.verdict = judged(tail / wanted, v.limits.tailHolds, v.limits.tailWatch);
  f.sentence =
      f.verdict == Verdict::Holds ? "Kick fits " + name : "Kick rings " + ms(tail - wanted) + " past " + name;
  f.measured = ms(tail) + " to -40 dB";
  f.target = (target.length.isNote() ? target.length.text() + ", " : std::string()) + ms(wanted) + ", up to " +
             ms(wanted * v.limits.tailHolds);
  if (f.verdict != Verdict::Holds) f.options = trimMoves(v, target.length);
  out.push_back(f);
}

void addTailOverNote(const LedgerView& v, std::vector<Finding>& out) {
  const HitFacts* worst = nullptr;
  for (const HitFacts& h : v.study.hits)
    if (h.nextNoteGapMs && (!worst || h.tailAtNextNoteDb > worst->tailAtNextNoteDb)) worst = &h;
  if (!worst) return;
  Finding f{.id = "kick-over-note",
            .stage = Stage::Sounds,
            .value = worst->tailAtNextNoteDb.value_or(kNothingDb),
            .unit = "dB"};
  f.hit = static_cast<int>(worst - v.study.hits.data());
  f.verdict = judged(f.value, v.limits.overHolds, v.limits.overWatch);
  const std::string at = std::to_string(*f.hit + 1);
  f.sentence = f.verdict == Verdict::Holds ? "Kick ends before the next bass note"
                                           : "Kick still rings at the next bass note after hit " + at;
  f.measured = !worst->tailAtNextNoteDb ? "silent by then"
                                        : formatNumber(f.value, 0) + " dB below its peak, " +
                                              ms(*worst->nextNoteGapMs) + " after hit " + at;
  if (worst->tailAtNextNoteDb) f.measured.erase(0, f.value < 0 ? 1 : 0);
  f.target = "at least " + formatNumber(-v.limits.overHolds, 0) + " dB below";
  if (f.verdict != Verdict::Holds)
    f.options =
        trimMoves(v, TimeValue::milliseconds(std::max(kShortestTailMs, std::floor(*worst->nextNoteGapMs))));
  out.push_back(f);
}

// Of a note that was let go before the hit.
void addRelease(const LedgerView& v, std::vector<Finding>& out) {
  const HitFacts* worst = nullptr;
  for (const HitFacts& h : v.study.hits)
    if (h.releaseDb && (!worst || *h.releaseDb > *worst->releaseDb)) worst = &h;
  if (!worst) return;
  Finding f{.id = "bass-release", .stage = Stage::Sounds, .value = *worst->releaseDb, .unit = "dB"};
  f.hit = static_cast<int>(worst - v.study.hits.data());
  f.verdict = judged(f.value, v.limits.releaseHolds, v.limits.releaseWatch);
  const std::string at = std::to_string(*f.hit + 1);
  f.sentence = f.verdict == Verdict::Holds ? "Bass releases end before the next hit"
                                           : "A released bass note rings into hit " + at;
  f.measured = formatNumber(-f.value, 0) + " dB below its loudest at hit " + at;
  f.target = "at least " + formatNumber(-v.limits.releaseHolds, 0) + " dB below";
  if (f.verdict != Verdict::Holds)
    for (const double most : {60.0, 30.0, 15.0, 5.0})
      f.options.push_back(remedyOf("Shorten release", shortenReleases(v.session.bass(), most)));
  out.push_back(f);
}

}  // namespace

void addTailLines(const LedgerView& view, std::vector<Finding>& out) {
  if (!view.study.bassMuted) addRelease(view, out);
  if (!view.study.kick || !view.study.kick->onsetSeconds || view.study.kickMuted) return;
  addTailLength(view, out);
  addTailOverNote(view, out);
}

}  // namespace heft
