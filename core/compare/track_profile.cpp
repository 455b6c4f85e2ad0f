#include "core/compare/track_profile.h"

#include <algorithm>
#include <cmath>

#include "core/compare/beat_grid.h"
#include "core/compare/kick_in_mix.h"
#include "core/compare/section_profile.h"
#include "core/measure/events/key_finding.h"
#include "core/measure/levels/loudness.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kLowHz = 120.0, kLowestLowDb = -120.0;
constexpr double kBars = 8.0, kSecondsWithout = 16.0;  // what is proposed, with and without a beat
constexpr double kExcerptSeconds = 60.0;
constexpr size_t kLooks = 65536;  // frames between looks at a stop

std::vector<float> peaksOf(const AudioBuffer& track, const std::stop_token& stop) {
  const auto step = static_cast<size_t>(std::lround(TrackProfile::kStepSeconds * track.sampleRate));
  std::vector<float> out(track.frames() / step + 1, 0.0f);
  for (size_t k = 0; k < out.size() && !stop.stop_requested(); ++k)
    for (const auto& channel : track.channels)
      for (size_t i = k * step; i < std::min(channel.size(), (k + 1) * step); ++i)
        out[k] = std::max(out[k], std::abs(channel[i]));
  return out;
}

// Every few frames summed: what folds back is far above the low band and 20 dB and more below it.
std::vector<double> slowMid(const AudioBuffer& track, double& rate, const std::stop_token& stop) {
  const auto factor = static_cast<size_t>(std::max(1.0, std::floor(track.sampleRate / 4000.0)));
  rate = track.sampleRate / static_cast<double>(factor);
  std::vector<double> out(track.frames() / factor, 0.0);
  const double each = 1.0 / static_cast<double>(factor * track.channelCount());
  for (const auto& channel : track.channels)
    for (size_t i = 0; i < out.size() && (i % kLooks != 0 || !stop.stop_requested()); ++i)
      for (size_t k = i * factor; k < (i + 1) * factor; ++k) out[i] += each * static_cast<double>(channel[k]);
  return out;
}

std::vector<float> lowLevels(const AudioBuffer& track, const std::stop_token& stop) {
  double rate = 1.0;
  auto x = slowMid(track, rate, stop);
  std::array<Biquad, 2> low;
  for (Biquad& b : low) b = Biquad(Biquad::lowPass(rate, kLowHz, 0.7071));
  const double step = TrackProfile::kStepSeconds * rate;
  std::vector<double> power(static_cast<size_t>(static_cast<double>(x.size()) / step) + 1, 0.0);
  for (size_t i = 0; i < x.size() && (i % kLooks != 0 || !stop.stop_requested()); ++i) {
    const double y = low[1].process(low[0].process(x[i]));
    power[static_cast<size_t>(static_cast<double>(i) / step)] += y * y / step;
  }
  std::vector<float> out;
  for (const double p : power) out.push_back(static_cast<float>(dbFromPower(p, kLowestLowDb)));
  return out;
}

double meanLowDb(const TrackProfile& t, double from, double to) {
  double sum = 0.0;
  size_t count = 0;
  for (auto i = static_cast<size_t>(std::max(0.0, std::round(from / TrackProfile::kStepSeconds)));
       i < t.lowDb.size() && static_cast<double>(i) < std::round(to / TrackProfile::kStepSeconds); ++i, ++count)
    sum += std::pow(10.0, 0.1 * static_cast<double>(t.lowDb[i]));
  return count ? dbFromPower(sum / static_cast<double>(count), kLowestLowDb) : kLowestLowDb;
}

// Moments at which a section may start.
std::vector<double> cutsOf(const TrackProfile& t) {
  constexpr double kStep = 2.0;
  std::vector<double> out;
  const double step = t.grid ? t.grid->secondsPerBar() : kStep;
  double at = t.grid ? std::fmod(t.grid->firstBeatSeconds, step) : 0.0;
  for (; at < t.seconds - 0.25 * step; at += step) out.push_back(at);
  return out;
}

