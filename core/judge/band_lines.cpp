// Compare: each band of the sum beside the references, or beside its target.

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "core/judge/balance.h"
#include "core/judge/lines.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/values.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr double kMostDownDb = -18.0, kMostUpDb = 12.0;

std::string bandText(const Band& b) {
  return formatNumber(b.lowHz, 0) + " to " + formatNumber(b.highHz, 0) + " Hz";
}

// What makes a band: a part, and of several layers the loudest of them there.
struct Blame {
  std::optional<int> part;  // nothing: the backing
  std::string word;
  double power = 0.0, share = 0.0;
  const LayerFacts* layer = nullptr;
  double layerShare = 0.0;  // of the part's energy in the band
};

const std::vector<LayerFacts>* layersOf(const LedgerView& v, std::optional<int> part) {
  const PartFacts* of = part ? v.study.part(*part) : nullptr;
  return of ? &of->layers : nullptr;
}

// Half of the energy and more: else no single layer is to blame.
void blameLayer(const LedgerView& v, Blame& blame, const Band& band) {
  constexpr double kMostOfIt = 0.5;
  const auto* layers = layersOf(v, blame.part);
  if (!layers || layers->size() < 2) return;
  double all = 0.0;
  for (const LayerFacts& layer : *layers) all += layer.energyIn(band);
  for (const LayerFacts& layer : *layers)
    if (const double share = all > 0.0 ? layer.energyIn(band) / all : 0.0; share >= kMostOfIt)
      blame.layer = &layer, blame.layerShare = share;
}

// The main source of a band's energy; lanes count as incoherent, and what no part explains is the backing's.
Blame mostIn(const LedgerView& v, const Band& band) {
  std::vector<Blame> lanes{{std::nullopt, "backing"}};
  double ofParts = 0.0;
  for (const Part& part : v.session.parts) {
    const PartFacts* of = v.study.part(part.id);
    if (!of) continue;
    lanes.push_back({part.id, partWord(part), of->low.powerIn(band)});
    ofParts += lanes.back().power;
  }
  lanes.front().power = std::max(0.0, v.study.sum.low.powerIn(band) - ofParts);
  Blame most = *std::max_element(lanes.begin(), lanes.end(),
                                 [](const Blame& a, const Blame& b) { return a.power < b.power; });
  most.share = most.power / std::max(1e-30, ofParts + lanes.front().power);
  blameLayer(v, most, band);
  return most;
}

// "the kick", "Clap", "the backing".
std::string theLane(const Session& s, const Blame& lane) {
  const Part* part = lane.part ? s.part(*lane.part) : nullptr;
  return part && (part->is() == PartRole::Other || !part->name.empty()) ? lane.word : "the " + lane.word;
}

// "Bass layer Low", "Kick", "Backing".
std::string blamed(const Session& s, const Blame& lane) {
  const Part* part = lane.part ? s.part(*lane.part) : nullptr;
  const std::string title = part ? part->title() : "Backing";
  return lane.layer ? title + " layer " + lane.layer->title : title;
}

// Of a part that plays notes: the one that sounds in the band the longest, by its three lowest partials.
std::optional<int> noteIn(const Session& s, const Blame& lane, const Band& band) {
  constexpr double kWeights[] = {1.0, 0.3, 0.1};
  const Part* part = lane.part ? s.part(*lane.part) : nullptr;
  if (!part || !part->playsNotes()) return std::nullopt;
  std::vector<double> weights(128, 0.0);
  for (const Note& n : part->notes)
    for (size_t k = 0; k < std::size(kWeights); ++k) {
      const double hz = static_cast<double>(k + 1) * hzFromMidi(n.midi, s.track.notes.a4Hz);
      if (hz >= band.lowHz && hz <= band.highHz && n.midi >= 0 && n.midi < 128)
        weights[static_cast<size_t>(n.midi)] += kWeights[k] * n.lengthQuarters;
    }
  const auto most = std::max_element(weights.begin(), weights.end());
  return *most > 0.0 ? std::optional(static_cast<int>(most - weights.begin())) : std::nullopt;
}

// Level change that would bring the band in if what holds that share of it alone were at fault.
double wholeDb(double share, double differenceDb) {
  const double wanted = std::pow(10.0, -differenceDb / 10.0);  // of the band's power
  const double left = (wanted - (1.0 - share)) / share;
  return left > 1e-3 ? 10.0 * std::log10(left) : -12.0;
}

