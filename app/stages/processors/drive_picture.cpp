#include "app/stages/processors/drive_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "app/widgets/free_hand.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kFromHz = 25.0, kToHz = 6000.0, kDeepDb = 60.0, kQuietestDb = -60.0;

// Where two periods begin: at a rise through the middle some way behind the strike.
size_t twoPeriodsFrom(const ProcessorLook& look) {
  constexpr double kBehindSeconds = 0.06;
  auto at = static_cast<size_t>((ProcessorLook::kLeadSeconds + kBehindSeconds) * look.rate);
  const auto period = static_cast<size_t>(look.rate / look.noteHz.value_or(55.0));
  const auto& x = look.before;
  if (at + 4 * period >= x.size()) at = x.size() > 4 * period ? (x.size() - 4 * period) / 4 : 0;
  for (size_t i = at; i < at + period && i + 1 < x.size(); ++i)
    if (x[i] <= 0.0f && x[i + 1] > 0.0f) return i;
  return at;
}

}  // namespace

DrivePicture::DrivePicture(LayerChoice& choice, Selection& selection)
    : PeakPicture(choice, selection, "Drive") {
  explain("Drag the wave up and down for the amount, the band's ends sideways. Shift+F1: more",
          "Left: two periods of the note, thin before the drive, thick after. Right: its partials, outlined "
          "before, filled after, with marks for a small speaker. Line below: the driven band; drag an end "
          "(snaps to notes; Alt: no snap). Page Up/Down: select amount or an end. Up, Down: amount. Left, "
          "Right: 1 st. Delete: open the band. Squares are resonances: click or Return flattens one.");
}

QPointF DrivePicture::markOf(size_t peak) const {
  if (peak >= cuts().size() || !look()) return {-1, -1};
  const double at = std::min(cuts()[peak].peak.hz, kToHz);
  // On the bar that is that peak, else over the others.
  double top = bars().top() + 24.0;
  for (const LookPartial& partial : look()->partials)
    if (std::abs(std::log2(partial.hz / at)) < 1.0 / 24.0)
      top = std::max(top, level().pixel(partial.afterDb) - 10.0);
  return {hz().pixel(at), top};
}

Axis DrivePicture::hz() const {
  return {kFromHz, kToHz, bars().left(), bars().right(), true};
}

Axis DrivePicture::level() const {
  double most = kQuietestDb;
  if (look())
    for (const LookPartial& partial : look()->partials)
      most = std::max({most, partial.beforeDb, partial.afterDb});
  return {most - kDeepDb, most + 6.0, bars().bottom(), bars().top()};
}

QPointF DrivePicture::gripAt(Grip grip) const {
  if (!drive()) return {-1, -1};
  const double y = height() - 8.0;
  if (grip == Grip::From) return {hz().pixel(drive()->fromHz.value_or(kFromHz)), y};
  if (grip == Grip::To) return {hz().pixel(std::min(kToHz, drive()->toHz.value_or(kToHz))), y};
  return waves().center();
}

void DrivePicture::drawWaves(QPainter& p) const {
  const Theme& t = theme();
  const QRectF area = waves();
  const size_t from = twoPeriodsFrom(*look());
  const auto count = static_cast<size_t>(2.0 * look()->rate / look()->noteHz.value_or(55.0));
  float most = 0.001f;
  for (size_t i = from; i < from + count && i < look()->after.size(); ++i)
    most = std::max({most, std::abs(look()->before[i]), std::abs(look()->after[i])});
  p.setPen(rulePen(t.rule));
  p.drawLine(QPointF(area.left(), area.center().y()), QPointF(area.right(), area.center().y()));
  auto line = [&](const std::vector<float>& x) {
    QPolygonF out;
    for (double px = 0.0; px <= area.width(); px += 1.0)
      out << QPointF(
          area.left() + px,
          area.center().y() -
              0.46 * area.height() / most *
                  readBetween(x, static_cast<double>(from) + px / area.width() * static_cast<double>(count)));
    return out;
  };
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(withAlpha(ink(), 0.6), 1.0));
  p.drawPolyline(line(look()->before));
  p.setPen(QPen(ink(), 2.0));
  p.drawPolyline(line(look()->after));
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setFont(axisFont());
  const QString note = look()->noteHz ? noteText(std::round(midiFromHz(*look()->noteHz, track().notes.a4Hz)))
                                      : QString("no note");
  drawLabel(p, QPointF(area.left(), 2), Qt::AlignLeft | Qt::AlignTop, withKept("two periods of " + note), t.ink,
            t.panel);
  drawLabel(p, QPointF(area.left(), area.bottom() + 4), Qt::AlignLeft | Qt::AlignTop,
            QString("crest %1 dB, behind it %2 dB")
                .arg(QString::fromStdString(fixedNumber(look()->crestBeforeDb, 1)),
                     QString::fromStdString(fixedNumber(look()->crestAfterDb, 1))),
            t.muted, t.panel);
}

