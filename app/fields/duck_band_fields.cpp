// Where a ducking acts.

#include <algorithm>
#include <array>
#include <cmath>

#include "app/desk/duck_words.h"
#include "app/fields/duck_field_groups.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/values.h"

namespace heft::app {
namespace {

FieldSpec bandField(const DuckDesk& desk) {
  return plainField(
      desk,
      FieldWords{"band.kind", "Band",
                 "Band to duck: full, below a crossover, a bell at a note, or multiband. Delete resets it"}
          .called("Ducking band")
          .undoAs("set ducking band")
          .oneOf(wordsFor({{"full band", "all"},
                           {"below a crossover", "below"},
                           {"bell at a note", "bell"},
                           {"multiband", "several"}})));
}

FieldSpec bellField(const DuckDesk& desk) {
  FieldSpec f;
  f.caption = "Bell at", f.name = "Bell frequency";
  f.tip = "Landing of trigger or kick (follows it), or a note (follows the key)";
  f.text = [desk] {
    constexpr std::array kWords = {"the trigger's note", "the kick's note", "a note"};
    const ResolvedDuck* r = resolvedDuck(desk.document, desk.duck());
    const NoteStyle& style = desk.document.track().notes;
    const QString note =
        r && r->bellHz && desk.duck().band.at != BellAt::Key
            ? ", " + QString::fromStdString(pitchText(midiFromHz(*r->bellHz, style.a4Hz), style))
            : QString();
    return kWords[static_cast<size_t>(desk.duck().band.at)] + note;
  };
  f.choices = [] { return QStringList{"the trigger's note", "the kick's note", "a note of the key"}; };
  f.choose = [desk](int i) {
    const Key& key = desk.document.track().key;
    if (i == 2) return desk.document.edit(setBellNote(desk.duck(), lowTonic(key), key));
    desk.document.edit(putValue("set the bell's note", {.duck = desk.duck().id}, "band.at",
                                std::string(i == 0 ? "source" : "kick")));
  };
  return f;
}

FieldSpec bellNoteField(const DuckDesk& desk) {
  auto midi = [desk] { return lowTonic(desk.document.track().key) + desk.duck().band.semitones; };
  FieldSpec f;
  f.caption = "Note", f.name = "Bell note";
  f.tip = "The bell's note, as a note or in Hz; it moves with the key";
  f.text = [desk, midi] { return QString::fromStdString(pitchText(midi(), desk.document.track().notes)); };
  f.commit = typedAs(
      [desk](const QString& words) { return parsePitch(words.toStdString(), desk.document.track().notes); },
      [desk](double note) { desk.document.edit(setBellNote(desk.duck(), note, desk.document.track().key)); });
  f.step = [desk, midi](int steps, bool fine) {
    desk.document.edit(
        setBellNote(desk.duck(), midi() + steps * (fine ? 0.01 : 1.0), desk.document.track().key));
  };
  return f;
}

FieldSpec stepField(const DuckDesk& desk, size_t index) {
  FieldSpec f;
  f.caption = index == 0 ? "Up to" : "then up to";
  f.name = QString("Band %1 edge").arg(index + 1);
  f.tip = "Upper edge of this band, in Hz or as a note. Delete removes the band";
  auto step = [desk, index]() -> const BandStep* {
    const auto& steps = desk.duck().band.steps;
    return index < steps.size() ? &steps[index] : nullptr;
  };
  f.text = [step] { return step() ? QString::fromStdString(hzText(step()->belowHz)) : QString("-"); };
  f.commit = typedAs(
      [desk](const QString& words) { return parsePitch(words.toStdString(), desk.document.track().notes); },
      [desk, index](double midi) {
        desk.document.edit(
            moveBandStep(desk.duck(), index, hzFromMidi(midi, desk.document.track().notes.a4Hz)));
      });
  f.step = [desk, index, step](int steps, bool fine) {
    if (step())
      desk.document.edit(
          moveBandStep(desk.duck(), index, step()->belowHz + steps * (fine ? 1.0 : 5.0), "band edge"));
  };
  f.endDrag = [desk] { desk.document.endDrag(); };
  f.reset = [desk, index] { desk.document.edit(removeBandStep(desk.duck(), index)); };
  return f;
}

FieldSpec addStepField(const DuckDesk& desk) {
  FieldSpec f;
  f.caption = "Bands", f.name = "Number of bands";
  f.tip = "How many bands there are below the rest";
  f.text = [desk] { return QString::number(desk.duck().band.steps.size()); };
  f.choices = [] { return QStringList{"one more", "one less"}; };
  f.choose = [desk](int i) {
    desk.document.edit(i == 0 ? addBandStep(desk.duck())
                              : removeBandStep(desk.duck(), desk.duck().band.steps.size() - 1));
  };
  return f;
}

}  // namespace

void addDuckBand(Specs& out, const DuckDesk& desk) {
  out.push_back(bandField(desk));
  const DuckBand& band = desk.duck().band;
  if (band.kind == DuckBandKind::Below)
    out.push_back(
        plainField(desk, FieldWords{"band.below_hz", "Crossover", "Only the band below it is ducked"}));
  if (band.kind == DuckBandKind::Bell) {
    out.push_back(bellField(desk));
    if (band.at == BellAt::Key) out.push_back(bellNoteField(desk));
    out.push_back(plainField(
        desk, FieldWords{"band.octaves", "Width (oct)", "Bell bandwidth at -3 dB"}.called("Bell width")));
  }
  if (band.kind != DuckBandKind::Several) return;
  out.push_back(addStepField(desk));
  for (size_t i = 0; i < band.steps.size(); ++i) {
    out.push_back(stepField(desk, i));
    out.push_back(plainField(desk, FieldWords{"band.steps." + std::to_string(i) + ".share", "takes",
                                              "Share of the gain reduction in this band"}
                                       .called(QString("Band %1 share").arg(i + 1))));
  }
  out.push_back(plainField(
      desk,
      FieldWords{"band.above_share", "Above", "Share of the gain reduction above"}.called("Share above")));
}

}  // namespace heft::app
