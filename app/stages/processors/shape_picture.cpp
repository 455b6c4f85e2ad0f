#include "app/stages/processors/shape_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/pictures/wave.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {

ShapePicture::ShapePicture(LayerChoice& choice, Selection& selection)
    : ProcessorPicture(choice, selection, "Strike, sustain and envelope") {
  explain("Drag the marks on the line. Shift+F1: more",
          "The wave, pale before, full after. Line: the gain; hatched: gain reduction. Drag a mark up or down: "
          "gain, sideways: time. Page Up/Down: select. Arrows: move, Shift: finely.");
}

std::vector<ShapePicture::Mark> ShapePicture::marks() const {
  if (const auto* s = as<StrikeSustain>())
    return {{"strike", 0.0, s->strikeDb, {}, "strike_sustain.strike_db"},
            {"strike lasts", s->strikeMs, 0.5 * (s->strikeDb + s->sustainDb), "strike_sustain.strike_ms", {}},
            {"sustain", 2.5 * s->strikeMs, s->sustainDb, {}, "strike_sustain.sustain_db"}};
  if (const auto* e = as<AmpEnvelope>()) {
    const double held = e->attackMs + e->holdMs;
    return {{"attack", e->attackMs, 0.0, "envelope.attack_ms", {}},
            {"hold", held, 0.0, "envelope.hold_ms", {}, e->attackMs},
            {"decay, here by half", held + 0.5 * e->decayMs, -20.0, "envelope.decay_ms", {}, held}};
  }
  return {};
}

double ShapePicture::gainDb(double ms) const {
  if (const auto* s = as<StrikeSustain>()) return strikeSustainDb(*s, ms);
  if (const auto* e = as<AmpEnvelope>()) return dbFromAmplitude(std::max(1e-4, envelopeGain(*e, ms)));
  return 0.0;
}

double ShapePicture::mostDb() const {
  if (heldMostDb_) return *heldMostDb_;
  const auto* s = as<StrikeSustain>();
  return 3.0 + (s ? std::max({0.0, s->strikeDb, s->sustainDb}) : 0.0);
}

Axis ShapePicture::time() const {
  const auto* e = as<AmpEnvelope>();
  const auto* s = as<StrikeSustain>();
  const double wanted = e ? 1.15 * (e->attackMs + e->holdMs + e->decayMs) : s ? 8.0 * s->strikeMs : 200.0;
  const double whole =
      look()
          ? 1000.0 * (static_cast<double>(look()->before.size()) / look()->rate - ProcessorLook::kLeadSeconds)
          : 500.0;
  return {-5.0, std::clamp(std::max(wanted, std::min(whole, 400.0)), 60.0, 1500.0), plot().left(),
          plot().right()};
}

// Decibels from the top, scaled like the wave's amplitude: no reduction is at the top.
double ShapePicture::yOf(double db) const {
  const double share = amplitudeFromDb(std::max(-60.0, db) - mostDb());
  return plot().center().y() - 0.5 * plot().height() * share;
}

QPointF ShapePicture::markAt(size_t mark) const {
  const auto all = marks();
  return mark < all.size() ? QPointF(time().pixel(all[mark].ms), yOf(all[mark].db)) : QPointF(-1, -1);
}

