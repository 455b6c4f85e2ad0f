#include "app/shell/activity_bar.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>

#include "app/document/jobs.h"
#include "app/theme/theme.h"
#include "app/widgets/plain_label.h"

namespace heft::app {
namespace {

constexpr int kPatienceMs = 150;

}  // namespace

ActivityBar::ActivityBar(Jobs& jobs, QWidget* parent) : QWidget(parent), jobs_(jobs) {
  setObjectName("Activity");
  setAccessibleName("Background jobs");
  setToolTip("Background work. The loop plays on and can be edited");
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(16, 4, 12, 4);
  words_ = plainLabel();
  words_->setObjectName("Activity words");
  cancel_ = new QPushButton("Cancel");
  cancel_->setObjectName("Cancel activity");
  cancel_->setAccessibleName("Cancel background jobs");
  cancel_->setToolTip("Cancels it; nothing changes");
  connect(cancel_, &QPushButton::clicked, &jobs_, &Jobs::cancel);
  row->addWidget(words_, 1);
  row->addWidget(cancel_);
  patience_.setSingleShot(true);
  patience_.setInterval(kPatienceMs);
  connect(&patience_, &QTimer::timeout, this, [this] { setVisible(jobs_.isBusy()); });
  connect(&jobs_, &Jobs::changed, this, &ActivityBar::refresh);
  hide();
}

void ActivityBar::refresh() {
  if (!jobs_.isBusy()) {
    patience_.stop();
    return hide();
  }
  words_->setText(jobs_.words() + "...");
  cancel_->setVisible(jobs_.canBeCancelled());
  if (!isVisible() && !patience_.isActive()) patience_.start();
}

void ActivityBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme().panel);
  p.fillRect(QRectF(0, 0, 4, height()), theme().rule);
  p.setPen(theme().rule);
  p.drawLine(QPointF(0, height() - 0.5), QPointF(width(), height() - 0.5));
}

}  // namespace heft::app
