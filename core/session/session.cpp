#include "core/session/session.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace heft {

size_t Track::loopFrames() const {
  return static_cast<size_t>(std::lround(loopQuarters() * framesPerQuarter()));
}

bool Layer::operator==(const Layer& o) const {
  return asset == o.asset && levelDb == o.levelDb && invert == o.invert && mute == o.mute &&
         targetMidi == o.targetMidi && method == o.method && strikeMs == o.strikeMs &&
         strikeSemitones == o.strikeSemitones && flatten == o.flatten && band.lowHz == o.band.lowHz &&
         band.highHz == o.band.highHz && rootMidi == o.rootMidi && length == o.length &&
         kickVoice == o.kickVoice && bassVoice == o.bassVoice && name == o.name && id == o.id &&
         solo == o.solo && offsetMs == o.offsetMs && semitones == o.semitones && followNotes == o.followNotes &&
         keepLength == o.keepLength && glideMs == o.glideMs && velocityToLevel == o.velocityToLevel &&
         shape == o.shape && bodyAsset == o.bodyAsset && unknown == o.unknown;
}

std::vector<const Layer*> heardLayers(const std::vector<Layer>& layers) {
  const bool soloed = std::any_of(layers.begin(), layers.end(), [](const Layer& l) { return l.solo; });
  std::vector<const Layer*> out;
  for (const Layer& l : layers)
    if (!l.mute && !l.isEmpty() && (l.solo || !soloed)) out.push_back(&l);
  return out;
}

int freshLayerId(const std::vector<Layer>& layers, const Versions& versions) {
  int most = 0;
  for (const Layer& l : layers) most = std::max(most, l.id);
  for (const PartVersion& v : versions.all)
    for (const Layer& l : v.layers) most = std::max(most, l.id);
  return most + 1;
}

void setLanding(Layer& layer, double midi) {
  if (layer.kickVoice)
    layer.kickVoice->landingMidi = midi;
  else
    layer.targetMidi = midi;
}

std::optional<double> landingTarget(const Layer& layer) {
  return layer.kickVoice ? std::optional<double>(layer.kickVoice->landingMidi) : layer.targetMidi;
}

void setLength(Layer& layer, const TimeValue& length) {
  if (layer.kickVoice)
    layer.kickVoice->length = length;
  else
    layer.length = length;
}

int noteUnderMostHits(const Session& session) {
  std::map<int, std::pair<int, double>> count;  // note: hits, shared quarters
  const double loop = session.track.loopQuarters();
  for (const Hit& hit : session.kick.hits)
    for (const Note& note : session.bass.notes) {
      // A note counts where it sounds within the sixteenth after the hit.
      const double end = std::min(note.startQuarters + note.lengthQuarters, loop);
      const double shared =
          std::min(end, hit.startQuarters + 0.25) - std::max(note.startQuarters, hit.startQuarters);
      if (shared <= 0.0) continue;
      auto& entry = count[note.midi];
      entry.first += 1, entry.second += shared;
    }
  int best = -1;
  for (const auto& [midi, entry] : count)
    if (best < 0 || entry > count[best]) best = midi;
  if (best >= 0 || session.bass.notes.empty()) return best;
  // No note meets a hit: the note that sounds longest.
  std::map<int, double> length;
  for (const Note& note : session.bass.notes) length[note.midi] += note.lengthQuarters;
  return std::max_element(length.begin(), length.end(), [](auto& a, auto& b) { return a.second < b.second; })
      ->first;
}

}  // namespace heft
