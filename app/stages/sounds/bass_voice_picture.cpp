#include "app/stages/sounds/bass_voice_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/measure/levels/equal_loudness.h"
#include "core/session/edits/values.h"
#include "core/session/pattern.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kLowest = -60.0, kHighest = 6.0, kHeldMs = 500.0;

}  // namespace

BassVoicePicture::BassVoicePicture(LayerChoice& choice, Selection& selection)
    : Picture(choice.document(), selection, "Bass voice"), choice_(choice) {
  explain("Drag a bar for its level, the corners of the curve for the envelope. Shift+F1: more",
          "Drag a bar: level of that partial. Right: drag the corners of the amplitude envelope. Waves under a "
          "bar: audible on a laptop speaker. Left, Right: select a bar. Up, Down: level. Delete: off.");
  connect(&choice_, &LayerChoice::changed, this, qOverload<>(&QWidget::update));
}

const BassVoice* BassVoicePicture::voice() const {
  const Layer* l = choice_.layer();
  return l && l->bassVoice() ? &*l->bassVoice() : nullptr;
}

double BassVoicePicture::rootMidi() const {
  const Session& s = document().session();
  if (choice_.part().id != s.bass().id) return mainNote(choice_.part(), track());
  return noteUnderMostHits(s).value_or(lowTonic(track().key));
}

QRectF BassVoicePicture::bars() const {
  return QRectF(QPointF(64, 34), QPointF(std::round(width() * 0.58), height() - 66.0));
}

QRectF BassVoicePicture::curve() const {
  return QRectF(QPointF(std::round(width() * 0.58) + 64.0, 34), QPointF(width() - 24.0, height() - 66.0));
}

Axis BassVoicePicture::levelAxis() const {
  return {kLowest, kHighest, bars().bottom(), bars().top()};
}

Axis BassVoicePicture::timeAxis() const {
  const double most =
      voice() ? std::max(kHeldMs, 1.15 * (voice()->attackMs + voice()->decayMs)) + voice()->releaseMs : kHeldMs;
  return {0.0, 1.04 * most, curve().left(), curve().right()};
}

std::optional<double> BassVoicePicture::levelOf(int bar) const {
  return bar == 0 ? voice()->octaveBelowDb : voice()->partialDb[static_cast<size_t>(bar - 1)];
}

QPointF BassVoicePicture::barAt(int bar, double db) const {
  const double wide = bars().width() / 9.0;
  return {bars().left() + (bar + 0.5) * wide, levelAxis().pixel(std::clamp(db, kLowest, kHighest))};
}

QPointF BassVoicePicture::barTop(int bar) const {
  return barAt(bar, levelOf(bar).value_or(kLowest));
}

QPointF BassVoicePicture::corner(int which) const {
  const BassVoice& v = *voice();
  const double peak = v.attackMs, sustain = v.attackMs + v.decayMs;
  const double held = std::max(kHeldMs, 1.15 * sustain);
  const Axis level = levelAxis();
  if (which == 0) return {timeAxis().pixel(peak), level.pixel(0.0)};
  if (which == 1) return {timeAxis().pixel(sustain), level.pixel(v.sustainDb)};
  return {timeAxis().pixel(held + v.releaseMs), level.pixel(kLowest)};
}

