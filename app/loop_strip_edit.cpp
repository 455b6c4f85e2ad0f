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

constexpr double kPixelsPerSemitone = 5.0;

// Several window managers take Alt for themselves: then Ctrl and Shift together.
bool isFree(Qt::KeyboardModifiers modifiers) {
  const Qt::KeyboardModifiers both = Qt::ControlModifier | Qt::ShiftModifier;
  return (modifiers & Qt::AltModifier) || (modifiers & both) == both;
}

}  // namespace

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

void LoopStrip::changeNotes(const QString& name, const std::function<void(std::vector<Note>&)>& change,
                            const QString& merge) {
  document_.edit(
      name, [&](Session& s) { change(s.bass().notes); }, merge);
}

int LoopStrip::hitAt(double quarters, bool free) const {
  const auto& hits = document_.session().kick().hits;
  const double at = snapped(quarters, free);
  const auto same = std::find_if(hits.begin(), hits.end(), [&](const Hit& h) {
    return free ? std::abs(h.startQuarters - at) < 0.03
                : h.startQuarters >= at - 1e-6 && h.startQuarters < after(at) - 1e-6;
  });
  return same == hits.end() ? -1 : static_cast<int>(same - hits.begin());
}

void LoopStrip::removeHit(int hit) {
  document_.edit("remove kick hit", [&](Session& s) { s.kick().hits.erase(s.kick().hits.begin() + hit); });
}

int LoopStrip::chosenHit() const {
  const auto& hits = document_.session().kick().hits;
  for (size_t i = 0; chosenAt_ && i < hits.size(); ++i)
    if (std::abs(hits[i].startQuarters - *chosenAt_) < 1e-6) return static_cast<int>(i);
  return -1;
}

// Places a hit, or chooses the one that is there and takes hold of it; a second click removes it.
void LoopStrip::pressKick(double quarters, bool free) {
  hit_ = hitAt(quarters, free);
  dragged_ = false;
  grip_ = hit_ < 0 ? Grip::NewHit : Grip::Hit;
  if (hit_ < 0) {
    const Hit placed{snapped(quarters, free), 1.0};
    document_.edit(
        "place kick hit", [&](Session& s) { hit_ = insertInOrder(s.kick().hits, placed); }, "hit");
  }
  const double start = document_.session().kick().hits[static_cast<size_t>(hit_)].startQuarters;
  wasChosen_ = chosenAt_ && std::abs(*chosenAt_ - start) < 1e-6;
  chosenAt_ = start;
  chooseHitBefore(start);
  gripOffset_ = quarters - start;
}

void LoopStrip::dragHit(double quarters, bool free) {
  const auto& hits = document_.session().kick().hits;
  if (hit_ < 0 || hit_ >= static_cast<int>(hits.size())) return;
  Hit moved = hits[static_cast<size_t>(hit_)];
  const double wanted = quarters - gripOffset_, was = moved.startQuarters;
  // Off the grid before, it keeps its place until the pointer has left it.
  if (!dragged_ && std::abs(wanted - was) < 0.5 * division() && !free) return;
  moved.startQuarters = free ? std::clamp(wanted, 0.0, document_.track().loopQuarters() - 0.01)
                             : snapped(nearestLine(document_.session().grid, std::max(0.0, wanted)), false);
  const bool taken = std::any_of(hits.begin(), hits.end(), [&](const Hit& h) {
    return std::abs(h.startQuarters - moved.startQuarters) < 1e-6;
  });
  if (taken) return;
  dragged_ = true;
  document_.edit(
      grip_ == Grip::NewHit ? "place kick hit" : "move kick hit",
      [&](Session& s) {
        s.kick().hits.erase(s.kick().hits.begin() + hit_);
        hit_ = insertInOrder(s.kick().hits, moved);
      },
      "hit");
  chosenAt_ = moved.startQuarters;
}

void LoopStrip::pressBass(double quarters, double x, bool free) {
  note_ = noteAt(quarters);
  if (note_ >= 0) {
    const Note& n = document_.session().bass().notes[static_cast<size_t>(note_)];
    grip_ = gripsEnd(note_, x) ? Grip::End : Grip::Move;
    gripOffset_ = quarters - n.startQuarters;
    gripMidi_ = n.midi;
    chooseHitBefore(n.startQuarters);
    update();
    return;
  }
  // A new note takes the pitch of the one before it, else the low tonic.
  const double at = snapped(quarters, free);
  int midi = lowTonic(document_.track().key);
  for (const Note& n : document_.session().bass().notes)
    if (n.startQuarters < at) midi = n.midi;
  changeNotes(
      "place bass note",
      [&](std::vector<Note>& notes) {
        insertInOrder(notes, Note{at, after(at) - at, midi, 0.8});
      },
      "note");
  note_ = noteAt(at + 1e-6);
  grip_ = Grip::New;
}

