#pragma once
/// The loop as heard: ruler, a lane for each part with its gain line, backing and sum lanes, playhead. Hits
/// and notes are placed, moved and resized here. Shows the whole loop, or down to one beat of it.
/// The strip itself says who has the mouse and the keys; what they do is with the hands (event_hand.h,
/// marked_range.h, automation_pen.h, wheel_pen.h, dive_grips.h).

#include <QWidget>
#include <map>
#include <optional>

#include "app/desk/selection.h"
#include "app/loop/automation_pen.h"
#include "app/loop/dive_grips.h"
#include "app/loop/event_hand.h"
#include "app/loop/lane_heads.h"
#include "app/loop/lane_rows.h"
#include "app/loop/marked_range.h"
#include "app/loop/time_view.h"
#include "app/loop/wheel_pen.h"
#include "app/play/transport.h"
#include "app/widgets/accessible.h"

class QScrollBar;

namespace heft::app {

class LanePainter;

class LoopStrip : public QWidget, public AccessibleHolder {
  Q_OBJECT
 public:
  LoopStrip(Document& document, Transport& transport, Selection& selection, QWidget* parent = nullptr);
  /// Requests of the Edit menu.
  enum class EditKind { Cut, Copy, Paste, Duplicate, Delete, SelectAll };
  void doEdit(EditKind kind);
  /// Hits and notes, for screen readers.
  std::vector<AccessibleItem> accessibleItems() const override;
  TimeView& view() { return view_; }
  const TimeView& view() const { return view_; }
  const EventHand& events() const { return events_; }
  /// The part whose lane has the keyboard cursor; the kick's where that is missing.
  const Part& hand() const;
  /// The selected range of the pattern, if any.
  const std::optional<PatternRange>& marked() const { return marked_.range(); }
  /// Whether a lane of notes shows its pitch wheel to be drawn, instead of the notes.
  bool showsWheel() const { return wheel_.isDrawing(); }
  void showWheel(bool shown);
  /// Sets which layer of a part is selected: Ctrl and a click make it rest or play at a hit.
  void setChosenLayer(std::function<std::optional<int>(int part)> chosen) { chosenLayer_ = std::move(chosen); }

  /// Draws a value's automation over its lane, until Esc or a right-click.
  void drawAutomationOf(const AutomationOf& of);
  const AutomationPen& pen() const { return pen_; }
  /// Where the pen draws; nothing while it does not.
  std::optional<QRectF> penBox() const;

  /// Positions for tests: in the lane of a part, of the first kick, of the first bass; of grips and points.
  QPointF partAt(int part, double quarters) const;
  QPointF kickAt(double quarters) const { return partAt(session().kick().id, quarters) + QPointF(2, 0); }
  QPointF bassAt(double quarters) const { return partAt(session().bass().id, quarters); }
  QPointF diveHandle(int note, DiveGrip grip = DiveGrip::End) const;
  QPointF wheelAt(double quarters, double value) const;
  QPointF rulerAt(double quarters) const { return {timeAxis().pixel(quarters), 0.5 * LaneRows::kRuler}; }
  QPointF penPoint(size_t index) const { return pen_.pointAt(index, penBox().value_or(QRectF()), timeAxis()); }

 Q_SIGNALS:
  void partChosen(int part);  ///< by its name at the lane's head: a Place's id

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override { layRows(); }
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override {}
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;

 private:
  // Layout and painting (loop_strip.cpp).
  const Session& session() const { return document_.session(); }
  LaneRows rows() const;
  Axis timeAxis() const { return view_.axis(LaneRows::kHead, width() - LaneRows::kRight); }
  const Part* partOf(const LoopRow& row) const;
  void follow(Document& document);
  void follow(Transport& transport);
  void refreshHeads();
  void layRows();
  void readPeaks();
  void bringInSight(int part);
  void followPlayhead();
  void paintAll(QPainter& p) const;
  void drawLane(const LanePainter& paint, QPainter& p, const LaneRows::Area& lane, const QString& name,
                const QColor& colour, const Signal* stem) const;
  void drawLanes(const LanePainter& paint, QPainter& p, const LaneRows& rows) const;
  void drawAutomation(QPainter& p, const LaneRows& rows) const;
  void drawCursor(QPainter& p, const LaneRows& rows) const;

  // Mouse and keys (loop_hands.cpp).
  bool pressHead(const LaneRows& rows, const LoopRow& row, const QPointF& at);
  bool pressMark(const LoopRow& row, const QPointF& at, Qt::KeyboardModifiers modifiers);
  void chooseHitBefore(double quarters);
  void toggleLayer(const Part& part, double quarters);
  void moveCursor(int key, bool shift);
  void moveHand(int way);
  void changeAtCursor(int key, bool shift);
  bool keyOnView(int key);
  bool keyOnPattern(const QKeyEvent& event, const Note* here);

  // Menus (loop_menus.cpp) and automation (loop_automation.cpp).
  void patternMenu(const QPoint& at, double quarters, const LoopRow& row);
  void addWheelActions(QMenu& menu);
  void addRhythmActions(QMenu& menu);
  void noteMenu(const Part& part, const Note& note, const QPoint& at);
  void addAutomationActions(QMenu& menu, const LoopRow& row);
  void layPen();
  /// Asks for the chosen point's value, from `typed` on.
  void typePoint(const QString& typed);
  std::pair<double, double> stretchAt(double quarters) const;

  Document& document_;
  Transport& transport_;
  Selection& selection_;
  std::function<std::optional<int>(int)> chosenLayer_;
  TimeView view_;
  LaneHeads heads_;
  EventHand events_;
  MarkedRange marked_;
  AutomationPen pen_;
  WheelPen wheel_;
  DiveGrips dives_;
  bool penHeld_ = false;               ///< the pen has the mouse
  std::map<LoopRow, LanePeak> peaks_;  ///< of audible lanes, as drawn
  QScrollBar* scroll_;                 ///< of the lanes
  std::optional<double> playheadX_;    ///< where it was painted last
  double cursor_ = 0;                  ///< keyboard cursor in quarters
  int handPart_ = 1;                   ///< the lane that it is in
  uint64_t variations_ = 0;            ///< number of variations so far: the seed of the next
};

/// "Kick, 808 Thick, Drive: Amount".
QString automationWords(const Session& session, const AutomationOf& of);

}  // namespace heft::app
