#include "core/session/edits/parts.h"

#include <algorithm>
#include <cctype>

#include "core/session/edits/sounds.h"
#include "core/session/edits/values.h"
#include "core/session/fields.h"
#include "core/session/pattern.h"
#include "core/session/value_at.h"
#include "core/session/versions.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr size_t kLongestPartName = 60;

auto placeOf(std::vector<Part>& parts, int id) {
  return std::find_if(parts.begin(), parts.end(), [id](const Part& p) { return p.id == id; });
}

// The layer with that id among the part's own, changed.
Edit onLayers(const std::string& name, const Part& part, std::function<void(Part&)> change) {
  return onPart(name, part.id, std::move(change));
}

bool fits(const Layer& layer, Plays plays) {
  return plays == Plays::Notes ? !layer.kickVoice() : !layer.bassVoice();
}

Layer builtLayer(const Session& s, Plays plays) {
  Layer out;
  if (plays == Plays::Notes) {
    out.what.emplace<BassVoice>();
    out.name = "Built bass";
  } else {
    // In key by construction: the bass's main note, or the low tonic.
    out.what.emplace<KickVoice>().landingMidi =
        std::clamp(noteUnderMostHits(s).value_or(lowTonic(s.track.key)), 12, 80);
    out.name = "Built kick";
  }
  return out;
}

}  // namespace

int freshPartId(const Session& s) {
  int most = 0;
  for (const Part& p : s.parts) most = std::max(most, p.id);
  return most + 1;
}

std::string freshPartName(const Session& s) {
  for (size_t n = s.parts.size() + 1;; ++n) {
    const std::string name = "Part " + std::to_string(n);
    if (std::none_of(s.parts.begin(), s.parts.end(), [&](const Part& p) { return p.title() == name; }))
      return name;
  }
}

Edit addPart(int id, const std::string& name, Plays plays) {
  return {"add part", [id, name = cutUtf8(name, kLongestPartName), plays](Session& s) {
            if (s.parts.size() >= kMostParts || s.part(id)) return;
            Part part;
            part.id = id, part.role = "other", part.name = name, part.plays = plays;
            s.parts.push_back(part);
          }};
}

bool canRemove(const Session& s, int part) {
  return s.part(part) && !s.isOfPair(part);
}

Edit removePart(const Session& session, int part) {
  const Part* there = session.part(part);
  return {"remove " + (there ? partWord(*there) : std::string("part")), [part](Session& s) {
            if (!canRemove(s, part)) return;
            s.parts.erase(placeOf(s.parts, part));
            std::erase_if(s.ducks, [part](const Duck& d) {
              const bool from = d.source.kind == TriggerKind::Part && d.source.part == part;
              return from || (d.target.kind != DuckTargetKind::Backing && d.target.part == part);
            });
            if (s.ducks.empty()) s.ducks.resize(1);
          }};
}

Edit renamePart(const Part& part, const std::string& name) {
  return onPart("name " + partWord(part), part.id,
                [name = cutUtf8(std::string(trimmed(name)), kLongestPartName)](Part& p) { p.name = name; });
}

Edit movePart(const Part& part, int way) {
  return {"move " + partWord(part), [id = part.id, way](Session& s) {
            const auto at = placeOf(s.parts, id);
            const auto to = at - s.parts.begin() + way;
            if (at != s.parts.end() && to >= 0 && to < std::ssize(s.parts))
              std::iter_swap(at, s.parts.begin() + to);
          }};
}

Edit duplicatePart(const Part& part, int id) {
  return {"duplicate " + partWord(part), [from = part.id, id](Session& s) {
            const auto at = placeOf(s.parts, from);
            if (at == s.parts.end() || s.parts.size() >= kMostParts || s.part(id)) return;
            Part copy = *at;
            copy.id = id, copy.role = "other", copy.name = cutUtf8(at->title() + " copy", kLongestPartName);
            s.parts.insert(at + 1, copy);
          }};
}

