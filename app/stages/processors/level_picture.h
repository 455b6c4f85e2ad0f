#pragma once
/// A compressor, a soft clip, a limiter, a gain or a width by the level over the hit: before thin, after
/// thick, gain reduction hatched with its depth and recovery as dimension lines, upward gain outlined;
/// threshold, ceiling and upward threshold as lines to drag.

#include "app/stages/processors/processor_picture.h"

namespace heft::app {

class LevelPicture : public ProcessorPicture {
  Q_OBJECT
 public:
  LevelPicture(LayerChoice& choice, Selection& selection);
  /// A draggable line: its value's key, and its level.
  struct Line {
    std::string key;
    QString word;
    double db = 0.0;
  };
  std::vector<Line> lines() const;
  /// The left end of a line; tests drag it.
  QPointF handleOf(size_t line) const;
  double yOf(double db) const { return level().pixel(db); }
  /// The playhead, in quarters; nothing while nothing plays.
  void setPlayhead(std::optional<double> quarters);
  /// Gain reduction at the playhead, dB, 0 and up; nothing while it is on none of the part's sounds.
  std::optional<double> takenNowDb() const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  QRectF plot() const { return {QPointF(64, 24), QPointF(width() - 150.0, height() - 24.0)}; }
  Axis level() const { return {-54.0, 6.0, plot().bottom(), plot().top()}; }
  Axis time() const;
  std::optional<size_t> lineAt(const QPointF& at) const;
  void set(size_t line, double db, bool dragged);
  void drawScale(QPainter& p) const;
  void drawLevels(QPainter& p) const;
  void drawTaken(QPainter& p) const;
  void drawLines(QPainter& p) const;
  std::optional<double> playheadMs() const;
  size_t chosen_ = 0;
  std::optional<size_t> held_;
  std::optional<double> playhead_;
};

}  // namespace heft::app
