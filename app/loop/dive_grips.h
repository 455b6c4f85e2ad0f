#pragma once
/// Dives of notes in the loop strip: falling lines with a grip at each end and one that bends them. The lane's
/// height is two octaves.

#include <QPainter>
#include <optional>

#include "app/document/document.h"
#include "app/loop/lane_rows.h"
#include "app/pictures/axis.h"

namespace heft::app {

/// Grips of a dive: its start, its middle (bend), its end.
enum class DiveGrip { Start, Bend, End };

class DiveGrips {
 public:
  explicit DiveGrips(Document& document) : document_(document) {}

  static QPointF at(const Note& note, DiveGrip grip, const QRectF& lane, const Axis& time);
  /// Takes the nearest grip under the pointer: its note's start in quarters; nothing where there is none.
  std::optional<double> press(const Part& part, const QPointF& at, const QRectF& lane, const Axis& time);
  void drag(const Part& part, const QPointF& at, const QRectF& lane, const Axis& time);
  void release() { held_.reset(); }
  bool isHeld() const { return held_.has_value(); }
  int part() const { return held_ ? held_->part : 0; }  ///< whose dive is held
  /// Depths beside them; of the one in hand its length too.
  void draw(QPainter& p, const Part& part, const QRectF& lane, const Axis& time) const;

 private:
  struct Held {
    int part = 0;
    double start = 0.0;  ///< of its note, quarters
    DiveGrip grip = DiveGrip::End;
  };
  void drawLine(QPainter& p, const Note& note, const QRectF& lane, const Axis& time) const;

  Document& document_;
  std::optional<Held> held_;
};

}  // namespace heft::app
