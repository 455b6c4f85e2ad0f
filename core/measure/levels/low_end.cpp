#include "core/measure/levels/low_end.h"

#include <algorithm>
#include <cmath>

#include "core/measure/levels/loudness.h"
#include "core/measure/levels/power_spectrum.h"
#include "core/sound/filter.h"

namespace heft {
namespace {

constexpr double kFloorDb = -120.0, kLowestHz = 20.0;

PowerSpectrum spectrumOf(const std::vector<double>& x, const LowEndParts& of) {
  constexpr double kWindowSeconds = 1.4;
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

double crestBelow(const std::vector<double>& x, double rate, double highHz) {
  const auto low = bandLimited(x, rate, 0.0, highHz);
  double peak = 0.0;
  for (double v : low) peak = std::max(peak, std::abs(v));
  const double energy = energyOf(std::span<const double>(low));
  if (!(energy > 0.0)) return 0.0;
  return dbFromAmplitude(peak) - dbFromPower(energy / static_cast<double>(low.size()));
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

LowEnd lowEndOf(const LowEndParts& parts) {
  LowEnd out;
  out.curveDb.assign(profileHz().size(), kFloorDb);
  if (parts.mid.empty()) return out;
  out.totalPower = parts.power;
  const PowerSpectrum midSpectrum = spectrumOf(parts.mid, parts);
  PowerSpectrum both = midSpectrum;
  out.midBelow = sumsOf(midSpectrum);
  if (!parts.side.empty()) {
    const PowerSpectrum sideSpectrum = spectrumOf(parts.side, parts);
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
  out.crestLowDb = crestBelow(parts.mid, parts.rate, 120.0);
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
