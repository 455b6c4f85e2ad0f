// compare: a mix beside references.

#include <algorithm>
#include <cmath>

#include "cli/commands.h"
#include "cli/still_working.h"
#include "cli/tracks.h"
#include "core/compare/bar_fold.h"
#include "core/compare/ceiling.h"
#include "core/compare/difference.h"
#include "core/compare/kick_in_mix.h"
#include "core/measure/levels/heard_loudness.h"
#include "core/measure/levels/listening_places.h"
#include "core/measure/levels/loudness.h"
#include "core/sound/audio_file.h"
#include "core/sound/lossy.h"
#include "core/theory/text.h"

namespace heft::cli {
namespace {

struct ReadTrack {
  std::string path;
  Sound sound;
  SectionProfile profile;
};

Json orNull(const std::optional<double>& value, int digits) {
  return value ? number(*value, digits) : Json(nullptr);
}

Json programmeJson(const std::string& path, const ProgrammeFacts& f) {
  Json bands = Json::array();
  for (size_t b = 0; b < kBands.size(); ++b)
    bands.push_back({{"low_hz", kBands[b].lowHz},
                     {"high_hz", kBands[b].highHz},
                     {"level_db", number(f.low.bandDb(b), 3)},
                     {"level_re_lufs", orNull(f.bandReLufs(kBands[b]), 3)}});
  return {{"path", path},
          {"integrated_lufs", orNull(f.integratedLufs, 3)},
          {"true_peak_dbtp", number(f.truePeakDbtp, 3)},
          {"bands", bands},
          {"side_db_below_120", orNull(f.low.sideDbBelow120, 3)},
          {"crest_low_db", number(f.low.crestLowDb, 3)}};
}

Result<ReadTrack> readTrack(const std::string& path, const std::optional<Section>& section) {
  const StillWorking telling("measuring " + path);
  const auto loaded = loadSound(path);
  if (!loaded) return Fail(loaded.error());
  Sound sound = loaded->sound;
  if (section) {
    auto cut = std::make_shared<AudioBuffer>(stretchOf(*sound, section->fromSeconds, section->toSeconds));
    if (cut->frames() == 0)
      return unreadable(
          path, "ends before the section; give one within its " + formatNumber(sound->seconds(), 1) + " s");
    sound = cut;
  }
  auto profile = profileSection(*sound);
  if (!profile) return unreadable(path, profile.error().reason);
  return ReadTrack{path, sound, std::move(*profile)};
}

// Levels of the semitones from A0 to E4, dB re the loudness.
Json byNoteJson(const ByNote& notes) {
  Json out = Json::array();
  if (notes.db.empty()) return out;
  for (int midi = 21; midi <= 64; ++midi)
    out.push_back(
        {{"midi", midi}, {"note", noteName(midi)}, {"level_re_lufs", number(notes.semitoneDb(midi), 2)}});
  return out;
}

Json byBarJson(const ReadTrack& track, const std::optional<double>& tempo) {
  std::optional<BeatGrid> grid;
  if (const auto profile = profileTrack(*track.sound)) grid = profile->grid;
  if (tempo) grid = BeatGrid{*tempo, grid ? grid->firstBeatSeconds : 0.0, 1.0};
  if (!grid) return {{"tempo_bpm", nullptr}, {"level_db", Json::array()}};
  FoldAsk ask;
  ask.secondsPerQuarter = 60.0 / grid->bpm, ask.firstBeatSeconds = grid->firstBeatSeconds;
  const BarFold fold = foldOver(track.profile.low, ask);
  Json levels = Json::array();
  constexpr size_t kSteps = 96;
  for (size_t i = 0; i < fold.size(); i += kFoldSteps / kSteps) levels.push_back(number(fold[i], 2));
  return {{"tempo_bpm", number(grid->bpm, 2)}, {"level_db", levels}};
}

constexpr double kLowEndTopHz = 250.0;

Json speakersJson(const ReadTrack& track) {
  auto lows = heardBands(track.profile.low.mid, track.profile.low.rate);
  for (auto& window : lows.windows)
    std::erase_if(window, [](const auto& band) { return band.hz > kLowEndTopHz; });
  Json out = Json::array();
  for (const Place place : kAllPlaces) {
    const HeardBands there = heardThere(lows, place);
    out.push_back({{"place", placeWord(place)}, {"lows_phon", number(there.phon(kUsualListeningDb), 1)}});
  }
  return out;
}

Result<Json> ceilingJson(const ReadTrack& mix, const std::string& text) {
  const auto lufs = parseNumber(text);
  if (!lufs || *lufs < -30.0 || *lufs > -3.0)
    return badUsage("'" + text + "' is no loudness for --ceiling: -30 to -3 LUFS");
  const auto kick = findKick(mix.profile.low);
  const CeilingAsk ask{*lufs};
  const auto facts = underCeiling(*mix.sound, false, ask, kick ? kick->hits : std::vector<double>(),
                                  kick ? kick->lengthMs : 0.0);
  if (!facts) return Json(nullptr);
  Json hits = Json::array();
  for (const CeilingHit& h : facts->hits)
    hits.push_back({{"ms", number(1000.0 * h.seconds, 1)},
                    {"taken_db", number(h.takenDb, 2)},
                    {"lost_db", number(h.lostDb, 2)}});
  return Json{{"lufs", number(*lufs, 1)},
              {"gain_db", number(facts->gainDb, 2)},
              {"lost_below_120_db", number(facts->lostDb, 2)},
              {"true_peak_dbtp", orNull(facts->truePeakDbtp, 2)},
              {"hits", hits}};
}

Result<Json> codecJson(const ReadTrack& mix, const std::string& text) {
  const auto ask = parseLossy(text);
  if (!ask) return Fail(ask.error());
  const auto run = throughCodec(*mix.sound, *ask);
  if (!run) return Fail(run.error());
  const auto after = measureProgramme(run->sound);
  if (!after) return Fail(after.error());
  Json bands = Json::array();
  for (size_t b = 0; b < kBands.size(); ++b)
    bands.push_back(
        {{"low_hz", kBands[b].lowHz},
         {"high_hz", kBands[b].highHz},
         {"change_db",
          number(dbFromPower(after->low.bandPower[b]) - dbFromPower(mix.profile.facts.low.bandPower[b]), 3)}});
  return Json{{"codec", lossyName(ask->codec)},
              {"kbps", number(run->kbps, 1)},
              {"true_peak_dbtp", number(after->truePeakDbtp, 3)},
              {"true_peak_change_db", number(after->truePeakDbtp - mix.profile.facts.truePeakDbtp, 3)},
              {"bands", bands}};
}

void addDetail(Json& out, const ReadTrack& track, const CompareOptions& o, const std::optional<double>& tempo) {
  if (o.by == "note") out["by_note"] = byNoteJson(track.profile.byNote);
  if (o.by == "bar") out["by_bar"] = byBarJson(track, tempo);
  if (o.speakers) out["speakers"] = speakersJson(track);
}

}  // namespace

Result<std::optional<double>> parseOwnTempo(const std::string& text) {
  if (text.empty()) return std::optional<double>();
  const auto bpm = parseTempo(text);
  if (!bpm) return Fail(bpm.error());
  return std::optional(*bpm);
}

Result<std::optional<Section>> parseSection(const std::string& text, const std::optional<double>& tempoBpm,
                                            double firstBeatSeconds) {
  if (text.empty()) return std::optional<Section>();
  const size_t colon = text.find(':');
  const auto a = parseNumber(text.substr(0, colon)),
             b = colon == std::string::npos ? std::nullopt : parseNumber(text.substr(colon + 1));
  const double least = tempoBpm ? 1.0 : 0.0;
  if (!a || !b || *a < least || *b <= *a || *b > 36000.0)
    return badUsage("'" + text +
                    "' is no section: write A:B, such as 30:46 in seconds or 17:25 in bars with --tempo");
  if (!tempoBpm) return std::optional(Section{"", *a, *b});
  const double bar = 240.0 / *tempoBpm;
  return std::optional(Section{"", firstBeatSeconds + (*a - 1.0) * bar, firstBeatSeconds + (*b - 1.0) * bar});
}

namespace {

Json bandsJson(const std::vector<BandDifference>& difference) {
  Json out = Json::array();
  for (size_t b = 0; b < kBands.size(); ++b)
    out.push_back({{"low_hz", kBands[b].lowHz},
                   {"high_hz", kBands[b].highHz},
                   {"level_db", number(difference[b].levelDb, 3)},
                   {"level_re_lufs", orNull(difference[b].levelReLufsDb, 3)}});
  return out;
}

}  // namespace

Result<Json> compare(const CompareOptions& o) {
  if (!o.by.empty() && o.by != "note" && o.by != "bar")
    return badUsage("'" + o.by + "' is no --by: write note or bar");
  const auto tempo = parseOwnTempo(o.tempo);
  if (!tempo) return Fail(tempo.error());
  const auto section = parseSection(o.section, *tempo);
  if (!section) return Fail(section.error());
  const auto mix = readTrack(o.mix, std::nullopt);
  if (!mix) return Fail(mix.error());
  std::vector<ProgrammeFacts> references;
  Json list = Json::array();
  for (const auto& path : o.references) {
    const auto track = readTrack(path, *section);
    if (!track) return Fail(track.error());
    list.push_back(programmeJson(path, track->profile.facts));
    addDetail(list.back(), *track, o, *tempo);
    references.push_back(track->profile.facts);
  }
  Json out{{"mix", programmeJson(o.mix, mix->profile.facts)},
           {"references", list},
           {"difference", {{"bands", bandsJson(bandDifferences(mix->profile.facts, references))}}}};
  addDetail(out["mix"], *mix, o, std::nullopt);
  if (!o.ceiling.empty()) {
    auto ceiling = ceilingJson(*mix, o.ceiling);
    if (!ceiling) return Fail(ceiling.error());
    out["ceiling"] = *ceiling;
  }
  if (!o.codec.empty()) {
    auto codec = codecJson(*mix, o.codec);
    if (!codec) return Fail(codec.error());
    out["codec"] = *codec;
  }
  return out;
}

}  // namespace heft::cli
