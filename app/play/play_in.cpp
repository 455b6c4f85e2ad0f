#include "app/play/play_in.h"

#include <QApplication>
#include <QFileInfo>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPainter>
#include <QPointer>
#include <QSettings>
#include <QtConcurrent>
#include <algorithm>
#include <chrono>
#include <cmath>

#include "app/document/aside.h"
#include "app/play/teacher.h"
#include "app/theme/theme.h"
#include "core/render/sounds/sounds.h"
#include "core/session/edits/patterns.h"
#include "core/session/edits/taught.h"
#include "core/session/pattern_range.h"
#include "core/sound/resample.h"
#include "engine/devices/key_events.h"

namespace heft::app {
namespace {

constexpr int kRowKeys[] = {Qt::Key_A, Qt::Key_S, Qt::Key_D, Qt::Key_F, Qt::Key_G,
                            Qt::Key_H, Qt::Key_J, Qt::Key_K, Qt::Key_L};
constexpr const char* kPortSetting = "midi/port";
constexpr double kKeyVelocity = 0.8, kLiveSeconds = 2.0;

}  // namespace

PlayIn::PlayIn(Document& document, Transport& transport, QObject* parent)
    : QObject(parent), document_(document), transport_(transport) {
  connect(&document_, &Document::replaced, this, [this] { take_.reset(), Q_EMIT changed(); });
  connect(&transport_, &Transport::stateChanged, this, [this] {
    if (transport_.isPlaying()) starting_ = false;
    // Stopping ends a take; but a take that is about to start stops the loop itself first.
    if (take_ && !starting_ && !transport_.isPlaying()) endTake();
  });
  connect(&transport_, &Transport::moved, this, [this] {
    turned_ = turned_ || now() < last_;
    last_ = now();
    begin();
  });
}

PlayIn::~PlayIn() {
  // Silences it before anything else is destroyed.
  input_.reset();
  if (on_) qApp->removeEventFilter(this);
}

const Part& PlayIn::part() const {
  const Part* chosen = document_.session().part(part_);
  return chosen ? *chosen : document_.session().bass();
}

void PlayIn::choosePart(int id) {
  if (take_) endTake();
  part_ = id;
  if (on_) prepareNotes();
  Q_EMIT changed();
}

void PlayIn::setOn(bool on) {
  if (on == on_) return;
  on_ = on;
  on ? qApp->installEventFilter(this) : qApp->removeEventFilter(this);
  if (on) prepareNotes();
  if (!on && held_ >= 0) hear({KeyEvent::Kind::Release, std::exchange(held_, -1), 0.0});
  Q_EMIT changed();
}

void PlayIn::startTake() {
  if (take_) return;
  const Session& s = document_.session();
  take_ = std::make_unique<Take>(TakeSettings{s.grid, strength_, s.track.loopQuarters()});
  const double bar = s.track.beatsPerBar * 4.0 / s.track.beatUnit;
  prepareNotes();
  transport_.monitor().letClickGoOn(true);
  begun_ = turned_ = false;
  if (!transport_.isPlaying()) {
    transport_.play(bar);
  } else {
    // Once the old sound has faded.
    starting_ = true;
    transport_.stop();
    QTimer::singleShot(200, this, [this, bar] {
      if (take_ && !transport_.isPlaying()) transport_.play(bar);
      starting_ = false;
    });
  }
  Q_EMIT changed();
}

void PlayIn::endTake() {
  if (!take_) return;
  take(take_->end(std::max(0.0, now())));
  const auto wheel = take_->wheel();
  take_.reset();
  transport_.monitor().letClickGoOn(false);
  if (!wheel.empty() && part().playsNotes()) document_.edit(insertWheel(part(), wheel));
  document_.endDrag();
  Q_EMIT changed();
}

// Events come on the keyboard's thread and are processed on this one, with their delay.
KeyListener PlayIn::listener() {
  return [self = QPointer<PlayIn>(this)](const KeyEvent& event) {
    using Clock = std::chrono::steady_clock;
    if (self)
      QMetaObject::invokeMethod(
          self.data(),
          [self, event, at = Clock::now()] {
            if (self) self->hear(event, std::chrono::duration<double>(Clock::now() - at).count());
          },
          Qt::QueuedConnection);
  };
}

void PlayIn::adopt(Result<std::unique_ptr<MidiInput>> opened, const QString& name, bool isFile) {
  if (opened)
    input_ = std::move(*opened), port_ = name, isFile_ = isFile;
  else
    document_.fail(QString::fromStdString(opened.error().sentence()));
  Q_EMIT changed();
}

void PlayIn::choosePort(const QString& port) {
  input_.reset();
  port_.clear(), isFile_ = false;
  QSettings().setValue(kPortSetting, port);
  if (port.isEmpty()) return Q_EMIT changed();
  adopt(openMidiPort(port.toStdString(), listener()), port, false);
}

void PlayIn::reopenPort() {
  const QString last = QSettings().value(kPortSetting).toString();
  if (last.isEmpty() || input_) return;
  runAside(
      this, [] { return midiPorts(); },
      [this, last](const std::vector<std::string>& ports) {
        if (!input_ && std::find(ports.begin(), ports.end(), last.toStdString()) != ports.end())
          choosePort(last);
      },
      document_.failing());
}

void PlayIn::beginFile() {
  if (input_ && isFile_ && !take_) input_->begin(0.0);
}

// Releases its held notes; controller assignments stay.
void PlayIn::keyboardGone() {
  if (!input_) return;
  const QString name = isFile_ ? QFileInfo(port_).fileName() : port_;
  input_.reset();
  port_.clear(), isFile_ = false;
  if (std::exchange(sounding_, -1) >= 0) transport_.releaseLive();
  if (take_) take(take_->end(std::max(0.0, now())));
  const auto taught = document_.session().taught.size();
  document_.fail(name + " was disconnected" + (taught ? QString("; its assignments stay") : QString()) +
                 ". Plug it in and choose it under Play, MIDI keyboard.");
  Q_EMIT changed();
}

void PlayIn::chooseFile(const QString& path) {
  input_.reset();
  port_.clear(), isFile_ = false;
  adopt(openKeyEvents(path.toStdString(), listener()), path, true);
}

// As soon as a take's count-in runs, or later where this thread came late: a file's first moment is where the
// take begins.
void PlayIn::begin() {
  if (!take_ || begun_ || starting_ || !transport_.hasStarted()) return;
  begun_ = true, turned_ = false, last_ = now(), from_ = transport_.start();
  if (input_) input_->begin((from_ - now()) * 60.0 / document_.track().tempoBpm);
}

// Two octaves of notes around the line, rendered aside in advance.
void PlayIn::prepareNotes() {
  const Session s = document_.session();
  const int first = lowTonic(s.track.key) + 12 * octave_ - 5;
  static_cast<void>(
      QtConcurrent::run([s, first, of = part(), assets = document_.assets(), cache = document_.cache()] {
        const SoundSteps steps(assets, *cache, s.track.sampleRate);
        if (!of.playsNotes()) return static_cast<void>(steps.kickHit(of, s.track, {kKeyVelocity}));
        for (int midi = std::max(0, first); midi < std::min(128, first + 29); ++midi)
          static_cast<void>(steps.bassNote(of, s.track, midi, kLiveSeconds));
      }));
}

// The note as rendered, at the device's rate; plays over the loop. Made aside: instantly if cached, and
// otherwise without blocking the window.
void PlayIn::sound(int midi, double velocity) {
  sounding_ = midi;
  if (!transport_.isPlaying()) return;
  struct Live {
    std::shared_ptr<const AudioBuffer> sound;
    double gain = 1.0;
  };
  auto make = [s = document_.session(), midi, velocity, of = part(), assets = document_.assets(),
               cache = document_.cache(), rate = transport_.deviceRate()]() -> Live {
    const SoundSteps steps(assets, *cache, s.track.sampleRate);
    Live out{nullptr, velocity};
    if (of.playsNotes()) {
      out.sound = steps.bassNote(of, s.track, midi, kLiveSeconds).sound;
    } else if (const HitSound hit = steps.kickHit(of, s.track, {velocity}); hit.ready) {
      out = {std::shared_ptr<const AudioBuffer>(hit.ready, &hit.ready->sound), hit.gain};
    }
    if (!out.sound || out.sound->frames() == 0 || rate == s.track.sampleRate) return out;
    auto converted = resampled(*out.sound, rate);
    out.sound = converted ? std::make_shared<const AudioBuffer>(std::move(*converted)) : nullptr;
    return out;
  };
  runAside(
      this, make,
      [this, midi](Live heard) {
        // Released by now, or another key pressed: it would come too late. A hit rings on.
        const bool wanted = sounding_ == midi || !part().playsNotes();
        if (heard.sound && wanted && heard.sound->frames() > 0)
          transport_.playLive(std::move(heard.sound), heard.gain);
      },
      document_.failing());
}

void PlayIn::take(const std::optional<Note>& note) {
  if (!note) return;
  // All notes of a take are one undo step.
  document_.edit(part().playsNotes() ? insertNote(part(), *note, "take")
                                     : insertHit(part(), {note->startQuarters, note->velocity}, "take"));
}

void PlayIn::hear(const KeyEvent& event, double secondsAgo) {
  using Kind = KeyEvent::Kind;
  if (event.kind == Kind::Gone) return keyboardGone();
  if (event.kind == Kind::Controller || event.kind == Kind::Wheel) {
    const bool wheel = event.kind == Kind::Wheel;
    const Control control{wheel ? Control::Kind::PitchWheel : Control::Kind::Controller, event.channel,
                          event.midi};
    Q_EMIT turned(control, event.value);
    // A pitch wheel assigned to a value does not bend notes.
    if (!wheel || taughtBy(document_.session(), control)) return;
  }
  begin();
  double at = now() - std::clamp(secondsAgo, 0.0, 1.0) * document_.track().tempoBpm / 60.0;
  // Reported just before the loop wrapped.
  if (now() >= 0.0 && at < 0.0 && turned_) at += document_.track().loopQuarters();
  const bool counting = isCountIn(at + 0.1);  // a press just before the start counts for it
  at = std::max(turned_ ? 0.0 : from_, at);
  if (event.kind == KeyEvent::Kind::Press) {
    sound(event.midi, event.value);
    if (take_ && !counting) take(take_->press(event.midi, event.value, at));
  } else if (event.kind == KeyEvent::Kind::Release) {
    if (sounding_ == event.midi) {
      sounding_ = -1;
      if (part().playsNotes()) transport_.releaseLive();
    }
    if (take_ && !counting) take(take_->release(event.midi, at));
  } else if (take_ && !counting) {
    take_->bend(event.value, at);
  }
}

std::optional<int> PlayIn::noteOfKey(int key) const {
  const auto found = std::find(std::begin(kRowKeys), std::end(kRowKeys), key);
  if (found == std::end(kRowKeys)) return std::nullopt;
  const Key& scale = document_.track().key;
  int midi = lowTonic(scale) + 12 * octave_;
  for (auto step = found - std::begin(kRowKeys); step > 0; --step) do
      ++midi;
    while (!scale.contains(midi));
  return midi >= 0 && midi <= 127 ? std::optional<int>(midi) : std::nullopt;
}

bool PlayIn::eventFilter(QObject* object, QEvent* event) {
  if (!on_ || (event->type() != QEvent::KeyPress && event->type() != QEvent::KeyRelease)) return false;
  auto* key = static_cast<QKeyEvent*>(event);
  // Typing in fields still works; shortcuts keep their meaning.
  if (qobject_cast<QLineEdit*>(QApplication::focusWidget()) ||
      (key->modifiers() & (Qt::ControlModifier | Qt::AltModifier)) || !object->isWidgetType())
    return false;
  const bool press = event->type() == QEvent::KeyPress;
  if (press && key->key() == Qt::Key_Escape) return setOn(false), true;
  if (press && (key->key() == Qt::Key_PageUp || key->key() == Qt::Key_PageDown)) {
    octave_ = std::clamp(octave_ + (key->key() == Qt::Key_PageUp ? 1 : -1), -2, 4);
    Q_EMIT changed();
    return true;
  }
  const auto midi = noteOfKey(key->key());
  if (!midi) return false;
  if (key->isAutoRepeat()) return true;
  if (press)
    held_ = *midi, hear({KeyEvent::Kind::Press, *midi, kKeyVelocity});
  else if (held_ == *midi)
    held_ = -1, hear({KeyEvent::Kind::Release, *midi, 0.0});
  return true;
}

QString PlayIn::words() const {
  QStringList out;
  if (take_)
    out << (isCountIn(now()) ? QString("Count-in")
                             : QString("Recording %1").arg(QString::fromStdString(partWord(part())))) +
               (strength_ == 0.0   ? QString(", as it comes")
                : strength_ == 1.0 ? QString(", to the grid")
                                   : QString(", %1 % to the grid").arg(std::lround(100.0 * strength_)));
  if (on_) {
    const auto style = document_.track().notes;
    const auto first = noteOfKey(Qt::Key_A), last = noteOfKey(Qt::Key_L);
    if (!part().playsNotes())
      out << QString("The keys A to L hit %1; Esc leaves").arg(QString::fromStdString(partWord(part())));
    else
      out << QString("The keys A to L play %1 to %2 in %3; Page up and down move the octave; Esc leaves")
                 .arg(QString::fromStdString(first ? noteName(*first, style) : "?"),
                      QString::fromStdString(last ? noteName(*last, style) : "?"),
                      QString::fromStdString(document_.track().key.name()));
  }
  if (on_ && !transport_.isPlaying()) out << "Space plays the loop under it";
  return out.join(". ");
}

PlayInBar::PlayInBar(PlayIn& playIn, Teacher& teacher, QWidget* parent)
    : QWidget(parent), playIn_(playIn), teacher_(teacher) {
  setObjectName("Play-in bar");
  setAccessibleName("Play-in");
  setFixedHeight(26);
  auto show = [this] {
    setVisible(playIn_.isOn() || playIn_.isTaking() || teacher_.isTeaching());
    setAccessibleDescription(words());
    update();
  };
  connect(&playIn_, &PlayIn::changed, this, show);
  connect(&teacher_, &Teacher::changed, this, show);
  show();
}

void PlayInBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  p.fillRect(rect(), playIn_.isTaking() ? t.kick : t.bass);
  p.setFont(bodyFont(true));
  p.setPen(t.panel);
  p.drawText(rect().adjusted(16, 0, -16, 0), Qt::AlignLeft | Qt::AlignVCenter,
             p.fontMetrics().elidedText(words(), Qt::ElideRight, width() - 32));
}

QString PlayInBar::words() const {
  return teacher_.isTeaching() ? teacher_.words() : playIn_.words();
}

}  // namespace heft::app