// Sideways in time, up and down in pitch.
void LoopStrip::dragNote(const QPointF& at, double quarters, bool free) {
  if (note_ < 0 || note_ >= static_cast<int>(document_.session().bass().notes.size())) return;
  const auto index = static_cast<size_t>(note_);
  const Note before = document_.session().bass().notes[index];
  Note n = before;
  if (grip_ == Grip::Move) {
    n.startQuarters =
        std::clamp(free ? quarters - gripOffset_
                        : nearestLine(document_.session().grid, std::max(0.0, quarters - gripOffset_)),
                   0.0, std::max(0.0, document_.track().loopQuarters() - 0.05));
    n.midi = std::clamp(gripMidi_ + static_cast<int>(std::lround((gripY_ - at.y()) / kPixelsPerSemitone)), 0, 127);
    // A hand that only goes sideways keeps the pitch, one that only goes up or down the place.
    if (std::abs(at.x() - pressX_) < 4.0) n.startQuarters = before.startQuarters;
  } else {
    const double end = free ? quarters : after(std::max(n.startQuarters, quarters - 0.2 * division()));
    n.lengthQuarters =
        std::clamp(end - n.startQuarters, free ? 0.05 : 0.5 * division(), document_.track().loopQuarters());
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
    const int lane = laneOf(row);
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
  if (row == Row::Bass && wheelMode_) return pressWheel(at);
  pressX_ = at.x(), gripY_ = at.y();
  if (pressMark(row, quarters, event->modifiers())) return;
  if ((row == Row::Kick || row == Row::Bass) && shift) {
    cursorRow_ = row;
    hit_ = hitAt(quarters, false), note_ = noteAt(quarters);
    if ((row == Row::Kick ? hit_ : note_) < 0) return;
    gripY_ = at.y();
    gripVelocity_ = row == Row::Kick ? document_.session().kick().hits[static_cast<size_t>(hit_)].velocity
                                     : document_.session().bass().notes[static_cast<size_t>(note_)].velocity;
    grip_ = Grip::Velocity;
    return;
  }
  if (row == Row::Bass && pressDive(at)) return;
  if (row == Row::Kick) cursorRow_ = row, pressKick(quarters, free);
  if (row == Row::Bass) cursorRow_ = row, pressBass(quarters, at.x(), free);
  if (row == Row::Sum) chooseHitBefore(quarters);
}

// The ruler marks both lanes, Ctrl in a lane that lane; in the ruler what is marked is taken hold of.
bool LoopStrip::pressMark(Row row, double quarters, Qt::KeyboardModifiers modifiers) {
  const bool lane = (row == Row::Kick || row == Row::Bass) && (modifiers & Qt::ControlModifier) && !isFree(modifiers);
  if (row == Row::Ruler && marked_ && marked_->holds(quarters)) {
    grip_ = Grip::MoveMarked;
    gripOffset_ = quarters - marked_->from;
    dragged_ = false;
    return true;
  }
  if (row == Row::Kick || row == Row::Bass) mark({});
  if (row != Row::Ruler && !lane) return false;
  markedRow_ = row;
  anchor_ = quarters;
  grip_ = lane ? Grip::Layer : Grip::Mark;
  dragged_ = false;
  if (lane) cursorRow_ = row;
  return true;
}

void LoopStrip::mouseMoveEvent(QMouseEvent* event) {
  const double quarters = timeAxis().value(event->position().x());
  const bool free = isFree(event->modifiers());
  if (grip_ == Grip::Velocity) return dragVelocity(event->position().y());
  if (grip_ == Grip::Dive) return dragDive(event->position());
  if (grip_ == Grip::Wheel || grip_ == Grip::NewWheel) {
    if (std::abs(event->position().x() - pressX_) + std::abs(event->position().y() - gripY_) > 3.0)
      dragged_ = true;
    return dragWheel(event->position());
  }
  if (grip_ == Grip::Mark || grip_ == Grip::Layer) {
    dragged_ = dragged_ || std::abs(event->position().x() - pressX_) > 4.0;
    return dragged_ ? markTo(quarters, free) : void();
  }
  if (grip_ == Grip::MoveMarked) {
    const double to = std::max(0.0, quarters - gripOffset_);
    dragged_ = dragged_ || std::abs(event->position().x() - pressX_) > 4.0;
    if (dragged_ && marked_)
      moveMarked((free ? to : nearestLine(document_.session().grid, to)) - marked_->from, "marked");
    return;
  }
  if (grip_ == Grip::Hit || grip_ == Grip::NewHit) return dragHit(quarters, free);
  if (grip_ != Grip::None) return dragNote(event->position(), quarters, free);
  const int over = rowAt(event->position()) == Row::Bass ? noteAt(quarters) : -1;
  setCursor(over < 0                                ? Qt::ArrowCursor
            : gripsEnd(over, event->position().x()) ? Qt::SizeHorCursor
                                                    : Qt::OpenHandCursor);
}

void LoopStrip::mouseReleaseEvent(QMouseEvent*) {
  const double pressed = timeAxis().value(pressX_);
  if (grip_ == Grip::Hit && !dragged_ && wasChosen_) removeHit(hit_), chosenAt_.reset();
  if (grip_ == Grip::Wheel && !dragged_) removeWheelPoint();
  if (grip_ == Grip::Layer && !dragged_) toggleLayer(markedRow_, pressed);
  if ((grip_ == Grip::Mark || grip_ == Grip::MoveMarked) && !dragged_) mark({}), chooseHitBefore(pressed);
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
  const double loop = document_.track().loopQuarters(), way = key == Qt::Key_Right ? 1.0 : -1.0,
               step = way * division();
  const int here = noteAt(cursor_ + 1e-6);
  if (shift && cursorRow_ == Row::Bass && here >= 0)
    return changeNotes(
        "lengthen bass note",
        [&](std::vector<Note>& notes) {
          double& length = notes[static_cast<size_t>(here)].lengthQuarters;
          length = std::clamp(length + step, 0.5 * division(), loop);
        },
        "key note");
  cursor_ = snapped(way > 0.0 ? after(cursor_) : std::max(0.0, cursor_ - 1e-4), false);
  const Axis now = timeAxis();
  if (cursor_ < now.from) scrollTo(cursor_);
  if (after(cursor_) > now.to) scrollTo(after(cursor_) - (now.to - now.from));
}

void LoopStrip::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const bool shift = event->modifiers() & Qt::ShiftModifier, control = event->modifiers() & Qt::ControlModifier;
  if (keyOnMarked(event)) return event->accept();
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
      chosenAt_ = document_.session().kick().hits[static_cast<size_t>(hit)].startQuarters,
      chooseHitBefore(*chosenAt_);
    else if (cursorRow_ == Row::Kick)
      pressKick(cursor_, false);
    else if (here < 0)
      pressBass(cursor_, timeAxis().pixel(cursor_), false);
    grip_ = Grip::None;
    document_.endDrag();
  } else if (key == Qt::Key_T && onNote) {
    changeNotes("tie bass note", [&](std::vector<Note>& n) {
      n[static_cast<size_t>(here)].tie = !n[static_cast<size_t>(here)].tie;
    });
  } else if (key == Qt::Key_W && cursorRow_ == Row::Bass) {
    showWheel(!wheelMode_);
  } else if (!control && (key == Qt::Key_4 || key == Qt::Key_8 || key == Qt::Key_1)) {
    document_.edit(
        key == Qt::Key_4   ? "kick on every beat"
        : key == Qt::Key_8 ? "offbeat bass"
                           : "notes under the first beat",
        [&](Session& s) {
          s = key == Qt::Key_4 ? fourToTheBar(s) : key == Qt::Key_8 ? offbeatBass(s) : notesUnderFirstBeat(s);
        });
  } else if (key == Qt::Key_V) {
    // Louder; with Shift softer.
    const double by = shift ? -0.1 : 0.1;
    const int hit = cursorRow_ == Row::Kick ? hitAt(cursor_, false) : -1;
    document_.edit(
        "set velocity",
        [&](Session& s) {
          if (hit >= 0)
            s.kick().hits[static_cast<size_t>(hit)].velocity =
                std::clamp(s.kick().hits[static_cast<size_t>(hit)].velocity + by, 0.02, 1.0);
          if (onNote)
            s.bass().notes[static_cast<size_t>(here)].velocity =
                std::clamp(s.bass().notes[static_cast<size_t>(here)].velocity + by, 0.02, 1.0);
        },
        "key velocity");
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
  const Row row = rowAt(event->pos());
  if (wheelMode_) return showWheel(false);
  const int note = row == Row::Bass ? noteAt(timeAxis().value(event->pos().x())) : -1;
  const double quarters = timeAxis().value(event->pos().x());
  const bool onMarked = marked_ && marked_->holds(quarters);
  note >= 0 && !onMarked ? noteMenu(note, event->globalPos()) : patternMenu(event->globalPos(), quarters);
}