void DrivePicture::drawBars(QPainter& p) const {
  const Theme& t = theme();
  const QRectF area = bars();
  const Axis x = hz(), y = level();
  drawLevelRules(p, y, y.to - 6.0, {0.0, -20.0, -40.0, -60.0}, area);
  drawKeyNotes(p, track(), x, area);
  p.setRenderHint(QPainter::Antialiasing);
  for (size_t k = 0; k < look()->partials.size(); ++k) {
    const LookPartial& partial = look()->partials[k];
    const double at = x.pixel(partial.hz),
                 wide = std::clamp(0.5 * (x.pixel(partial.hz * 1.06) - at) * 2.0, 3.0, 9.0);
    auto bar = [&](double db) {
      const double top = y.pixel(std::max(db, y.from));
      return QRectF(at - wide / 2, top, wide, area.bottom() - top);
    };
    p.setPen(Qt::NoPen);
    p.setBrush(withAlpha(ink(), 0.85));
    p.drawRect(bar(partial.afterDb));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.ink, 1.0));
    if (partial.beforeDb > y.from + 1.0) p.drawRect(bar(partial.beforeDb).adjusted(-2, 0, 2, 0));
    if (k < 8) drawHeard(p, QPointF(at, area.bottom() + 10), partial.heard);
  }
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(t.muted, 1.0));
  p.drawLine(area.bottomLeft(), area.bottomRight());
  p.setFont(axisFont());
  const QString even = evenWords();
  drawLabel(p, QPointF(area.right(), 2), Qt::AlignRight | Qt::AlignTop,
            even.isEmpty() ? QString("partials: outlined before, full behind the drive") : even, t.muted,
            t.panel);
}

void DrivePicture::drawBand(QPainter& p) const {
  const Theme& t = theme();
  const QPointF from = gripAt(Grip::From), to = gripAt(Grip::To);
  auto word = [&](const std::optional<double>& edge, const char* open) {
    return edge ? noteText(midiFromHz(*edge, track().notes.a4Hz)) : QString(open);
  };
  const QString words = drive()->isHeldToBand() ? QString("drives %1 to %2")
                                                      .arg(word(drive()->fromHz, "no lower edge"),
                                                           word(drive()->toHz, "no upper edge"))
                                                : QString("drives all of it");
  drawDimension(p, from, to, words, t.ink, t.panel);
  // Undriven partials outside the band.
  p.setPen(Qt::NoPen);
  p.setBrush(withAlpha(t.panel, 0.6));
  if (drive()->fromHz) p.drawRect(QRectF(bars().topLeft(), QPointF(from.x(), bars().bottom())));
  if (drive()->toHz) p.drawRect(QRectF(QPointF(to.x(), bars().top()), bars().bottomRight()));
  p.setBrush(Qt::NoBrush);
  p.setRenderHint(QPainter::Antialiasing);
  drawGrip(p, from, chosen_ == Grip::From && hasFocus());
  drawGrip(p, to, chosen_ == Grip::To && hasFocus());
  p.setRenderHint(QPainter::Antialiasing, false);
}

void DrivePicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!drive() || !look() || look()->before.empty()) return drawNothing(p);
  drawWaves(p);
  drawBars(p);
  drawBand(p);
  drawMarks(p, bars());
  if (hasFocus() && chosen_ == Grip::Amount) {
    p.setPen(QPen(theme().ink, 1.0));
    p.drawLine(QPointF(waves().left(), waves().top() - 2), QPointF(waves().right(), waves().top() - 2));
  }
}

