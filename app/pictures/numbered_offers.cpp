#include "app/pictures/numbered_offers.h"

#include <QMouseEvent>

namespace heft::app {

NumberedOffers::NumberedOffers(Document& document, Selection& selection, const QString& name)
    : Picture(document, selection, name) {
  connect(&document, &Document::replaced, this, &NumberedOffers::drop);
  // An edit changes the offers: Return must not keep an unheard one.
  connect(&document, &Document::changed, this, [this] {
    if (heard_ && heardFor_ != this->document().session()) drop();
  });
}

void NumberedOffers::hear(int number) {
  if (number > count()) return;
  const auto edit = editOf(number);
  if (!edit) {
    if (number == 0) drop();
    return;
  }
  heard_ = number;
  heardFor_ = document().session();
  update();
  Q_EMIT heard(edit);
}

void NumberedOffers::step(int way) {
  if (count() > 0) hear((heard_.value_or(0) + way + count() + 1) % (count() + 1));
}

void NumberedOffers::drop() {
  if (!heard_) return;
  heard_.reset();
  update();
  Q_EMIT heard(std::nullopt);
}

void NumberedOffers::take() {
  if (!heard_) return;
  const auto edit = editOf(*heard_);
  drop();
  if (edit) document().edit(*edit);
}

bool NumberedOffers::takeKey(int key) {
  if (key >= Qt::Key_0 && key <= Qt::Key_9) {
    hear(key - Qt::Key_0);
    return true;
  }
  if (!heard_ || (key != Qt::Key_Return && key != Qt::Key_Enter && key != Qt::Key_Escape)) return false;
  if (key == Qt::Key_Escape)
    drop();
  else
    take();
  return true;
}

void NumberedOffers::mousePressEvent(QMouseEvent* event) {
  for (int n = 1; n <= count(); ++n)
    if (cell(n).contains(event->position())) return heard_ == n ? drop() : hear(n);
}

void NumberedOffers::mouseDoubleClickEvent(QMouseEvent* event) {
  for (int n = 1; n <= count(); ++n)
    if (cell(n).contains(event->position())) {
      hear(n);
      return take();
    }
}

}  // namespace heft::app
