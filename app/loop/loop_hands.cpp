// Mouse and wheel input on the loop strip.

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QScrollBar>
#include <algorithm>
#include <cmath>

#include "app/loop/loop_strip.h"
#include "app/widgets/free_hand.h"
#include "core/session/edits/events.h"

namespace heft::app {

void LoopStrip::doEdit(EditKind kind) {
  switch (kind) {
    case EditKind::Cut:
    case EditKind::Copy:
      copyMarked(kind == EditKind::Cut);
      break;
    case EditKind::Paste:
      putClip(marked_ ? marked_->from : cursor_);
      break;
    case EditKind::Duplicate:
      repeatMarked();
      break;
    case EditKind::SelectAll:
      mark(PatternRange{0.0, document_.track().loopQuarters()});
      break;
    case EditKind::Delete: {
      QKeyEvent press(QEvent::KeyPress, Qt::Key_Delete, Qt::NoModifier);
      keyPressEvent(&press);
    }
  }
}

bool LoopStrip::pressHead(const Row& row, const QPointF& at) {
  if (row.of == Of::Sum && at.x() < kHead) return Q_EMIT partChosen(kSum.id), true;
  if (row.of != Of::Part && row.of != Of::Backing) return false;
  const int lane = laneOf(row);
  for (bool solo : {true, false}) {
    if (!headButton(row, solo).adjusted(-2, -2, 2, 2).contains(at)) continue;
    solo ? transport_.setSolo(lane, !transport_.lanes().isSolo(lane))
         : transport_.setMuted(lane, !transport_.lanes().isMuted(lane));
    return true;
  }
  if (at.x() >= kHead) return false;
  if (row.of == Of::Part) handPart_ = row.part;
  Q_EMIT partChosen(lane);
  return true;
}

// The stages show the nearest hit before the pointer.
void LoopStrip::chooseHitBefore(double quarters) {
  const Stems* s = document_.stems();
  if (!s) return;
  int hit = 0;
  for (size_t i = 0; i < s->hitFrames().size(); ++i)
    if (s->hitFrames()[i] <= (quarters + 0.1) * document_.track().framesPerQuarter()) hit = static_cast<int>(i);
  selection_.setHit(hit);
}

void LoopStrip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const QPointF at = event->position();
  const Row row = rowAt(at);
  const bool free = isFree(event->modifiers()), shift = (event->modifiers() & Qt::ShiftModifier) && !free;
  if (pressHead(row, at) || at.x() < kHead || at.x() > width() - kRight) return;
  const double quarters = timeAxis().value(at.x());
  cursor_ = snapped(quarters, false);
  if (row.of == Of::Part && wheelPart_ == row.part) return pressWheel(at);
  if (const auto box = penBox(); box && box->contains(at))
    return penHeld_ = true, pen_.press(*event, *box, timeAxis()), update();
  pressX_ = at.x(), gripY_ = at.y();
  if (pressMark(row, quarters, event->modifiers())) return;
  if (row.of == Of::Sum) chooseHitBefore(quarters);
  const Part* part = partOf(row);
  if (!part) return;
  handPart_ = part->id;
  if (shift) return pressVelocity(*part, at, quarters);
  if (part->playsNotes() && pressDive(*part, at)) return;
  part->playsNotes() ? pressNote(*part, quarters, at.x(), free) : pressHit(*part, quarters, free);
}

