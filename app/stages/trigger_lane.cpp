#include "app/stages/trigger_lane.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <algorithm>
#include <cmath>
#include <map>

#include "app/files/file_choice.h"
#include "app/stages/duck_choice.h"
#include "app/theme/theme.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/values.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kLaneLeft = 64, kLaneRight = 16, kLaneLowestDb = -60;
constexpr double kHitReach = 6;  // px

}  // namespace

std::optional<size_t> chosenTrigger(const ResolvedDuck& duck, const Selection& selection) {
  if (duck.triggers.empty()) return std::nullopt;
  return std::min(duck.triggers.size() - 1, static_cast<size_t>(std::max(0, selection.hit())));
}

TriggerLane::TriggerLane(Document& document, Selection& selection)
    : Picture(document, selection, "Trigger lane") {
  setFixedHeight(66);
  setAcceptDrops(true);
  explain("What fires, over the loop. A click chooses a hit",
          "What fires, over the loop: its level, its threshold, the hits found. A click chooses a hit; a "
          "double click takes "
          "a hit out or puts one in, in a sound and among drawn hits. The threshold's line is dragged. Left "
          "and Right step "
          "from hit to hit, Delete takes the chosen one out, Insert puts one in half way to the next. A sound "
          "or a MIDI file that is "
          "dropped here fires from then on.");
}

void TriggerLane::setPlayhead(std::optional<double> quarters) {
  if (quarters == playhead_) return;
  playhead_ = quarters;
  update();
}

QRectF TriggerLane::box() const {
  return QRectF(QPointF(kLaneLeft, 16), QPointF(width() - kLaneRight, height() - 6.0));
}

Axis TriggerLane::time() const {
  return {0.0, track().loopQuarters(), box().left(), box().right()};
}

double TriggerLane::yOfDb(double db) const {
  const QRectF b = box();
  return b.bottom() - b.height() * std::clamp((db - kLaneLowestDb) / -kLaneLowestDb, 0.0, 1.0);
}

QPointF TriggerLane::placeOf(double quarters) const {
  return {time().pixel(quarters), box().center().y()};
}

std::optional<TriggerLane::Threshold> TriggerLane::threshold() const {
  const Duck& d = chosenDuck(document(), selection());
  if (d.movement == Movement::Follower && d.on) return Threshold{d.follower.thresholdDb, true};
  if (d.source.kind == TriggerKind::Audio) return Threshold{d.source.thresholdDb, false};
  return std::nullopt;
}

std::optional<QPointF> TriggerLane::thresholdGrip() const {
  const auto t = threshold();
  return t ? std::optional(QPointF(box().right() - 8, yOfDb(t->levelDb))) : std::nullopt;
}

// The detector's own level of a sound; else what the follower hears; else nothing.
void TriggerLane::drawLevel(QPainter& p, const ResolvedDuck& duck) const {
  const Duck& d = chosenDuck(document(), selection());
  const QRectF b = box();
  const Axis axis = time();
  const double secondsPerQuarter = 60.0 / track().tempoBpm, rate = track().sampleRate;
  const bool follows = duck.heard.frames() > 0 && d.movement != Movement::Curve;
  if (!follows && !duck.search) return;
  QPolygonF area;
  area << b.bottomLeft();
  for (double x = b.left(); x < b.right(); x += 1.0) {
    const double from = axis.value(x) * secondsPerQuarter, to = axis.value(x + 1.0) * secondsPerQuarter;
    double db = kLaneLowestDb;
    if (follows) {
      float most = 0.0f;
      const auto step = std::max<size_t>(1, static_cast<size_t>((to - from) * rate / 48.0));
      for (auto i = static_cast<size_t>(from * rate);
           i < std::min<size_t>(duck.heard.frames(), static_cast<size_t>(to * rate) + 1); i += step)
        for (size_t c = 0; c < duck.heard.channels(); ++c) most = std::max(most, std::abs(duck.heard.at(c, i)));
      db = dbFromAmplitude(most, kLaneLowestDb);
    } else {
      const double period = duck.repeatFrames ? *duck.repeatFrames / rate : 1e12;
      const double inFile =
          from + duck.levelFromSeconds - std::floor((from + duck.levelFromSeconds) / period) * period;
      const auto k = static_cast<size_t>(std::max(0.0, inFile * 1000.0)),
                 end = k + static_cast<size_t>((to - from) * 1000.0) + 1;
      for (size_t i = k; i < std::min(end, duck.search->levelDb.size()); ++i)
        db = std::max(db, static_cast<double>(duck.search->levelDb[i]));
    }
    area << QPointF(x, yOfDb(db));
  }
  area << b.bottomRight();
  p.setPen(Qt::NoPen);
  p.setBrush(withAlpha(triggerColour(document().session(), d.source), 0.22));
  p.drawPolygon(area);
  p.setBrush(Qt::NoBrush);
}

