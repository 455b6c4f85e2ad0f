#pragma once
/// How a number of each unit is written, read and stepped.

#include <QString>
#include <optional>

#include "core/session/session.h"
#include "core/session/table.h"

namespace heft::app {

/// "-6.0 dB", "85 ms", "25 %", "52 Hz", "A1", "0.520 s".
QString unitText(double value, Unit unit, const Track& track);
/// The valid input of a field with that range: for its tip, and for the message after invalid input.
QString takesText(const Range& range, const Track& track);
/// Parses typed words: a frequency also as a note, a time also as a note length or in beats, a shift also in
/// cents. Nothing where they are invalid or out of range.
std::optional<double> typedNumber(const QString& words, const Range& range, const Track& track);
/// `steps` further, with `fine` by the smaller step; not clamped yet.
double stepped(double value, Unit unit, int steps, bool fine);

/// Words of a time value that follows the tempo, with its milliseconds.
QString timeText(const TimeValue& value, double tempoBpm);
QString dbText(double db, int decimals = 1, bool sign = true);

}  // namespace heft::app
