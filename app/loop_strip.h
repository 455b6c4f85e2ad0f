#pragma once
/// The loop as it sounds: ruler, kick lane, bass lane with gain line, backing and sum lanes, playhead. Hits and
/// notes are placed, moved and lengthened here. Shows the whole loop, or down to one beat of it.

#include <QWidget>
#include <array>
#include <optional>

#include "app/plots/axis.h"
#include "app/stages/stage_page.h"
#include "app/transport.h"

namespace heft::app {

class LoopStrip : public QWidget {
  Q_OBJECT
 public:
  LoopStrip(Document& document, Transport& transport, Selection& selection, QWidget* parent = nullptr);
  /// Places that tests take hold of.
  QPointF kickAt(double quarters) const;
  QPointF bassAt(double quarters) const;
  double viewStart() const { return timeAxis().from; }  ///< quarters
  double viewEnd() const { return timeAxis().to; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override {}
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;

 private:
  enum class Row { Ruler, Kick, Bass, Backing, Sum, None };
  static constexpr double kHead = 152.0, kRight = 12.0, kRuler = 20.0;  // px
  static constexpr double kGrid = 0.25;                                 // quarters
  static Lane laneOf(Row row) {
    return row == Row::Kick ? Lane::Kick : row == Row::Bass ? Lane::Bass : Lane::Backing;
  }
  enum class Grip { None, Move, End, New, Hit, NewHit };
  struct RowArea {
    Row row;
    QRectF box;
  };
  std::vector<RowArea> rows() const;
  QRectF boxOf(Row row) const;
  Row rowAt(const QPointF& at) const;
  Axis timeAxis() const;
  double snapped(double quarters, bool free) const;
  int noteAt(double quarters) const;
  bool gripsEnd(int note, double x) const;

  void readPeaks();
  void drawRuler(QPainter& p) const;
  void drawLane(QPainter& p, Row row, const QString& name, const QColor& colour, const Stem* stem) const;
  void drawNotes(QPainter& p) const;
  void drawGain(QPainter& p) const;
  void drawHeads(QPainter& p) const;
  void drawCursor(QPainter& p) const;
  QRectF headButton(Row row, bool solo) const;

  void pressKick(double quarters, bool free);
  void dragHit(double quarters, bool free);
  void removeHit(int hit);
  void pressBass(double quarters, double x, bool free);
  void dragNote(double quarters, bool free);
  void changeNotes(const QString& name, const std::function<void(std::vector<Note>&)>& change,
                   const QString& merge = {});
  int hitAt(double quarters, bool free) const;
  bool pressHead(Row row, const QPointF& at);
  void chooseHitBefore(double quarters);
  void moveCursor(int key, bool shift);
  void zoom(double factor, double aboutQuarters);
  void scrollTo(double startQuarters);

  Document& document_;
  Transport& transport_;
  Selection& selection_;
  std::array<float, 6> shownPeak_{1, 1, 1, 1, 1, 1};
  std::array<bool, 6> silent_{true, true, true, true, true, true};
  Grip grip_ = Grip::None;
  int note_ = -1;                            ///< chosen bass note
  int hit_ = -1;                             ///< kick hit in the hand
  bool dragged_ = false;                     ///< whether it has left its place
  double gripOffset_ = 0;                    ///< quarters from the start of what is in the hand to the pointer
  double viewStart_ = 0, viewQuarters_ = 0;  ///< what is shown; 0 long: all
  double cursor_ = 0;                        ///< keyboard cursor in quarters
  Row cursorRow_ = Row::Kick;
};

}  // namespace heft::app
