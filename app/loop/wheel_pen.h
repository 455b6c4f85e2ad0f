#pragma once
/// A part's pitch wheel as a curve over its lane: drawn by points, or only shown.

#include <QPainter>
#include <optional>

#include "app/document/document.h"
#include "app/pictures/axis.h"

namespace heft::app {

class WheelPen {
 public:
  explicit WheelPen(Document& document) : document_(document) {}

  /// Draws the wheel of a part that plays notes; nothing: lays the pen down.
  void take(std::optional<int> part) { part_ = part; }
  bool isDrawing() const { return part_.has_value(); }
  bool draws(int part) const { return part_ == part; }
  /// Whose wheel it draws, the bass's where that is gone.
  const Part& part() const;

  static double y(const QRectF& lane, double value);
  void press(const QPointF& at, const QRectF& lane, const Axis& time);
  void drag(const QPointF& at, const QRectF& lane, const Axis& time);
  /// A point that was clicked goes.
  void release();
  bool isHeld() const { return held_; }
  void draw(QPainter& p, const Part& part, const QRectF& lane, const Axis& time) const;

 private:
  void moveTo(const QPointF& at, const QRectF& lane, const Axis& time);

  Document& document_;
  std::optional<int> part_;
  std::optional<double> point_;  ///< quarters of the one in hand
  bool held_ = false, isNew_ = false, dragged_ = false;
  QPointF pressed_;
};

}  // namespace heft::app