std::optional<Key> keyOf(const AudioBuffer& excerpt, double& confidence, const std::stop_token& stop) {
  constexpr double kLeastConfidence = 0.15;
  const auto found = findKey(excerpt, 440.0, stop);
  if (!found || found->ranked.empty() || found->confidence < kLeastConfidence) return std::nullopt;
  confidence = found->confidence;
  return found->ranked.front().key;
}

}  // namespace

Stretch mostLowEnd(const TrackProfile& t) {
  const double length = t.grid ? kBars * t.grid->secondsPerBar() : kSecondsWithout;
  Stretch best{"", 0.0, t.seconds, meanLowDb(t, 0.0, t.seconds)};
  if (t.seconds <= length) return best;
  best.lowDb = -1e9;
  constexpr double kSlack = 0.05;  // of a bar that the file cuts
  for (const double from : cutsOf(t)) {
    if (from + length > t.seconds + kSlack) break;
    const double db = meanLowDb(t, from, from + length);
    if (db > best.lowDb + 1e-3) best = {"", from, std::min(t.seconds, from + length), db};
  }
  if (best.lowDb < -1e8) best = {"", 0.0, length, meanLowDb(t, 0.0, length)};
  return best;
}

std::vector<Stretch> stretchesOf(const TrackProfile& t) {
  constexpr double kBelowDb = 9.0, kSilenceDb = -70.0;
  constexpr size_t kLeastCuts = 2;
  const double there = std::max(kSilenceDb, mostLowEnd(t).lowDb - kBelowDb);
  auto cuts = cutsOf(t);
  if (cuts.empty() || cuts.front() > 0.25 * (t.grid ? t.grid->secondsPerBar() : 2.0))
    cuts.insert(cuts.begin(), 0.0);
  cuts.front() = 0.0;
  cuts.push_back(t.seconds);
  struct Run {
    bool low;
    size_t from, to;
  };
  std::vector<Run> runs;
  for (size_t i = 0; i + 1 < cuts.size(); ++i) {
    const bool low = meanLowDb(t, cuts[i], cuts[i + 1]) >= there;
    if (runs.empty() || runs.back().low != low) runs.push_back({low, i, i});
    runs.back().to = i + 1;
  }
  // A fill of one bar belongs to what is around it.
  for (size_t i = 1; i + 1 < runs.size();)
    if (runs[i].to - runs[i].from < kLeastCuts) {
      runs[i - 1].to = runs[i + 1].to;
      runs.erase(runs.begin() + static_cast<ptrdiff_t>(i), runs.begin() + static_cast<ptrdiff_t>(i) + 2);
    } else {
      ++i;
    }
  std::vector<Stretch> out;
  for (size_t i = 0; i < runs.size(); ++i) {
    const char* name = runs.size() == 1       ? "whole track"
                       : runs[i].low          ? "drop"
                       : i == 0               ? "intro"
                       : i + 1 == runs.size() ? "outro"
                                              : "break";
    const double from = cuts[runs[i].from], to = cuts[runs[i].to];
    out.push_back({name, from, to, meanLowDb(t, from, to)});
  }
  return out;
}

Result<TrackProfile> profileTrack(const AudioBuffer& track, const std::stop_token& stop) {
  TrackProfile out;
  out.seconds = track.seconds();
  const auto loudness = measureLoudness(track, false, stop);
  if (!loudness) return Fail(loudness.error());
  out.integratedLufs = loudness->integratedLufs;
  if (stop.stop_requested()) return cancelled();
  if (track.frames() == 0) return out;
  out.peak = peaksOf(track, stop);
  out.lowDb = lowLevels(track, stop);
  if (!out.integratedLufs || stop.stop_requested())
    return stop.stop_requested() ? Result<TrackProfile>(cancelled()) : out;
  const Stretch most = mostLowEnd(out);
  const double middle = 0.5 * (most.fromSeconds + most.toSeconds);
  const double from =
      std::clamp(middle - 0.5 * kExcerptSeconds, 0.0, std::max(0.0, out.seconds - kExcerptSeconds));
  const AudioBuffer excerpt = stretchOf(track, from, from + kExcerptSeconds);
  out.key = keyOf(excerpt, out.keyConfidence, stop);
  if (stop.stop_requested()) return cancelled();
  if (const auto kick = findKick(lowEndPartsOf(excerpt), stop))
    out.grid = findGrid(excerpt, from, kick->hits, out.lowDb);
  if (stop.stop_requested()) return cancelled();
  return out;
}

