#include "core/shape/drive.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/shape/eq.h"
#include "core/shape/oversample.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr int kTimes = 16;
constexpr float kBias = 0.5f, kKnee = 0.05f;

template <class T>
T soft(T x) {
  return x / std::sqrt(T(1) + x * x);
}

// Each with slope 1 about rest (Hollow apart, which is flat there) and 0 at 0.
template <DriveKind kind, class T>
T curve(T x) {
  if constexpr (kind == DriveKind::Soft) return soft(x);
  if constexpr (kind == DriveKind::Firm) return x / std::sqrt(std::sqrt(T(1) + x * x * x * x));
  if constexpr (kind == DriveKind::Hard) {
    const T x4 = x * x * x * x;
    return x / std::sqrt(std::sqrt(std::sqrt(T(1) + x4 * x4)));
  }
  if constexpr (kind == DriveKind::Warm) return soft(x + T(kBias)) - soft(T(kBias));
  if constexpr (kind == DriveKind::Fold) return std::sin(x);
  if constexpr (kind == DriveKind::Hollow) return x * x * x / (T(1) + x * x);
  // The magnitude with a rounded corner, so that its partials fall fast.
  if constexpr (kind == DriveKind::Rise)
    return T(0.5) * soft(x) + T(0.5) * (soft(std::sqrt(x * x + T(kKnee))) - soft(std::sqrt(T(kKnee))));
  return x;
}

// f(g x) / f(g); a fold is measured by its height, for its curve may cross 0 at full scale.
template <DriveKind kind, class T>
T scaled(T x, T gain, T most) {
  return curve<kind>(gain * x) / most;
}

template <DriveKind kind>
double mostOf(double gain) {
  if (kind == DriveKind::Fold) return gain < 1.5707963 ? std::sin(gain) : 1.0;
  return curve<kind>(gain);
}

template <class Use>
auto with(DriveKind kind, Use use) {
  switch (kind) {
    case DriveKind::Soft:
      return use.template operator()<DriveKind::Soft>();
    case DriveKind::Firm:
      return use.template operator()<DriveKind::Firm>();
    case DriveKind::Hard:
      return use.template operator()<DriveKind::Hard>();
    case DriveKind::Warm:
      return use.template operator()<DriveKind::Warm>();
    case DriveKind::Fold:
      return use.template operator()<DriveKind::Fold>();
    case DriveKind::Hollow:
      return use.template operator()<DriveKind::Hollow>();
    case DriveKind::Rise:
      return use.template operator()<DriveKind::Rise>();
    case DriveKind::Rate:
      break;
  }
  return use.template operator()<DriveKind::Rate>();
}

// Held for a length that may fall between samples; the next one is taken at its nearest sample.
void hold(std::span<float> x, double every, DriveState& state) {
  double next = state.untilNext;
  for (size_t i = 0; i < x.size(); ++i) {
    if (static_cast<double>(i) >= next) state.held = x[i], next += every;
    x[i] = state.held;
  }
  state.untilNext = next - static_cast<double>(x.size());
}

// Asymmetric curves shift a wave's middle; a filter below hearing removes that (one pole at 5 Hz: 5 degrees
// at 55 Hz).
void centre(std::span<float> x, double sampleRate, double& offset) {
  const double keep = std::exp(-2.0 * std::numbers::pi * 5.0 / sampleRate);
  for (float& v : x) {
    offset = keep * offset + (1.0 - keep) * v;
    v = static_cast<float>(v - offset);
  }
}

bool isLopsided(DriveKind kind) {
  return kind == DriveKind::Warm || kind == DriveKind::Rise;
}

// Of `x` the `count` frames from `from` on, driven and nothing else.
std::vector<float> wetPart(std::span<const float> x, size_t from, size_t count, const Drive& d,
                           double sampleRate, DriveState& state) {
  auto part = [&](const auto& of) {
    return std::vector<float>(of.begin() + static_cast<ptrdiff_t>(from),
                              of.begin() + static_cast<ptrdiff_t>(from + count));
  };
  if (d.kind == DriveKind::Rate) {
    std::vector<float> out = part(x);
    hold(out, std::exp2(d.driveDb / 5.0), state);
    return out;
  }
  const double gain = amplitudeFromDb(d.driveDb);
  auto out = part(with(d.kind, [&]<DriveKind kind>() {
    const auto g = static_cast<float>(gain), most = static_cast<float>(mostOf<kind>(gain));
    return bentAbove(x, kTimes, [=](std::span<float> up) {
      for (float& v : up) v = scaled<kind>(v, g, most);
    });
  }));
  if (isLopsided(d.kind)) centre(out, sampleRate, state.offset);
  return out;
}

