#include "core/ledger/part_tuning.h"

#include <algorithm>
#include <cmath>

#include "core/session/edits/parts.h"

namespace heft {
namespace {

// Of a part that plays hits.
std::optional<double> landingOf(const Session& s, const Study& study, int id) {
  const Part* part = s.part(id);
  const auto facts = study.factsOf(id);
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

std::vector<int> partsOffKey(const Session& s, const Study& study, const Limits& limits) {
  std::vector<int> out;
  for (const PartFacts& of : study.others) {
    const auto midi = landingOf(s, study, of.part);
    if (midi && std::abs(*midi - nearestInKey(*midi, s.track.key)) * 100.0 > limits.looseHolds)
      out.push_back(of.part);
  }
  return out;
}

Edit tunePartsToKey(const Session& s, const Study& study, const Limits& limits) {
  std::vector<Edit> all;
  for (const int id : partsOffKey(s, study, limits))
    all.push_back(tunePart(*s.part(id), easiestTarget(*landingOf(s, study, id), s.track.key).midi));
  return allOf("tune parts to " + s.track.key.name(), std::move(all));
}

}  // namespace heft
