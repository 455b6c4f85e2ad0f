#include "app/widgets/value_field.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <utility>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "app/widgets/flow_layout.h"

namespace heft::app {
namespace {

constexpr int kPixelsPerStep = 4;

}  // namespace

ValueField::ValueField(FieldSpec spec, QWidget* parent) : QWidget(parent), spec_(std::move(spec)) {
  // Before its name, because screen readers read it at once.
  setProperty(kAccessibleRole, spec_.choose ? QAccessible::ComboBox
                               : editable() ? QAccessible::SpinBox
                                            : QAccessible::StaticText);
  setAccessibleName(spec_.name);
  setObjectName(spec_.name);
  setToolTip(spec_.tip);
  setProperty(FlowLayout::kGroup, spec_.group);
  setFocusPolicy(editable() || spec_.step ? Qt::StrongFocus : Qt::NoFocus);
  if (editable()) setCursor(spec_.step ? Qt::SizeVerCursor : Qt::PointingHandCursor);
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
  refresh();
}

QSize ValueField::sizeHint() const {
  const QFontMetrics body(bodyFont(true)), axis(axisFont());
  const int width = std::max(body.horizontalAdvance(shown_), axis.horizontalAdvance(spec_.caption)) + 6;
  return {spec_.width > 0 ? spec_.width : std::max(width, editor_ ? 110 : 0), captionHeight() + 22};
}

void ValueField::refresh() {
  const QString text = spec_.text ? spec_.text() : QString();
  if (const QString by = spec_.turnedBy ? spec_.turnedBy() : QString(); by != turnedBy_) {
    turnedBy_ = by;
    setToolTip(by.isEmpty() ? spec_.tip : spec_.tip + ". Controlled by " + by);
    update();
  }
  if (text == shown_) return;
  shown_ = text;
  if (editor_ && !editor_->isModified()) editor_->setText(shown_), editor_->selectAll();
  setAccessibleDescription(text);
  updateGeometry();
  update();
}

void ValueField::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  p.setFont(axisFont());
  p.setPen(t.muted);
  if (captionHeight())
    p.drawText(QRect(1, 0, width(), captionHeight()), Qt::AlignLeft | Qt::AlignVCenter, spec_.caption);
  if (editor_) return;
  p.setFont(bodyFont(captionHeight() > 0));
  p.setPen(t.ink);
  const QRect box(1, captionHeight(), width() - 2, 20);
  const QString fits = p.fontMetrics().elidedText(shown_, Qt::ElideRight, box.width());
  p.drawText(box, Qt::AlignLeft | Qt::AlignVCenter, fits);
  if (!editable() && !spec_.step) return;
  const int under = p.fontMetrics().horizontalAdvance(fits);
  const bool strong = hasFocus() || underMouse();
  const bool taught = !turnedBy_.isEmpty();
  QPen pen(strong || taught ? t.bass : t.ink, hasFocus() ? 2.0 : 1.0,
           hasFocus() || taught ? Qt::SolidLine : Qt::DotLine);
  p.setPen(pen);
  p.drawLine(QPointF(1, box.bottom() + 0.5), QPointF(1 + under, box.bottom() + 0.5));
}

void ValueField::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  pressY_ = event->position().toPoint().y();
  stepped_ = 0;
  dragged_ = false;
}

void ValueField::mouseMoveEvent(QMouseEvent* event) {
  if (!pressY_ || !spec_.step) return;
  const int steps = (*pressY_ - event->position().toPoint().y()) / kPixelsPerStep;
  if (steps == stepped_) return;
  dragged_ = true;
  spec_.step(steps - stepped_, event->modifiers() & Qt::ShiftModifier);
  stepped_ = steps;
}

void ValueField::mouseReleaseEvent(QMouseEvent*) {
  if (!pressY_) return;
  pressY_.reset();
  if (dragged_) {
    if (spec_.endDrag) spec_.endDrag();
    return;
  }
  if (spec_.choose)
    openChoices();
  else
    open();
}

