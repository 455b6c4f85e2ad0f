#include "app/stages/duck_cards.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPushButton>
#include <algorithm>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "app/widgets/flow_layout.h"
#include "core/session/edits/ducks.h"

namespace heft::app {

DuckCard::DuckCard(Document& document, Selection& selection, int duck)
    : document_(document), selection_(selection), duck_(duck) {
  setFocusPolicy(Qt::StrongFocus);
  setFixedSize(176, 40);
  setObjectName(QString("Ducking card %1").arg(duck));
  setProperty(kAccessibleRole, QAccessible::Button);
  setProperty(kTakesSpace, true);
  setToolTip(
      "A ducking. Click: select. Its box or Space: on or off. I: hear the loop without it. Delete: remove");
  refresh();
}

void DuckCard::refresh() {
  if (const Duck* d = now())
    setAccessibleName(QString::fromStdString(duckWord(document_.session(), *d)) + (d->on ? ", in" : ", out"));
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
  if (d->on) drawIn(p, QPointF(mark().left() + 3.5, mark().center().y()));
  p.setFont(bodyFont(chosen));
  p.setPen(d->acts() ? t.ink : t.muted);
  const QString name = QString::fromStdString(duckWord(document_.session(), *d));
  p.drawText(QRectF(26, 3, width() - 32, 18), Qt::AlignLeft | Qt::AlignVCenter,
             QFontMetrics(p.font()).elidedText(name, Qt::ElideRight, width() - 34));
  // What is taken away over the loop, from above.
  const QRectF strip(26, 23, width() - 34, 12);
  p.setPen(rulePen(t.rule));
  p.drawLine(strip.topLeft(), strip.topRight());
  const ResolvedDuck* r = resolvedDuck(document_, *d);
  if (!r || !d->acts() || r->gain.frames() == 0) return;
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
  row_ = new FlowLayout(this, 8, 6);
  row_->setContentsMargins(0, 6, 0, 4);
  auto* more = new QPushButton("Add ducking");
  more->setObjectName("Add ducking");
  more->setAccessibleName("Add ducking");
  more->setToolTip("Another ducking beside these: another trigger, another movement, another target");
  connect(more, &QPushButton::clicked, this, [this] {
    const int id = freshDuckId(document_.session());
    document_.edit(addDuck(id, document_.session().bass().id));
    selection_.setDuck(id);
  });
  addButton(more);
  refresh();
}

void DuckCards::addButton(QPushButton* button) {
  buttons_.push_back(button);
  row_->addWidget(button);
}

void DuckCards::refresh() {
  std::vector<int> ids;
  for (const Duck& d : document_.session().ducks) ids.push_back(d.id);
  const bool same = std::equal(ids.begin(), ids.end(), cards_.begin(), cards_.end(),
                               [](int id, const DuckCard* card) { return card->duck() == id; });
  if (!same) {
    const bool held =
        std::any_of(cards_.begin(), cards_.end(), [](const DuckCard* c) { return c->hasFocus(); });
    while (QLayoutItem* item = row_->takeAt(0)) delete item;
    for (DuckCard* card : cards_) card->hide(), card->setObjectName({}), card->deleteLater();
    cards_.clear();
    for (const int id : ids) {
      cards_.push_back(new DuckCard(document_, selection_, id));
      row_->addWidget(cards_.back());
      cards_.back()->show();
    }
    for (QPushButton* button : buttons_) row_->addWidget(button);
    if (held && !cards_.empty()) cards_.back()->setFocus();
    row_->setGeometry(rect());
    updateGeometry();
  }
  for (DuckCard* card : cards_) card->refresh();
  buttons_.front()->setEnabled(ids.size() < kMostDucks);
}

}  // namespace heft::app
