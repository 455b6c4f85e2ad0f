#pragma once
/// The notes of the key as rows of an upright note axis.

#include "app/pictures/axis.h"
#include "core/session/session.h"

namespace heft::app {

/// A rule for each note of the key from `left` to `right`, with its name to the left: the tonic's strong;
/// where rows are close, of the others only the fifth's.
void drawNoteRows(QPainter& p, const Track& track, const Axis& note, double left, double right);

}  // namespace heft::app
