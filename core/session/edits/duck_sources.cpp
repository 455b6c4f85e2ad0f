// Edits of a ducking's trigger.

#include <algorithm>
#include <cmath>

#include "core/session/edits/ducks.h"
#include "core/session/fields.h"
#include "core/theory/text.h"

namespace heft {
namespace {

void removeNear(std::vector<HitMark>& marks, double seconds) {
  std::erase_if(marks, [seconds](const HitMark& m) { return std::abs(m.seconds - seconds) <= kMarkSeconds; });
}

void removeNear(std::vector<TriggerHit>& hits, double quarters) {
  std::erase_if(hits, [quarters](const TriggerHit& h) { return std::abs(h.startQuarters - quarters) <= 0.01; });
}

void sortByStart(std::vector<TriggerHit>& hits) {
  std::stable_sort(hits.begin(), hits.end(),
                   [](const TriggerHit& a, const TriggerHit& b) { return a.startQuarters < b.startQuarters; });
}

}  // namespace

Edit setTriggerPart(const Duck& duck, int part) {
  return onDuck("set the trigger", duck,
                [part](Duck& d) { d.source.kind = TriggerKind::Part, d.source.part = part; });
}

Edit setTriggerAudio(const Duck& duck, const AssetRef& sound) {
  return onDuck("load a trigger", duck, [sound](Duck& d) {
    d.source.kind = TriggerKind::Audio;
    if (d.source.asset.hash != sound.hash) d.source.marks.clear(), d.source.offsetSeconds = 0.0;
    d.source.asset = sound;
  });
}

Edit setTriggerMidi(const Duck& duck, const MidiFile& file, const std::string& fileName) {
  std::vector<TriggerHit> notes;
  for (const MidiTrack& track : file.tracks)
    for (const MidiNote& n : track.notes)
      if (notes.size() < kMostHits)
        notes.push_back({n.startQuarters, std::max(0.01, n.lengthQuarters), n.velocity / 127.0, n.note});
  sortByStart(notes);
  return onDuck("load a trigger", duck,
                [notes, name = cutUtf8(fileName, 200), end = file.endQuarters](Duck& d) {
                  d.source.kind = TriggerKind::Midi;
                  d.source.notes = notes, d.source.midiName = name, d.source.midiQuarters = end;
                  d.source.pitches.clear();
                });
}

Edit setTriggerDrawn(const Duck& duck, const std::vector<TriggerHit>& now) {
  return onDuck("draw the trigger's hits", duck, [now](Duck& d) {
    d.source.kind = TriggerKind::Drawn;
    if (d.source.hits.empty()) d.source.hits = now;
  });
}

Edit togglePitch(const Duck& duck, int midi) {
  return onDuck("choose the trigger's notes", duck, [midi](Duck& d) {
    auto& chosen = d.source.pitches;
    if (chosen.empty())
      for (const TriggerHit& n : d.source.notes)
        if (n.midi > 0 && std::find(chosen.begin(), chosen.end(), n.midi) == chosen.end())
          chosen.push_back(n.midi);
    if (std::erase(chosen, midi) == 0 && midi > 0) chosen.push_back(midi);
    std::sort(chosen.begin(), chosen.end());
  });
}

Edit placeTriggerHit(const Duck& duck, double quarters, double velocity) {
  return onDuck("place a trigger", duck, [quarters, velocity](Duck& d) {
    removeNear(d.source.hits, quarters);
    if (d.source.hits.size() < kMostHits)
      d.source.hits.push_back({std::max(0.0, quarters), 0.25, velocity, 36});
    sortByStart(d.source.hits);
  });
}

Edit removeTriggerHit(const Duck& duck, double quarters) {
  return onDuck("remove a trigger", duck, [quarters](Duck& d) { removeNear(d.source.hits, quarters); });
}

Edit markHit(const Duck& duck, double seconds, bool fires) {
  return onDuck(fires ? "add a hit" : "remove false hit", duck, [seconds, fires](Duck& d) {
    removeNear(d.source.marks, seconds);
    if (d.source.marks.size() < kMostMarks) d.source.marks.push_back({seconds, fires});
    std::stable_sort(d.source.marks.begin(), d.source.marks.end(),
                     [](const HitMark& a, const HitMark& b) { return a.seconds < b.seconds; });
  });
}

Edit clearMark(const Duck& duck, double seconds) {
  return onDuck("reset hit to detected", duck, [seconds](Duck& d) { removeNear(d.source.marks, seconds); });
}

Edit setTriggerBand(const Duck& duck, std::optional<double> lowHz, std::optional<double> highHz,
                    const std::string& mergeKey) {
  return onDuck(
      "set the trigger's band", duck,
      [lowHz, highHz](Duck& d) {
        d.source.highCutHz =
            highHz ? std::optional(std::max(21.0, rangeOf<DuckSource>("high_cut_hz").held(*highHz)))
                   : std::nullopt;
        d.source.lowCutHz = lowHz
                                ? std::optional(std::clamp(*lowHz, 20.0, 0.99 * d.source.detector().highCutHz))
                                : std::nullopt;
        if (d.source.lowCutHz && *d.source.lowCutHz >= d.source.detector().highCutHz) d.source.lowCutHz.reset();
      },
      mergeKey);
}

}  // namespace heft
