#include "core/measure/levels/low_end.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/loudness.h"
#include "core/measure/levels/power_spectrum.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kFloorDb = -120.0, kLowestHz = 20.0;

constexpr double kWindowSeconds = 1.4, kCrestBelowHz = 120.0;

PowerSpectrum spectrumOf(const std::vector<double>& x, const LowEndParts& of) {
  return powerSpectrum(x, of.rate, of.wraps, kWindowSeconds);
}

struct MidSide {
  std::vector<float> mid, side;  // side empty for mono
  double power = 0.0;
};

MidSide midSideOf(const AudioBuffer& buffer) {
  MidSide out;
  const size_t frames = buffer.frames();
  if (buffer.channelCount() == 1) {
    out.mid = buffer.channels[0];
    out.power = 2.0 * energyOf(std::span<const float>(out.mid));
  } else {
    const AudioBuffer folded = buffer.channelCount() > 2 ? stereoOf(buffer) : AudioBuffer();
    const auto& source = buffer.channelCount() > 2 ? folded : buffer;
    const auto& left = source.channels[0];
    const auto& right = source.channels[1];
    out.mid.resize(frames), out.side.resize(frames);
    for (size_t i = 0; i < frames; ++i) {
      out.mid[i] = 0.5f * (left[i] + right[i]);
      out.side[i] = 0.5f * (left[i] - right[i]);
    }
    out.power = energyOf(std::span<const float>(left)) + energyOf(std::span<const float>(right));
  }
  out.power /= static_cast<double>(std::max<size_t>(1, frames));
  return out;
}

double peakOfAll(std::span<const double> x) {
  double peak = 0.0;
  for (const double v : x) peak = std::max(peak, std::abs(v));
  return peak;
}

double crestDb(double peak, double energy, size_t samples) {
  if (!(energy > 0.0)) return 0.0;
  return dbFromAmplitude(peak) - dbFromPower(energy / static_cast<double>(samples));
}

// A loop is decimated with its own end before it and its start after it, and cut back to its length.
std::vector<double> slowed(const std::vector<float>& x, double rate, bool wraps, double& slowRate) {
  if (!wraps) {
    auto slow = decimated(std::span<const float>(x), rate, kLowEndRate);
    slowRate = slow.sampleRate;
    return std::move(slow.samples);
  }
  const auto factor = std::max<size_t>(1, static_cast<size_t>(rate / kLowEndRate));
  const size_t pad = factor * 256;
  std::vector<float> longer(x.size() + 2 * pad);
  for (size_t i = 0; i < longer.size(); ++i)
    longer[i] = x[(i + x.size() * (pad / x.size() + 1) - pad) % x.size()];
  auto slow = decimated(std::span<const float>(longer), rate, kLowEndRate);
  slowRate = slow.sampleRate;
  const auto first = slow.samples.begin() + 256;
  return {first, first + static_cast<ptrdiff_t>((x.size() + factor - 1) / factor)};
}

// Of a band of the curve.
double upperEdge(double hz) {
  return hz * std::pow(10.0, 0.3 / 48.0);
}

// Sums at the edges of the curve, of power as of the channels.
std::vector<double> sumsOf(const PowerSpectrum& spectrum) {
  std::vector<double> out;
  for (const double hz : profileHz()) out.push_back(2.0 * spectrum.between(kLowestHz, upperEdge(hz)));
  return out;
}

double sumAt(const std::vector<double>& sums, double hz) {
  double below = 0.0, from = kLowestHz;
  for (size_t i = 0; i < sums.size(); ++i) {
    const double to = upperEdge(profileHz()[i]);
    if (hz < to) return below + (sums[i] - below) * std::clamp((hz - from) / (to - from), 0.0, 1.0);
    below = sums[i], from = to;
  }
  return below;
}

}  // namespace

const std::vector<double>& profileHz() {
  static const std::vector<double> mids = [] {
    std::vector<double> out;
    // IEC 61260-1, formula for an even designator b = 24: f = 1000 * G^((2x + 1) / 48), G = 10^(3/10).
    for (int x = -140; x < 0; ++x) {
      const double hz = 1000.0 * std::pow(10.0, 0.3 * (2 * x + 1) / 48.0);
      if (hz >= 20.0 && hz <= 500.0) out.push_back(hz);
    }
    return out;
  }();
  return mids;
}

