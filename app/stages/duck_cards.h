#pragma once
/// The duckings of a session as a row of cards: each with its name, its gain over the loop, in or out.

#include "app/stages/duck_choice.h"

class QPushButton;

namespace heft::app {

class FlowLayout;

/// One ducking. Click chooses it, Space or the mark takes it in or out, Delete removes it.
class DuckCard : public QWidget {
  Q_OBJECT
 public:
  DuckCard(Document& document, Selection& selection, int duck);
  int duck() const { return duck_; }
  /// Where the mark is that takes it in and out.
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

class DuckCards : public QWidget {
  Q_OBJECT
 public:
  DuckCards(Document& document, Selection& selection);
  /// Stands after the cards.
  void addButton(QPushButton* button);
  void refresh();

 private:
  Document& document_;
  Selection& selection_;
  FlowLayout* row_;
  std::vector<QPushButton*> buttons_;  ///< the first adds
  std::vector<DuckCard*> cards_;
};

}  // namespace heft::app
