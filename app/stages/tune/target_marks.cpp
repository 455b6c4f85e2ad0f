#include "app/stages/tune/target_marks.h"

#include <QMouseEvent>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "app/fields/tune_fields.h"
#include "app/theme/theme.h"
#include "core/session/edits/sounds.h"
#include "core/theory/text.h"
#include "core/tune/retune.h"

namespace heft::app {
namespace {

constexpr double kMarkHeight = 20.0, kMarkStep = 23.0, kBox = 15.0, kLeader = 14.0, kStrainWidth = 30.0;
constexpr int kMarksWidth = 208;

QString shiftWords(double semitones) {
  return (semitones > 0 ? "+" : "") + QString::fromStdString(fixedNumber(semitones, 2)) + " st";
}

}  // namespace

TargetMarks::TargetMarks(Document& document, Selection& selection, const PitchField& axis)
    : NumberedOffers(document, selection, "Targets"), axis_(axis) {
  setMinimumSize(kMarksWidth, 160);
  setMaximumWidth(kMarksWidth);
  explain(
      "Press a number to hear the kick on that note in the loop, Return to keep it, Esc to drop it.",
      "Notes that the kick could land on, at their place on the note axis, with the shift in semitones and its "
      "strain; the tick on the strain is 2 st. 1 to 9 or a click plays a target in the running loop, level "
      "matched; 0 plays the kick as recorded. Return or a double-click keeps what you hear, Esc drops it.");
  connect(&document, &Document::studied, this, &TargetMarks::rebuild);
  connect(&document, &Document::changed, this, &TargetMarks::rebuild);
  rebuild();
}

void TargetMarks::rebuild() {
  const Study* s = document().study();
  const Layer* first = document().session().kickLayer();
  targets_.clear();
  // Where it would sound without a target: its own shift counts.
  own_ = first ? first->semitones : 0.0;
  if (first && s && s->pair.kick.source && s->pair.kick.source->landing.noteHz()) {
    landing_ = midiFromHz(*s->pair.kick.source->landing.noteHz(), track().notes.a4Hz) + own_;
    targets_ = tuneTargets(landing_, noteUnderMostHits(document().session()), track().key);
  }
  if (heardNumber().value_or(0) > count()) drop();
  update();
}

// At their notes where there is room, else pushed apart in order of pitch.
QRectF TargetMarks::cell(int number) const {
  const size_t count = targets_.size();
  if (number < 1 || static_cast<size_t>(number) > count) return {};
  std::vector<size_t> order(count);
  std::iota(order.begin(), order.end(), size_t{0});
  std::sort(order.begin(), order.end(),
            [&](size_t a, size_t b) { return targets_[a].midi > targets_[b].midi; });
  const double top = 44.0 + kMarkHeight / 2, bottom = height() - 44.0;
  std::vector<double> at;
  for (const size_t i : order) {
    const double y = std::clamp(axis_.yOfMidi(targets_[i].midi), top, bottom);
    at.push_back(at.empty() ? y : std::max(y, at.back() + kMarkStep));
  }
  double lowest = bottom;
  for (size_t i = count; i-- > 0; lowest = at[i] - kMarkStep) at[i] = std::min(at[i], lowest);
  for (size_t i = 0; i < count; ++i)
    if (order[i] + 1 == static_cast<size_t>(number))
      return {kLeader, at[i] - kMarkHeight / 2, width() - kLeader, kMarkHeight};
  return {};
}

std::optional<Edit> TargetMarks::editOf(int number) const {
  const auto owner = kickLayer(document());
  if (!owner) return std::nullopt;
  if (number == 0) return takeBackShift("reset kick shift", *owner->part, *owner->layer);
  if (number < 1 || static_cast<size_t>(number) > targets_.size()) return std::nullopt;
  const int midi = targets_[static_cast<size_t>(number) - 1].midi;
  return setLayerLanding("tune kick to " + noteName(midi, track().notes), *owner->part, *owner->layer, midi);
}

void TargetMarks::keyPressEvent(QKeyEvent* event) {
  const int way = event->key() == Qt::Key_Down ? 1 : event->key() == Qt::Key_Up ? -1 : 0;
  if (way != 0)
    step(way);
  else if (!takeKey(event->key()))
    QWidget::keyPressEvent(event);
}

void TargetMarks::mousePressEvent(QMouseEvent* event) {
  if (event->position().y() < 24.0) return heardNumber() == 0 ? drop() : hear(0);
  NumberedOffers::mousePressEvent(event);
}

void TargetMarks::mouseMoveEvent(QMouseEvent* event) {
  bool over = event->position().y() < 24.0 && !targets_.empty();
  for (int n = 1; n <= count(); ++n) over = over || cell(n).contains(event->position());
  setCursor(over ? Qt::PointingHandCursor : Qt::ArrowCursor);
}

// A bar as long as the shift; hatched beyond two semitones, a recorded drum's usual limit.
void TargetMarks::drawStrain(QPainter& p, const QRectF& box, double semitones, const QColor& ink) const {
  constexpr double kMost = 12.0, kLimit = 2.0;
  const double y = std::round(box.center().y()) + 0.5, scale = box.width() / kMost;
  const double size = std::min(kMost, std::abs(semitones));
  p.setPen(QPen(withAlpha(ink, 0.5), 1.0));
  p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y));
  p.fillRect(QRectF(box.left(), y - 3, std::min(size, kLimit) * scale, 6), ink);
  if (size > kLimit)
    p.fillRect(QRectF(box.left() + kLimit * scale, y - 3, (size - kLimit) * scale, 6),
               withAlpha(theme().off, 0.55));
  p.drawLine(QPointF(box.left() + kLimit * scale, y - 5), QPointF(box.left() + kLimit * scale, y + 5));
}