double LowEnd::bandDb(const Band& band) const {
  return totalPower > 0.0 ? dbFromPower(powerIn(band) / totalPower, kFloorDb) : kFloorDb;
}

double LowEnd::powerIn(const Band& band) const {
  for (size_t b = 0; b < kBands.size(); ++b)
    if (kBands[b] == band) return bandPower[b];
  const auto within = [&](const std::vector<double>& sums) {
    return sumAt(sums, band.highHz) - sumAt(sums, band.lowHz);
  };
  return std::max(0.0, within(midBelow) + within(sideBelow));
}

std::optional<double> LowEnd::sideBelowDb(double hz) const {
  if (sideBelow.empty()) return std::nullopt;
  const double mid = sumAt(midBelow, hz), side = sumAt(sideBelow, hz);
  return side > 0.0 ? std::max(kFloorDb, dbFromPower(side) - dbFromPower(mid)) : kFloorDb;
}

namespace {

// `sideSpectrum` is empty for one channel.
LowEnd fromSpectra(const PowerSpectrum& midSpectrum, const PowerSpectrum& sideSpectrum, double power) {
  LowEnd out;
  out.curveDb.assign(profileHz().size(), kFloorDb);
  out.totalPower = power;
  PowerSpectrum both = midSpectrum;
  out.midBelow = sumsOf(midSpectrum);
  if (!sideSpectrum.power.empty()) {
    for (size_t k = 0; k < both.power.size(); ++k) both.power[k] += sideSpectrum.power[k];
    out.sideBelow = sumsOf(sideSpectrum);
    out.sideDbBelow120 = std::max(
        kFloorDb, dbFromPower(sideSpectrum.between(20, 120)) - dbFromPower(midSpectrum.between(20, 120)));
    if (!(midSpectrum.between(20, 120) > 0.0) && !(sideSpectrum.between(20, 120) > 0.0))
      out.sideDbBelow120 = kFloorDb;
  }
  // Mid and side are half sums: the channels' power is twice theirs.
  for (size_t b = 0; b < kBands.size(); ++b)
    out.bandPower[b] = 2.0 * both.between(kBands[b].lowHz, kBands[b].highHz);
  if (out.totalPower > 0.0)
    for (size_t i = 0; i < out.curveDb.size(); ++i)
      out.curveDb[i] = dbFromPower(
          2.0 * both.between(profileHz()[i] / upperEdge(1.0), upperEdge(profileHz()[i])) / out.totalPower,
          kFloorDb);
  return out;
}

}  // namespace

LowEnd lowEndOf(const LowEndParts& parts) {
  if (parts.mid.empty()) {
    LowEnd none;
    none.curveDb.assign(profileHz().size(), kFloorDb);
    return none;
  }
  LowEnd out = fromSpectra(spectrumOf(parts.mid, parts),
                           parts.side.empty() ? PowerSpectrum() : spectrumOf(parts.side, parts), parts.power);
  const auto low = bandLimited(parts.mid, parts.rate, 0.0, kCrestBelowHz);
  out.crestLowDb = crestDb(peakOfAll(low), energyOf(std::span<const double>(low)), low.size());
  return out;
}

namespace {

constexpr int64_t kWindowsAStretch = 16;
constexpr double kCrestAboutSeconds = 0.4;  // leaves out what a stretch's ends do to its band

}  // namespace

LowEndStretches::LowEndStretches(size_t samples, double rate, bool wraps)
    : samples_(static_cast<int64_t>(samples)), rate_(rate), wraps_(wraps) {
  const WindowedPower power(rate, kWindowSeconds);
  size_ = static_cast<int64_t>(power.size()), hop_ = static_cast<int64_t>(power.hop());
}

// A sound's first window has one hop of it; a loop's begins with it.
int64_t LowEndStretches::firstWindow() const {
  return wraps_ ? 0 : hop_ - size_;
}

size_t LowEndStretches::count() const {
  const int64_t windows = (samples_ - firstWindow() + hop_ - 1) / hop_;
  return static_cast<size_t>((windows + kWindowsAStretch - 1) / kWindowsAStretch);
}

