#pragma once
/// The loop as heard: ruler, a lane for each part with its gain line, backing and sum lanes, playhead. Hits
/// and notes are placed, moved and resized here. Shows the whole loop, or down to one beat of it.

#include <QWidget>
#include <map>
#include <optional>

#include "app/desk/selection.h"
#include "app/loop/automation_pen.h"
#include "app/loop/lane_meters.h"
#include "app/pictures/axis.h"
#include "app/play/transport.h"
#include "app/widgets/accessible.h"
#include "core/session/pattern_range.h"

class QMenu;

class QScrollBar;

namespace heft::app {

class ValueField;

/// A lane of the strip, or its ruler.
struct LoopRow {
  enum class Of { Ruler, Part, Backing, Sum, None };
  Of of = Of::None;
  int part = 0;  ///< with Part: its id
  auto operator<=>(const LoopRow&) const = default;
};

class LoopStrip : public QWidget, public AccessibleHolder {
  Q_OBJECT
 public:
  LoopStrip(Document& document, Transport& transport, Selection& selection, QWidget* parent = nullptr);
  /// Requests of the Edit menu.
  enum class EditKind { Cut, Copy, Paste, Duplicate, Delete, SelectAll };
  void doEdit(EditKind kind);
  /// Hits and notes, for screen readers.
  std::vector<AccessibleItem> accessibleItems() const override;
  /// The selected hit and the selected note; nullptr without one. Valid until the next edit.
  const Hit* chosenHit() const;
  const Note* chosenNote() const;
  /// Positions for tests: in the lane of a part, of the first kick, of the first bass.
  QPointF partAt(int part, double quarters) const;
  QPointF kickAt(double quarters) const {
    return partAt(document_.session().kick().id, quarters) + QPointF(2, 0);
  }
  QPointF bassAt(double quarters) const { return partAt(document_.session().bass().id, quarters); }
  static constexpr double kHeadWidth = 216.0;  // px
  /// Scrolls so that a moment is in sight, at the left of what is shown.
  void showAt(double quarters);
  /// Shows `factor` times as much about a moment; scrolls by a share of what is shown.
  void zoomAt(double factor, double aboutQuarters) { zoom(factor, aboutQuarters); }
  void scrollBy(double share);
  double viewStart() const { return timeAxis().from; }  ///< quarters
  double viewEnd() const { return timeAxis().to; }
  /// Grips of a dive: its start, its middle (bend), its end.
  enum class DiveGrip { Start, Bend, End };
  /// Handles of a bass note's dive, and the wheel's curve; tests drag them.
  QPointF diveHandle(int note, DiveGrip grip = DiveGrip::End) const;
  QPointF wheelAt(double quarters, double value) const {
    return {timeAxis().pixel(quarters), wheelY(wheelPart(), value)};
  }
  QPointF rulerAt(double quarters) const { return {timeAxis().pixel(quarters), 0.5 * kRuler}; }
  /// The selected range of the pattern, if any.
  const std::optional<PatternRange>& marked() const { return marked_; }
  /// Whether a lane of notes shows its pitch wheel to be drawn, instead of the notes.
  bool showsWheel() const { return wheelPart_.has_value(); }
  void showWheel(bool shown);
  /// Sets which layer of a part is selected: Ctrl and a click make it rest or play at a hit.
  void setChosenLayer(std::function<std::optional<int>(int part)> chosen) { chosenLayer_ = std::move(chosen); }

  /// Draws a value's automation over its lane, until Esc or a right-click.
  void drawAutomationOf(const AutomationOf& of);
  const AutomationPen& pen() const { return pen_; }
  /// Where the pen draws; nothing while it does not.
  std::optional<QRectF> penBox() const;
  QPointF penPoint(size_t index) const { return pen_.pointAt(index, penBox().value_or(QRectF()), timeAxis()); }

  /// The part whose lane has the focus.
  const Part& hand() const;

 Q_SIGNALS:
  void viewChanged();
  void partChosen(int part);  ///< by its name at the lane's head: a Place's id

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override { layScroll(), layHeads(); }
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override {}
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;