Edit setPartLevel(const Part& part, double levelDb, const std::string& mergeKey) {
  return putValue("set " + partWord(part) + " level", {.part = part.id}, "level_db", levelDb, mergeKey);
}

Edit setPlays(const Part& part, Plays plays) {
  return onPart(std::string("play ") + (plays == Plays::Notes ? "notes" : "hits"), part.id, [plays](Part& p) {
    if (p.is() != PartRole::Other || p.plays == plays) return;
    p.plays = plays;
    p.hits.clear(), p.notes.clear(), p.wheel.clear();
    std::erase_if(p.layers, [plays](const Layer& l) { return !fits(l, plays); });
  });
}

Edit tunePart(const Part& part, double fromMidi, int midi, const NoteStyle& style) {
  auto heard = heardLayers(part.layers);
  // The strike of a split sound stays where it is: its body carries the note.
  std::erase_if(heard,
                [](const Layer* l) { return l->recorded() && l->recorded()->split.side == Side::Strike; });
  Edit out =
      heard.size() == 1 ? tuneLayer(part, heard.front()->id, midi, style) : shiftLayers(part, midi - fromMidi);
  out.name = "tune " + partWord(part) + " to " + noteName(midi, style);
  return out;
}

Edit tuneLayer(const Part& part, int layer, int midi, const NoteStyle& style) {
  const Layer* l = part.layer(layer);
  return setLayerLanding("tune " + (l ? l->title() : "layer") + " to " + noteName(midi, style), part.id, layer,
                         midi);
}

Edit takeBackShifts(const Part& part) {
  std::vector<Edit> all;
  for (const Layer& l : part.layers) all.push_back(takeBackShift({}, part.id, l.id));
  return allOf("take back the shift of " + partWord(part), std::move(all));
}

Edit playFromMeasured(const Part& part) {
  return onPart("play " + partWord(part) + " from its measured note", part.id, [](Part& p) {
    if (Recorded* r = p.layers.empty() ? nullptr : p.layers.front().recorded())
      r->rootMidi.reset(), r->followNotes = true;
  });
}

Edit shiftFirstLayer(const Part& part, double semitones) {
  return {"shift " + partWord(part), [id = part.id, semitones](Session& s) {
            const Part* p = s.part(id);
            if (const Layer* l = p ? p->firstLayer() : nullptr)
              putValue(s, {.part = id, .layer = l->id}, "semitones", l->semitones + semitones);
          }};
}

Edit shiftLayers(const Part& part, double semitones) {
  return {"shift all layers of " + partWord(part), [id = part.id, semitones](Session& s) {
            const Part* p = s.part(id);
            if (!p) return;
            for (const Layer& l : p->layers)
              putValue(s, {.part = id, .layer = l.id}, "semitones", l.semitones + semitones);
          }};
}

Edit trimPart(const Part& part, const TimeValue& length) {
  return {"trim " + partWord(part) + " to " + length.text(), [id = part.id, length](Session& s) {
            if (Part* p = s.part(id)) setTail(*p, length, s.track.tempoBpm);
          }};
}

Edit shortenPart(const Part& part, const TimeValue& length) {
  return {"shorten " + partWord(part) + " to " + length.text() + " with its fall",
          [id = part.id, length](Session& s) {
            if (Part* p = s.part(id)) setTail(*p, length, s.track.tempoBpm, Lengthen::Whole);
          }};
}

Edit withoutLengths() {
  return {"No lengths", [](Session& s) {
            for (Part& part : s.parts)
              for (Layer& l : part.layers)
                if (Recorded* r = l.recorded()) r->length.reset();
          }};
}

Edit shortenReleases(const Part& part, double mostMs) {
  return onPart("shorten " + partWord(part) + " releases to " + formatNumber(mostMs, 0) + " ms", part.id,
                [mostMs](Part& p) {
                  for (Layer& l : p.layers)
                    if (BassVoice* voice = l.bassVoice()) voice->releaseMs = std::min(voice->releaseMs, mostMs);
                  if (p.contour.on) p.contour.release = TimeValue::milliseconds(mostMs);
                });
}

