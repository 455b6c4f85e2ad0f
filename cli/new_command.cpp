// new: a session from files.

#include <filesystem>

#include "cli/commands.h"
#include "cli/presets.h"
#include "core/render/sounds/sounds.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/sections.h"
#include "core/session/edits/track.h"
#include "core/session/folder.h"
#include "core/session/pattern.h"
#include "core/theory/text.h"

namespace heft::cli {
namespace {

/// A session that is being put together.
struct Making {
  Session session;
  Assets assets;
  Json warnings = Json::array();
  bool first = true;
};

Result<AssetRef> read(Making& m, const std::string& path) {
  auto loaded = loadSound(path);
  if (!loaded) return Fail(loaded.error());
  for (const auto& w : loaded->warnings) m.warnings.push_back(path + ": " + w);
  // The first sound that plays gives the session its rate.
  const double rate = loaded->sound->sampleRate;
  if (std::exchange(m.first, false) && rate >= 44100.0 && rate <= 192000.0) m.session.track.sampleRate = rate;
  AssetRef ref = m.assets.add(std::move(*loaded), path);
  std::error_code code;
  ref.from = std::filesystem::absolute(path, code).string();
  ref.stamp = stampOf(ref.from);
  return ref;
}

Result<void> put(Making& m, int part, const std::string& path) {
  const auto ref = read(m, path);
  if (!ref) return Fail(ref.error());
  placeSound(m.session, part, *ref, {SoundPlace::At::New});
  return {};
}

// Off the beat, on the tonic in the recording's own octave, where that is known.
void giveBassLine(Making& m) {
  m.session = offbeatBass(std::move(m.session));
  Part& bass = m.session.bass();
  StepCache cache = StepCache().onAllThreads();
  const auto root =
      SoundSteps(m.assets, cache, m.session.track.sampleRate).bassRoot(bass.layers.front(), m.session.track);
  if (!root) return;
  for (Note& n : bass.notes) n.midi += 12 * static_cast<int>(std::lround((*root - n.midi) / 12.0));
}

// "Clap=clap.wav": a part that hits on every second beat.
Result<void> putOther(Making& m, const std::string& words) {
  const size_t equals = words.find('=');
  if (equals == std::string::npos || equals == 0 || equals + 1 == words.size())
    return badUsage("--part: \"" + words.substr(0, 64) + "\" is not NAME=FILE");
  if (m.session.parts.size() >= kMostParts)
    return badUsage("--part: a session holds " + std::to_string(kMostParts - 2) +
                    " parts beside kick and bass");
  const int id = freshPartId(m.session);
  addPart(id, validUtf8(words.substr(0, equals)), Plays::Hits).change(m.session);
  Part& part = *m.session.part(id);
  const auto beats = hitsOnBeats(m.session.track);
  for (size_t i = 1; i < beats.size(); i += 2) part.hits.push_back(beats[i]);
  return put(m, id, words.substr(equals + 1));
}

// "Drop=17:33": from bar 17 up to bar 33.
Result<void> putSection(Session& s, const std::string& words) {
  const size_t equals = words.find('='), colon = words.find(':', equals == std::string::npos ? 0 : equals);
  const auto range = Range{1, 1 + s.track.loopQuarters() / s.track.barQuarters()};
  const std::string why =
      "--section: \"" + words.substr(0, 64) + "\" is not NAME=A:B in bars, such as Drop=17:33";
  if (equals == std::string::npos || equals == 0 || colon == std::string::npos) return badUsage(why);
  const auto from = numberOption("--section", words.substr(equals + 1, colon - equals - 1), range),
             to = numberOption("--section", words.substr(colon + 1), range);
  if (!from) return Fail(from.error());
  if (!to) return Fail(to.error());
  if (!(*to > *from)) return badUsage(why);
  const double bar = s.track.barQuarters();
  addSection(validUtf8(words.substr(0, equals)), (*from - 1.0) * bar, (*to - 1.0) * bar).change(s);
  return {};
}

// A song is as long as its backing, where no length was asked for.
void fitToBacking(Making& m) {
  const auto sound = m.assets.sound(m.session.backing.asset);
  if (!sound) return;
  const double quarters = sound->seconds() * m.session.track.tempoBpm / 60.0,
               bar = m.session.track.barQuarters();
  const int bars = static_cast<int>(std::ceil(quarters / bar - 0.06));
  setLoopBeats(std::max(1, bars) * m.session.track.beatsPerBar).change(m.session);
}

// First, since a song's patterns are as long as it is; its rate is the session's only where no part has one.
Result<void> putBacking(Making& m, const NewOptions& o) {
  if (o.backing.empty()) return {};
  const bool parts = !o.kick.empty() || !o.bass.empty() || !o.parts.empty();
  m.first = !parts;
  const auto ref = read(m, o.backing);
  if (!ref) return Fail(ref.error());
  m.first = parts;
  m.session.backing.asset = *ref;
  if (o.song && o.bars.empty()) fitToBacking(m);
  return {};
}

Result<void> setTrack(Track& track, const NewOptions& o) {
  const auto key = parseKey(o.key);
  if (!key) return badUsage("--key: " + key.error().reason);
  const auto tempo = parseTempo(o.tempo);
  if (!tempo) return badUsage("--tempo: " + tempo.error().reason);
  track.key = *key, track.tempoBpm = *tempo, track.song = o.song;
  const double most = std::floor(track.mostQuarters() / track.barQuarters());
  const auto bars = numberOption("--bars", o.bars, {1, most}, 2);
  if (!bars) return Fail(bars.error());
  if (*bars != std::floor(*bars)) return badUsage("--bars: \"" + o.bars + "\" is not a whole number");
  track.notes.flats = key->prefersFlats();
  track.loopBeats = static_cast<int>(*bars) * track.beatsPerBar;
  track.name = validUtf8(std::filesystem::path(o.output).stem().string());
  return {};
}

}  // namespace

namespace {

Json madeJson(const Making& m, const NewOptions& o) {
  Json parts = Json::array();
  for (const Part& part : m.session.parts)
    if (!part.layers.empty())
      parts.push_back({{"part", part.title()},
                       {"sound", part.layers.front().title()},
                       {"events", part.hits.size() + part.notes.size()}});
  return Json{{"session", o.output},
              {"key", m.session.track.key.name()},
              {"tempo_bpm", number(m.session.track.tempoBpm)},
              {"sample_rate", number(m.session.track.sampleRate)},
              {"parts", parts},
              {"backing", o.backing.empty() ? Json(nullptr) : Json(m.session.backing.asset.name)},
              {"warnings", m.warnings}};
}

}  // namespace

Result<Json> makeNew(const NewOptions& o) {
  Making m;
  if (auto set = setTrack(m.session.track, o); !set) return Fail(set.error());
  if (o.kick.empty() && o.bass.empty() && o.backing.empty() && o.parts.empty())
    return badUsage("name at least one sound: --kick, --bass, --backing or --part");
  if (auto done = putBacking(m, o); !done) return Fail(done.error());
  if (!o.kick.empty())
    if (auto done = put(m, m.session.kick().id, o.kick); !done) return Fail(done.error());
  if (!o.bass.empty()) {
    if (auto done = put(m, m.session.bass().id, o.bass); !done) return Fail(done.error());
    giveBassLine(m);
  }
  for (const std::string& part : o.parts)
    if (auto done = putOther(m, part); !done) return Fail(done.error());
  for (const std::string& section : o.sections)
    if (auto done = putSection(m.session, section); !done) return Fail(done.error());
  if (auto used = usePresets(m.session, m.assets, o.presets); !used) return Fail(used.error());
  if (auto saved = saveSession(o.output, m.session, m.assets); !saved) return Fail(saved.error());
  return madeJson(m, o);
}

}  // namespace heft::cli
