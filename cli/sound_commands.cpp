// measure, tune, compare: one sound or one programme at a time.

#include <cmath>

#include "cli/commands.h"
#include "cli/still_working.h"
#include "core/compare/difference.h"
#include "core/measure/events/sound_facts.h"
#include "core/sound/audio_file.h"
#include "core/theory/key.h"
#include "core/theory/text.h"
#include "core/theory/time_value.h"
#include "core/tune/retune.h"

namespace heft::cli {
namespace {

struct Terms {
  LandingOptions band;
  std::optional<Key> key;
  std::optional<double> tempoBpm;
  bool path = false;
};

Result<Terms> understood(const MeasureOptions& o) {
  Terms out;
  const auto band = bandOption(o.band);
  if (!band) return Fail(band.error());
  out.band = *band;
  if (!o.key.empty()) {
    const auto key = parseKey(o.key);
    if (!key) return badUsage("--key: " + key.error().reason);
    out.key = *key;
  }
  if (!o.tempo.empty()) {
    const auto tempo = parseTempo(o.tempo);
    if (!tempo) return badUsage("--tempo: " + tempo.error().reason);
    out.tempoBpm = *tempo;
  }
  out.path = o.path;
  return out;
}

void addKeyFacts(Json& j, const std::optional<double>& landingHz, const Terms& asked, const NoteStyle& notes) {
  j["nearest_key_note"] = nullptr;
  j["shift_semitones"] = nullptr;
  j["shift_to_fifth_semitones"] = nullptr;
  if (!asked.key || !landingHz) return;
  const double midi = midiFromHz(*landingHz, notes.a4Hz);
  const int tonic = nearestOfClass(midi, asked.key->tonic), fifth = nearestOfClass(midi, asked.key->fifth());
  int nearest = tonic;
  for (int pitchClass : asked.key->scale()) {
    const int note = nearestOfClass(midi, pitchClass);
    if (std::abs(note - midi) < std::abs(nearest - midi)) nearest = note;
  }
  NoteStyle style = notes;
  style.flats = asked.key->prefersFlats();
  j["nearest_key_note"] = noteName(nearest, style);
  j["shift_semitones"] = number(tonic - midi);
  j["shift_to_fifth_semitones"] = number(fifth - midi);
}

// One object a point: where, how high, and its level re the loudest.
Json pathJson(const std::vector<PitchPoint>& path) {
  double loudest = 0.0;
  for (const PitchPoint& p : path) loudest = std::max(loudest, p.amplitude);
  Json out = Json::array();
  for (const PitchPoint& p : path)
    out.push_back({{"ms", number(1000.0 * p.seconds, 3)},
                   {"hz", number(p.hz, 3)},
                   {"db", number(dbFromAmplitude(p.amplitude / std::max(loudest, 1e-12), -120.0), 2)}});
  return out;
}

Json factWarnings(const LoadedSound& loaded, const SoundFacts& f) {
  Json out = Json::array();
  for (const auto& w : loaded.warnings) out.push_back(w);
  if (f.landing.slides())
    out.push_back("no landing: its pitch slides over " + formatNumber(f.landing.slideCents, 0) +
                  " cents, heard most at heard_hz; name where it lands with --landing-ms or --landing-hz");
  else if (!f.landing.hz)
    out.push_back("no landing: " + f.landing.reason);
  if (f.peakDbfs > 0.0) out.push_back("peaks over full scale");
  return out;
}

Json factsJson(const std::string& path, const LoadedSound& loaded, const SoundFacts& f, const Terms& asked,
               const NoteStyle& notes) {
  const auto& landing = f.landing;
  Json j = {{"path", path},
            {"duration_s", number(f.durationSeconds, 6)},
            {"sample_rate", f.sampleRate},
            {"channels", f.channels}};
  j["landing_hz"] = landing.hz ? number(*landing.hz) : Json(nullptr);
  const double midi = landing.hz ? midiFromHz(*landing.hz, notes.a4Hz) : 0.0;
  j["landing_note"] = landing.hz ? Json(noteName(static_cast<int>(std::lround(midi)), notes)) : Json(nullptr);
  j["landing_cents"] = landing.hz ? number((midi - std::round(midi)) * 100.0, 2) : Json(nullptr);
  j["confidence"] = number(landing.confidence, 3);
  const bool followed = !landing.path.empty();
  j["heard_hz"] = landing.heardHz ? number(*landing.heardHz) : Json(nullptr);
  j["heard_confidence"] = number(landing.heardConfidence, 3);
  j["slide_cents"] = landing.heardHz ? number(landing.slideCents, 1) : Json(nullptr);
  j["start_hz"] = followed ? number(landing.startHz, 2) : Json(nullptr);
  j["fall_ms"] = followed ? number(landing.fallMs, 2) : Json(nullptr);
  j["onset_ms"] = f.onsetSeconds ? number(1000.0 * *f.onsetSeconds, 3) : Json(nullptr);
  j["tail_ms"] = f.onsetSeconds ? number(f.tailMs, 2) : Json(nullptr);
  j["tail_low_ms"] = f.onsetSeconds ? number(f.tailLowMs, 2) : Json(nullptr);
  j["peak_dbfs"] = number(f.peakDbfs, 3);
  j["rms_dbfs"] = number(f.rmsDbfs, 3);
  j["crest_db"] = number(f.crestDb, 3);
  addKeyFacts(j, landing.hz, asked, notes);
  if (asked.tempoBpm)
    j["tail_sixteenths"] = f.onsetSeconds ? number(f.tailMs * *asked.tempoBpm / 15000.0, 3) : Json(nullptr);
  j["warnings"] = factWarnings(loaded, f);
  // In a list "name" is the plain name, and the path goes to "file".
  if (asked.path) j["file"] = path, j["path"] = pathJson(landing.path);
  return j;
}

}  // namespace

Result<Json> measure(const MeasureOptions& o, const Common& common) {
  const auto notes = common.notes();
  if (!notes) return Fail(notes.error());
  const auto asked = understood(o);
  if (!asked) return Fail(asked.error());
  Json out = Json::array();
  for (const std::string& path : o.files) {
    const StillWorking working("measuring " + path);
    const auto loaded = loadSound(path);
    if (!loaded) return Fail(loaded.error());
    out.push_back(factsJson(path, *loaded, measureSound(*loaded->sound, asked->band), *asked, *notes));
  }
  return out;
}

namespace {

// The frequency to land on; `fromHz` chooses the octave where a bass gives the note.
Result<double> targetOf(const TuneOptions& o, const NoteStyle& notes, double fromHz) {
  if (!o.to.empty()) {
    const auto midi = parsePitch(o.to, notes);
    if (!midi) return badUsage("--to: " + midi.error().reason);
    return hzFromMidi(*midi, notes.a4Hz);
  }
  if (!o.toHz.empty()) return numberOption("--to-hz", o.toHz, 8, 20000);
  const auto bass = loadSound(o.with);
  if (!bass) return Fail(bass.error());
  const auto facts = measureSound(*bass->sound);
  if (!facts.landing.hz)
    return unreadable(o.with,
                      "no note can be told for it (" + facts.landing.reason + "); name the note with --to");
  return *facts.landing.hz * std::exp2(std::round(std::log2(fromHz / *facts.landing.hz)));
}

}  // namespace

namespace {

Json tuneWarnings(const LoadedSound& loaded, const Landing& landing, const Landed& landed) {
  Json out = Json::array();
  for (const auto& w : loaded.warnings) out.push_back(w);
  if (strainOf(landed.semitones) == Strain::Heavy)
    out.push_back(
        "a shift beyond two semitones strains a recorded drum: choose another sample, or move a plain sub "
        "layer");
  if (landed.result.bodyGainDb < 0.0)
    out.push_back("turned down by " + formatNumber(-landed.result.bodyGainDb, 2) +
                  " dB to stay under full scale");
  if (landing.slides())
    out.push_back("its pitch slides over " + formatNumber(landing.slideCents, 0) +
                  " cents and never settles: tuned from the note it is heard at most; set another "
                  "with --landing-ms or --landing-hz");
  if (!landed.afterHz) out.push_back("no note can be measured after the shift");
  return out;
}

}  // namespace

Result<Json> tune(const TuneOptions& o, const Common& common) {
  if (!o.key.empty()) return tuneKit(o, common);
  if (o.files.size() != 1) return badUsage("name one FILE, or --key to tune a kit");
  const std::string& file = o.files.front();
  const auto notes = common.notes();
  if (!notes) return Fail(notes.error());
  if ((o.to.empty() ? 0 : 1) + (o.toHz.empty() ? 0 : 1) + (o.with.empty() ? 0 : 1) != 1)
    return badUsage("name one of --to, --to-hz or --with");
  if (o.method.empty()) return badUsage("--method: write varispeed, hold-length, bend or split");
  const auto method = parseNamed<TuneMethod>(o.method);
  if (!method) return badUsage("--method: " + method.error().reason);
  const auto strike =
      numberOption("--strike-ms", o.strikeMs, rangeOf<Recorded>("strike_ms"), Recorded().strikeMs);
  if (!strike) return Fail(strike.error());
  // Invalid options are reported before any file is read.
  if (o.with.empty())
    if (const auto early = targetOf(o, *notes, 50.0); !early) return Fail(early.error());
  const auto band = bandOption(o.band);
  if (!band) return Fail(band.error());
  const auto loaded = loadSound(file);
  if (!loaded) return Fail(loaded.error());
  const auto facts = measureSound(*loaded->sound, *band);
  const auto from = facts.landing.noteHz();
  if (!from) return unreadable(file, "has no landing to tune from (" + facts.landing.reason + ")");
  const auto target = targetOf(o, *notes, *from);
  if (!target) return Fail(target.error());
  const auto landed = retunedToLand(*loaded->sound, facts, *target, {*method, 0.0, *strike});
  if (!landed) return Fail(landed.error());
  if (auto saved =
          saveSound(landed->result.sound, o.output, SampleFormat::WavFloat, RootNote{midiFromHz(*target)});
      !saved)
    return Fail(saved.error());
  return Json{{"before_hz", number(*from)},
              {"after_hz", landed->afterHz ? number(*landed->afterHz) : Json(nullptr)},
              {"shift_semitones", number(landed->semitones)},
              {"warnings", tuneWarnings(*loaded, facts.landing, *landed)}};
}

}  // namespace heft::cli
