#include "app/stages/kick_ribbon.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/theory/text.h"
#include "core/voices/bend.h"

namespace heft::app {
namespace {

constexpr double kThickest = 15.0, kGrab = 9.0;

QString midiText(double midi, const NoteStyle& style) {
  return QString::fromStdString(pitchText(midi, style));
}

}  // namespace

KickRibbon::KickRibbon(LayerChoice& choice, Selection& selection)
    : Picture(choice.document(), selection, "Kick ribbon"), choice_(choice) {
  explain("Drag the circles to shape the kick; double-click for another point. Shift+F1 tells all.",
          "Drag the circles to shape the fall, the capsules between them to bend it, the shelf up and down to "
          "move the landing (it locks to notes; Alt leaves them), the end for the length, the ring on the edge "
          "for how the level decays. Double-click the ribbon for another point, Delete takes the chosen one "
          "away. Tab goes from one handle to the next, arrows nudge it, Shift finely.");
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
  // Held while the hand is on it, unless an edit from elsewhere has left it.
  const bool still = heldPitch_ && heldPitch_->holds(landing + lowest) && heldPitch_->holds(landing + highest);
  if (heldPitch_ && (held_.grip != Grip::None || still)) return *heldPitch_;
  return {landing + lowest - 4.0, landing + highest + 3.0, plot().bottom(), plot().top()};
}

double KickRibbon::spineY(double at) const {
  return pitchAxis().pixel(voice()->landingMidi + fallSemitones(*voice(), at));
}

// The level's square root, so that a tail can still be seen.
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
  p.setBrush(withAlpha(t.kick, 0.78));
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
    p.drawText(box.adjusted(8, 0, -8, 0), Qt::AlignCenter | Qt::TextWordWrap,
               "click to put one before the ribbon");
    return;
  }
  const auto wave = strikeWave(s, track().notes.a4Hz, 48000.0);
  const auto count = static_cast<int64_t>(static_cast<double>(wave.size()) * 0.7);
  if (box.height() > 150)
    drawWave(
        p, box.left() + 8, box.right() - 8, box.center().y() - 12, std::min(110.0, box.height() - 96), 0,
        static_cast<double>(count) / (box.width() - 16),
        [&](int64_t i) { return i >= 0 && i < count ? wave[static_cast<size_t>(i)] : 0.0f; }, t.kick);
  const QStringList lines{strikeName(s.kind), midiText(s.pitchMidi, track().notes), dbText(s.levelDb) + ",",
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
            t.kick, t.panel);
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

void KickRibbon::change(const QString& name, const std::function<void(KickVoice&)>& change) {
  choice_.edit(
      name,
      [&](Layer& l) {
        if (l.kickVoice()) change(*l.kickVoice());
      },
      name);
}

void KickRibbon::removePoint(size_t index) {
  if (voice() && index > 0 && index < voice()->fall.size())
    choice_.edit("remove point of fall", [&](Layer& l) {
      l.kickVoice()->fall.erase(l.kickVoice()->fall.begin() + static_cast<ptrdiff_t>(index));
    });
  chosen_ = {Grip::Point, 0};
}

