#pragma once
/// Every colour, size and font of the window, in one place.

#include <QColor>
#include <QFont>
#include <QPainter>
#include <QPen>
#include <QString>

#include "core/judge/ledger.h"

namespace heft::app {

struct Theme {
  QColor page, panel, ink, muted, rule;
  QColor kick, bass, reference, referenceWords;
  QColor holds, watch, off;
};

/// Paper for daylight, Dark for dark rooms.
enum class Light { Paper, Dark };
const Theme& themeOf(Light light);

/// The theme in use.
const Theme& theme();
Light light();

/// Loads the typeface that ships with the application and sets palette, font and style sheet: before any
/// widget, and again at any time. Mutes the words of widgets whose property `role` is "muted".
void applyTheme(Light light = Light::Paper);

QFont bodyFont(bool strong = false);  ///< 13 px
QFont axisFont(bool strong = false);  ///< 11 px
QFont titleFont();                    ///< 17 px

QColor verdictColour(Verdict verdict);
QColor withAlpha(QColor colour, double alpha);
/// A line that stays one physical pixel group wide at any scale: 1 px rules, 1.5 px data.
QPen rulePen(const QColor& colour);
QPen dataPen(const QColor& colour, Qt::PenStyle style = Qt::SolidLine);

/// The mark of a verdict in a 10 px box centred on `centre`: filled square, half square, open diamond.
/// Intended ones are drawn in the muted ink.
void drawVerdict(QPainter& painter, const QPointF& centre, Verdict verdict, bool resting = false);

/// A draggable grip: a circle, filled while selected. A square is a verdict and nothing else.
void drawGrip(QPainter& painter, const QPointF& centre, bool chosen, double radius = 4.0);
/// A grip that bends the line between two others: a capsule.
void drawBendGrip(QPainter& painter, const QPointF& centre, bool chosen);
/// A point of a drawn edge: an outlined square, bold while selected.
void drawPointMark(QPainter& painter, const QPointF& centre, bool chosen);
/// A section or processor that is on: a bold upright stroke, 3 px wide, at the right of `left`.
void drawIn(QPainter& painter, const QPointF& left);
/// A ticked box.
void drawTick(QPainter& painter, const QPointF& centre, const QColor& ink);
/// A favourite: a star, outlined if it is none.
void drawFavourite(QPainter& painter, const QPointF& centre, bool favourite);
/// Whether it is audible on a small speaker: a dot with two waves, else an outlined dot.
void drawHeard(QPainter& painter, const QPointF& centre, bool heard);

/// A tooltip with these words verbatim, including line breaks: tooltips guess at markup, and file names may
/// look like it.
QString tipText(const QString& words);

/// Words wrapped within a box in the painter's font, elided with "..." where they do not fit.
void drawWrapped(QPainter& painter, const QRectF& box, const QString& text);

/// Words with the page's colour behind them, so that no line crosses a letter. `align` says which side `at` is
/// on.
QRectF drawLabel(QPainter& painter, const QPointF& at, Qt::Alignment align, const QString& text,
                 const QColor& colour, const QColor& ground);

}  // namespace heft::app
