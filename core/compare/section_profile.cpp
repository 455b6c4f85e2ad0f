#include "core/compare/section_profile.h"

#include <algorithm>
#include <cmath>

#include "core/compare/curves.h"
#include "core/measure/levels/k_weighting.h"
#include "core/measure/levels/loudness.h"
#include "core/measure/levels/power_spectrum.h"
#include "core/sound/fft.h"
#include "core/sound/filter.h"
#include "core/sound/raised_cosine.h"

namespace heft {
namespace {

constexpr double kQuietestDb = -120.0;
constexpr double kGateBlockSeconds = 0.4,
                 kGateHopSeconds = 0.1;  // ITU-R BS.1770-4: 400 ms, three quarters overlap

// K-weighted power of each hop, summed over channels; mono counts twice, as it is played.
std::vector<double> hopPowers(const AudioBuffer& sound) {
  const auto hop = static_cast<size_t>(std::lround(kGateHopSeconds * sound.sampleRate));
  std::vector<double> out(sound.frames() / std::max<size_t>(1, hop), 0.0);
  const size_t channels = std::min<size_t>(2, sound.channelCount());
  for (size_t c = 0; c < channels; ++c) {
    std::array<Biquad, 2> filters;
    const auto weighting = kWeighting(sound.sampleRate);
    for (size_t i = 0; i < 2; ++i) filters[i] = Biquad(weighting[i]);
    const auto& x = sound.channels[c];
    for (size_t h = 0; h < out.size(); ++h)
      for (size_t i = h * hop; i < (h + 1) * hop; ++i) {
        const double y = filters[1].process(filters[0].process(x[i]));
        out[h] += y * y / static_cast<double>(hop) * (channels == 1 ? 2.0 : 1.0);
      }
  }
  return out;
}

// Mean squares of the blocks that start at each hop.
std::vector<double> blockPowers(const AudioBuffer& sound) {
  constexpr size_t kHops = 4;
  const auto hops = hopPowers(sound);
  std::vector<double> out;
  for (size_t h = 0; h + kHops <= hops.size(); ++h)
    out.push_back((hops[h] + hops[h + 1] + hops[h + 2] + hops[h + 3]) / kHops);
  return out;
}

// Of one block: power in each 1/24 octave re the loudness, smoothed.
std::vector<double> blockCurve(const LowEndParts& low, size_t from, const std::vector<double>& taper,
                               double lufs, RealFft& fft) {
  const size_t count = taper.size();
  PowerSpectrum both{std::vector<double>(fft.size() / 2 + 1, 0.0), low.rate / static_cast<double>(fft.size())};
  for (const auto* x : {&low.mid, &low.side}) {
    if (x->empty()) continue;
    std::fill(fft.time().begin(), fft.time().end(), 0.0);
    const size_t end = std::min(x->size(), from + count);
    for (size_t i = from; i < end; ++i) {
      // Hann squared has a mean of 3/8.
      fft.time()[i - from] = (*x)[i] * taper[i - from] / std::sqrt(0.375);
    }
    fft.forward();
    const double scale = 2.0 / (static_cast<double>(fft.size()) * static_cast<double>(count));
    for (size_t k = 0; k < both.power.size(); ++k) both.power[k] += std::norm(fft.bins()[k]) * scale;
  }
  const double edge = std::pow(10.0, 0.3 / 48.0);
  std::vector<double> db;
  for (const double hz : profileHz())
    db.push_back(dbFromPower(2.0 * both.between(hz / edge, hz * edge), kQuietestDb) - lufs);
  return smoothedCurve(db);
}

OverTime overTimeOf(const AudioBuffer& sound, const LowEndParts& low, double lufs,
                    const std::stop_token& stop) {
  OverTime out;
  const auto count = static_cast<size_t>(kGateBlockSeconds * low.rate);
  if (count == 0) return out;
  const auto taper = hannWindow(count);
  RealFft fft(sharedSize(4 * count));
  std::vector<std::vector<double>> perBand(profileHz().size());
  for (const size_t h : gatedBlocks(blockPowers(sound))) {
    if (stop.stop_requested()) return {};
    const auto from = static_cast<size_t>(std::lround(static_cast<double>(h) * kGateHopSeconds * low.rate));
    const auto curve = blockCurve(low, from, taper, lufs, fft);
    for (size_t i = 0; i < curve.size(); ++i) perBand[i].push_back(curve[i]);
  }
  if (perBand.front().empty()) return out;
  for (auto& values : perBand) {
    out.low.push_back(percentile(values, 0.1));
    out.middle.push_back(percentile(values, 0.5));
    out.high.push_back(percentile(values, 0.9));
  }
  return out;
}

ByNote byNoteOf(const LowEndParts& low, double lufs) {
  constexpr double kWindowSeconds = 2.8;  // resolves a semitone from 30 Hz on
  PowerSpectrum both = powerSpectrum(low.mid, low.rate, low.wraps, kWindowSeconds);
  if (!low.side.empty()) {
    const auto side = powerSpectrum(low.side, low.rate, low.wraps, kWindowSeconds);
    for (size_t k = 0; k < both.power.size(); ++k) both.power[k] += side.power[k];
  }
  ByNote out;
  const int last = (ByNote::kHighestMidi - ByNote::kLowestMidi) * ByNote::kPerSemitone;
  auto hzAt = [](double steps) {
    return 440.0 * std::exp2((ByNote::kLowestMidi + steps / ByNote::kPerSemitone - 69.0) / 12.0);
  };
  for (int i = 0; i <= last; ++i)
    out.db.push_back(dbFromPower(2.0 * both.between(hzAt(i - 0.5), hzAt(i + 0.5)), kQuietestDb) - lufs);
  return out;
}

std::vector<double> channelHalves(const AudioBuffer& sound, bool side) {
  const auto& left = sound.channels.front();
  const auto& right = sound.channels[sound.channelCount() > 1 ? 1 : 0];
  std::vector<double> out(left.size());
  for (size_t i = 0; i < out.size(); ++i)
    out[i] = 0.5 * (static_cast<double>(left[i]) + (side ? -1.0 : 1.0) * static_cast<double>(right[i]));
  return out;
}

StereoWidth widthOf(const AudioBuffer& sound, bool wraps) {
  constexpr double kWindowSeconds = 0.7;
  constexpr int kLowest = -34, kHighest = 24;  // 20 Hz to 16 kHz
  const PowerSpectrum mid = powerSpectrum(channelHalves(sound, false), sound.sampleRate, wraps, kWindowSeconds);
  const bool stereo = sound.channelCount() > 1;
  const PowerSpectrum side =
      stereo ? powerSpectrum(channelHalves(sound, true), sound.sampleRate, wraps, kWindowSeconds)
             : PowerSpectrum();
  StereoWidth out;
  const double edge = std::pow(10.0, 0.3 / 12.0);
  for (int x = kLowest; x < kHighest; ++x) {
    // IEC 61260-1, even designator b = 6.
    const double hz = 1000.0 * std::pow(10.0, 0.3 * (2 * x + 1) / 12.0);
    if (hz * edge > 0.45 * sound.sampleRate) break;
    out.bands.push_back(
        {hz, mid.between(hz / edge, hz * edge), stereo ? side.between(hz / edge, hz * edge) : 0.0});
  }
  return out;
}

}  // namespace

double ByNote::semitoneDb(double midi) const {
  double power = 0.0;
  const double at = (midi - kLowestMidi) * kPerSemitone, half = 0.5 * kPerSemitone;
  // A quarter counts by its share within the semitone.
  for (ptrdiff_t i = 0; i < std::ssize(db); ++i) {
    const double from = std::max(at - half, static_cast<double>(i) - 0.5),
                 to = std::min(at + half, static_cast<double>(i) + 0.5);
    if (to > from) power += (to - from) * std::pow(10.0, db[static_cast<size_t>(i)] / 10.0);
  }
  return dbFromPower(power, kQuietestDb);
}

double StereoWidth::Band::sideDb() const {
  if (!(side > 0.0)) return kQuietestDb;
  return std::clamp(dbFromPower(side) - dbFromPower(mid), kQuietestDb, -kQuietestDb);
}

double StereoWidth::Band::lossDb() const {
  return mid + side > 0.0 ? dbFromPower(mid / (mid + side), kQuietestDb) : 0.0;
}

bool StereoWidth::sounds(const Band& band) const {
  constexpr double kLeast = 1e-6;
  double whole = 0.0;
  for (const Band& each : bands) whole += each.mid + each.side;
  return whole > 0.0 && band.mid + band.side >= kLeast * whole;
}

std::optional<double> StereoWidth::sideBelowDb(double hz) const {
  const double edge = std::pow(10.0, 0.3 / 12.0);
  Band all;
  for (const Band& b : bands) {
    // A band that the frequency cuts counts by its share, along the logarithm.
    const double share = std::clamp(std::log(hz / (b.hz / edge)) / (2.0 * std::log(edge)), 0.0, 1.0);
    all.mid += share * b.mid, all.side += share * b.side;
  }
  if (!(all.mid + all.side > 0.0)) return std::nullopt;
  return all.sideDb();
}

std::optional<double> StereoWidth::monoBelowHz() const {
  const double edge = std::pow(10.0, 0.3 / 12.0);
  std::optional<double> out;
  for (const Band& b : bands) {
    if (!sounds(b)) continue;
    if (b.sideDb() > kMonoDb) break;
    out = b.hz * edge;
  }
  return out;
}

AudioBuffer stretchOf(const AudioBuffer& sound, double fromSeconds, double toSeconds) {
  const auto frame = [&](double seconds) {
    return static_cast<size_t>(
        std::clamp(std::round(seconds * sound.sampleRate), 0.0, static_cast<double>(sound.frames())));
  };
  const size_t from = frame(fromSeconds);
  return framesOf(sound, from, std::max(from, frame(toSeconds)) - from);
}

Result<SectionProfile> profileSection(const AudioBuffer& section, bool wraps, const std::stop_token& stop) {
  SectionProfile out;
  out.seconds = section.seconds();
  const auto loudness = measureLoudness(wraps ? repeatedForTheGate(section) : section);
  if (!loudness) return Fail(loudness.error());
  out.facts.integratedLufs = loudness->integratedLufs, out.facts.truePeakDbtp = loudness->truePeakDbtp;
  if (!wraps) out.rangeLu = loudness->rangeLu;
  if (stop.stop_requested()) return cancelled();
  out.low = lowEndPartsOf(section, wraps);
  out.facts.low = lowEndOf(out.low);
  if (section.frames() == 0) return out;
  out.width = widthOf(section.channelCount() > 2 ? stereoOf(section) : section, wraps);
  if (stop.stop_requested()) return cancelled();
  if (!out.facts.integratedLufs) return out;
  out.byNote = byNoteOf(out.low, *out.facts.integratedLufs);
  // A loop may be shorter than a block.
  const AudioBuffer repeated = wraps ? repeatedForTheGate(section) : AudioBuffer();
  out.overTime = wraps ? overTimeOf(repeated, lowEndPartsOf(repeated), *out.facts.integratedLufs, stop)
                       : overTimeOf(section, out.low, *out.facts.integratedLufs, stop);
  if (stop.stop_requested()) return cancelled();
  return out;
}

}  // namespace heft
