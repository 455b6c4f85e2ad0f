#pragma once
/// A body or a room: the sound it adds over time, with its decay as a dimension line to drag, and its added
/// spectrum outlined. Up and Down step through the folder of a body's sound.

#include "app/stages/processors/processor_picture.h"

namespace heft::app {

class SpacePicture : public ProcessorPicture {
  Q_OBJECT
 public:
  SpacePicture(LayerChoice& choice, Selection& selection);
  /// The end of the response; tests drag it.
  QPointF endAt() const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  struct Decay {
    std::string key;
    double ms = 0.0, most = 0.0;
  };
  std::optional<Decay> decay() const;
  QRectF added() const { return {QPointF(16, 24), QPointF(0.46 * width(), height() - 24.0)}; }
  QRectF spectrum() const {
    return {QPointF(0.46 * width() + 56, 40), QPointF(width() - 16.0, height() - 24.0)};
  }
  Axis time() const;
  void drawAdded(QPainter& p) const;
  void drawSpectra(QPainter& p) const;
  void setDecay(double ms, bool dragged);
  void flipSound(int way);
  bool held_ = false;
  LatestAside folderAside_;
};

}  // namespace heft::app