Edit unmutePart(const Part& part) {
  return onPart("unmute the " + partWord(part), part.id, [](Part& p) {
    for (Layer& l : p.layers) l.mute = l.solo = false;
  });
}

Edit driveFirstLayer(const Part& part, double driveDb) {
  return onPart("drive the " + partWord(part) + " by " + formatNumber(driveDb, 0) + " dB", part.id,
                [driveDb](Part& p) {
                  if (p.layers.empty()) return;
                  Drive* d = p.layers.front().chain.need<Drive>();
                  if (!d) return;
                  d->on = true, d->driveDb = std::max(driveDb, d->driveDb), d->mix = std::max(0.5, d->mix);
                });
}

Edit takeBackBoosts(const Part& part, double hz) {
  return onPart("take back the " + partWord(part) + "'s boost", part.id, [hz](Part& p) {
    auto flat = [hz](Chain& chain) {
      for (Processor& processor : chain.list)
        if (Eq* eq = processor.as<Eq>())
          for (EqBand& b : eq->bands)
            if (b.hz == hz && b.gainDb > 0.0) b.gainDb = 0.0;
    };
    for (Layer& l : p.layers) flat(l.chain);
    flat(p.finish);
  });
}

Edit makeMono(const Part& part) {
  return onPart("make " + partWord(part) + " mono", part.id, [](Part& p) {
    // Last: a widener behind it would undo mono.
    if (p.finish.list.empty() || !p.finish.list.back().as<Width>())
      p.finish.put({0, Width()}, p.finish.list.size());
    if (Width* width = p.finish.list.back().as<Width>()) *width = {true, 0.0}, p.finish.on = true;
  });
}

Edit cutPartLows(const Part& part, double hz) {
  return onPart("cut lows of " + partWord(part), part.id, [hz](Part& p) {
    Eq* eq = p.finish.need<Eq>();
    if (!eq) return;
    p.finish.on = true;
    eq->cutBelow(hz, 24);
  });
}

Edit setFinishOver(const Part& part, FinishOver over) {
  return onPart(over == FinishOver::Lane ? "process whole lane" : "process each hit", part.id,
                [over](Part& p) { p.finishOver = over; });
}

Edit playVersion(const Part& part, size_t i) {
  return onPart("switch " + partWord(part) + " version", part.id, [i](Part& p) { switchVersion(p, i); });
}

Edit makeVersion(const Part& part, const std::string& name) {
  return onPart("make " + partWord(part) + " version", part.id, [name](Part& p) { addVersion(p, name); });
}

Edit dropVersion(const Part& part, size_t i) {
  return onPart("remove " + partWord(part) + " version", part.id, [i](Part& p) { removeVersion(p, i); });
}

Edit nameVersion(const Part& part, size_t i, const std::string& name) {
  return {"name " + partWord(part) + " version", [id = part.id, i, name](Session& s) {
            Part* p = s.part(id);
            if (!p) return;
            const std::string before = versionName(*p, i);
            renameVersion(*p, i, name);
            // Sections choose by name.
            for (TrackSection& t : s.sections)
              for (SectionPart& chosen : t.parts)
                if (chosen.part == id && chosen.version == before) chosen.version = versionName(*p, i);
          }};
}

std::vector<Hit> usualHits(const std::string& name, const Track& track) {
  std::string words;
  for (const char c : name) words += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  auto is = [&](std::initializer_list<const char*> any) {
    return std::any_of(any.begin(), any.end(),
                       [&](const char* one) { return words.find(one) != std::string::npos; });
  };
  const double loop = track.loopQuarters() - 1e-9, beat = track.feltBeatQuarters();
  std::vector<Hit> out;
  auto every = [&](double from, double step) {
    for (double at = from; at < loop; at += step) out.push_back({at, 1.0});
  };
  if (is({"snare", "clap", "rim"}))
    every(beat, 2.0 * beat);
  else if (is({"hat", "shaker", "ride", "cymbal"}))
    every(0.5 * beat, beat);
  else if (is({"tom"}))
    every(std::max(0.0, track.loopQuarters() - beat), track.loopQuarters());
  else
    every(0.0, track.beatsPerBar * 4.0 / track.beatUnit);
  if (out.empty()) out.push_back({0.0, 1.0});
  return out;
}

