// Compare: the sum beside the references, the side signal in its low end, and its peaks.

#include <algorithm>
#include <cmath>
#include <set>

#include "core/judge/lines.h"
#include "core/measure/levels/small_speaker.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/values.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kUsualMonoHz = 120.0;
// A crossover of 24 dB an octave reaches that far under its frequency.
constexpr double kMonoSlope = 1.5;

// Kick, bass and drums with a note in the lows, which a cut would remove as well.
bool isFolded(const LedgerView& v, int id) {
  if (v.session.isOfPair(id)) return true;
  const auto facts = v.study.soundOf(id);
  const auto hz = facts ? facts->landing.noteHz() : std::nullopt;
  return hz && *hz < kUsualMonoHz;
}

// To mono. Of a part above the pair only the lows: its width higher up is wanted.
Remedy narrowing(const LedgerView& v, const std::vector<int>& parts, double edgeHz) {
  std::vector<std::string> mono, cut;
  std::vector<Edit> moves;
  for (const int id : parts) {
    const Part& part = *v.session.part(id);
    const bool fold = isFolded(v, id);
    (fold ? mono : cut).push_back(partWord(part));
    moves.push_back(fold ? makeMono(part) : cutPartLows(part, edgeHz));
  }
  std::string name = mono.empty() ? "" : "make " + listed(mono) + " mono";
  if (!cut.empty()) name += (name.empty() ? "" : ", ") + std::string("cut lows of ") + listed(cut);
  return remedyOf(mono.empty() ? "Cut lows" : "Make mono", allOf(name, std::move(moves)));
}

