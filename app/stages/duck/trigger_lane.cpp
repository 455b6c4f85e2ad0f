#include "app/stages/duck/trigger_lane.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "app/desk/duck_choice.h"
#include "app/theme/theme.h"
#include "core/duck/follower.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kLaneLeft = 64, kLaneRight = 16;  // px

}  // namespace

std::optional<size_t> chosenTrigger(const ResolvedDuck& duck, const Selection& selection) {
  if (duck.triggers.empty()) return std::nullopt;
  return std::min(duck.triggers.size() - 1, static_cast<size_t>(std::max(0, selection.hit())));
}

TriggerLane::TriggerLane(Document& document, Selection& selection)
    : Picture(document, selection, "Trigger lane") {
  setMinimumHeight(46), setMaximumHeight(66);
  setAcceptDrops(true);
  explain(
      "Trigger level, threshold and hits. Click: select a hit. Shift+F1: more",
      "Trigger level, threshold and hits. Click: select. Double-click: add or remove. Drag the threshold, or a "
      "bar end for the shortest gap. Left, Right: step, near misses too. Drop a sound or MIDI file to use it "
      "as trigger.");
  connect(&selection, &Selection::changed, this, [this] { near_.reset(); });
}

void TriggerLane::setPlayhead(std::optional<double> quarters) {
  if (quarters == playhead_) return;
  QRegion stale;
  for (const auto& at : {std::exchange(playhead_, quarters), quarters})
    if (at) stale += QRect(static_cast<int>(time().pixel(*at)) - 2, 0, 5, height());
  update(stale);
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

namespace {

// A follower's level between two moments: the loudest sample, or the root of the running mean square.
class HeardLevel {
 public:
  HeardLevel(const Signal& heard, LevelBy by, double rate) : heard_(heard), by_(by), rate_(rate) {}

  double db(double from, double to) {
    const auto step = std::max<size_t>(1, static_cast<size_t>((to - from) * rate_ / 48.0));
    const size_t end = std::min(heard_.frames(), static_cast<size_t>(to * rate_) + 1);
    double most = 0.0;
    for (auto i = static_cast<size_t>(from * rate_); i < end; i += step) {
      double loudest = 0.0;
      for (size_t c = 0; c < heard_.channels(); ++c)
        loudest = std::max(loudest, static_cast<double>(std::abs(heard_.at(c, i))));
      const double kept = std::exp(-static_cast<double>(step) / (kRmsSeconds * rate_));
      square_ = kept * square_ + (1.0 - kept) * loudest * loudest;
      most = std::max(most, by_ == LevelBy::Rms ? std::sqrt(square_) : loudest);
    }
    return dbFromAmplitude(most, kLaneLowestDb);
  }

 private:
  const Signal& heard_;
  LevelBy by_;
  double rate_, square_ = 0.0;
};

// The detector's level: each millisecond of a file that may repeat.
double searchedDb(const ResolvedDuck& duck, double from, double to, double rate) {
  const double period = duck.repeatFrames ? *duck.repeatFrames / rate : 1e12;
  const double inFile =
      from + duck.levelFromSeconds - std::floor((from + duck.levelFromSeconds) / period) * period;
  const auto first = static_cast<size_t>(std::max(0.0, inFile * 1000.0)),
             end = first + static_cast<size_t>((to - from) * 1000.0) + 1;
  double db = kLaneLowestDb;
  for (size_t i = first; i < std::min(end, duck.search->levelDb.size()); ++i)
    db = std::max(db, static_cast<double>(duck.search->levelDb[i]));
  return db;
}

}  // namespace

// The detector's own level of a sound; else the follower's; else nothing.
void TriggerLane::drawLevel(QPainter& p, const ResolvedDuck& duck) const {
  const Duck& d = chosenDuck(document(), selection());
  const QRectF b = box();
  const Axis axis = time();
  const double secondsPerQuarter = 60.0 / track().tempoBpm, rate = track().sampleRate;
  const bool follows = duck.heard.frames() > 0 && d.movement != Movement::Curve;
  if (!follows && !duck.search) return;
  HeardLevel heard(duck.heard, d.movement == Movement::Follower ? d.follower.level : LevelBy::Peak, rate);
  QPolygonF area;
  area << b.bottomLeft();
  for (double x = b.left(); x < b.right(); x += 1.0) {
    const double from = axis.value(x) * secondsPerQuarter, to = axis.value(x + 1.0) * secondsPerQuarter;
    area << QPointF(x, yOfDb(follows ? heard.db(from, to) : searchedDb(duck, from, to, rate)));
  }
  area << b.bottomRight();
  p.setPen(Qt::NoPen);
  p.setBrush(withAlpha(triggerColour(document().session(), d.source), 0.22));
  p.drawPolygon(area);
  p.setBrush(Qt::NoBrush);
}

double TriggerLane::gapEnd(const LaneHit& hit) const {
  const double gapFrames =
      chosenDuck(document(), selection()).source.shortestGapMs / 1000.0 * track().sampleRate;
  return time().pixel((hit.frame + gapFrames) / track().framesPerQuarter());
}

// As long as nothing else can trigger.
void TriggerLane::drawGap(QPainter& p, const LaneHit& hit, bool chosen) const {
  if (chosenDuck(document(), selection()).source.kind != TriggerKind::Audio || !hit.fires()) return;
  const QRectF b = box();
  const double x = time().pixel(hit.frame / track().framesPerQuarter()), end = std::min(b.right(), gapEnd(hit));
  p.fillRect(QRectF(QPointF(x, b.bottom() - 3), QPointF(end, b.bottom())),
             withAlpha(triggerColour(document().session(), chosenDuck(document(), selection()).source), 0.6));
  if (!chosen || end >= b.right()) return;
  drawPointMark(p, QPointF(std::round(end) + 0.5, b.bottom() - 1.5), held_ == Grip::Gap);
  if (held_ != Grip::Gap) return;
  p.setFont(axisFont());
  drawLabel(p, QPointF(end + 8, b.bottom() - 6), Qt::AlignLeft | Qt::AlignVCenter,
            "gap " + msText(chosenDuck(document(), selection()).source.shortestGapMs), theme().ink,
            theme().panel);
}

void TriggerLane::drawThreshold(QPainter& p) const {
  const auto t = threshold();
  if (!t) return;
  const QRectF b = box();
  const double y = std::round(yOfDb(t->levelDb)) + 0.5;
  p.setPen(QPen(theme().ink, held_ == Grip::Threshold ? 2.0 : 1.0, Qt::DashLine));
  p.drawLine(QPointF(b.left(), y), QPointF(b.right(), y));
  drawPointMark(p, QPointF(b.right() - 8, y), held_ == Grip::Threshold);
  p.setFont(axisFont());
  drawLabel(p, QPointF(b.right() - 18, y), Qt::AlignRight | Qt::AlignVCenter,
            "threshold " + dbText(t->levelDb, 1, false), theme().ink, theme().panel);
}

// A solid stroke for a trigger, dashed if doubtful, a short dotted one for a near miss; a bar below it marks
// one set by hand.
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
  QStringList out;
  out << QString(fires == 1 ? "%1 hit triggers" : "%1 hits trigger").arg(fires);
  for (const auto& [verdict, words] : {std::pair(HitVerdict::Doubtful, "in doubt"),
                                       {HitVerdict::UnderThreshold, "under the threshold"},
                                       {HitVerdict::TooSoon, "too soon"},
                                       {HitVerdict::OtherDrum, "of another drum"}})
    if (counted[verdict] > 0) out << QString("%1 %2").arg(counted[verdict]).arg(words);
  if (const DuckFacts* f = duckFacts(document(), chosenDuck(document(), selection())))
    if (const int missed = static_cast<int>(f->dip.each.size()) - f->dip.fired; missed > 0)
      out << QString("%1 without gain reduction").arg(missed);
  const Duck& d = chosenDuck(document(), selection());
  p.setFont(axisFont());
  p.setPen(theme().muted);
  const LaneHit* chosen = chosenHit();
  const QString why = chosen && !chosen->fires() ? verdictWords(*chosen) + ".  " : QString();
  p.drawText(QRectF(kLaneLeft, 0, width() - kLaneLeft - kLaneRight, 14), Qt::AlignRight | Qt::AlignVCenter,
             why + out.join(", "));
  p.setPen(triggerColour(document().session(), d.source));
  p.drawText(QRectF(kLaneLeft, 0, 0.6 * width(), 14), Qt::AlignLeft | Qt::AlignVCenter,
             QFontMetrics(axisFont())
                 .elidedText("triggered by " + triggerWords(document().session(), d.source), Qt::ElideMiddle,
                             static_cast<int>(0.5 * width())));
}

void TriggerLane::paintEvent(QPaintEvent* event) {
  QPainter p(this);
  paintRegion(p, event->region(), [&] { paintAll(p); });
}

void TriggerLane::paintAll(QPainter& p) const {
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
  for (const LaneHit& hit : duck->hits) {
    drawGap(p, hit, &hit == chosen);
    drawHit(p, hit, &hit == chosen);
  }
  drawThreshold(p);
  drawWords(p, *duck);
  p.setFont(axisFont());
  drawLabel(p, QPointF(kLaneLeft - 8, b.center().y()), Qt::AlignRight | Qt::AlignVCenter, "trigger",
            triggerColour(document().session(), d.source), QColor(0, 0, 0, 0));
  if (duck->hits.empty())
    drawLabel(
        p, b.center(), Qt::AlignCenter,
        d.source.kind == TriggerKind::Drawn ? "No hits yet: double-click to draw one" : "No hits detected",
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

}  // namespace heft::app