void KickRibbon::drag(const QPointF& at, bool free) {
  const double part = std::clamp(timeAxis().value(at.x()) / lengthMs(), 0.0, 1.0),
               midi = pitchAxis().value(at.y());
  const double note = free ? midi : std::round(midi);
  const size_t i = held_.index;
  switch (held_.grip) {
    case Grip::Point:
      return change("shape fall", [&](KickVoice& v) {
        if (i >= v.fall.size()) return;
        const double low = i == 0 ? 0.0 : v.fall[i - 1].at + 0.005;
        const double high = i == 0 ? 0.0 : (i + 1 < v.fall.size() ? v.fall[i + 1].at : v.landingAt) - 0.005;
        v.fall[i].at = std::clamp(part, low, std::max(low, high));
        v.fall[i].semitones = std::clamp(note - v.landingMidi, -24.0, 60.0);
      });
    case Grip::Bend:
      return change("bend fall", [&](KickVoice& v) {
        // Where the middle of the segment should pass: half way gone is a straight one.
        const double end = i + 1 < v.fall.size() ? v.fall[i + 1].semitones : 0.0, start = v.fall[i].semitones;
        if (std::abs(end - start) < 0.1) return;
        v.fall[i].bend = bendFor((midi - v.landingMidi - start) / (end - start));
      });
    case Grip::LandingAt:
      return change("move where the kick lands", [&](KickVoice& v) {
        v.landingAt = std::clamp(part, std::min(1.0, v.fall.back().at + 0.02), 1.0);
      });
    case Grip::Landing:
      return change("move landing", [&](KickVoice& v) { v.landingMidi = std::clamp(note, 12.0, 80.0); });
    case Grip::Hold:
      return change("hold kick", [&](KickVoice& v) { v.hold = std::clamp(part, 0.0, 0.9); });
    case Grip::Decay:
      return change("bend decay", [&](KickVoice& v) {
        // The edge's distance from the spine is a level; half way through the decay that is -40 dB / 2^power.
        const double half = std::clamp(std::abs(at.y() - spineY(0.5 * (v.hold + 1.0))), 0.7, kThickest - 0.1);
        const double db = std::clamp(2.0 * 20.0 * std::log10(half / kThickest), -39.0, -0.5);
        v.decayBend = std::clamp(std::log2(std::log2(-40.0 / db)) / 1.5, -1.0, 1.0);
      });
    case Grip::End:
      return change("set kick length", [&](KickVoice& v) {
        const double ms = std::clamp(timeAxis().value(at.x()), 20.0, 5000.0),
                     sixteenth = 15000.0 / track().tempoBpm;
        const double nearest = std::max(1.0, std::round(2.0 * ms / sixteenth)) / 2.0;
        v.length = TimeValue::milliseconds(std::round(ms));
        if (!free && std::abs(timeAxis().pixel(nearest * sixteenth) - at.x()) < 8.0) {
          int count = static_cast<int>(std::lround(2.0 * nearest)), under = 32;
          while (count % 2 == 0 && under > 1) count /= 2, under /= 2;
          v.length = TimeValue::note(count, under);
        }
      });
    case Grip::Strike:
    case Grip::None:
      return;
  }
}

void KickRibbon::mousePressEvent(QMouseEvent* event) {
  if (!voice() || event->button() != Qt::LeftButton) return;
  held_ = chosen_ = handleAt(event->position());
  if (held_.grip == Grip::Strike) {
    if (!voice()->strike.on)
      choice_.edit("put a strike before the kick", [](Layer& l) { l.kickVoice()->strike.on = true; });
    Q_EMIT strikeChosen();
  } else if (held_.grip != Grip::None) {
    const Axis time = timeAxis(), pitch = pitchAxis();
    heldTime_ = time, heldPitch_ = pitch;
  }
  update();
}

void KickRibbon::mouseMoveEvent(QMouseEvent* event) {
  if (!voice()) return;
  if (held_.grip != Grip::None && held_.grip != Grip::Strike && (event->buttons() & Qt::LeftButton))
    return drag(event->position(), event->modifiers() & Qt::AltModifier);
  const Grip over = handleAt(event->position()).grip;
  setCursor(over == Grip::None                                                   ? Qt::ArrowCursor
            : over == Grip::Strike                                               ? Qt::PointingHandCursor
            : over == Grip::End || over == Grip::LandingAt || over == Grip::Hold ? Qt::SizeHorCursor
            : over == Grip::Point                                                ? Qt::SizeAllCursor
                                                                                 : Qt::SizeVerCursor);
}

void KickRibbon::mouseReleaseEvent(QMouseEvent*) {
  held_ = {};
  document().endDrag();
  update();
}

void KickRibbon::leaveEvent(QEvent*) {
  if (held_.grip == Grip::None) heldTime_.reset(), heldPitch_.reset();
  update();
}