 private:
  using Row = LoopRow;
  using Of = LoopRow::Of;
  static constexpr double kHead = kHeadWidth, kRight = 12.0, kRuler = 20.0;  // px
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
  /// A selected or dragged event.
  struct Chosen {
    int part = 0;
    double at = 0.0;  ///< quarters at which it starts
    bool operator==(const Chosen&) const = default;
  };

  // Layout (loop_strip.cpp).
  std::vector<RowArea> rows() const;
  QRectF boxOf(const Row& row) const;
  QRectF boxOf(const Part& part) const { return boxOf(Row{Of::Part, part.id}); }
  Row rowAt(const QPointF& at) const;
  Axis timeAxis() const;
  const Session& session() const { return document_.session(); }
  const Part* partOf(const Row& row) const { return row.of == Of::Part ? session().part(row.part) : nullptr; }
  /// The part with the keyboard cursor; the kick's where that is missing.
  static int laneOf(const Row& row) { return row.of == Of::Part ? row.part : kBackingLane; }
  double snapped(double quarters, bool free) const;
  /// The grid's division in quarters, and the line after a position.
  double division() const { return session().grid.division.quarters(); }
  double after(double quarters) const { return lineAfter(session().grid, quarters); }
  QRectF noteBox(const Part& part, const Note& note) const;
  static std::pair<int, int> shownPitches(const Part& part);
  void addGridFields();
  void addHeadFields();
  void layHeads();
  void readPeaks();
  // Lanes never get smaller than their text: those that do not fit scroll between the ruler and the sum.
  struct Lanes {
    std::vector<RowArea> areas;
    double whole = 0.0;  ///< how high they are together
    QRectF box;          ///< the visible ones
    bool scroll() const { return whole > box.height() + 0.5; }
  };
  Lanes lanes() const;
  void layScroll();
  void bringInSight(int part);

  // Painters (loop_paint.cpp).
  void paintAll(QPainter& p) const;
  void followPlayhead();
  void drawRuler(QPainter& p) const;
  void drawLanes(QPainter& p) const;
  void drawLane(QPainter& p, const Row& row, const QString& name, const QColor& colour,
                const Signal* stem) const;
  void drawNotes(QPainter& p, const Part& part) const;
  void drawGlide(QPainter& p, const Part& part, size_t note) const;
  /// The gain of a lane as one line through it.
  void drawGain(QPainter& p, const QRectF& lane, const Signal& gain, const DuckTarget& of,
                const ContourLine* contour = nullptr) const;
  void drawVelocities(QPainter& p, const Part& part) const;
  void drawWheel(QPainter& p, const Part& part) const;
  void drawHeads(QPainter& p) const;
  void drawMeter(QPainter& p, const RowArea& lane) const;
  void drawCursor(QPainter& p) const;
  void drawHints(QPainter& p) const;
  QRectF headButton(const Row& row, bool solo) const;

  // Hits and notes (loop_events.cpp).
  const Hit* hitAt(const Part& part, double quarters, bool free) const;
  const Note* noteAt(const Part& part, double quarters) const;
  bool gripsEnd(const Note& note, double x) const;
  void pressHit(const Part& part, double quarters, bool free);
  void dragHit(double quarters, bool free);
  void pressNote(const Part& part, double quarters, double x, bool free);
  void dragNote(const QPointF& at, double quarters, bool free);
  void pressVelocity(const Part& part, const QPointF& at, double quarters);
  void dragVelocity(double y);
  void toggleLayer(const Part& part, double quarters);

  // Dives and the wheel (loop_dives.cpp).
  bool pressDive(const Part& part, const QPointF& at);
  void dragDive(const QPointF& at);
  QPointF divePoint(const Part& part, const Note& n, DiveGrip grip) const;
  double diveY(const Part& part, double semitones) const;
  void drawDives(QPainter& p, const Part& part) const;
  const Part& wheelPart() const;
  double wheelY(const Part& part, double value) const;
  void pressWheel(const QPointF& at);
  void dragWheel(const QPointF& at);

