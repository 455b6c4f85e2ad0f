#include "core/session/edits/pair.h"

#include <algorithm>
#include <cmath>

#include "core/session/edits/values.h"
#include "core/session/fields.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr size_t kFreeStage = 2;  // the first of the rotation's last two

Owner ownerOf(const Part& part) {
  return {.part = part.id};
}

}  // namespace

Edit setDelay(const Part& part, double delayMs, const std::string& mergeKey) {
  // No negative zero: it would make the document differ.
  return putValue("delay " + partWord(part), ownerOf(part), "align.delay_ms", delayMs == 0.0 ? 0.0 : delayMs,
                  mergeKey);
}

Edit setPolarity(const Part& part, bool invert) {
  return putValue(invert ? "invert " + partWord(part) : partWord(part) + " polarity normal", ownerOf(part),
                  "align.invert", invert);
}

Edit alignBy(const Part& part, const AlignAnswer& answer, const std::string& mergeKey) {
  return putValues("align " + partWord(part), ownerOf(part),
                   {{"align.delay_ms", answer.delayMs}, {"align.invert", answer.invert}}, mergeKey);
}

Edit moveAs(const Part& part, const AlignAnswer& answer) {
  std::vector<ValuePut> puts = {{"align.delay_ms", answer.delayMs}, {"align.invert", answer.invert}};
  for (size_t i = 0; i < 2; ++i) {
    const AllPass& stage = answer.rotation.stages[i];
    const std::string key = "align.rotation.stage_" + std::to_string(i + 1);
    puts.push_back({key + ".on", stage.on});
    if (stage.on) puts.push_back({key + ".hz", stage.hz}), puts.push_back({key + ".q", stage.q});
  }
  if (answer.rotation.works()) puts.push_back({"align.rotation.on", true});
  return putValues("align " + partWord(part), ownerOf(part), std::move(puts));
}

Edit setFreeTurn(const Session& session, const std::vector<AllPass>& stages) {
  const std::vector<int> pair = {session.kick().id, session.bass().id};
  return {stages.empty() ? "remove peak all-pass" : "lower peak by all-pass", [pair, stages](Session& s) {
            for (const int id : pair) {
              Part* part = s.part(id);
              if (!part) continue;
              Rotation& r = part->align.rotation;
              // Stages that were off with the whole rotation stay off.
              if (!r.on) r.stages[0].on = r.stages[1].on = false, r.on = true;
              for (size_t i = 0; i < 2; ++i)
                r.stages[kFreeStage + i] = i < stages.size() ? stages[i] : AllPass();
            }
          }};
}

Edit switchFreeTurn(bool on) {
  return {on ? "enable peak all-pass" : "take the free turn out", [on](Session& s) {
            for (Part& part : s.parts)
              for (size_t i = kFreeStage; i < part.align.rotation.stages.size(); ++i) {
                AllPass& stage = part.align.rotation.stages[i];
                stage.on = false;
                stage.on = on && stage != AllPass();
              }
          }};
}

std::vector<AllPass> freeTurnOf(const Session& session) {
  std::vector<AllPass> out;
  const Rotation& r = session.kick().align.rotation;
  for (size_t i = kFreeStage; i < r.stages.size() && r.on; ++i)
    if (r.stages[i].on) out.push_back(r.stages[i]);
  return out;
}

bool hasFreeTurn(const Session& session) {
  const auto& stages = session.kick().align.rotation.stages;
  return std::any_of(stages.begin() + kFreeStage, stages.end(),
                     [](const AllPass& s) { return s != AllPass(); });
}

Edit shiftPart(const std::string& name, int part, double byMs, bool turnOver, const std::string& mergeKey) {
  return {name,
          [=](Session& s) {
            Part* p = s.part(part);
            if (!p) return;
            putValue(s, {.part = part}, "align.delay_ms", p->align.delayMs + byMs);
            if (turnOver) p->align.invert = !p->align.invert;
          },
          mergeKey};
}

Edit shiftLayer(const std::string& name, int part, int layer, double byMs, bool turnOver,
                const std::string& mergeKey) {
  return {name,
          [=](Session& s) {
            Part* p = s.part(part);
            Layer* l = p ? p->layer(layer) : nullptr;
            if (!l) return;
            putValue(s, {.part = part, .layer = layer}, "offset_ms", l->offsetMs + byMs);
            l->betweenSamples = true;
            if (turnOver) l->invert = !l->invert;
          },
          mergeKey};
}

Edit setStartPhases(const Part& part, const std::vector<std::pair<int, double>>& degrees,
                    const std::string& mergeKey) {
  Edit out = onPart("set " + partWord(part) + " start phase", part.id, [degrees](Part& p) {
    for (const auto& [id, to] : degrees) {
      Layer* l = p.layer(id);
      if (BassVoice* voice = l ? l->bassVoice() : nullptr)
        voice->startPhaseDegrees = to - 360.0 * std::floor(to / 360.0);
    }
  });
  out.mergeKey = mergeKey;
  return out;
}

Edit moveEachNote(const Part& part, const std::vector<NoteMove>& moves) {
  return onPart("move each " + partWord(part) + " note", part.id, [moves](Part& p) {
    if (p.notes.size() != moves.size()) return;
    for (size_t i = 0; i < moves.size(); ++i) p.notes[i].move = moves[i];
  });
}

Edit clearNoteMoves(const Part& part) {
  return onPart("clear " + partWord(part) + " notes' moves", part.id, [](Part& p) {
    for (Note& n : p.notes) n.move = {};
  });
}

Edit setAlignBand(const Part& part, double lowHz, double highHz) {
  return putValues("set align band", ownerOf(part), {{"align.low_hz", lowHz}, {"align.high_hz", highHz}});
}

Edit handOverIn(double ms, double alike) {
  return {"hand over within " + formatNumber(ms, 0) + " ms", [ms, alike](Session& s) {
            s.handOver = {true, rangeOf<HandOver>("ms").held(ms),
                          std::round(100.0 * rangeOf<HandOver>("alike").held(alike)) / 100.0};
          }};
}

Edit trimNote(const Part& part, size_t note, double trimDb, const std::string& mergeKey) {
  return onPart(
      "trim a note", part.id,
      [note, trimDb](Part& p) {
        if (note < p.notes.size()) p.notes[note].trim.db = rangeOf<NoteTrim>("db").held(trimDb);
      },
      mergeKey);
}

Edit evenLine(const Part& part, const std::vector<std::pair<size_t, double>>& moreDb) {
  return onPart("even the line", part.id, [moreDb, notes = part.notes](Part& p) {
    if (p.notes != notes) return;
    for (const auto& [note, more] : moreDb)
      if (note < p.notes.size())
        p.notes[note].trim.db =
            std::round(10.0 * rangeOf<NoteTrim>("db").held(p.notes[note].trim.db + more)) / 10.0;
  });
}

Edit clearTrims(const Part& part) {
  return onPart("clear trims", part.id, [](Part& p) {
    for (Note& n : p.notes) n.trim = {};
  });
}

}  // namespace heft
