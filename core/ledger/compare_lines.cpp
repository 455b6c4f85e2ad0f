// Compare: the sum beside the references, what of its low end is not mono, and its peaks.

#include <algorithm>
#include <cmath>

#include "core/ledger/balance.h"
#include "core/ledger/lines.h"
#include "core/measure/small_speaker.h"
#include "core/session/edits/edit.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kMonoBelowHz = 120.0;  // what sideDbBelow120 looks at

std::string bandText(const Band& b) {
  return formatNumber(b.lowHz, 0) + " to " + formatNumber(b.highHz, 0) + " Hz";
}

enum class LaneAt { Kick, Bass, Backing };

// Whose energy a band mostly is; lanes are taken as incoherent.
LaneAt laneIn(const LedgerView& v, size_t band, double* share) {
  const double kick = v.study.kickLow.bandPower[band], bass = v.study.bassLow.bandPower[band];
  const double rest = std::max(0.0, v.study.sum.low.bandPower[band] - kick - bass);
  const double all = std::max(1e-30, kick + bass + rest), most = std::max({kick, bass, rest});
  *share = most / all;
  return most == rest ? LaneAt::Backing : most == bass ? LaneAt::Bass : LaneAt::Kick;
}

const char* laneName(LaneAt lane) {
  constexpr const char* kNames[] = {"kick", "bass", "backing"};
  return kNames[static_cast<int>(lane)];
}

Remedy levelMove(LaneAt lane, double db) {
  LaneLevels levels;
  (lane == LaneAt::Kick ? levels.kickDb : lane == LaneAt::Bass ? levels.bassDb : levels.backingDb) = db;
  return levelRemedy(db < 0 ? "Lower" : "Raise", levels);
}

// By how much the lane would have to move for the band to meet the references, were it alone at fault, and less.
std::vector<Remedy> levelMoves(LaneAt lane, double differenceDb, double share) {
  std::vector<Remedy> out;
  const double wanted = std::pow(10.0, -differenceDb / 10.0);  // of the band's power
  const double lanePower = (wanted - (1.0 - share)) / share;
  const double whole = lanePower > 1e-3 ? 10.0 * std::log10(lanePower) : -12.0;
  for (double part : {1.0, 0.7, 0.4}) {
    const double db = std::round(2.0 * std::clamp(part * whole, -18.0, 12.0)) / 2.0;
    if (std::abs(db) >= 0.5) out.push_back(levelMove(lane, db));
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
    Finding f{.id = "band-" + formatNumber(kBands[b].lowHz, 0) + "-" + formatNumber(kBands[b].highHz, 0),
              .stage = Stage::Compare,
              .verdict = *verdict,
              .value = beyond,
              .unit = "dB"};
    double share = 0.0;
    const LaneAt lane = laneIn(v, b, &share);
    f.sentence = fixedNumber(std::abs(beyond), 1) + " dB " + (beyond > 0 ? "above" : "below") +
                 " the references, " + bandText(kBands[b]) + ": mostly the " + laneName(lane);
    f.measured = signedDb(*difference) + " against the median, " + laneName(lane) + " " +
                 formatNumber(100.0 * share, 0) + " % of it";
    f.target = "within " + formatNumber(v.limits.bandHolds, 1) + " dB of one of them";
    f.options = levelMoves(lane, *difference, share);
    if (!anyOut) balance = balanceToReferences(v.study, v.limits);
    anyOut = true;
    if (balance) f.options.push_back(levelRemedy("Balance", *balance));  // where more than one lane is at fault
    out.push_back(f);
  }
  if (anyOut) return;
  out.push_back({.id = "bands",
                 .stage = Stage::Compare,
                 .sentence = "Every low band is where the references have it",
                 .measured = "20 to 250 Hz",
                 .target = "within " + formatNumber(v.limits.bandHolds, 1) + " dB of one of them"});
}

std::string listed(const std::vector<std::string>& words) {
  std::string out;
  for (size_t i = 0; i < words.size(); ++i)
    out += (i == 0 ? "" : i + 1 == words.size() ? " and " : ", ") + words[i];
  return out;
}

bool isOfPair(const Session& s, const Part& part) {
  return part.id == s.kick().id || part.id == s.bass().id;
}

// To mono, or of a part over the pair only the lows go: its width above them is wanted.
void narrow(Session& s, int id, bool fold) {
  Part* part = s.part(id);
  if (!part) return;
  part->finish.on = true;
  if (fold) {
    part->finish.mono = true;
    return;
  }
  Cut& cut = part->finish.eq.lowCut;
  cut = {true, std::max(kMonoBelowHz, cut.on ? cut.hz : 0.0), 24};
  part->finish.eq.on = true;
}

// Kick, bass, and a drum whose own note lies in the lows: a cut would take that too.
bool isFolded(const LedgerView& v, int id) {
  if (isOfPair(v.session, *v.session.part(id))) return true;
  const auto facts = v.study.factsOf(id);
  const auto hz = facts ? facts->landing.noteHz() : std::nullopt;
  return hz && *hz < kMonoBelowHz;
}