// Each part alone, the one with the widest lows first; then more and more of them; then the backing.
std::vector<Remedy> monoMoves(const LedgerView& v, double edgeHz) {
  std::vector<std::pair<double, int>> wide{
      {v.study.pair.kick.low.sideBelowDb(edgeHz).value_or(kNothingDb), v.session.kick().id},
      {v.study.pair.bass.low.sideBelowDb(edgeHz).value_or(kNothingDb), v.session.bass().id}};
  for (const PartFacts& of : v.study.others)
    if (const auto side = of.low.sideBelowDb(edgeHz); side && v.session.part(of.part))
      wide.emplace_back(*side, of.part);
  std::stable_sort(wide.begin(), wide.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<Remedy> out;
  std::vector<int> all;
  for (const auto& [sideDb, id] : wide) out.push_back(narrowing(v, {id}, edgeHz));
  for (const auto& [sideDb, id] : wide)
    if (all.push_back(id); all.size() > 1) out.push_back(narrowing(v, all, edgeHz));
  const Backing& backing = v.session.backing;
  if (edgeHz > kUsualMonoHz)
    out.push_back(remedyOf(
        "Narrow backing",
        putValue("make the backing mono below " + formatNumber(edgeHz, 0) + " Hz", {}, "backing.mono_below_hz",
                 std::max(kMonoSlope * edgeHz, backing.monoBelowHz.value_or(0.0)))));
  else
    out.push_back(remedyOf("Cut lows", putValue("cut lows of the backing", {}, "backing.low_cut_hz",
                                                std::max(edgeHz, backing.lowCutHz.value_or(0.0)))));
  return out;
}

// The frequency below which all references are mono, where several are and it is above the usual one.
std::optional<double> referencesMonoHz(const LedgerView& v) {
  constexpr double kMostHz = 250.0, kWorthIt = 1.1;
  std::vector<double> edges;
  for (const MeasuredSection& r : v.study.references)
    if (r.of.counts && r.isLoud()) edges.push_back(r.profile->width.monoBelowHz().value_or(0.0));
  if (edges.size() < 2) return std::nullopt;
  const double least = std::min(kMostHz, *std::min_element(edges.begin(), edges.end()));
  return least > kWorthIt * kUsualMonoHz ? std::optional(std::round(least)) : std::nullopt;
}

// Below the usual frequency or the one that was taken; in watch where only the references are narrower.
void addMono(const LedgerView& v, std::vector<Finding>& out) {
  const LowEnd& sum = v.study.sum.low;
  double edge = v.session.targets.monoBelowHz.value_or(kUsualMonoHz);
  const auto sideAt = [&](double hz) { return sum.sideBelowDb(hz).value_or(kNothingDb); };
  Verdict verdict = judged(sideAt(edge), v.limits.sideHolds, v.limits.sideWatch);
  bool byReferences = false;
  if (const auto theirs = referencesMonoHz(v);
      theirs && verdict == Verdict::Holds && !v.session.targets.monoBelowHz && v.study.hasBacking)
    if (sideAt(*theirs) > v.limits.sideWatch) edge = *theirs, verdict = Verdict::Watch, byReferences = true;
  Finding f{.id = "low-mono", .stage = Stage::Compare, .verdict = verdict, .value = sideAt(edge), .unit = "dB"};
  const std::string below = "below " + formatNumber(edge, 0) + " Hz";
  f.sentence = byReferences                ? "Wider than the references " + below + ", where all are mono"
               : verdict == Verdict::Holds ? "Low end is mono " + below
                                           : "Low end is not mono " + below;
  f.measured = f.value > -119 ? "side to mid " + formatNumber(f.value, 0) + " dB" : "no side";
  f.target = "below " + formatNumber(byReferences ? v.limits.sideWatch : v.limits.sideHolds, 0) + " dB";
  if (verdict != Verdict::Holds) f.options = monoMoves(v, edge);
  out.push_back(f);
}

// What a limiter takes from the lows at the references' loudness. Never out: it is a matter of taste.
void addCeiling(const LedgerView& v, std::vector<Finding>& out) {
  constexpr double kHoldsDb = 3.0, kLowerDb = -1.5, kClipDb = 3.0;
  if (!v.study.ceiling || v.study.ceiling->medianDb >= -kHoldsDb) return;
  const CeilingLoss& loss = *v.study.ceiling;
  Finding f{.id = "ceiling",
            .stage = Stage::Compare,
            .verdict = Verdict::Watch,
            .value = loss.medianDb,
            .unit = "dB"};
  f.sentence = "Limiting to the references' loudness would take " + plainDb(-loss.medianDb) + " of the lows";
  f.measured = signedDb(loss.medianDb) + " at the median hit, " + fixedNumber(loss.lufs, 1) + " LUFS";
  f.target = "at most " + plainDb(kHoldsDb);
  f.hit = static_cast<int>(loss.worst);
  const Part& kick = v.session.kick();
  if (!hasFreeTurn(v.session))
    for (const double hz : {75.0, 120.0}) f.options.push_back(rotating(v.session, hz));
  if (v.study.pair.kick.hit)
    if (auto clip = clipping("Clip kick 3 dB", {.part = kick.id}, kick.finish,
                             dbFromAmplitude(peakOf(v.study.pair.kick.hit->sound)), kClipDb))
      f.options.push_back(std::move(*clip));
  for (const int id : {kick.id, v.session.bass().id})
    f.options.push_back({"Lower " + partWord(*v.session.part(id)) + " " + plainDb(-kLowerDb),
                         {},
                         laneBy(v.session, id, kLowerDb)});
  out.push_back(f);
}

bool holdsPeaks(const Chain& chain) {
  return std::any_of(chain.list.begin(), chain.list.end(), [](const Processor& p) {
    const auto* limiter = p.as<Limiter>();
    const auto* clip = p.as<SoftClip>();
    return (limiter && limiter->on) || (clip && clip->on);
  });
}

void addPeak(const LedgerView& v, std::vector<Finding>& out) {
  Finding f{.id = "peak", .stage = Stage::Compare, .value = v.study.sum.truePeakDbtp, .unit = "dBTP"};
  f.verdict = judged(f.value, v.limits.peakHolds, v.limits.peakWatch);
  f.sentence = f.verdict == Verdict::Holds   ? "The sum keeps its headroom"
               : f.verdict == Verdict::Watch ? "The sum is close to full scale"
                                             : "The sum clips";
  // Close to the limit two digits show which side it is on.
  constexpr double kBeside = 0.1;
  f.measured = fixedNumber(f.value, std::abs(f.value - v.limits.peakHolds) < kBeside ? 2 : 1) + " dBTP";
  f.target = "below " + formatNumber(v.limits.peakHolds, 0) + " dBTP";
  const double down = std::ceil(2.0 * (f.value - v.limits.peakHolds + 0.2)) / 2.0;
  if (f.verdict != Verdict::Holds) {
    f.options = {{"Lower all lanes", {}, allLanesBy(v.session, -down)}};
    const Chain& sum = v.session.sum.finish;
    const double ceilingDb = v.limits.peakHolds - 0.1;
    const auto last = sum.list.empty() ? std::optional<int>() : sum.list.back().id;
    const auto offer = [&](const char* label, Processor::What what) {
      Processor added;
      added.what = std::move(what);
      f.options.push_back(remedyOf(label, addProcessor({}, added, last)));
    };
    if (sum.list.size() < kMostProcessors && !(sum.on && holdsPeaks(sum))) {
      offer("Limit sum", Limiter{.on = true, .ceilingDb = ceilingDb});
      offer("Soft-clip sum", SoftClip{.on = true, .ceilingDb = ceilingDb});
    }
  }
  out.push_back(f);
}

}  // namespace

