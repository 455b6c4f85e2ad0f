#pragma once
/// What is done to one layer between its tuning and its place in the part, in this order: start, fades,
/// envelope, EQ, strike and sustain, drive, body, room, width.

#include "core/shape/body.h"
#include "core/shape/drive.h"
#include "core/shape/eq.h"
#include "core/shape/strike_sustain.h"
#include "core/sound/buffer.h"

namespace heft {

struct AmpEnvelope {
  bool on = false;
  double attackMs = 0.0;   ///< 0 to 2000
  double holdMs = 20.0;    ///< 0 to 5000
  double decayMs = 150.0;  ///< 1 to 10000, to -40 dB
  bool operator==(const AmpEnvelope&) const = default;
};

struct LayerShape {
  double startMs = 0.0;    ///< cut off the front, 0 to 60000
  double fadeInMs = 0.0;   ///< 0 to 5000
  double fadeOutMs = 0.0;  ///< 0 to 5000, at the sound's end
  AmpEnvelope envelope;
  Eq eq;
  StrikeSustain strikeSustain;
  Drive drive;
  bool bodyOn = false;  ///< the response comes from another sound
  BodySettings body;
  Room room;
  double width = 1.0;  ///< 0 (mono) to 2, of a stereo sound
  bool operator==(const LayerShape&) const = default;
  /// Whether it changes anything.
  bool works() const;
};

/// `onsetSeconds` moves with what is cut off the front. `response`: of the body; may be empty.
void applyShape(AudioBuffer& sound, const LayerShape& shape, double& onsetSeconds,
                const std::vector<float>& response);

/// Sides scaled by `width`; the middle stays.
void applyWidth(AudioBuffer& sound, double width);

}  // namespace heft
