// The loop strip by keyboard: a cursor in a lane, and its keys.

#include <QKeyEvent>
#include <algorithm>
#include <cmath>

#include "app/loop/loop_strip.h"
#include "core/session/edits/events.h"
#include "core/session/edits/patterns.h"

namespace heft::app {
namespace {

// A digit or a minus begins to type the chosen point; F2 types it from what it is.
bool typesValue(const QKeyEvent& event) {
  if (event.modifiers() & (Qt::ControlModifier | Qt::AltModifier)) return false;
  const QString text = event.text();
  return event.key() == Qt::Key_F2 || (text.size() == 1 && (text[0].isDigit() || text[0] == '-'));
}

}  // namespace

void LoopStrip::moveCursor(int key, bool shift) {
  const double loop = document_.track().loopQuarters(), way = key == Qt::Key_Right ? 1.0 : -1.0,
               step = way * division();
  if (const Note* n = noteAt(hand(), cursor_ + 1e-6); shift && n) {
    const double length = std::clamp(n->lengthQuarters + step, 0.5 * division(), loop);
    return document_.edit(lengthenNote(hand(), n->startQuarters, length, "lengthen", "key note"));
  }
  cursor_ = snapped(way > 0.0 ? after(cursor_) : std::max(0.0, cursor_ - 1e-4), false);
  const Axis now = timeAxis();
  if (cursor_ < now.from) scrollTo(cursor_);
  if (after(cursor_) > now.to) scrollTo(after(cursor_) - (now.to - now.from));
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
  const Note* n = noteAt(part, cursor_ + 1e-6);
  const Hit* h = part.playsNotes() ? nullptr : hitAt(part, cursor_, false);
  const double at = n ? n->startQuarters : h ? h->startQuarters : 0.0;
  if (key == Qt::Key_T && n) return document_.edit(toggleTie(part, at));
  if (key == Qt::Key_V && (n || h))
    return document_.edit(
        setVelocity(part, at, (n ? n->velocity : h->velocity) + (shift ? -0.1 : 0.1), "key velocity"));
  if (key == Qt::Key_Delete || key == Qt::Key_Backspace)
    return n ? document_.edit(removeNote(part, at)) : h ? document_.edit(removeHit(part, at)) : void();
  if (key != Qt::Key_Return && key != Qt::Key_Enter) return;
  if (h)
    hit_ = Chosen{part.id, at}, chooseHitBefore(at);
  else if (!part.playsNotes())
    pressHit(part, cursor_, false);
  else if (!n)
    pressNote(part, cursor_, timeAxis().pixel(cursor_), false);
  grip_ = Grip::None;
  document_.endDrag();
}

void LoopStrip::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const bool shift = event->modifiers() & Qt::ShiftModifier, control = event->modifiers() & Qt::ControlModifier;
  if (pen_.isDrawing() && pen_.key(*event, cursor_)) return event->accept(), update();
  if (pen_.isDrawing() && typesValue(*event))
    return event->accept(), typePoint(event->key() == Qt::Key_F2 ? QString() : event->text());
  if (keyOnMarked(event)) return event->accept();
  const Note* here = noteAt(hand(), cursor_ + 1e-6);
  if (key == Qt::Key_Left || key == Qt::Key_Right) {
    moveCursor(key, shift);
  } else if ((key == Qt::Key_Up || key == Qt::Key_Down) && here && !control) {
    const int way = (key == Qt::Key_Up ? 1 : -1) * (shift ? 12 : 1);
    document_.edit(setNotePitch(hand(), here->startQuarters, here->midi + way, "key note"));
  } else if (key == Qt::Key_Up || key == Qt::Key_PageUp) {
    moveHand(-1);
  } else if (key == Qt::Key_Down || key == Qt::Key_PageDown) {
    moveHand(1);
  } else if (key == Qt::Key_Plus || key == Qt::Key_Equal) {
    zoom(0.5, cursor_);
  } else if (key == Qt::Key_Minus) {
    zoom(2.0, cursor_);
  } else if (key == Qt::Key_0) {
    viewQuarters_ = 0.0;
  } else if (key == Qt::Key_W && hand().playsNotes()) {
    showWheel(!wheelPart_);
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
    return QWidget::keyPressEvent(event);
  }
  const Note* now = noteAt(hand(), cursor_ + 1e-6);
  note_ = now ? std::optional(Chosen{hand().id, now->startQuarters}) : std::nullopt;
  event->accept();
  update();
}

}  // namespace heft::app
