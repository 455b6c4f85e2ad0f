// A selected range of the pattern in the loop strip: cut, copied, pasted, moved, edited.

#include <QKeyEvent>
#include <QMenu>
#include <algorithm>

#include "app/loop/loop_strip.h"
#include "app/theme/theme.h"
#include "app/widgets/free_hand.h"
#include "core/session/edits/patterns.h"

namespace heft::app {

// From the grid line at or before the nearer end to the one after the farther; unsnapped if free.
void LoopStrip::markTo(double quarters, bool free) {
  const double loop = document_.track().loopQuarters();
  const double first = std::clamp(std::min(anchor_, quarters), 0.0, loop),
               last = std::clamp(std::max(anchor_, quarters), 0.0, loop);
  const Grid& grid = session().grid;
  PatternRange range{free ? first : lineBefore(grid, first), free ? last : lineAfter(grid, last - 1e-4),
                     markedRow_.of == Of::Part ? std::set<int>{markedRow_.part} : std::set<int>{}};
  range.to = std::min(range.to, loop);
  if (range.length() > 1e-3) mark(range);
}

void LoopStrip::mark(std::optional<PatternRange> range) {
  marked_ = range;
  moveBase_.reset();
  update();
}

// A run of moves starts from the original range: events that it only passes over stay.
void LoopStrip::moveMarked(double by, const QString& merge) {
  if (!marked_) return;
  if (!moveBase_ || moveBase_->now != session().parts) moveBase_ = MoveBase{session(), *marked_, {}};
  const double wanted = marked_->from - moveBase_->range.from + by;
  PatternRange landed;
  const Session to = moved(moveBase_->session, moveBase_->range, wanted, &landed);
  document_.edit(takePatterns(to.parts, "move part of the pattern", merge.toStdString()));
  moveBase_->now = session().parts;
  marked_ = landed;
  update();
}

void LoopStrip::copyMarked(bool cut) {
  if (!marked_) return;
  clip_ = clipOf(session(), *marked_);
  if (cut) document_.edit(clearRange("cut part of the pattern", *marked_));
}

void LoopStrip::putClip(double at) {
  if (!clip_) return;
  const double loop = document_.track().loopQuarters();
  if (at >= loop - 1e-6) return;
  document_.edit(pasteClip(*clip_, at));
  const PatternRange& range = clip_->range;
  mark(PatternRange{at, std::min(loop, at + range.length()), range.parts});
  cursor_ = at;
}

// Repeats right after it, and on from there at the next press.
void LoopStrip::repeatMarked() {
  if (!marked_) return;
  const auto kept = std::exchange(clip_, clipOf(session(), *marked_));
  putClip(marked_->to);
  clip_ = kept ? kept : clip_;
}

// Keys with another meaning while a range is selected. False: not one of them.
bool LoopStrip::keyOnMarked(QKeyEvent* event) {
  const int key = event->key();
  const bool control = event->modifiers() & Qt::ControlModifier, shift = event->modifiers() & Qt::ShiftModifier,
             alt = event->modifiers() & Qt::AltModifier;
  const bool sideways = key == Qt::Key_Left || key == Qt::Key_Right;
  if (control && key == Qt::Key_A) return mark(PatternRange{0.0, document_.track().loopQuarters()}), true;
  if (control && key == Qt::Key_V) return putClip(marked_ ? marked_->from : cursor_), true;
  if (control && shift && sideways) {
    const Grid& grid = session().grid;
    PatternRange range = marked_.value_or(PatternRange{cursor_, cursor_, {hand().id}});
    range.to = key == Qt::Key_Right ? std::min(document_.track().loopQuarters(), lineAfter(grid, range.to))
                                    : std::max(lineAfter(grid, range.from), lineBefore(grid, range.to - 1e-4));
    return mark(range), true;
  }
  if (!marked_) return false;
  const PatternRange range = *marked_;
  if (control && (key == Qt::Key_C || key == Qt::Key_X)) return copyMarked(key == Qt::Key_X), true;
  if (control && key == Qt::Key_D) return repeatMarked(), true;
  if (control) return false;
  if (key == Qt::Key_Escape) return mark({}), true;
  if (sideways)
    return moveMarked((key == Qt::Key_Right ? 1.0 : -1.0) * division() * (alt ? 0.125 : 1.0), "key marked"),
           true;
  if (key == Qt::Key_Up || key == Qt::Key_Down) {
    const int by = (key == Qt::Key_Up ? 1 : -1) * (shift ? 12 : 1);
    document_.edit(transposeRange(range, by, "key marked note"));
    return true;
  }
  if (key == Qt::Key_V) {
    document_.edit(changeVelocities(range, shift ? -0.1 : 0.1, "key marked velocity"));
    return true;
  }
  if (key == Qt::Key_Delete || key == Qt::Key_Backspace) {
    document_.edit(clearRange("remove part of the pattern", range));
    return true;
  }
  return false;
}

void LoopStrip::addMarkedActions(QMenu& menu, double quarters) {
  auto add = [&](const QString& words, auto then) {
    connect(menu.addAction(words), &QAction::triggered, this, then);
  };
  if (marked_) {
    add("Copy\tCtrl+C", [this] { copyMarked(false); });
    add("Cut\tCtrl+X", [this] { copyMarked(true); });
    add("Duplicate after it\tCtrl+D", [this] { repeatMarked(); });
  }
  if (clip_) add("Paste\tCtrl+V", [this, at = snapped(quarters, false)] { putClip(at); });
  if (marked_ || clip_) menu.addSeparator();
}

void LoopStrip::drawMarked(QPainter& p) const {
  if (!marked_) return;
  const Theme& t = theme();
  const Axis x = timeAxis();
  const QRectF ruler = boxOf(Row{Of::Ruler});
  const double left = std::max(x.pixel(marked_->from), ruler.left()),
               right = std::min(x.pixel(marked_->to), ruler.right());
  if (right <= left) return;
  p.setRenderHint(QPainter::Antialiasing, false);
  p.fillRect(QRectF(left, ruler.bottom() - 4, right - left, 4), t.ink);
  for (const Part& part : session().parts) {
    if (!marked_->has(part.id)) continue;
    const QRectF box =
        QRectF(left, boxOf(part).top() + 1, right - left, boxOf(part).height() - 1).intersected(lanes().box);
    p.fillRect(box, withAlpha(t.ink, 0.08));
    p.setPen(QPen(t.ink, 1.0));
    p.drawLine(box.topLeft(), box.bottomLeft());
    p.drawLine(box.topRight(), box.bottomRight());
  }
}

// The ruler selects a range on all lanes, Ctrl in a lane on that lane; a selected range is dragged in the
// ruler.
bool LoopStrip::pressMark(const Row& row, double quarters, Qt::KeyboardModifiers modifiers) {
  const bool lane = row.of == Of::Part && (modifiers & Qt::ControlModifier) && !isFree(modifiers);
  if (row.of == Of::Ruler && marked_ && marked_->holds(quarters)) {
    grip_ = Grip::MoveMarked;
    gripOffset_ = quarters - marked_->from;
    dragged_ = false;
    return true;
  }
  if (row.of == Of::Part) mark({});
  if (row.of != Of::Ruler && !lane) return false;
  markedRow_ = row;
  anchor_ = quarters;
  grip_ = lane ? Grip::Layer : Grip::Mark;
  dragged_ = false;
  if (lane) handPart_ = row.part;
  return true;
}

}  // namespace heft::app
