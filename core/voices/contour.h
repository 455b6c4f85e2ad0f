#pragma once
/// The contour of a bass note: a gain from its start to its end, restarted by each note.

#include <vector>

#include "core/theory/time_value.h"

namespace heft {

inline constexpr double kLeastContourDb = -60.0, kMostContourDb = 12.0;
inline constexpr double kLatestContourMs = 10000.0, kShortestReleaseMs = 2.0;

/// A point: the gain at that time after the note's start.
struct ContourPoint {
  TimeValue at = {};
  double db = 0.0;    ///< kLeastContourDb to kMostContourDb
  double bend = 0.0;  ///< of the way to the next point, -1 to 1: 1 moves early, -1 late
  bool operator==(const ContourPoint&) const = default;
};
inline constexpr size_t kMostContourPoints = 32;

/// From silence up to the first point, the peak, through the others to the last, the sustain; that holds until
/// the note ends and is then released. A first point at 0 begins at the peak.
struct Contour {
  bool on = false;
  /// 0 to 1: scales the contour in decibels; 0 leaves the note as without it.
  double amount = 1.0;
  std::vector<ContourPoint> points = {{TimeValue::milliseconds(0.0), 0.0, -0.3},
                                      {TimeValue::note(1, 8), -6.0, 0.0}};  ///< at least two
  TimeValue release = TimeValue::milliseconds(30.0);
  bool operator==(const Contour&) const = default;

  bool works() const { return on && amount > 0.0 && points.size() >= 2; }
};

/// The contour of a note of a given length and tempo, readable at any time.
class ContourGain {
 public:
  /// `heldSeconds`: from the note's start to its end; without an end it is never released.
  ContourGain(const Contour& contour, double tempoBpm, double heldSeconds, bool released = true);
  /// An amplitude; 0 before the start and after the release, 1 throughout where the contour does nothing.
  /// Attack and release are raised cosines of the amplitude; segments between are linear in dB unless bent.
  double at(double seconds) const;
  /// From the start to silence.
  double endSeconds() const { return held_ + release_; }
  /// When a point is reached: never before the one ahead of it, even if the tempo would swap them.
  double pointSeconds(size_t index) const { return at_[index]; }

 private:
  double decibelsAt(double seconds) const;
  Contour contour_;
  std::vector<double> at_;
  double held_ = 0.0, release_ = 0.0;
  bool released_ = true;
};

}  // namespace heft
