#include "app/stages/sounds/line_picture.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/session/edits/pair.h"
#include "core/study/line_heard.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kShownDb = 12.0, kEvenDb = 1.5;

}  // namespace

LinePicture::LinePicture(Document& document, Selection& selection) : Picture(document, selection, "Bass line") {
  explain("Drag a note's step onto the line. Shift+F1: more",
          "Perceived loudness of each bass note against the line's average, at the listening level for a "
          "full-scale sine. Drag a step: trim its note. Left, Right: select. Up, Down: trim. Return: set it to "
          "the line. Delete: remove the trim.");
}

const LineHeard* LinePicture::line() const {
  const Study* s = document().study();
  return s && !s->line.notes.empty() ? &s->line : nullptr;
}

const NoteHeard* LinePicture::chosen() const {
  const LineHeard* all = line();
  if (!all) return nullptr;
  for (const NoteHeard& n : all->notes)
    if (n.note == note_) return &n;
  return &all->notes.front();
}

Axis LinePicture::level() const {
  return {-kShownDb, kShownDb, plot().bottom(), plot().top()};
}

QRectF LinePicture::stepOf(size_t note) const {
  const auto& notes = document().session().bass().notes;
  const LineHeard* all = line();
  if (note >= notes.size() || !all) return {};
  const auto heard =
      std::find_if(all->notes.begin(), all->notes.end(), [&](const NoteHeard& n) { return n.note == note; });
  if (heard == all->notes.end()) return {};
  const Axis time{0.0, track().loopQuarters(), plot().left(), plot().right()};
  const double y = level().pixel(std::clamp(-heard->toLineDb, -kShownDb, kShownDb));
  const double left = time.pixel(notes[note].startQuarters),
               right = std::max(left + 6.0, time.pixel(notes[note].endQuarters()) - 2.0);
  return {QPointF(left, y - 2.0), QPointF(right, y + 2.0)};
}

void LinePicture::trim(double db, const std::string& mergeKey) {
  if (const NoteHeard* n = chosen())
    document().edit(trimNote(document().session().bass(), n->note, std::round(10.0 * db) / 10.0, mergeKey));
}

void LinePicture::drawStep(QPainter& p, const NoteHeard& heard) const {
  const Theme& t = theme();
  const Note& note = document().session().bass().notes[heard.note];
  const QRectF step = stepOf(heard.note);
  const bool now = chosen() == &heard, even = std::abs(heard.toLineDb) <= kEvenDb;
  const double zero = level().pixel(0.0);
  // Its difference, as a column to the line.
  p.fillRect(QRectF(QPointF(step.left(), std::min(zero, step.center().y())),
                    QPointF(step.right(), std::max(zero, step.center().y()))),
             withAlpha(even ? t.bass : t.watch, 0.18));
  p.fillRect(step.adjusted(0, now ? -1 : 0, 0, now ? 1 : 0), even ? t.bass : t.watch);
  const QString name = noteText(note.midi);
  const QFontMetricsF metrics(axisFont(now));
  p.setFont(axisFont(now));
  const bool above = heard.toLineDb <= 0.0;
  if (step.width() > metrics.horizontalAdvance(name) || now)
    drawLabel(p, QPointF(step.left(), above ? step.top() - 3 : step.bottom() + 3),
              Qt::AlignLeft | (above ? Qt::AlignBottom : Qt::AlignTop),
              name + (note.trim.db != 0.0 ? ", trim " + dbText(note.trim.db) : QString()),
              now ? t.ink : t.muted, QColor(0, 0, 0, 0));
}

