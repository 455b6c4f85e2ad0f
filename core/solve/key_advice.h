#pragma once
/// What a key gives a bass: which of its notes are heavy, and how loud this bass is there.

#include <stop_token>
#include <vector>

#include "core/render/sounds/sounds.h"
#include "core/session/session.h"

namespace heft {

struct KeyAdvice {
  Key key;
  /// Tonic and fifth in the octave that is heavy (lowTonic), MIDI.
  int tonicMidi = 0, fifthMidi = 0;
  /// Loudness of the bass there in phon at the track's listening level: ISO 226 over its own partials.
  double tonicPhon = 0.0, fifthPhon = 0.0;
  double tonicLaptopPhon = 0.0;  ///< of what a laptop leaves of the tonic
  /// How far a recorded bass is shifted to play the tonic; nothing for a built one or without one.
  std::optional<double> shiftSemitones;
};

/// The twelve keys of the track's mode, the present one first, then upwards. Without a bass that sounds: a sine
/// at -6 dBFS. Errors: Cancelled. Cost: a bass note and two transforms a key, some 20 ms each.
Result<std::vector<KeyAdvice>> keyAdvice(const Session& session, const Assets& assets, StepCache& cache,
                                         const std::stop_token& stop = {});

}  // namespace heft