// Level changes of the layer or the lane, and smaller ones.
std::vector<Remedy> levelMoves(const Session& s, const Blame& lane, double differenceDb) {
  std::vector<Remedy> out;
  const Part* part = lane.part ? s.part(*lane.part) : nullptr;
  const Layer* layer = part && lane.layer ? part->layer(lane.layer->id) : nullptr;
  const auto rounded = [](double db) { return std::round(2.0 * std::clamp(db, kMostDownDb, kMostUpDb)) / 2.0; };
  for (const double of : {1.0, 0.7, 0.4}) {
    const double db = rounded(of * wholeDb(lane.share, differenceDb));
    const double ofLayer = layer ? rounded(of * wholeDb(lane.share * lane.layerShare, differenceDb)) : 0.0;
    const char* does = db < 0 ? "Lower " : "Raise ";
    if (std::abs(ofLayer) >= 0.5)
      out.push_back(remedyOf(
          does + lane.layer->title + " " + plainDb(std::abs(ofLayer)),
          putValue((db < 0 ? "lower " : "raise ") + lane.layer->title + " by " + plainDb(std::abs(ofLayer)),
                   {.part = part->id, .layer = layer->id}, "level_db", layer->levelDb + ofLayer)));
    if (std::abs(db) >= 0.5)
      out.push_back({does + lane.word + " " + plainDb(std::abs(db)), {}, laneBy(s, lane.part, db)});
  }
  return out;
}

// The section whose band is the nearest: "Brine, drop".
std::string nearestSection(const LedgerView& v, const Band& band) {
  const auto mine = v.study.sum.bandReLufs(band);
  std::string out;
  double nearest = 1e9;
  for (const MeasuredSection& r : v.study.references) {
    if (!mine || !r.of.counts || !r.isLoud()) continue;
    const double off = std::abs(*r.profile->facts.bandReLufs(band) - *mine);
    if (off >= nearest) continue;
    nearest = off, out = std::filesystem::path(r.of.asset.name).stem().string();
    if (r.of.stretch && !r.of.stretch->name.empty()) out += ", " + r.of.stretch->name;
  }
  return out;
}

// " in Drop", where that alone is compared.
std::string inSection(const LedgerView& v) {
  const TrackSection* section = v.session.comparedSection();
  return section ? " in " + section->name : "";
}

Finding bandLine(const LedgerView& v, const BandDifference& d, Verdict verdict) {
  Finding f{
      .id = bandLineId(d.band), .stage = Stage::Compare, .verdict = verdict, .value = d.beyondDb, .unit = "dB"};
  const Blame lane = mostIn(v, d.band);
  const bool above = d.beyondDb > 0;
  const auto note = noteIn(v.session, lane, d.band);
  const std::string than = d.hasTarget ? " the target" : " the references",
                    by = fixedNumber(std::abs(d.beyondDb), 1) + " dB " + (above ? "above" : "below") + than;
  f.sentence = above ? blamed(v.session, lane) + " is " + by +
                           (note ? " at " + noteName(*note, v.session.track.notes) : ", " + bandText(d.band))
                     : by + ", " + bandText(d.band);
  // One figure: the distance beyond all references. A second one from their median would confuse.
  f.measured = bandText(d.band) + ", " + formatNumber(100.0 * lane.share, 0) + " % " +
               theLane(v.session, lane) + inSection(v);
  const std::string within = "within " + formatNumber(bandTolerance(d, v.limits), 1) + " dB of ";
  const std::string nearest = nearestSection(v, d.band);
  f.target =
      d.hasTarget ? within + "its target" : within + (nearest.empty() ? std::string("one of them") : nearest);
  f.options = levelMoves(v.session, lane, *d.levelReLufsDb);
  return f;
}

}  // namespace

std::string bandLineId(const Band& band) {
  return "band-" + formatNumber(band.lowHz, 0) + "-" + formatNumber(band.highHz, 0);
}

double bandTolerance(const BandDifference& difference, const Limits& limits) {
  return difference.toleranceDb.value_or(limits.bandHolds);
}

std::optional<Verdict> bandVerdict(const BandDifference& difference, const Limits& limits) {
  if (!difference.levelReLufsDb) return std::nullopt;
  return judged(std::abs(difference.beyondDb), bandTolerance(difference, limits),
                difference.toleranceDb ? 2.0 * *difference.toleranceDb : limits.bandWatch);
}

void addBandLines(const LedgerView& v, std::vector<Finding>& out) {
  if (!v.study.hasBacking) return;
  bool anyOut = false, anyJudged = false;
  std::optional<LaneLevels> balance;
  for (const BandDifference& d : v.study.differences) {
    const auto verdict = bandVerdict(d, v.limits);
    anyJudged |= verdict.has_value();
    if (!verdict || *verdict == Verdict::Holds) continue;
    Finding f = bandLine(v, d, *verdict);
    if (!anyOut && v.study.anyReference()) balance = balanceToReferences(v.session, v.study, v.limits);
    anyOut = true;
    if (balance) f.options.push_back({"Balance levels", {}, *balance});  // where more than one lane is at fault
    out.push_back(f);
  }
  if (anyOut || !anyJudged) return;
  out.push_back({.id = "bands",
                 .stage = Stage::Compare,
                 .sentence = "Every low band matches the references",
                 .measured = "20 to 250 Hz" + inSection(v),
                 .target = "within " + formatNumber(v.limits.bandHolds, 1) + " dB of one of them"});
}

}  // namespace heft
