#pragma once
/// The backing's wave under the loop's grid: drag it sideways until its beats match the loop.

#include "app/pictures/axis.h"
#include "app/pictures/picture.h"

namespace heft::app {

class BackingPicture : public Picture {
  Q_OBJECT
 public:
  BackingPicture(Document& document, Selection& selection);
  /// Position of a moment of the loop; tests drag from there.
  double xOfQuarters(double quarters) const { return timeAxis().pixel(quarters); }

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  Axis timeAxis() const;  ///< quarters of the loop
  QRectF plot() const { return QRectF(QPointF(64, 24), QPointF(width() - 16.0, height() - 28.0)); }
  void setOffset(double seconds, const QString& merge);
  std::optional<double> dragX_;
  double dragOffset_ = 0.0;
};

}  // namespace heft::app
