#pragma once
/// A part's finish: what is done to the sum of its layers, hit by hit, in this order.

#include "core/shape/drive.h"
#include "core/shape/dynamics.h"
#include "core/shape/eq.h"

namespace heft {

struct Finish {
  bool on = true;  ///< all of it in or out
  Eq eq;
  Drive drive;
  Compressor compressor;
  SoftClip softClip;
  Limiter limiter;
  bool mono = false;
  bool operator==(const Finish&) const = default;
  bool works() const {
    return on && (eq.works() || drive.on || compressor.on || softClip.on || limiter.on || mono);
  }
};

/// Same length, same place.
void applyFinish(AudioBuffer& sound, const Finish& finish);

}  // namespace heft
