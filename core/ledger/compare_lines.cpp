// Compare: the sum beside the references, the side signal in its low end, and its peaks.

#include <algorithm>
#include <cmath>

#include "core/ledger/balance.h"
#include "core/ledger/lines.h"
#include "core/measure/small_speaker.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/values.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kMonoBelowHz = 120.0;  // what sideDbBelow120 looks at

std::string bandText(const Band& b) {
  return formatNumber(b.lowHz, 0) + " to " + formatNumber(b.highHz, 0) + " Hz";
}

struct LaneShare {
  std::optional<int> part;  ///< nothing: the backing
  std::string word;
  double power = 0.0, share = 0.0;
};

// The main source of a band's energy; lanes count as incoherent, and what no part explains is the backing's.
LaneShare mostIn(const LedgerView& v, size_t band) {
  std::vector<LaneShare> lanes{{std::nullopt, "backing"}};
  double ofParts = 0.0;
  for (const Part& part : v.session.parts) {
    const LowEnd* low = v.study.lowOf(part.id);
    if (!low) continue;
    lanes.push_back({part.id, partWord(part), low->bandPower[band]});
    ofParts += low->bandPower[band];
  }
  lanes.front().power = std::max(0.0, v.study.sum.low.bandPower[band] - ofParts);
  LaneShare most = *std::max_element(lanes.begin(), lanes.end(),
                                     [](const LaneShare& a, const LaneShare& b) { return a.power < b.power; });
  most.share = most.power / std::max(1e-30, ofParts + lanes.front().power);
  return most;
}

// "the kick", "Clap", "the backing".
std::string theLane(const Session& s, const LaneShare& lane) {
  const Part* part = lane.part ? s.part(*lane.part) : nullptr;
  return part && (part->is() == PartRole::Other || !part->name.empty()) ? lane.word : "the " + lane.word;
}

// Level changes of the lane that would bring the band to the references if it alone were at fault, and
// smaller ones.
std::vector<Remedy> levelMoves(const Session& s, const LaneShare& lane, double differenceDb) {
  std::vector<Remedy> out;
  const double share = lane.share;
  const double wanted = std::pow(10.0, -differenceDb / 10.0);  // of the band's power
  const double lanePower = (wanted - (1.0 - share)) / share;
  const double whole = lanePower > 1e-3 ? 10.0 * std::log10(lanePower) : -12.0;
  for (double part : {1.0, 0.7, 0.4}) {
    const double db = std::round(2.0 * std::clamp(part * whole, -18.0, 12.0)) / 2.0;
    if (std::abs(db) >= 0.5)
      out.push_back({(db < 0 ? "Lower " : "Raise ") + lane.word, {}, laneBy(s, lane.part, db)});
  }
  return out;
}

void addBands(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.study.hasBacking || !v.study.anyReference()) return;
  bool anyOut = false;
  std::optional<LaneLevels> balance;
  for (size_t b = 0; b < kBands.size(); ++b) {
    const auto difference = v.study.differences[b].levelReLufsDb;
    const auto verdict = bandVerdict(v.study.differences[b], v.limits);
    if (!verdict || *verdict == Verdict::Holds) continue;
    const double beyond = v.study.differences[b].beyondDb;
    Finding f{.id = bandLineId(b), .stage = Stage::Compare, .verdict = *verdict, .value = beyond, .unit = "dB"};
    const LaneShare lane = mostIn(v, b);
    f.sentence = fixedNumber(std::abs(beyond), 1) + " dB " + (beyond > 0 ? "above" : "below") +
                 " the references, " + bandText(kBands[b]) +
                 (beyond > 0 ? ": mostly " + theLane(v.session, lane) : std::string());
    // One figure: the distance beyond all references. A second one from their median would confuse.
    f.measured = theLane(v.session, lane) + " is " + formatNumber(100.0 * lane.share, 0) + " % of this band";
    f.target = "within " + formatNumber(v.limits.bandHolds, 1) + " dB of one of them";
    f.options = levelMoves(v.session, lane, *difference);
    if (!anyOut) balance = balanceToReferences(v.session, v.study, v.limits);
    anyOut = true;
    if (balance) f.options.push_back({"Balance levels", {}, *balance});  // where more than one lane is at fault
    out.push_back(f);
  }
  if (anyOut) return;
  out.push_back({.id = "bands",
                 .stage = Stage::Compare,
                 .sentence = "Every low band matches the references",
                 .measured = "20 to 250 Hz",
                 .target = "within " + formatNumber(v.limits.bandHolds, 1) + " dB of one of them"});
}

