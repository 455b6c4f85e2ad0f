#pragma once
/// Every value of the targets (sound_fields.h).

#include "core/session/chain_fields.h"
#include "core/session/targets.h"

namespace heft {

template <Is<BandAim> T, class F>
void eachOf(T& v, F& f) {
  f.number("low_hz", v.lowHz, {20, 500, Unit::Hz});
  f.number("high_hz", v.highHz, {20, 500, Unit::Hz});
  f.number("tolerance_db", v.toleranceDb, {0.1, 12, Unit::Db});
  f.number("target_db", v.targetDb, {-120, 40, Unit::Db});
  f.kept(v.unknown);
}

template <Is<Targets> T, class F>
void eachOf(T& v, F& f) {
  f.number("kick_length_ms", v.kickMs, {10, 2000, Unit::Ms});
  f.number("dip_db", v.dipDb, {0, 60, Unit::Db});
  f.number("dip_back_ms", v.backMs, {5, 2000, Unit::Ms});
  f.number("kick_to_bass_db", v.kickToBassDb, {-40, 40, Unit::Db});
  f.number("mono_below_hz", v.monoBelowHz, {20, 500, Unit::Hz});
  f.list("bands", v.bands, kMostBandAims, Saved::WhenSet);
  f.kept(v.unknown);
}

}  // namespace heft