void LoopStrip::noteMenu(int note, const QPoint& at) {
  QMenu menu(this);
  menu.setObjectName("Note menu");
  const Note& n = document_.session().bass().notes[static_cast<size_t>(note)];
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
  auto add = [&](const QString& words, bool checked, const QString& name, auto change) {
    QAction* action = menu.addAction(words);
    action->setCheckable(true);
    action->setChecked(checked);
    connect(action, &QAction::triggered, this, [this, note, name, change] {
      changeNotes(name, [&](std::vector<Note>& notes) { change(notes[static_cast<size_t>(note)]); });
    });
  };
  add("Tie into the next note", n.tie, n.tie ? "untie bass note" : "tie bass note",
      [](Note& x) { x.tie = !x.tie; });
  QMenu* dive = menu.addMenu("Dive");
  for (int semitones : {0, 2, 5, 7, 12, 24}) {
    QAction* action =
        dive->addAction(semitones == 0 ? QString("none") : QString("%1 semitones").arg(semitones));
    action->setCheckable(true);
    action->setChecked(std::lround(n.dive.semitones) == semitones);
    connect(action, &QAction::triggered, this, [this, note, semitones] {
      changeNotes("dive bass note", [&](std::vector<Note>& notes) {
        Note& x = notes[static_cast<size_t>(note)];
        x.dive = semitones == 0 ? Dive{}
                                : Dive{static_cast<double>(semitones), 0.5 * x.lengthQuarters,
                                       0.5 * x.lengthQuarters, 0.0};
      });
    });
  }
  connect(menu.addAction("Remove"), &QAction::triggered, this, [this, note] {
    changeNotes("remove bass note", [&](std::vector<Note>& notes) { notes.erase(notes.begin() + note); });
  });
  menu.exec(at);
}

