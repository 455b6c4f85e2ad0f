#pragma once
/// Perceived loudness of the bass line: a step per note over the line's average, each draggable.

#include "app/pictures/axis.h"
#include "app/pictures/picture.h"

namespace heft::app {

class LinePicture : public Picture {
  Q_OBJECT
 public:
  LinePicture(Document& document, Selection& selection);
  /// The step of a note, by its index in the line; tests drag it.
  QRectF stepOf(size_t note) const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  QRectF plot() const { return {QPointF(64, 26), QPointF(width() - 16.0, height() - 22.0)}; }
  Axis level() const;
  const LineHeard* line() const;
  /// The chosen note among the audible ones; nothing without any.
  const NoteHeard* chosen() const;
  void trim(double db, const std::string& mergeKey);
  void drawStep(QPainter& p, const NoteHeard& heard) const;
  size_t note_ = 0;
  std::optional<double> heldDb_;  ///< the dragged note's trim
  double heldY_ = 0.0;
};

}  // namespace heft::app
