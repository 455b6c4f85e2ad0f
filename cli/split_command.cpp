// split: a sound's strike and body as files.

#include <filesystem>

#include "cli/commands.h"
#include "core/measure/events/sound_facts.h"
#include "core/shape/sides.h"
#include "core/sound/audio_file.h"
#include "core/sound/whole_file.h"
#include "core/theory/text.h"

namespace heft::cli {

namespace fs = std::filesystem;

namespace {

// Both files or neither; their paths go to `out`.
Result<void> writeSides(const SplitOptions& o, const AudioBuffer& sound, double cutSeconds, double joinSeconds,
                        Json& out) {
  const std::string stem = fs::path(o.kick).stem().string();
  std::vector<std::pair<std::string, std::string>> sides;
  for (const Side side : {Side::Strike, Side::Body}) {
    const std::string path = freePath(o.folder, stem + " " + nameOf(side), ".wav");
    auto bytes = encodeSound(sideOf(sound, side, cutSeconds, joinSeconds), SampleFormat::WavFloat);
    if (!bytes) return unwritable(path, bytes.error().reason);
    sides.emplace_back(path, std::move(*bytes));
    out[nameOf(side)] = path;
  }
  return writeAllWhole({{sides[0].first, &sides[0].second}, {sides[1].first, &sides[1].second}});
}

}  // namespace

Result<Json> split(const SplitOptions& o) {
  const auto at = numberOption("--at-ms", o.atMs, rangeOf<SoundSide>("at_ms"), 0.0),
             join = numberOption("--join-ms", o.joinMs, rangeOf<SoundSide>("join_ms"), SoundSide().joinMs);
  for (const auto* value : {&at, &join})
    if (!*value) return Fail(value->error());
  const auto loaded = loadSound(o.kick);
  if (!loaded) return Fail(loaded.error());
  const AudioBuffer& sound = *loaded->sound;
  const auto onset = measureSound(sound).onsetSeconds;
  if (!onset) return unreadable(o.kick, "it is silent: there is nothing to split");
  const double atMs = o.atMs.empty() ? strikeEndMs(sound, *onset) : *at;
  if (*onset + atMs / 1000.0 >= sound.seconds())
    return badUsage("--at-ms: " + formatNumber(atMs, 1) + " ms after the strike is beyond the end of " +
                    o.kick);
  auto made = MadeFolder::at(o.folder);
  if (!made) return Fail(made.error());
  Json out = {{"path", o.kick},
              {"onset_ms", number(1000.0 * *onset, 3)},
              {"at_ms", number(atMs, 3)},
              {"join_ms", number(*join, 3)}};
  if (auto wrote = writeSides(o, sound, *onset + atMs / 1000.0, *join / 1000.0, out); !wrote)
    return Fail(wrote.error());
  made->keep();
  out["warnings"] = Json::array();
  for (const auto& w : loaded->warnings) out["warnings"].push_back(w);
  return out;
}

}  // namespace heft::cli