void TriggerLane::drawThreshold(QPainter& p) const {
  const auto t = threshold();
  if (!t) return;
  const QRectF b = box();
  const double y = std::round(yOfDb(t->levelDb)) + 0.5;
  p.setPen(QPen(theme().ink, holdsThreshold_ ? 2.0 : 1.0, Qt::DashLine));
  p.drawLine(QPointF(b.left(), y), QPointF(b.right(), y));
  drawPointMark(p, QPointF(b.right() - 8, y), holdsThreshold_);
  p.setFont(axisFont());
  drawLabel(p, QPointF(b.right() - 18, y), Qt::AlignRight | Qt::AlignVCenter,
            "threshold " + dbText(t->levelDb, 1, false), theme().ink, theme().panel);
}

// A stroke for what fires, dashed where in doubt, a short dotted one for what nearly did; a bar under it says
// by hand.
void TriggerLane::drawHit(QPainter& p, const LaneHit& hit, bool chosen) const {
  const Theme& t = theme();
  const QRectF b = box();
  const double x = std::round(time().pixel(hit.frame / track().framesPerQuarter())) + 0.5;
  const QColor ink = triggerColour(document().session(), chosenDuck(document(), selection()).source);
  const double tall = b.height() * (hit.fires() ? std::max(0.25, hit.velocity) : 0.3);
  p.setPen(QPen(hit.fires() ? ink : t.muted, chosen ? 3.0 : 1.5,
                hit.verdict == HitVerdict::Doubtful ? Qt::DashLine
                : hit.fires()                       ? Qt::SolidLine
                                                    : Qt::DotLine));
  p.drawLine(QPointF(x, b.bottom()), QPointF(x, b.bottom() - tall));
  if (hit.byHand && hit.fileSeconds) p.fillRect(QRectF(x - 4.5, b.bottom(), 9, 2), hit.fires() ? ink : t.muted);
  p.setFont(axisFont());
  if (hit.verdict == HitVerdict::Doubtful)
    drawLabel(p, QPointF(x, b.bottom() - tall), Qt::AlignHCenter | Qt::AlignBottom, "?", t.watch, t.panel);
}

