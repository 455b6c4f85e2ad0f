#include "app/stages/sounds/wave_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/pictures/wave.h"
#include "app/stages/sounds/layer_slip.h"
#include "app/theme/theme.h"
#include "app/widgets/free_hand.h"
#include "core/measure/levels/levels.h"
#include "core/render/sounds/sounds.h"
#include "core/session/edits/split.h"
#include "core/session/edits/values.h"
#include "core/theory/text.h"

namespace heft::app {

WavePicture::WavePicture(LayerChoice& choice, Selection& selection)
    : Picture(choice.document(), selection, "Wave"), choice_(choice) {
  explain("Drag the length, the start and the fades. Shift+F1: more",
          "The chosen sound. Drag the length (snaps to note lengths; Alt: no snap), the start and the fades. "
          "Double-click a trimmed tail's dashed fade: add a point. Page Up/Down: select a point. Arrows: move "
          "it. Delete: remove. Ctrl+wheel, Ctrl+Plus, Ctrl+Minus: zoom. Wheel: scroll. Ctrl+0: fit.");
  connect(&choice_, &LayerChoice::changed, this, &WavePicture::takeSound);
  for (auto signal : {&Document::rendered, &Document::studied, &Document::replaced})
    connect(&choice_.document(), signal, this, &WavePicture::takeSound);
  takeSound();
}

namespace {

// Until it stays 60 dB below its peak.
double soundingSeconds(const AudioBuffer& sound) {
  const float least = 0.001f * static_cast<float>(peakOf(sound));
  size_t last = 0;
  for (const auto& channel : sound.channels)
    for (size_t i = channel.size(); i > last; --i)
      if (std::abs(channel[i - 1]) > least) last = i;
  return static_cast<double>(last) / sound.sampleRate;
}

}  // namespace

// As rendered: a kick's layer as heard, a bass's as recorded.
void WavePicture::takeSound() {
  sound_.reset(), other_.reset();
  onsetSeconds_ = tailMs_ = 0.0;
  const Layer* l = choice_.layer();
  const Session& s = document().session();
  if (const std::pair of(choice_.place(), l ? l->id : 0); of != viewOf_) viewOf_ = of, view_.reset();
  if (l && l->isBuilt()) return;
  if (choice_.isSum()) {
    // A song's sum is in the strip: nothing here reads all of it.
    if (const Stems* stems = document().stems(); stems && stems->span.wraps)
      sound_ = std::make_shared<const AudioBuffer>(stems->sum.toBuffer(stems->sampleRate));
  } else if (isKick() && l) {
    if (const LayerSound* made = document().layerSound(choice_.part().id, l->id))
      sound_ = made->sound, onsetSeconds_ = made->onsetSeconds,
      tailMs_ = made->figures ? made->figures->tailMs : 0.0;
    const Layer* other = otherSideOf(choice_.part(), *l);
    if (const LayerSound* made = other ? document().layerSound(choice_.part().id, other->id) : nullptr)
      other_ = made->sound;
  } else if (l || choice_.isBacking()) {
    sound_ = document().assets().sound(l ? l->asset() : s.backing.asset);
    const Study* study = document().study();
    if (choice_.playsNotes() && study && study->pair.bass.sound && l == s.bassLayer())
      onsetSeconds_ = study->pair.bass.sound->onsetSeconds.value_or(0.0);
  }
  soundsMs_ = endMs();
  if (sound_ && l) soundsMs_ = std::min(soundsMs_, 1000.0 * (soundingSeconds(*sound_) - onsetSeconds_) * 1.05);
  update();
}

Axis WavePicture::timeAxis() const {
  if (heldTime_) return *heldTime_;
  Axis out = wholeAxis();
  if (view_) out.from = std::max(out.from, view_->first), out.to = std::min(out.to, view_->second);
  return out;
}

void WavePicture::scrollTo(double fromMs) {
  if (!view_) return;
  const Axis whole = wholeAxis();
  const double span = view_->second - view_->first, from = std::clamp(fromMs, whole.from, whole.to - span);
  view_ = std::pair(from, from + span);
  update();
}

void WavePicture::zoom(double factor, double ms) {
  constexpr double kLeastMs = 4.0;
  const Axis now = timeAxis(), whole = wholeAxis();
  const double span = std::max(kLeastMs, (now.to - now.from) * factor);
  if (!sound_ || grip_ != Grip::None) return;
  view_.reset();
  if (span < whole.to - whole.from) {
    view_ = std::pair(0.0, span);
    scrollTo(ms - (ms - now.from) * span / (now.to - now.from));
  }
  update();
}

void WavePicture::wheelEvent(QWheelEvent* event) {
  const double turned =
      (event->angleDelta().y() != 0 ? event->angleDelta().y() : event->angleDelta().x()) / 120.0;
  const Axis now = timeAxis();
  if (event->modifiers() & Qt::ControlModifier)
    zoom(std::pow(0.8, turned), std::clamp(now.value(event->position().x()), now.from, now.to));
  else if (view_)
    scrollTo(now.from - 0.1 * turned * (now.to - now.from));
  else
    return QWidget::wheelEvent(event);
  event->accept();
}

Axis WavePicture::wholeAxis() const {
  // As far as it sounds, since many files end in seconds of silence. A fade reaches to the file's end.
  const Layer* layer = choice_.layer();
  const bool whole = other_ || (layer && layer->shape.fadeOutMs > 0.0);
  const double end = other_ ? std::max(endMs(), (other_->seconds() - onsetSeconds_) * 1000.0) : endMs();
  const double longest = sound_ ? std::max(60.0, whole ? end : soundsMs_) : 100.0;
  const double most = isKick() ? std::max(longest, 1.3 * lengthMs()) : longest;
  return {std::min(-0.02 * most, -1020.0 * onsetSeconds_), most, plot().left(), plot().right()};
}

double WavePicture::lengthMs() const {
  const Layer* layer = choice_.layer();
  if (layer && layer->ownLength()) return layer->ownLength()->toMs(track().tempoBpm);
  const Study* s = document().study();
  if (!s || !s->pair.kick.sound || !sound_ || !isKick()) return 0.0;
  // The kick's length where it has one layer; else this layer's own.
  const Session& session = document().session();
  if (choice_.place() == kickOf(session) && session.kick().layers.size() < 2) return s->pair.kick.sound->tailMs;
  return tailMs_;
}

double WavePicture::endMs() const {
  return sound_ ? (sound_->seconds() - onsetSeconds_) * 1000.0 : 0.0;
}

QPointF WavePicture::handle(Grip grip) const {
  const LayerShape shape = choice_.layer() ? choice_.layer()->shape : LayerShape();
  const double first = -1000.0 * onsetSeconds_, low = plot().bottom() - 6;
  if (grip == Grip::Start) return {timeAxis().pixel(first), low};
  if (grip == Grip::FadeIn) return {timeAxis().pixel(first + shape.fadeInMs) + 12, low};
  if (grip == Grip::FadeOut)
    return {timeAxis().pixel(std::min(endMs() - shape.fadeOutMs, timeAxis().to)) - 6, low};
  if (const Recorded* r = grip == Grip::Bend ? trimmed() : nullptr) {
    const double share = 0.5 * (r->fade.from + 1.0), top = plot().top() + 18, bottom = plot().center().y();
    return {timeAxis().pixel(share * lengthMs()), bottom - (bottom - top) * r->fade.gainAt(share)};
  }
  if (grip == Grip::Cut) return {timeAxis().pixel(split() ? split()->atMs : 0.0), plot().center().y()};
  return {timeAxis().pixel(lengthMs()), plot().top() + 6};
}

const SoundSide* WavePicture::split() const {
  const Recorded* r = choice_.layer() ? choice_.layer()->recorded() : nullptr;
  return r && isKick() && r->split.side != Side::Whole ? &r->split : nullptr;
}

const Recorded* WavePicture::trimmed() const {
  const Recorded* r = choice_.layer() ? choice_.layer()->recorded() : nullptr;
  return r && isKick() && r->length ? r : nullptr;
}

// The cut as a line with the join hatched about it, and which side is which.
void WavePicture::drawCut(QPainter& p) const {
  if (!split()) return;
  const Theme& t = theme();
  const QRectF area = plot();
  const double x = handle(Grip::Cut).x(), half = 0.5 * split()->joinMs;
  const QRectF join(QPointF(timeAxis().pixel(split()->atMs - half), area.top() + 18),
                    QPointF(timeAxis().pixel(split()->atMs + half), area.bottom() - 14));
  p.fillRect(join, QBrush(t.muted, Qt::BDiagPattern));
  p.setPen(QPen(t.ink, grip_ == Grip::Cut ? 2.0 : 1.0));
  p.drawLine(QPointF(x, area.top() + 18), QPointF(x, area.bottom() - 14));
  p.setFont(axisFont());
  const bool strike = split()->side == Side::Strike;
  auto side = [&](const QString& words, bool chosen, double at, Qt::Alignment align) {
    drawLabel(p, QPointF(at, area.bottom() - 16), align | Qt::AlignBottom, words, chosen ? t.ink : t.muted,
              t.panel);
  };
  const double wide = QFontMetricsF(axisFont()).horizontalAdvance("strike") + 12;
  if (x - wide > area.left() - 40) side("strike", strike, x - 6, Qt::AlignRight);
  side("body", !strike, x + 6, Qt::AlignLeft);
  drawGrip(p, handle(Grip::Cut), grip_ == Grip::Cut, 3.5);
}

void WavePicture::drawHandles(QPainter& p) const {
  const Theme& t = theme();
  const QRectF area = plot();
  const Axis time = timeAxis();
  if (!choice_.layer()) return;
  const LayerShape& shape = choice_.layer()->shape;
  const double first = -1000.0 * onsetSeconds_;
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(t.muted, 1.0));
  const double in = time.pixel(first), out = time.pixel(endMs());
  if (shape.fadeInMs > 0)
    p.drawLine(QPointF(in, area.bottom() - 6), QPointF(handle(Grip::FadeIn).x() - 12, area.top() + 20));
  if (shape.fadeOutMs > 0)
    p.drawLine(QPointF(handle(Grip::FadeOut).x() + 6, area.top() + 20), QPointF(out, area.bottom() - 6));
  for (Grip grip : {Grip::Start, Grip::FadeIn, Grip::FadeOut}) {
    const QPointF c = handle(grip);
    if (grip == Grip::Start)
      drawBendGrip(p, c, grip == grip_);
    else
      drawGrip(p, c, grip == grip_);
  }
  p.setRenderHint(QPainter::Antialiasing, false);
  if (!isKick()) return;
  const QPointF length = handle(Grip::Length);
  p.setPen(QPen(t.ink, grip_ == Grip::Length || hasFocus() ? 2.0 : 1.0));
  p.drawLine(QPointF(length.x(), area.top()), QPointF(length.x(), area.bottom()));
  const QString words = QString::fromStdString(formatNumber(lengthMs(), 0)) + " ms to -40 dB";
  drawDimension(p, QPointF(time.pixel(0), length.y()), length, words, t.ink, t.panel);
  // For a short sound they are beside it.
  if (length.x() - time.pixel(0) < QFontMetricsF(axisFont()).horizontalAdvance(words) + 20) {
    p.setFont(axisFont());
    drawLabel(p, length + QPointF(10, 0), Qt::AlignLeft | Qt::AlignVCenter, words, t.ink, t.panel);
  }
  drawGrip(p, length, grip_ == Grip::Length, 3.5);
}

void WavePicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  if (!sound_)
    return drawEmpty(
        p, choice_.layer() && document().isBusy() ? "Measuring..."
           : choice_.isBacking()
               ? "Drop the rest of the track here: one audio file at the session tempo."
               : "Drop a kick on the kick's row and a bass on the bass's, or build them. Then place hits "
                 "and notes in the loop below.");
  const QRectF area = plot();
  const Axis time = timeAxis();
  const double sixteenth = 15000.0 / track().tempoBpm;
  p.setFont(axisFont());
  const bool fine = sixteenth / (time.to - time.from) * area.width() > 26.0;
  for (double at = fine ? sixteenth : 4 * sixteenth; at < time.to; at += fine ? sixteenth : 4 * sixteenth) {
    const double x = std::round(time.pixel(at)) + 0.5;
    p.setPen(QPen(t.rule, 1.0));
    p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
  }
  if (time.holds(sixteenth) && fine) {
    const double x = std::round(time.pixel(sixteenth)) + 0.5;
    p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
    p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
    drawLabel(p, QPointF(x + 5, area.bottom() - 2), Qt::AlignLeft | Qt::AlignBottom, "1/16", t.muted, t.panel);
  }
  const auto& samples = louderChannel(*sound_);
  const double peak = std::max({1e-6, peakOf(*sound_), other_ ? peakOf(*other_) : 0.0}),
               rate = sound_->sampleRate;
  const double perPixel = (time.to - time.from) / 1000.0 * rate / area.width();
  auto wave = [&](const std::vector<float>& of, const QColor& ink) {
    drawWave(p, area.left(), area.right(), area.center().y(), area.height() - 24,
             (onsetSeconds_ + time.from / 1000.0) * rate, perPixel,
             WaveReader(of, static_cast<float>(1.0 / peak)), ink);
  };
  if (other_) wave(louderChannel(*other_), t.muted);
  wave(samples, placeColour(document().session(), choice_.place()));
  p.setPen(rulePen(t.muted));
  p.drawLine(QPointF(area.left(), area.center().y()), QPointF(area.right(), area.center().y()));
  drawTicksBelow(p, time, area.bottom(), roundTicks(std::max(0.0, time.from), time.to, 8),
                 [](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
  // Zoomed in, handles may be out of view.
  if (view_) p.setClipRect(QRectF(area.left() - 8, 0, area.width() + 16, height()));
  drawFade(p);
  drawCut(p);
  drawHandles(p);
}

WavePicture::Grip WavePicture::gripAt(const QPointF& at) const {
  if (!sound_ || !choice_.layer()) return Grip::None;
  for (Grip grip : {Grip::FadeIn, Grip::FadeOut, Grip::Start})
    if (std::abs(at.x() - handle(grip).x()) < 7.0 && std::abs(at.y() - handle(grip).y()) < 10.0) return grip;
  if (fadePointAt(at)) return Grip::Point;
  if (trimmed() && trimmed()->fade.shape == FadeShape::Drawn && trimmed()->fade.points.empty() &&
      QLineF(at, handle(Grip::Bend)).length() < 9.0)
    return Grip::Bend;
  if (split() && std::abs(at.x() - handle(Grip::Cut).x()) < 7.0) return Grip::Cut;
  return isKick() && std::abs(at.x() - lengthHandle().x()) < 9.0 ? Grip::Length : Grip::None;
}

void WavePicture::setLength(double ms, bool snap) {
  const double sixteenth = 15000.0 / track().tempoBpm;
  TimeValue length = TimeValue::milliseconds(std::clamp(std::round(ms), kShortestTailMs, kLongestTailMs));
  const double nearest = std::max(1.0, std::round(ms / (0.5 * sixteenth)));
  const double pixels = std::abs(timeAxis().pixel(0.5 * nearest * sixteenth) - timeAxis().pixel(ms));
  if (snap && pixels < 8.0) {
    int count = static_cast<int>(nearest), under = 32;
    while (count % 2 == 0 && under > 1) count /= 2, under /= 2;
    if (count <= 64) length = TimeValue::note(count, under);
  }
  if (const auto owner = choice_.layerOwner())
    document().edit(putValue("trim kick to " + length.text(), *owner, "recorded.length", length, "length"));
}

void WavePicture::drag(const QPointF& at, bool free) {
  const double ms = timeAxis().value(at.x());
  if (grip_ == Grip::Length) return setLength(ms, !free);
  if (grip_ == Grip::Cut && split())
    return document().edit(
        setCut(choice_.part(), choice_.layer()->id, std::round(2.0 * ms) / 2.0, split()->joinMs, "cut handle"));
  if (grip_ == Grip::Point) return dragFadePoint(at);
  if (grip_ == Grip::Bend) {
    const double half = 0.5 * (plot().center().y() - plot().top() - 18);
    const double bend = std::clamp(grippedValue_ + (at.y() - grippedY_) / half, -1.0, 1.0);
    if (const auto owner = choice_.layerOwner())
      document().edit(
          putValue("bend the fade", *owner, "recorded.fade.bend", std::round(100 * bend) / 100, "wave handle"));
    return;
  }
  const double moved = std::round((ms - grippedMs_) * 10.0) / 10.0;
  const auto owner = choice_.layerOwner();
  if (!owner || grip_ == Grip::None) return;
  const auto [name, key] = grip_ == Grip::Start    ? std::pair("move start", "shape.start_ms")
                           : grip_ == Grip::FadeIn ? std::pair("set fade in", "shape.fade_in_ms")
                                                   : std::pair("set fade out", "shape.fade_out_ms");
  document().edit(
      putValue(name, *owner, key, grippedValue_ + (grip_ == Grip::FadeOut ? -moved : moved), "wave handle"));
}

void WavePicture::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  grip_ = choice_.layer() ? gripAt(event->position()) : Grip::None;
  point_ = grip_ == Grip::Point ? fadePointAt(event->position()) : std::nullopt;
  if (grip_ == Grip::None) return update();
  grippedMs_ = timeAxis().value(event->position().x()), grippedY_ = event->position().y();
  const LayerShape& shape = choice_.layer()->shape;
  grippedValue_ = grip_ == Grip::Bend     ? trimmed()->fade.bend
                  : grip_ == Grip::Start  ? shape.startMs
                  : grip_ == Grip::FadeIn ? shape.fadeInMs
                                          : shape.fadeOutMs;
  const Axis time = timeAxis();
  heldTime_ = time;
}

