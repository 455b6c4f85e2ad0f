#include "app/stages/align/two_sounds_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/stages/align/align_picture.h"
#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kFromHz = 20.0, kToHz = 250.0, kOctaves = 1.0 / 6.0;

}  // namespace

QString moveWords(const AlignAnswer& move) {
  QStringList out;
  if (move.delayMs != 0.0) out << signedMs(move.delayMs);
  if (move.invert) out << "inverted";
  return out.isEmpty() ? QString("unchanged") : out.join(", ");
}

TwoSoundsPicture::TwoSoundsPicture(Document& document, Selection& selection)
    : Picture(document, selection, "Two sounds") {
  setMinimumHeight(300);
  explain(
      "Drag sideways to move the second sound. Shift+F1: more",
      "Two sounds around one event, low-passed, with their sum. Below: correlation over frequency (1 in phase, "
      "-1 out of phase); dashed: after the proposed move. Drag sideways or Left, Right: move the second. P: "
      "invert it. Up, Down: step through events. Return: apply the proposed move. S: align the strikes.");
  connect(&document, &Document::rendered, this, &TwoSoundsPicture::measure);
  connect(&document, &Document::replaced, this, [this] { refs_[0] = refs_[1] = {0, {}}; });
}

SoundRef TwoSoundsPicture::chosen(size_t which) const {
  const Session& s = document().session();
  const auto all = soundsOf(s);
  const auto is = [&](const SoundRef& ref) { return std::find(all.begin(), all.end(), ref) != all.end(); };
  if (is(refs_[which])) return refs_[which];
  const int wanted = which == 0 ? s.kick().id : s.bass().id;
  if (is({wanted, {}})) return {wanted, {}};
  return all.empty() ? SoundRef{wanted, {}} : all[std::min(which, all.size() - 1)];
}

void TwoSoundsPicture::choose(bool second, const SoundRef& sound) {
  refs_[second] = sound;
  found_.reset();
  measure();
}

// Lanes of single layers are rendered just for it, so this happens aside.
void TwoSoundsPicture::measure() {
  if (!isVisible()) return;
  aside_.ask(
      this,
      [this] {
        return [s = document().session(), assets = document().assets(), cache = document().cache(), a = first(),
                b = second()] { return twoSounds(s, assets, a, b, *cache); };
      },
      [this](Result<TwoSounds> made) {
        problem_ = made ? QString() : QString::fromStdString(made.error().sentence());
        found_ = made ? std::optional(std::move(*made)) : std::nullopt;
        movedMs_ = 0.0;
        update();
        Q_EMIT measured();
      },
      document().failing());
}

void TwoSoundsPicture::move(double byMs, bool turnOver, const std::string& mergeKey) {
  const std::string what = soundTitle(document().session(), second());
  document().edit(moveSound("move " + what, second(), byMs, turnOver, mergeKey));
}

void TwoSoundsPicture::useBest() {
  if (found_ && found_->best.overlap) move(found_->best.delayMs, found_->best.invert);
}

void TwoSoundsPicture::lineUpStrikes() {
  if (found_ && found_->strikesApartMs)
    document().edit(moveSound("bring strikes together", second(), -*found_->strikesApartMs, false));
}

QRectF TwoSoundsPicture::wavesArea() const {
  return {QPointF(64, 24), QPointF(width() - 16.0, std::round(0.52 * height()))};
}

QRectF TwoSoundsPicture::bandsArea() const {
  return {QPointF(64, std::round(0.52 * height()) + 58), QPointF(width() - 16.0, height() - 24.0)};
}

Axis TwoSoundsPicture::time() const {
  return {-20.0, TwoSounds::kShownMs, wavesArea().left(), wavesArea().right()};
}

const TwoSounds::Wave* TwoSoundsPicture::wave() const {
  if (!found_ || found_->waves.empty()) return nullptr;
  return &found_
              ->waves[std::min(found_->waves.size() - 1, static_cast<size_t>(std::max(0, selection().hit())))];
}

QColor TwoSoundsPicture::inkOf(const SoundRef& sound) const {
  const auto ink = [&](const SoundRef& of) {
    const Part* part = document().session().part(of.part);
    return part ? colourOf(*part) : theme().ink;
  };
  const bool alike = ink(first()) == ink(second());
  return alike && sound == second() ? theme().reference : ink(sound);
}

