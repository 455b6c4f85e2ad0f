// Input on the trigger lane.

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/desk/duck_choice.h"
#include "app/files/file_choice.h"
#include "app/stages/duck/trigger_lane.h"
#include "app/widgets/free_hand.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/values.h"

namespace heft::app {
namespace {

constexpr double kHitReach = 6, kThresholdReach = 140;  // px
constexpr double kGapReach = 5, kGapHeight = 14;        // px

}  // namespace

const LaneHit* TriggerLane::hitAt(const QPointF& at) const {
  const ResolvedDuck* duck = resolvedDuck(document(), chosenDuck(document(), selection()));
  const LaneHit* best = nullptr;
  double nearest = kHitReach;
  const Axis axis = time();
  for (size_t i = 0; duck && i < duck->hits.size(); ++i) {
    const double off = std::abs(axis.pixel(duck->hits[i].frame / track().framesPerQuarter()) - at.x());
    if (off <= nearest) nearest = off, best = &duck->hits[i];
  }
  return best;
}

const LaneHit* TriggerLane::chosenHit() const {
  const ResolvedDuck* duck = resolvedDuck(document(), chosenDuck(document(), selection()));
  for (size_t i = 0; duck && near_ && i < duck->hits.size(); ++i)
    if (!duck->hits[i].fires() && duck->hits[i].frame == *near_) return &duck->hits[i];
  const auto index = duck ? chosenTrigger(*duck, selection()) : std::nullopt;
  if (!index) return nullptr;
  for (const LaneHit& h : duck->hits)
    if (h.fires() && h.frame == duck->triggers[*index].frame) return &h;
  return nullptr;
}

// Removes a triggering hit, adds a near miss; removes a hand-set mark.
void TriggerLane::toggle(const LaneHit& hit) {
  const Duck& d = chosenDuck(document(), selection());
  if (d.source.kind == TriggerKind::Drawn)
    return document().edit(removeTriggerHit(d, hit.frame / track().framesPerQuarter()));
  if (d.source.kind == TriggerKind::Audio && hit.fileSeconds)
    return document().edit(hit.byHand ? clearMark(d, *hit.fileSeconds)
                                      : markHit(d, *hit.fileSeconds, !hit.fires()));
  document().tell(
      "These hits belong to the part: edit them in the loop below, or switch this ducking to drawn hits.");
}

void TriggerLane::placeAt(double quarters) {
  const Duck& d = chosenDuck(document(), selection());
  if (d.source.kind == TriggerKind::Drawn) return document().edit(placeTriggerHit(d, quarters));
  const ResolvedDuck* duck = resolvedDuck(document(), d);
  if (d.source.kind == TriggerKind::Audio && duck) {
    const double period = duck->repeatFrames ? *duck->repeatFrames / track().sampleRate : 1e12;
    double seconds = quarters * 60.0 / track().tempoBpm + d.source.offsetSeconds;
    seconds -= std::floor(seconds / period) * period;
    return document().edit(markHit(d, std::max(0.0, seconds), true));
  }
  document().tell(
      "These hits belong to the part: edit them in the loop below, or switch this ducking to drawn hits.");
}

// Where the shortest gap after the selected hit ends, at the lane's bottom.
std::optional<QPointF> TriggerLane::gapGrip() const {
  const Duck& d = chosenDuck(document(), selection());
  const LaneHit* hit = chosenHit();
  if (d.source.kind != TriggerKind::Audio || !hit || !hit->fires()) return std::nullopt;
  return QPointF(gapEnd(*hit), box().bottom() - 2);
}

TriggerLane::Grip TriggerLane::gripAt(const QPointF& at) const {
  const auto gap = gapGrip(), line = thresholdGrip();
  if (gap && std::abs(at.x() - gap->x()) < kGapReach && at.y() > box().bottom() - kGapHeight) return Grip::Gap;
  if (line && std::abs(at.y() - line->y()) < kHitReach && at.x() > line->x() - kThresholdReach)
    return Grip::Threshold;
  return Grip::None;
}

void TriggerLane::choose(const LaneHit& hit) {
  near_.reset();
  const ResolvedDuck* duck = resolvedDuck(document(), chosenDuck(document(), selection()));
  for (size_t i = 0; duck && i < duck->triggers.size(); ++i)
    if (duck->triggers[i].frame == hit.frame) selection().setHit(static_cast<int>(i));
  if (!hit.fires()) near_ = hit.frame;
  update();
}

void TriggerLane::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const LaneHit* hit = hitAt(event->position());
  if (event->type() == QEvent::MouseButtonDblClick) {
    if (hit) return toggle(*hit);
    const double division = document().session().grid.division.quarters();
    const bool drawn = chosenDuck(document(), selection()).source.kind == TriggerKind::Drawn;
    const double at = time().value(event->position().x());
    return placeAt(isFree(event->modifiers()) || !drawn ? at : std::round(at / division) * division);
  }
  held_ = gripAt(event->position());
  if (held_ == Grip::Gap) heldHit_ = *chosenHit();
  if (held_ != Grip::None) return update();
  if (hit) choose(*hit);
}

