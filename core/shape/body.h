#pragma once
/// Body: a sound convolved with a short response made from any other sound; and a short room for tops.

#include <array>

#include "core/sound/buffer.h"

namespace heft {

struct BodySettings {
  double wet = 0.25;          ///< 0 to 1, mixed with the dry sound
  double decayMs = 120.0;     ///< 5 to 2000: time to decay by 60 dB
  double dampingHz = 2000.0;  ///< 50 to 20000: high cut of the response
  bool operator==(const BodySettings&) const = default;
};

/// The response made from a sound: from its onset, mono, faded by `decayMs`, cut above `dampingHz`, with unit
/// energy so that any sound can serve. At most two seconds.
std::vector<float> bodyResponse(const AudioBuffer& sound, const BodySettings& settings);
/// dry + wet * (sound convolved with the response); longer by the response.
void applyBody(AudioBuffer& sound, const std::vector<float>& response, double wet);

struct Room {
  bool on = false;
  double wet = 0.15;          ///< 0 to 1
  double sizeMs = 60.0;       ///< 10 to 400: time to decay by 60 dB
  double dampingHz = 6000.0;  ///< 500 to 20000
  bool operator==(const Room&) const = default;
};

/// Left and right of that room, its lead of 3 ms included.
std::array<std::vector<float>, 2> roomResponses(const Room& room, double sampleRate);

/// Adds a generated room: two different decaying noises after 3 ms, above 200 Hz so that the bottom stays dry
/// and mono. A mono sound becomes stereo. Longer by the room's size.
void applyRoom(AudioBuffer& sound, const Room& room);

}  // namespace heft