DrivePicture::Grip DrivePicture::gripUnder(const QPointF& at) const {
  if (!drive()) return Grip::None;
  for (const Grip grip : {Grip::From, Grip::To})
    if (std::abs(gripAt(grip).x() - at.x()) < 9.0 && at.y() > height() - 18.0) return grip;
  return waves().contains(at) ? Grip::Amount : Grip::None;
}

void DrivePicture::setEdge(Grip grip, double hertz, bool dragged) {
  const bool from = grip == Grip::From;
  const bool open = from ? hertz <= kFromHz * 1.02 : hertz >= kToHz * 0.98;
  if (from && drive()->toHz) hertz = std::min(hertz, *drive()->toHz / 1.1);
  if (!from && drive()->fromHz) hertz = std::max(hertz, *drive()->fromHz * 1.1);
  put("hold the drive to a band", {{from ? "drive.from_hz" : "drive.to_hz", open ? Value() : Value(hertz)}},
      dragged);
}

void DrivePicture::setAmount(double db, bool dragged) {
  put("set the drive", {{"drive.drive_db", std::round(10.0 * db) / 10.0}}, dragged);
}

void DrivePicture::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || !look()) return;
  if (const auto peak = peakAt(event->position())) {
    choosePeak(*peak);
    return cutPeakAt(*peak);
  }
  held_ = gripUnder(event->position());
  if (held_ == Grip::None) return;
  chosen_ = held_;
  pressedAt_ = event->position(), pressedDb_ = drive()->driveDb;
  update();
}

void DrivePicture::mouseMoveEvent(QMouseEvent* event) {
  const QPointF at = event->position();
  constexpr double kDbPerPixel = 0.1;
  if (held_ == Grip::Amount) return setAmount(pressedDb_ + kDbPerPixel * (pressedAt_.y() - at.y()), true);
  if (held_ != Grip::None)
    return setEdge(held_, caughtHz(track(), hz(), at.x(), isFree(event->modifiers())), true);
  if (const auto peak = peakAt(at)) {
    choosePeak(*peak);
    return setCursor(Qt::PointingHandCursor);
  }
  const Grip grip = gripUnder(at);
  setCursor(grip == Grip::Amount ? Qt::SizeVerCursor
            : grip != Grip::None ? Qt::SizeHorCursor
                                 : Qt::ArrowCursor);
}

void DrivePicture::mouseReleaseEvent(QMouseEvent*) {
  if (std::exchange(held_, Grip::None) != Grip::None) endDrag();
}

void DrivePicture::keyPressEvent(QKeyEvent* event) {
  if (!drive()) return QWidget::keyPressEvent(event);
  const int key = event->key();
  const bool fine = event->modifiers() & Qt::ShiftModifier;
  constexpr std::array kGrips = {Grip::Amount, Grip::From, Grip::To};
  const auto at = static_cast<size_t>(std::find(kGrips.begin(), kGrips.end(), chosen_) - kGrips.begin());
  if (key == Qt::Key_PageDown || key == Qt::Key_PageUp) {
    chosen_ = kGrips[steppedPoint(at, key == Qt::Key_PageDown ? 1 : -1, kGrips.size())];
    return update();
  }
  const int side = key == Qt::Key_Right ? 1 : key == Qt::Key_Left ? -1 : 0;
  const int up = key == Qt::Key_Up ? 1 : key == Qt::Key_Down ? -1 : 0;
  if (up) return setAmount(drive()->driveDb + up * (fine ? 0.1 : 0.5), false);
  if (chosen_ == Grip::Amount && side && stepPeak(side)) return;
  if (chosen_ == Grip::Amount && (key == Qt::Key_Return || key == Qt::Key_Enter)) return cutChosen();
  if (chosen_ != Grip::Amount && side) {
    const double now =
        chosen_ == Grip::From ? drive()->fromHz.value_or(kFromHz) : drive()->toHz.value_or(kToHz);
    return setEdge(chosen_, std::clamp(now * std::exp2(side * (fine ? 0.1 : 1.0) / 12.0), kFromHz, kToHz),
                   false);
  }
  if (chosen_ != Grip::Amount && key == Qt::Key_Delete)
    return setEdge(chosen_, chosen_ == Grip::From ? kFromHz : kToHz, false);
  QWidget::keyPressEvent(event);
}

}  // namespace heft::app