void LinePicture::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  const LineHeard* all = line();
  if (!all)
    return drawEmpty(p, document().isBusy() ? "Measuring..."
                                            : "Place bass notes in the loop below to see the loudness "
                                              "of each here.");
  const QRectF area = plot();
  p.fillRect(
      QRectF(QPointF(area.left(), level().pixel(kEvenDb)), QPointF(area.right(), level().pixel(-kEvenDb))),
      QBrush(withAlpha(t.holds, 0.3), Qt::BDiagPattern));
  p.setFont(axisFont());
  for (const double db : {-12.0, -6.0, 0.0, 6.0, 12.0}) {
    p.setPen(rulePen(db == 0.0 ? t.muted : t.rule));
    p.drawLine(QPointF(area.left(), level().pixel(db)), QPointF(area.right(), level().pixel(db)));
    drawLabel(p, QPointF(area.left() - 8, level().pixel(db)), Qt::AlignRight | Qt::AlignVCenter,
              db == 0.0 ? QString("the line") : (db > 0 ? "+" : "") + QString::number(db) + " dB", t.muted,
              QColor(0, 0, 0, 0));
  }
  for (const NoteHeard& n : all->notes)
    if (n.note < document().session().bass().notes.size()) drawStep(p, n);
  const NoteHeard* now = chosen();
  if (!now || now->note >= document().session().bass().notes.size()) return;
  p.setFont(axisFont());
  const QString name = noteText(document().session().bass().notes[now->note].midi);
  const QString off = std::abs(now->toLineDb) < 0.05
                          ? name + " is on the line"
                          : name + " is " + dbText(std::abs(now->toLineDb), 1, false) +
                                (now->toLineDb > 0 ? " under the line" : " over the line");
  drawLabel(p, QPointF(area.left(), 4), Qt::AlignLeft | Qt::AlignTop, off, t.ink, t.panel);
  drawLabel(p, QPointF(area.right(), 4), Qt::AlignRight | Qt::AlignTop,
            QString("%1 phon where a full-scale sine plays at %2 dB")
                .arg(QString::fromStdString(fixedNumber(now->phon, 1)))
                .arg(track().listening.fullScaleDb),
            t.muted, t.panel);
}

void LinePicture::mousePressEvent(QMouseEvent* event) {
  const LineHeard* all = line();
  if (!all) return;
  for (const NoteHeard& n : all->notes) {
    const QRectF step = stepOf(n.note);
    if (event->position().x() < step.left() || event->position().x() > step.right()) continue;
    note_ = n.note;
    if (std::abs(event->position().y() - step.center().y()) < 9.0)
      heldDb_ = document().session().bass().notes[n.note].trim.db, heldY_ = event->position().y();
  }
  update();
}

void LinePicture::mouseMoveEvent(QMouseEvent* event) {
  const LineHeard* all = line();
  bool over = false;
  if (all)
    for (const NoteHeard& n : all->notes)
      over |= stepOf(n.note).adjusted(0, -7, 0, 7).contains(event->position());
  setCursor(heldDb_ || over ? Qt::SizeVerCursor : Qt::ArrowCursor);
  if (heldDb_)
    trim(*heldDb_ + (heldY_ - event->position().y()) * 2.0 * kShownDb / plot().height(), "trim note");
}

void LinePicture::mouseReleaseEvent(QMouseEvent*) {
  heldDb_.reset();
  document().endDrag();
}

void LinePicture::keyPressEvent(QKeyEvent* event) {
  const LineHeard* all = line();
  const NoteHeard* now = chosen();
  if (!all || !now) return QWidget::keyPressEvent(event);
  const double has = document().session().bass().notes[now->note].trim.db;
  const double step = event->modifiers() & Qt::ShiftModifier ? 0.1 : 0.5;
  const auto place = now - all->notes.data();
  const auto last = static_cast<ptrdiff_t>(all->notes.size()) - 1;
  switch (event->key()) {
    case Qt::Key_Left:
    case Qt::Key_Right:
      note_ = all->notes[static_cast<size_t>(
                             std::clamp<ptrdiff_t>(place + (event->key() == Qt::Key_Right ? 1 : -1), 0, last))]
                  .note;
      return update();
    case Qt::Key_Up:
      return trim(has + step, "trim key");
    case Qt::Key_Down:
      return trim(has - step, "trim key");
    case Qt::Key_Return:
    case Qt::Key_Enter:
      return trim(has + now->toLineDb, {});
    case Qt::Key_Delete:
      return trim(0.0, {});
    default:
      QWidget::keyPressEvent(event);
  }
}

}  // namespace heft::app