void TriggerLane::drawWords(QPainter& p, const ResolvedDuck& duck) const {
  std::map<HitVerdict, int> counted;
  int fires = 0;
  for (const LaneHit& h : duck.hits) {
    fires += h.fires() ? 1 : 0;
    if (!h.byHand || h.fires()) ++counted[h.verdict];
  }
  QStringList out{QString("%1 fire").arg(fires)};
  for (const auto& [verdict, words] : {std::pair(HitVerdict::Doubtful, "in doubt"),
                                       {HitVerdict::UnderThreshold, "under the threshold"},
                                       {HitVerdict::TooSoon, "too soon"},
                                       {HitVerdict::OtherDrum, "of another drum"}})
    if (counted[verdict] > 0) out << QString("%1 %2").arg(counted[verdict]).arg(words);
  if (const DuckFacts* f = duckFacts(document(), chosenDuck(document(), selection())))
    if (const int missed = static_cast<int>(f->dip.each.size()) - f->dip.fired; missed > 0)
      out << QString("%1 take nothing").arg(missed);
  const Duck& d = chosenDuck(document(), selection());
  p.setFont(axisFont());
  p.setPen(theme().muted);
  p.drawText(QRectF(kLaneLeft, 0, width() - kLaneLeft - kLaneRight, 14), Qt::AlignRight | Qt::AlignVCenter,
             out.join(", "));
  p.setPen(triggerColour(document().session(), d.source));
  p.drawText(QRectF(kLaneLeft, 0, 0.6 * width(), 14), Qt::AlignLeft | Qt::AlignVCenter,
             QFontMetrics(axisFont())
                 .elidedText("fired by " + triggerWords(document().session(), d.source), Qt::ElideMiddle,
                             static_cast<int>(0.5 * width())));
}

void TriggerLane::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Duck& d = chosenDuck(document(), selection());
  const ResolvedDuck* duck = resolvedDuck(document(), d);
  const Theme& t = theme();
  const QRectF b = box();
  const Axis axis = time();
  if (!duck) return;
  p.setPen(rulePen(t.rule));
  p.drawLine(b.bottomLeft(), b.bottomRight());
  const double beat = 4.0 / track().beatUnit;
  for (double q = 0.0; q <= track().loopQuarters() + 1e-9; q += beat) {
    const double x = std::round(axis.pixel(q)) + 0.5;
    p.setPen(QPen(t.rule, 1.0));
    p.drawLine(QPointF(x, b.top()), QPointF(x, b.bottom()));
  }
  drawLevel(p, *duck);
  const LaneHit* chosen = chosenHit();
  for (const LaneHit& hit : duck->hits) drawHit(p, hit, &hit == chosen);
  drawThreshold(p);
  drawWords(p, *duck);
  p.setFont(axisFont());
  drawLabel(p, QPointF(kLaneLeft - 8, b.center().y()), Qt::AlignRight | Qt::AlignVCenter, "trigger",
            triggerColour(document().session(), d.source), QColor(0, 0, 0, 0));
  if (duck->hits.empty())
    drawLabel(p, b.center(), Qt::AlignCenter,
              d.source.kind == TriggerKind::Drawn ? "No hits yet: double-click to draw one"
                                                  : "No hit was found to fire on",
              t.muted, t.panel);
  if (playhead_) {
    const double x = std::round(axis.pixel(*playhead_)) + 0.5;
    p.setPen(QPen(t.ink, 1.0));
    p.drawLine(QPointF(x, 14), QPointF(x, b.bottom()));
  }
  if (hasFocus()) {
    p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
    p.drawRect(QRectF(0.5, 0.5, width() - 1.0, height() - 1.0));
  }
}

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
  const auto index = duck ? chosenTrigger(*duck, selection()) : std::nullopt;
  if (!index) return nullptr;
  for (const LaneHit& h : duck->hits)
    if (h.fires() && h.frame == duck->triggers[*index].frame) return &h;
  return nullptr;
}

// What fires is taken out, what nearly did is put in; what was said by hand is said no more.
void TriggerLane::toggle(const LaneHit& hit) {
  const Duck& d = chosenDuck(document(), selection());
  if (d.source.kind == TriggerKind::Drawn)
    return document().edit(removeTriggerHit(d, hit.frame / track().framesPerQuarter()));
  if (d.source.kind == TriggerKind::Audio && hit.fileSeconds)
    return document().edit(hit.byHand ? clearMark(d, *hit.fileSeconds)
                                      : markHit(d, *hit.fileSeconds, !hit.fires()));
  document().tell(
      "These hits are the part's own: place and remove them in the loop below, or draw others for this "
      "ducking.");
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
      "These hits are the part's own: place and remove them in the loop below, or draw others for this "
      "ducking.");
}