// Moves over whole patterns.
void LoopStrip::patternMenu(const QPoint& at, double quarters) {
  QMenu menu(this);
  menu.setObjectName("Pattern menu");
  addMarkedActions(menu, quarters);
  auto add = [&](const QString& words, const QString& name, std::function<Session(Session)> change) {
    connect(menu.addAction(words), &QAction::triggered, this,
            [this, name, change] { document_.edit(name, [&](Session& s) { s = change(s); }); });
  };
  add("Kick on every beat\t4", "kick on every beat", fourToTheBar);
  add("Bass off the beat\t8", "offbeat bass", offbeatBass);
  add("Bass notes only under the first beat\t1", "notes under the first beat", notesUnderFirstBeat);
  menu.addSeparator();
  const double bar = document_.track().beatsPerBar * 4.0 / document_.track().beatUnit;
  add("Copy bar 1 to all", "copy first bar", [bar](Session s) {
    for (double to = bar; to < s.track.loopQuarters() - 1e-6; to += bar) s = copied(s, 0.0, bar, to);
    return s;
  });
  add("All later by one division", "nudge pattern",
      [d = division()](Session s) { return nudged(std::move(s), d); });
  add("All earlier by one division", "nudge pattern",
      [d = division()](Session s) { return nudged(std::move(s), -d); });
  QMenu* strengths = menu.addMenu("Quantise to the grid");
  for (int percent : {100, 75, 50, 25})
    connect(strengths->addAction(QString("%1 %").arg(percent)), &QAction::triggered, this, [this, percent] {
      const PatternRange range = marked_.value_or(PatternRange{0.0, document_.track().loopQuarters()});
      changeMarked("quantise pattern", [=](const Session& s) { return quantised(s, range, percent / 100.0); });
    });
  menu.addSeparator();
  connect(menu.addAction("Draw the pitch wheel"), &QAction::triggered, this, [this] { showWheel(true); });
  QMenu* range = menu.addMenu("Pitch wheel's range");
  for (int semitones : {1, 2, 5, 7, 12, 24}) {
    QAction* action = range->addAction(QString("%1 semitones").arg(semitones));
    action->setCheckable(true);
    action->setChecked(std::lround(document_.session().bass().wheelRange) == semitones);
    connect(action, &QAction::triggered, this, [this, semitones] {
      document_.edit("set pitch wheel's range", [semitones](Session& s) { s.bass().wheelRange = semitones; });
    });
  }
  add("Clear the wheel", "clear pitch wheel", [](Session s) {
    s.bass().wheel.clear();
    return s;
  });
  menu.exec(at);
}