void LoopStrip::mouseMoveEvent(QMouseEvent* event) {
  const QPointF at = event->position();
  const double quarters = timeAxis().value(at.x());
  const bool free = isFree(event->modifiers());
  if (const auto box = penBox(); box && penHeld_) return pen_.move(*event, *box, timeAxis()), update();
  if (grip_ == Grip::Velocity) return dragVelocity(at.y());
  if (grip_ == Grip::Dive) return dragDive(at);
  if (grip_ == Grip::Wheel || grip_ == Grip::NewWheel) {
    dragged_ = dragged_ || std::abs(at.x() - pressX_) + std::abs(at.y() - gripY_) > 3.0;
    return dragWheel(at);
  }
  if (grip_ == Grip::Mark || grip_ == Grip::Layer) {
    dragged_ = dragged_ || std::abs(at.x() - pressX_) > 4.0;
    return dragged_ ? markTo(quarters, free) : void();
  }
  if (grip_ == Grip::MoveMarked) {
    const double to = std::max(0.0, quarters - gripOffset_);
    dragged_ = dragged_ || std::abs(at.x() - pressX_) > 4.0;
    if (dragged_ && marked_)
      moveMarked((free ? to : nearestLine(session().grid, to)) - marked_->from, "marked");
    return;
  }
  if (grip_ == Grip::Hit || grip_ == Grip::NewHit) return dragHit(quarters, free);
  if (grip_ != Grip::None) return dragNote(at, quarters, free);
  const Part* part = partOf(rowAt(at));
  const Note* over = part && at.x() >= kHead ? noteAt(*part, quarters) : nullptr;
  setCursor(!over ? Qt::ArrowCursor : gripsEnd(*over, at.x()) ? Qt::SizeHorCursor : Qt::OpenHandCursor);
}

void LoopStrip::mouseReleaseEvent(QMouseEvent*) {
  if (std::exchange(penHeld_, false)) return pen_.release(), update();
  const double pressed = timeAxis().value(pressX_);
  if (grip_ == Grip::Hit && !dragged_ && wasChosen_ && hit_) {
    document_.edit(removeHit(hand(), hit_->at));
    hit_.reset();
  }
  if (grip_ == Grip::Wheel && !dragged_ && wheelPoint_)
    document_.edit(removeWheelPoint(wheelPart(), *wheelPoint_));
  if (const Part* part = partOf(markedRow_); grip_ == Grip::Layer && !dragged_ && part)
    toggleLayer(*part, pressed);
  if ((grip_ == Grip::Mark || grip_ == Grip::MoveMarked) && !dragged_) mark({}), chooseHitBefore(pressed);
  grip_ = Grip::None;
  document_.endDrag();
}

// Shows `factor` times as much, one beat at least, and keeps `aboutQuarters` where it is.
void LoopStrip::zoom(double factor, double aboutQuarters) {
  const Axis now = timeAxis();
  const double loop = document_.track().loopQuarters(), beat = 4.0 / document_.track().beatUnit;
  const double shown = std::clamp((now.to - now.from) * factor, std::min(beat, loop), loop);
  // A place out of sight would carry the view away.
  const double about =
      aboutQuarters < now.from || aboutQuarters > now.to ? 0.5 * (now.from + now.to) : aboutQuarters;
  const double part = (about - now.from) / (now.to - now.from);
  viewQuarters_ = shown >= loop ? 0.0 : shown;
  scrollTo(about - part * shown);
}

void LoopStrip::scrollTo(double startQuarters) {
  const Axis now = timeAxis();
  viewStart_ =
      std::clamp(startQuarters, 0.0, std::max(0.0, document_.track().loopQuarters() - (now.to - now.from)));
  Q_EMIT viewChanged();
  update();
}

void LoopStrip::showAt(double quarters) {
  const Axis now = timeAxis();
  if (quarters >= now.from && quarters < now.to - 0.05 * (now.to - now.from)) return update();
  const double bar = document_.track().barQuarters();
  scrollTo(std::floor(quarters / bar + 1e-6) * bar);
}

void LoopStrip::scrollBy(double share) {
  const Axis now = timeAxis();
  scrollTo(now.from + share * (now.to - now.from));
}

void LoopStrip::wheelEvent(QWheelEvent* event) {
  const Axis now = timeAxis();
  const double turned =
      (event->angleDelta().y() != 0 ? event->angleDelta().y() : event->angleDelta().x()) / 120.0;
  // Over the heads, and with Shift anywhere, the wheel scrolls the lanes.
  if (scroll_->isVisible() && (event->position().x() < kHead || event->modifiers() & Qt::ShiftModifier))
    scroll_->setValue(scroll_->value() - static_cast<int>(std::lround(26.0 * turned)));
  else if (event->modifiers() & Qt::ControlModifier)
    zoom(std::pow(0.8, turned), std::clamp(now.value(event->position().x()), now.from, now.to));
  else
    scrollTo(now.from - 0.1 * turned * (now.to - now.from));
  event->accept();
}

}  // namespace heft::app