// "E1", "E1 and G1", "4 notes".
std::string goneOnAPhone(const LedgerView& v) {
  constexpr double kGonePhon = 0.5 * kHeardPhon;
  std::set<int> gone;
  const auto& notes = v.session.bass().notes;
  for (const NoteHeard& heard : v.study.line.notes)
    if (heard.phonePhon < kGonePhon && heard.note < notes.size()) gone.insert(notes[heard.note].midi);
  std::vector<std::string> names;
  for (const int midi : gone) names.push_back(noteName(midi, v.session.track.notes));
  return names.size() > 3 ? std::to_string(names.size()) + " notes" : names.empty() ? "" : listed(names);
}

void addSpeakerLine(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.study.pair.bass.phon || v.study.pair.bass.muted || v.session.bass().notes.empty()) return;
  Finding f{.id = "small-speaker", .stage = Stage::Sounds, .value = *v.study.pair.bass.phon, .unit = "phon"};
  f.verdict = f.value >= kHeardPhon ? Verdict::Holds : Verdict::Watch;
  f.sentence = f.verdict == Verdict::Holds ? "The bass is audible on small speakers"
                                           : "The bass is inaudible on small speakers";
  f.measured = formatNumber(f.value, 0) + " phon on a laptop speaker";
  f.target = "at least " + formatNumber(kHeardPhon, 0) + " phon";
  // One line: where the whole bass is gone, its notes are as well.
  if (const std::string gone = goneOnAPhone(v); f.verdict == Verdict::Holds && !gone.empty()) {
    f.verdict = Verdict::Watch;
    f.sentence = "Bass note " + gone + " is gone on a phone";
    if (gone.find(' ') != std::string::npos) f.sentence = "On a phone the bass loses " + gone;
    f.measured = "under " + formatNumber(0.5 * kHeardPhon, 0) + " phon from the partials that are left";
    f.target = "at least " + formatNumber(0.5 * kHeardPhon, 0) + " phon";
  }
  if (f.verdict != Verdict::Holds)
    for (double drive : {6.0, 12.0, 18.0})
      f.options.push_back(remedyOf("Add harmonics", driveFirstLayer(v.session.bass(), drive)));
  out.push_back(f);
}

void addCompareLines(const LedgerView& view, std::vector<Finding>& out) {
  addBandLines(view, out);
  addMono(view, out);
  addTargetLines(view, out);
  addCeiling(view, out);
  addPeak(view, out);
}

}  // namespace heft
