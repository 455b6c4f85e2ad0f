// reference: what the kick and bass of finished tracks do.

#include <cmath>

#include "cli/commands.h"
#include "cli/still_working.h"
#include "cli/tracks.h"
#include "core/compare/section_facts.h"
#include "core/library/shelf.h"
#include "core/sound/audio_file.h"
#include "core/sound/whole_file.h"
#include "core/theory/text.h"

namespace heft::cli {
namespace {

Json told(const std::optional<Told>& value, int digits) {
  return value ? number(value->value, digits) : Json(nullptr);
}
Json figure(const std::optional<double>& value, int digits) {
  return value ? number(*value, digits) : Json(nullptr);
}

Json confidenceOf(const SectionFacts& f, const TrackProfile& track) {
  Json out = Json::object();
  auto add = [&](const char* key, const std::optional<Told>& value) {
    out[key] = value ? number(value->confidence, 2) : Json(nullptr);
  };
  out["key"] = track.key ? number(track.keyConfidence, 2) : Json(nullptr);
  out["tempo_bpm"] = track.grid ? number(track.grid->confidence, 2) : Json(nullptr);
  out["kick_hits"] = f.kick ? number(f.kick->alike, 2) : Json(nullptr);
  add("kick_hz", f.kickHz), add("kick_ms", f.kickMs), add("kick_to_bass_db", f.kickToBassDb);
  add("dip_db", f.dip ? std::optional(f.dip->depthDb) : std::nullopt);
  add("dip_back_ms", f.dip ? f.dip->backMs : std::nullopt);
  return out;
}

Json factsJson(const std::string& path, const Section& section, const SectionFacts& f,
               const TrackProfile& track, const std::optional<double>& tempo, const NoteStyle& notes) {
  Json hits = Json::array(), bass = Json::array();
  if (f.kick)
    for (const double t : f.kick->hits) hits.push_back(number(1000.0 * t, 1));
  for (const NoteInMix& n : f.bassNotes)
    bass.push_back({{"note", noteName(n.midi, notes)}, {"midi", n.midi}, {"share", number(n.share, 3)}});
  return {
      {"path", path},
      {"section",
       {{"name", section.name},
        {"from_s", number(section.fromSeconds, 3)},
        {"to_s", number(section.toSeconds, 3)}}},
      {"key", track.key ? Json(track.key->name()) : Json(nullptr)},
      {"tempo_bpm", tempo ? number(*tempo, 2) : Json(nullptr)},
      {"lufs", figure(f.lufs, 2)},
      {"plr", figure(f.plr, 2)},
      {"kick_hits", hits},
      {"kick_note", f.kickHz ? Json(pitchText(midiFromHz(f.kickHz->value, notes.a4Hz), notes)) : Json(nullptr)},
      {"kick_hz", told(f.kickHz, 2)},
      {"kick_lands", f.kickHz ? Json(f.kickLands) : Json(nullptr)},
      {"dip_db", f.dip ? number(f.dip->depthDb.value, 2) : Json(nullptr)},
      {"dip_back_ms", f.dip ? told(f.dip->backMs, 0) : Json(nullptr)},
      {"kick_ms", told(f.kickMs, 0)},
      {"bass_notes", bass},
      {"kick_to_bass_db", told(f.kickToBassDb, 2)},
      {"share_below_120_db", figure(f.shareBelow120Db, 2)},
      {"mono_below_hz", figure(f.monoBelowHz, 0)},
      {"low_crest_db", figure(f.lowCrestDb, 2)},
      {"confidence", confidenceOf(f, track)}};
}

std::string csvCell(const Json& value) {
  if (value.is_null()) return "";
  if (value.is_string()) {
    std::string out = "\"";
    for (const char c : value.get<std::string>()) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
  }
  return value.is_array() ? std::to_string(value.size()) : value.dump();
}

constexpr const char* kColumns[] = {"path",
                                    "key",
                                    "tempo_bpm",
                                    "lufs",
                                    "plr",
                                    "kick_hits",
                                    "kick_note",
                                    "kick_hz",
                                    "dip_db",
                                    "dip_back_ms",
                                    "kick_ms",
                                    "kick_to_bass_db",
                                    "share_below_120_db",
                                    "mono_below_hz",
                                    "low_crest_db"};

std::string csvOf(const Json& rows) {
  std::string out;
  for (const char* column : kColumns) out += (out.empty() ? "" : ",") + std::string(column);
  out += "\n";
  for (const Json& row : rows) {
    std::string line;
    for (const char* column : kColumns) line += (line.empty() ? "" : ",") + csvCell(row[column]);
    out += line + "\n";
  }
  return out;
}

Result<Json> factsOfFile(const std::string& path, const ReferenceOptions& o, const std::optional<double>& tempo,
                         const NoteStyle& notes) {
  const StillWorking telling("measuring " + path);
  const auto loaded = loadSound(path, {}, kMostReferenceSeconds);
  if (!loaded) return Fail(loaded.error());
  auto track = profileTrack(*loaded->sound);
  if (!track) return unreadable(path, track.error().reason);
  const auto bpm = tempo ? tempo : track->grid ? std::optional(track->grid->bpm) : std::nullopt;
  // Bars only where a tempo was given: a found one may be half.
  const auto typed =
      parseSection(o.section, tempo, track->grid ? std::max(0.0, track->grid->firstBeatSeconds) : 0.0);
  if (!typed) return Fail(typed.error());
  Section section = proposedSection(*track);
  if (*typed) section = **typed, section.toSeconds = std::min(section.toSeconds, loaded->sound->seconds());
  const AudioBuffer cut = stretchOf(*loaded->sound, section.fromSeconds, section.toSeconds);
  if (cut.frames() == 0)
    return unreadable(path, "ends before the section; give one within its " +
                                formatNumber(loaded->sound->seconds(), 1) + " s");
  const auto profile = profileSection(cut);
  if (!profile) return unreadable(path, profile.error().reason);
  Json out = factsJson(path, section, factsOf(*profile, notes.a4Hz), *track, bpm, notes);
  if (loaded->wholeSeconds)
    out["warnings"] = {"lasts " + formatNumber(*loaded->wholeSeconds / 60.0, 0) +
                       " min; its first 10 min were measured"};
  return out;
}

}  // namespace

Result<Json> reference(const ReferenceOptions& o, const Common& common) {
  const auto notes = common.notes();
  if (!notes) return Fail(notes.error());
  const auto tempo = parseOwnTempo(o.tempo);
  if (!tempo) return Fail(tempo.error());
  Json rows = Json::array();
  for (const std::string& path : o.files) {
    auto facts = factsOfFile(path, o, *tempo, *notes);
    if (!facts) return Fail(facts.error());
    rows.push_back(std::move(*facts));
  }
  if (!o.csv.empty())
    if (auto wrote = writeWhole(o.csv, csvOf(rows)); !wrote) return Fail(wrote.error());
  return rows;
}

}  // namespace heft::cli
