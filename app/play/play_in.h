#pragma once
/// Plays a part live, the bass's line by default: from a MIDI keyboard or pads, or from the computer's keys
/// in a clearly shown mode. Notes sound at once; while recording they become notes and a wheel curve, or
/// hits.

#include <QWidget>
#include <map>
#include <memory>

#include "app/document/document.h"
#include "app/play/transport.h"
#include "core/session/take.h"
#include "engine/devices/midi_input.h"

namespace heft::app {

class PlayIn : public QObject {
  Q_OBJECT
 public:
  PlayIn(Document& document, Transport& transport, QObject* parent = nullptr);
  ~PlayIn() override;

  bool isOn() const { return on_; }
  bool isTaking() const { return take_ != nullptr; }
  /// Input quantise, 0 to 1.
  double strength() const { return strength_; }
  void setStrength(double strength) { strength_ = strength, Q_EMIT changed(); }
  /// The played part by its id; the bass where that is gone.
  const Part& part() const;
  void choosePart(int id);
  /// The mode in which the computer's keys play notes.
  void setOn(bool on);
  /// Counts in one bar and records, pass after pass, until stopped.
  void startTake();
  void endTake();
  /// A port's name; empty: none.
  void choosePort(const QString& port);
  QString port() const { return port_; }
  /// A file of events in place of a keyboard: played once with each take, from where it begins.
  void chooseFile(const QString& path);
  bool isFile() const { return isFile_; }
  /// Plays the file of events now, where there is one.
  void beginFile();
  /// Listens to the last chosen keyboard, from an earlier run too, if it is present.
  void reopenPort();

  /// A keyboard's event, and its age; also for tests, which have no keyboard.
  void hear(const KeyEvent& event, double secondsAgo = 0.0);
  /// The note of one of the computer's keys: the middle row plays the key's scale; nothing for other keys.
  std::optional<int> noteOfKey(int key) const;
  /// Text of the bar: the keys' notes, whether it records.
  QString words() const;

 Q_SIGNALS:
  void changed();
  /// A controller, to a place from 0 to 1, or the pitch wheel, from -1 to 1.
  void turned(const heft::Control& control, double place);

 protected:
  bool eventFilter(QObject* object, QEvent* event) override;

 private:
  double now() const { return transport_.positionQuarters(); }
  KeyListener listener();
  void begin();
  /// Whether a place is in the take's count-in.
  bool isCountIn(double quarters) const { return !begun_ || (!turned_ && quarters < from_); }
  void adopt(Result<std::unique_ptr<MidiInput>> opened, const QString& name, bool isFile);
  void sound(int midi, double velocity);
  void keyboardGone();
  void prepareNotes();
  void take(const std::optional<Note>& note);
  Document& document_;
  Transport& transport_;
  std::unique_ptr<Take> take_;
  std::unique_ptr<MidiInput> input_;
  QString port_;
  int part_ = 0;
  bool on_ = false, starting_ = false, isFile_ = false;
  double strength_ = 1.0;
  int sounding_ = -1;                    ///< the key whose note is requested; it may still be rendering
  bool begun_ = false, turned_ = false;  ///< of a take: its file of events, the loop
  double last_ = 0.0;                    ///< playhead when it last moved
  double from_ = 0.0;                    ///< where the take begins, in quarters; its count-in is before
  int octave_ = 0;
  int held_ = -1;
};

/// The banner that keys play notes, or that MIDI learn waits: a band over the loop strip.
class Teacher;

class PlayInBar : public QWidget {
  Q_OBJECT
 public:
  PlayInBar(PlayIn& playIn, Teacher& teacher, QWidget* parent = nullptr);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  QString words() const;
  PlayIn& playIn_;
  Teacher& teacher_;
};

}  // namespace heft::app
