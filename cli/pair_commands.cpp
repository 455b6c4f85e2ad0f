// align, duck: kick and bass together.

#include <cmath>

#include "cli/commands.h"
#include "core/align/align.h"
#include "core/duck/apply.h"
#include "core/duck/detector.h"
#include "core/duck/gain_curve.h"
#include "core/sound/audio_file.h"
#include "core/sound/interpolate.h"
#include "core/sound/resample.h"
#include "core/theory/text.h"
#include "core/theory/time_value.h"

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

}  // namespace

Result<Json> align(const AlignOptions& o) {
  AlignQuestion q;
  const auto low = numberOption("--low", o.low, 10, 990, q.lowHz),
             high = numberOption("--high", o.high, 11, 1000, q.highHz),
             most = numberOption("--max-delay-ms", o.maxDelayMs, 0, 200, q.maxDelayMs);
  for (const auto* r : {&low, &high, &most})
    if (!*r) return Fail(r->error());
  if (*low >= *high)
    return badUsage("--low: " + formatNumber(*low, 2) + " Hz is not below --high " + formatNumber(*high, 2) +
                    " Hz");
  q = {*low, *high, *most};
  const auto kick = loadSound(o.kick), bass = loadSound(o.bass);
  if (!kick) return Fail(kick.error());
  if (!bass) return Fail(bass.error());
  const double rate = kick->sound->sampleRate;
  const auto converted = resampled(*bass->sound, rate);
  if (!converted) return unreadable(o.bass, converted.error().reason);
  const auto k = monoFold(*kick->sound), b = monoFold(*converted);
  const auto answer = bestAlignment(alignCurve({k, b}, rate, q));
  const double samples = answer.delayMs / 1000.0 * rate;
  if (!o.output.empty())
    if (auto saved = saveSound(moved(*converted, samples, answer.invert), o.output, SampleFormat::WavFloat);
        !saved)
      return Fail(saved.error());
  Json j = {{"delay_ms", number(answer.delayMs)},
            {"invert", answer.invert},
            {"before_db", nullptr},
            {"after_db", nullptr},
            {"samples", number(samples)}};
  if (answer.overlap) j["before_db"] = number(answer.beforeDb), j["after_db"] = number(answer.afterDb);
  j["warnings"] = Json::array();
  if (!answer.overlap) j["warnings"].push_back("kick and bass never sound together in this band");
  return j;
}

namespace {

struct DuckNumbers {
  DrawnDip dip;
  double crossoverHz = 0.0;
  DetectorOptions detector;
  double tempoBpm = 120.0;
  int controller = kGainController;
};

Result<DuckNumbers> understood(const DuckOptions& o) {
  DuckNumbers out;
  if (o.method == "follow" || o.method == "mirror")
    return badUsage("--method " + o.method + " is not available yet: use drawn");
  if (o.method != "drawn") return badUsage("--method: \"" + o.method + "\" is not follow, drawn or mirror");
  const auto depth = numberOption("--depth-db", o.depth, 0, 120),
             attack = numberOption("--attack-ms", o.attack, 0, 1000, 2.0),
             hold = numberOption("--hold-ms", o.hold, 0, 10000, 34.0);
  const auto release = numberOption("--release-ms", o.release, 0, 10000, 85.0),
             crossover = numberOption("--crossover", o.crossover, 30, 1000, 0.0),
             cut = numberOption("--trigger-highcut", o.highCut, 20, 1000, out.detector.highCutHz);
  for (const auto* r : {&depth, &attack, &hold, &release, &crossover, &cut})
    if (!*r) return Fail(r->error());
  if (!o.tempo.empty()) {
    const auto tempo = parseTempo(o.tempo);
    if (!tempo) return badUsage("--tempo: " + tempo.error().reason);
    out.tempoBpm = *tempo;
  }
  const auto controller = numberOption("--controller", o.controller, 0, 119, out.controller);
  if (!controller) return Fail(controller.error());
  if (*controller != std::floor(*controller)) return badUsage("--controller: is not a whole number");
  if (o.midi.empty() && !(o.tempo.empty() && o.controller.empty()))
    return badUsage("--tempo and --controller are of the MIDI file: name --midi too");
  out.controller = static_cast<int>(*controller);
  out.dip = {*depth, *attack, *hold, *release};
  out.crossoverHz = *crossover;
  out.detector.highCutHz = *cut;
  return out;
}

}  // namespace

Result<Json> duck(const DuckOptions& o) {
  const auto n = understood(o);
  if (!n) return Fail(n.error());
  const auto bass = loadSound(o.bass), trigger = loadSound(o.trigger);
  if (!bass) return Fail(bass.error());
  if (!trigger) return Fail(trigger.error());
  const double rate = bass->sound->sampleRate;
  const auto hits = findHits(*trigger->sound, n->detector);
  std::vector<double> frames;
  Json times = Json::array();
  for (double t : hits) frames.push_back(t * rate), times.push_back(number(1000.0 * t, 3));
  const auto gain = drawnGain(n->dip, frames, rate, bass->sound->frames(), false);
  const auto facts = measureDip(gain, frames, rate);
  struct Output {
    const std::string& path;
    std::string bytes;
  };
  auto sound = encodeSound(ducked(*bass->sound, gain, n->crossoverHz, false), SampleFormat::WavFloat);
  if (!sound) return unwritable(o.output, sound.error().reason);
  std::vector<Output> outputs = {{o.output, std::move(*sound)}};
  if (!o.curve.empty()) outputs.push_back({o.curve, gainCsv(gain, rate)});
  if (!o.midi.empty()) outputs.push_back({o.midi, gainMidi(gain, rate, n->tempoBpm, n->controller)});
  for (size_t i = 0; i < outputs.size(); ++i)
    if (auto wrote = writeWhole(outputs[i].path, outputs[i].bytes); !wrote) {
      for (size_t k = 0; k < i; ++k) std::remove(outputs[k].path.c_str());
      return Fail(wrote.error());
    }
  Json warnings = Json::array();
  if (hits.empty())
    warnings.push_back("no hit was found in the trigger below " + formatNumber(n->detector.highCutHz, 0) +
                       " Hz, so nothing ducks");
  return Json{{"triggers_ms", times},
              {"depth_db", number(facts.depthDb, 3)},
              {"return_ms", number(facts.returnMs, 3)},
              {"fired", facts.fired},
              {"warnings", warnings}};
}

}  // namespace heft::cli