  // Automation (loop_automation.cpp).
  void layPen();
  /// Asks for the chosen point's value, from `typed` on.
  void typePoint(const QString& typed);
  std::pair<double, double> stretchAt(double quarters) const;
  void drawAutomation(QPainter& p) const;
  void addAutomationActions(QMenu& menu, const Row& row);

  // A selected range of the pattern (loop_marked.cpp).
  void markTo(double quarters, bool free);
  void mark(std::optional<PatternRange> range);
  void moveMarked(double by, const QString& merge);
  void copyMarked(bool cut);
  void putClip(double at);
  void repeatMarked();
  bool keyOnMarked(QKeyEvent* event);
  void addMarkedActions(QMenu& menu, double quarters);
  void drawMarked(QPainter& p) const;
  bool pressMark(const Row& row, double quarters, Qt::KeyboardModifiers modifiers);

  // Menus (loop_menus.cpp), hands and keys (loop_hands.cpp, loop_keys.cpp).
  void patternMenu(const QPoint& at, double quarters, const Row& row);
  void addWheelActions(QMenu& menu);
  void addRhythmActions(QMenu& menu);
  void noteMenu(const Part& part, const Note& note, const QPoint& at);
  bool pressHead(const Row& row, const QPointF& at);
  void chooseHitBefore(double quarters);
  void moveCursor(int key, bool shift);
  void moveHand(int way);
  void changeAtCursor(int key, bool shift);
  void zoom(double factor, double aboutQuarters);
  void fitView();
  void drawGridLines(QPainter& p, double step, bool named) const;
  void scrollTo(double startQuarters);

  Document& document_;
  Transport& transport_;
  Selection& selection_;
  std::function<std::optional<int>(int)> chosenLayer_;
  std::map<LoopRow, LanePeak> peaks_;  ///< of audible lanes, as drawn
  uint64_t variations_ = 0;            ///< number of variations so far: the seed of the next
  LaneMeters meters_;
  AutomationPen pen_;
  QScrollBar* scroll_ = nullptr;                      ///< of the lanes
  ValueField* output_ = nullptr;                      ///< Monitor level, at the sum's head
  std::map<int, ValueField*> levels_;                 ///< at the heads, by part id or kBackingLane
  std::vector<std::pair<int, std::string>> headsOf_;  ///< ids and names for which the heads were made
  Grip grip_ = Grip::None;
  DiveGrip diveGrip_ = DiveGrip::End;
  std::optional<Chosen> note_, hit_;  ///< selected or dragged
  std::optional<int> wheelPart_;      ///< whose wheel is drawn
  std::optional<double> wheelPoint_;  ///< quarters of the dragged point
  double gripY_ = 0.0, gripVelocity_ = 0.0;
  bool penHeld_ = false;                     ///< the pen has the mouse
  bool wasChosen_ = false;                   ///< before the press
  int gripMidi_ = 33;                        ///< of the dragged note at the start of the drag
  bool dragged_ = false;                     ///< whether it has been moved
  double gripOffset_ = 0;                    ///< quarters from the dragged item's start to the pointer
  bool wasLong_ = false;                     ///< whether the track was too long to show all of it first
  double viewStart_ = 0, viewQuarters_ = 0;  ///< the visible range; length 0: all
  std::optional<double> playheadX_;          ///< where it was painted last
  double cursor_ = 0;                        ///< keyboard cursor in quarters
  int handPart_ = 1;                         ///< the lane that it is in
  std::optional<PatternRange> marked_;
  Row markedRow_{Of::Ruler};  ///< where it is drawn: the ruler's is of all lanes
  double anchor_ = 0;         ///< quarters where drawing it, or moving it, began
  double pressX_ = 0;
  std::optional<PatternClip> clip_;
  /// Start of a run of moves, and its result so far.
  struct MoveBase {
    Session session;
    PatternRange range;
    std::vector<Part> now;
  };
  std::optional<MoveBase> moveBase_;
};

/// "Kick, 808 Thick, Drive: Amount".
QString automationWords(const Session& session, const AutomationOf& of);

}  // namespace heft::app
