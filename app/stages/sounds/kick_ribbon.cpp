#include "app/stages/sounds/kick_ribbon.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/pictures/wave.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"
#include "core/voices/bend.h"

namespace heft::app {
namespace {

constexpr double kGrab = 9.0;

QString midiText(double midi, const NoteStyle& style) {
  return QString::fromStdString(pitchText(midi, style));
}

}  // namespace

KickRibbon::KickRibbon(LayerChoice& choice, Selection& selection)
    : Picture(choice.document(), selection, "Kick ribbon"), choice_(choice) {
  explain(
      "Drag the circles to shape the fall; double-click: add a point. Shift+F1: more",
      "Drag the circles for the pitch fall, the capsules to bend it, the shelf for the landing (Alt: no snap), "
      "the end for length, the ring for decay. Double-click: add a point. Delete: remove. Tab: next handle. "
      "Arrows: nudge, Shift: finely.");
  connect(&choice_, &LayerChoice::changed, this, qOverload<>(&QWidget::update));
}

const KickVoice* KickRibbon::voice() const {
  const Layer* l = choice_.layer();
  return l && l->kickVoice() ? &*l->kickVoice() : nullptr;
}

double KickRibbon::lengthMs() const {
  return voice() ? voice()->length.toMs(track().tempoBpm) : 250.0;
}

QRectF KickRibbon::plot() const {
  return QRectF(QPointF(156, 14), QPointF(width() - 20.0, height() - 30.0));
}

Axis KickRibbon::timeAxis() const {
  const double most = 1.12 * lengthMs();
  if (heldTime_ && (held_.grip != Grip::None || heldTime_->holds(lengthMs()))) return *heldTime_;
  return {-0.012 * most, most, plot().left(), plot().right()};
}

Axis KickRibbon::pitchAxis() const {
  double highest = 12.0, lowest = 0.0;
  if (voice())
    for (const FallPoint& p : voice()->fall)
      highest = std::max(highest, p.semitones), lowest = std::min(lowest, p.semitones);
  const double landing = voice() ? voice()->landingMidi : 33.0;
  // Held during a drag, unless an edit from elsewhere leaves it.
  const bool still = heldPitch_ && heldPitch_->holds(landing + lowest) && heldPitch_->holds(landing + highest);
  if (heldPitch_ && (held_.grip != Grip::None || still)) return *heldPitch_;
  return {landing + lowest - 4.0, landing + highest + 3.0, plot().bottom(), plot().top()};
}

double KickRibbon::spineY(double at) const {
  return pitchAxis().pixel(voice()->landingMidi + fallSemitones(*voice(), at));
}

// The square root of the level, so that a tail stays visible.
double KickRibbon::halfThickness(double at) const {
  const double rise = voice()->attackMs > 0.0 ? std::clamp(at * lengthMs() / voice()->attackMs, 0.0, 1.0) : 1.0;
  return std::max(0.6, kThickest * std::sqrt(rise * amplitudeFromDb(decayDb(*voice(), at))));
}

std::vector<KickRibbon::Handle> KickRibbon::handles() const {
  std::vector<Handle> out{{Grip::Strike, 0}};
  if (!voice()) return out;
  for (size_t i = 0; i < voice()->fall.size(); ++i)
    out.push_back({Grip::Point, i}), out.push_back({Grip::Bend, i});
  for (Grip grip : {Grip::LandingAt, Grip::Landing, Grip::Hold, Grip::Decay, Grip::End})
    out.push_back({grip, 0});
  return out;
}

QPointF KickRibbon::place(const Handle& h) const {
  const KickVoice& v = *voice();
  switch (h.grip) {
    case Grip::Point:
      return {pixelOf(v.fall[h.index].at), pitchAxis().pixel(v.landingMidi + v.fall[h.index].semitones)};
    case Grip::Bend: {
      const double end = h.index + 1 < v.fall.size() ? v.fall[h.index + 1].at : v.landingAt;
      const double middle = 0.5 * (v.fall[h.index].at + end);
      return {pixelOf(middle), spineY(middle)};
    }
    case Grip::LandingAt:
      return {pixelOf(v.landingAt), spineY(1.0)};
    case Grip::Landing:
      return {pixelOf(0.5 * (v.landingAt + 1.0)), spineY(1.0)};
    case Grip::Hold:
      return {pixelOf(v.hold), spineY(v.hold) - halfThickness(v.hold)};
    case Grip::Decay: {
      const double at = 0.5 * (v.hold + 1.0);
      return {pixelOf(at) + 24.0, spineY(at) + halfThickness(at)};
    }
    case Grip::End:
      return {pixelOf(1.0), spineY(1.0)};
    case Grip::Strike:
    case Grip::None:
      break;
  }
  return strikeBox().center();
}

QPointF KickRibbon::shelfAt(double midi) const {
  return {place({Grip::Landing, 0}).x(), pitchAxis().pixel(midi)};
}

KickRibbon::Handle KickRibbon::handleAt(const QPointF& at) const {
  if (!voice()) return {};
  if (strikeBox().contains(at)) return {Grip::Strike, 0};
  Handle best;
  double nearest = kGrab;
  for (const Handle& h : handles()) {
    if (h.grip == Grip::Strike) continue;
    const QPointF d = place(h) - at;
    const double away = std::hypot(d.x(), d.y());
    if (away < nearest) nearest = away, best = h;
  }
  if (best.grip != Grip::None) return best;
  // The end's whole line, and the whole shelf.
  if (std::abs(at.x() - pixelOf(1.0)) < 6.0 && plot().contains(at)) return {Grip::End, 0};
  if (at.x() > pixelOf(voice()->landingAt) && at.x() < pixelOf(1.0) && std::abs(at.y() - spineY(1.0)) < 8.0)
    return {Grip::Landing, 0};
  return best;
}

void KickRibbon::drawRules(QPainter& p) const {
  const Theme& t = theme();
  const QRectF area = plot();
  const Axis pitch = pitchAxis(), time = timeAxis();
  p.setFont(axisFont());
  for (int midi = static_cast<int>(std::ceil(pitch.from)); midi <= pitch.to; ++midi) {
    if (!track().key.contains(midi)) continue;
    const bool tonic = (midi + 120) % 12 == track().key.tonic;
    const double y = std::round(pitch.pixel(midi)) + 0.5;
    p.setPen(QPen(tonic ? withAlpha(t.muted, 0.75) : t.rule, 1.0));
    p.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
    const bool landing = voice() && std::abs(midi - voice()->landingMidi) < 0.005;
    if (tonic || landing)
      drawLabel(p, QPointF(area.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
                QString::fromStdString(noteName(midi, track().notes)), tonic ? t.ink : t.muted, t.panel);
  }
  const double sixteenth = 15000.0 / track().tempoBpm;
  if (time.holds(sixteenth)) {
    const double x = std::round(time.pixel(sixteenth)) + 0.5;
    p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
    p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
    drawLabel(p, QPointF(x + 5, area.top()), Qt::AlignLeft | Qt::AlignTop, "1/16", t.muted, t.panel);
  }
  drawTicksBelow(p, time, area.bottom() + 2, roundTicks(0, time.to, 7),
                 [](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
}

void KickRibbon::drawRibbon(QPainter& p) const {
  const Theme& t = theme();
  QPolygonF spine, upper, lower;
  const double step = 1.0 / std::max(60.0, plot().width());
  for (double at = 0.0; at <= 1.1; at += step) {
    const QPointF here(pixelOf(at), spineY(at));
    if (here.x() > plot().right()) break;
    const double before = spineY(std::max(0.0, at - step)), after = spineY(at + step);
    // Thickness is measured across the ribbon, whichever way it runs.
    const QPointF along(pixelOf(at + step) - pixelOf(std::max(0.0, at - step)), after - before);
    const double length = std::max(1e-6, std::hypot(along.x(), along.y()));
    const QPointF across(-along.y() / length, along.x() / length);
    spine << here;
    upper << here - across * halfThickness(at);
    lower.prepend(here + across * halfThickness(at));
  }
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(withAlpha(colourOf(choice_.part()), 0.78));
  p.drawPolygon(upper + lower, Qt::WindingFill);
  p.setBrush(Qt::NoBrush);
  QPen dashed(t.panel, 1.0, Qt::DashLine);
  p.setPen(dashed);
  p.drawPolyline(spine);
}

void KickRibbon::drawStrike(QPainter& p) const {
  const Theme& t = theme();
  const Strike& s = voice()->strike;
  const QRectF box = strikeBox();
  p.setRenderHint(QPainter::Antialiasing, false);
  const bool focus = chosen_.grip == Grip::Strike && hasFocus();
  p.setPen(QPen(s.on ? t.ink : t.muted, focus ? 2.0 : 1.0, s.on ? Qt::SolidLine : Qt::DashLine));
  p.drawRect(box);
  p.setFont(axisFont(s.on));
  p.setPen(s.on ? t.ink : t.muted);
  p.drawText(box.adjusted(8, 6, -6, 0), Qt::AlignLeft | Qt::AlignTop, "Strike");
  p.setFont(axisFont());
  if (!s.on) {
    p.drawText(box.adjusted(8, 0, -8, 0), Qt::AlignCenter | Qt::TextWordWrap, "click to add a strike");
    return;
  }
  const auto wave = strikeWave(s, track().notes.a4Hz, 48000.0);
  const auto count = static_cast<int64_t>(static_cast<double>(wave.size()) * 0.7);
  if (box.height() > 150)
    drawWave(
        p, box.left() + 8, box.right() - 8, box.center().y() - 12, std::min(110.0, box.height() - 96), 0,
        static_cast<double>(count) / (box.width() - 16),
        [&](int64_t i) { return i >= 0 && i < count ? wave[static_cast<size_t>(i)] : 0.0f; },
        colourOf(choice_.part()));
  const QStringList lines{nameOf(s.kind), midiText(s.pitchMidi, track().notes), dbText(s.levelDb) + ",",
                          QString::fromStdString(formatNumber(s.lengthMs, 1)) + " ms"};
  p.setPen(t.muted);
  for (int i = box.height() > 90 ? 0 : 2; i < lines.size(); ++i)
    p.drawText(QPointF(box.left() + 8, box.bottom() - 8 - 14.0 * static_cast<double>(lines.size() - 1 - i)),
               p.fontMetrics().elidedText(lines[i], Qt::ElideRight, static_cast<int>(box.width()) - 14));
}

void KickRibbon::drawHandles(QPainter& p) const {
  for (const Handle& h : handles()) {
    if (h.grip == Grip::Strike) continue;
    const QPointF c = place(h);
    const bool on = h == chosen_ && hasFocus();
    if (h.grip == Grip::Bend)
      drawBendGrip(p, c, on);
    else if (h.grip == Grip::Point || h.grip == Grip::LandingAt)
      drawGrip(p, c, on, 4.5);
    else if (h.grip == Grip::Hold || h.grip == Grip::Decay)
      drawGrip(p, c, on, 3.5);
  }
}

// The landing's shelf with its note, and the end with the length.
void KickRibbon::drawLabels(QPainter& p) const {
  const Theme& t = theme();
  const KickVoice& v = *voice();
  p.setRenderHint(QPainter::Antialiasing, false);
  const double x = std::round(pixelOf(1.0)) + 0.5, y = spineY(1.0);
  p.setPen(QPen(t.ink, chosen_.grip == Grip::End && hasFocus() ? 2.0 : 1.0));
  p.drawLine(QPointF(x, plot().top() + 18), QPointF(x, y + 14));
  p.setFont(axisFont());
  const double shelf = std::round(std::min(y + 22.0, plot().bottom() - 6.0)) + 0.5;
  const double from = std::round(pixelOf(v.landingAt)) + 0.5;
  p.setPen(QPen(t.ink, chosen_.grip == Grip::Landing && hasFocus() ? 2.0 : 1.0));
  p.drawLine(QPointF(from, shelf), QPointF(x, shelf));
  p.drawLine(QPointF(from, shelf - 4), QPointF(from, shelf + 4));
  p.drawLine(QPointF(x, shelf - 4), QPointF(x, shelf + 4));
  const QString landing = "lands on " + midiText(v.landingMidi, track().notes) + ", " +
                          QString::fromStdString(hzText(hzFromMidi(v.landingMidi, track().notes.a4Hz)));
  drawLabel(p, QPointF(from + 0.62 * (x - from), shelf), Qt::AlignHCenter | Qt::AlignVCenter, landing, t.ink,
            t.panel);
  drawLabel(p, QPointF(x - 5, plot().top() + 16), Qt::AlignRight | Qt::AlignTop,
            timeText(v.length, track().tempoBpm) + " to -40 dB", t.ink, t.panel);
  const QPointF first = place({Grip::Point, 0});
  drawLabel(p, first + QPointF(20, -4), Qt::AlignLeft | Qt::AlignBottom,
            "starts " + QString::fromStdString(formatNumber(v.fall.front().semitones, 1)) + " st above, on " +
                midiText(v.landingMidi + v.fall.front().semitones, track().notes),
            colourOf(choice_.part()), t.panel);
}

void KickRibbon::paintEvent(QPaintEvent*) {
  if (!voice()) return;
  QPainter p(this);
  drawRules(p);
  drawStrike(p);
  drawRibbon(p);
  drawLabels(p);
  drawHandles(p);
}

}  // namespace heft::app
