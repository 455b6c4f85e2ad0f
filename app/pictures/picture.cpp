#include "app/pictures/picture.h"

#include <QPainter>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "core/session/pattern.h"

namespace heft::app {

Picture::Picture(Document& document, Selection& selection, const QString& name, QWidget* parent)
    : QWidget(parent), document_(document), selection_(selection) {
  setObjectName(name);
  setProperty(kAccessibleRole, QAccessible::Graphic);
  setAccessibleName(name);
  setMouseTracking(true);
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(420, 200);
  for (auto signal : {&Document::changed, &Document::rendered, &Document::studied})
    connect(&document_, signal, this, qOverload<>(&QWidget::update));
  connect(&selection_, &Selection::changed, this, qOverload<>(&QWidget::update));
}

void Picture::explain(const QString& tip, const QString& whole) {
  setToolTip(tip);
  setWhatsThis(whole);
  setAccessibleDescription(whole);
}

void Picture::drawEmpty(QPainter& p, const QString& sentence) const {
  p.setFont(bodyFont());
  p.setPen(theme().muted);
  p.drawText(rect().adjusted(80, 0, -80, 0), Qt::AlignCenter | Qt::TextWordWrap, sentence);
}

QString Picture::hitWords() const {
  return wordsOfHit(selection_.hit());
}

QString Picture::wordsOfHit(int hit) const {
  const Stems* stems = document_.stems();
  const auto index = static_cast<size_t>(std::max(0, hit));
  if (!track().song || !stems || index >= stems->hitFrames().size()) return QString("hit %1").arg(index + 1);
  const double at = stems->hitFrames()[index] / track().framesPerQuarter();
  const TrackSection* section = document_.session().sectionAt(at);
  return QString::fromStdString(positionName(track(), at) + (section ? " in " + section->name : ""));
}

const HitFacts* Picture::hit() const {
  const Study* study = document_.study();
  if (!study || study->pair.hits.empty()) return nullptr;
  const auto index = static_cast<size_t>(std::max(0, selection_.hit()));
  return index < study->pair.hits.size()                  ? &study->pair.hits[index]
         : index < document_.session().kick().hits.size() ? nullptr
                                                          : &study->pair.hits.back();
}

}  // namespace heft::app
