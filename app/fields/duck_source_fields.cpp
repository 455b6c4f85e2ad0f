// Trigger fields of a ducking.

#include <algorithm>
#include <cmath>
#include <set>

#include "app/desk/duck_words.h"
#include "app/fields/duck_field_groups.h"
#include "core/session/edits/ducks.h"

namespace heft::app {
namespace {

FieldSpec triggerField(const DuckDesk& desk) {
  FieldSpec f;
  f.caption = f.name = "Trigger";
  f.tip = "Trigger: a part (muted or not), a sound used only as key signal, a MIDI file, or drawn hits";
  f.text = [desk] { return triggerWords(desk.document.session(), desk.duck().source); };
  f.choices = [desk] {
    QStringList out;
    for (const Part& part : desk.document.session().parts)
      out << triggerWords(desk.document.session(), {.kind = TriggerKind::Part, .part = part.id});
    return out << "a sound..."
               << "a MIDI file..."
               << "drawn hits";
  };
  f.choose = [desk](int i) {
    const auto& parts = desk.document.session().parts;
    const int past = i - static_cast<int>(parts.size());
    if (past < 0) return desk.document.edit(setTriggerPart(desk.duck(), parts[static_cast<size_t>(i)].id));
    if (past == 0) return desk.askForSound();
    if (past == 1) return desk.askForMidi();
    // Starts from the present triggers.
    std::vector<TriggerHit> now;
    const double perFrame = 1.0 / desk.document.track().framesPerQuarter();
    if (const ResolvedDuck* r = resolvedDuck(desk.document, desk.duck()))
      for (const Trigger& t : r->triggers) now.push_back({t.frame * perFrame, 0.25, t.velocity, 36});
    desk.document.edit(setTriggerDrawn(desk.duck(), now));
  };
  return f;
}

FieldSpec listenField(const DuckDesk& desk) {
  FieldSpec f;
  f.caption = "Detection band", f.name = "Trigger band";
  f.tip = "Band that detects hits: 20 to 100 Hz, or one number for all below. Delete resets it";
  f.text = [desk] { return listenWords(desk.duck().source); };
  f.commit = [desk](const QString& text) -> std::optional<QString> {
    QString words = text.trimmed();
    const auto& style = desk.document.track().notes;
    if (words.startsWith("all")) return desk.document.edit(setTriggerBand(desk.duck(), {}, {})), std::nullopt;
    if (const auto range = parseHzRange(words.toStdString(), style)) {
      desk.document.edit(setTriggerBand(desk.duck(), range->lowHz, range->highHz));
      return std::nullopt;
    }
    const auto midi = parsePitch(words.remove("below").trimmed().toStdString(), style);
    if (!midi) return QString("Write a band such as 20 to 100 Hz, or below 90 Hz, in Hz or notes");
    const double hz = hzFromMidi(*midi, style.a4Hz);
    desk.document.edit(setTriggerBand(desk.duck(), {}, std::clamp(hz, 21.0, 20000.0)));
    return std::nullopt;
  };
  f.step = [desk](int steps, bool fine) {
    const DuckSource& s = desk.duck().source;
    const double hz = s.detector().highCutHz * std::exp2(steps * (fine ? 1.0 / 48 : 1.0 / 12));
    desk.document.edit(setTriggerBand(desk.duck(), s.lowCutHz, hz, "trigger band"));
  };
  f.endDrag = [desk] { desk.document.endDrag(); };
  f.reset = [desk] { desk.document.edit(setTriggerBand(desk.duck(), {}, {})); };
  return f;
}

FieldSpec pitchesField(const DuckDesk& desk) {
  auto pitches = [desk] {
    std::set<int> all;
    for (const TriggerHit& n : desk.duck().source.notes) all.insert(n.midi);
    return std::vector<int>(all.begin(), all.end());
  };
  auto word = [desk](int midi) { return QString::fromStdString(pitchText(midi, desk.document.track().notes)); };
  FieldSpec f;
  f.caption = "Notes", f.name = "Trigger notes";
  f.tip = "Notes of the MIDI file that trigger; choose one to switch it";
  f.text = [desk, word] {
    QStringList out;
    for (const int midi : desk.duck().source.pitches) out << word(midi);
    return out.isEmpty()    ? QString("all")
           : out.size() > 4 ? QString("%1 of them").arg(out.size())
                            : out.join(", ");
  };
  f.choices = [desk, pitches, word] {
    const auto& chosen = desk.duck().source.pitches;
    QStringList out;
    for (const int midi : pitches()) {
      const bool fires = chosen.empty() || std::find(chosen.begin(), chosen.end(), midi) != chosen.end();
      out << word(midi) + (fires ? ", triggers" : "");
    }
    return out;
  };
  f.choose = [desk, pitches](int i) {
    const auto all = pitches();
    if (i >= 0 && static_cast<size_t>(i) < all.size())
      desk.document.edit(togglePitch(desk.duck(), all[static_cast<size_t>(i)]));
  };
  return f;
}

}  // namespace

void addDuckSource(Specs& out, const DuckDesk& desk) {
  const Duck& d = desk.duck();
  out.push_back(triggerField(desk));
  const bool audio = d.source.kind == TriggerKind::Audio;
  const bool hears = d.movement == Movement::Follower || d.movement == Movement::Mirror;
  if (audio || (d.source.kind == TriggerKind::Part && hears)) out.push_back(listenField(desk));
  if (audio) {
    out.push_back(plainField(
        desk, FieldWords{"source.threshold_db", "Hit threshold", "Hit threshold relative to the loudest moment"}
                  .called("Detector threshold")));
    out.push_back(plainField(desk, FieldWords{"source.shortest_gap_ms", "Shortest gap", "Between two hits"}));
    out.push_back(plainField(
        desk, FieldWords{"source.offset_s", "Starts at", "Position in the file at the loop's start"}.called(
                  "Trigger offset")));
  }
  if (d.source.kind == TriggerKind::Midi) out.push_back(pitchesField(desk));
  if (audio || d.source.kind == TriggerKind::Midi)
    out.push_back(plainField(
        desk, FieldWords{"source.repeats", "Repeats", "Whether a file shorter than the loop begins again"}
                  .called("Trigger repeats")
                  .oneOf(eitherOf("no", "yes"))));
}

}  // namespace heft::app
