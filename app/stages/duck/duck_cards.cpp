#include "app/stages/duck/duck_cards.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <utility>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "core/session/edits/ducks.h"

namespace heft::app {

DuckCard::DuckCard(Document& document, Selection& selection, int duck)
    : document_(document), selection_(selection), duck_(duck) {
  setFocusPolicy(Qt::StrongFocus);
  setFixedSize(kWidth, kHeight);
  setObjectName(QString("Ducking card %1").arg(duck));
  setProperty(kAccessibleRole, QAccessible::Button);
  setProperty(kTakesSpace, true);
  setToolTip(
      "A ducking. Click: select. Its box or Space: on or off. I: hear the loop without it. Delete: remove");
  refresh();
}

void DuckCard::refresh() {
  if (const Duck* d = now())
    setAccessibleName(QString::fromStdString(duckWord(document_.session(), *d)) + (d->on ? ", on" : ", off"));
  update();
}

QRectF DuckCard::mark() const {
  return {6, 6, 14, 14};
}

void DuckCard::paintEvent(QPaintEvent*) {
  const Duck* d = now();
  if (!d) return;
  QPainter p(this);
  const Theme& t = theme();
  const bool chosen = chosenDuck(document_, selection_).id == duck_;
  const QRectF box = QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5);
  p.setPen(QPen(chosen ? t.ink : t.rule, hasFocus() ? 2.0 : 1.0));
  p.setBrush(t.panel);
  p.drawRect(box);
  p.setPen(QPen(t.muted, 1.0));
  p.drawRect(mark().adjusted(0.5, 0.5, -0.5, -0.5));
  if (d->on) drawTick(p, mark().center(), t.ink);
  p.setFont(bodyFont(chosen));
  p.setPen(document_.session().acts(*d) ? t.ink : t.muted);
  const QString name = QString::fromStdString(duckWord(document_.session(), *d));
  p.drawText(QRectF(26, 3, width() - 32, 18), Qt::AlignLeft | Qt::AlignVCenter,
             QFontMetrics(p.font()).elidedText(name, Qt::ElideRight, width() - 34));
  // Gain reduction over the loop, from the top.
  const QRectF strip(26, 23, width() - 34, 12);
  p.setPen(rulePen(t.rule));
  p.drawLine(strip.topLeft(), strip.topRight());
  const ResolvedDuck* r = resolvedDuck(document_, *d);
  if (!r || !document_.session().acts(*d) || r->gain.frames() == 0) return;
  const size_t frames = r->gain.frames();
  QPolygonF area;
  area << strip.topLeft();
  for (double x = strip.left(); x <= strip.right(); x += 1.0) {
    const double from = (x - strip.left()) / strip.width() * static_cast<double>(frames),
                 step = static_cast<double>(frames) / strip.width() / 16.0;
    float least = 1.0f;
    for (int k = 0; k < 16; ++k)
      least = std::min(least, r->gain.at(0, std::min(frames - 1, static_cast<size_t>(from + k * step))));
    area << QPointF(x, strip.top() + strip.height() * (1.0 - least));
  }
  area << strip.topRight();
  p.setPen(Qt::NoPen);
  p.setBrush(withAlpha(targetColour(document_.session(), d->target), 0.6));
  p.drawPolygon(area);
}

void DuckCard::mousePressEvent(QMouseEvent* event) {
  const Duck* d = now();
  if (!d || event->button() != Qt::LeftButton) return;
  selection_.setDuck(duck_);
  if (mark().adjusted(-4, -4, 4, 4).contains(event->position())) document_.edit(setDucking(*d, !d->on));
}

void DuckCard::focusInEvent(QFocusEvent* event) {
  if (event->reason() == Qt::TabFocusReason || event->reason() == Qt::BacktabFocusReason)
    selection_.setDuck(duck_);
  update();
}

void DuckCard::keyPressEvent(QKeyEvent* event) {
  const Duck* d = now();
  if (!d) return;
  switch (event->key()) {
    case Qt::Key_Space:
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return document_.edit(setDucking(*d, !d->on));
    case Qt::Key_Delete:
      return document_.edit(removeDuck(*d));
    case Qt::Key_Left:
    case Qt::Key_Right:
      return void(focusNextPrevChild(event->key() == Qt::Key_Right));
    default:
      QWidget::keyPressEvent(event);
  }
}

DuckCards::DuckCards(Document& document, Selection& selection) : document_(document), selection_(selection) {
  auto* all = new QWidget;
  row_ = new QHBoxLayout(all);
  row_->setContentsMargins(0, 2, 0, 2);
  row_->setSpacing(8);
  row_->addStretch(1);
  setWidget(all);
  setWidgetResizable(true);
  setFrameShape(QFrame::NoFrame);
  setFocusPolicy(Qt::NoFocus);
  setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  refresh();
}

void DuckCards::refresh() {
  constexpr int kGap = 8, kCardRow = DuckCard::kHeight + 4, kBar = 8;
  std::vector<int> ids;
  for (const Duck& d : document_.session().ducks) ids.push_back(d.id);
  const bool same = std::equal(ids.begin(), ids.end(), cards_.begin(), cards_.end(),
                               [](int id, const DuckCard* card) { return card->duck() == id; });
  if (!same) {
    const bool held =
        std::any_of(cards_.begin(), cards_.end(), [](const DuckCard* c) { return c->hasFocus(); });
    for (DuckCard* card : cards_) card->hide(), card->setObjectName({}), card->deleteLater();
    cards_.clear();
    for (const int id : ids) {
      cards_.push_back(new DuckCard(document_, selection_, id));
      row_->insertWidget(static_cast<int>(cards_.size()) - 1, cards_.back());
      cards_.back()->show();
    }
    if (held && !cards_.empty()) cards_.back()->setFocus();
  }
  for (DuckCard* card : cards_) card->refresh();
  const int wide = static_cast<int>(ids.size()) * (DuckCard::kWidth + kGap) - kGap;
  setFixedHeight(kCardRow + (wide > width() ? kBar : 0));
  const int chosen = chosenDuck(document_, selection_).id;
  if (chosen == std::exchange(shown_, chosen) && same) return;
  for (DuckCard* card : cards_)
    if (card->duck() == chosen) ensureWidgetVisible(card, 8, 0);
}

}  // namespace heft::app
