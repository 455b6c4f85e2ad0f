#pragma once
/// Every colour, size and font of the window, in one place.

#include <QColor>
#include <QFont>
#include <QPainter>
#include <QPen>
#include <QString>

#include "core/ledger/ledger.h"

namespace heft::app {

struct Theme {
  QColor page, panel, ink, muted, rule;
  QColor kick, bass, reference, referenceWords;
  QColor holds, watch, off;
};

/// Paper by day, Dark in a dark room.
enum class Light { Paper, Dark };
const Theme& themeOf(Light light);

/// The theme in use.
const Theme& theme();
Light light();

/// Loads the typeface that ships with the application and sets palette, font and style sheet: before any
/// widget, and again at any time, at once for all of them. Words of a widget whose property `role` is "muted"
/// are muted.
void applyTheme(Light light = Light::Paper);

QFont bodyFont(bool strong = false);  ///< 13 px
QFont axisFont(bool strong = false);  ///< 11 px
QFont titleFont();                    ///< 17 px

QColor verdictColour(Verdict verdict);
QColor withAlpha(QColor colour, double alpha);
/// A line that stays one physical pixel group wide at any scale: 1 px rules, 1.5 px data.
QPen rulePen(const QColor& colour);
QPen dataPen(const QColor& colour, Qt::PenStyle style = Qt::SolidLine);

/// The mark of a verdict in a 10 px box centred on `centre`: filled square, half square, open diamond. Marks
/// that are meant so are drawn in the muted ink.
void drawVerdict(QPainter& painter, const QPointF& centre, Verdict verdict, bool resting = false);

/// A grip that can be dragged: a circle, full while it is chosen. A square is a verdict and nothing else.
void drawGrip(QPainter& painter, const QPointF& centre, bool chosen, double radius = 4.0);
/// A grip that bends the line between two others: a capsule.
void drawBendGrip(QPainter& painter, const QPointF& centre, bool chosen);
/// A point of a drawn edge: a square in outline, bold while it is chosen.
void drawPointMark(QPainter& painter, const QPointF& centre, bool chosen);
/// A section or processor that is on: a bold upright stroke, 3 px wide, at the right of `left`.
void drawIn(QPainter& painter, const QPointF& left);
/// A box that is on.
void drawTick(QPainter& painter, const QPointF& centre, const QColor& ink);
/// A favourite: a star, in outline where it is not one.
void drawFavourite(QPainter& painter, const QPointF& centre, bool favourite);
/// Whether a small speaker lets it be heard: a dot with two waves, else the dot alone in outline.
void drawHeard(QPainter& painter, const QPointF& centre, bool heard);

/// A tooltip of words verbatim, lines and all: tooltips guess at markup, and file names may look like it.
QString tipText(const QString& words);

/// Words wrapped within a box in the painter's font; where they do not fit they end in "...".
void drawWrapped(QPainter& painter, const QRectF& box, const QString& text);

/// Words with the page's colour behind them, so that no line crosses a letter. `align` says which side `at` is
/// on.
QRectF drawLabel(QPainter& painter, const QPointF& at, Qt::Alignment align, const QString& text,
                 const QColor& colour, const QColor& ground);

}  // namespace heft::app
