// Menus of the loop strip: of a note, and of whole patterns.

#include <QContextMenuEvent>
#include <QMenu>
#include <cmath>

#include "app/loop/loop_strip.h"
#include "core/session/edits/events.h"
#include "core/session/edits/patterns.h"
#include "core/session/edits/rhythm.h"

namespace heft::app {

void LoopStrip::contextMenuEvent(QContextMenuEvent* event) {
  if (wheel_.isDrawing()) return showWheel(false);
  if (pen_.isDrawing()) return layPen();
  const double quarters = timeAxis().value(event->pos().x());
  const LoopRow row = rows().at(event->pos());
  const Part* part = partOf(row);
  if (part) handPart_ = part->id;
  const Note* note = part && event->pos().x() >= LaneRows::kHead ? EventHand::noteAt(*part, quarters) : nullptr;
  const bool onMarked = marked_.range() && marked_.range()->holds(quarters);
  note && !onMarked ? noteMenu(*part, *note, event->globalPos())
                    : patternMenu(event->globalPos(), quarters, row);
}

// Makes an edit on request, for the part and the note of that moment.
void LoopStrip::noteMenu(const Part& part, const Note& n, const QPoint& at) {
  QMenu menu(this);
  menu.setObjectName("Note menu");
  auto add = [&](QMenu* to, const QString& words, std::optional<bool> checked,
                 std::function<Edit(const Part&)> edit) {
    QAction* action = to->addAction(words);
    action->setCheckable(checked.has_value());
    action->setChecked(checked.value_or(false));
    connect(action, &QAction::triggered, this, [this, id = part.id, edit = std::move(edit)] {
      if (const Part* p = session().part(id)) document_.edit(edit(*p));
    });
  };
  const double start = n.startQuarters;
  QMenu* pitch = menu.addMenu("Note");
  for (int midi = n.midi + 12; midi >= std::max(0, n.midi - 12); --midi)
    if (document_.track().key.contains(midi) || midi == n.midi)
      add(pitch, QString::fromStdString(noteName(midi, document_.track().notes)), midi == n.midi,
          [start, midi](const Part& p) { return setNotePitch(p, start, midi); });
  add(&menu, "Glide into the next note", n.tie, [start](const Part& p) { return toggleTie(p, start); });
  QMenu* dive = menu.addMenu("Dive");
  for (int semitones : {0, 2, 5, 7, 12, 24})
    add(dive, semitones == 0 ? QString("none") : QString("%1 semitones").arg(semitones),
        std::lround(n.dive.semitones) == semitones,
        [start, semitones](const Part& p) { return diveBy(p, start, semitones); });
  add(&menu, "Remove", std::nullopt, [start](const Part& p) { return removeNote(p, start); });
  menu.addSeparator();
  addAutomationActions(menu, LoopRow::ofLane(part.id));
  menu.exec(at);
}

// Moves over whole patterns.
void LoopStrip::patternMenu(const QPoint& at, double quarters, const LoopRow& row) {
  QMenu menu(this);
  menu.setObjectName("Pattern menu");
  marked_.addActions(menu, events_.snapped(quarters, false));
  addAutomationActions(menu, row);
  menu.addSeparator();
  auto add = [&](const QString& words, const Edit& edit) {
    connect(menu.addAction(words), &QAction::triggered, this, [this, edit] { document_.edit(edit); });
  };
  add("Kick on every beat\t4", kickOnEveryBeat());
  add("Bass off the beat\t8", bassOffTheBeat());
  add("Bass notes only under the first beat\t1", bassUnderFirstBeat());
  menu.addSeparator();
  add("Copy bar 1 to all", copyFirstBar());
  add("All later by one division", nudgePatterns(events_.division()));
  add("All earlier by one division", nudgePatterns(-events_.division()));
  QMenu* strengths = menu.addMenu("Quantise to the grid");
  for (int percent : {100, 75, 50, 25})
    connect(strengths->addAction(QString("%1 %").arg(percent)), &QAction::triggered, this,
            [this, percent] { document_.edit(quantiseRange(marked_.rangeOrAll(), percent / 100.0)); });
  addRhythmActions(menu);
  menu.addSeparator();
  addWheelActions(menu);
  menu.exec(at);
}

// Lengths of all notes of the active part, small variations, a rhythm copied from another part or layer.
void LoopStrip::addRhythmActions(QMenu& menu) {
  const Part& part = hand();
  auto add = [&](QMenu& to, const QString& words, std::function<Edit(const Part&)> edit) {
    connect(to.addAction(words), &QAction::triggered, this, [this, id = part.id, edit = std::move(edit)] {
      if (const Part* now = session().part(id)) document_.edit(edit(*now));
    });
  };
  const QString word = QString::fromStdString(partWord(part));
  if (part.playsNotes()) {
    add(menu, "Play " + word + " legato", [](const Part& p) { return playLegato(p); });
    QMenu* shorter = menu.addMenu("Shorten all " + word + " notes");
    for (const int of : {128, 64, 32, 16})
      add(*shorter, QString("by 1/%1").arg(of), [of](const Part& p) { return shortenNotes(p, 4.0 / of); });
  }
  QMenu* vary = menu.addMenu("Vary velocity and time");
  struct Amount {
    int percent, ms;
  };
  for (const Amount amount : {Amount{5, 0}, {10, 0}, {20, 0}, {0, 3}, {0, 8}, {10, 5}, {20, 10}})
    connect(
        vary->addAction(QString("up to %1 %, %2 ms").arg(amount.percent).arg(amount.ms)), &QAction::triggered,
        this, [this, amount, id = part.id] {
          // Each use varies differently; undo and redo restore the same.
          document_.edit(varyRange(marked_.rangeOrAll({id}), amount.percent / 100.0, amount.ms, ++variations_));
        });
  QMenu* rhythm = menu.addMenu("Rhythm of " + word + " from");
  for (const Part& other : session().parts)
    if (other.id != part.id && other.hasEvents())
      add(*rhythm, QString::fromStdString(other.title()), [this, from = other.id](const Part& p) {
        const Part* source = session().part(from);
        return copyRhythm(source ? *source : p, p);
      });
  if (chosenLayer_ && part.layers.size() > 1)
    if (const auto layer = chosenLayer_(part.id))
      for (const Layer& other : part.layers)
        if (other.id != *layer)
          add(*rhythm, QString("layer %1, for the chosen layer").arg(QString::fromStdString(other.title())),
              [from = other.id, to = *layer](const Part& p) { return copyLayerRhythm(p, from, to); });
}

// For the active line, or the bass's where that plays hits.
void LoopStrip::addWheelActions(QMenu& menu) {
  const Part& part = hand().playsNotes() ? hand() : session().bass();
  connect(menu.addAction("Draw the pitch wheel"), &QAction::triggered, this, [this] { showWheel(true); });
  QMenu* range = menu.addMenu("Pitch wheel's range");
  for (int semitones : {1, 2, 5, 7, 12, 24}) {
    QAction* action = range->addAction(QString("%1 semitones").arg(semitones));
    action->setCheckable(true);
    action->setChecked(std::lround(part.wheelRange) == semitones);
    connect(action, &QAction::triggered, this,
            [this, edit = setWheelRange(part, semitones)] { document_.edit(edit); });
  }
  connect(menu.addAction("Clear the wheel"), &QAction::triggered, this,
          [this, edit = clearWheel(part)] { document_.edit(edit); });
}

}  // namespace heft::app