void WavePicture::mouseMoveEvent(QMouseEvent* event) {
  setCursor(grip_ != Grip::None || gripAt(event->position()) != Grip::None ? Qt::SizeHorCursor
                                                                           : Qt::ArrowCursor);
  if (grip_ != Grip::None) drag(event->position(), isFree(event->modifiers()));
}

void WavePicture::mouseReleaseEvent(QMouseEvent*) {
  grip_ = Grip::None;
  heldTime_.reset();
  document().endDrag();
  update();
}

void WavePicture::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  if (moveFadePointBy(event)) return;
  if (event->modifiers() & Qt::ControlModifier) {
    if (key == Qt::Key_Plus || key == Qt::Key_Equal) return zoom(0.64, 0.0);
    if (key == Qt::Key_Minus) return zoom(1.0 / 0.64, 0.0);
    if (key == Qt::Key_0) return view_.reset(), update();
  }
  if (isKick() && sound_ && (key == Qt::Key_Left || key == Qt::Key_Right))
    setLength(
        lengthMs() + (key == Qt::Key_Right ? 1 : -1) * (event->modifiers() & Qt::ShiftModifier ? 1.0 : 5.0),
        false);
  else if (isKick() && key == Qt::Key_Delete)
    document().edit(
        putValue("remove trim", choice_.layerOwner().value_or(Owner()), "recorded.length", Value()));
  else
    QWidget::keyPressEvent(event);
}

}  // namespace heft::app