namespace {

constexpr const char kMagic[] = "heft track 1\n";

void put(std::string& out, double v) {
  out.append(reinterpret_cast<const char*>(&v), sizeof v);
}

struct Unpacker {
  const std::string& bytes;
  size_t at = sizeof kMagic - 1;
  bool good = true;
  double number() {
    double v = 0.0;
    good = good && at + sizeof v <= bytes.size();
    if (good) bytes.copy(reinterpret_cast<char*>(&v), sizeof v, at), at += sizeof v;
    good = good && std::isfinite(v);
    return good ? v : 0.0;
  }
  std::vector<float> list(double most) {
    const double count = number();
    good = good && count >= 0.0 && count <= most && at + 4 * static_cast<size_t>(count) <= bytes.size();
    std::vector<float> out(good ? static_cast<size_t>(count) : 0);
    if (good) bytes.copy(reinterpret_cast<char*>(out.data()), 4 * out.size(), at), at += 4 * out.size();
    good = good && std::all_of(out.begin(), out.end(), [](float v) { return std::isfinite(v); });
    return out;
  }
};

}  // namespace

std::string packed(const TrackProfile& t) {
  std::string out = kMagic;
  for (const double v :
       {t.seconds, t.integratedLufs ? 1.0 : 0.0, t.integratedLufs.value_or(0.0), t.grid ? 1.0 : 0.0,
        t.grid ? t.grid->bpm : 0.0, t.grid ? t.grid->firstBeatSeconds : 0.0, t.grid ? t.grid->confidence : 0.0,
        t.key ? 1.0 : 0.0, t.key ? t.key->tonic : 0.0, t.key ? static_cast<double>(t.key->mode) : 0.0,
        t.keyConfidence})
    put(out, v);
  for (const auto* list : {&t.peak, &t.lowDb}) {
    put(out, static_cast<double>(list->size()));
    out.append(reinterpret_cast<const char*>(list->data()), 4 * list->size());
  }
  return out;
}

std::optional<TrackProfile> unpackedTrack(const std::string& bytes) {
  constexpr double kMostSteps = 36000.0;
  if (bytes.rfind(kMagic, 0) != 0) return std::nullopt;
  Unpacker in{bytes};
  TrackProfile out;
  out.seconds = in.number();
  const bool loud = in.number() != 0.0;
  const double lufs = in.number();
  if (loud) out.integratedLufs = lufs;
  const bool beat = in.number() != 0.0;
  const BeatGrid grid{in.number(), in.number(), in.number()};
  if (beat) out.grid = grid;
  const bool keyed = in.number() != 0.0;
  const double tonic = in.number(), mode = in.number();
  in.good = in.good && tonic >= 0.0 && tonic <= 11.0 && mode >= 0.0 && mode < kAllModes.size();
  if (in.good && keyed) out.key = Key{static_cast<int>(tonic), static_cast<Mode>(static_cast<int>(mode))};
  out.keyConfidence = in.number();
  out.peak = in.list(kMostSteps), out.lowDb = in.list(kMostSteps);
  const bool whole = in.good && in.at == bytes.size() && out.seconds >= 0.0 &&
                     (!out.grid || (out.grid->bpm >= 20.0 && out.grid->bpm <= 400.0));
  return whole ? std::optional(out) : std::nullopt;
}

}  // namespace heft
