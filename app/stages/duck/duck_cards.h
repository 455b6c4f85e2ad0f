#pragma once
/// The duckings of a session as a row of cards: each with its name, its gain over the loop, on or off.

#include <QScrollArea>

#include "app/desk/duck_choice.h"

class QHBoxLayout;

namespace heft::app {

/// One ducking. A click selects it, Space or the mark switches it on or off, Delete removes it.
class DuckCard : public QWidget {
  Q_OBJECT
 public:
  static constexpr int kWidth = 176, kHeight = 40;
  DuckCard(Document& document, Selection& selection, int duck);
  int duck() const { return duck_; }
  /// Position of the mark that switches it on and off.
  QRectF mark() const;
  void refresh();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override;
  void focusOutEvent(QFocusEvent*) override { update(); }

 private:
  const Duck* now() const { return document_.session().duck(duck_); }
  Document& document_;
  Selection& selection_;
  int duck_;
};

/// One row, which scrolls where there are many.
class DuckCards : public QScrollArea {
  Q_OBJECT
 public:
  DuckCards(Document& document, Selection& selection);
  void refresh();

 private:
  Document& document_;
  Selection& selection_;
  QHBoxLayout* row_;
  std::vector<DuckCard*> cards_;
  int shown_ = 0;  ///< the ducking last scrolled into view
};

}  // namespace heft::app
