// Dragging crests and troughs, and on the map.

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/stages/align/align_picture.h"
#include "core/session/edits/pair.h"

namespace heft::app {
namespace {

// Built layers that restart at each note; none if another kind is audible.
std::vector<std::pair<int, double>> startPhases(const Part& bass) {
  std::vector<std::pair<int, double>> out;
  for (const Layer* l : heardLayers(bass.layers)) {
    if (!l->bassVoice() || l->bassVoice()->freePhase) return {};
    out.push_back({l->id, l->bassVoice()->startPhaseDegrees});
  }
  return out;
}

}  // namespace

void AlignPicture::turnStart(double degrees) {
  auto to = dragPhases_;
  for (auto& [id, phase] : to) phase = std::round(phase + degrees);
  document().edit(setStartPhases(document().session().bass(), to, "start phase"));
}

std::optional<bool> AlignPicture::polarityAt(const Areas& a, const QPointF& at) const {
  for (const bool inverted : {false, true})
    if (QRectF(a.halves[inverted].all.topLeft(), a.halves[inverted].map.bottomRight())
            .adjusted(0, -10, 0, 0)
            .contains(at))
      return inverted;
  return std::nullopt;
}

void AlignPicture::goTo(double ms, bool inverted) {
  AlignAnswer to;
  to.delayMs = std::clamp(std::round(ms * 50.0) / 50.0, -document().session().bass().align.question.maxDelayMs,
                          document().session().bass().align.question.maxDelayMs);
  if (to.delayMs == 0.0) to.delayMs = 0.0;
  to.invert = inverted;
  document().edit(alignBy(document().session().bass(), to, "delay"));
}

void AlignPicture::setDelay(double ms) {
  const double most = document().session().bass().align.question.maxDelayMs;
  const double delay = std::clamp(std::round(ms * 50.0) / 50.0, -most, most);
  document().edit(heft::setDelay(document().session().bass(), delay, "delay"));
}

void AlignPicture::mousePressEvent(QMouseEvent* event) {
  const Areas a = areas();
  const Study* s = document().study();
  if (event->button() != Qt::LeftButton || !s || s->pair.hits.empty()) return;
  const AlignMove& move = document().session().bass().align;
  const QRectF& rows = a.halves[0].map;
  const QPointF at = event->position();
  if (foldArea(a).contains(at)) return openMaps(!mapsOpen_);
  dragFrom_ = at, dragDelay_ = move.delayMs;
  dragPhases_ = startPhases(document().session().bass());
  if (a.hills.adjusted(0, -10, 0, 10).contains(at)) return void(drag_ = Drag::Bass);
  if (at.y() > rows.top() && at.y() < rows.bottom() && !this->rows().empty())
    selection().setHit(static_cast<int>(this->rows()[rowAt(a, at.y())].worst));
  const auto polarity = polarityAt(a, at);
  if (!polarity) return;
  // A press on a row selects its hit; only the line itself and the curves above move the pair.
  const bool onLine = *polarity == move.invert &&
                      std::abs(dragFrom_.x() - a.halves[*polarity].delay.pixel(move.delayMs)) <= 8.0;
  if (!onLine && at.y() > rows.top()) return;
  drag_ = Drag::Delay, dragInverted_ = *polarity;
  if (!onLine) goTo(a.halves[*polarity].delay.value(dragFrom_.x()), *polarity);
}

void AlignPicture::zoom(double factor) {
  constexpr double kLeastMs = 30.0, kMostMs = 360.0;
  shownMs_ = std::clamp(shownMs_ * factor, kLeastMs, kMostMs);
  update();
}

void AlignPicture::wheelEvent(QWheelEvent* event) {
  if (!(event->modifiers() & Qt::ControlModifier)) return QWidget::wheelEvent(event);
  zoom(event->angleDelta().y() > 0 ? 1.0 / 1.25 : 1.25);
  event->accept();
}

void AlignPicture::leaveEvent(QEvent*) {
  pointer_.reset();
  update();
}

void AlignPicture::mouseMoveEvent(QMouseEvent* event) {
  const Areas a = areas();
  if (pointer_ || polarityAt(a, event->position())) pointer_ = event->position(), update();
  const AlignMove& move = document().session().bass().align;
  const auto polarity = polarityAt(a, event->position());
  const bool overLine = polarity && *polarity == move.invert &&
                        std::abs(event->position().x() - a.halves[*polarity].delay.pixel(move.delayMs)) < 8.0;
  const bool overCurve = polarity && event->position().y() < a.halves[0].map.top();
  setCursor(drag_ != Drag::None || overLine || overCurve || a.hills.contains(event->position())
                ? Qt::SizeHorCursor
                : Qt::ArrowCursor);
  // Vertical drags turn the start phase, whichever direction the drag starts in.
  const QPointF went = event->position() - dragFrom_;
  if (drag_ == Drag::Bass && !dragPhases_.empty() && std::abs(went.y()) > 6.0 && std::abs(went.x()) < 4.0)
    drag_ = Drag::Phase;
  if (drag_ == Drag::Phase) turnStart(-went.y());
  const bool sideways = std::abs(went.x()) >= 2.0 || move.delayMs != dragDelay_;
  if (drag_ == Drag::Bass && sideways)
    setDelay(dragDelay_ + a.time.value(event->position().x()) - a.time.value(dragFrom_.x()));
  if (drag_ == Drag::Delay) goTo(a.halves[dragInverted_].delay.value(event->position().x()), dragInverted_);
}

void AlignPicture::mouseReleaseEvent(QMouseEvent*) {
  drag_ = Drag::None;
  document().endDrag();
}

void AlignPicture::keyPressEvent(QKeyEvent* event) {
  const bool fine = event->modifiers() & Qt::ShiftModifier;
  const int key = event->key();
  const Study* s = document().study();
  const int hits = s ? static_cast<int>(s->pair.hits.size()) : 0;
  if (key == Qt::Key_Left || key == Qt::Key_Right)
    setDelay(document().session().bass().align.delayMs + (key == Qt::Key_Right ? 1 : -1) * (fine ? 0.02 : 0.1));
  else if (key == Qt::Key_Up && hits)
    selection().setHit(std::max(0, selection().hit() - 1));
  else if (key == Qt::Key_Down && hits)
    selection().setHit(std::min(hits - 1, selection().hit() + 1));
  else if (key == Qt::Key_P)
    document().edit(setPolarity(document().session().bass(), !document().session().bass().align.invert));
  else if (key == Qt::Key_Delete)
    setDelay(0.0);
  else if (key == Qt::Key_M)
    openMaps(!mapsOpen_);
  else if (key == Qt::Key_A)
    stacked_ = !stacked_, update();
  else if (key == Qt::Key_Plus || key == Qt::Key_Equal)
    zoom(1.0 / 1.25);
  else if (key == Qt::Key_Minus)
    zoom(1.25);
  else
    QWidget::keyPressEvent(event);
}

}  // namespace heft::app
