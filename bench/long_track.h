#pragma once
/// Long tracks to measure.

#include "core/session/assets.h"
#include "core/session/session.h"

namespace heft::bench {

/// The demo's pair over ten minutes at 120 BPM with a backing of noise and chords at 44.1 kHz; or over a loop
/// of 64 bars without one.
struct LongTrack {
  Session session;
  Assets assets;
};
LongTrack longTrack(bool song);

}  // namespace heft::bench
