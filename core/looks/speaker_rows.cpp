#include "core/looks/speaker_rows.h"

#include <cmath>
#include <map>

#include "core/measure/levels/heard_loudness.h"
#include "core/measure/levels/small_speaker.h"

namespace heft {
namespace {

SpeakerRow rowOf(const AudioBuffer& sound, double levelDb, const Track& track, double quietly) {
  auto mono = monoFold(sound);
  for (double& v : mono) v *= amplitudeFromDb(levelDb);
  const HeardBands bands = heardBands(mono, sound.sampleRate);
  SpeakerRow out;
  const double here = track.listening.fullScaleDb;
  for (size_t i = 0; i < kAllPlaces.size(); ++i) out.phon[i] = heardThere(bands, kAllPlaces[i]).phon(here);
  out.fullPhon = bands.phon(here), out.quietPhon = bands.phon(quietly);
  return out;
}

}  // namespace

Audible audibleAt(double phon) {
  return phon >= kHeardPhon ? Audible::Heard : phon >= 0.5 * kHeardPhon ? Audible::Faint : Audible::Gone;
}

const char* audibleWord(Audible audible) {
  return audible == Audible::Heard ? "heard" : audible == Audible::Faint ? "faint" : "gone";
}

std::vector<SpeakerRow> speakerRows(const Session& s, const Assets& assets, double quietly, StepCache& cache) {
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  std::vector<SpeakerRow> out;
  if (const auto kick = steps.kick(s.kick(), s.track); kick && !s.kick().hits.empty()) {
    out.push_back(rowOf(kick->sound, s.kick().levelDb, s.track, quietly));
    out.back().events = static_cast<int>(s.kick().hits.size());
  }
  std::map<int, int> notes;
  for (const Note& n : s.bass().notes) ++notes[n.midi];
  for (const auto& [midi, times] : notes) {
    const Keyed note = steps.bassNote(s.bass(), s.track, midi, 0.5);
    if (!note.sound) continue;
    const KeyMaker maker = KeyMaker("speaker row 1")
                               .add(note.key)
                               .add(s.bass().levelDb)
                               .add(s.track.listening.fullScaleDb)
                               .add(quietly);
    out.push_back(*cache.get<SpeakerRow>(
        maker.key(), [&] { return rowOf(*note.sound, s.bass().levelDb, s.track, quietly); },
        [](const SpeakerRow&) { return sizeof(SpeakerRow) + 16; }));
    out.back().midi = midi, out.back().events = times;
  }
  return out;
}

}  // namespace heft
