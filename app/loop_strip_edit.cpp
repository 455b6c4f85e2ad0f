// The loop strip's hands: what mouse, wheel and keyboard do to hits, notes and the view.

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/loop_strip.h"

namespace heft::app {
namespace {

// Hits and notes stand in the order of their starts; gives the place that was taken.
template <class Item>
int insertInOrder(std::vector<Item>& items, const Item& item) {
  const auto place = std::upper_bound(items.begin(), items.end(), item, [](const Item& a, const Item& b) {
    return a.startQuarters < b.startQuarters;
  });
  const auto index = place - items.begin();
  items.insert(place, item);
  return static_cast<int>(index);
}

}  // namespace

void LoopStrip::changeNotes(const QString& name, const std::function<void(std::vector<Note>&)>& change,
                            const QString& merge) {
  document_.edit(
      name, [&](Session& s) { change(s.bass.notes); }, merge);
}

int LoopStrip::hitAt(double quarters, bool free) const {
  const auto& hits = document_.session().kick.hits;
  const double at = snapped(quarters, free);
  const auto same = std::find_if(hits.begin(), hits.end(), [&](const Hit& h) {
    return free ? std::abs(h.startQuarters - at) < 0.03
                : h.startQuarters >= at - 1e-6 && h.startQuarters < at + kGrid - 1e-6;
  });
  return same == hits.end() ? -1 : static_cast<int>(same - hits.begin());
}

void LoopStrip::removeHit(int hit) {
  document_.edit("remove kick hit", [&](Session& s) { s.kick.hits.erase(s.kick.hits.begin() + hit); });
}

// Places a hit, or takes hold of the one that is there: let go of where it stands it is removed.
void LoopStrip::pressKick(double quarters, bool free) {
  hit_ = hitAt(quarters, free);
  dragged_ = false;
  grip_ = hit_ < 0 ? Grip::NewHit : Grip::Hit;
  if (hit_ < 0) {
    const Hit placed{snapped(quarters, free), 1.0};
    document_.edit(
        "place kick hit", [&](Session& s) { hit_ = insertInOrder(s.kick.hits, placed); }, "hit");
  }
  gripOffset_ = quarters - document_.session().kick.hits[static_cast<size_t>(hit_)].startQuarters;
}

void LoopStrip::dragHit(double quarters, bool free) {
  const auto& hits = document_.session().kick.hits;
  if (hit_ < 0 || hit_ >= static_cast<int>(hits.size())) return;
  Hit moved = hits[static_cast<size_t>(hit_)];
  const double wanted = quarters - gripOffset_, was = moved.startQuarters;
  // Off the grid before, it keeps its place until the pointer has left it.
  if (!dragged_ && std::abs(wanted - was) < 0.5 * kGrid && !free) return;
  moved.startQuarters = free ? std::clamp(wanted, 0.0, document_.track().loopQuarters() - 0.01)
                             : snapped(std::round(wanted / kGrid) * kGrid, false);
  const bool taken = std::any_of(hits.begin(), hits.end(), [&](const Hit& h) {
    return std::abs(h.startQuarters - moved.startQuarters) < 1e-6;
  });
  if (taken) return;
  dragged_ = true;
  document_.edit(
      grip_ == Grip::NewHit ? "place kick hit" : "move kick hit",
      [&](Session& s) {
        s.kick.hits.erase(s.kick.hits.begin() + hit_);
        hit_ = insertInOrder(s.kick.hits, moved);
      },
      "hit");
}

void LoopStrip::pressBass(double quarters, double x, bool free) {
  note_ = noteAt(quarters);
  if (note_ >= 0) {
    const Note& n = document_.session().bass.notes[static_cast<size_t>(note_)];
    grip_ = gripsEnd(note_, x) ? Grip::End : Grip::Move;
    gripOffset_ = quarters - n.startQuarters;
    update();
    return;
  }
  // A new note takes the pitch of the one before it, else the tonic near A1.
  const double at = snapped(quarters, free);
  int midi = nearestOfClass(32.0, document_.track().key.tonic);
  for (const Note& n : document_.session().bass.notes)
    if (n.startQuarters < at) midi = n.midi;
  changeNotes(
      "place bass note",
      [&](std::vector<Note>& notes) {
        insertInOrder(notes, Note{at, kGrid, midi, 0.8});
      },
      "note");
  note_ = noteAt(at + 1e-6);
  grip_ = Grip::New;
}

void LoopStrip::dragNote(double quarters, bool free) {
  if (note_ < 0 || note_ >= static_cast<int>(document_.session().bass.notes.size())) return;
  const auto index = static_cast<size_t>(note_);
  const Note before = document_.session().bass.notes[index];
  Note n = before;
  if (grip_ == Grip::Move) {
    n.startQuarters =
        std::clamp(free ? quarters - gripOffset_ : std::round((quarters - gripOffset_) / kGrid) * kGrid, 0.0,
                   std::max(0.0, document_.track().loopQuarters() - 0.05));
  } else {
    const double end = free ? quarters : std::ceil(quarters / kGrid - 0.2) * kGrid;
    n.lengthQuarters = std::clamp(end - n.startQuarters, free ? 0.05 : kGrid, document_.track().loopQuarters());
  }
  if (n == before) return;
  changeNotes(
      grip_ == Grip::New    ? "place bass note"
      : grip_ == Grip::Move ? "move bass note"
                            : "lengthen bass note",
      [&](std::vector<Note>& notes) {
        notes.erase(notes.begin() + static_cast<ptrdiff_t>(index));
        note_ = insertInOrder(notes, n);
      },
      "note");
}

bool LoopStrip::pressHead(Row row, const QPointF& at) {
  if (row != Row::Kick && row != Row::Bass && row != Row::Backing) return false;
  for (bool solo : {true, false}) {
    if (!headButton(row, solo).adjusted(-2, -2, 2, 2).contains(at)) continue;
    const Lane lane = laneOf(row);
    solo ? transport_.setSolo(lane, !transport_.isSolo(lane))
         : transport_.setMuted(lane, !transport_.isMuted(lane));
    return true;
  }
  return false;
}

// The hit nearest before the pointer is the one that the stages look at.
void LoopStrip::chooseHitBefore(double quarters) {
  const Stems* s = document_.stems();
  if (!s) return;
  int hit = 0;
  for (size_t i = 0; i < s->hitFrames.size(); ++i)
    if (s->hitFrames[i] <= (quarters + 0.1) * document_.track().framesPerQuarter()) hit = static_cast<int>(i);
  selection_.setHit(hit);
}

void LoopStrip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const QPointF at = event->position();
  const Row row = rowAt(at);
  const bool free = event->modifiers() & Qt::AltModifier;
  if (pressHead(row, at) || at.x() < kHead || at.x() > width() - kRight) return;
  const double quarters = timeAxis().value(at.x());
  cursor_ = snapped(quarters, false);
  if (row == Row::Kick) cursorRow_ = row, pressKick(quarters, free);
  if (row == Row::Bass) cursorRow_ = row, pressBass(quarters, at.x(), free);
  if (row == Row::Ruler || row == Row::Sum) chooseHitBefore(quarters);
}

