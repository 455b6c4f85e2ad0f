#pragma once
/// The best three ways to align the bass, under the crests: solved aside once Align is shown, played by
/// number keys in the running loop, kept by Return.

#include "app/document/aside.h"
#include "app/pictures/numbered_offers.h"
#include "core/solve/align_ways.h"

namespace heft::app {

class BestWays : public NumberedOffers {
  Q_OBJECT
 public:
  BestWays(Document& document, Selection& selection);
  /// Those of the present session; empty while they are solved.
  const std::vector<AlignWay>& ways() const { return ways_; }
  bool isSolved() const;
  QRectF cell(int number) const override;

 protected:
  int count() const override { return static_cast<int>(ways_.size()); }
  std::optional<Edit> editOf(int number) const override;
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void solve();
  void drawWay(QPainter& p, int number) const;
  std::vector<AlignWay> ways_;
  std::optional<Session> solvedFor_;
  LatestAside solving_;
};

/// Cost of a way: "2 ms moved, 0.8 ms back at A1".
QString alignCostText(const AlignWay& way, const Session& session);

}  // namespace heft::app
