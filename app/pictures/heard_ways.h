#pragma once
/// Alternative ways to one goal side by side: solved aside, played by number keys in the running loop, blind
/// if wanted, and applied as one edit.

#include <QTimer>
#include <atomic>
#include <memory>

#include "app/pictures/picture.h"
#include "app/play/blind_order.h"

namespace heft::app {

class HeardWays : public Picture {
  Q_OBJECT
 public:
  /// `button`: the label of the button that solves them again.
  HeardWays(Document& document, Selection& selection, const QString& name, const QString& button);
  /// Solves them for the present session.
  void solve();
  bool isSolved() const { return solved_; }
  bool isBlind() const { return order_.isHidden(); }
  size_t count() const { return offers_.size(); }
  /// Where the picture of a way is, from 1; tests click there.
  virtual QRectF cell(int number) const = 0;

 Q_SIGNALS:
  /// The loop with another way; empty: unchanged.
  void heard(const std::optional<heft::Edit>& edit);
  void left();

 protected:
  struct Offer {
    std::string name;
    Edit edit;
    int kind = 0;
  };
  /// Starts the solver, which ends with offer() or fail().
  virtual void solveAside(const std::shared_ptr<std::atomic<int>>& percent) = 0;
  virtual QString kindWord(int kind) const = 0;
  /// "Made room": the message when one is applied.
  virtual QString takenWord() const = 0;
  void offer(std::vector<Offer> offers);
  void fail(const QString& sentence);
  /// The way behind a number; while hidden, in a new random order each time.
  size_t indexOf(int number) const { return order_.behind(static_cast<size_t>(number - 1)); }
  int heardNow() const { return heard_; }
  bool isStale() const { return !solvedFor_ || *solvedFor_ != document().session(); }
  int tallyOf(int kind) const { return order_.tallyOf(kind); }
  QString pressAgain() const { return "press " + button_ + " again"; }
  /// The frame of a cell with its number, and its name unless it is hidden.
  void drawFrame(QPainter& p, int number) const;
  /// The keys and the blind choices; or why there is nothing to show: then false.
  bool drawHead(QPainter& p, const QString& goal) const;

  void mousePressEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void hear(int number);
  void take();
  void setBlind(bool blind);
  QString button_, fault_;
  std::vector<Offer> offers_;
  std::optional<Session> solvedFor_;
  BlindOrder order_;
  bool solving_ = false, solved_ = false;
  std::shared_ptr<std::atomic<int>> percent_ = std::make_shared<std::atomic<int>>(0);
  QTimer watch_;
  int heard_ = 0;  ///< its number; 0: unchanged
};

}  // namespace heft::app
