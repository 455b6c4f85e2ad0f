// align: kick and bass together.

#include <cmath>

#include "cli/commands.h"
#include "core/align/solver.h"
#include "core/session/folder.h"
#include "core/solve/align_ways.h"
#include "core/sound/audio_file.h"
#include "core/sound/interpolate.h"
#include "core/sound/resample.h"
#include "core/theory/text.h"

namespace heft::cli {
namespace {

// Later by whole and part samples, or earlier: then its start is cut off.
AudioBuffer moved(const AudioBuffer& bass, double samples, bool invert) {
  const double whole = std::floor(samples);
  AudioBuffer out = samples == whole ? bass : fractionLater(bass, samples - whole, 33);
  for (auto& channel : out.channels) {
    if (whole > 0) channel.insert(channel.begin(), static_cast<size_t>(whole), 0.0f);
    if (whole < 0)
      channel.erase(channel.begin(),
                    channel.begin() + std::min<ptrdiff_t>(static_cast<ptrdiff_t>(-whole),
                                                          static_cast<ptrdiff_t>(channel.size())));
    if (channel.empty()) channel.push_back(0.0f);
    if (invert)
      for (float& x : channel) x = -x;
  }
  return out;
}

Json orNull(const std::optional<double>& value) {
  return value ? number(*value) : Json(nullptr);
}

Json rotationJson(const Rotation& rotation) {
  Json out = Json::array();
  for (const AllPass& s : rotation.stages)
    if (s.on) out.push_back({{"hz", number(s.hz, 2)}, {"q", number(s.q)}});
  return out;
}

Json hitJson(size_t index, const HitFacts& h, const Track& track) {
  Json j = {{"hit", index + 1}, {"at_quarters", number(h.frame / track.framesPerQuarter())}};
  j["note"] = h.noteMidi ? Json(noteName(*h.noteMidi, track.notes)) : Json(nullptr);
  const bool meets = h.meets();
  j["level_db"] = orNull(meets ? std::optional(h.heardDb) : std::nullopt);
  j["unducked_db"] = orNull(meets ? std::optional(h.levelDb) : std::nullopt);
  j["own_delay_ms"] = orNull(meets ? std::optional(h.own.delayMs) : std::nullopt);
  j["own_invert"] = meets ? Json(h.own.invert) : Json(nullptr);
  j["own_db"] = orNull(meets ? std::optional(h.own.afterDb) : std::nullopt);
  return j;
}

Json wayJson(const AlignWay& w) {
  Json j = {{"way", w.name},
            {"level_db", number(w.levelDb)},
            {"unducked_db", number(w.unduckedDb)},
            {"delay_ms", number(w.answer.delayMs)},
            {"invert", w.answer.invert},
            {"rotation", rotationJson(w.answer.rotation)}};
  j["start_phase"] = orNull(w.startPhaseDegrees);
  j["notes"] = Json::array();
  for (size_t i = 0; i < w.noteMoves.size(); ++i)
    if (const NoteMove& m = w.noteMoves[i]; m != NoteMove())
      j["notes"].push_back(
          {{"note", i + 1}, {"offset_ms", number(m.offsetMs)}, {"phase", number(m.phaseDegrees)}});
  j["smear_ms"] = number(w.smearMs);
  return j;
}

Json standsJson(const AlignStands& s) {
  return {{"earlier_ms", number(s.delay.earlierMs)}, {"later_ms", number(s.delay.laterMs)},
          {"lower_cents", number(s.lowerCents)},     {"higher_cents", number(s.higherCents)},
          {"slowest_bpm", number(s.slowestBpm)},     {"fastest_bpm", number(s.fastestBpm)}};
}

}  // namespace

Result<Json> alignSession(const AlignOptions& o) {
  if (o.apply && o.output.empty()) return badUsage("-o is missing: the folder to write the aligned session to");
  if (!o.apply && !o.output.empty()) return badUsage("-o for a session needs --apply");
  if (!o.low.empty() || !o.high.empty() || !o.maxDelayMs.empty())
    return badUsage("--low, --high and --max-delay-ms are for two sounds: a session has its own band");
  auto opened = openSession(o.kick);
  if (!opened) return Fail(opened.error());
  StepCache cache = StepCache().onAllThreads();
  const Session& s = opened->session;
  const auto stems = render(s, opened->assets, cache);
  if (!stems) return Fail(stems.error());
  const auto facts = studyPair(s, opened->assets, *stems, cache);
  if (!facts) return Fail(facts.error());
  auto ways = alignWays(s, opened->assets, cache);
  if (!ways) return Fail(ways.error());
  std::erase_if(ways->ways, [&](const AlignWay& w) {
    return (!o.rotate && w.answer.rotation.works()) || (!o.perNote && w.notes > 0);
  });
  const bool applies = o.apply && !ways->ways.empty() && ways->ways[0].levelDb > ways->nowDb;
  if (o.apply)
    if (auto saved = saveSession(o.output, applies ? ways->ways[0].edit.applied(s) : s, opened->assets); !saved)
      return Fail(saved.error());
  Json hits = Json::array(), list = Json::array();
  for (size_t i = 0; i < facts->hits.size(); ++i) hits.push_back(hitJson(i, facts->hits[i], s.track));
  for (const AlignWay& w : ways->ways) list.push_back(wayJson(w));
  Json j = {{"session", o.kick}, {"now_db", number(ways->nowDb)}, {"unmoved_db", number(ways->unmovedDb)}};
  j["ways"] = list;
  j["stands"] = ways->ways.empty() ? Json(nullptr) : standsJson(ways->stands);
  j["elsewhere"] = ways->elsewhere.empty() ? Json(nullptr) : Json(ways->elsewhere);
  j["hits"] = hits;
  j["applied"] = applies ? Json(ways->ways[0].name) : Json(nullptr);
  j["output"] = o.apply ? Json(o.output) : Json(nullptr);
  j["warnings"] = Json::array();
  for (const auto& w : opened->warnings) j["warnings"].push_back(w);
  return j;
}

namespace {

Result<AlignQuestion> questionOf(const AlignOptions& o) {
  const AlignQuestion q;
  const auto low = numberOption("--low", o.low, rangeOf<AlignMove>("low_hz"), q.lowHz),
             high = numberOption("--high", o.high, rangeOf<AlignMove>("high_hz"), q.highHz),
             most =
                 numberOption("--max-delay-ms", o.maxDelayMs, rangeOf<AlignMove>("max_delay_ms"), q.maxDelayMs);
  for (const auto* r : {&low, &high, &most})
    if (!*r) return Fail(r->error());
  if (*low >= *high)
    return badUsage("--low: " + formatNumber(*low, 2) + " Hz is not below --high " + formatNumber(*high, 2) +
                    " Hz");
  return AlignQuestion{*low, *high, *most};
}

Json answerJson(const AlignAnswer& answer, double samples, bool rotates) {
  Json j = {{"delay_ms", number(answer.delayMs)},
            {"invert", answer.invert},
            {"before_db", nullptr},
            {"after_db", nullptr},
            {"samples", number(samples)}};
  if (answer.overlap) j["before_db"] = number(answer.beforeDb), j["after_db"] = number(answer.afterDb);
  if (rotates) j["rotation"] = rotationJson(answer.rotation);
  j["warnings"] = Json::array();
  if (!answer.overlap) j["warnings"].push_back("kick and bass never sound together in this band");
  return j;
}

}  // namespace

Result<Json> align(const AlignOptions& o) {
  if (o.perNote) return badUsage("--per-note needs a session: two sounds have no notes");
  if (o.apply) return badUsage("--apply needs a session: for two sounds use -o");
  const auto asked = questionOf(o);
  if (!asked) return Fail(asked.error());
  const AlignQuestion& q = *asked;
  const auto kick = loadSound(o.kick), bass = loadSound(o.bass);
  if (!kick) return Fail(kick.error());
  if (!bass) return Fail(bass.error());
  const double rate = kick->sound->sampleRate;
  const auto converted = resampled(*bass->sound, rate);
  if (!converted) return unreadable(o.bass, converted.error().reason);
  const auto k = monoFold(*kick->sound), b = monoFold(*converted);
  AlignFreedom freedom;
  freedom.stages = o.rotate ? 2 : 0;
  const auto answer =
      solveAlignment({alignCurve({k, b}, rate, q), crossSpectrum({k, b}, rate, q), rate}, freedom);
  const double samples = answer.delayMs / 1000.0 * rate;
  if (!o.output.empty()) {
    AudioBuffer out = moved(*converted, samples, answer.invert);
    rotate(out, answer.rotation);
    if (auto saved = saveSound(out, o.output, SampleFormat::WavFloat); !saved) return Fail(saved.error());
  }
  return answerJson(answer, samples, o.rotate);
}

}  // namespace heft::cli
