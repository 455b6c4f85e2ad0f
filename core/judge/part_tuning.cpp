#include "core/judge/part_tuning.h"

#include <algorithm>
#include <cmath>

#include "core/session/edits/parts.h"

namespace heft {
namespace {

// Of a part that plays hits.
std::optional<double> landingOf(const Session& s, const Study& study, int id) {
  const Part* part = s.part(id);
  const auto facts = study.soundOf(id);
  const auto hz = part && !part->playsNotes() && facts ? facts->landing.noteHz() : std::nullopt;
  if (!hz) return std::nullopt;
  return midiFromHz(*hz, s.track.notes.a4Hz);
}

}  // namespace

std::vector<TuneTarget> partTargets(const Session& s, const Study& study, int part) {
  const auto midi = landingOf(s, study, part);
  if (!midi) return {};
  auto out = tuneTargets(*midi, noteUnderMostHits(s), s.track.key);
  std::stable_sort(out.begin(), out.end(), [](const TuneTarget& a, const TuneTarget& b) {
    return std::abs(a.semitones) < std::abs(b.semitones);
  });
  return out;
}

bool isOffKey(const Session& s, const Study& study, int part, const Limits& limits) {
  const auto midi = landingOf(s, study, part);
  return midi && std::abs(*midi - nearestInKey(*midi, s.track.key)) * 100.0 > limits.looseHolds;
}

std::optional<Edit> tunePartTo(const Session& s, const Study& study, int part, int midi) {
  const auto from = landingOf(s, study, part);
  if (!from) return std::nullopt;
  return tunePart(*s.part(part), *from, midi, s.track.notes);
}

std::string partKeyLineId(int part) {
  return "part-" + std::to_string(part) + "-key";
}

std::vector<std::string> openPartKeyLines(const Session& s, const std::vector<Finding>& findings) {
  std::vector<std::string> out;
  for (const Part& part : s.parts)
    for (const Finding& f : findings)
      if (f.id == partKeyLineId(part.id) && f.verdict != Verdict::Holds && !f.meantSo && (f.remedy || !f.tried))
        out.push_back(f.id);
  return out;
}

}  // namespace heft
