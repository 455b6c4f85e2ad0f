// Compare: the sum beside the references, what of its low end is not mono, and its peaks.

#include <algorithm>
#include <cmath>

#include "core/ledger/lines.h"
#include "core/theory/text.h"

namespace heft {
namespace {

std::string signedDb(double value) {
  return (value > 0.04 ? "+" : "") + fixedNumber(value, 1) + " dB";
}
std::string bandText(const Band& b) {
  return formatNumber(b.lowHz, 0) + " to " + formatNumber(b.highHz, 0) + " Hz";
}

enum class Lane { Kick, Bass };

// Sum of the bands' verdicts, as they would be if one lane changed by some decibels. Lanes are taken as
// incoherent.
int predictedBadness(const LedgerView& v, Lane lane, double changeDb) {
  const LowEnd& part = lane == Lane::Kick ? v.study.kickLow : v.study.bassLow;
  const double factor = std::pow(10.0, changeDb / 10.0) - 1.0;
  int worst = 0;
  for (size_t b = 0; b < kBands.size(); ++b) {
    const auto difference = v.study.differences[b].levelReLufsDb;
    if (!difference) continue;
    const double power = v.study.sum.low.bandPower[b];
    const double share = power > 0.0 ? std::min(1.0, part.bandPower[b] / power) : 0.0;
    const double moved = *difference + 10.0 * std::log10(std::max(1e-6, 1.0 + factor * share));
    worst += 10 * static_cast<int>(judged(std::abs(moved), v.limits.bandHolds, v.limits.bandWatch));
  }
  return worst;
}

// A change of one lane's level that mends the band and leaves no other band worse off; nothing where there is
// none.
std::optional<Remedy> levelRemedy(const LedgerView& v, size_t band, double differenceDb) {
  const double power = v.study.sum.low.bandPower[band];
  const bool bassLeads = v.study.bassLow.bandPower[band] >= v.study.kickLow.bandPower[band];
  const Lane lane = bassLeads ? Lane::Bass : Lane::Kick;
  const double share =
      power > 0.0 ? (bassLeads ? v.study.bassLow : v.study.kickLow).bandPower[band] / power : 0.0;
  if (share < 0.4) return std::nullopt;
  double best = 0.0;
  int least = predictedBadness(v, lane, 0.0);
  for (double change = 0.5; change <= 6.0; change += 0.5) {
    const double moved = differenceDb > 0 ? -change : change;
    const int badness = predictedBadness(v, lane, moved);
    if (badness < least) least = badness, best = moved;
  }
  if (best == 0.0) return std::nullopt;
  const std::string name = std::string(best < 0 ? "lower " : "raise ") + (bassLeads ? "bass" : "kick") +
                           " by " + formatNumber(std::abs(best), 1) + " dB";
  return Remedy{best < 0 ? "Lower" : "Raise", name, [bassLeads, best](const Session& s) {
                  Session next = s;
                  auto& layers = bassLeads ? next.bass.layers : next.kick.layers;
                  for (Layer& l : layers) l.levelDb = std::clamp(l.levelDb + best, -60.0, 24.0);
                  return next;
                }};
}

void addBands(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.study.hasBacking || !v.study.anyReference()) return;
  bool anyOut = false;
  for (size_t b = 0; b < kBands.size(); ++b) {
    const auto difference = v.study.differences[b].levelReLufsDb;
    if (!difference) continue;
    const Verdict verdict = judged(std::abs(*difference), v.limits.bandHolds, v.limits.bandWatch);
    if (verdict == Verdict::Holds) continue;
    anyOut = true;
    Finding f{.id = "band-" + formatNumber(kBands[b].lowHz, 0) + "-" + formatNumber(kBands[b].highHz, 0),
              .stage = Stage::Compare,
              .verdict = verdict,
              .value = *difference,
              .unit = "dB"};
    f.sentence = fixedNumber(std::abs(*difference), 1) + " dB " + (*difference > 0 ? "above" : "below") +
                 " the references, " + bandText(kBands[b]);
    f.measured = signedDb(*difference) + ", loudness matched";
    f.target = "within " + formatNumber(v.limits.bandHolds, 1) + " dB";
    f.remedy = levelRemedy(v, b, *difference);
    out.push_back(f);
  }
  if (anyOut) return;
  out.push_back({.id = "bands",
                 .stage = Stage::Compare,
                 .sentence = "Every low band is where the references have it",
                 .measured = "20 to 250 Hz",
                 .target = "within " + formatNumber(v.limits.bandHolds, 1) + " dB"});
}

void addMono(const LedgerView& v, std::vector<Finding>& out) {
  Finding f{.id = "low-mono", .stage = Stage::Compare, .unit = "dB"};
  const auto side = v.study.sum.low.sideDbBelow120;
  f.value = side.value_or(-120.0);
  f.verdict = judged(f.value, v.limits.sideHolds, v.limits.sideWatch);
  f.sentence =
      f.verdict == Verdict::Holds ? "Low end is mono below 120 Hz" : "Low end is not mono below 120 Hz";
  f.measured = side && *side > -119 ? "side " + formatNumber(*side, 0) + " dB re mid" : "no side";
  f.target = "below " + formatNumber(v.limits.sideHolds, 0) + " dB";
  // The lane with the wider lows is folded.
  const double kickSide = v.study.kickLow.sideDbBelow120.value_or(-120.0),
               bassSide = v.study.bassLow.sideDbBelow120.value_or(-120.0);
  const bool kick = kickSide > bassSide;
  const Finish& finish = kick ? v.session.kick.finish : v.session.bass.finish;
  if (f.verdict != Verdict::Holds && std::max(kickSide, bassSide) > -119.0 && !(finish.on && finish.mono))
    f.remedy = Remedy{"Fold", kick ? "fold kick to mono" : "fold bass to mono", [kick](const Session& s) {
                        Session next = s;
                        Finish& folded = kick ? next.kick.finish : next.bass.finish;
                        folded.on = folded.mono = true;
                        return next;
                      }};
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
  if (f.verdict != Verdict::Holds) {
    const double down = std::ceil(2.0 * (f.value - v.limits.peakHolds + 0.2)) / 2.0;
    f.remedy = Remedy{"Lower", "lower all lanes by " + formatNumber(down, 1) + " dB", [down](const Session& s) {
                        Session next = s;
                        for (Layer& l : next.kick.layers) l.levelDb = std::max(-60.0, l.levelDb - down);
                        for (Layer& l : next.bass.layers) l.levelDb = std::max(-60.0, l.levelDb - down);
                        next.backing.levelDb = std::max(-60.0, next.backing.levelDb - down);
                        return next;
                      }};
  }
  out.push_back(f);
}

}  // namespace

void addCompareLines(const LedgerView& view, std::vector<Finding>& out) {
  addBands(view, out);
  addMono(view, out);
  addPeak(view, out);
}

}  // namespace heft
