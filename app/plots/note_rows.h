#pragma once
/// The notes of the key as rows of an upright note axis.

#include "app/plots/axis.h"
#include "core/session/session.h"

namespace heft::app {

/// A rule for each note of the key from `left` to `right`, its name at the left of it: the tonic's strong, of
/// the others the fifth's alone where rows are close.
void drawNoteRows(QPainter& p, const Track& track, const Axis& note, double left, double right);

}  // namespace heft::app
