#include "app/widgets/unit_words.h"

#include <QRegularExpression>
#include <cmath>

#include "core/session/pattern.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

struct UnitWords {
  const char* suffix;
  int decimals;
  double step, fine;
  double scale = 1.0;  ///< shown = value * scale
};

UnitWords wordsOf(Unit unit) {
  switch (unit) {
    case Unit::Db:
      return {" dB", 1, 0.5, 0.1};
    case Unit::Ms:
      return {" ms", 1, 1.0, 0.1};
    case Unit::Share:
      return {" %", 0, 5.0, 1.0, 100.0};
    case Unit::Hz:  // in octaves
      return {" Hz", 1, 1.0 / 12.0, 0.01};
    case Unit::Semitones:
      return {" st", 2, 1.0, 0.01};
    case Unit::Midi:
      return {"", 2, 1.0, 0.01};
    case Unit::Degrees:
      return {"\u00b0", 0, 15.0, 1.0};
    case Unit::Seconds:
      return {" s", 3, 0.01, 0.001};
    case Unit::Bpm:
      return {" BPM", 1, 1.0, 0.1};
    case Unit::Number:
    case Unit::Quarters:
      break;
  }
  return {"", 1, 0.1, 0.02};
}

// Without its sign, which a time takes here and a length does not.
std::optional<double> typedMs(QString words, const Track& track) {
  const bool negative = words.startsWith('-');
  const auto time = parseTime(words.remove(QRegularExpression("^[+-]")).toStdString());
  if (!time) return std::nullopt;
  return (negative ? -1.0 : 1.0) * time->toMs(track.tempoBpm);
}

std::optional<double> typed(QString words, Unit unit, const Track& track) {
  if (unit == Unit::Hz || unit == Unit::Midi) {
    const auto midi = parsePitch(words.toStdString(), track.notes);
    if (!midi) return std::nullopt;
    return unit == Unit::Midi ? *midi : hzFromMidi(*midi, track.notes.a4Hz);
  }
  if (unit == Unit::Ms) return typedMs(words, track);
  if (unit == Unit::Seconds) {
    const auto seconds = parseOffset(words.toStdString(), track);
    return seconds ? std::optional(*seconds) : std::nullopt;
  }
  if (unit == Unit::Semitones && words.endsWith("ct", Qt::CaseInsensitive)) {
    words.chop(2);
    const auto cents = parseNumber(words.trimmed().toStdString());
    return cents ? std::optional(*cents / 100.0) : std::nullopt;
  }
  const UnitWords w = wordsOf(unit);
  const QString suffix = QString::fromUtf8(w.suffix).trimmed();
  if (!suffix.isEmpty() && words.endsWith(suffix, Qt::CaseInsensitive)) words.chop(suffix.size());
  const auto shown = parseNumber(words.trimmed().toStdString());
  return shown ? std::optional(*shown / w.scale) : std::nullopt;
}

}  // namespace

QString unitText(double value, Unit unit, const Track& track) {
  if (unit == Unit::Hz) return QString::fromStdString(hzText(value));
  if (unit == Unit::Midi) return QString::fromStdString(pitchText(value, track.notes));
  const UnitWords w = wordsOf(unit);
  const double shown = value * w.scale;
  const bool aligned = unit == Unit::Db || unit == Unit::Bpm;  // a dragged number keeps its decimals
  return (unit == Unit::Db && shown > 0.04 ? "+" : "") +
         QString::fromStdString(aligned ? fixedNumber(shown, w.decimals) : formatNumber(shown, w.decimals)) +
         QString::fromUtf8(w.suffix);
}

QString takesText(const Range& range, const Track& track) {
  const UnitWords w = wordsOf(range.unit);
  if (range.unit == Unit::Midi)
    return QString("%1 to %2 or Hz")
        .arg(QString::fromStdString(noteName(static_cast<int>(range.low), track.notes)),
             QString::fromStdString(noteName(static_cast<int>(range.high), track.notes)));
  const QString from =
      QString("%1 to %2%3").arg(range.low * w.scale).arg(range.high * w.scale).arg(QString::fromUtf8(w.suffix));
  if (range.unit == Unit::Hz) return from + " or a note";
  if (range.unit == Unit::Ms) return from + " or a note length";
  if (range.unit == Unit::Seconds) return from + ", beats or bars";
  if (range.unit == Unit::Semitones) return from + " or cents";
  return from.trimmed();
}

std::optional<double> typedNumber(const QString& words, const Range& range, const Track& track) {
  const auto value = typed(words.trimmed(), range.unit, track);
  constexpr double kRounding = 1e-9;
  if (!value || *value < range.low - kRounding || *value > range.high + kRounding) return std::nullopt;
  return value;
}

double stepped(double value, Unit unit, int steps, bool fine) {
  const UnitWords w = wordsOf(unit);
  const double by = (fine ? w.fine : w.step) * steps;
  return unit == Unit::Hz ? value * std::exp2(by) : value + by / w.scale;
}

QString dbText(double db, int decimals, bool sign) {
  const QString text = QString::fromStdString(fixedNumber(db, decimals));
  return (sign && text.toDouble() > 0.0 ? "+" : "") + text + " dB";
}

QString timeText(const TimeValue& value, double tempoBpm) {
  const QString text = QString::fromStdString(value.text());
  return value.isNote() ? text + ", " + QString::fromStdString(formatNumber(value.toMs(tempoBpm), 0)) + " ms"
                        : text;
}

}  // namespace heft::app
