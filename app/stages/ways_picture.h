#pragma once
/// Ways to make room beside each other: one small picture each, all on one scale, heard by their numbers.

#include <QTimer>
#include <atomic>
#include <map>
#include <memory>

#include "app/stages/stage_page.h"
#include "core/ledger/ways.h"

namespace heft::app {

class WaysPicture : public Picture {
  Q_OBJECT
 public:
  WaysPicture(Document& document, Selection& selection);
  /// Solves them aside for the session as it is now.
  void solve();
  bool isSolved() const { return ways_.has_value(); }
  bool isBlind() const { return blind_; }
  size_t count() const { return ways_ ? ways_->ways.size() : 0; }
  /// The way behind a number, from 1; hidden names or not.
  const RoomWay& way(int number) const;
  /// Where its picture is; tests click there.
  QRectF cell(int number) const;
  /// How often ways of that kind were taken while their names were hidden.
  int tally(WayKind kind) const;

 Q_SIGNALS:
  /// The loop by another way; nothing: as it is.
  void heard(const std::optional<heft::Edit>& edit);
  void left();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void hear(int number);
  void take();
  void setBlind(bool blind);
  bool isStale() const { return !solvedFor_ || *solvedFor_ != document().session(); }
  void drawCell(QPainter& p, int number) const;
  void drawLevels(QPainter& p, const RoomWay& way, const QRectF& box) const;
  QString costText(const RoomWay& way) const;
  std::optional<RoomWays> ways_;
  std::optional<Session> solvedFor_;
  std::vector<size_t> order_;  ///< which way stands under which number
  QString fault_;
  bool solving_ = false, blind_ = false;
  std::shared_ptr<std::atomic<int>> solved_ =
      std::make_shared<std::atomic<int>>(0);  ///< kinds, by the thread that solves
  QTimer watch_;
  int heard_ = 0;  ///< its number; 0: as it is
  std::map<WayKind, int> tally_;
};

}  // namespace heft::app
