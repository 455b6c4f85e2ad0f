#pragma once
/// MIDI learn for values, also by wheel: one press on a field, one move, and the controller sets the value
/// from then on.

#include <QPointer>
#include <QTimer>
#include <QWidget>
#include <map>

#include "app/play/play_in.h"
#include "app/widgets/value_field.h"
#include "core/session/edits/automation.h"
#include "core/session/edits/taught.h"

namespace heft::app {

/// The assigned value in words: "Kick, 808 Thick, Drive: Amount".
QString taughtWords(const Session& session, const Taught& taught);

class Teacher : public QObject {
  Q_OBJECT
 public:
  /// Fields are those in `window`.
  Teacher(Document& document, PlayIn& playIn, QWidget* window);
  ~Teacher() override;

  /// Waits for the control to assign to the field's value; a second press or Escape cancels. Explains why a
  /// field cannot be controlled.
  void teach(const ValueField* field);
  void teachFocused();
  /// Asks for the focused field's automation to be drawn.
  void automateFocused();
  void leave();
  bool isTeaching() const { return wanted_.has_value(); }
  /// Text of the bar during MIDI learn; empty otherwise.
  QString words() const;

 Q_SIGNALS:
  void changed();
  void automationWanted(const heft::AutomationOf& of);

 protected:
  bool eventFilter(QObject* object, QEvent* event) override;

 private:
  /// A controller moved, to a position from 0 to 1, or a pitch wheel, from -1 to 1.
  void turned(const Control& control, double place);
  void learn(Control control);
  void flush();
  void turn(const Taught& taught, double place);
  void bend(const Taught& taught, double wheel);
  void stepBy(const Taught& taught, int steps, bool fine);
  bool wheelTurned(QWheelEvent* event);
  void offer(ValueField* field, const QPoint& at);
  void hint(const Taught& taught, double control, double value);
  Document& document_;
  PlayIn& playIn_;
  QWidget* window_;
  std::optional<Taught> wanted_;
  struct Move {
    Control control;
    double place = 0.0;
  };
  std::map<std::string, Move> moves_;  ///< since the last flush, by the control's name
  std::map<std::string, Pickup> pickups_;
  std::map<std::string, double> rest_;  ///< value at which its pitch wheel left the middle
  QTimer flush_, still_;                ///< both run once and only after a move
};

/// The list of all assignments, to review and remove. Not modal.
void showTaught(Document& document, QWidget* window);

}  // namespace heft::app
