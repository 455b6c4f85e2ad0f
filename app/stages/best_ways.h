#pragma once
/// The best three ways to line the bass up, under the crests: solved aside as soon as Align is looked at,
/// played by their numbers in the running loop, kept by Return.

#include "app/document/aside.h"
#include "app/stages/stage_page.h"
#include "core/ledger/align_ways.h"

namespace heft::app {

class BestWays : public Picture {
  Q_OBJECT
 public:
  BestWays(Document& document, Selection& selection);
  /// 1 to 3 hear, 0 as it is, Return takes what is heard, Esc drops it. False for other keys.
  bool takeKey(int key);
  std::optional<int> heardNumber() const { return heard_; }
  /// Those of the present session; empty while they are solved.
  const std::vector<AlignWay>& ways() const { return ways_; }
  bool isSolved() const;
  QRectF cell(int number) const;
  void drop();

 Q_SIGNALS:
  void heard(const std::optional<heft::Edit>& edit);

 protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void solve();
  void hear(int number);
  void take();
  void drawWay(QPainter& p, int number) const;
  std::vector<AlignWay> ways_;
  std::string fault_;
  std::optional<Session> solvedFor_;
  std::optional<int> heard_;
  LatestAside solving_;
};

/// What a way costs, "2 ms moved, 0.8 ms back at A1".
QString alignCostText(const AlignWay& way, const Session& session);

}  // namespace heft::app
