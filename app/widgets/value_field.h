#pragma once
/// A value that can be typed into, dragged up and down, scrolled, stepped with arrows and reset with Delete.

#include <QWidget>
#include <functional>
#include <optional>

#include "core/session/edits/edit.h"
#include "core/session/taught.h"

class QLineEdit;

namespace heft::app {

/// A field's contents and actions. Empty ones are not offered.
struct FieldSpec {
  QString caption;  ///< above the value
  QString name;     ///< accessible name, unique in the window
  QString tip;      ///< what it does, its unit, and its range
  std::function<QString()> text;
  /// Takes typed text; returns a sentence if it is invalid.
  std::function<std::optional<QString>(const QString&)> commit;
  /// Steps up (positive) or down; `fine` with Shift. A drag ends with endDrag.
  std::function<void(int steps, bool fine)> step;
  std::function<void()> endDrag;
  std::function<void()> reset;
  /// A short list to choose from, opened by a click; with commit it can be typed as well.
  std::function<QStringList()> choices;
  std::function<void(int)> choose;
  int width = 0;  ///< reserved width in px, so that nothing beside it moves; 0: as wide as its text
  int group = 0;  ///< neighbours of one group stay in one row; 0: none
  /// The loop with this value bypassed; computed on demand.
  std::function<Edit()> without;
  /// The value for controllers and wheels, where it can be assigned.
  std::function<std::optional<Taught>()> turned;
  /// The assigned control, "controller 21 channel 1"; empty without one.
  std::function<QString()> turnedBy;
};

/// A FieldSpec's commit: parses words and puts the result, or reports why they are invalid. `parse`: words to
/// a Result of `put`'s argument.
template <class Parse, class Put>
std::function<std::optional<QString>(const QString&)> typedAs(Parse parse, Put put) {
  return [parse, put](const QString& text) -> std::optional<QString> {
    const auto meant = parse(text.trimmed());
    if (!meant) return QString::fromStdString(meant.error().reason);
    put(*meant);
    return std::nullopt;
  };
}

class ValueField : public QWidget {
  Q_OBJECT
 public:
  explicit ValueField(FieldSpec spec, QWidget* parent = nullptr);
  QSize sizeHint() const override;
  QSize minimumSizeHint() const override { return sizeHint(); }
  /// Reads its text again; an editor that is open and untouched shows it too.
  void refresh();
  QString shownText() const { return shown_; }
  const FieldSpec& spec() const { return spec_; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  bool eventFilter(QObject*, QEvent*) override;
  void enterEvent(QEnterEvent*) override { update(); }
  void leaveEvent(QEvent*) override { update(); }
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }

 private:
  void open();
  void openChoices();
  /// Applies the typed text if it is valid, reports the valid range if not, and closes.
  enum class Typed { Taken, Left };
  void closeEditor(Typed typed);
  bool editable() const { return spec_.commit || spec_.choose; }
  int captionHeight() const { return spec_.caption.isEmpty() ? 0 : 16; }

  FieldSpec spec_;
  QString shown_, turnedBy_;
  QLineEdit* editor_ = nullptr;
  std::optional<int> pressY_;
  int stepped_ = 0;
  bool dragged_ = false;
};

}  // namespace heft::app
