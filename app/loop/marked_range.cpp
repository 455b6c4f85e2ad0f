#include "app/loop/marked_range.h"

#include <algorithm>
#include <utility>

#include "app/theme/theme.h"
#include "core/session/edits/patterns.h"

namespace heft::app {

PatternRange MarkedRange::rangeOrAll(std::set<int> parts) const {
  return range_.value_or(PatternRange{0.0, loop(), std::move(parts)});
}

void MarkedRange::set(std::optional<PatternRange> range) {
  range_ = std::move(range);
  moveBase_.reset();
  Q_EMIT changed();
}

void MarkedRange::begin(const LoopRow& row, const QPointF& at, double quarters) {
  row_ = row, pressed_ = at, anchor_ = quarters, hold_ = Hold::Draw, dragged_ = false;
}

void MarkedRange::grip(const QPointF& at, double quarters) {
  pressed_ = at, anchor_ = quarters - range_->from, hold_ = Hold::Move, dragged_ = false;
  row_ = LoopRow{LoopRow::Of::Ruler};
}

void MarkedRange::drag(const QPointF& at, double quarters, bool free) {
  constexpr double kStill = 4.0;  // px
  dragged_ = dragged_ || std::abs(at.x() - pressed_.x()) > kStill;
  if (!dragged_) return;
  if (hold_ == Hold::Draw) return drawTo(quarters, free);
  const double to = std::max(0.0, quarters - anchor_);
  if (range_) move((free ? to : nearestLine(session().grid, to)) - range_->from, "marked");
}

void MarkedRange::drawTo(double quarters, bool free) {
  const double first = std::clamp(std::min(anchor_, quarters), 0.0, loop()),
               last = std::clamp(std::max(anchor_, quarters), 0.0, loop());
  const Grid& grid = session().grid;
  PatternRange range{free ? first : lineBefore(grid, first), free ? last : lineAfter(grid, last - 1e-4),
                     row_.of == LoopRow::Of::Part ? std::set<int>{row_.part} : std::set<int>{}};
  range.to = std::min(range.to, loop());
  if (range.length() > 1e-3) set(range);
}

// A run of moves starts from the original range: events that it only passes over stay.
void MarkedRange::move(double by, const std::string& merge) {
  if (!range_) return;
  if (!moveBase_ || moveBase_->now != session().parts) moveBase_ = MoveBase{session(), *range_, {}};
  const double wanted = range_->from - moveBase_->range.from + by;
  PatternRange landed;
  const Session to = moved(moveBase_->session, moveBase_->range, wanted, &landed);
  document_.edit(takePatterns(to.parts, "move part of the pattern", merge));
  moveBase_->now = session().parts;
  range_ = landed;
  Q_EMIT changed();
}

MarkedRange::Click MarkedRange::release() {
  const bool clicked = hold_ != Hold::None && !dragged_;
  hold_ = Hold::None;
  return !clicked ? Click::None : row_.of == LoopRow::Of::Part ? Click::Lane : Click::Ruler;
}

void MarkedRange::copy(bool cut) {
  if (!range_) return;
  clip_ = clipOf(session(), *range_);
  if (cut) document_.edit(clearRange("cut part of the pattern", *range_));
}

void MarkedRange::paste(double at) {
  if (!clip_ || at >= loop() - 1e-6) return;
  document_.edit(pasteClip(*clip_, at));
  const PatternRange& range = clip_->range;
  set(PatternRange{at, std::min(loop(), at + range.length()), range.parts});
  Q_EMIT pasted(at);
}

void MarkedRange::repeat() {
  if (!range_) return;
  const auto kept = std::exchange(clip_, clipOf(session(), *range_));
  paste(range_->to);
  clip_ = kept ? kept : clip_;
}

bool MarkedRange::grow(bool right, double cursorQuarters, int handPart) {
  const Grid& grid = session().grid;
  PatternRange range = range_.value_or(PatternRange{cursorQuarters, cursorQuarters, {handPart}});
  range.to = right ? std::min(loop(), lineAfter(grid, range.to))
                   : std::max(lineAfter(grid, range.from), lineBefore(grid, range.to - 1e-4));
  return set(range), true;
}

bool MarkedRange::key(const QKeyEvent& event, double cursorQuarters, int handPart) {
  const int key = event.key();
  const bool control = event.modifiers() & Qt::ControlModifier, shift = event.modifiers() & Qt::ShiftModifier;
  const bool sideways = key == Qt::Key_Left || key == Qt::Key_Right;
  if (control && key == Qt::Key_A) return set(PatternRange{0.0, loop()}), true;
  if (control && key == Qt::Key_V) return paste(range_ ? range_->from : cursorQuarters), true;
  if (control && shift && sideways) return grow(key == Qt::Key_Right, cursorQuarters, handPart);
  if (!range_) return false;
  if (control && (key == Qt::Key_C || key == Qt::Key_X)) return copy(key == Qt::Key_X), true;
  if (control && key == Qt::Key_D) return repeat(), true;
  return !control && keyOnRange(event);
}

bool MarkedRange::keyOnRange(const QKeyEvent& event) {
  const int key = event.key();
  const bool shift = event.modifiers() & Qt::ShiftModifier, fine = event.modifiers() & Qt::AltModifier;
  const PatternRange range = *range_;
  const double division = session().grid.division.quarters();
  switch (key) {
    case Qt::Key_Escape:
      return set({}), true;
    case Qt::Key_Left:
    case Qt::Key_Right:
      return move((key == Qt::Key_Right ? 1.0 : -1.0) * division * (fine ? 0.125 : 1.0), "key marked"), true;
    case Qt::Key_Up:
    case Qt::Key_Down:
      document_.edit(transposeRange(range, (key == Qt::Key_Up ? 1 : -1) * (shift ? 12 : 1), "key marked note"));
      return true;
    case Qt::Key_V:
      return document_.edit(changeVelocities(range, shift ? -0.1 : 0.1, "key marked velocity")), true;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
      return document_.edit(clearRange("remove part of the pattern", range)), true;
    default:
      return false;
  }
}

void MarkedRange::addActions(QMenu& menu, double pasteAt) {
  auto add = [&](const QString& words, auto then) {
    connect(menu.addAction(words), &QAction::triggered, this, then);
  };
  if (range_) {
    add("Copy\tCtrl+C", [this] { copy(false); });
    add("Cut\tCtrl+X", [this] { copy(true); });
    add("Duplicate after it\tCtrl+D", [this] { repeat(); });
  }
  if (clip_) add("Paste\tCtrl+V", [this, pasteAt] { paste(pasteAt); });
  if (range_ || clip_) menu.addSeparator();
}

void MarkedRange::draw(QPainter& p, const LaneRows& rows, const Axis& time) const {
  if (!range_) return;
  const Theme& t = theme();
  const QRectF ruler = rows.box(LoopRow{LoopRow::Of::Ruler});
  const double left = std::max(time.pixel(range_->from), ruler.left()),
               right = std::min(time.pixel(range_->to), ruler.right());
  if (right <= left) return;
  p.setRenderHint(QPainter::Antialiasing, false);
  p.fillRect(QRectF(left, ruler.bottom() - 4, right - left, 4), t.ink);
  for (const Part& part : session().parts) {
    if (!range_->has(part.id)) continue;
    const QRectF lane = rows.box(part);
    const QRectF box =
        QRectF(left, lane.top() + 1, right - left, lane.height() - 1).intersected(rows.lanesBox());
    p.fillRect(box, withAlpha(t.ink, 0.08));
    p.setPen(QPen(t.ink, 1.0));
    p.drawLine(box.topLeft(), box.bottomLeft());
    p.drawLine(box.topRight(), box.bottomRight());
  }
}

}  // namespace heft::app
