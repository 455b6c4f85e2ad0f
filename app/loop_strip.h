#pragma once
/// The loop as it sounds: ruler, kick lane, bass lane with gain line, backing and sum lanes, playhead. Hits and
/// notes are placed, moved and lengthened here. Shows the whole loop, or down to one beat of it.

#include <QWidget>
#include <array>
#include <optional>

#include "app/plots/axis.h"
#include "app/stages/stage_page.h"
#include "app/transport.h"
#include "app/widgets/accessible.h"
#include "core/session/pattern_range.h"

class QMenu;

namespace heft::app {

class ValueField;

class LoopStrip : public QWidget, public AccessibleHolder {
  Q_OBJECT
 public:
  /// What the Edit menu asks for.
  enum class EditKind { Cut, Copy, Paste, Duplicate, Delete, SelectAll };
  void doEdit(EditKind kind);
  /// Hits and notes, for screen readers.
  std::vector<AccessibleItem> accessibleItems() const override;
  /// The chosen hit of the pattern and the chosen note, -1 without one; tests ask.
  int chosenHit() const;
  int chosenNote() const { return note_; }
  LoopStrip(Document& document, Transport& transport, Selection& selection, QWidget* parent = nullptr);
  /// Places that tests take hold of.
  QPointF kickAt(double quarters) const;
  QPointF bassAt(double quarters) const;
  double viewStart() const { return timeAxis().from; }  ///< quarters
  double viewEnd() const { return timeAxis().to; }
  /// What a dive can be taken hold of by: where it begins, its middle (its bend), where it ends.
  enum class DiveGrip { Start, Bend, End };
  /// Handles of a note's dive, and the wheel's curve; tests drag them.
  QPointF diveHandle(int note, DiveGrip grip = DiveGrip::End) const {
    return divePoint(document_.session().bass().notes[static_cast<size_t>(note)], grip);
  }
  QPointF wheelAt(double quarters, double value) const { return {timeAxis().pixel(quarters), wheelY(value)}; }
  QPointF rulerAt(double quarters) const { return {timeAxis().pixel(quarters), 0.5 * kRuler}; }
  /// The part of the pattern that is marked, if any.
  const std::optional<PatternRange>& marked() const { return marked_; }
  /// Whether the bass lane shows the pitch wheel to be drawn, instead of the notes.
  bool showsWheel() const { return wheelMode_; }
  void showWheel(bool shown) { wheelMode_ = shown, update(); }
  /// Tells which layer of a part is chosen: Ctrl and a click take it in or out at a hit. 0: none.
  void setChosenLayer(std::function<int(bool bass)> chosen) { chosenLayer_ = std::move(chosen); }

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
  int laneOf(Row row) const {
    const Session& s = document_.session();
    return row == Row::Kick ? s.kick().id : row == Row::Bass ? s.bass().id : kBackingLane;
  }
  enum class Grip {
    None,
    Move,
    End,
    New,
    Hit,
    NewHit,
    Velocity,
    Dive,
    Wheel,
    NewWheel,
    Layer,
    Mark,
    MoveMarked
  };
  struct RowArea {
    Row row;
    QRectF box;
  };
  std::vector<RowArea> rows() const;
  QRectF boxOf(Row row) const;
  Row rowAt(const QPointF& at) const;
  Axis timeAxis() const;
  double snapped(double quarters, bool free) const;
  /// The grid's division in quarters, and the line after a position.
  double division() const { return document_.session().grid.division.quarters(); }
  double after(double quarters) const { return lineAfter(document_.session().grid, quarters); }
  int noteAt(double quarters) const;
  bool gripsEnd(int note, double x) const;

  void addGridFields();
  void readPeaks();
  void drawRuler(QPainter& p) const;
  void drawLane(QPainter& p, Row row, const QString& name, const QColor& colour, const Stem* stem) const;
  void drawNotes(QPainter& p) const;
  void drawGain(QPainter& p) const;
  void drawVelocities(QPainter& p) const;
  void drawWheel(QPainter& p) const;
  void drawHeads(QPainter& p) const;
  void drawCursor(QPainter& p) const;
  QRectF headButton(Row row, bool solo) const;

