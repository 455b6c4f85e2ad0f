#include "app/widgets/value_field.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

#include "app/theme/theme.h"
#include "app/widgets/flow_layout.h"

namespace heft::app {
namespace {

constexpr int kPixelsPerStep = 4;

}  // namespace

ValueField::ValueField(FieldSpec spec, QWidget* parent) : QWidget(parent), spec_(std::move(spec)) {
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
  return {std::max(width, editor_ ? 110 : 0), captionHeight() + 22};
}

void ValueField::refresh() {
  const QString text = spec_.text ? spec_.text() : QString();
  if (text == shown_) return;
  shown_ = text;
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
  p.drawText(box, Qt::AlignLeft | Qt::AlignVCenter, shown_);
  if (!editable() && !spec_.step) return;
  const int under = p.fontMetrics().horizontalAdvance(shown_);
  const bool strong = hasFocus() || underMouse();
  QPen pen(strong ? t.bass : t.ink, hasFocus() ? 2.0 : 1.0, hasFocus() ? Qt::SolidLine : Qt::DotLine);
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
  else if (spec_.choose && (key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Down))
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
  editor_->setAccessibleName(spec_.name);
  updateGeometry();
  resize(sizeHint());
  editor_->setGeometry(0, captionHeight(), width(), 22);
  editor_->selectAll();
  editor_->installEventFilter(this);
  editor_->show();
  editor_->setFocus();
  connect(editor_, &QLineEdit::editingFinished, this, &ValueField::commitText);
}

// Escape leaves the value as it was.
bool ValueField::eventFilter(QObject* object, QEvent* event) {
  if (object != editor_ || event->type() != QEvent::KeyPress ||
      static_cast<QKeyEvent*>(event)->key() != Qt::Key_Escape)
    return QWidget::eventFilter(object, event);
  editor_->setText(shown_);
  commitText();
  return true;
}

void ValueField::commitText() {
  if (!editor_) return;
  QLineEdit* editor = editor_;
  editor_ = nullptr;
  const QString text = editor->text();
  editor->disconnect(this);
  editor->hide();
  editor->deleteLater();
  setFocus();
  if (text != shown_)
    if (const auto fault = spec_.commit(text))
      QToolTip::showText(mapToGlobal(QPoint(0, height())), *fault, this, {}, 6000);
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
  if (QAction* chosen = menu.exec(mapToGlobal(QPoint(0, height())))) spec_.choose(chosen->data().toInt());
  refresh();
}

}  // namespace heft::app
