#pragma once
/// Every value of a chain of processors and of controller assignments (sound_fields.h).

#include "core/session/sound_fields.h"
#include "core/session/taught.h"

namespace heft {

inline constexpr size_t kLongestText = 4096, kLongestName = 200;

/// Without unknown keys: part of another object in files.
template <Is<AssetRef> T, class F>
void eachOfAsset(T& v, F& f) {
  f.text("hash", v.hash, 32);
  f.text("name", v.name, kLongestText);
  f.text("from", v.from, kLongestText, Saved::WhenSet);
  f.count("from_bytes", v.stamp.bytes, Saved::WhenSet);
  f.count("from_changed_ns", v.stamp.changedNs, Saved::WhenSet);
}

template <Is<AssetRef> T, class F>
void eachOf(T& v, F& f) {
  eachOfAsset(v, f);
  f.kept(v.unknown);
}

template <Is<Body> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.object("asset", v.asset, Saved::WhenSet);
  f.number("wet", v.response.wet, {0, 1, Unit::Share});
  f.number("decay_ms", v.response.decayMs, {5, 2000, Unit::Ms});
  f.number("damping_hz", v.response.dampingHz, {50, 20000, Unit::Hz});
}

template <Is<Processor> T, class F>
void eachOf(T& v, F& f) {
  f.whole("id", v.id, {1, kHighestId});
  f.template which<AmpEnvelope, Eq, StrikeSustain, Drive, Compressor, SoftClip, Limiter, Body, Room, Width,
                   Gain>(
      {processorKey(0), processorKey(1), processorKey(2), processorKey(3), processorKey(4), processorKey(5),
       processorKey(6), processorKey(7), processorKey(8), processorKey(9), processorKey(10)},
      v.what);
  f.flag("keep_loudness", v.keepsLoudness, Saved::WhenSet);
  f.kept(v.unknown);
}

template <Is<Chain> T, class F>
void eachOf(T& v, F& f) {
  f.flag("on", v.on);
  f.list("list", v.list, kMostProcessors);
}

template <Is<Taught> T, class F>
void eachOf(T& v, F& f) {
  f.parsed("by", v.by, controlName, parseControl);
  f.parsed("of", v.owner, ownerName, parseOwner);
  f.text("key", v.key, kLongestName);
  f.text("switch", v.switchKey, kLongestName, Saved::WhenSet);
  f.text("name", v.name, kLongestName);
  f.kept(v.unknown);
}

}  // namespace heft
