#include "app/kit/kit_picture.h"

#include <QEvent>
#include <QFileInfo>
#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/pictures/note_rows.h"
#include "app/theme/theme.h"
#include "app/widgets/free_hand.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kLeft = 48.0, kGap = 10.0, kWidest = 168.0, kNarrowest = 60.0, kReach = 10.0;
constexpr double kRoomAbove = 3.0, kLeastSpan = 24.0;
// Columns share a time axis, which the longest of ordinary drums fills.
constexpr double kShortestAxisMs = 150.0, kLongestAxisMs = 600.0;

}  // namespace

KitPicture::KitPicture(Document& document, const std::deque<Drum>& drums) : document_(document), drums_(drums) {
  setObjectName("Kit picture");
  setAccessibleName("Kit picture");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumHeight(200);
  setToolTip("Drag a target or a length. Left, Right: choose a drum. Shift+F1: more");
  const QString whole =
      "Every drum's pitch over time on one note axis: thick as tuned, dashed as recorded. Drag a circle: "
      "target, "
      "on notes of the key (Alt or Ctrl+Shift: free). Drag the grip beneath: length, on note lengths. Left, "
      "Right: choose a drum. Up, Down: target by a note of the key, Shift: by a cent. Ctrl+Left, Ctrl+Right: "
      "length, Shift: fine. Delete: exclude it. Space: hear it tuned, B: before. F: its spectrum.";
  setWhatsThis(whole);
  setAccessibleDescription(whole);
}

void KitPicture::rebuild() {
  // The axis stays during a drag.
  if (held_ != Grip::None) return update();
  double low = 200.0, high = 0.0, longest = kShortestAxisMs;
  for (int row = 0; row < count(); ++row) {
    for (const auto midi : {landing(row), drum(row).targetMidi})
      if (midi) low = std::min(low, *midi), high = std::max(high, *midi);
    if (drum(row).sound) longest = std::max(longest, drum(row).facts.tailMs);
  }
  if (high < low) low = 36.0, high = 60.0;
  const double spare = std::max(0.0, kLeastSpan - (high - low)) / 2.0;
  // By half octaves, so that a step of a target seldom rescales it.
  lowest_ = 6.0 * std::floor((low - spare - kRoomAbove) / 6.0);
  highest_ = 6.0 * std::ceil((high + spare + kRoomAbove) / 6.0);
  longestMs_ = std::min(1.05 * longest, kLongestAxisMs);
  setMinimumWidth(static_cast<int>(kLeft + count() * (kNarrowest + kGap)));
  chosen_ = std::min(chosen_, count() - 1);
  update();
}

void KitPicture::choose(int row) {
  if (row == chosen_ || row >= count()) return;
  chosen_ = row;
  update();
  Q_EMIT chosen(row);
}

QRectF KitPicture::column(int row) const {
  const double step = std::min(kWidest, (width() - kLeft - 4.0) / std::max(1, count()));
  return {kLeft + row * step, 0.0, step - kGap, static_cast<double>(height())};
}

Axis KitPicture::time(int row) const {
  const QRectF at = column(row);
  return {0.0, longestMs_, at.left() + 4.0, at.right() - 12.0};
}

double KitPicture::lengthMs(int row) const {
  const Drum& d = drum(row);
  return d.length ? d.length->toMs(document_.track().tempoBpm) : d.facts.tailMs;
}

std::optional<QPointF> KitPicture::targetAt(int row) const {
  const auto midi = drum(row).targetMidi ? drum(row).targetMidi : landing(row);
  if (!midi) return std::nullopt;
  return QPointF(column(row).right() - 6.0, note().pixel(*midi));
}

std::optional<QPointF> KitPicture::lengthAt(int row) const {
  if (!drum(row).sound || !drum(row).facts.onsetSeconds) return std::nullopt;
  return QPointF(time(row).pixel(std::min(lengthMs(row), longestMs_)), height() - 32.0);
}

std::vector<AccessibleItem> KitPicture::accessibleItems() const {
  std::vector<AccessibleItem> out;
  const NoteStyle& notes = document_.track().notes;
  for (int row = 0; row < count(); ++row) {
    QString words = QFileInfo(QString::fromStdString(drum(row).path)).fileName();
    if (const auto midi = landing(row))
      words += ", lands on " + QString::fromStdString(pitchText(*midi, notes));
    if (drum(row).targetMidi)
      words += ", target " + QString::fromStdString(pitchText(*drum(row).targetMidi, notes));
    out.push_back({words, column(row).toRect()});
  }
  return out;
}