void LoopStrip::toggleLayer(Row row, double quarters) {
  const bool bass = row == Row::Bass;
  const int id = chosenLayer_ ? chosenLayer_(bass) : 0,
            index = bass ? noteAt(quarters) : hitAt(quarters, false);
  if (id == 0 || index < 0) return;
  document_.edit("choose where layer plays", [&](Session& s) {
    auto& without = bass ? s.bass().notes[static_cast<size_t>(index)].without
                         : s.kick().hits[static_cast<size_t>(index)].without;
    if (std::erase(without, id) == 0) without.push_back(id);
  });
}

// Up is louder: the lane's height is all of it.
void LoopStrip::dragVelocity(double y) {
  const bool bass = cursorRow_ == Row::Bass;
  const double to = std::clamp(gripVelocity_ + (gripY_ - y) / (1.5 * boxOf(cursorRow_).height()), 0.02, 1.0);
  document_.edit(
      bass ? "set note velocity" : "set hit velocity",
      [&](Session& s) {
        if (bass && note_ >= 0 && note_ < static_cast<int>(s.bass().notes.size()))
          s.bass().notes[static_cast<size_t>(note_)].velocity = to;
        if (!bass && hit_ >= 0 && hit_ < static_cast<int>(s.kick().hits.size()))
          s.kick().hits[static_cast<size_t>(hit_)].velocity = to;
      },
      "velocity");
}

void LoopStrip::pressWheel(const QPointF& at) {
  const auto& wheel = document_.session().bass().wheel;
  wheelPoint_ = -1;
  double nearest = 8.0;
  for (size_t i = 0; i < wheel.size(); ++i) {
    const QPointF away = wheelAt(wheel[i].quarters, wheel[i].value) - at;
    if (const double d = std::hypot(away.x(), away.y()); d < nearest)
      nearest = d, wheelPoint_ = static_cast<int>(i);
  }
  grip_ = wheelPoint_ < 0 ? Grip::NewWheel : Grip::Wheel;
  dragged_ = false, pressX_ = at.x(), gripY_ = at.y();
  if (wheelPoint_ < 0)
    document_.edit(
        "draw pitch wheel",
        [&](Session& s) {
          const WheelPoint fresh{std::max(0.0, timeAxis().value(at.x())), 0.0};
          auto place = std::upper_bound(
              s.bass().wheel.begin(), s.bass().wheel.end(), fresh,
              [](const WheelPoint& a, const WheelPoint& b) { return a.quarters < b.quarters; });
          place = s.bass().wheel.insert(place, fresh);
          wheelPoint_ = static_cast<int>(place - s.bass().wheel.begin());
        },
        "wheel");
  if (grip_ == Grip::NewWheel) dragWheel(at);
}

void LoopStrip::removeWheelPoint() {
  document_.edit("remove point of the pitch wheel", [&](Session& s) {
    if (wheelPoint_ >= 0 && wheelPoint_ < static_cast<int>(s.bass().wheel.size()))
      s.bass().wheel.erase(s.bass().wheel.begin() + wheelPoint_);
  });
}

void LoopStrip::dragWheel(const QPointF& at) {
  const QRectF box = boxOf(Row::Bass).adjusted(0, 5, 0, -5);
  document_.edit(
      "draw pitch wheel",
      [&](Session& s) {
        auto& wheel = s.bass().wheel;
        const auto i = static_cast<size_t>(wheelPoint_);
        if (i >= wheel.size()) return;
        const double low = i == 0 ? 0.0 : wheel[i - 1].quarters + 0.001;
        const double high =
            i + 1 < wheel.size() ? wheel[i + 1].quarters - 0.001 : document_.track().loopQuarters();
        wheel[i].quarters = std::clamp(timeAxis().value(at.x()), low, std::max(low, high));
        // Near the middle it rests.
        const double value = std::clamp((box.center().y() - at.y()) / (0.5 * box.height()), -1.0, 1.0);
        wheel[i].value = std::abs(value) < 0.06 ? 0.0 : value;
      },
      "wheel");
}

}  // namespace heft::app
