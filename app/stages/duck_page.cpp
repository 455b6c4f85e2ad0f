#include "app/stages/duck_page.h"

#include <algorithm>
#include <cmath>

#include "app/fields/unit_words.h"
#include "app/fields/value_fields.h"
#include "app/stages/dip_picture.h"
#include "core/session/edits/ducks.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

// The dip as it acts, while it lasts as long as the kick.
std::optional<DrawnDip> actingDip(const Document& doc) {
  const Duck& duck = doc.session().duck();
  return duck.curve.lasts == CurveLasts::AsSource && doc.stems() ? std::optional(doc.stems()->dip())
                                                                 : std::nullopt;
}

std::optional<double> belowOf(const Duck& duck) {
  return duck.band.kind == DuckBandKind::Below ? std::optional(duck.band.belowHz) : std::nullopt;
}

OwnerNow duckNow(const Document& doc) {
  return [&doc] { return Owner{.duck = doc.session().duck().id}; };
}

FieldSpec depthField(Document& doc) {
  FieldSpec f;
  f.caption = f.name = "Depth";
  f.tip = "How far the bass goes down, in dB; 120 dB is silence";
  f.text = [&doc] { return depthText(doc.session().duck().curve.depthDb); };
  f.commit = [&doc](const QString& text) -> std::optional<QString> {
    QString plain = text.trimmed().toLower();
    const double most = rangeOf(doc, *duckNow(doc)(), "curve.depth_db").high;
    const auto value =
        plain == "silence" ? std::optional(most) : parseNumber(plain.remove("db").trimmed().toStdString());
    if (!value || std::abs(*value) > most)
      return QString("Write a depth in dB, such as -8.5 dB, down to -%1 dB").arg(most);
    doc.edit(setDepth(doc.session().duck(), std::abs(*value)));
    return std::nullopt;
  };
  f.step = [&doc](int steps, bool fine) {
    const Duck& duck = doc.session().duck();
    doc.edit(setDepth(duck, duck.curve.depthDb - steps * (fine ? 0.1 : 0.5), "depth"));
  };
  f.endDrag = [&doc] { doc.endDrag(); };
  f.reset = [&doc] { doc.edit(setDepth(doc.session().duck(), DuckCurve().depthDb)); };
  return f;
}

FieldSpec timeField(Document& doc, const FieldWords& words, DipTime which) {
  FieldSpec f = fieldOf(doc, duckNow(doc), words, [&doc, which](const Value& time, const std::string& merge) {
    return setDipTime(doc.session().duck(), which, std::get<TimeValue>(time), actingDip(doc), merge);
  });
  if (which == DipTime::Attack) return f;
  // What acts is what stands here, and what steps begin from.
  auto acts = [&doc, which]() -> std::optional<double> {
    const auto acting = actingDip(doc);
    return !acting ? std::nullopt : std::optional(which == DipTime::Hold ? acting->holdMs : acting->returnMs);
  };
  f.text = [&doc, own = f.text, acts] { return doc.session().duck().on && acts() ? msText(*acts()) : own(); };
  f.step = [&doc, own = f.step, acts, which, key = words.key, name = f.name.toStdString()](int steps,
                                                                                           bool fine) {
    if (!acts()) return own(steps, fine);
    const Range range = rangeOf(doc, *duckNow(doc)(), key);
    const double to = std::clamp(stepped(*acts(), range.unit, steps, fine), range.low, range.high);
    doc.edit(setDipTime(doc.session().duck(), which, TimeValue::milliseconds(to), actingDip(doc), name));
  };
  return f;
}

FieldSpec bandField(Document& doc) {
  FieldSpec f;
  f.caption = "Band", f.name = "Ducking band";
  f.tip = "All of the bass, or only what lies below a frequency. Delete goes back to all of it.";
  f.text = [&doc] {
    const auto hz = belowOf(doc.session().duck());
    return hz ? "below " + QString::fromStdString(hzText(*hz)) : QString("all of it");
  };
  f.commit = [&doc](const QString& text) -> std::optional<QString> {
    const Duck& duck = doc.session().duck();
    QString plain = text.trimmed();
    if (plain.startsWith("all")) return doc.edit(setDuckBelow(duck, {})), std::nullopt;
    const auto midi = parsePitch(plain.remove("below").trimmed().toStdString(), doc.track().notes);
    if (!midi) return QString::fromStdString(midi.error().reason);
    const double hz = hzFromMidi(*midi, doc.track().notes.a4Hz);
    const Range range = rangeOf(doc, *duckNow(doc)(), "band.below_hz");
    if (hz < range.low || hz > range.high)
      return QString("The crossover lies between %1 and %2 Hz").arg(range.low).arg(range.high);
    doc.edit(setDuckBelow(duck, hz));
    return std::nullopt;
  };
  f.step = [&doc](int steps, bool fine) {
    const Duck& duck = doc.session().duck();
    doc.edit(setDuckBelow(duck, belowOf(duck).value_or(120.0) + steps * (fine ? 1.0 : 5.0), "band"));
  };
  f.endDrag = [&doc] { doc.endDrag(); };
  f.reset = [&doc] { doc.edit(setDuckBelow(doc.session().duck(), {})); };
  return f;
}

}  // namespace

DuckPage::DuckPage(Document& document, Selection& selection) : StagePage(Stage::Duck, document, selection) {
  setPicture(new DipPicture(document, selection));
  Document& doc = document;
  addField({.caption = "Trigger",
            .name = "Trigger",
            .tip = "What starts the dip: every hit of the kick's pattern, heard or not",
            .text = [] { return QString("pattern"); }});
  const OwnerNow duck = duckNow(doc);
  addField(fieldOf(doc, duck,
                   FieldWords{"on", "Ducking", "Off, or as a curve that every trigger starts anew"}.oneOf(
                       eitherOf("off", "curve")),
                   [&doc](const Value& on, const std::string&) {
                     return setDucking(doc.session().duck(), std::get<bool>(on));
                   }));
  addField(depthField(doc));
  addField(timeField(
      doc, FieldWords{"curve.attack", "Attack", "Time until the depth is reached"}.called("Ducking attack"),
      DipTime::Attack));
  addField(timeField(doc, FieldWords{"curve.hold", "Hold", "Time at the depth"}.called("Ducking hold"),
                     DipTime::Hold));
  addField(timeField(doc,
                     FieldWords{"curve.return", "Release", "Time for the way back"}.called("Ducking release"),
                     DipTime::Return));
  addField(fieldOf(
      doc, duck,
      FieldWords{"curve.lasts", "Length",
                 "As the kick: hold and release stretch so that the dip lasts as long as the kick's tail"}
          .called("Ducking length")
          .oneOf({{"as set", std::string("as_set")},
                  {"as the kick", std::string("as_source")},
                  {"to the next hit", std::string("to_next")}})));
  addField(bandField(doc));
  addField({.caption = "Measured",
            .name = "Measured dip",
            .tip = "Deepest gain, and the longest time until it is back within half a decibel",
            .text = [&doc] {
              const Study* s = doc.study();
              if (!s || !doc.session().duck().on) return QString("nothing");
              return dbText(s->dip.depthDb) + ", back after " + msText(s->dip.returnMs);
            }});
  refresh();
}

QString DuckPage::subtitle() const {
  const Duck& d = document().session().duck();
  if (!d.on) return "lower the bass at each kick";
  return "each kick lowers the bass, " +
         (belowOf(d) ? "below " + QString::fromStdString(hzText(*belowOf(d))) : QString("all of it"));
}

}  // namespace heft::app
