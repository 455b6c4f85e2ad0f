#include "app/play/teacher.h"

#include <QApplication>
#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QToolTip>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "app/widgets/unit_words.h"

namespace heft::app {
namespace {

constexpr int kFlushMs = 8, kStillMs = 600;
constexpr double kAwayFromRest = 0.05, kAtRest = 0.01;
constexpr auto kWheelKeys = Qt::ControlModifier | Qt::ShiftModifier;

QString percent(double place) {
  return QString("%1 %").arg(std::lround(100.0 * place));
}

QString capital(const std::string& words) {
  QString out = QString::fromStdString(words);
  if (!out.isEmpty()) out[0] = out[0].toUpper();
  return out;
}

bool isSame(const Taught& a, const Taught& b) {
  return a.owner == b.owner && a.key == b.key;
}

}  // namespace

QString taughtWords(const Session& s, const Taught& t) {
  QStringList out;
  const Owner& of = t.owner;
  if (of.duck) {
    const Duck* duck = s.duck(*of.duck);
    out << (duck && !duck->name.empty() ? QString::fromStdString(duck->name)
                                        : QString("Ducking %1").arg(*of.duck));
  }
  const Part* part = of.part ? s.part(*of.part) : nullptr;
  if (of.part) out << (part ? QString::fromStdString(part->title()) : QString("a removed part"));
  if (of.layer) {
    const Layer* layer = part ? part->layer(*of.layer) : nullptr;
    out << (layer ? QString::fromStdString(layer->title()) : QString("a removed layer"));
  }
  if (of.processor) {
    if (!of.part) out << "Sum";
    const Chain* chain = chainOf(s, of);
    const Processor* processor = chain ? chain->find(*of.processor) : nullptr;
    out << (processor ? processorWord(processor->what.index()) : "a removed processor");
  }
  out.removeAll({});
  const QString name = QString::fromStdString(t.name.empty() ? t.key : t.name);
  return out.isEmpty() ? name : out.join(", ") + ": " + name;
}

Teacher::Teacher(Document& document, PlayIn& playIn, QWidget* window)
    : QObject(window), document_(document), playIn_(playIn), window_(window) {
  flush_.setSingleShot(true), still_.setSingleShot(true);
  flush_.setInterval(kFlushMs), still_.setInterval(kStillMs);
  connect(&flush_, &QTimer::timeout, this, &Teacher::flush);
  // A pause ends a move: the next one is another undo step.
  connect(&still_, &QTimer::timeout, this, [this] { document_.endDrag(); });
  connect(&playIn_, &PlayIn::turned, this, &Teacher::turned);
  connect(&document_, &Document::replaced, this, [this] {
    leave();
    pickups_.clear(), rest_.clear(), moves_.clear();
  });
  qApp->installEventFilter(this);
}

Teacher::~Teacher() {
  qApp->removeEventFilter(this);
}

void Teacher::teachFocused() {
  const auto* field = qobject_cast<ValueField*>(QApplication::focusWidget());
  if (isTeaching()) return leave();
  if (!field) return document_.fail("Select a value first (click or Tab), then press F6 for MIDI learn.");
  teach(field);
}

void Teacher::automateFocused() {
  const auto* field = qobject_cast<ValueField*>(QApplication::focusWidget());
  const auto value = field && field->spec().turned ? field->spec().turned() : std::nullopt;
  if (!value || !canBeAutomated(document_.session(), value->owner, value->key))
    return document_.fail(
        "Select a value first (click or Tab), then press Shift+F6: numbers, times, switches and choices "
        "of sounds, processors and duckings, and levels, can be automated.");
  Q_EMIT automationWanted({value->owner, value->key, value->name});
}

void Teacher::teach(const ValueField* field) {
  const auto value = field->spec().turned ? field->spec().turned() : std::nullopt;
  if (!value)
    return document_.fail(
        field->spec().name +
        " cannot be assigned to a controller: it is neither a number nor a switch of the session.");
  wanted_ = *value;
  playIn_.beginFile();
  Q_EMIT changed();
}

void Teacher::leave() {
  if (!wanted_) return;
  wanted_.reset();
  Q_EMIT changed();
}

QString Teacher::words() const {
  if (!wanted_) return {};
  return QString("MIDI learn for %1: %2, or turn the mouse wheel. Esc cancels")
      .arg(taughtWords(document_.session(), *wanted_),
           playIn_.port().isEmpty() ? "choose a MIDI keyboard under Play and move a controller"
                                    : "move a controller or the pitch wheel");
}

void Teacher::turned(const Control& control, double place) {
  if (wanted_) {
    if (control.kind == Control::Kind::PitchWheel && std::abs(place) < kAwayFromRest) return;
    learn(control);
  }
  if (!taughtBy(document_.session(), control)) return;
  moves_[controlName(control)] = {control, place};
  if (!flush_.isActive()) flush_.start();
}

void Teacher::learn(Control control) {
  Taught taught = *std::exchange(wanted_, std::nullopt);
  taught.by = control;
  const Session& s = document_.session();
  const Taught* other = taughtBy(s, control);
  const QString was =
      other && !isSame(*other, taught) ? QString(" instead of %1").arg(taughtWords(s, *other)) : QString();
  const bool full = s.taught.size() >= kMostTaught && !other;
  if (full) {
    document_.fail(
        QString("All %1 controller assignments are in use: remove one under Play, Controller assignments.")
            .arg(kMostTaught));
  } else {
    document_.edit(heft::teach(taught));
    pickups_.erase(controlName(control));
    const QString how = control.kind == Control::Kind::MouseWheel
                            ? "Ctrl+Shift and the mouse wheel now control %1%2."
                            : capital(controlName(control)) + " now controls %1%2.";
    document_.tell(how.arg(taughtWords(s, taught), was));
  }
  Q_EMIT changed();
}

void Teacher::flush() {
  for (const auto& [name, move] : std::exchange(moves_, {})) {
    const Taught* found = taughtBy(document_.session(), move.control);
    if (!found) continue;
    const Taught taught = *found;  // the edit may move the original
    move.control.kind == Control::Kind::PitchWheel ? bend(taught, move.place) : turn(taught, move.place);
  }
  still_.start();
}

void Teacher::turn(const Taught& taught, double place) {
  const Session& s = document_.session();
  const auto now = valueAt(s, taught.owner, taught.key);
  if (!now) return;
  Pickup& pickup = pickups_[controlName(taught.by)];
  const double stands = placeOf(*now, s.track.tempoBpm);
  if (!pickup.takes(place, stands)) return hint(taught, place, stands);
  if (const auto edit = turnTo(s, taught, place)) document_.edit(*edit);
  if (const auto after = valueAt(document_.session(), taught.owner, taught.key))
    pickup.put(placeOf(*after, s.track.tempoBpm));
}

// A wheel that springs back brings the value back as well.
void Teacher::bend(const Taught& taught, double wheel) {
  const Session& s = document_.session();
  const auto now = valueAt(s, taught.owner, taught.key);
  if (!now) return;
  const std::string name = controlName(taught.by);
  const bool resting = std::abs(wheel) < kAtRest;
  if (resting && !rest_.contains(name)) return;
  const double from = rest_.try_emplace(name, placeOf(*now, s.track.tempoBpm)).first->second;
  if (const auto edit = turnTo(s, taught, std::clamp(from + 0.5 * wheel, 0.0, 1.0))) document_.edit(*edit);
  if (resting) rest_.erase(name);
}

void Teacher::stepBy(const Taught& taught, int steps, bool fine) {
  const Session& s = document_.session();
  auto v = valueAt(s, taught.owner, taught.key);
  if (!v || !canBeTurned(*v)) return;
  if (const bool* on = std::get_if<bool>(&v->now); on && *on == (steps > 0)) return;
  double place = 0.0;
  if (const auto now = asNumber(*v, s.track.tempoBpm)) {
    v->now = fromNumber(*v, v->isWhole() ? *now + steps : stepped(*now, v->range.unit, steps, fine));
    place = placeOf(*v, s.track.tempoBpm);
  }
  if (const auto edit = turnTo(s, taught, place)) document_.edit(*edit);
  still_.start();
}

// Explains at the field why nothing moves yet.
void Teacher::hint(const Taught& taught, double control, double value) {
  for (auto* field : window_->findChildren<ValueField*>()) {
    if (!field->isVisible() || !field->spec().turned) continue;
    const auto of = field->spec().turned();
    if (!of || !isSame(*of, taught)) continue;
    const QString words = QString("%1 is at %2, the value at %3: move it to the value to take over")
                              .arg(capital(controlName(taught.by)), percent(control), percent(value));
    QToolTip::showText(field->mapToGlobal(QPoint(0, field->height())), tipText(words), field, {}, 2500);
    return;
  }
}

bool Teacher::wheelTurned(QWheelEvent* event) {
  const QPoint by = event->angleDelta();
  // With Shift held some systems scroll sideways.
  const int angle = by.y() != 0 ? by.y() : by.x();
  if (angle == 0) return false;
  if (wanted_) return learn(Control()), true;
  const Taught* taught = taughtBy(document_.session(), Control());
  if (!taught || (event->modifiers() & kWheelKeys) != kWheelKeys) return false;
  stepBy(Taught(*taught), angle > 0 ? 1 : -1, event->modifiers() & Qt::AltModifier);
  return true;
}

void Teacher::offer(ValueField* field, const QPoint& at) {
  const auto value = field->spec().turned ? field->spec().turned() : std::nullopt;
  if (!value) return;
  QMenu menu(field);
  menu.setObjectName("Value menu");
  connect(menu.addAction("MIDI learn\tF6"), &QAction::triggered, this, [this, field] { teach(field); });
  if (const Taught* by = teacherOf(document_.session(), value->owner, value->key))
    connect(menu.addAction("Remove " + QString::fromStdString(controlName(by->by))), &QAction::triggered, this,
            [this, control = by->by] { document_.edit(forget(control)); });
  if (canBeAutomated(document_.session(), value->owner, value->key))
    connect(menu.addAction("Automate\tShift+F6"), &QAction::triggered, this, [this, value] {
      Q_EMIT automationWanted({value->owner, value->key, value->name});
    });
  if (field->spec().reset)
    connect(menu.addAction("Reset\tDelete"), &QAction::triggered, field, [field] { field->spec().reset(); });
  menu.exec(at);
}

bool Teacher::eventFilter(QObject* object, QEvent* event) {
  auto* widget = qobject_cast<QWidget*>(object);
  if (!widget || (widget != window_ && !window_->isAncestorOf(widget))) return false;
  if (event->type() == QEvent::Wheel) return wheelTurned(static_cast<QWheelEvent*>(event));
  if (event->type() == QEvent::ContextMenu)
    if (auto* field = qobject_cast<ValueField*>(object); field && field->spec().turned) {
      offer(field, static_cast<QContextMenuEvent*>(event)->globalPos());
      return true;
    }
  if (wanted_ && event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) {
    leave();
    return true;
  }
  return false;
}

}  // namespace heft::app