void KitPicture::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  for (int row = 0; row < count(); ++row) {
    if (!column(row).adjusted(0, 0, kGap, 0).contains(event->position())) continue;
    choose(row);
    const auto near = [&](const std::optional<QPointF>& at) {
      return at && QLineF(*at, event->position()).length() < kReach;
    };
    held_ = near(targetAt(row)) ? Grip::Target : near(lengthAt(row)) ? Grip::Length : Grip::None;
  }
}

void KitPicture::mouseMoveEvent(QMouseEvent* event) {
  if (held_ == Grip::None || chosen_ < 0) return;
  const bool free = isFree(event->modifiers());
  if (held_ == Grip::Length) return setLengthMs(chosen_, time(chosen_).value(event->position().x()), free);
  const double midi = note().value(event->position().y());
  Q_EMIT targetSet(chosen_,
                   free ? std::round(100.0 * midi) / 100.0 : nearestInKey(midi, document_.track().key));
}

void KitPicture::mouseReleaseEvent(QMouseEvent*) {
  held_ = Grip::None;
  rebuild();
}

void KitPicture::setLengthMs(int row, double ms, bool free) {
  Q_EMIT lengthSet(row, caughtByNotes(time(row), ms, document_.track().tempoBpm, free));
}

void KitPicture::stepTarget(int way, bool fine) {
  const auto at = drum(chosen_).targetMidi ? drum(chosen_).targetMidi : landing(chosen_);
  if (!at) return;
  double to = *at + 0.01 * way;
  for (int midi = static_cast<int>(std::lround(*at)) + way; !fine && std::abs(midi - to) < 13; midi += way)
    if (document_.track().key.contains(midi)) {
      to = midi;
      break;
    }
  Q_EMIT targetSet(chosen_, to);
}

void KitPicture::stepLength(int way, bool fine) {
  if (!lengthAt(chosen_)) return;
  constexpr double kStepMs = 10.0, kFineMs = 1.0;
  setLengthMs(chosen_, lengthMs(chosen_) + way * (fine ? kFineMs : kStepMs), true);
}

// Left and Right belong to the columns, not the dialog.
bool KitPicture::event(QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride) event->accept();
  return QWidget::event(event);
}

void KitPicture::keyPressEvent(QKeyEvent* event) {
  const bool fine = event->modifiers() & Qt::ShiftModifier, control = event->modifiers() & Qt::ControlModifier;
  const int key = event->key();
  if (count() == 0) return QWidget::keyPressEvent(event);
  if (key == Qt::Key_Left || key == Qt::Key_Right) {
    const int way = key == Qt::Key_Right ? 1 : -1;
    if (control && chosen_ >= 0) return stepLength(way, fine);
    return choose(std::clamp(chosen_ + way, 0, count() - 1));
  }
  if (chosen_ >= 0 && (key == Qt::Key_Up || key == Qt::Key_Down))
    return stepTarget(key == Qt::Key_Up ? 1 : -1, fine);
  QWidget::keyPressEvent(event);
}

void KitPicture::drawPath(QPainter& p, int row, double shift, const QPen& pen) const {
  const SoundFacts& facts = drum(row).facts;
  QPolygonF line;
  for (const PitchPoint& point : facts.landing.path) {
    const double ms = 1000.0 * (point.seconds - facts.onsetSeconds.value_or(0.0));
    if (ms < 0.0 || ms > lengthMs(row)) continue;
    line << QPointF(time(row).pixel(ms),
                    note().pixel(midiFromHz(point.hz, document_.track().notes.a4Hz) + shift));
  }
  p.setPen(pen);
  drawLineThrough(p, line);
}