// The wheel acts only on a field in focus, so that scrolling past never changes a value.
void ValueField::wheelEvent(QWheelEvent* event) {
  if (!hasFocus() || !spec_.step || event->angleDelta().y() == 0) return event->ignore();
  spec_.step(event->angleDelta().y() > 0 ? 1 : -1, event->modifiers() & Qt::ShiftModifier);
  event->accept();
}

void ValueField::keyPressEvent(QKeyEvent* event) {
  const bool fine = event->modifiers() & Qt::ShiftModifier;
  const int key = event->key();
  if (spec_.step && (key == Qt::Key_Up || key == Qt::Key_Down))
    spec_.step(key == Qt::Key_Up ? 1 : -1, fine);
  else if (spec_.reset && (key == Qt::Key_Delete || key == Qt::Key_Backspace))
    spec_.reset();
  else if (spec_.choose &&
           (key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Down || key == Qt::Key_Space))
    openChoices();
  else if (spec_.commit && (key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_F2))
    open();
  else
    return QWidget::keyPressEvent(event);
  event->accept();
}

void ValueField::open() {
  if (!spec_.commit || editor_) return;
  editor_ = new QLineEdit(shown_, this);
  editor_->setObjectName(spec_.name + " editor");
  // As wide as the value that it replaces, so that all of it is visible.
  constexpr int kOwnMargin = 2;
  editor_->setProperty("inField", true);
  editor_->setTextMargins(-kOwnMargin, 0, -kOwnMargin, 0);
  editor_->setAccessibleName(spec_.name);
  updateGeometry();
  resize(sizeHint());
  editor_->setGeometry(0, captionHeight(), width(), 22);
  editor_->selectAll();
  editor_->installEventFilter(this);
  editor_->show();
  editor_->setFocus();
}

// Return applies and closes; Tab applies and moves on; Escape leaves the value. Focus elsewhere closes it
// too, and applies valid input.
bool ValueField::eventFilter(QObject* object, QEvent* event) {
  if (object != editor_) return QWidget::eventFilter(object, event);
  if (event->type() == QEvent::FocusOut) {
    const auto reason = static_cast<QFocusEvent*>(event)->reason();
    if (reason != Qt::PopupFocusReason && reason != Qt::ActiveWindowFocusReason) closeEditor(Typed::Taken);
    return false;
  }
  if (event->type() != QEvent::KeyPress) return QWidget::eventFilter(object, event);
  switch (static_cast<QKeyEvent*>(event)->key()) {
    case Qt::Key_Return:
    case Qt::Key_Enter:
      closeEditor(Typed::Taken);
      return true;
    case Qt::Key_Escape:
      closeEditor(Typed::Left);
      return true;
    case Qt::Key_Tab:
    case Qt::Key_Backtab:
      closeEditor(Typed::Taken);
      focusNextPrevChild(static_cast<QKeyEvent*>(event)->key() == Qt::Key_Tab);
      return true;
    default:
      return QWidget::eventFilter(object, event);
  }
}

void ValueField::closeEditor(Typed typed) {
  if (!editor_) return;
  QLineEdit* editor = std::exchange(editor_, nullptr);
  const QString text = editor->text();
  const bool had = editor->hasFocus();
  editor->removeEventFilter(this);
  if (had) setFocus();
  editor->hide();
  editor->deleteLater();
  if (typed == Typed::Taken && text != shown_)
    if (const auto fault = spec_.commit(text))
      QToolTip::showText(mapToGlobal(QPoint(0, height())), tipText(*fault), this, {}, 6000);
  refresh();
  updateGeometry();
  update();
}

void ValueField::openChoices() {
  const QStringList choices = spec_.choices();
  QMenu menu(this);
  menu.setObjectName(spec_.name + " menu");
  for (int i = 0; i < choices.size(); ++i) {
    QAction* action = menu.addAction(choices[i]);
    action->setData(i);
    if (choices[i] == shown_) menu.setActiveAction(action);
  }
  QAction* type = nullptr;
  if (spec_.commit) menu.addSeparator(), type = menu.addAction("Type a value... (F2)");
  QAction* chosen = menu.exec(mapToGlobal(QPoint(0, height())));
  if (chosen && chosen == type) return open();
  if (chosen) spec_.choose(chosen->data().toInt());
  refresh();
}

}  // namespace heft::app
