#include "app/pictures/note_rows.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/theory/text.h"

namespace heft::app {

void drawNoteRows(QPainter& p, const Track& track, const Axis& note, double left, double right) {
  constexpr double kNameHeight = 13.0;
  const Theme& t = theme();
  const Key& key = track.key;
  NoteStyle style = track.notes;
  style.flats = key.prefersFlats();
  const double semitone = std::abs(note.pixel(41) - note.pixel(40));
  for (int midi = static_cast<int>(std::ceil(note.from)); midi <= static_cast<int>(note.to); ++midi) {
    if (!key.contains(midi)) continue;
    const bool tonic = key.isTonic(midi), fifth = key.isFifth(midi);
    const double y = std::round(note.pixel(midi)) + 0.5;
    p.setPen(QPen(tonic ? withAlpha(t.muted, 0.75) : t.rule, 1.0));
    p.drawLine(QPointF(left, y), QPointF(right, y));
    if (!tonic && !fifth && semitone * 1.5 < kNameHeight) continue;
    p.setFont(axisFont(tonic));
    drawLabel(p, QPointF(left - 8, y), Qt::AlignRight | Qt::AlignVCenter,
              QString::fromStdString(noteName(midi, style)), tonic ? t.ink : t.muted, QColor(0, 0, 0, 0));
  }
}

}  // namespace heft::app
