// The floor's bands: chosen, their tolerance dragged, their edges typed.
#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/stages/compare/floor_picture.h"
#include "app/theme/theme.h"
#include "core/judge/ledger.h"
#include "core/session/edits/targets.h"
#include "core/session/fields.h"

namespace heft::app {
namespace {

constexpr double kGripReach = 5.0;

// Of a band's range, re the median.
double edgeDb(const BandDifference& d, bool above) {
  const double tolerance = bandTolerance(d);
  return above ? d.span->most + tolerance : d.span->least - tolerance;
}

}  // namespace

void FloorPicture::markBand(std::optional<Band> band) {
  marked_ = band;
  update();
  Q_EMIT bandChosen();
}

BandAim FloorPicture::band() const {
  const auto all = comparedBands(document().session().targets);
  for (const BandAim& aim : all)
    if (aim.band() == marked_) return aim;
  return all.front();
}

void FloorPicture::setTolerance(std::optional<double> db, const std::string& mergeKey) {
  BandAim aim = band();
  aim.toleranceDb = db;
  if (db) aim.toleranceDb = heft::rangeOf<BandAim>("tolerance_db").held(std::round(10.0 * *db) / 10.0);
  document().edit(setBandAim(aim, mergeKey));
}

void FloorPicture::setEdges(const Band& edges) {
  const BandAim from = band();
  marked_ = edges;
  document().edit(moveBandAim(from, edges));
}

void FloorPicture::removeBand() {
  const Band now = band().band();
  document().edit(removeBandAim(now));
}

void FloorPicture::stepBand(int by) {
  const auto all = comparedBands(document().session().targets);
  size_t at = 0;
  for (size_t i = 0; i < all.size(); ++i)
    if (all[i].band() == marked_) at = i;
  if (marked_)
    at = static_cast<size_t>(std::clamp<int>(static_cast<int>(at) + by, 0, static_cast<int>(all.size()) - 1));
  markBand(all[at].band());
}

// What is in range in each band: the references' span and the tolerance, or about the target.
void FloorPicture::drawTolerances(QPainter& p, const Areas& a, const Study& s) const {
  const Theme& t = theme();
  for (const BandDifference& d : s.differences) {
    if (!d.span) continue;
    const double x1 = a.hz.pixel(d.band.lowHz) + 2, x2 = a.hz.pixel(d.band.highHz) - 2;
    for (const bool above : {true, false}) {
      const double db = edgeDb(d, above);
      if (db > a.level.to || db < a.level.from) continue;
      const double y = std::round(a.level.pixel(db)) + 0.5, foot = above ? 4.0 : -4.0;
      const bool taken = under_ && under_->of.band == d.band && under_->above == above;
      p.setPen(QPen(d.hasTarget ? t.holds : taken ? t.ink : t.muted, taken || marked_ == d.band ? 2.0 : 1.0));
      p.drawLine(QPointF(x1, y), QPointF(x2, y));
      p.drawLine(QPointF(x1, y), QPointF(x1, y + foot));
      p.drawLine(QPointF(x2, y), QPointF(x2, y + foot));
    }
  }
}

std::optional<FloorPicture::Grip> FloorPicture::gripAt(const QPointF& where) const {
  const Study* s = document().study();
  if (!s || s->empty || !floorShown(*s)) return std::nullopt;
  const Areas a = areas(*s, compareCurves(*s, !plain_));
  std::optional<Grip> out;
  double nearest = kGripReach;
  for (const BandDifference& d : s->differences) {
    if (!d.span || where.x() < a.hz.pixel(d.band.lowHz) || where.x() > a.hz.pixel(d.band.highHz)) continue;
    for (const bool above : {true, false})
      if (const double off = std::abs(a.level.pixel(edgeDb(d, above)) - where.y()); off < nearest)
        nearest = off, out = Grip{d, above};
  }
  return out;
}

void FloorPicture::mousePressEvent(QMouseEvent* event) {
  setFocus(Qt::MouseFocusReason);
  held_ = gripAt(event->position());
  if (held_) return markBand(held_->of.band);
  const Study* s = document().study();
  if (!s || s->empty) return;
  const Areas a = areas(*s, compareCurves(*s, !plain_));
  for (const BandDifference& d : s->differences)
    if (event->position().x() >= a.hz.pixel(d.band.lowHz) && event->position().x() < a.hz.pixel(d.band.highHz))
      return markBand(d.band);
}

void FloorPicture::mouseMoveEvent(QMouseEvent* event) {
  if (!held_) {
    under_ = gripAt(event->position());
    setCursor(under_ ? Qt::SizeVerCursor : Qt::ArrowCursor);
    return update();
  }
  const Study* s = document().study();
  if (!s || s->empty) return;
  const double db = areas(*s, compareCurves(*s, !plain_)).level.value(event->position().y());
  setTolerance(held_->above ? db - held_->of.span->most : held_->of.span->least - db, "band tolerance");
}

void FloorPicture::mouseReleaseEvent(QMouseEvent*) {
  if (!held_) return;
  held_.reset();
  document().endDrag();
}

void FloorPicture::keyPressEvent(QKeyEvent* event) {
  const double step = event->modifiers() & Qt::ShiftModifier ? 0.1 : 0.5;
  switch (event->key()) {
    case Qt::Key_Left:
    case Qt::Key_Right:
      return stepBand(event->key() == Qt::Key_Right ? 1 : -1);
    case Qt::Key_Up:
    case Qt::Key_Down:
      return setTolerance(band().toleranceDb.value_or(Limits{}.bandHolds) +
                          (event->key() == Qt::Key_Up ? step : -step));
    case Qt::Key_Delete:
      return removeBand();
    default:
      Picture::keyPressEvent(event);
  }
}

}  // namespace heft::app