void TwoSoundsPicture::drawWaves(QPainter& p) const {
  const Theme& t = theme();
  const TwoSounds::Wave& w = *wave();
  const QRectF area = wavesArea();
  const Axis x = time();
  auto read = [&](const std::vector<float>& wave, double ms) {
    return readBetween(wave, (ms + TwoSounds::kLeadMs) / 1000.0 * found_->waveRate);
  };
  double most = 1e-6;
  QPolygonF a, b, sum;
  for (double px = area.left(); px <= area.right(); px += 1.0) {
    const double ms = x.value(px), one = read(w.first, ms), other = read(w.second, ms - movedMs_);
    most = std::max({most, std::abs(one), std::abs(other), std::abs(one + other)});
    a << QPointF(px, one), b << QPointF(px, other), sum << QPointF(px, one + other);
  }
  const double scale = 0.48 * area.height() / most, middle = area.center().y();
  for (QPolygonF* line : {&a, &b, &sum})
    for (QPointF& point : *line) point.setY(middle - scale * point.y());
  p.setRenderHint(QPainter::Antialiasing);
  QPolygonF filled = sum;
  filled.prepend(QPointF(area.left(), middle)), filled << QPointF(area.right(), middle);
  p.setPen(Qt::NoPen);
  p.setBrush(withAlpha(t.ink, 0.14));
  p.drawPolygon(filled);
  p.setBrush(Qt::NoBrush);
  p.setPen(rulePen(t.muted));
  p.drawLine(QPointF(area.left(), middle), QPointF(area.right(), middle));
  p.setPen(QPen(t.muted, 1.0, Qt::DotLine));
  p.drawLine(QPointF(x.pixel(0), area.top()), QPointF(x.pixel(0), area.bottom()));
  p.setPen(dataPen(inkOf(first())));
  drawLineThrough(p, a);
  p.setPen(dataPen(inkOf(second())));
  drawLineThrough(p, b);
  p.setRenderHint(QPainter::Antialiasing, false);
  drawTicksBelow(p, x, area.bottom() + 2, roundTicks(0, TwoSounds::kShownMs, 8),
                 [](double v) { return QString::number(v) + (v == 0 ? " ms" : ""); });
}

QPolygonF TwoSoundsPicture::bandLine(const QRectF& area, const AlignAnswer& move) const {
  const Axis hz{kFromHz, kToHz, area.left(), area.right(), true}, level{-1.0, 1.0, area.bottom(), area.top()};
  QPolygonF out;
  for (double px = area.left(); px <= area.right(); px += 2.0)
    if (const auto r = found_->between.at(hz.value(px), kOctaves, move.delayMs, move.invert))
      out << QPointF(px, level.pixel(*r));
  return out;
}

void TwoSoundsPicture::drawBands(QPainter& p) const {
  const Theme& t = theme();
  const QRectF area = bandsArea();
  const Axis hz{kFromHz, kToHz, area.left(), area.right(), true}, level{-1.0, 1.0, area.bottom(), area.top()};
  p.setFont(axisFont());
  // Notes of the key as lines, the tonic heavier.
  for (int midi = 16; midi < 60; ++midi) {
    const double at = hzFromMidi(midi, track().notes.a4Hz);
    if (!hz.holds(at) || !track().key.contains(midi)) continue;
    const bool tonic = (midi - track().key.tonic) % 12 == 0;
    const double x = std::round(hz.pixel(at)) + 0.5;
    p.setPen(QPen(tonic ? t.muted : t.rule, 1.0));
    p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
    if (tonic)
      drawLabel(p, QPointF(x, area.bottom() + 4), Qt::AlignHCenter | Qt::AlignTop, noteText(midi), t.ink,
                QColor(0, 0, 0, 0));
  }
  for (const double r : {1.0, 0.0, -1.0}) {
    const double y = std::round(level.pixel(r)) + 0.5;
    p.setPen(rulePen(r == 0.0 ? t.muted : t.rule));
    p.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
    drawLabel(p, QPointF(area.left() - 8, y), Qt::AlignRight | Qt::AlignVCenter,
              r > 0   ? "in phase"
              : r < 0 ? "against"
                      : "0",
              t.muted, QColor(0, 0, 0, 0));
  }
  p.setRenderHint(QPainter::Antialiasing);
  const bool moves = found_->best.delayMs != 0.0 || found_->best.invert;
  if (moves) {
    p.setPen(QPen(t.holds, 1.5, Qt::DashLine));
    p.drawPolyline(bandLine(area, found_->best));
  }
  p.setPen(dataPen(t.ink));
  drawLineThrough(p, bandLine(area, {.delayMs = movedMs_}));
  p.setRenderHint(QPainter::Antialiasing, false);
  drawLabel(p, QPointF(area.left(), area.top() - 6), Qt::AlignLeft | Qt::AlignBottom,
            "Correlation over frequency, 20 to 250 Hz", t.ink, t.panel);
  if (moves)
    drawLabel(p, QPointF(area.right(), area.top() - 6), Qt::AlignRight | Qt::AlignBottom,
              "dashed: " + moveWords(found_->best), t.holds, t.panel);
}

void TwoSoundsPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  if (!problem_.isEmpty()) return drawEmpty(p, problem_);
  if (!wave()) return drawEmpty(p, "Measuring...");
  p.setFont(axisFont());
  const Session& s = document().session();
  QRectF box = drawLabel(p, QPointF(64, 2), Qt::AlignLeft | Qt::AlignTop,
                         QString("event %1 of %2")
                             .arg(1 + std::min<size_t>(found_->waves.size() - 1,
                                                       static_cast<size_t>(std::max(0, selection().hit()))))
                             .arg(found_->waves.size()),
                         t.ink, t.panel);
  for (const SoundRef& ref : {first(), second()})
    box =
        drawLabel(p, QPointF(box.right() + 16, 2), Qt::AlignLeft | Qt::AlignTop,
                  p.fontMetrics().elidedText(QString::fromStdString(soundTitle(s, ref)), Qt::ElideMiddle, 180),
                  inkOf(ref) == t.reference ? t.referenceWords : inkOf(ref), t.panel);
  drawLabel(p, QPointF(box.right() + 16, 2), Qt::AlignLeft | Qt::AlignTop, "sum (shaded)", t.muted, t.panel);
  drawWaves(p);
  drawBands(p);
}

void TwoSoundsPicture::mousePressEvent(QMouseEvent* event) {
  if (event->button() == Qt::LeftButton && wavesArea().contains(event->position()))
    dragX_ = event->position().x();
}

// The picture follows the drag; the document changes at its end.
void TwoSoundsPicture::mouseMoveEvent(QMouseEvent* event) {
  setCursor(wavesArea().contains(event->position()) ? Qt::SizeHorCursor : Qt::ArrowCursor);
  if (!dragX_) return;
  movedMs_ = std::round(50.0 * (time().value(event->position().x()) - time().value(*dragX_))) / 50.0;
  update();
}

void TwoSoundsPicture::mouseReleaseEvent(QMouseEvent*) {
  const double by = movedMs_;
  if (dragX_.has_value() && by != 0.0) move(by, false);
  dragX_.reset();
}

void TwoSoundsPicture::keyPressEvent(QKeyEvent* event) {
  const bool fine = event->modifiers() & Qt::ShiftModifier;
  const int key = event->key(), events = found_ ? static_cast<int>(found_->waves.size()) : 0;
  if (key == Qt::Key_Left || key == Qt::Key_Right)
    move((key == Qt::Key_Right ? 1 : -1) * (fine ? 0.005 : 0.1), false, "nudge sound");
  else if ((key == Qt::Key_Up || key == Qt::Key_Down) && events)
    selection().setHit(std::clamp(selection().hit() + (key == Qt::Key_Down ? 1 : -1), 0, events - 1));
  else if (key == Qt::Key_P)
    move(0.0, true);
  else if (key == Qt::Key_S)
    lineUpStrikes();
  else if (key == Qt::Key_Return || key == Qt::Key_Enter)
    useBest();
  else
    QWidget::keyPressEvent(event);
}

}  // namespace heft::app
