#pragma once
/// What each bass note, and the kick, is elsewhere: heard, faint or gone.

#include <array>
#include <string>
#include <vector>

#include "core/measure/levels/listening_places.h"
#include "core/render/lanes/render.h"

namespace heft {

/// From the partials that a place leaves, at the track's listening level and, last, quietly.
struct SpeakerRow {
  std::optional<int> midi;  ///< of a bass note; nothing for the kick
  int events = 0;           ///< how often it is played
  std::array<double, kAllPlaces.size()> phon{};
  double quietPhon = 0.0, fullPhon = 0.0;  ///< quietly and here, on full-range speakers
};
enum class Audible { Heard, Faint, Gone };
/// Heard from kHeardPhon on (small_speaker.h), faint from half of it.
Audible audibleAt(double phon);
const char* audibleWord(Audible audible);  ///< "heard", "faint", "gone"

/// The kick, then the bass's notes from the lowest up; empty where neither sounds. `quietDb`: level of a
/// full-scale sine when played quietly, dB SPL. Cost: some 15 ms for each note that is new.
std::vector<SpeakerRow> speakerRows(const Session& session, const Assets& assets, double quietDb,
                                    StepCache& cache);

}  // namespace heft