void BassVoicePicture::drawBars(QPainter& p) const {
  const Theme& t = theme();
  const QRectF area = bars();
  const Axis level = levelAxis();
  p.setFont(axisFont());
  for (double db : {0.0, -20.0, -40.0, -60.0}) {
    const double y = std::round(level.pixel(db)) + 0.5;
    p.setPen(QPen(t.rule, 1.0));
    p.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
    drawLabel(p, QPointF(area.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
              QString::fromStdString(formatNumber(db, 0)) + (db == 0.0 ? " dB" : ""), t.muted, t.panel);
  }
  const double root = rootMidi(), hz = hzFromMidi(root, track().notes.a4Hz);
  const auto heard = heardOnSmallSpeaker(hz, voice()->partialDb);
  for (int bar = 0; bar < 9; ++bar) {
    const QPointF top = barTop(bar);
    const bool out = !levelOf(bar), chosen = bar == chosen_ && hasFocus();
    const double half = 0.3 * area.width() / 9.0;
    if (!out)
      p.fillRect(QRectF(QPointF(top.x() - half, top.y()), QPointF(top.x() + half, area.bottom())),
                 withAlpha(colourOf(choice_.part()), chosen ? 1.0 : 0.75));
    p.setPen(QPen(chosen ? t.ink
                  : out  ? t.muted
                         : colourOf(choice_.part()),
                  chosen ? 2.0 : 1.0, out ? Qt::DotLine : Qt::SolidLine));
    p.drawLine(QPointF(top.x() - half - 2, std::round(top.y()) + 0.5),
               QPointF(top.x() + half + 2, std::round(top.y()) + 0.5));
    const double at = bar == 0 ? hz / 2.0 : hz * bar;
    drawLabel(p, QPointF(top.x(), area.bottom() + 6), Qt::AlignHCenter | Qt::AlignTop,
              QString::fromStdString(
                  noteName(static_cast<int>(std::lround(midiFromHz(at, track().notes.a4Hz))), track().notes)),
              out ? t.muted : t.ink, t.panel);
    drawLabel(p, QPointF(top.x(), area.bottom() + 20), Qt::AlignHCenter | Qt::AlignTop,
              out ? QString("off") : QString::fromStdString(formatNumber(*levelOf(bar), 1)), t.muted, t.panel);
    if (bar > 0 && !out) {
      drawHeard(p, QPointF(top.x(), area.bottom() + 42), heard[static_cast<size_t>(bar - 1)].audible);
    }
  }
  p.setFont(axisFont(true));
  drawLabel(p, QPointF(area.left(), 8), Qt::AlignLeft | Qt::AlignTop, "Partials", t.ink, QColor(0, 0, 0, 0));
  p.setFont(axisFont());
  const bool any = std::any_of(heard.begin(), heard.end(), [](const PartialHeard& h) { return h.audible; });
  const QString words = QString("over %1%2; %3 on a small speaker")
                            .arg(QString::fromStdString(pitchText(root, track().notes)),
                                 isHeavyRoot(hz) ? ", a heavy root" : "", any ? "audible" : "inaudible");
  drawLabel(p, QPointF(area.left() + 60, 8), Qt::AlignLeft | Qt::AlignTop, words, any ? t.muted : t.watch,
            QColor(0, 0, 0, 0));
  for (const auto& [y, word] : {std::pair(35.0, "small"), std::pair(47.0, "speaker")})
    drawLabel(p, QPointF(area.left() - 8, area.bottom() + y), Qt::AlignRight | Qt::AlignVCenter, word, t.muted,
              QColor(0, 0, 0, 0));
}

void BassVoicePicture::drawCurve(QPainter& p) const {
  const Theme& t = theme();
  const QRectF area = curve();
  const Axis level = levelAxis(), time = timeAxis();
  p.setFont(axisFont());
  for (double db : {0.0, -20.0, -40.0, -60.0}) {
    p.setPen(QPen(t.rule, 1.0));
    p.drawLine(QPointF(area.left(), std::round(level.pixel(db)) + 0.5),
               QPointF(area.right(), std::round(level.pixel(db)) + 0.5));
  }
  const BassVoice& v = *voice();
  const double held = std::max(kHeldMs, 1.15 * (v.attackMs + v.decayMs));
  QPolygonF line;
  line << QPointF(time.pixel(0), level.pixel(kLowest));
  for (double x = time.pixel(v.attackMs); x <= time.pixel(held + v.releaseMs); x += 1.0) {
    const double db = envelopeDb(v, time.value(x) / 1000.0, held / 1000.0);
    line << QPointF(x, level.pixel(std::max(kLowest, db)));
  }
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  QPolygonF fill = line;
  fill << QPointF(line.back().x(), area.bottom()) << QPointF(time.pixel(0), area.bottom());
  p.setBrush(withAlpha(colourOf(choice_.part()), 0.14));
  p.drawPolygon(fill);
  p.setBrush(Qt::NoBrush);
  p.setPen(dataPen(colourOf(choice_.part())));
  p.drawPolyline(line);
  for (int i = 0; i < 3; ++i) {
    drawGrip(p, corner(i), corner_ == i);
  }
  p.setBrush(Qt::NoBrush);
  p.setRenderHint(QPainter::Antialiasing, false);
  const double off = std::round(time.pixel(held)) + 0.5;
  p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
  p.drawLine(QPointF(off, area.top()), QPointF(off, area.bottom()));
  drawLabel(p, QPointF(off - 4, area.top()), Qt::AlignRight | Qt::AlignTop, "note ends", t.muted, t.panel);
  drawTicksBelow(p, time, area.bottom(), roundTicks(0, time.to, 5),
                 [](double x) { return QString::number(x) + (x == 0 ? " ms" : ""); });
  p.setFont(axisFont(true));
  drawLabel(p, QPointF(area.left(), 8), Qt::AlignLeft | Qt::AlignTop, "Level", t.ink, QColor(0, 0, 0, 0));
  p.setFont(axisFont());
  drawLabel(p, QPointF(area.left() + 44, 8), Qt::AlignLeft | Qt::AlignTop,
            "sustains " + QString::fromStdString(formatNumber(-v.sustainDb, 1)) + " dB below its peak", t.muted,
            QColor(0, 0, 0, 0));
}

void BassVoicePicture::paintEvent(QPaintEvent*) {
  if (!voice()) return;
  QPainter p(this);
  drawBars(p);
  drawCurve(p);
}

int BassVoicePicture::barUnder(const QPointF& at) const {
  if (!bars().adjusted(0, -8, 0, 30).contains(at)) return -1;
  return std::clamp(static_cast<int>((at.x() - bars().left()) / (bars().width() / 9.0)), 0, 8);
}

int BassVoicePicture::cornerUnder(const QPointF& at) const {
  for (int i = 2; i >= 0; --i)
    if (std::hypot((corner(i) - at).x(), (corner(i) - at).y()) < 10.0) return i;
  return -1;
}

void BassVoicePicture::setLevel(int bar, double db) {
  // Dragged to the bottom it is off.
  const Value level = db <= kLowest + 0.5 ? Value() : Value(std::max(kLowest, std::round(db * 2.0) / 2.0));
  const auto owner = choice_.layerOwner();
  if (!owner) return;
  const std::string n = std::to_string(bar);
  document().edit(putValue(bar == 0 ? "set octave below" : "set partial " + n, *owner,
                           bar == 0 ? "built_bass.octave_below_db" : "built_bass.partial_" + n + "_db", level,
                           "partial"));
}

void BassVoicePicture::dragCorner(const QPointF& at) {
  const auto owner = choice_.layerOwner();
  if (!voice() || !owner) return;
  const BassVoice& v = *voice();
  const double ms = std::max(0.0, timeAxis().value(at.x())),
               db = std::clamp(levelAxis().value(at.y()), kLowest, 0.0);
  const double held = std::max(kHeldMs, 1.15 * (v.attackMs + v.decayMs));
  std::vector<ValuePut> puts;
  if (corner_ == 0) puts = {{"built_bass.attack_ms", std::round(ms)}};
  if (corner_ == 1)
    puts = {{"built_bass.decay_ms", std::round(ms - v.attackMs)},
            {"built_bass.sustain_db", std::round(db * 2.0) / 2.0}};
  if (corner_ == 2) puts = {{"built_bass.release_ms", std::round(ms - held)}};
  document().edit(putValues("shape bass level", *owner, std::move(puts), "curve"));
}

void BassVoicePicture::mousePressEvent(QMouseEvent* event) {
  if (!voice() || event->button() != Qt::LeftButton) return;
  corner_ = cornerUnder(event->position());
  bar_ = corner_ < 0 ? barUnder(event->position()) : -1;
  if (bar_ >= 0) chosen_ = bar_, setLevel(bar_, levelAxis().value(event->position().y()));
  update();
}

void BassVoicePicture::mouseMoveEvent(QMouseEvent* event) {
  if (!voice()) return;
  if (bar_ >= 0) return setLevel(bar_, levelAxis().value(event->position().y()));
  if (corner_ >= 0) return dragCorner(event->position());
  setCursor(cornerUnder(event->position()) >= 0 ? Qt::SizeAllCursor
            : barUnder(event->position()) >= 0  ? Qt::SizeVerCursor
                                                : Qt::ArrowCursor);
}

void BassVoicePicture::mouseReleaseEvent(QMouseEvent*) {
  bar_ = corner_ = -1;
  document().endDrag();
  update();
}

void BassVoicePicture::keyPressEvent(QKeyEvent* event) {
  if (!voice()) return QWidget::keyPressEvent(event);
  const double step = event->modifiers() & Qt::ShiftModifier ? 0.5 : 2.0,
               now = std::max(kLowest, levelOf(chosen_).value_or(kLowest));
  switch (event->key()) {
    case Qt::Key_Left:
      chosen_ = std::max(0, chosen_ - 1);
      break;
    case Qt::Key_Right:
      chosen_ = std::min(8, chosen_ + 1);
      break;
    case Qt::Key_Up:
      setLevel(chosen_, levelOf(chosen_) ? now + step : kLowest + 20.0);
      break;
    case Qt::Key_Down:
      setLevel(chosen_, now - step);
      break;
    case Qt::Key_Delete:
      setLevel(chosen_, kLowest);
      break;
    default:
      return QWidget::keyPressEvent(event);
  }
  event->accept();
  update();
}

}  // namespace heft::app