void TriggerLane::mouseMoveEvent(QMouseEvent* event) {
  const Grip over = held_ == Grip::None ? gripAt(event->position()) : held_;
  setCursor(over == Grip::Gap         ? Qt::SizeHorCursor
            : over == Grip::Threshold ? Qt::SizeVerCursor
                                      : Qt::ArrowCursor);
  const Duck& d = chosenDuck(document(), selection());
  if (held_ == Grip::Gap) {
    const double frames = time().value(event->position().x()) * track().framesPerQuarter() - heldHit_.frame;
    document().edit(putValue("set the shortest gap", {.duck = d.id}, "source.shortest_gap_ms",
                             std::round(frames / track().sampleRate * 1000.0), "drag gap"));
  }
  if (held_ != Grip::Threshold) return;
  const QRectF b = box();
  const double db = kLaneLowestDb * (event->position().y() - b.top()) / b.height();
  const auto t = threshold();
  document().edit(putValue("set the threshold", {.duck = d.id},
                           t && t->follower ? "follower.threshold_db" : "source.threshold_db",
                           std::round(2.0 * std::clamp(db, kLaneLowestDb, 0.0)) / 2.0, "drag threshold"));
}

void TriggerLane::mouseReleaseEvent(QMouseEvent*) {
  held_ = Grip::None;
  document().endDrag();
  update();
}

// Steps to near misses too.
void TriggerLane::step(int way) {
  const ResolvedDuck* duck = resolvedDuck(document(), chosenDuck(document(), selection()));
  if (!duck || duck->hits.empty()) return;
  const LaneHit* now = chosenHit();
  const auto last = static_cast<ptrdiff_t>(duck->hits.size()) - 1;
  const ptrdiff_t at = now ? now - duck->hits.data() : (way > 0 ? -1 : last + 1);
  choose(duck->hits[static_cast<size_t>(std::clamp<ptrdiff_t>(at + way, 0, last))]);
}

// Half way to the next trigger.
double TriggerLane::placeBesideChosen(const ResolvedDuck& duck) const {
  const auto index = chosenTrigger(duck, selection());
  if (!index) return 0.0;
  const double per = track().framesPerQuarter();
  const double next =
      *index + 1 < duck.triggers.size() ? duck.triggers[*index + 1].frame / per : track().loopQuarters();
  return 0.5 * (duck.triggers[*index].frame / per + next);
}

void TriggerLane::keyPressEvent(QKeyEvent* event) {
  const LaneHit* hit = chosenHit();
  const ResolvedDuck* duck = resolvedDuck(document(), chosenDuck(document(), selection()));
  switch (event->key()) {
    case Qt::Key_Left:
      return step(-1);
    case Qt::Key_Right:
      return step(1);
    case Qt::Key_Delete:
      if (hit && hit->fires()) toggle(*hit);
      return;
    case Qt::Key_Insert:
      if (hit && !hit->fires()) return toggle(*hit);
      if (duck) placeAt(placeBesideChosen(*duck));
      return;
    default:
      QWidget::keyPressEvent(event);
  }
}

void TriggerLane::dragEnterEvent(QDragEnterEvent* event) {
  if (localFiles(event->mimeData()).size() == 1) event->acceptProposedAction();
}

void TriggerLane::dropEvent(QDropEvent* event) {
  const QStringList files = localFiles(event->mimeData());
  if (files.size() == 1) document().sounds().loadTrigger(chosenDuck(document(), selection()).id, files.front());
}

bool TriggerLane::event(QEvent* event) {
  if (event->type() != QEvent::ToolTip) return Picture::event(event);
  const auto* help = static_cast<QHelpEvent*>(event);
  const LaneHit* hit = hitAt(help->pos());
  QToolTip::showText(help->globalPos(), hit ? verdictWords(*hit) : toolTip(), this);
  return true;
}

}  // namespace heft::app
