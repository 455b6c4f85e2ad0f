// Moves and words that several lines share.

#include <algorithm>
#include <cmath>

#include "core/judge/lines.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/pair.h"
#include "core/session/pattern.h"
#include "core/theory/text.h"

namespace heft {

std::array<PairPart, 2> pairIn(const LedgerView& v) {
  return {PairPart{v.session.kick(), v.study.pair.kick.layers, v.study.pair.kick.muted},
          PairPart{v.session.bass(), v.study.pair.bass.layers, v.study.pair.bass.muted}};
}

Remedy remedyOf(const std::string& label, Edit edit, const std::string& name) {
  if (!name.empty()) edit.name = name;
  return {label, {std::move(edit)}};
}

std::string Remedy::move() const {
  std::string out;
  for (const Edit& edit : moves) out += (out.empty() ? "" : ", ") + edit.name;
  return out;
}

Edit Remedy::edit() const {
  std::vector<Edit> all = moves;
  if (!levels.isNone()) all.push_back(moveLevels(levels));
  std::string name;
  for (const Edit& edit : all) name += (name.empty() ? "" : ", ") + edit.name;
  return allOf(name, std::move(all));
}

std::optional<int> landingLayerId(const LedgerView& v) {
  const auto& layers = v.study.pair.kick.layers;
  const auto most =
      std::max_element(layers.begin(), layers.end(),
                       [](const LayerFacts& a, const LayerFacts& b) { return a.lowTailDb < b.lowTailDb; });
  return most == layers.end() ? std::nullopt : std::optional<int>(most->id);
}

namespace {

// The sixteenth of a song that a hit is nearest to, so that one played early belongs to the bar that it begins;
// nothing in a loop, whose hits are few enough to have numbers.
std::optional<double> placeOf(const LedgerView& view, int hit) {
  const auto& hits = view.study.pair.hits;
  const Track& track = view.session.track;
  if (!track.song || static_cast<size_t>(hit) >= hits.size()) return std::nullopt;
  return 0.25 * std::round(4.0 * hits[static_cast<size_t>(hit)].frame / track.framesPerQuarter());
}

}  // namespace

void judgeHits(const LedgerView& view, Finding& line, size_t count,
               const std::function<std::optional<HitLine>(size_t)>& each) {
  for (size_t i = 0; i < count; ++i) {
    auto hit = each(i);
    if (!hit) continue;
    hit->hit = static_cast<int>(i);
    const auto place = placeOf(view, hit->hit);
    if (const auto* section = place ? view.session.sectionAt(*place) : nullptr) hit->section = section->name;
    line.hits.push_back(*hit);
  }
  const auto worst = std::max_element(line.hits.begin(), line.hits.end(),
                                      [](const HitLine& a, const HitLine& b) { return a.verdict < b.verdict; });
  if (worst == line.hits.end()) return;
  line.verdict = std::max(line.verdict, worst->verdict);
  if (!line.hit && worst->verdict != Verdict::Holds) line.hit = worst->hit;
}

std::string hitName(const LedgerView& view, int hit) {
  const auto place = placeOf(view, hit);
  if (!place) return "hit " + std::to_string(hit + 1);
  const auto* section = view.session.sectionAt(*place);
  return positionName(view.session.track, *place) + (section ? " in " + section->name : "");
}

std::string atHits(const LedgerView& view, const Finding& line) {
  std::vector<std::string> bad;
  int last = 0;
  for (const HitLine& h : line.hits)
    if (h.verdict != Verdict::Holds) last = h.hit, bad.push_back(std::to_string(h.hit + 1));
  constexpr size_t kFew = 3;
  const bool song = view.session.track.song;
  if (bad.size() == 1) return "at " + hitName(view, last);
  if (bad.size() <= kFew && !song) return "at hits " + listed(bad);
  const bool all = bad.size() == line.hits.size();
  return (all ? "at all " : "at " + std::to_string(bad.size()) + " of ") + std::to_string(line.hits.size()) +
         " hits" + (song && line.hit ? ", worst at " + hitName(view, *line.hit) : "");
}

Remedy rotating(const Session& session, double hz) {
  constexpr double kQ = 0.7;
  return remedyOf("Rotate phase", setFreeTurn(session, {{true, hz, kQ}}));
}

std::optional<Remedy> clipping(const std::string& label, const Owner& of, const Chain& chain, double peakDb,
                               double byDb) {
  if (chain.list.size() >= kMostProcessors) return std::nullopt;
  Processor clip;
  clip.what = SoftClip{.on = true, .kneeDb = 3.0, .ceilingDb = std::clamp(peakDb - byDb, -24.0, 0.0)};
  const auto last = chain.list.empty() ? std::optional<int>() : std::optional(chain.list.back().id);
  return remedyOf(label, addProcessor(of, clip, last));
}

std::string plainDb(double value) {
  return fixedNumber(value, 1) + " dB";
}

std::string plainMs(double value) {
  return formatNumber(value, 0) + " ms";
}

std::string signedDb(double value) {
  return (value > 0.04 ? "+" : "") + plainDb(value);
}

}  // namespace heft