// Kick, bass and drums with a note in the lows, which a cut would remove as well.
bool isFolded(const LedgerView& v, int id) {
  if (v.session.isOfPair(id)) return true;
  const auto facts = v.study.factsOf(id);
  const auto hz = facts ? facts->landing.noteHz() : std::nullopt;
  return hz && *hz < kMonoBelowHz;
}

// To mono. Of a part above the pair only the lows: its width higher up is wanted.
Remedy narrowing(const LedgerView& v, const std::vector<int>& parts) {
  std::vector<std::string> mono, cut;
  std::vector<Edit> moves;
  for (const int id : parts) {
    const Part& part = *v.session.part(id);
    const bool fold = isFolded(v, id);
    (fold ? mono : cut).push_back(partWord(part));
    moves.push_back(fold ? makeMono(part) : cutPartLows(part, kMonoBelowHz));
  }
  std::string name = mono.empty() ? "" : "make " + listed(mono) + " mono";
  if (!cut.empty()) name += (name.empty() ? "" : ", ") + std::string("cut lows of ") + listed(cut);
  return remedyOf(mono.empty() ? "Cut lows" : "Make mono", allOf(name, std::move(moves)));
}

// Each part alone, the one with the widest lows first; then more and more of them; then the backing.
std::vector<Remedy> monoMoves(const LedgerView& v) {
  std::vector<std::pair<double, int>> wide{
      {v.study.kickLow.sideDbBelow120.value_or(kNothingDb), v.session.kick().id},
      {v.study.bassLow.sideDbBelow120.value_or(kNothingDb), v.session.bass().id}};
  for (const PartFacts& of : v.study.others)
    if (of.low.sideDbBelow120 && v.session.part(of.part)) wide.emplace_back(*of.low.sideDbBelow120, of.part);
  std::stable_sort(wide.begin(), wide.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<Remedy> out;
  std::vector<int> all;
  for (const auto& [sideDb, id] : wide) out.push_back(narrowing(v, {id}));
  for (const auto& [sideDb, id] : wide)
    if (all.push_back(id); all.size() > 1) out.push_back(narrowing(v, all));
  out.push_back(
      remedyOf("Cut lows", putValue("cut lows of the backing", {}, "backing.low_cut_hz",
                                    std::max(kMonoBelowHz, v.session.backing.lowCutHz.value_or(0.0)))));
  return out;
}

void addMono(const LedgerView& v, std::vector<Finding>& out) {
  Finding f{.id = "low-mono", .stage = Stage::Compare, .unit = "dB"};
  const auto side = v.study.sum.low.sideDbBelow120;
  f.value = side.value_or(kNothingDb);
  f.verdict = judged(f.value, v.limits.sideHolds, v.limits.sideWatch);
  f.sentence =
      f.verdict == Verdict::Holds ? "Low end is mono below 120 Hz" : "Low end is not mono below 120 Hz";
  f.measured = side && *side > -119 ? "side to mid " + formatNumber(*side, 0) + " dB" : "no side";
  f.target = "below " + formatNumber(v.limits.sideHolds, 0) + " dB";
  if (f.verdict != Verdict::Holds) f.options = monoMoves(v);
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

std::string bandLineId(size_t band) {
  return "band-" + formatNumber(kBands[band].lowHz, 0) + "-" + formatNumber(kBands[band].highHz, 0);
}

std::optional<Verdict> bandVerdict(const BandDifference& difference, const Limits& limits) {
  if (!difference.levelReLufsDb) return std::nullopt;
  return judged(std::abs(difference.beyondDb), limits.bandHolds, limits.bandWatch);
}

void addSpeakerLine(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.study.bassPhon || v.study.bassMuted || v.session.bass().notes.empty()) return;
  Finding f{.id = "small-speaker", .stage = Stage::Sounds, .value = *v.study.bassPhon, .unit = "phon"};
  f.verdict = f.value >= kHeardPhon ? Verdict::Holds : Verdict::Watch;
  f.sentence = f.verdict == Verdict::Holds ? "The bass is audible on small speakers"
                                           : "The bass is inaudible on small speakers";
  f.measured = formatNumber(f.value, 0) + " phon on a laptop speaker";
  f.target = "at least " + formatNumber(kHeardPhon, 0) + " phon";
  if (f.verdict != Verdict::Holds)
    for (double drive : {6.0, 12.0, 18.0})
      f.options.push_back(remedyOf("Add harmonics", driveFirstLayer(v.session.bass(), drive)));
  out.push_back(f);
}

void addCompareLines(const LedgerView& view, std::vector<Finding>& out) {
  addBands(view, out);
  addMono(view, out);
  addPeak(view, out);
}

}  // namespace heft
