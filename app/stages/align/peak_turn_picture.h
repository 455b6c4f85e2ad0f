#pragma once
/// All-passes that lower the peak of kick or sum without changing levels: each drawn before and after around
/// the highest peak, played by its number, kept by Return.

#include "app/pictures/heard_ways.h"
#include "core/solve/free_turn.h"

namespace heft::app {

class PeakTurnPicture : public HeardWays {
  Q_OBJECT
 public:
  PeakTurnPicture(Document& document, Selection& selection);
  const FreeTurn& turn(int number) const { return found_[indexOf(number)]; }
  QRectF cell(int number) const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void solveAside(const std::shared_ptr<std::atomic<int>>& percent) override;
  QString kindWord(int kind) const override { return kind == 0 ? "for the kick" : "for the sum"; }
  QString takenWord() const override { return "Turned"; }

 private:
  void drawWaves(QPainter& p, const FreeTurn& turn, const QRectF& box) const;
  std::vector<FreeTurn> found_;
};

/// "62.3 and 88.5 Hz"; "62.3 Hz (0.9) and 88.5 Hz (0.82)".
QString placesWords(const std::vector<AllPass>& stages);
QString turnWords(const std::vector<AllPass>& stages);

}  // namespace heft::app
