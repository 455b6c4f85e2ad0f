// Mouse, wheel and keys on the loop strip: who has them.

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QScrollBar>
#include <algorithm>
#include <cmath>

#include "app/loop/loop_strip.h"
#include "app/widgets/free_hand.h"
#include "core/session/edits/events.h"
#include "core/session/edits/patterns.h"

namespace heft::app {
namespace {

using Of = LoopRow::Of;

// A digit or a minus begins to type the chosen point; F2 types it from what it is.
bool typesValue(const QKeyEvent& event) {
  if (event.modifiers() & (Qt::ControlModifier | Qt::AltModifier)) return false;
  const QString text = event.text();
  return event.key() == Qt::Key_F2 || (text.size() == 1 && (text[0].isDigit() || text[0] == '-'));
}

}  // namespace

void LoopStrip::doEdit(EditKind kind) {
  switch (kind) {
    case EditKind::Cut:
    case EditKind::Copy:
      return marked_.copy(kind == EditKind::Cut);
    case EditKind::Paste:
      return marked_.paste(marked_.range() ? marked_.range()->from : cursor_);
    case EditKind::Duplicate:
      return marked_.repeat();
    case EditKind::SelectAll:
      return marked_.set(PatternRange{0.0, document_.track().loopQuarters()});
    case EditKind::Delete: {
      QKeyEvent press(QEvent::KeyPress, Qt::Key_Delete, Qt::NoModifier);
      keyPressEvent(&press);
    }
  }
}

bool LoopStrip::pressHead(const LaneRows& rows, const LoopRow& row, const QPointF& at) {
  if (heads_.press(rows, row, at)) return true;
  if (at.x() >= LaneRows::kHead || row.of == Of::Ruler || row.of == Of::None) return false;
  if (row.of == Of::Part) handPart_ = row.part;
  Q_EMIT partChosen(row.of == Of::Sum ? kSum.id : row.lane());
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

// The ruler selects a range on all lanes, Ctrl in a lane on that lane; a selected range is dragged in the
// ruler.
bool LoopStrip::pressMark(const LoopRow& row, const QPointF& at, Qt::KeyboardModifiers modifiers) {
  const double quarters = timeAxis().value(at.x());
  const bool lane = row.of == Of::Part && (modifiers & Qt::ControlModifier) && !isFree(modifiers);
  if (row.of == Of::Ruler && marked_.range() && marked_.range()->holds(quarters))
    return marked_.grip(at, quarters), true;
  if (row.of == Of::Part) marked_.set({});
  if (row.of != Of::Ruler && !lane) return false;
  if (lane) handPart_ = row.part;
  return marked_.begin(row, at, quarters), true;
}

void LoopStrip::toggleLayer(const Part& part, double quarters) {
  const std::optional<int> layer = chosenLayer_ ? chosenLayer_(part.id) : std::nullopt;
  const Note* n = part.playsNotes() ? EventHand::noteAt(part, quarters) : nullptr;
  const Hit* h = part.playsNotes() ? nullptr : events_.hitAt(part, quarters, false);
  if (layer && (n || h)) document_.edit(toggleLayerAt(part, n ? n->startQuarters : h->startQuarters, *layer));
}

void LoopStrip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const QPointF at = event->position();
  const LaneRows all = rows();
  const Axis time = timeAxis();
  const LoopRow row = all.at(at);
  const bool free = isFree(event->modifiers()), shift = (event->modifiers() & Qt::ShiftModifier) && !free;
  if (pressHead(all, row, at) || at.x() < LaneRows::kHead || at.x() > width() - LaneRows::kRight) return;
  const double quarters = time.value(at.x());
  cursor_ = events_.snapped(quarters, false);
  if (row.of == Of::Part && wheel_.draws(row.part)) return wheel_.press(at, all.box(row), time);
  if (const auto box = penBox(); box && box->contains(at))
    return penHeld_ = true, pen_.press(*event, *box, time), update();
  if (pressMark(row, at, event->modifiers())) return;
  if (row.of == Of::Sum) chooseHitBefore(quarters);
  const Part* part = partOf(row);
  if (!part) return;
  handPart_ = part->id;
  if (shift) return events_.pressVelocity(*part, at, time);
  if (const auto note = part->playsNotes() ? dives_.press(*part, at, all.box(row), time) : std::nullopt)
    return events_.chooseNote(*part, eventAt(part->notes, *note)), update();
  events_.press(*part, at, time, free);
  update();
}

void LoopStrip::mouseMoveEvent(QMouseEvent* event) {
  const QPointF at = event->position();
  const Axis time = timeAxis();
  const bool free = isFree(event->modifiers());
  const LaneRows all = rows();
  if (const auto box = penBox(); box && penHeld_) return pen_.move(*event, *box, time), update();
  if (dives_.isHeld()) {
    const Part* part = session().part(dives_.part());
    return part ? dives_.drag(*part, at, all.box(*part), time) : void();
  }
  if (wheel_.isHeld()) return wheel_.drag(at, all.box(wheel_.part()), time);
  if (marked_.isHeld()) return marked_.drag(at, time.value(at.x()), free);
  if (events_.isHeld()) return events_.drag(at, time, all, free);
  const Part* part = partOf(all.at(at));
  const Note* over = part && at.x() >= LaneRows::kHead ? EventHand::noteAt(*part, time.value(at.x())) : nullptr;
  setCursor(!over                                      ? Qt::ArrowCursor
            : EventHand::gripsEnd(*over, at.x(), time) ? Qt::SizeHorCursor
                                                       : Qt::OpenHandCursor);
}

void LoopStrip::mouseReleaseEvent(QMouseEvent*) {
  if (std::exchange(penHeld_, false)) return pen_.release(), update();
  const double quarters = timeAxis().value(marked_.pressed().x());
  const MarkedRange::Click click = marked_.release();
  if (const Part* part = partOf(marked_.row()); click == MarkedRange::Click::Lane && part)
    toggleLayer(*part, quarters);
  if (click == MarkedRange::Click::Ruler) marked_.set({}), chooseHitBefore(quarters);
  events_.release(), wheel_.release(), dives_.release();
  document_.endDrag();
  update();
}

void LoopStrip::wheelEvent(QWheelEvent* event) {
  const Axis now = timeAxis();
  const double turned =
      (event->angleDelta().y() != 0 ? event->angleDelta().y() : event->angleDelta().x()) / 120.0;
  const QPointF at = event->position();
  // Over the heads, and with Shift anywhere, the wheel scrolls the lanes.
  if (scroll_->isVisible() && (at.x() < LaneRows::kHead || event->modifiers() & Qt::ShiftModifier))
    scroll_->setValue(scroll_->value() - static_cast<int>(std::lround(26.0 * turned)));
  else if (event->modifiers() & Qt::ControlModifier)
    view_.zoom(std::pow(0.8, turned), std::clamp(now.value(at.x()), now.from, now.to));
  else
    view_.scrollBy(-0.1 * turned);
  event->accept();
}

void LoopStrip::moveCursor(int key, bool shift) {
  const double loop = document_.track().loopQuarters(), way = key == Qt::Key_Right ? 1.0 : -1.0,
               division = events_.division();
  if (const Note* n = EventHand::noteAt(hand(), cursor_ + 1e-6); shift && n) {
    const double length = std::clamp(n->lengthQuarters + way * division, 0.5 * division, loop);
    return document_.edit(lengthenNote(hand(), n->startQuarters, length, "lengthen", "key note"));
  }
  cursor_ = events_.snapped(way > 0.0 ? events_.after(cursor_) : std::max(0.0, cursor_ - 1e-4), false);
  const Axis now = timeAxis();
  if (cursor_ < now.from) view_.scrollTo(cursor_);
  if (events_.after(cursor_) > now.to) view_.scrollTo(events_.after(cursor_) - (now.to - now.from));
}

// To the lane above or below.
void LoopStrip::moveHand(int way) {
  const auto& parts = session().parts;
  const auto at = std::find_if(parts.begin(), parts.end(), [this](const Part& p) { return p.id == hand().id; });
  const auto to = std::clamp<ptrdiff_t>(at - parts.begin() + way, 0, std::ssize(parts) - 1);
  handPart_ = parts[static_cast<size_t>(to)].id;
  bringInSight(handPart_);
}

// Return places or selects, V changes velocity, Delete removes, T ties.
void LoopStrip::changeAtCursor(int key, bool shift) {
  const Part& part = hand();
  const Note* n = EventHand::noteAt(part, cursor_ + 1e-6);
  const Hit* h = part.playsNotes() ? nullptr : events_.hitAt(part, cursor_, false);
  const double at = n ? n->startQuarters : h ? h->startQuarters : 0.0;
  if (key == Qt::Key_T && n) return document_.edit(toggleTie(part, at));
  if (key == Qt::Key_V && (n || h))
    return document_.edit(
        setVelocity(part, at, (n ? n->velocity : h->velocity) + (shift ? -0.1 : 0.1), "key velocity"));
  if (key == Qt::Key_Delete || key == Qt::Key_Backspace)
    return n ? document_.edit(removeNote(part, at)) : h ? document_.edit(removeHit(part, at)) : void();
  if (key != Qt::Key_Return && key != Qt::Key_Enter) return;
  if (h)
    events_.chooseHit(part, at), chooseHitBefore(at);
  else if (!n)
    events_.press(part, {timeAxis().pixel(cursor_), 0.0}, timeAxis(), false);
  events_.letGo();
  document_.endDrag();
}

bool LoopStrip::keyOnView(int key) {
  if (key == Qt::Key_Plus || key == Qt::Key_Equal)
    view_.zoom(0.5, cursor_);
  else if (key == Qt::Key_Minus)
    view_.zoom(2.0, cursor_);
  else if (key == Qt::Key_0)
    view_.showAll();
  else
    return false;
  return true;
}

bool LoopStrip::keyOnPattern(const QKeyEvent& event, const Note* here) {
  const int key = event.key();
  const bool shift = event.modifiers() & Qt::ShiftModifier, control = event.modifiers() & Qt::ControlModifier;
  if (key == Qt::Key_Left || key == Qt::Key_Right) {
    moveCursor(key, shift);
  } else if ((key == Qt::Key_Up || key == Qt::Key_Down) && here && !control) {
    const int way = (key == Qt::Key_Up ? 1 : -1) * (shift ? 12 : 1);
    document_.edit(setNotePitch(hand(), here->startQuarters, here->midi + way, "key note"));
  } else if (key == Qt::Key_Up || key == Qt::Key_PageUp) {
    moveHand(-1);
  } else if (key == Qt::Key_Down || key == Qt::Key_PageDown) {
    moveHand(1);
  } else if (key == Qt::Key_W && hand().playsNotes()) {
    showWheel(!wheel_.isDrawing());
  } else if (!control && key == Qt::Key_4) {
    document_.edit(kickOnEveryBeat());
  } else if (!control && key == Qt::Key_8) {
    document_.edit(bassOffTheBeat());
  } else if (!control && key == Qt::Key_1) {
    document_.edit(bassUnderFirstBeat());
  } else if (key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_V || key == Qt::Key_Delete ||
             key == Qt::Key_Backspace || (key == Qt::Key_T && here)) {
    changeAtCursor(key, shift);
  } else {
    return false;
  }
  return true;
}

void LoopStrip::keyPressEvent(QKeyEvent* event) {
  if (pen_.isDrawing() && pen_.key(*event, cursor_)) return event->accept(), update();
  if (pen_.isDrawing() && typesValue(*event))
    return event->accept(), typePoint(event->key() == Qt::Key_F2 ? QString() : event->text());
  if (marked_.key(*event, cursor_, hand().id)) return event->accept();
  const Note* here = EventHand::noteAt(hand(), cursor_ + 1e-6);
  if (!keyOnView(event->key()) && !keyOnPattern(*event, here)) return QWidget::keyPressEvent(event);
  events_.chooseNote(hand(), EventHand::noteAt(hand(), cursor_ + 1e-6));
  event->accept();
  update();
}

}  // namespace heft::app