void KickRibbon::mouseDoubleClickEvent(QMouseEvent* event) {
  if (!voice() || handleAt(event->position()).grip == Grip::Point || voice()->fall.size() >= 32) return;
  const double part = timeAxis().value(event->position().x()) / lengthMs();
  if (part <= 0.005 || part >= voice()->landingAt - 0.005) return;
  size_t at = 0;
  choice_.edit("add point to fall", [&](Layer& l) {
    auto& fall = l.kickVoice()->fall;
    const double here = fallSemitones(*l.kickVoice(), part);
    while (at < fall.size() && fall[at].at <= part) ++at;
    fall.insert(fall.begin() + static_cast<ptrdiff_t>(at), FallPoint{part, here, fall[at - 1].bend});
  });
  chosen_ = {Grip::Point, at};
}

void KickRibbon::nudge(int x, int y, bool fine) {
  const double dx = x * (fine ? 0.001 : 0.01), dy = y * (fine ? 0.05 : 1.0);
  const size_t i = chosen_.index;
  change("nudge " + QString(chosen_.grip == Grip::Landing ? "landing"
                            : chosen_.grip == Grip::End   ? "length"
                                                          : "kick"),
         [&](KickVoice& v) {
           switch (chosen_.grip) {
             case Grip::Point:
               if (i < v.fall.size()) {
                 if (i > 0) {
                   const double low = v.fall[i - 1].at + 0.005;
                   const double high = (i + 1 < v.fall.size() ? v.fall[i + 1].at : v.landingAt) - 0.005;
                   v.fall[i].at = std::clamp(v.fall[i].at + dx, low, std::max(low, high));
                 }
                 v.fall[i].semitones = std::clamp(v.fall[i].semitones + dy, -24.0, 60.0);
               }
               break;
             case Grip::Bend:
               v.fall[i].bend = std::clamp(v.fall[i].bend - y * (fine ? 0.01 : 0.1), -1.0, 1.0);
               break;
             case Grip::LandingAt:
               v.landingAt = std::clamp(v.landingAt + dx, std::min(1.0, v.fall.back().at + 0.02), 1.0);
               break;
             case Grip::Landing:
               v.landingMidi = std::clamp(v.landingMidi + (fine ? y * 0.01 : y), 12.0, 80.0);
               break;
             case Grip::Hold:
               v.hold = std::clamp(v.hold + dx, 0.0, 0.9);
               break;
             case Grip::Decay:
               v.decayBend = std::clamp(v.decayBend + (x + y) * (fine ? 0.01 : 0.05), -1.0, 1.0);
               break;
             case Grip::End:
               v.length = TimeValue::milliseconds(std::clamp(
                   std::round(v.length.toMs(track().tempoBpm)) + x * (fine ? 1.0 : 5.0), 20.0, 5000.0));
               break;
             case Grip::Strike:
             case Grip::None:
               break;
           }
         });
}

// Tab goes through the handles, then on to the next widget.
bool KickRibbon::focusNextPrevChild(bool next) {
  const auto all = handles();
  const auto here = std::find(all.begin(), all.end(), chosen_) - all.begin(),
             count = static_cast<ptrdiff_t>(all.size());
  const auto to = here == count ? (next ? 0 : count - 1) : here + (next ? 1 : -1);
  chosen_ = to >= 0 && to < count ? all[static_cast<size_t>(to)] : Handle{};
  update();
  return (to >= 0 && to < count) || Picture::focusNextPrevChild(next);
}

void KickRibbon::keyPressEvent(QKeyEvent* event) {
  if (!voice()) return QWidget::keyPressEvent(event);
  const bool fine = event->modifiers() & Qt::ShiftModifier;
  switch (event->key()) {
    case Qt::Key_Left:
      nudge(-1, 0, fine);
      break;
    case Qt::Key_Right:
      nudge(1, 0, fine);
      break;
    case Qt::Key_Up:
      nudge(0, 1, fine);
      break;
    case Qt::Key_Down:
      nudge(0, -1, fine);
      break;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
      if (chosen_.grip == Grip::Point) removePoint(chosen_.index);
      if (chosen_.grip == Grip::Strike)
        choice_.edit("take the strike away", [](Layer& l) { l.kickVoice()->strike.on = false; });
      break;
    default:
      return QWidget::keyPressEvent(event);
  }
  event->accept();
  update();
}

}  // namespace heft::app