LowEndStretches::Reads LowEndStretches::reads(size_t stretch) const {
  const int64_t own = static_cast<int64_t>(stretch) * kWindowsAStretch * hop_,
                about = static_cast<int64_t>(kCrestAboutSeconds * rate_);
  return {std::min(own + firstWindow(), own - about), own + kWindowsAStretch * hop_ + std::max(size_, about)};
}

LowEndStretch LowEndStretches::measured(size_t stretch, std::span<const double> mid,
                                        std::span<const double> side) const {
  const int64_t own = static_cast<int64_t>(stretch) * kWindowsAStretch * hop_, from = reads(stretch).from;
  const auto part = [&](std::span<const double> x, int64_t at, int64_t count) {
    return x.subspan(static_cast<size_t>(at - from), static_cast<size_t>(count));
  };
  LowEndStretch out;
  for (const auto& [x, sums] : {std::pair(mid, &out.mid), std::pair(side, &out.side)}) {
    if (x.empty()) continue;
    WindowedPower power(rate_, kWindowSeconds);
    for (int64_t k = 0; k < kWindowsAStretch; ++k)
      if (const int64_t at = own + firstWindow() + k * hop_; at < samples_) power.add(part(x, at, size_));
    *sums = power.sums();
  }
  const int64_t count = std::min(kWindowsAStretch * hop_, samples_ - own);
  if (count <= 0) return out;
  const auto low = bandLimited(mid, rate_, 0.0, kCrestBelowHz);
  const auto crest = part(low, own, count);
  out.peak = peakOfAll(crest), out.energy = energyOf(crest);
  return out;
}

LowEnd LowEndStretches::together(const std::vector<std::shared_ptr<const LowEndStretch>>& all,
                                 double power) const {
  const auto samples = static_cast<size_t>(samples_);
  LowEndStretch sum;
  const auto addUp = [](std::vector<double>& to, const std::vector<double>& x) {
    to.resize(x.size(), 0.0);
    for (size_t i = 0; i < x.size(); ++i) to[i] += x[i];
  };
  for (const auto& each : all) {
    addUp(sum.mid, each->mid), addUp(sum.side, each->side);
    sum.peak = std::max(sum.peak, each->peak), sum.energy += each->energy;
  }
  const WindowedPower windows(rate_, kWindowSeconds);
  LowEnd out = fromSpectra(windows.meanOf(sum.mid, samples),
                           sum.side.empty() ? PowerSpectrum() : windows.meanOf(sum.side, samples), power);
  out.crestLowDb = crestDb(sum.peak, sum.energy, samples);
  return out;
}

LowEndParts lowEndPartsOf(const AudioBuffer& buffer, bool wraps) {
  LowEndParts parts;
  parts.wraps = wraps;
  if (buffer.frames() == 0) return parts;
  const auto source = midSideOf(buffer);
  parts.power = source.power;
  parts.mid = slowed(source.mid, buffer.sampleRate, wraps, parts.rate);
  if (!source.side.empty()) parts.side = slowed(source.side, buffer.sampleRate, wraps, parts.rate);
  return parts;
}

LowEnd measureLowEnd(const AudioBuffer& buffer, bool wraps) {
  return lowEndOf(lowEndPartsOf(buffer, wraps));
}

AudioBuffer repeatedForTheGate(AudioBuffer loop) {
  constexpr double kGateSeconds = 3.0;
  if (loop.frames() == 0 || loop.seconds() >= kGateSeconds) return loop;
  return repeated(loop, static_cast<int>(std::ceil(kGateSeconds / loop.seconds())));
}

std::optional<double> ProgrammeFacts::bandReLufs(const Band& band) const {
  if (!integratedLufs) return std::nullopt;
  return dbFromPower(low.powerIn(band)) - *integratedLufs;
}

Result<ProgrammeFacts> measureProgramme(const AudioBuffer& buffer, bool wraps, bool withTruePeak) {
  ProgrammeFacts out;
  out.low = measureLowEnd(buffer, wraps);
  const auto loudness = measureLoudness(wraps ? repeatedForTheGate(buffer) : buffer, withTruePeak);
  if (!loudness) return Fail(loudness.error());
  out.integratedLufs = loudness->integratedLufs;
  out.truePeakDbtp = loudness->truePeakDbtp;
  return out;
}

}  // namespace heft
