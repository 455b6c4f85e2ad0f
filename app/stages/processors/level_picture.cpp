#include "app/stages/processors/level_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {

LevelPicture::LevelPicture(LayerChoice& choice, Selection& selection)
    : ProcessorPicture(choice, selection, "Level over the hit") {
  explain("Drag the threshold up and down. Shift+F1: more",
          "Level of the sound, thin before, thick after. Hatched: gain reduction, with its most and the time "
          "until it is back. Outlined: gain. Drag the threshold, the ceiling or the upward threshold. Page "
          "Up/Down: select a line. Up, Down: move it, Shift: finely.");
}

std::vector<LevelPicture::Line> LevelPicture::lines() const {
  if (const auto* c = as<Compressor>()) {
    std::vector<Line> out{{"compressor.threshold_db", "threshold", c->thresholdDb}};
    if (c->liftRatio > 1.0) out.push_back({"compressor.lift_below_db", "upward threshold", c->liftBelowDb});
    return out;
  }
  if (const auto* s = as<SoftClip>()) return {{"soft_clip.ceiling_db", "ceiling", s->ceilingDb}};
  if (const auto* l = as<Limiter>()) return {{"limiter.ceiling_db", "ceiling", l->ceilingDb}};
  if (const auto* g = as<Gain>()) return {{"gain.db", "gain", g->db}};
  return {};
}

Axis LevelPicture::time() const {
  const double whole =
      look() ? ProcessorLook::kLevelStepMs * static_cast<double>(look()->beforeLevelDb.size()) : 500.0;
  const double lead = 1000.0 * ProcessorLook::kLeadSeconds;
  return {-lead, std::max(100.0, whole - lead), plot().left(), plot().right()};
}

QPointF LevelPicture::handleOf(size_t line) const {
  const auto all = lines();
  return line < all.size() ? QPointF(plot().right() + 8, yOf(std::clamp(all[line].db, -54.0, 6.0)))
                           : QPointF(-1, -1);
}