// The sections continue from `memory` and leave their state after `keepAfter` samples in it.
void filter(std::span<float> x, const std::vector<Biquad::Coefficients>& sections, size_t keepAfter,
            double* memory) {
  for (const auto& section : sections) {
    Biquad biquad(section);
    biquad.goOnFrom(memory[0], memory[1]);
    for (size_t i = 0; i < x.size(); ++i) {
      if (i == keepAfter) memory[0] = biquad.state()[0], memory[1] = biquad.state()[1];
      x[i] = static_cast<float>(biquad.process(x[i]));
    }
    if (keepAfter >= x.size()) memory[0] = biquad.state()[0], memory[1] = biquad.state()[1];
    memory += 2;
  }
}

std::vector<Biquad::Coefficients> bandSections(const Drive& d, double sampleRate) {
  Eq band;
  if (d.fromHz) band.lowCut = {true, *d.fromHz, 24};
  if (d.toHz) band.highCut = {true, *d.toHz, 24};
  return eqSections(band, sampleRate);
}

std::vector<Biquad::Coefficients> toneSections(const Drive& d, double sampleRate) {
  if (d.toneDb == 0.0) return {};
  constexpr double kWide = 0.5;
  return {Biquad::highShelf(sampleRate, std::min(kToneHz, 0.49 * sampleRate), kWide, d.toneDb)};
}
constexpr size_t kToneMemory = 8;

}  // namespace

const char* driveWord(DriveKind kind) {
  return kind == DriveKind::Rise ? "octave" : nameOf(kind);
}

Result<DriveKind> parseDrive(const std::string& text) {
  if (lowered(text) == driveWord(DriveKind::Rise)) return DriveKind::Rise;
  return parseNamed<DriveKind>(text);
}

double driveCurve(DriveKind kind, double driveDb, double x) {
  const double gain = amplitudeFromDb(driveDb);
  return with(kind, [&]<DriveKind k>() { return scaled<k>(x, gain, mostOf<k>(gain)); });
}

bool driveRemembers(const Drive& d) {
  return d.on && (isLopsided(d.kind) || d.kind == DriveKind::Rate || d.isHeldToBand() || d.toneDb != 0.0);
}

std::vector<float> drivenPart(std::span<const float> x, size_t from, size_t count, const Drive& d,
                              double sampleRate, DriveState& state) {
  const auto input = static_cast<float>(amplitudeFromDb(d.inputDb)), wet = static_cast<float>(d.mix);
  std::vector<float> louder(x.begin(), x.end());
  for (float& v : louder) v *= input;
  auto part = [&](const std::vector<float>& of) {
    return std::vector<float>(of.begin() + static_cast<ptrdiff_t>(from),
                              of.begin() + static_cast<ptrdiff_t>(from + count));
  };
  std::vector<float> out = part(louder);
  if (wet == 0.0f) return out;
  if (d.isHeldToBand()) filter(louder, bandSections(d, sampleRate), count, state.filters.data());
  const std::vector<float> inBand = d.isHeldToBand() ? part(louder) : std::vector<float>();
  auto bent = wetPart(louder, from, count, d, sampleRate, state);
  if (d.toneDb != 0.0) filter(bent, toneSections(d, sampleRate), count, state.filters.data() + kToneMemory);
  if (inBand.empty())
    for (size_t i = 0; i < count; ++i) out[i] += wet * (bent[i] - out[i]);
  else
    for (size_t i = 0; i < count; ++i) out[i] += wet * (bent[i] - inBand[i]);
  return out;
}

void applyDrive(AudioBuffer& sound, const Drive& d) {
  if (!d.on) return;
  for (auto& channel : sound.channels) {
    DriveState rest;
    channel = drivenPart(channel, 0, channel.size(), d, sound.sampleRate, rest);
  }
}

}  // namespace heft
