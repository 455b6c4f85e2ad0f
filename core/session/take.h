#pragma once
/// Recording: key presses and the pitch wheel become notes and a curve.

#include <optional>

#include "core/session/pattern.h"

namespace heft {

struct TakeSettings {
  Grid grid;
  double strength = 0.0;  ///< 0 to 1: input quantise of starts
  double loopQuarters = 8.0;
};

/// One key at a time: a press ends the previous note. Times are quarters since the start, across the loop's
/// end.
class Take {
 public:
  explicit Take(const TakeSettings& settings) : settings_(settings) {}
  /// The note that this press ended, if any.
  std::optional<Note> press(int midi, double velocity, double at);
  /// The note that ended; nothing if another key sounds by now.
  std::optional<Note> release(int midi, double at);
  /// Ends the sounding note here and returns it.
  std::optional<Note> end(double at);
  /// Adds a point to the curve, where the wheel has moved at all.
  void bend(double value, double at);
  const std::vector<WheelPoint>& wheel() const { return wheel_; }

 private:
  TakeSettings settings_;
  std::optional<Note> sounding_;
  double pressedAt_ = 0.0;
  std::vector<WheelPoint> wheel_;
};

/// Adds a played note to the line: it replaces notes that start under it and shortens those that sound into
/// it. For hits: replaces one at the same moment.
void insertPlayed(std::vector<Hit>& hits, const Hit& played, double loopQuarters);
void insertPlayed(std::vector<Note>& notes, const Note& played, double loopQuarters);
/// Adds a played curve to the wheel's: replaces it from its first point to its last.
void insertPlayed(std::vector<WheelPoint>& wheel, const std::vector<WheelPoint>& played);

}  // namespace heft