Edit placeKit(const std::vector<KitPart>& kit) {
  return {"add the kit to the loop", [kit](Session& s) {
            for (const KitPart& drum : kit) {
              if (s.parts.size() >= kMostParts) return;
              const int id = freshPartId(s);
              addPart(id, drum.name, Plays::Hits).change(s);
              Part* part = s.part(id);
              if (!part) return;
              Layer layer = recordedLayer(drum.sound);
              Recorded& recorded = *layer.recorded();
              recorded.targetMidi = drum.targetMidi, recorded.method = drum.method, recorded.band = drum.band;
              recorded.length = drum.length;
              part->layers = {layer};
              part->hits = usualHits(drum.name, s.track);
            }
          }};
}

void placeSound(Session& s, int id, const AssetRef& sound, SoundPlace where) {
  Part* part = s.part(id);
  if (!part) return;
  auto& layers = part->layers;
  if (layers.empty() || where.at == SoundPlace::At::New) {
    if (layers.size() >= kMostLayers) return;
    Layer fresh = recordedLayer(sound);
    fresh.id = freshLayerId(*part);
    layers.push_back(fresh);
  } else {
    // Settings for the former sound's pitch and length do not apply to another.
    Layer* there = where.at == SoundPlace::At::Of ? part->layer(where.layer) : nullptr;
    Layer& old = there ? *there : layers.front();
    Layer fresh = recordedLayer(sound);
    fresh.id = old.id, fresh.levelDb = there ? old.levelDb : 0.0, fresh.shape = old.shape;
    fresh.chain = old.chain;
    old = fresh;
  }
  if (part->is() == PartRole::Kick && part->hits.empty()) part->hits = hitsOnBeats(s.track);
}

Edit addBuiltLayer(const Part& part) {
  return {"build " + partWord(part), [id = part.id](Session& s) {
            Part* p = s.part(id);
            if (!p || p->layers.size() >= kMostLayers) return;
            Layer built = builtLayer(s, p->plays);
            built.id = freshLayerId(*p);
            p->layers.push_back(built);
            if (p->is() == PartRole::Kick && p->hits.empty()) p->hits = hitsOnBeats(s.track);
          }};
}

Edit moveLayer(const Part& part, int layer, int way) {
  return onLayers("move layer", part, [layer, way](Part& p) {
    const auto at =
        std::find_if(p.layers.begin(), p.layers.end(), [layer](const Layer& l) { return l.id == layer; });
    const auto to = at - p.layers.begin() + way;
    if (at != p.layers.end() && to >= 0 && to < std::ssize(p.layers)) std::iter_swap(at, p.layers.begin() + to);
  });
}

Edit duplicateLayer(const Part& part, int layer, int id) {
  return onLayers("duplicate layer", part, [layer, id](Part& p) {
    const Layer* from = p.layer(layer);
    if (!from || p.layers.size() >= kMostLayers || p.layer(id)) return;
    Layer copy = *from;
    copy.id = id;
    p.layers.push_back(copy);
  });
}

Edit renameLayer(const Part& part, int layer, const std::string& name) {
  return onLayers("name layer", part, [layer, name = cutUtf8(std::string(trimmed(name)), 200)](Part& p) {
    if (Layer* l = p.layer(layer)) l->name = name;
  });
}

Edit removeLayer(const Part& part, int layer) {
  return onLayers("remove layer", part, [layer](Part& p) {
    std::erase_if(p.layers, [layer](const Layer& l) { return l.id == layer; });
    for (Hit& h : p.hits) std::erase(h.without, layer);
    for (Note& n : p.notes) std::erase(n.without, layer);
  });
}

}  // namespace heft
