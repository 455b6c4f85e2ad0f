#include "core/session/settle.h"

#include <algorithm>
#include <set>

#include "core/session/fields.h"

namespace heft {
namespace {

bool isHash(const std::string& text) {
  return text.size() == 32 && text.find_first_not_of("0123456789abcdef") == std::string::npos;
}

template <class Event>
void inOrder(std::vector<Event>& events) {
  std::stable_sort(events.begin(), events.end(),
                   [](const Event& a, const Event& b) { return a.startQuarters < b.startQuarters; });
}

// A duplicate id would let an edit reach the wrong one: the later ones get new ids.
template <class List>
void giveOwnIds(List& list, std::set<int>& seen) {
  for (auto& one : list)
    if (!seen.insert(one.id).second) {
      one.id = 1;
      while (!seen.insert(one.id).second) ++one.id;
    }
}

// In order; one that another begins in ends there, and one that begins with another leaves it the place.
void settleSections(std::vector<TrackSection>& sections) {
  std::stable_sort(sections.begin(), sections.end(), [](const TrackSection& a, const TrackSection& b) {
    return a.fromQuarters < b.fromQuarters;
  });
  for (size_t i = 0; i + 1 < sections.size(); ++i)
    sections[i].toQuarters = std::min(sections[i].toQuarters, sections[i + 1].fromQuarters);
  std::erase_if(sections, [](const TrackSection& s) { return !(s.toQuarters > s.fromQuarters); });
}

void addMissing(std::vector<Part>& parts, const Part& part) {
  if (std::any_of(parts.begin(), parts.end(), [&](const Part& p) { return p.is() == part.is(); })) return;
  const auto at =
      part.is() == PartRole::Kick ? parts.begin() : parts.begin() + std::min<ptrdiff_t>(1, std::ssize(parts));
  parts.insert(at, part);
}

}  // namespace

void settle(Cut& cut) {
  cut.slopeDbPerOctave -= cut.slopeDbPerOctave % 12;
}

void settle(KickVoice& voice) {
  if (voice.fall.empty()) voice.fall.resize(1);
}

void settle(TailFade& fade) {
  std::stable_sort(fade.points.begin(), fade.points.end(),
                   [](const FadePoint& a, const FadePoint& b) { return a.at < b.at; });
}

void settle(Contour& contour) {
  if (contour.points.size() < 2) contour.points = Contour().points;
}

void settle(Chain& chain) {
  std::set<int> ids;
  giveOwnIds(chain.list, ids);
}

void settle(DuckSource& source) {
  auto early = [](const TriggerHit& a, const TriggerHit& b) { return a.startQuarters < b.startQuarters; };
  std::stable_sort(source.notes.begin(), source.notes.end(), early);
  std::stable_sort(source.hits.begin(), source.hits.end(), early);
  std::stable_sort(source.marks.begin(), source.marks.end(),
                   [](const HitMark& a, const HitMark& b) { return a.seconds < b.seconds; });
}

void settle(DuckCurve& curve) {
  if (curve.points.size() == 1) curve.points.clear();
}

void settle(ExportList& list) {
  if (list.gainFine && list.gainController > kHighestFineController) list.gainController = kGainController;
}

void settle(Track& track) {
  track.notes.flats = track.key.prefersFlats();
}

void settle(Part& part) {
  inOrder(part.hits.own()), inOrder(part.notes.own());
  std::stable_sort(part.wheel.begin(), part.wheel.end(),
                   [](const WheelPoint& x, const WheelPoint& y) { return x.quarters < y.quarters; });
  std::set<int> layers;
  giveOwnIds(part.layers, layers);
}

void settle(Automation& a) {
  std::stable_sort(a.points.begin(), a.points.end(),
                   [](const AutomationPoint& x, const AutomationPoint& y) { return x.quarters < y.quarters; });
}

void settle(TrackSection& section) {
  std::set<int> parts, ducks;
  std::erase_if(section.parts, [&](const SectionPart& p) { return !parts.insert(p.part).second; });
  std::erase_if(section.ducks, [&](const SectionDuck& d) { return !ducks.insert(d.duck).second; });
}

// Whether anything of that part, in any version, has it: a new layer may get the id of one that is gone.
static bool partHas(const Part& part, const Owner& owner) {
  auto chainHas = [&](const Chain& chain) { return !owner.processor || chain.find(*owner.processor); };
  auto has = [&](const std::vector<Layer>& layers, const Chain& finish) {
    if (!owner.layer) return chainHas(finish);
    return std::any_of(layers.begin(), layers.end(),
                       [&](const Layer& l) { return l.id == *owner.layer && chainHas(l.chain); });
  };
  return has(part.layers, part.finish) ||
         std::any_of(part.versions.all.begin(), part.versions.all.end(),
                     [&](const PartVersion& v) { return has(v.layers, v.finish); });
}

static bool ownerExists(const Session& s, const Owner& owner) {
  if (owner.duck) return s.duck(*owner.duck);
  if (!owner.part) return !owner.processor || s.sum.finish.find(*owner.processor);
  const Part* part = s.part(*owner.part);
  return part && partHas(*part, owner);
}

// What is of something that is gone goes with it.
static void settleAlongTrack(Session& s) {
  for (TrackSection& t : s.sections) {
    std::erase_if(t.parts, [&](const SectionPart& p) { return !s.part(p.part); });
    std::erase_if(t.ducks, [&](const SectionDuck& d) { return !s.duck(d.duck); });
  }
  std::set<std::string> values;
  std::erase_if(s.automation, [&](const Automation& a) {
    return !ownerExists(s, a.owner) || !values.insert(ownerName(a.owner) + " " + a.key).second;
  });
}

void settle(Session& s) {
  for (const Part& part : pairOfParts()) addMissing(s.parts, part);
  if (s.ducks.empty()) s.ducks.resize(1);
  std::set<int> parts, ducks, sections;
  giveOwnIds(s.parts, parts);
  settleSections(s.sections);
  giveOwnIds(s.sections, sections);
  const TrackSection* compared = s.comparedSection();
  for (TrackSection& t : s.sections) t.compared = &t == compared;
  giveOwnIds(s.ducks, ducks);
  // A control has one assignment: the first.
  std::set<std::string> controls;
  std::erase_if(s.taught, [&](const Taught& t) { return !controls.insert(controlName(t.by)).second; });
  settleAlongTrack(s);
}

void settle(Reference& r) {
  std::erase_if(r.sections, [](const Section& s) { return !(s.seconds() >= kShortestSectionSeconds); });
}

void settle(Targets& t) {
  std::vector<BandAim> kept;
  for (BandAim& aim : t.bands) {
    const bool known =
        std::any_of(kept.begin(), kept.end(), [&](const BandAim& k) { return k.band() == aim.band(); });
    if (aim.highHz > aim.lowHz && !known) kept.push_back(std::move(aim));
  }
  t.bands = std::move(kept);
}

std::optional<FieldFault> faultOf(const AssetRef& ref) {
  if (ref.hash.empty() || isHash(ref.hash)) return std::nullopt;
  return FieldFault{"hash", "is not 32 hex digits"};
}

std::optional<FieldFault> faultOf(const Reference& r) {
  return faultOf(r.asset);
}

std::optional<FieldFault> faultOf(const Recorded& r) {
  if (r.band.highHz > r.band.lowHz) return std::nullopt;
  return FieldFault{"band_high_hz", "is not above band_low_hz"};
}

std::optional<FieldFault> faultOf(const KickVoice& voice) {
  const auto& fall = voice.fall;
  for (size_t i = 0; i < fall.size(); ++i)
    if (i == 0 ? fall[i].at != 0.0 : fall[i].at < fall[i - 1].at)
      return FieldFault{"fall", "does not ascend from 0"};
  return std::nullopt;
}

std::optional<FieldFault> faultOf(const AlignMove& move) {
  if (move.question.highHz > move.question.lowHz) return std::nullopt;
  return FieldFault{"high_hz", "is not above low_hz"};
}

std::optional<FieldFault> faultOf(const DuckSource& source) {
  if (!source.lowCutHz || *source.lowCutHz < source.detector().highCutHz) return std::nullopt;
  return FieldFault{"low_cut_hz", "is not below high_cut_hz"};
}

std::optional<FieldFault> faultOf(const DuckCurve& curve) {
  const auto& points = curve.points;
  for (size_t i = 0; i < points.size(); ++i)
    if (i == 0 ? points[i].at != 0.0 : points[i].at < points[i - 1].at)
      return FieldFault{"points", "do not ascend from 0"};
  return std::nullopt;
}

std::optional<FieldFault> faultOf(const DuckBand& band) {
  for (size_t i = 1; i < band.steps.size(); ++i)
    if (!(band.steps[i].belowHz > band.steps[i - 1].belowHz)) return FieldFault{"steps", "do not ascend"};
  return std::nullopt;
}

std::optional<FieldFault> faultOf(const Versions& v) {
  if (v.now == 0 || v.now < static_cast<int>(v.all.size())) return std::nullopt;
  return FieldFault{"now", "names no version"};
}

std::optional<FieldFault> faultOf(const Part& part) {
  const bool fits = part.is() == PartRole::Other || part.playsNotes() == (part.is() == PartRole::Bass);
  if (!fits) return FieldFault{"plays", "wrong role: a kick plays hits, a bass plays notes"};
  return std::nullopt;
}

std::optional<FieldFault> faultOf(const Track& t) {
  if (t.beatUnit & (t.beatUnit - 1)) return FieldFault{"beat_unit", "is not 2, 4, 8 or 16"};
  if (t.loopBeats > t.mostBeats())
    return FieldFault{"loop_beats", t.song ? "is longer than ten minutes"
                                           : "is longer than " + std::to_string(kMostLoopBars) + " bars"};
  return std::nullopt;
}

std::optional<FieldFault> faultOf(const TrackSection& s) {
  if (s.toQuarters > s.fromQuarters) return std::nullopt;
  return FieldFault{"to", "is not after from"};
}

std::optional<FieldFault> faultOf(const Grid& grid) {
  if (grid.division.isNote()) return std::nullopt;
  return FieldFault{"division", "is no note length"};
}

std::optional<FieldFault> faultOf(const Session& s) {
  if (s.parts.size() <= kMostParts) return std::nullopt;
  return FieldFault{"parts", "leaves no room for the kick and the bass that every session has"};
}

}  // namespace heft