void TriggerLane::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const auto grip = thresholdGrip();
  const bool twice = event->type() == QEvent::MouseButtonDblClick;
  if (!twice && grip && std::abs(event->position().y() - grip->y()) < kHitReach &&
      event->position().x() > grip->x() - 140) {
    holdsThreshold_ = true;
    return update();
  }
  const LaneHit* hit = hitAt(event->position());
  const double division = track().loopQuarters() > 0 ? document().session().grid.division.quarters() : 0.25;
  if (twice) {
    if (hit) return toggle(*hit);
    const bool free = event->modifiers() & (Qt::AltModifier | Qt::ControlModifier);
    const bool drawn = chosenDuck(document(), selection()).source.kind == TriggerKind::Drawn;
    const double at = time().value(event->position().x());
    return placeAt(free || !drawn ? at : std::round(at / division) * division);
  }
  const ResolvedDuck* duck = resolvedDuck(document(), chosenDuck(document(), selection()));
  for (size_t i = 0; hit && duck && i < duck->triggers.size(); ++i)
    if (duck->triggers[i].frame == hit->frame) selection().setHit(static_cast<int>(i));
}

void TriggerLane::mouseMoveEvent(QMouseEvent* event) {
  const auto grip = thresholdGrip();
  const bool near = grip && std::abs(event->position().y() - grip->y()) < kHitReach &&
                    event->position().x() > grip->x() - 140;
  setCursor(near || holdsThreshold_ ? Qt::SizeVerCursor : Qt::ArrowCursor);
  if (!holdsThreshold_) return;
  const QRectF b = box();
  const double db = std::round(2.0 * std::clamp(kLaneLowestDb * (event->position().y() - b.top()) / b.height(),
                                                kLaneLowestDb, 0.0)) /
                    2.0;
  const Duck& d = chosenDuck(document(), selection());
  const auto t = threshold();
  document().edit(putValue("set the threshold", {.duck = d.id},
                           t && t->follower ? "follower.threshold_db" : "source.threshold_db", db,
                           "drag threshold"));
}

void TriggerLane::mouseReleaseEvent(QMouseEvent*) {
  holdsThreshold_ = false;
  document().endDrag();
  update();
}

void TriggerLane::step(int way) {
  const ResolvedDuck* duck = resolvedDuck(document(), chosenDuck(document(), selection()));
  if (!duck || duck->triggers.empty()) return;
  selection().setHit(std::clamp(selection().hit() + way, 0, static_cast<int>(duck->triggers.size()) - 1));
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
      if (hit) toggle(*hit);
      return;
    case Qt::Key_Insert: {
      if (!duck) return;
      const auto index = chosenTrigger(*duck, selection());
      const double per = track().framesPerQuarter(), loop = track().loopQuarters();
      const double from = index ? duck->triggers[*index].frame / per : 0.0,
                   to = index && *index + 1 < duck->triggers.size() ? duck->triggers[*index + 1].frame / per
                                                                    : loop;
      return placeAt(index ? 0.5 * (from + to) : 0.0);
    }
    default:
      QWidget::keyPressEvent(event);
  }
}

void TriggerLane::dragEnterEvent(QDragEnterEvent* event) {
  if (localFiles(event->mimeData()).size() == 1) event->acceptProposedAction();
}

void TriggerLane::dropEvent(QDropEvent* event) {
  const QStringList files = localFiles(event->mimeData());
  if (files.size() == 1) document().loadTrigger(chosenDuck(document(), selection()).id, files.front());
}

bool TriggerLane::event(QEvent* event) {
  if (event->type() != QEvent::ToolTip) return Picture::event(event);
  const auto* help = static_cast<QHelpEvent*>(event);
  const LaneHit* hit = hitAt(help->pos());
  QToolTip::showText(help->globalPos(), hit ? verdictWords(*hit) : toolTip(), this);
  return true;
}

}  // namespace heft::app
