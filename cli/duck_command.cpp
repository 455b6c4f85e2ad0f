// duck: one sound lowered by the hits, or the level, of others.

#include <algorithm>
#include <cmath>
#include <utility>

#include "cli/duck_inputs.h"
#include "core/duck/apply.h"
#include "core/duck/follower.h"
#include "core/duck/gain_files.h"
#include "core/duck/mirror.h"
#include "core/sound/whole_file.h"
#include "core/theory/text.h"

namespace heft::cli {
namespace {

AudioBuffer ofOneChannel(std::vector<float> x, double rate) {
  AudioBuffer out;
  out.sampleRate = rate;
  out.channels = {std::move(x)};
  return out;
}

std::vector<float> folded(const AudioBuffer& x) {
  const auto mono = monoFold(x);
  return {mono.begin(), mono.end()};
}

// Silence before and after, so that a mirror has its surroundings.
std::vector<float> padded(const std::vector<float>& x, size_t by) {
  std::vector<float> out(by, 0.0f);
  out.insert(out.end(), x.begin(), x.end());
  out.resize(out.size() + by, 0.0f);
  return out;
}

std::vector<float> followed(DuckNumbers& n, const std::vector<float>& heard, double rate) {
  Follower& f = n.follower;
  if (!n.thresholdGiven) {
    f.thresholdDb = thresholdTaking(f, heard, rate, std::exchange(f.deepestDb, kSilentDepthDb));
  }
  std::vector<float> ahead(
      heard.begin() + static_cast<ptrdiff_t>(std::min(heard.size(), lookaheadFrames(f, rate))), heard.end());
  ahead.resize(heard.size(), 0.0f);
  std::vector<float> gain(heard.size());
  FollowerState rest;
  followLevel(f, ahead, rate, rest, gain);
  return gain;
}

std::vector<float> mirrored(const DuckNumbers& n, const HeardTriggers& heard, const AudioBuffer& bass) {
  const double rate = bass.sampleRate;
  const auto reach = mirrorReach(rate);
  const LowPart lows(rate, n.mirror.belowHz, bass.frames());
  const auto source = heard.isEnvelope ? heard.sound : lows.of(heard.sound, false);
  return mirrorGain(n.mirror, padded(source, reach), padded(lows.of(folded(bass), false), reach), rate);
}

std::vector<float> gainOf(DuckNumbers& n, const HeardTriggers& heard, const AudioBuffer& bass) {
  std::vector<float> out;
  if (n.method == "drawn")
    out = drawnGain(n.dip, heard.triggers, bass.sampleRate, bass.frames(), false);
  else if (n.method == "follow")
    out = followed(n, heard.sound, bass.sampleRate);
  else
    out = mirrored(n, heard, bass);
  for (float& g : out) g = atShare(g, n.amount);
  return out;
}

struct Output {
  std::string path, bytes;
};

Result<void> addSound(std::vector<Output>& to, const std::string& path, const AudioBuffer& sound) {
  auto bytes = encodeSound(sound, SampleFormat::WavFloat);
  if (!bytes) return unwritable(path, bytes.error().reason);
  to.push_back({path, std::move(*bytes)});
  return {};
}

// All of them, or none.
Result<void> writeAll(const std::vector<Output>& outputs) {
  std::vector<FileBytes> files;
  for (const Output& output : outputs) files.push_back({output.path, &output.bytes});
  return writeAllWhole(files);
}

// Warns about settings that could not be met.
void tellFaults(const DuckNumbers& n, const HeardTriggers& heard, const DipFacts& facts,
                const AudioBuffer& bass, Json& warnings) {
  for (const std::string& w : heard.warnings) warnings.push_back(w);
  if (heard.triggers.empty() && n.method == "drawn") warnings.push_back("no hit triggers: no ducking");
  double shortest = 1e12;
  for (size_t i = 1; i < heard.triggers.size(); ++i)
    shortest = std::min(shortest, heard.triggers[i].frame - heard.triggers[i - 1].frame);
  const double attack = n.method == "follow" ? n.follower.attackMs : n.dip.attackMs;
  if (n.method != "mirror" && shortest / bass.sampleRate * 1000.0 < attack)
    warnings.push_back("hits come closer than the attack: some never reach the depth");
  if (n.method == "drawn" && !n.dip.hasPoints() && n.dip.holdMs + n.dip.returnMs <= 0.0)
    warnings.push_back("hold and release are zero: each hit clears next to nothing");
  if (n.method == "follow" && facts.depthDb > -0.5)
    warnings.push_back("nothing heard comes over the threshold of " + formatNumber(n.follower.thresholdDb, 1) +
                       " dBFS, so nothing ducks");
}

void tellAlwaysDown(const DuckNumbers& n, std::span<const float> gain, Json& warnings) {
  constexpr float kHalfADb = 0.94406f;
  const auto up = std::count_if(gain.begin(), gain.end(), [](float g) { return g > kHalfADb; });
  if (n.method == "follow" && !gain.empty() && up * 50 < std::ssize(gain))
    warnings.push_back("the level is over the threshold all along: the gain hardly ever comes back");
}

}  // namespace

Result<Json> duck(const DuckOptions& o) {
  auto n = understood(o);
  if (!n) return Fail(n.error());
  const auto loaded = loadSound(o.bass);
  if (!loaded) return Fail(loaded.error());
  const AudioBuffer& bass = *loaded->sound;
  const auto heard = hearTriggers(o, *n, bass);
  if (!heard) return Fail(heard.error());
  if (const auto fault = placeBell(*n, *heard); !fault) return Fail(fault.error());
  const auto gain = gainOf(*n, *heard, bass);
  const auto facts = measureDip(gain, heard->triggers, bass.sampleRate);
  std::vector<Output> outputs;
  if (auto done = addSound(outputs, o.output, ducked(bass, gain, n->band, false)); !done)
    return Fail(done.error());
  if (!o.curve.empty()) outputs.push_back({o.curve, gainCsv(gain, bass.sampleRate)});
  Json midi;
  if (!o.midi.empty()) {
    auto made = gainMidi(gain, bass.sampleRate, n->tempoBpm, n->midi);
    midi = {{"values", made.values}, {"error_db", number(made.errorDb, 3)}};
    outputs.push_back({o.midi, std::move(made.bytes)});
  }
  if (!o.signal.empty())
    if (auto done = addSound(outputs, o.signal, ofOneChannel(gain, bass.sampleRate)); !done)
      return Fail(done.error());
  if (!o.triggersCsv.empty()) outputs.push_back({o.triggersCsv, triggersCsv(heard->triggers, bass.sampleRate)});
  if (!o.triggersMidi.empty())
    outputs.push_back({o.triggersMidi, triggersMidi(heard->triggers, bass.sampleRate, n->tempoBpm)});
  if (auto done = writeAll(outputs); !done) return Fail(done.error());
  Json times = Json::array(), warnings = Json::array();
  for (const Trigger& t : heard->triggers) times.push_back(number(1000.0 * t.frame / bass.sampleRate, 3));
  tellFaults(*n, *heard, facts, bass, warnings);
  tellAlwaysDown(*n, gain, warnings);
  Json out = {
      {"triggers_ms", times}, {"depth_db", number(facts.depthDb, 3)}, {"return_ms", number(facts.returnMs, 3)},
      {"fired", facts.fired}, {"doubtful", heard->doubtful},          {"warnings", warnings}};
  if (n->method == "follow") out["threshold_db"] = number(n->follower.thresholdDb, 2);
  if (n->band.kind == DuckBandKind::Bell) out["bell_hz"] = number(n->band.bellHz, 3);
  if (!midi.is_null()) out["midi"] = midi;
  return out;
}

}  // namespace heft::cli
