#pragma once
/// Strike and sustain, or an envelope, by the wave: before pale, after full; its gain as a line with the gain
/// reduction hatched, with marks for gains and times to drag.

#include "app/stages/processors/processor_picture.h"

namespace heft::app {

class ShapePicture : public ProcessorPicture {
  Q_OBJECT
 public:
  ShapePicture(LayerChoice& choice, Selection& selection);
  /// A mark: the values that it drags, and their present ones; nothing for a direction it does not have.
  struct Mark {
    QString word;
    double ms = 0.0, db = 0.0;
    std::string timeKey, dbKey;  ///< empty: no vertical drag
    double timeLess = 0.0;       ///< part of `ms` that is not that value's
  };
  std::vector<Mark> marks() const;
  QPointF markAt(size_t mark) const;
  double yOf(double db) const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  QRectF plot() const { return {QPointF(56, 24), QPointF(width() - 16.0, height() - 24.0)}; }
  Axis time() const;
  double gainDb(double ms) const;
  double mostDb() const;
  void move(const Mark& mark, double ms, double db, bool dragged);
  std::optional<size_t> markUnder(const QPointF& at) const;
  void drawScale(QPainter& p) const;
  void drawWaves(QPainter& p) const;
  void drawGain(QPainter& p) const;
  size_t chosen_ = 0;
  std::optional<size_t> held_;
  std::optional<double> heldMostDb_;
};

}  // namespace heft::app