void LoopStrip::mouseMoveEvent(QMouseEvent* event) {
  const double quarters = timeAxis().value(event->position().x());
  const bool free = event->modifiers() & Qt::AltModifier;
  if (grip_ == Grip::Hit || grip_ == Grip::NewHit) return dragHit(quarters, free);
  if (grip_ != Grip::None) return dragNote(quarters, free);
  const int over = rowAt(event->position()) == Row::Bass ? noteAt(quarters) : -1;
  setCursor(over < 0                                ? Qt::ArrowCursor
            : gripsEnd(over, event->position().x()) ? Qt::SizeHorCursor
                                                    : Qt::OpenHandCursor);
}

void LoopStrip::mouseReleaseEvent(QMouseEvent*) {
  if (grip_ == Grip::Hit && !dragged_) removeHit(hit_);
  grip_ = Grip::None;
  document_.endDrag();
}

// Shows `factor` times as much, one beat at least, and keeps `aboutQuarters` where it is.
void LoopStrip::zoom(double factor, double aboutQuarters) {
  const Axis now = timeAxis();
  const double loop = document_.track().loopQuarters(), beat = 4.0 / document_.track().beatUnit;
  const double shown = std::clamp((now.to - now.from) * factor, std::min(beat, loop), loop);
  const double part = (aboutQuarters - now.from) / (now.to - now.from);
  viewQuarters_ = shown >= loop ? 0.0 : shown;
  scrollTo(aboutQuarters - part * shown);
}

void LoopStrip::scrollTo(double startQuarters) {
  const Axis now = timeAxis();
  viewStart_ =
      std::clamp(startQuarters, 0.0, std::max(0.0, document_.track().loopQuarters() - (now.to - now.from)));
  update();
}

void LoopStrip::wheelEvent(QWheelEvent* event) {
  const Axis now = timeAxis();
  const double turned =
      (event->angleDelta().y() != 0 ? event->angleDelta().y() : event->angleDelta().x()) / 120.0;
  if (event->modifiers() & Qt::ControlModifier)
    zoom(std::pow(0.8, turned), std::clamp(now.value(event->position().x()), now.from, now.to));
  else
    scrollTo(now.from - 0.1 * turned * (now.to - now.from));
  event->accept();
}

