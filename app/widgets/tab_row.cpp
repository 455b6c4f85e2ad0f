#include "app/widgets/tab_row.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include "app/theme/theme.h"

namespace heft::app {
namespace {

constexpr int kBetween = 18;

}  // namespace

TabRow::TabRow(const QString& name, const QStringList& tabs, QWidget* parent) : QWidget(parent), tabs_(tabs) {
  setObjectName(name);
  setAccessibleName(name);
  setAccessibleDescription(tabs.join(", "));
  setFocusPolicy(Qt::TabFocus);
  setMouseTracking(true);
  setFixedHeight(26);
}

QRect TabRow::tab(int index) const {
  int x = 0;
  for (int i = 0; i < index; ++i) x += QFontMetrics(bodyFont(true)).horizontalAdvance(tabs_[i]) + kBetween;
  return {x, 0, QFontMetrics(bodyFont(true)).horizontalAdvance(tabs_[index]), height()};
}

int TabRow::at(const QPointF& where) const {
  for (int i = 0; i < tabs_.size(); ++i)
    if (tab(i).adjusted(-kBetween / 2, 0, kBetween / 2, 0).contains(where.toPoint())) return i;
  return -1;
}

void TabRow::choose(int tab) {
  if (tab < 0 || tab >= tabs_.size() || tab == chosen_) return;
  chosen_ = tab;
  update();
  Q_EMIT chosenChanged(tab);
}

void TabRow::setAside(const QString& words) {
  aside_ = words;
  update();
}

void TabRow::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  for (int i = 0; i < tabs_.size(); ++i) {
    const QRect box = tab(i);
    const bool now = i == chosen_;
    p.setFont(bodyFont(now));
    p.setPen(now || i == under_ ? t.ink : t.muted);
    p.drawText(box, Qt::AlignLeft | Qt::AlignVCenter, tabs_[i]);
    if (now) p.fillRect(QRect(box.left(), height() - 3, box.width(), 2), t.ink);
    if (now && hasFocus()) {
      p.setPen(QPen(t.ink, 1.0, Qt::DotLine));
      p.drawRect(QRect(box.left() - 4, 2, box.width() + 8, height() - 7));
    }
  }
  const int used = tab(static_cast<int>(tabs_.size()) - 1).right() + kBetween;
  p.setFont(axisFont());
  p.setPen(t.muted);
  if (p.fontMetrics().horizontalAdvance(aside_) < width() - used)
    p.drawText(QRect(used, 0, width() - used, height()), Qt::AlignRight | Qt::AlignVCenter, aside_);
}

void TabRow::mousePressEvent(QMouseEvent* event) {
  choose(at(event->position()));
}

void TabRow::keyPressEvent(QKeyEvent* event) {
  const auto count = static_cast<int>(tabs_.size());
  if (event->key() == Qt::Key_Left) return choose((chosen_ + count - 1) % count);
  if (event->key() == Qt::Key_Right) return choose((chosen_ + 1) % count);
  QWidget::keyPressEvent(event);
}

bool TabRow::event(QEvent* event) {
  int under = under_;
  if (event->type() == QEvent::MouseMove) under = at(static_cast<QMouseEvent*>(event)->position());
  if (event->type() == QEvent::Leave) under = -1;
  if (under != under_) under_ = under, update();
  if (event->type() == QEvent::FocusIn || event->type() == QEvent::FocusOut) update();
  return QWidget::event(event);
}

}  // namespace heft::app