void KitPicture::drawTarget(QPainter& p, int row) const {
  const Theme& t = theme();
  const Drum& d = drum(row);
  const QRectF at = column(row);
  const auto from = landing(row), to = d.targetMidi;
  if (!from) return;
  const double fromY = note().pixel(*from);
  p.setPen(QPen(t.muted, 1.0, Qt::DashLine));
  p.drawLine(QPointF(at.left(), fromY), QPointF(at.right(), fromY));
  if (to) {
    p.setPen(QPen(t.ink, 1.5));
    p.drawLine(QPointF(at.left(), note().pixel(*to)), QPointF(at.right() - 6, note().pixel(*to)));
  }
  drawGrip(p, *targetAt(row), row == chosen_);
  const double shift = d.semitones(document_.track().notes.a4Hz);
  const bool up = to && *to >= *from;
  const QString words = to ? QString("%1, %2%3 st")
                                 .arg(QString::fromStdString(pitchText(*to, document_.track().notes)),
                                      shift > 0 ? "+" : "", QString::fromStdString(fixedNumber(shift, 2)))
                           : "excluded";
  p.setFont(axisFont(row == chosen_));
  drawLabel(p, QPointF(at.left(), (to ? note().pixel(*to) : fromY) + (up ? -5 : 5)),
            Qt::AlignLeft | (up ? Qt::AlignBottom : Qt::AlignTop), words, to ? t.ink : t.muted, t.page);
}

void KitPicture::drawLength(QPainter& p, int row) const {
  const auto grip = lengthAt(row);
  if (!grip) return;
  const Theme& t = theme();
  const Drum& d = drum(row);
  const double y = grip->y(), recorded = time(row).pixel(std::min(d.facts.tailMs, longestMs_));
  p.setPen(QPen(t.muted, 1.0));
  p.drawLine(QPointF(time(row).pixelFrom, y), QPointF(recorded, y));
  p.setPen(QPen(t.ink, 3.0, Qt::SolidLine, Qt::FlatCap));
  p.drawLine(QPointF(time(row).pixelFrom, y), *grip);
  drawGrip(p, *grip, row == chosen_);
  QString words = QString("%1 ms").arg(std::lround(lengthMs(row)));
  if (d.length && d.length->isNote()) words = QString::fromStdString(d.length->text()) + ", " + words;
  p.setFont(axisFont());
  drawLabel(p, QPointF(column(row).left(), y + 8), Qt::AlignLeft | Qt::AlignTop, words, t.muted,
            QColor(0, 0, 0, 0));
}

void KitPicture::drawColumn(QPainter& p, int row) const {
  const Theme& t = theme();
  const Drum& d = drum(row);
  const QRectF at = column(row);
  if (row == chosen_) p.fillRect(at.adjusted(-4, 0, 4, 0), withAlpha(t.muted, 0.10));
  p.setFont(axisFont(row == chosen_));
  p.setPen(row == chosen_ ? t.ink : t.muted);
  const QString name = QFileInfo(QString::fromStdString(d.path)).completeBaseName().simplified();
  p.drawText(QRectF(at.left(), 4, at.width(), 18), Qt::AlignLeft | Qt::AlignVCenter,
             QFontMetrics(p.font()).elidedText(name, Qt::ElideRight, static_cast<int>(at.width())));
  p.setRenderHint(QPainter::Antialiasing);
  p.save();
  p.setClipRect(QRectF(at.left(), note().pixelTo, at.width(), note().pixelFrom - note().pixelTo));
  const double shift = d.semitones(document_.track().notes.a4Hz);
  if (d.targetMidi && std::abs(shift) >= 0.005) drawPath(p, row, 0.0, QPen(t.muted, 1.0, Qt::DashLine));
  drawPath(p, row, shift, QPen(d.targetMidi ? t.ink : t.muted, d.targetMidi ? 2.0 : 1.0));
  p.restore();
  drawTarget(p, row);
  drawLength(p, row);
  p.setRenderHint(QPainter::Antialiasing, false);
  if (landing(row)) return;
  p.setFont(axisFont());
  p.setPen(t.muted);
  p.drawText(at.adjusted(0, 40, 0, -50), Qt::AlignCenter | Qt::TextWordWrap,
             d.sound           ? "no note"
             : d.fault.empty() ? ""
                               : "not readable");
}

void KitPicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme().page);
  if (drums_.empty()) {
    p.setFont(bodyFont());
    p.setPen(theme().muted);
    p.drawText(rect(), Qt::AlignCenter, "Drop snares, claps and toms here, or add them.");
    return;
  }
  const double right = column(count() - 1).right();
  drawNoteRows(p, document_.track(), note(), kLeft, right);
  for (int row = 0; row < count(); ++row) drawColumn(p, row);
}

}  // namespace heft::app