  void pressKick(double quarters, bool free);
  void dragHit(double quarters, bool free);
  void removeHit(int hit);
  void pressBass(double quarters, double x, bool free);
  void dragNote(const QPointF& at, double quarters, bool free);
  QRectF noteBox(const Note& note) const;
  std::pair<int, int> shownPitches() const;
  void changeNotes(const QString& name, const std::function<void(std::vector<Note>&)>& change,
                   const QString& merge = {});
  int hitAt(double quarters, bool free) const;
  bool pressHead(Row row, const QPointF& at);
  void toggleLayer(Row row, double quarters);
  void dragVelocity(double y);
  bool pressDive(const QPointF& at);
  void dragDive(const QPointF& at);
  QPointF divePoint(const Note& n, DiveGrip grip) const;
  double diveY(double semitones) const;
  void drawDives(QPainter& p) const;
  double wheelY(double value) const;
  void pressWheel(const QPointF& at);
  void dragWheel(const QPointF& at);
  void removeWheelPoint();
  void patternMenu(const QPoint& at, double quarters);
  void markTo(double quarters, bool free);
  void mark(std::optional<PatternRange> range);
  void changeMarked(const QString& name, const std::function<Session(const Session&)>& change,
                    const QString& merge = {});
  void moveMarked(double by, const QString& merge);
  void copyMarked(bool cut);
  void putClip(double at);
  void repeatMarked();
  bool keyOnMarked(QKeyEvent* event);
  void addMarkedActions(QMenu& menu, double quarters);
  void drawMarked(QPainter& p) const;
  bool pressMark(Row row, double quarters, Qt::KeyboardModifiers modifiers);
  void noteMenu(int note, const QPoint& at);
  void chooseHitBefore(double quarters);
  void moveCursor(int key, bool shift);
  void zoom(double factor, double aboutQuarters);
  void scrollTo(double startQuarters);

  std::function<int(bool)> chosenLayer_;
  int wheelPoint_ = -1;
  DiveGrip diveGrip_ = DiveGrip::End;
  double gripY_ = 0.0, gripVelocity_ = 0.0;
  bool wheelMode_ = false;
  Document& document_;
  Transport& transport_;
  Selection& selection_;
  std::array<float, 6> shownPeak_{1, 1, 1, 1, 1, 1};
  std::array<bool, 6> silent_{true, true, true, true, true, true};
  Grip grip_ = Grip::None;
  int note_ = -1;                            ///< chosen bass note
  int hit_ = -1;                             ///< kick hit in the hand
  std::optional<double> chosenAt_;           ///< quarters at which the chosen hit stands
  bool wasChosen_ = false;                   ///< before it was pressed
  int gripMidi_ = 33;                        ///< of the note in the hand when it was taken
  bool dragged_ = false;                     ///< whether it has left its place
  double gripOffset_ = 0;                    ///< quarters from the start of what is in the hand to the pointer
  double viewStart_ = 0, viewQuarters_ = 0;  ///< what is shown; 0 long: all
  double cursor_ = 0;                        ///< keyboard cursor in quarters
  Row cursorRow_ = Row::Kick;
  std::optional<PatternRange> marked_;
  Row markedRow_ = Row::Ruler;  ///< where it is drawn: the ruler's is of both lanes
  double anchor_ = 0;           ///< quarters where drawing it, or moving it, began
  double pressX_ = 0;
  std::optional<PatternClip> clip_;
  /// Where a run of moves began, and what it has led to so far.
  struct MoveBase {
    Session session;
    PatternRange range;
    std::vector<Hit> hits;
    std::vector<Note> notes;
  };
  std::optional<MoveBase> moveBase_;
};

}  // namespace heft::app
