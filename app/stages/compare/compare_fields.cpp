#include "app/stages/compare/compare_fields.h"

#include <QRegularExpression>
#include <cmath>

#include "app/widgets/unit_words.h"
#include "core/judge/ledger.h"
#include "core/theory/text.h"

namespace heft::app {

Result<double> numberIn(const QString& words) {
  const auto number = parseNumber(words.trimmed().toStdString());
  return number ? Result<double>(*number) : Result<double>(badUsage("Write a number"));
}

namespace {

QString fixed(double value) {
  return QString::fromStdString(fixedNumber(value, 1));
}

}  // namespace

namespace {

// "40 to 60 Hz", "45-70".
Result<Band> bandIn(const QString& words) {
  const QStringList ends = QString(words)
                               .remove("Hz", Qt::CaseInsensitive)
                               .replace("to", "-")
                               .replace(QChar(0x2013), "-")
                               .split('-');
  const auto low = numberIn(ends.value(0)), high = numberIn(ends.value(1));
  if (ends.size() != 2 || !low || !high || *low < 20.0 || *high > 500.0 || *high <= *low)
    return badUsage("Write two frequencies within 20 to 500 Hz, such as 45 to 70 Hz");
  return Band{*low, *high};
}

FieldSpec bandField(FloorPicture& picture) {
  return {.caption = "Band",
          .name = "Compared band",
          .tip = "The chosen band. Type other edges within 20 to 500 Hz to add one; Delete removes it",
          .text =
              [&picture] {
                const Band band = picture.band().band();
                return QString("%1 to %2 Hz").arg(band.lowHz).arg(band.highHz);
              },
          .commit = typedAs(bandIn, [&picture](const Band& band) { picture.setEdges(band); }),
          .reset = [&picture] { picture.removeBand(); }};
}

FieldSpec toleranceField(FloorPicture& picture, Document& document) {
  const auto now = [&picture] { return picture.band().toleranceDb.value_or(Limits{}.bandHolds); };
  return {.caption = "Tolerance",
          .name = "Band tolerance",
          .tip = "How far the band may be outside the references' span, 0.1 to 12 dB",
          .text = [now] { return fixed(now()) + " dB"; },
          .commit = typedAs([](const QString& words) { return numberIn(QString(words).remove("dB")); },
                            [&picture](double db) { picture.setTolerance(db); }),
          .step =
              [&picture, now](int steps, bool fine) {
                picture.setTolerance(now() + steps * (fine ? 0.1 : 0.5), "band tolerance");
              },
          .endDrag = [&document] { document.endDrag(); },
          .reset = [&picture] { picture.setTolerance(std::nullopt); }};
}

}  // namespace

std::vector<FieldSpec> bandFields(FloorPicture& picture, Document& document, bool withBands,
                                  const std::function<void()>& shown) {
  std::vector<FieldSpec> out;
  if (withBands) {
    out.push_back(bandField(picture));
    out.push_back(toleranceField(picture, document));
    out.push_back({.caption = "Your span over time",
                   .name = "Own span",
                   .tip = "The sum's own 10th to 90th percentile over time, hatched beside the references'",
                   .text = [&picture] { return QString(picture.showsOwnSpan() ? "shown" : "hidden"); },
                   .choices =
                       [] {
                         return QStringList{"hidden", "shown"};
                       },
                   .choose = [&picture, shown](int i) { picture.setOwnSpan(i == 1), shown(); }});
  }
  out.push_back({.caption = "Kick to bass",
                 .name = "Kick to bass",
                 .tip = "Power of the kick against the bass's, 20 to 120 Hz",
                 .text = [&document] {
                   const Study* s = document.study();
                   const auto db = s && !s->empty ? s->kickToBassDb() : std::nullopt;
                   return db ? dbText(*db) : QString("none");
                 }});
  return out;
}

std::vector<FieldSpec> foldFields(BarPicture& picture, const Document& document,
                                  const std::function<void()>& shown) {
  std::vector<FieldSpec> out;
  out.push_back(
      {.caption = "Band",
       .name = "Fold below",
       .tip = "Upper edge of the folded band, 40 to 1000 Hz, such as 120 Hz or B2",
       .text = [&picture, &document, shown] { return "below " + QString::number(picture.belowHz()) + " Hz"; },
       .commit = typedAs(
           [&picture, &document, shown](const QString& words) {
             return parsePitch(QString(words).remove("below").trimmed().toStdString(), document.track().notes);
           },
           [&picture, &document, shown](double midi) {
             picture.setBelowHz(hzFromMidi(midi, document.track().notes.a4Hz)), shown();
           }),
       .step = [&picture, &document, shown](
                   int steps,
                   bool fine) { picture.setBelowHz(picture.belowHz() + steps * (fine ? 1 : 10)), shown(); },
       .reset = [&picture, &document, shown] { picture.setBelowHz(120.0), shown(); }});
  out.push_back(
      {.caption = "Fold over",
       .name = "Fold over",
       .tip = "One bar, or one beat",
       .text = [&picture, &document, shown] { return QString(picture.isOneBeat() ? "1 beat" : "1 bar"); },
       .choices =
           [] {
             return QStringList{"1 bar", "1 beat"};
           },
       .choose = [&picture, &document, shown](int i) { picture.setOneBeat(i == 1), shown(); }});
  out.push_back(
      {.caption = "Smoothing",
       .name = "Fold smoothing",
       .tip = "Averaging time, 2 to 200 ms",
       .text = [&picture, &document, shown] { return QString::number(picture.smoothMs()) + " ms"; },
       .commit = typedAs([](const QString& words) { return numberIn(QString(words).remove("ms")); },
                         [&picture, &document, shown](double ms) { picture.setSmoothMs(ms), shown(); }),
       .step = [&picture, &document, shown](
                   int steps,
                   bool fine) { picture.setSmoothMs(picture.smoothMs() + steps * (fine ? 1 : 5)), shown(); },
       .reset = [&picture, &document, shown] { picture.setSmoothMs(20.0), shown(); }});
  return out;
}

std::vector<FieldSpec> widthFields(WidthPicture& picture, const CompareFigures& figures,
                                   const Document& document, const std::function<void()>& shown) {
  std::vector<FieldSpec> out;
  out.push_back({.caption = "Shows",
                 .name = "Width shows",
                 .tip = "Side level relative to mid, or the level that a mono sum loses",
                 .text = [&picture, &figures,
                          shown] { return QString(picture.showsLoss() ? "mono loss" : "side to mid"); },
                 .choices =
                     [] {
                       return QStringList{"side to mid", "mono loss"};
                     },
                 .choose = [&picture, &figures, shown](int i) { picture.setLoss(i == 1), shown(); }});
  out.push_back({.caption = "Yours mono below",
                 .name = "Mono below",
                 .tip = "Highest frequency below which your side is 20 dB and more under mid",
                 .text = [&picture, &figures, shown] {
                   const auto hz = figures.detail() ? figures.detail()->mineFacts.monoBelowHz : std::nullopt;
                   return hz ? QString("%1 Hz").arg(std::lround(*hz)) : QString("none");
                 }});
  out.push_back({.caption = "Your side below",
                 .name = "Side below",
                 .tip = "Side level relative to mid up to a frequency: type it, 30 to 500 Hz or a note",
                 .text =
                     [&picture, &document] {
                       const Study* study = document.study();
                       const double db =
                           study ? study->sum.low.sideBelowDb(picture.sideBelowHz()).value_or(-120.0) : -120.0;
                       return QString("%1 Hz: %2")
                           .arg(std::lround(picture.sideBelowHz()))
                           .arg(db > -119.0 ? dbText(db, 0) : QString("mono"));
                     },
                 .commit = typedAs(
                     [&document](const QString& words) {
                       return parsePitch(words.section(':', 0, 0).trimmed().toStdString(),
                                         document.track().notes);
                     },
                     [&picture, &document, shown](double midi) {
                       picture.setSideBelowHz(hzFromMidi(midi, document.track().notes.a4Hz)), shown();
                     }),
                 .step =
                     [&picture, shown](int steps, bool fine) {
                       picture.setSideBelowHz(picture.sideBelowHz() + steps * (fine ? 1 : 10)), shown();
                     },
                 .reset = [&picture, shown] { picture.setSideBelowHz(120.0), shown(); }});
  return out;
}

std::vector<FieldSpec> speakerFields(SpeakersPicture& picture, const std::function<void()>& shown) {
  std::vector<FieldSpec> out;
  out.push_back(
      {.caption = "Quietly at",
       .name = "Quiet level",
       .tip = QString("Level of a full-scale sine when played quietly, %1 to %2 dB SPL")
                  .arg(kLeastListeningDb)
                  .arg(kMostListeningDb),
       .text = [&picture, shown] { return QString::number(picture.quietDb()) + " dB"; },
       .commit = typedAs([](const QString& words) { return numberIn(QString(words).remove("dB")); },
                         [&picture, shown](double db) { picture.setQuietDb(db), shown(); }),
       .step = [&picture, shown](int steps, bool) { picture.setQuietDb(picture.quietDb() + steps), shown(); },
       .reset = [&picture, shown] { picture.setQuietDb(60.0), shown(); }});
  return out;
}

std::vector<FieldSpec> factsFields(FactsPicture& picture, Document& document) {
  const auto number = [](const QString& words) {
    QString bare = words;
    return numberIn(bare.remove(QRegularExpression("[A-Za-z%]")));
  };
  std::vector<FieldSpec> out;
  out.push_back({.caption = "Target of " + picture.row().name.toLower(),
                 .name = "Target",
                 .tip = "The Ledger judges this figure against it. Return in the picture: the references' "
                        "median. Delete: none",
                 .text =
                     [&picture] {
                       const auto target = picture.targetNow();
                       return target                    ? picture.row().number(*target)
                              : picture.row().setTarget ? QString("none")
                                                        : QString("cannot be one");
                     },
                 .commit = typedAs(number, [&picture](double value) { picture.setTarget(value); }),
                 .step =
                     [&picture](int steps, bool fine) {
                       const double unit = picture.row().digits > 0 ? 0.5 : 5.0;
                       const auto from = picture.targetNow() ? picture.targetNow() : picture.median();
                       picture.setTarget(from.value_or(0.0) + steps * (fine ? 0.2 * unit : unit), "target");
                     },
                 .endDrag = [&document] { document.endDrag(); },
                 .reset = [&picture] { picture.setTarget(std::nullopt); }});
  return out;
}

std::vector<FieldSpec> ceilingFields(CeilingPicture& picture, const std::function<void()>& shown) {
  std::vector<FieldSpec> out;
  out.push_back({.caption = "Raised to",
                 .name = "Ceiling loudness",
                 .tip = "Loudness that the sum is raised to, -30 to -3 LUFS. Delete: the references' median",
                 .text = [&picture, shown] { return fixed(picture.lufs()) + " LUFS"; },
                 .commit = typedAs([](const QString& words) { return numberIn(words.section(" ", 0, 0)); },
                                   [&picture, shown](double lufs) { picture.setLufs(lufs), shown(); }),
                 .step =
                     [&picture, shown](int steps, bool fine) {
                       picture.setLufs(picture.lufs() + steps * (fine ? 0.1 : 0.5)), shown();
                     },
                 .reset = [&picture, shown] { picture.setLufs(std::nullopt), shown(); }});
  out.push_back({.caption = "Ceiling",
                 .name = "Ceiling level",
                 .tip = "True peak that the limiter holds, -24 to 0 dBTP",
                 .text = [&picture, shown] { return fixed(picture.ask().ceilingDb) + " dBTP"; },
                 .commit = typedAs([](const QString& words) { return numberIn(words.section(" ", 0, 0)); },
                                   [&picture, shown](double db) { picture.setCeilingDb(db), shown(); }),
                 .step =
                     [&picture, shown](int steps, bool fine) {
                       picture.setCeilingDb(picture.ask().ceilingDb + steps * (fine ? 0.1 : 0.5)), shown();
                     },
                 .reset = [&picture, shown] { picture.setCeilingDb(-1.0), shown(); }});
  out.push_back({.caption = "Release",
                 .name = "Ceiling release",
                 .tip = "Release of the limiter, 1 to 2000 ms",
                 .text = [&picture, shown] { return QString::number(picture.ask().releaseMs) + " ms"; },
                 .commit = typedAs([](const QString& words) { return numberIn(QString(words).remove("ms")); },
                                   [&picture, shown](double ms) { picture.setReleaseMs(ms), shown(); }),
                 .step =
                     [&picture, shown](int steps, bool fine) {
                       picture.setReleaseMs(picture.ask().releaseMs + steps * (fine ? 1 : 10)), shown();
                     },
                 .reset = [&picture, shown] { picture.setReleaseMs(60.0), shown(); }});
  out.push_back(
      {.caption = "As a lossy file",
       .name = "Ceiling codec",
       .tip = "The limited sum encoded and decoded: mp3, vorbis or opus and 32 to 320 kbit/s, such as opus 96",
       .text = [&picture] { return picture.codedText(); },
       .commit = typedAs(
           [](const QString& words) {
             return parseLossy(
                 words.section(": ", 0, 0).simplified().replace(' ', ':').toLower().toStdString());
           },
           [&picture, shown](const LossyAsk& codec) { picture.setCodec(codec), shown(); }),
       .reset = [&picture, shown] { picture.setCodec({}), shown(); }});
  return out;
}

}  // namespace heft::app
