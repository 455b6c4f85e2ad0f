#pragma once
/// Figures that the session is to have, mostly taken from its references. The Ledger judges them.

#include <optional>
#include <vector>

#include "core/measure/levels/low_end.h"
#include "core/session/asset_ref.h"

namespace heft {

/// A band that the sum is compared in.
struct BandAim {
  double lowHz = 20.0, highHz = 40.0;      ///< within 20 to 500, the profile's range; low below high
  std::optional<double> toleranceDb = {};  ///< 0.1 to 12; nothing: as Ledger's limits say
  std::optional<double> targetDb = {};     ///< its power re loudness; nothing: the references' span
  Unknown unknown = {};
  bool operator==(const BandAim&) const = default;
  Band band() const { return {lowHz, highHz}; }
};
inline constexpr size_t kMostBandAims = 24;

/// Nothing: not wanted.
struct Targets {
  std::optional<double> kickMs;        ///< how long the kick stands in the sum (kick_in_mix.h)
  std::optional<double> dipDb;         ///< depth of the bass's dip after a hit, positive
  std::optional<double> backMs;        ///< from the hit until it is back
  std::optional<double> kickToBassDb;  ///< energy of the lows in the kick's body re after it
  std::optional<double> monoBelowHz;
  std::vector<BandAim> bands;  ///< those of kBands with a tolerance or a target of their own, and added ones
  Unknown unknown = {};
  bool operator==(const Targets&) const = default;
  /// Whether one of the figures that need kick and bass is wanted.
  bool ofThePair() const { return kickMs || dipDb || backMs || kickToBassDb; }
};

/// All bands that are compared: kBands, then the added ones, each with what was set for it.
std::vector<BandAim> comparedBands(const Targets& targets);

}  // namespace heft
