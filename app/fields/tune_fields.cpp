#include "app/fields/tune_fields.h"

#include <cmath>

#include "app/widgets/unit_words.h"
#include "core/judge/part_tuning.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/sounds.h"
#include "core/session/edits/values.h"
#include "core/theory/text.h"
#include "core/tune/retune.h"

namespace heft::app {
namespace {

// Unchanged: a built kick has none of a recording's values.
Recorded recordedOf(const Document& doc) {
  const Layer* layer = doc.session().kickLayer();
  return layer && layer->recorded() ? *layer->recorded() : Recorded();
}

QString noteText(const Document& doc, double midi) {
  return QString::fromStdString(pitchText(midi, doc.track().notes));
}

// Where the kick lands before it is tuned, its own shift included.
std::optional<double> ownLanding(const Document& doc) {
  const Study* s = doc.study();
  const Layer* layer = doc.session().kickLayer();
  if (!layer || !s || !s->pair.kick.source || !s->pair.kick.source->landing.noteHz()) return std::nullopt;
  return midiFromHz(*s->pair.kick.source->landing.noteHz(), doc.track().notes.a4Hz) + layer->semitones;
}

}  // namespace

std::optional<Owner> kickLayer(const Document& doc) {
  const Part& kick = doc.session().kick();
  const Layer* layer = kick.firstLayer();
  return layer ? std::optional(Owner{.part = kick.id, .layer = layer->id}) : std::nullopt;
}

FieldSpec landingTargetField(Document& doc) {
  auto target = [&doc]() -> std::optional<double> {
    const Layer* layer = doc.session().kickLayer();
    return layer ? landingTarget(*layer) : std::nullopt;
  };
  auto move = [&doc](const std::string& name, double midi, const std::string& merge) {
    if (const auto owner = kickLayer(doc))
      doc.edit(setLayerLanding(name, *owner->part, *owner->layer, midi, merge));
  };
  FieldSpec f;
  f.caption = "Target", f.name = "Landing target";
  f.tip = "Landing note for the kick: A1, 55 Hz or A1 +12 ct. Delete resets the shift";
  f.text = [&doc, target] { return target() ? noteText(doc, *target()) : QString("as recorded"); };
  f.commit = [&doc, move](const QString& text) -> std::optional<QString> {
    const auto midi = parsePitch(text.toStdString(), doc.track().notes);
    if (!midi) return QString::fromStdString(midi.error().reason);
    if (*midi < 0 || *midi > 127) return "Write a landing between 8 Hz and 12 kHz";
    move("move landing to " + pitchText(*midi, doc.track().notes), *midi, {});
    return std::nullopt;
  };
  f.step = [&doc, target, move](int steps, bool fine) {
    const auto now = target() ? target() : ownLanding(doc);
    if (now) move("move landing", fine ? *now + 0.01 * steps : std::round(*now) + steps, "landing");
  };
  f.endDrag = [&doc] { doc.endDrag(); };
  f.reset = [&doc] {
    if (const auto owner = kickLayer(doc))
      doc.edit(takeBackShift("reset kick shift", *owner->part, *owner->layer));
  };
  return f;
}

FieldSpec shiftField(Document& doc) {
  FieldSpec f;
  f.caption = f.name = "Shift";
  f.tip = "Shift of the kick in semitones, and its strain: 1 st is light, 2 st are audible on a recorded drum";
  f.text = [&doc] {
    const Study* s = doc.study();
    if (!s || !s->pair.kick.hit || std::abs(s->pair.kick.hit->semitones) < 0.005) return QString("none");
    const double shift = s->pair.kick.hit->semitones;
    return (shift > 0 ? "+" : "") + unitText(shift, Unit::Semitones, doc.track()) + ", " +
           QString(strainText(strainOf(shift))).section(':', 0, 0);
  };
  return f;
}

FieldSpec landingByHandField(Document& doc) {
  FieldSpec f;
  f.caption = "Landing", f.name = "Landing by hand";
  f.tip = "Set the landing by time (85 ms, 1/16) or pitch (A1, 52 Hz). Delete resets it to the measured one";
  f.text = [&doc] {
    const LandingOptions band = recordedOf(doc).band;
    if (band.atHz) return noteText(doc, midiFromHz(*band.atHz, doc.track().notes.a4Hz));
    return band.atMs ? QString("at %1 ms").arg(QString::fromStdString(formatNumber(*band.atMs, 1)))
                     : QString("measured");
  };
  f.commit = [&doc](const QString& text) -> std::optional<QString> {
    const std::string words = text.trimmed().toStdString();
    const auto midi = parsePitch(words, doc.track().notes);
    const auto time = parseTime(text.startsWith("at ") ? words.substr(3) : words);
    const bool pitch = midi && !text.contains('/') && !text.contains("ms");
    if (!pitch && !time) return QString("Type a time such as 85 ms or 1/16, or a pitch such as A1 or 52 Hz");
    if (const auto owner = kickLayer(doc))
      doc.edit(pitch ? nameLandingPitch(*owner->part, *owner->layer, hzFromMidi(*midi, doc.track().notes.a4Hz))
                     : nameLandingMoment(*owner->part, *owner->layer, time->toMs(doc.track().tempoBpm)));
    return std::nullopt;
  };
  f.reset = [&doc] {
    if (const auto owner = kickLayer(doc)) doc.edit(measureLanding(*owner->part, *owner->layer));
  };
  return f;
}

FieldSpec searchBandField(Document& doc) {
  auto set = [&doc](double low, double high) {
    if (const auto owner = kickLayer(doc)) doc.edit(setSearchBand(*owner->part, *owner->layer, low, high));
  };
  FieldSpec f;
  f.caption = "Search band", f.name = "Landing band";
  const LandingOptions plain;
  f.tip = QString(
              "Search band of the landing: 30 to 200 Hz, or notes such as A0 to G3; claps need up to 5000 Hz. "
              "Drag over the spectrum. Delete: %1 to %2 Hz")
              .arg(plain.lowHz)
              .arg(plain.highHz);
  f.text = [&doc] {
    const LandingOptions band = recordedOf(doc).band;
    return QString("%1 to %2 Hz")
        .arg(QString::fromStdString(formatNumber(band.lowHz, 0)),
             QString::fromStdString(formatNumber(band.highHz, 0)));
  };
  f.commit = [&doc, set](const QString& text) -> std::optional<QString> {
    const auto band = parseHzRange(text.toStdString(), doc.track().notes);
    if (!band) return QString::fromStdString(band.error().reason);
    if (band->lowHz < 10 || band->highHz > kHighestBandHz || band->highHz < 1.2 * band->lowHz)
      return QString("Write a band between 10 and 5000 Hz, at least a fifth wide");
    set(band->lowHz, band->highHz);
    return std::nullopt;
  };
  f.reset = [set] { set(LandingOptions().lowHz, LandingOptions().highHz); };
  return f;
}

FieldSpec bassRootField(Document& doc) {
  auto put = [&doc](const std::string& name, const Value& value) {
    const Part& bass = doc.session().bass();
    if (const Layer* l = bass.firstLayer())
      doc.edit(putValue(name, {.part = bass.id, .layer = l->id}, "recorded.root_midi", value));
  };
  FieldSpec f;
  f.caption = f.name = "Bass root";
  f.tip = "Root note of the sample. Delete resets it to the measured note";
  f.text = [&doc] {
    const Study* s = doc.study();
    const Layer* bass = doc.session().bassLayer();
    if (!bass) return QString("no bass");
    if (bass->recorded() && bass->recorded()->rootMidi)
      return noteText(doc, *bass->recorded()->rootMidi) + ", typed";
    return s && s->pair.bass.rootMidi ? noteText(doc, *s->pair.bass.rootMidi) + ", measured"
                                      : QString("unknown");
  };
  f.commit = typedAs(
      [&doc](const QString& words) {
        return parsePitch(words.section(',', 0, 0).toStdString(), doc.track().notes);
      },
      [put](double midi) { put("set bass root", midi); });
  f.reset = [put] { put("use measured bass root", Value()); };
  return f;
}

FieldSpec partPitchField(Document& doc, int id) {
  auto targets = [&doc, id] {
    return doc.study() ? partTargets(doc.session(), *doc.study(), id) : std::vector<TuneTarget>();
  };
  FieldSpec f;
  const Part* part = doc.session().part(id);
  f.caption = part ? QString::fromStdString(part->title()) : QString();
  f.name = f.caption + " pitch";
  f.tip = "Note of this part. Click for notes of the key, smallest shift first. Delete resets the shift";
  f.text = [&doc, id] {
    const Study* s = doc.study();
    const auto facts = s ? s->soundOf(id) : nullptr;
    const auto hz = facts ? facts->landing.noteHz() : std::nullopt;
    if (!hz) return QString(facts ? "no note" : "-");
    const double midi = midiFromHz(*hz, doc.track().notes.a4Hz);
    return noteText(doc, midi) + (isOffKey(doc.session(), *s, id) ? ", off key" : ", in key");
  };
  auto back = [&doc, id] {
    if (const Part* p = doc.session().part(id)) doc.edit(takeBackShifts(*p));
  };
  f.choices = [&doc, targets] {
    QStringList out{"as recorded"};
    for (const TuneTarget& t : targets())
      out << QString("%1, %2 st, %3")
                 .arg(QString::fromStdString(noteName(t.midi, doc.track().notes)),
                      QString::fromStdString((t.semitones > 0 ? "+" : "") + formatNumber(t.semitones, 2)),
                      QString::fromStdString(t.why));
    return out;
  };
  f.choose = [&doc, id, targets, back](int i) {
    const auto list = targets();
    if (i == 0) return back();
    if (i < 1 || static_cast<size_t>(i) > list.size()) return;
    const int midi = list[static_cast<size_t>(i) - 1].midi;
    if (const auto edit = tunePartTo(doc.session(), *doc.study(), id, midi)) doc.edit(*edit);
  };
  f.reset = back;
  return f;
}

}  // namespace heft::app