void ShapePicture::drawScale(QPainter& p) const {
  const Theme& t = theme();
  p.setFont(axisFont());
  for (const double db : {12.0, 6.0, 0.0, -6.0, -12.0}) {
    const double y = std::round(yOf(db)) + 0.5;
    if (y < plot().top() - 1) continue;
    p.setPen(rulePen(db == 0.0 ? t.muted : t.rule));
    p.drawLine(QPointF(plot().left(), y), QPointF(plot().right(), y));
    drawLabel(p, QPointF(plot().left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
              (db > 0 ? "+" : "") + QString::number(db) + (db == 0.0 ? " dB" : ""), t.muted,
              QColor(0, 0, 0, 0));
  }
  drawTicksBelow(p, time(), plot().bottom(), roundTicks(0, time().to, 8),
                 [](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
}

void ShapePicture::drawWaves(QPainter& p) const {
  const Axis x = time();
  const ProcessorLook& l = *look();
  float most = 0.001f;
  for (const float v : l.before) most = std::max(most, std::abs(v));
  const auto scale = static_cast<float>(amplitudeFromDb(-mostDb())) / most;
  const double perPixel = (x.to - x.from) / 1000.0 * l.rate / plot().width();
  const auto lead = static_cast<int64_t>((1000.0 * ProcessorLook::kLeadSeconds + x.from) / 1000.0 * l.rate);
  auto reader = [=](const std::vector<float>& wave) {
    return [&wave, scale, lead](int64_t i) {
      const int64_t at = i + lead;
      return at >= 0 && at < static_cast<int64_t>(wave.size()) ? scale * wave[static_cast<size_t>(at)] : 0.0f;
    };
  };
  const double mid = plot().center().y();
  const bool in = processor()->isOn();
  drawWave(p, plot().left(), plot().right(), mid, plot().height(), 0.0, perPixel, reader(l.before),
           withAlpha(ink(), in ? 0.25 : 0.7));
  if (in)
    drawWave(p, plot().left(), plot().right(), mid, plot().height(), 0.0, perPixel, reader(l.after),
             withAlpha(ink(), 0.8));
}

void ShapePicture::drawGain(QPainter& p) const {
  const Theme& t = theme();
  const Axis x = time();
  QPolygonF line;
  for (double px = x.pixel(0.0); px <= plot().right(); px += 1.0) line << QPointF(px, yOf(gainDb(x.value(px))));
  if (line.isEmpty()) return;
  QPolygonF taken = line;
  for (QPointF& point : taken) point.setY(std::max(point.y(), yOf(0.0)));
  taken << QPointF(line.back().x(), yOf(0.0)) << QPointF(line.front().x(), yOf(0.0));
  const bool in = processor()->isOn();
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(QBrush(withAlpha(t.ink, in ? 0.35 : 0.15), Qt::BDiagPattern));
  p.drawPolygon(taken);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(in ? t.ink : t.muted, 1.5, in ? Qt::SolidLine : Qt::DashLine));
  p.drawPolyline(line);
  const auto all = marks();
  for (size_t i = 0; i < all.size(); ++i) {
    const bool chosen = i == std::min(chosen_, all.size() - 1);
    drawPointMark(p, markAt(i), chosen);
    if (!chosen) continue;
    QString words = all[i].word;
    if (!all[i].dbKey.empty()) words += " " + dbText(all[i].db);
    if (!all[i].timeKey.empty())
      words += QString(" %1 ms").arg(QString::fromStdString(formatNumber(
          (all[i].ms - all[i].timeLess) * (all[i].timeKey == "envelope.decay_ms" ? 2.0 : 1.0), 1)));
    p.setFont(axisFont(true));
    const bool roomAfter = markAt(i).x() < plot().right() - 140;
    drawLabel(p, markAt(i) + QPointF(roomAfter ? 10 : -10, -10),
              (roomAfter ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignBottom, words, t.ink, t.panel);
  }
  p.setRenderHint(QPainter::Antialiasing, false);
}

void ShapePicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!look() || look()->before.empty() || marks().empty()) return drawNothing(p);
  drawScale(p);
  drawWaves(p);
  drawGain(p);
  p.setFont(axisFont());
  drawLabel(p, QPointF(plot().left(), 2), Qt::AlignLeft | Qt::AlignTop,
            withKept(processor()->isOn() ? "before pale, behind it full; from the strike on" : "this is off"),
            theme().ink, theme().panel);
}

std::optional<size_t> ShapePicture::markUnder(const QPointF& at) const {
  for (size_t i = 0; i < marks().size(); ++i)
    if (std::hypot(markAt(i).x() - at.x(), markAt(i).y() - at.y()) < 10.0) return i;
  return std::nullopt;
}

void ShapePicture::move(const Mark& mark, double ms, double db, bool dragged) {
  std::vector<ValuePut> values;
  if (!mark.dbKey.empty()) values.push_back({mark.dbKey, std::round(10.0 * db) / 10.0});
  if (!mark.timeKey.empty()) {
    const double own = (ms - mark.timeLess) * (mark.timeKey == "envelope.decay_ms" ? 2.0 : 1.0);
    values.push_back({mark.timeKey, std::round(10.0 * std::max(0.0, own)) / 10.0});
  }
  put("move " + mark.word.section(',', 0, 0).toStdString(), std::move(values), dragged);
}

void ShapePicture::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  held_ = markUnder(event->position());
  if (!held_) return;
  chosen_ = *held_, heldMostDb_ = mostDb();
  update();
}

void ShapePicture::mouseMoveEvent(QMouseEvent* event) {
  const QPointF at = event->position();
  const auto all = marks();
  if (!held_ || *held_ >= all.size()) {
    setCursor(markUnder(at) ? Qt::SizeAllCursor : Qt::ArrowCursor);
    return;
  }
  const double share = std::max(1e-3, (plot().center().y() - at.y()) / (0.5 * plot().height()));
  move(all[*held_], time().value(at.x()), dbFromAmplitude(share) + mostDb(), true);
}

void ShapePicture::mouseReleaseEvent(QMouseEvent*) {
  heldMostDb_.reset();
  if (std::exchange(held_, std::nullopt)) endDrag();
  update();
}

void ShapePicture::keyPressEvent(QKeyEvent* event) {
  const auto all = marks();
  const int key = event->key();
  if (all.empty()) return QWidget::keyPressEvent(event);
  chosen_ = std::min(chosen_, all.size() - 1);
  if (key == Qt::Key_PageDown || key == Qt::Key_PageUp) {
    chosen_ = steppedPoint(chosen_, key == Qt::Key_PageDown ? 1 : -1, all.size());
    return update();
  }
  const int side = key == Qt::Key_Right ? 1 : key == Qt::Key_Left ? -1 : 0;
  const int up = key == Qt::Key_Up ? 1 : key == Qt::Key_Down ? -1 : 0;
  const bool fine = event->modifiers() & Qt::ShiftModifier;
  const Mark& mark = all[chosen_];
  if ((side && mark.timeKey.empty()) || (up && mark.dbKey.empty()) || (!side && !up))
    return QWidget::keyPressEvent(event);
  move(mark, mark.ms + side * (fine ? 0.1 : 1.0), mark.db + up * (fine ? 0.1 : 0.5), false);
}

}  // namespace heft::app
