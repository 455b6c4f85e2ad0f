#pragma once
/// Ways to align kick and bass, one below another: the loss of each against perfect phase, all on one scale.

#include "app/pictures/heard_ways.h"
#include "core/solve/align_ways.h"

namespace heft::app {

class AlignWaysPicture : public HeardWays {
  Q_OBJECT
 public:
  AlignWaysPicture(Document& document, Selection& selection);
  /// The way behind a number, from 1; hidden names or not.
  const AlignWay& way(int number) const { return found_.ways[indexOf(number)]; }
  QRectF cell(int number) const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void solveAside(const std::shared_ptr<std::atomic<int>>& percent) override;
  QString kindWord(int kind) const override;
  QString takenWord() const override { return "Aligned"; }

 private:
  void drawLoss(QPainter& p, const AlignWay& way, const QRectF& box) const;
  QString standsText() const;
  AlignWays found_;
};

}  // namespace heft::app
