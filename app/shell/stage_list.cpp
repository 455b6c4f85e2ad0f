#include "app/shell/stage_list.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"

namespace heft::app {

StageList::StageList(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  setObjectName("Stage list");
  setProperty(kAccessibleRole, QAccessible::PageTabList);
  setAccessibleName("Stages");
  setToolTip("The stages in working order (Ctrl+1 to Ctrl+6)");
  setFixedWidth(116);
  setFocusPolicy(Qt::StrongFocus);
  connect(&document_, &Document::studied, this, qOverload<>(&QWidget::update));
}

void StageList::setCurrent(Stage stage) {
  current_ = static_cast<int>(stage);
  update();
}

void StageList::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  p.fillRect(rect(), t.page);
  p.setPen(t.rule);
  p.drawLine(QPointF(width() - 0.5, 0), QPointF(width() - 0.5, height()));
  for (int i = 0; i < 6; ++i) {
    const QRectF row = rowOf(i);
    if (i == current_) {
      p.fillRect(row, t.panel);
      p.setPen(t.rule);
      p.drawLine(row.topLeft() + QPointF(0, 0.5), row.topRight() + QPointF(0, 0.5));
      p.drawLine(row.bottomLeft() + QPointF(0, -0.5), row.bottomRight() + QPointF(0, -0.5));
      if (hasFocus()) p.fillRect(QRectF(row.left(), row.top(), 3, row.height()), t.bass);
    }
    p.setFont(bodyFont(i == current_));
    p.setPen(i == current_ ? t.ink : t.muted);
    p.drawText(row.adjusted(16, 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter, stageName(static_cast<Stage>(i)));
    if (const auto verdict = stageVerdict(document_.findings(), static_cast<Stage>(i)))
      drawVerdict(p, QPointF(width() - 20, row.center().y()), *verdict);
  }
}

void StageList::mousePressEvent(QMouseEvent* event) {
  for (int i = 0; i < 6; ++i)
    if (rowOf(i).contains(event->position())) Q_EMIT chosen(static_cast<Stage>(i));
}

void StageList::keyPressEvent(QKeyEvent* event) {
  const int way = event->key() == Qt::Key_Down ? 1 : event->key() == Qt::Key_Up ? -1 : 0;
  if (way == 0) return QWidget::keyPressEvent(event);
  Q_EMIT chosen(static_cast<Stage>(std::clamp(current_ + way, 0, 5)));
}

}  // namespace heft::app
