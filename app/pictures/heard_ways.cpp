#include "app/pictures/heard_ways.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>

#include "app/theme/theme.h"

namespace heft::app {

HeardWays::HeardWays(Document& document, Selection& selection, const QString& name, const QString& button)
    : Picture(document, selection, name), button_(button) {
  setMinimumHeight(260);
  connect(&watch_, &QTimer::timeout, this, qOverload<>(&QWidget::update));
  // Cancelled: requested again.
  connect(&document.jobs(), &Jobs::changed, this, [this] {
    if (!solving_ || this->document().jobs().isBusy()) return;
    fail("Cancelled: " + pressAgain() + ".");
  });
}

void HeardWays::solve() {
  if (solving_) return;
  solving_ = true, solved_ = false, offers_.clear(), fault_.clear(), heard_ = 0;
  order_.show(0);
  solvedFor_ = document().session();
  *percent_ = 0;
  watch_.start(100);
  solveAside(percent_);
  update();
}

void HeardWays::offer(std::vector<Offer> offers) {
  solving_ = false, solved_ = true;
  watch_.stop();
  offers_ = std::move(offers);
  order_.show(count());
  update();
}

void HeardWays::fail(const QString& sentence) {
  solving_ = false, fault_ = sentence;
  watch_.stop();
  update();
}

void HeardWays::drawFrame(QPainter& p, int number) const {
  const Theme& t = theme();
  const QRectF box = cell(number).adjusted(0.5, 0.5, -0.5, -0.5);
  const bool now = heard_ == number;
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(now ? t.ink : t.rule, now ? 2.0 : 1.0));
  p.setBrush(t.panel);
  p.drawRect(box);
  p.setBrush(Qt::NoBrush);
  p.setFont(bodyFont(true));
  p.setPen(t.ink);
  p.drawText(QRectF(box.left() + 8, box.top() + 5, 16, 18), Qt::AlignLeft | Qt::AlignVCenter,
             QString::number(number));
  p.setFont(axisFont(true));
  const QString name = isBlind() ? QString("hidden") : QString::fromStdString(offers_[indexOf(number)].name);
  drawWrapped(p, QRectF(box.left() + 26, box.top() + 6, box.width() - 34, 28), name);
}

bool HeardWays::drawHead(QPainter& p, const QString& goal) const {
  const Theme& t = theme();
  if (!solved_) {
    drawEmpty(p, solving_           ? QString("Solving each way to the same goal: %1 %").arg(percent_->load())
                 : fault_.isEmpty() ? QString("Press %1.").arg(button_)
                                    : fault_);
    return false;
  }
  p.setFont(bodyFont());
  p.setPen(t.ink);
  p.drawText(QRectF(0, 0, width(), 20), Qt::AlignLeft | Qt::AlignVCenter, goal);
  p.setFont(axisFont());
  p.setPen(t.muted);
  QStringList counted;
  for (const auto& [kind, times] : order_.tally()) counted << QString("%1 %2").arg(kindWord(kind)).arg(times);
  const QString keys = isStale() ? "The session changed meanwhile: " + pressAgain() + "."
                                 : QString("1 to %1: audition, 0: unchanged, N: %2, Return: apply, Esc: close")
                                       .arg(count())
                                       .arg(isBlind() ? "show names" : "hide names");
  p.drawText(QRectF(0, 20, width(), 18), Qt::AlignLeft | Qt::AlignVCenter, keys);
  if (!counted.isEmpty())
    p.drawText(QRectF(0, 20, width(), 18), Qt::AlignRight | Qt::AlignVCenter,
               "applied blind: " + counted.join(", "));
  return true;
}

void HeardWays::hear(int number) {
  if (!solved_ || number < 0 || number > static_cast<int>(count())) return;
  if (isStale()) return document().tell("The session changed meanwhile: " + pressAgain() + ".");
  heard_ = number;
  if (number == 0) {
    Q_EMIT heard(std::nullopt);
  } else {
    Edit edit = offers_[indexOf(number)].edit;
    edit.name = "Way " + std::to_string(number);
    Q_EMIT heard(edit);
  }
  update();
}

void HeardWays::take() {
  if (!solved_ || heard_ == 0) return;
  if (isStale())
    return document().tell("The session changed meanwhile, so nothing was applied: " + pressAgain() + ".");
  const Offer taken = offers_[indexOf(heard_)];
  if (isBlind()) order_.prefer(taken.kind);
  Q_EMIT heard(std::nullopt);
  document().edit(taken.edit);
  document().tell(takenWord() + ": " + QString::fromStdString(taken.name) + ".");
  offers_.clear(), solved_ = false, heard_ = 0;
  order_.show(0);
  Q_EMIT left();
}

void HeardWays::setBlind(bool blind) {
  if (!solved_) return;
  heard_ = 0;
  blind ? order_.hide(count()) : order_.show(count());
  Q_EMIT heard(std::nullopt);
  update();
}

void HeardWays::mousePressEvent(QMouseEvent* event) {
  setFocus();
  for (int n = 1; n <= static_cast<int>(count()); ++n)
    if (cell(n).contains(event->position())) return hear(n);
}

void HeardWays::mouseDoubleClickEvent(QMouseEvent* event) {
  for (int n = 1; n <= static_cast<int>(count()); ++n)
    if (cell(n).contains(event->position())) heard_ = n, take();
}

void HeardWays::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  if (key >= Qt::Key_0 && key <= Qt::Key_9) return hear(key - Qt::Key_0);
  if (key == Qt::Key_N) return setBlind(!isBlind());
  if (key == Qt::Key_Return || key == Qt::Key_Enter) return take();
  if (key == Qt::Key_Left || key == Qt::Key_Right)
    return hear(std::clamp(heard_ + (key == Qt::Key_Right ? 1 : -1), 0, static_cast<int>(count())));
  if (key == Qt::Key_Escape) {
    Q_EMIT heard(std::nullopt);
    heard_ = 0;
    return left();
  }
  QWidget::keyPressEvent(event);
}

}  // namespace heft::app