void LoopStrip::moveCursor(int key, bool shift) {
  const double loop = document_.track().loopQuarters(), way = key == Qt::Key_Right ? kGrid : -kGrid;
  const int here = noteAt(cursor_ + 1e-6);
  if (shift && cursorRow_ == Row::Bass && here >= 0)
    return changeNotes(
        "lengthen bass note",
        [&](std::vector<Note>& notes) {
          double& length = notes[static_cast<size_t>(here)].lengthQuarters;
          length = std::clamp(length + way, kGrid, loop);
        },
        "key note");
  cursor_ = std::clamp(cursor_ + way, 0.0, std::max(0.0, loop - kGrid));
  const Axis now = timeAxis();
  if (cursor_ < now.from) scrollTo(cursor_);
  if (cursor_ + kGrid > now.to) scrollTo(cursor_ + kGrid - (now.to - now.from));
}

void LoopStrip::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const bool shift = event->modifiers() & Qt::ShiftModifier, control = event->modifiers() & Qt::ControlModifier;
  const int here = noteAt(cursor_ + 1e-6);
  const bool onNote = cursorRow_ == Row::Bass && here >= 0;
  if (key == Qt::Key_Left || key == Qt::Key_Right) {
    moveCursor(key, shift);
  } else if ((key == Qt::Key_Up || key == Qt::Key_Down) && onNote && !control) {
    const int way = (key == Qt::Key_Up ? 1 : -1) * (shift ? 12 : 1);
    changeNotes(
        "move bass note",
        [&](std::vector<Note>& notes) {
          int& midi = notes[static_cast<size_t>(here)].midi;
          midi = std::clamp(midi + way, 0, 127);
        },
        "key note");
  } else if (key == Qt::Key_Up || key == Qt::Key_PageUp) {
    cursorRow_ = Row::Kick;
  } else if (key == Qt::Key_Down || key == Qt::Key_PageDown) {
    cursorRow_ = Row::Bass;
  } else if (key == Qt::Key_Plus || key == Qt::Key_Equal) {
    zoom(0.5, cursor_);
  } else if (key == Qt::Key_Minus) {
    zoom(2.0, cursor_);
  } else if (key == Qt::Key_0) {
    viewQuarters_ = 0.0;
  } else if (key == Qt::Key_Return || key == Qt::Key_Enter) {
    if (const int hit = hitAt(cursor_, false); cursorRow_ == Row::Kick && hit >= 0)
      removeHit(hit);
    else if (cursorRow_ == Row::Kick)
      pressKick(cursor_, false);
    else if (here < 0)
      pressBass(cursor_, timeAxis().pixel(cursor_), false);
    grip_ = Grip::None;
    document_.endDrag();
  } else if (key == Qt::Key_Delete || key == Qt::Key_Backspace) {
    if (onNote)
      changeNotes("remove bass note", [&](std::vector<Note>& n) { n.erase(n.begin() + here); });
    else if (const int hit = hitAt(cursor_, false); cursorRow_ == Row::Kick && hit >= 0)
      removeHit(hit);
  } else {
    return QWidget::keyPressEvent(event);
  }
  note_ = noteAt(cursor_ + 1e-6);
  event->accept();
  update();
}

void LoopStrip::contextMenuEvent(QContextMenuEvent* event) {
  if (rowAt(event->pos()) != Row::Bass) return;
  const int note = noteAt(timeAxis().value(event->pos().x()));
  if (note < 0) return;
  QMenu menu(this);
  menu.setObjectName("Note menu");
  const Note& n = document_.session().bass.notes[static_cast<size_t>(note)];
  QMenu* pitch = menu.addMenu("Note");
  for (int midi = n.midi + 12; midi >= std::max(0, n.midi - 12); --midi) {
    if (!document_.track().key.contains(midi) && midi != n.midi) continue;
    QAction* action = pitch->addAction(QString::fromStdString(noteName(midi, document_.track().notes)));
    action->setCheckable(true);
    action->setChecked(midi == n.midi);
    connect(action, &QAction::triggered, this, [this, note, midi] {
      changeNotes("move bass note",
                  [&](std::vector<Note>& notes) { notes[static_cast<size_t>(note)].midi = midi; });
    });
  }
  connect(menu.addAction("Remove"), &QAction::triggered, this, [this, note] {
    changeNotes("remove bass note", [&](std::vector<Note>& notes) { notes.erase(notes.begin() + note); });
  });
  menu.exec(event->globalPos());
}

}  // namespace heft::app