void LevelPicture::drawScale(QPainter& p) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  for (const double db : {0.0, -12.0, -24.0, -36.0, -48.0}) {
    const double y = std::round(yOf(db)) + 0.5;
    p.setPen(rulePen(t.rule));
    p.drawLine(QPointF(plot().left(), y), QPointF(plot().right(), y));
    drawLabel(p, QPointF(plot().left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
              QString::number(db) + (db == 0.0 ? " dB" : ""), t.muted, QColor(0, 0, 0, 0));
  }
  const double sixteenth = 15000.0 / track().tempoBpm;
  if (time().holds(sixteenth)) {
    const double x = std::round(time().pixel(sixteenth)) + 0.5;
    p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
    p.drawLine(QPointF(x, plot().top()), QPointF(x, plot().bottom()));
    drawLabel(p, QPointF(x + 5, plot().bottom() - 3), Qt::AlignLeft | Qt::AlignBottom, "1/16", t.muted,
              t.panel);
  }
  drawTicksBelow(p, time(), plot().bottom(), roundTicks(0, time().to, 8),
                 [](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
}

void LevelPicture::drawLevels(QPainter& p) const {
  const auto& before = look()->beforeLevelDb;
  const auto& after = look()->afterLevelDb;
  const Axis x = time(), y = level();
  auto at = [&](size_t i, float db) {
    return QPointF(x.pixel(x.from + ProcessorLook::kLevelStepMs * static_cast<double>(i)),
                   y.pixel(std::clamp(static_cast<double>(db), y.from, y.to)));
  };
  QPolygonF was, is, taken;
  for (size_t i = 0; i < before.size(); ++i) was << at(i, before[i]), is << at(i, after[i]);
  taken = was;
  for (size_t i = before.size(); i-- > 0;) taken << at(i, std::min(before[i], after[i]));
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(QBrush(withAlpha(theme().ink, 0.4), Qt::BDiagPattern));
  p.drawPolygon(taken);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(withAlpha(ink(), 0.6), 1.0));
  p.drawPolyline(was);
  p.setPen(QPen(ink(), 2.0));
  p.drawPolyline(is);
  p.setRenderHint(QPainter::Antialiasing, false);
}

void LevelPicture::drawTaken(QPainter& p) const {
  const ProcessorLook& l = *look();
  if (l.takenDb < 0.1 || as<Gain>()) return;
  const Theme& t = theme();
  const Axis x = time();
  const auto i = static_cast<size_t>(std::lround((l.takenAtMs - x.from) / ProcessorLook::kLevelStepMs));
  if (i >= l.beforeLevelDb.size()) return;
  const double at = x.pixel(l.takenAtMs);
  drawDimension(p, QPointF(at, yOf(l.beforeLevelDb[i])), QPointF(at, yOf(l.afterLevelDb[i])),
                dbText(-l.takenDb), t.ink, t.panel);
  if (!l.backAfterMs) return;
  const double y = plot().bottom() - 22, back = x.pixel(l.takenAtMs + *l.backAfterMs);
  const QString words = QString("back within 1 dB after %1 ms").arg(std::lround(*l.backAfterMs));
  const double wide = QFontMetricsF(axisFont()).horizontalAdvance(words);
  drawDimension(p, QPointF(at, y), QPointF(back, y), words, t.ink, t.panel);
  if (back - at <= wide + 16)
    drawLabel(p, QPointF(back + 8, y), Qt::AlignLeft | Qt::AlignVCenter, words, t.ink, t.panel);
}

void LevelPicture::setPlayhead(std::optional<double> quarters) {
  if (quarters == playhead_) return;
  playhead_ = quarters;
  if (isVisible()) update();
}

// Since the part's last sound began, around the loop; for the sum the kick's.
std::optional<double> LevelPicture::playheadMs() const {
  const auto place = choice().chainPlace();
  const Stems* stems = document().stems();
  if (!playhead_ || !place || !stems) return std::nullopt;
  const Lane* lane = stems->lane(place->of.part.value_or(document().session().kick().id));
  if (!lane || lane->eventFrames.empty()) return std::nullopt;
  const double at = *playhead_ * track().framesPerQuarter(),
               loop = track().loopQuarters() * track().framesPerQuarter();
  double since = loop;
  for (const double frame : lane->eventFrames)
    since = std::min(since, at >= frame ? at - frame : at - frame + loop);
  return since / track().sampleRate * 1000.0;
}

std::optional<double> LevelPicture::takenNowDb() const {
  const auto ms = playheadMs();
  if (!ms || !look()) return std::nullopt;
  const double step = (*ms + 1000.0 * ProcessorLook::kLeadSeconds) / ProcessorLook::kLevelStepMs;
  const auto i = static_cast<size_t>(std::max(0.0, step));
  if (i >= look()->beforeLevelDb.size()) return 0.0;
  return std::max(0.0f, look()->beforeLevelDb[i] - look()->afterLevelDb[i]);
}

void LevelPicture::drawLines(QPainter& p) const {
  const Theme& t = theme();
  const auto all = lines();
  for (size_t i = 0; i < all.size(); ++i) {
    const QPointF end = handleOf(i);
    const bool chosen = i == std::min(chosen_, all.size() - 1);
    p.setPen(QPen(t.ink, chosen ? 1.5 : 1.0, Qt::DashLine));
    p.drawLine(QPointF(plot().left(), end.y()), end);
    p.setRenderHint(QPainter::Antialiasing);
    drawGrip(p, end, chosen && hasFocus());
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setFont(axisFont(chosen));
    // Two that meet have their words over and under each other.
    const bool meet = all.size() == 2 && std::abs(handleOf(0).y() - handleOf(1).y()) < 15.0;
    const double aside = !meet                                                               ? 0.0
                         : (all[i].db > all[1 - i].db || (all[0].db == all[1].db && i == 0)) ? -8.0
                                                                                             : 8.0;
    drawLabel(p, end + QPointF(10, aside), Qt::AlignLeft | Qt::AlignVCenter,
              all[i].word + " " + dbText(all[i].db), t.ink, t.panel);
  }
}

void LevelPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  if (!look() || look()->beforeLevelDb.empty()) return drawNothing(p);
  drawScale(p);
  drawLevels(p);
  drawTaken(p);
  drawLines(p);
  if (const auto ms = playheadMs(); ms && time().holds(*ms)) {
    p.setPen(QPen(t.ink, 1.0));
    p.drawLine(QPointF(time().pixel(*ms), plot().top()), QPointF(time().pixel(*ms), plot().bottom()));
  }
  p.setFont(axisFont());
  QString words = processor()->isOn() ? "level before thin, behind it thick" : "level; this is off";
  if (processor()->isOn() && !as<Gain>()) {
    words += "; gain reduction most " + dbText(-look()->takenDb);
    if (const auto now = takenNowDb()) words += ", now " + dbText(-*now);
  }
  drawLabel(p, QPointF(plot().left(), 2), Qt::AlignLeft | Qt::AlignTop, withKept(words), t.ink, t.panel);
  drawLabel(p, QPointF(width() - 16.0, 2), Qt::AlignRight | Qt::AlignTop,
            QString("crest %1 dB, behind it %2 dB")
                .arg(QString::fromStdString(fixedNumber(look()->crestBeforeDb, 1)),
                     QString::fromStdString(fixedNumber(look()->crestAfterDb, 1))),
            t.muted, t.panel);
}

std::optional<size_t> LevelPicture::lineAt(const QPointF& at) const {
  std::optional<size_t> out;
  double nearest = 6.0;
  for (size_t i = 0; i < lines().size(); ++i)
    if (const double off = std::abs(handleOf(i).y() - at.y()); off < nearest && at.x() > plot().left())
      nearest = off, out = i;
  return out;
}

void LevelPicture::set(size_t line, double db, bool dragged) {
  const auto all = lines();
  if (line >= all.size()) return;
  put("set " + all[line].word.toStdString(), {{all[line].key, std::round(10.0 * db) / 10.0}}, dragged);
}

void LevelPicture::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  held_ = lineAt(event->position());
  if (held_) chosen_ = *held_;
  update();
}

void LevelPicture::mouseMoveEvent(QMouseEvent* event) {
  if (held_) return set(*held_, level().value(event->position().y()), true);
  setCursor(lineAt(event->position()) ? Qt::SizeVerCursor : Qt::ArrowCursor);
}

void LevelPicture::mouseReleaseEvent(QMouseEvent*) {
  if (std::exchange(held_, std::nullopt)) endDrag();
}

void LevelPicture::keyPressEvent(QKeyEvent* event) {
  const auto all = lines();
  const int key = event->key(), up = key == Qt::Key_Up ? 1 : key == Qt::Key_Down ? -1 : 0;
  if (all.empty()) return QWidget::keyPressEvent(event);
  chosen_ = std::min(chosen_, all.size() - 1);
  if (key == Qt::Key_PageDown || key == Qt::Key_PageUp) {
    chosen_ = steppedPoint(chosen_, key == Qt::Key_PageDown ? 1 : -1, all.size());
    return update();
  }
  if (!up) return QWidget::keyPressEvent(event);
  set(chosen_, all[chosen_].db + up * (event->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0), false);
}

}  // namespace heft::app
