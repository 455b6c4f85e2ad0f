#pragma once
/// Shared by all pictures of spectra: notes of the key as rules, levels, the curve, and snapping to notes.

#include <functional>

#include "app/pictures/axis.h"
#include "core/session/session.h"

namespace heft::app {

struct SpectrumAxes {
  Axis hz, level;
};

/// 20 Hz to 20 kHz across the area; levels from 60 dB under the loudest of `db` to 6 dB over it.
SpectrumAxes spectrumAxes(const std::vector<double>& db, const QRectF& area);
/// The key's notes, level rules and frequencies of a picture on those axes; `hasRoom` tells at which x a
/// frequency may be written.
void drawSpectrumScale(
    QPainter& p, const Track& track, const SpectrumAxes& axes, const QRectF& area,
    const std::function<bool(double)>& hasRoom = [](double) { return true; });
/// The key's notes as vertical rules in the low end, with the tonic's names above.
void drawKeyNotes(QPainter& p, const Track& track, const Axis& hz, const QRectF& area);
/// Level rules at that many dB below `most`, with figures at the left; none below the axis.
void drawLevelRules(QPainter& p, const Axis& level, double most, const std::vector<double>& below,
                    const QRectF& area);
/// "20 Hz", "50", "1 kHz": a tick's words.
QString hzTick(double hz);
/// The frequency at the pointer: a note of the key within 5 px, unless it is free.
double caughtHz(const Track& track, const Axis& hz, double x, bool free);
/// A spectrum by spectrumHz() as a curve within an area.
QPolygonF spectrumLine(const std::vector<double>& db, const Axis& hz, const Axis& level);

}  // namespace heft::app