void TargetMarks::drawMark(QPainter& p, int number) const {
  const TuneTarget& target = targets_[static_cast<size_t>(number) - 1];
  const QRectF box = cell(number);
  const bool inverted = heardNumber() == number;
  const QColor ink = inverted ? theme().panel : theme().ink;
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(theme().muted, 1.0));
  p.drawLine(QPointF(0, std::clamp(axis_.yOfMidi(target.midi), 24.0, height() - 28.0)),
             QPointF(kLeader - 2, box.center().y()));
  p.setRenderHint(QPainter::Antialiasing, false);
  if (inverted) p.fillRect(box, theme().ink);
  const QRectF key(box.left() + 1, std::round(box.center().y() - kBox / 2), kBox, kBox);
  p.setPen(QPen(ink, 1.0));
  if (!inverted) p.drawRect(key.adjusted(0.5, 0.5, -0.5, -0.5));
  p.setFont(axisFont(true));
  p.drawText(key, Qt::AlignCenter, QString::number(number));
  p.setFont(bodyFont(true));
  p.drawText(QRectF(box.left() + 22, box.top(), 34, box.height()), Qt::AlignVCenter,
             QString::fromStdString(noteName(target.midi, track().notes)));
  p.setFont(axisFont());
  p.drawText(QRectF(box.left() + 54, box.top(), 52, box.height()), Qt::AlignVCenter | Qt::AlignRight,
             shiftWords(target.semitones + own_));
  p.setPen(inverted ? theme().panel : theme().muted);
  constexpr const char* kReasons[] = {"bass", "octave", "tonic", "fifth", "in key"};
  p.drawText(QRectF(box.left() + 113, box.top(), 44, box.height()), Qt::AlignVCenter,
             kReasons[static_cast<size_t>(target.kind)]);
  drawStrain(p, QRectF(box.right() - kStrainWidth - 4, box.top(), kStrainWidth, box.height()),
             target.semitones + own_, ink);
}

void TargetMarks::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (targets_.empty()) return;
  p.setFont(axisFont(true));
  drawLabel(p, QPointF(kLeader, 2), Qt::AlignLeft | Qt::AlignTop, "Targets", theme().ink, QColor(0, 0, 0, 0));
  p.setFont(axisFont());
  const QString words = "0 as recorded";
  const QRectF zero(width() - fontMetrics().horizontalAdvance(words) - 2, 0,
                    fontMetrics().horizontalAdvance(words) + 2, 18);
  if (heardNumber() == 0) p.fillRect(zero, theme().ink);
  p.setPen(heardNumber() == 0 ? theme().panel : theme().muted);
  p.drawText(zero, Qt::AlignCenter, words);
  p.setPen(theme().muted);
  p.drawText(QRectF(kLeader, 20, width() - kLeader, 18), Qt::AlignVCenter,
             heardNumber() ? "Return keeps it, Esc drops it" : "Number keys play a target");
  for (int n = 1; n <= count(); ++n)
    if (n != heardNumber()) drawMark(p, n);
  if (heardNumber().value_or(0) > 0) drawMark(p, *heardNumber());
  p.setPen(theme().muted);
  p.drawText(QRectF(kLeader, height() - 24.0, width() - kLeader, 18), Qt::AlignRight | Qt::AlignVCenter,
             "strain; the tick is 2 st");
  if (!hasFocus()) return;
  p.setPen(QPen(theme().bass, 1.0));
  p.drawRect(QRectF(rect()).adjusted(kLeader - 4 + 0.5, 0.5, -0.5, -0.5));
}

}  // namespace heft::app
