#pragma once
/// Ways to make room side by side: one small picture each, all on one scale.

#include "app/pictures/heard_ways.h"
#include "core/solve/ways.h"

namespace heft::app {

class WaysPicture : public HeardWays {
  Q_OBJECT
 public:
  WaysPicture(Document& document, Selection& selection);
  /// The way behind a number, from 1; hidden names or not.
  const RoomWay& way(int number) const { return found_.ways[indexOf(number)]; }
  QRectF cell(int number) const override;
  /// How often ways of that kind were chosen while their names were hidden.
  int tally(WayKind kind) const { return tallyOf(static_cast<int>(kind)); }

 protected:
  void paintEvent(QPaintEvent*) override;
  void solveAside(const std::shared_ptr<std::atomic<int>>& percent) override;
  QString kindWord(int kind) const override;
  QString takenWord() const override { return "Made room"; }

 private:
  void drawCell(QPainter& p, int number) const;
  void drawLevels(QPainter& p, const RoomWay& way, const QRectF& box) const;
  QString costText(const RoomWay& way) const;
  RoomWays found_;
};

}  // namespace heft::app
