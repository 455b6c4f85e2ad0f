// tune with --key, and key: whole kits, and what key and tempo music is in.

#include <algorithm>

#include "cli/commands.h"
#include "cli/still_working.h"
#include "core/measure/events/key_finding.h"
#include "core/sound/audio_file.h"
#include "core/sound/whole_file.h"
#include "core/theory/file_name.h"
#include "core/theory/text.h"
#include "core/tune/kit.h"

namespace heft::cli {
namespace {

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
  const auto method = parseNamed<TuneMethod>(o.method.empty() ? "varispeed" : o.method);
  if (!method) return badUsage("--method: " + method.error().reason);
  const auto strike =
      numberOption("--strike-ms", o.strikeMs, rangeOf<Recorded>("strike_ms"), Recorded().strikeMs);
  if (!strike) return Fail(strike.error());
  const auto band = bandOption(o.band);
  if (!band) return Fail(band.error());
  if (band->byHand()) return badUsage("--landing-ms and --landing-hz are for one sound, not for a kit");
  out.key = *key, out.how = {*method, 0.0, *strike}, out.band = *band, out.notes = *notes;
  out.notes.flats = key->prefersFlats();
  return out;
}

// One drum's row. What cannot be tuned says why and writes nothing.
Result<Json> tunedRow(const std::string& path, const KitTerms& terms, const TuneOptions& o) {
  const double a4 = terms.notes.a4Hz;
  const Drum drum = readDrum(path, terms.key, terms.how, terms.band, a4);
  Json row{{"path", path},
           {"output", nullptr},
           {"landing_note", nullptr},
           {"before_hz", nullptr},
           {"target_note", nullptr},
           {"after_hz", nullptr},
           {"shift_semitones", nullptr},
           {"strain", nullptr},
           {"warnings", drum.warnings}};
  if (!drum.targetMidi) {
    row["warnings"].push_back(drum.fault);
    return row;
  }
  const auto tuned = writeDrum(drum, o.output, terms.notes);
  if (!tuned && tuned.error().kind == ErrorKind::Unwritable) return Fail(tuned.error());
  if (!tuned) {
    row["warnings"].push_back(tuned.error().reason);
    return row;
  }
  Retune how = terms.how;
  how.semitones = tuned->semitones;
  row["output"] = tuned->output;
  row["landing_note"] = pitchText(*drum.landingMidi(a4), terms.notes);
  row["before_hz"] = number(*drum.facts.landing.noteHz());
  row["target_note"] = pitchText(*drum.targetMidi, terms.notes);
  row["after_hz"] = tuned->afterHz ? number(*tuned->afterHz) : Json(nullptr);
  row["shift_semitones"] = number(tuned->semitones);
  row["strain"] = strainInWords(how, drum.facts.tailMs / 1000.0);
  if (const auto doubt = doubtOf(*tuned); !doubt.empty()) row["warnings"].push_back(doubt);
  if (tuned->bodyGainDb < 0.0)
    row["warnings"].push_back("turned down by " + formatNumber(-tuned->bodyGainDb, 2) +
                              " dB to stay under full scale");
  return row;
}

}  // namespace

Result<Json> tuneKit(const TuneOptions& o, const Common& common) {
  const auto terms = understood(o, common);
  if (!terms) return Fail(terms.error());
  auto made = MadeFolder::at(o.output);
  if (!made) return Fail(made.error());
  Json rows = Json::array();
  for (const std::string& path : o.files) {
    auto row = tunedRow(path, *terms, o);
    if (!row) return Fail(row.error());
    rows.push_back(std::move(*row));
  }
  if (std::all_of(rows.begin(), rows.end(), [](const Json& row) { return row["output"].is_null(); }))
    return unreadable(o.files.front(), rows.front()["warnings"].front().get<std::string>());
  made->keep();
  return rows;
}

namespace {

// Key and tempo of a file, as heard and as its name says.
Result<Json> keyRow(const std::string& path) {
  const auto loaded = loadSound(path);
  if (!loaded) return Fail(loaded.error());
  const auto key = findKey(*loaded->sound);
  const auto tempo = findTempo(*loaded->sound);
  const NameFacts name = factsOfName(path);
  const bool change = key && key->change;
  Json others = Json::array();
  for (size_t i = 1; key && i < 4; ++i)
    others.push_back({{"key", key->ranked[i].key.name()}, {"strength", number(key->ranked[i].strength, 3)}});
  Json warnings = Json::array();
  for (const auto& w : loaded->warnings) warnings.push_back(w);
  if (!key) warnings.push_back("no clear key");
  return Json{{"path", path},
              {"key", key ? Json(key->ranked[0].key.name()) : Json(nullptr)},
              {"confidence", key ? number(key->confidence, 3) : Json(nullptr)},
              {"runners_up", others},
              {"changes_from", change ? Json(key->change->before.name()) : Json(nullptr)},
              {"changes_to", change ? Json(key->change->after.name()) : Json(nullptr)},
              {"changes_at_seconds", change ? number(key->change->seconds, 0) : Json(nullptr)},
              {"name_key", name.key ? Json(name.key->name()) : Json(nullptr)},
              {"tempo_bpm", tempo ? number(tempo->bpm, 2) : Json(nullptr)},
              {"tempo_confidence", tempo ? number(tempo->confidence, 3) : Json(nullptr)},
              {"name_tempo_bpm", name.tempoBpm ? number(*name.tempoBpm, 2) : Json(nullptr)},
              {"warnings", warnings}};
}

}  // namespace

Result<Json> keys(const KeyOptions& o) {
  Json rows = Json::array();
  for (const std::string& path : o.files) {
    const StillWorking telling("listening to " + path);
    auto row = keyRow(path);
    if (!row) return Fail(row.error());
    rows.push_back(std::move(*row));
  }
  return rows;
}

}  // namespace heft::cli
