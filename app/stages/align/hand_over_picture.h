#pragma once
/// From the kick's tail to the next bass note: levels of both and of their sum about the chosen hit's
/// hand-over, and the evenness of each hit.

#include "app/pictures/axis.h"
#include "app/pictures/picture.h"

namespace heft::app {

class HandOverPicture : public Picture {
  Q_OBJECT
 public:
  HandOverPicture(Document& document, Selection& selection);
  /// The end of the hand-over, dragged sideways; tests drag it too.
  QPointF endGrip() const;
  QRectF columnOf(int hit) const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  QRectF levels() const;
  QRectF columns() const;
  Axis time() const;
  const HandOverFacts* chosen() const;
  void set(double ms);
  void drawLevels(QPainter& p, const HandOverFacts& facts) const;
  void drawColumns(QPainter& p, const Study& study) const;
  bool dragging_ = false;
  std::optional<Axis> heldTime_;
};

}  // namespace heft::app