Remedy narrowing(const LedgerView& v, const std::vector<int>& parts) {
  std::vector<std::string> mono, cut;
  std::vector<std::pair<int, bool>> moves;
  for (const int id : parts) {
    moves.emplace_back(id, isFolded(v, id));
    (moves.back().second ? mono : cut).push_back(partWord(*v.session.part(id)));
  }
  std::string name = mono.empty() ? "" : "make " + listed(mono) + " mono";
  if (!cut.empty()) name += (name.empty() ? "" : ", ") + std::string("cut lows of ") + listed(cut);
  return {mono.empty() ? "Cut lows" : "Make mono", name, [moves](const Session& now) {
            Session next = now;
            for (const auto& [id, fold] : moves) narrow(next, id, fold);
            return next;
          }};
}

// Each part by itself, the one with the wider lows first; then more and more of them; then the backing.
std::vector<Remedy> monoMoves(const LedgerView& v) {
  std::vector<std::pair<double, int>> wide{
      {v.study.kickLow.sideDbBelow120.value_or(-120.0), v.session.kick().id},
      {v.study.bassLow.sideDbBelow120.value_or(-120.0), v.session.bass().id}};
  for (const PartFacts& of : v.study.others)
    if (of.low.sideDbBelow120 && v.session.part(of.part)) wide.emplace_back(*of.low.sideDbBelow120, of.part);
  std::stable_sort(wide.begin(), wide.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
  std::vector<Remedy> out;
  std::vector<int> all;
  for (const auto& [sideDb, id] : wide) out.push_back(narrowing(v, {id}));
  for (const auto& [sideDb, id] : wide)
    if (all.push_back(id); all.size() > 1) out.push_back(narrowing(v, all));
  out.push_back({"Cut lows", "cut lows of the backing", [](const Session& s) {
                   Session next = s;
                   next.backing.lowCutHz = std::max(kMonoBelowHz, next.backing.lowCutHz.value_or(0.0));
                   return next;
                 }});
  return out;
}

void addMono(const LedgerView& v, std::vector<Finding>& out) {
  Finding f{.id = "low-mono", .stage = Stage::Compare, .unit = "dB"};
  const auto side = v.study.sum.low.sideDbBelow120;
  f.value = side.value_or(-120.0);
  f.verdict = judged(f.value, v.limits.sideHolds, v.limits.sideWatch);
  f.sentence =
      f.verdict == Verdict::Holds ? "Low end is mono below 120 Hz" : "Low end is not mono below 120 Hz";
  f.measured = side && *side > -119 ? "side to mid " + formatNumber(*side, 0) + " dB" : "no side";
  f.target = "below " + formatNumber(v.limits.sideHolds, 0) + " dB";
  if (f.verdict != Verdict::Holds) f.options = monoMoves(v);
  out.push_back(f);
}

void addPeak(const LedgerView& v, std::vector<Finding>& out) {
  Finding f{.id = "peak", .stage = Stage::Compare, .value = v.study.sum.truePeakDbtp, .unit = "dBTP"};
  f.verdict = judged(f.value, v.limits.peakHolds, v.limits.peakWatch);
  f.sentence = f.verdict == Verdict::Holds   ? "The sum keeps its headroom"
               : f.verdict == Verdict::Watch ? "The sum comes close to full scale"
                                             : "The sum clips";
  f.measured = fixedNumber(f.value, 1) + " dBTP";
  f.target = "below " + formatNumber(v.limits.peakHolds, 0) + " dBTP";
  const double down = std::ceil(2.0 * (f.value - v.limits.peakHolds + 0.2)) / 2.0;
  if (f.verdict != Verdict::Holds) f.options = {levelRemedy("Lower", {-down, -down, -down})};
  out.push_back(f);
}

}  // namespace

std::optional<Verdict> bandVerdict(const BandDifference& difference, const Limits& limits) {
  if (!difference.levelReLufsDb) return std::nullopt;
  return judged(std::abs(difference.beyondDb), limits.bandHolds, limits.bandWatch);
}

void addSpeakerLine(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.study.bassPhon || v.study.bassMuted || v.session.bass().notes.empty()) return;
  Finding f{.id = "small-speaker", .stage = Stage::Sounds, .value = *v.study.bassPhon, .unit = "phon"};
  f.verdict = f.value >= kHeardPhon ? Verdict::Holds : Verdict::Watch;
  f.sentence = f.verdict == Verdict::Holds ? "The bass is heard on small speakers"
                                           : "The bass line vanishes on small speakers";
  f.measured = formatNumber(f.value, 0) + " phon from a laptop's speaker";
  f.target = "at least " + formatNumber(kHeardPhon, 0) + " phon";
  if (f.verdict != Verdict::Holds)
    for (double drive : {6.0, 12.0, 18.0})
      f.options.push_back({"Add harmonics", "drive the bass by " + formatNumber(drive, 0) + " dB",
                           [drive](const Session& s) {
                             Session next = s;
                             if (next.bass().layers.empty()) return next;
                             Drive& d = next.bass().layers.front().shape.drive;
                             d.on = true, d.driveDb = std::max(drive, d.driveDb), d.mix = std::max(0.5, d.mix);
                             return next;
                           }});
  out.push_back(f);
}

void addCompareLines(const LedgerView& view, std::vector<Finding>& out) {
  addBands(view, out);
  addMono(view, out);
  addPeak(view, out);
}

}  // namespace heft
