// tune with --key, and key: whole kits, and what key and tempo music is in.

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <set>

#include "cli/commands.h"
#include "core/measure/key_finding.h"
#include "core/measure/sound_facts.h"
#include "core/sound/audio_file.h"
#include "core/theory/file_name.h"
#include "core/theory/text.h"
#include "core/tune/kit.h"

namespace heft::cli {
namespace {

namespace fs = std::filesystem;

struct KitTerms {
  Key key;
  Retune how;
  LandingOptions band;
  NoteStyle notes;
};

Result<KitTerms> understood(const TuneOptions& o, const Common& common) {
  KitTerms out;
  const auto notes = common.notes();
  if (!notes) return Fail(notes.error());
  if (!o.to.empty() || !o.toHz.empty() || !o.with.empty())
    return badUsage("--key names the notes itself: leave out --to, --to-hz and --with");
  const auto key = parseKey(o.key);
  if (!key) return badUsage("--key: " + key.error().reason);
  const auto method = parseTuneMethod(o.method.empty() ? "varispeed" : o.method);
  if (!method) return badUsage("--method: " + method.error().reason);
  const auto strike = numberOption("--strike-ms", o.strikeMs, 1, 200, 10.0),
             low = numberOption("--low", o.low, 10, 990, out.band.lowHz),
             high = numberOption("--high", o.high, 11, 1000, out.band.highHz);
  for (const auto* value : {&strike, &low, &high})
    if (!*value) return Fail(value->error());
  if (*low >= *high) return badUsage("--low: is not below --high");
  out.key = *key, out.how = {*method, 0.0, *strike}, out.band = {*low, *high}, out.notes = *notes;
  out.notes.flats = key->prefersFlats();
  return out;
}

// A name in the folder that no other file of this kit has.
std::string freePath(const std::string& folder, const std::string& name, std::set<std::string>& taken) {
  std::string path = (fs::path(folder) / (name + ".wav")).string();
  for (int n = 2; !taken.insert(path).second; ++n)
    path = (fs::path(folder) / (name + " " + std::to_string(n) + ".wav")).string();
  return path;
}

bool isOneOf(const std::string& path, const std::vector<std::string>& files) {
  std::error_code code;
  return std::any_of(files.begin(), files.end(),
                     [&](const std::string& file) { return fs::equivalent(path, file, code); });
}

// One drum's row. What cannot be tuned says why and writes nothing.
Result<Json> tunedRow(const std::string& path, const KitTerms& terms, const TuneOptions& o,
                      std::set<std::string>& taken) {
  Json row{{"path", path},
           {"output", nullptr},
           {"landing_note", nullptr},
           {"before_hz", nullptr},
           {"target_note", nullptr},
           {"after_hz", nullptr},
           {"shift_semitones", nullptr},
           {"strain", nullptr},
           {"warnings", Json::array()}};
  const auto loaded = loadSound(path);
  if (!loaded) {
    row["warnings"].push_back(loaded.error().reason);
    return row;
  }
  for (const auto& w : loaded->warnings) row["warnings"].push_back(w);
  const auto facts = measureSound(*loaded->sound, terms.band);
  if (!facts.landing.hz) {
    row["warnings"].push_back("has no landing to tune from (" + facts.landing.reason + ")");
    return row;
  }
  const double midi = midiFromHz(*facts.landing.hz, terms.notes.a4Hz);
  const int target = kitTarget(midi, terms.key);
  const auto landed = retunedToLand(*loaded->sound, facts, hzFromMidi(target, terms.notes.a4Hz), terms.how);
  if (!landed) {
    row["warnings"].push_back(landed.error().reason);
    return row;
  }
  const std::string note = noteName(target, terms.notes);
  const std::string output = freePath(o.output, nameWithNote(path, note), taken);
  if (isOneOf(output, o.files))
    return Fail(Error{ErrorKind::Unwritable, output, "is one of the sounds to be tuned; name another folder"});
  if (auto saved = saveSound(landed->result.sound, output, SampleFormat::WavFloat, RootNote{1.0 * target});
      !saved)
    return Fail(saved.error());
  Retune how = terms.how;
  how.semitones = landed->semitones;
  row["output"] = output;
  row["landing_note"] = pitchText(midi, terms.notes);
  row["before_hz"] = number(*facts.landing.hz);
  row["target_note"] = note;
  row["after_hz"] = landed->afterHz ? number(*landed->afterHz) : Json(nullptr);
  row["shift_semitones"] = number(landed->semitones);
  row["strain"] = strainInWords(how, loaded->sound->seconds());
  if (landed->result.bodyGainDb < 0.0)
    row["warnings"].push_back("turned down by " + formatNumber(-landed->result.bodyGainDb, 2) +
                              " dB to stay under full scale");
  return row;
}

}  // namespace

Result<Json> tuneKit(const TuneOptions& o, const Common& common) {
  const auto terms = understood(o, common);
  if (!terms) return Fail(terms.error());
  std::error_code code;
  fs::create_directories(o.output, code);
  if (code) return Fail(Error{ErrorKind::Unwritable, o.output, "the folder cannot be made: " + code.message()});
  Json rows = Json::array();
  std::set<std::string> taken;
  for (const std::string& path : o.files) {
    auto row = tunedRow(path, *terms, o, taken);
    if (!row) return Fail(row.error());
    rows.push_back(std::move(*row));
  }
  if (std::all_of(rows.begin(), rows.end(), [](const Json& row) { return row["output"].is_null(); }))
    return unreadable(o.files.front(), rows.front()["warnings"].front().get<std::string>());
  return rows;
}

Result<Json> keys(const KeyOptions& o) {
  Json rows = Json::array();
  for (const std::string& path : o.files) {
    const auto loaded = loadSound(path);
    if (!loaded) return Fail(loaded.error());
    const auto key = findKey(*loaded->sound);
    const auto tempo = findTempo(*loaded->sound);
    const NameFacts name = factsOfName(path);
    Json others = Json::array();
    for (size_t i = 1; key && i < 4; ++i)
      others.push_back({{"key", key->ranked[i].key.name()}, {"strength", number(key->ranked[i].strength, 3)}});
    Json warnings = Json::array();
    for (const auto& w : loaded->warnings) warnings.push_back(w);
    if (!key) warnings.push_back("no key stands out");
    rows.push_back({{"path", path},
                    {"key", key ? Json(key->ranked[0].key.name()) : Json(nullptr)},
                    {"confidence", key ? number(key->confidence, 3) : Json(nullptr)},
                    {"runners_up", others},
                    {"name_key", name.key ? Json(name.key->name()) : Json(nullptr)},
                    {"tempo_bpm", tempo ? number(tempo->bpm, 2) : Json(nullptr)},
                    {"tempo_confidence", tempo ? number(tempo->confidence, 3) : Json(nullptr)},
                    {"name_tempo_bpm", name.tempoBpm ? number(*name.tempoBpm, 2) : Json(nullptr)},
                    {"warnings", warnings}});
  }
  return rows;
}

}  // namespace heft::cli
