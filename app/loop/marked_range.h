#pragma once
/// A selected range of the pattern in the loop strip: drawn, moved, cut, copied, pasted, repeated, edited by
/// keys.

#include <QKeyEvent>
#include <QMenu>
#include <QObject>
#include <QPainter>
#include <optional>

#include "app/document/document.h"
#include "app/loop/lane_rows.h"
#include "app/pictures/axis.h"
#include "core/session/pattern_range.h"

namespace heft::app {

class MarkedRange : public QObject {
  Q_OBJECT
 public:
  explicit MarkedRange(Document& document) : document_(document) {}

  const std::optional<PatternRange>& range() const { return range_; }
  /// The range, or all of the track in those parts.
  PatternRange rangeOrAll(std::set<int> parts = {}) const;
  void set(std::optional<PatternRange> range);

  /// Begins to draw it on a part's lane, or from the ruler on all lanes.
  void begin(const LoopRow& row, const QPointF& at, double quarters);
  /// Begins to move it.
  void grip(const QPointF& at, double quarters);
  /// From the grid line at or before the nearer end to the one after the farther; unsnapped if free.
  void drag(const QPointF& at, double quarters, bool free);
  bool isHeld() const { return hold_ != Hold::None; }
  /// What a click was on, where the pointer has not moved.
  enum class Click { None, Ruler, Lane };
  Click release();
  const LoopRow& row() const { return row_; }  ///< in which it is drawn
  const QPointF& pressed() const { return pressed_; }

  void copy(bool cut);
  void paste(double at);
  /// Repeats it right after it, and on from there at the next press.
  void repeat();
  /// Keys with another meaning while a range is selected. False: not one of them.
  bool key(const QKeyEvent& event, double cursorQuarters, int handPart);
  void addActions(QMenu& menu, double pasteAt);
  void draw(QPainter& p, const LaneRows& rows, const Axis& time) const;

 Q_SIGNALS:
  void changed();
  void pasted(double quarters);

 private:
  enum class Hold { None, Draw, Move };
  /// Start of a run of moves, and its result so far.
  struct MoveBase {
    Session session;
    PatternRange range;
    std::vector<Part> now;
  };
  const Session& session() const { return document_.session(); }
  double loop() const { return document_.track().loopQuarters(); }
  void drawTo(double quarters, bool free);
  void move(double byQuarters, const std::string& merge);
  bool grow(bool right, double cursorQuarters, int handPart);
  bool keyOnRange(const QKeyEvent& event);

  Document& document_;
  std::optional<PatternRange> range_;
  Hold hold_ = Hold::None;
  LoopRow row_{LoopRow::Of::Ruler};
  QPointF pressed_;
  double anchor_ = 0.0;  ///< quarters: where drawing began, or from the range's start to the pointer
  bool dragged_ = false;
  std::optional<PatternClip> clip_;
  std::optional<MoveBase> moveBase_;
};

}  // namespace heft::app
