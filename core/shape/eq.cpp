#include "core/shape/eq.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

#include "core/sound/fft.h"

namespace heft {
namespace {

// Quality of each second-order section of a Butterworth filter of even order: its poles are evenly spaced on
// a circle.
void addCut(const Cut& cut, bool low, double rate, std::vector<Biquad::Coefficients>& out) {
  if (!cut.on || (!low && cut.hz >= 0.49 * rate)) return;
  const int sections = std::clamp(cut.slopeDbPerOctave / 12, 1, 4);
  const double hz = std::min(cut.hz, 0.49 * rate);
  for (int i = 0; i < sections; ++i) {
    const double angle = std::numbers::pi * (2 * i + 1) / (4.0 * sections);
    double q = 1.0 / (2.0 * std::cos(angle));
    // At `hz` the sections' qualities multiply to -3 dB: a higher Q of the sharpest raises the cut there by
    // as much.
    if (i == sections - 1 && cut.resonanceDb != 0.0) q *= std::pow(10.0, cut.resonanceDb / 20.0);
    out.push_back(low ? Biquad::highPass(rate, hz, q) : Biquad::lowPass(rate, hz, q));
  }
}

Biquad::Coefficients sectionOf(const EqBand& b, double amount, double rate) {
  const double hz = std::min(b.hz, 0.49 * rate), gainDb = amount * b.gainDb;
  switch (b.kind) {
    case EqBand::Kind::Bell:
      return Biquad::bell(rate, hz, b.q, gainDb);
    case EqBand::Kind::LowShelf:
      return Biquad::lowShelf(rate, hz, b.q, gainDb);
    case EqBand::Kind::HighShelf:
      return Biquad::highShelf(rate, hz, b.q, gainDb);
    case EqBand::Kind::Notch:
      break;
  }
  return Biquad::notch(rate, hz, b.q);
}

bool works(const EqBand& b, double amount) {
  return b.on && (b.kind == EqBand::Kind::Notch || amount * b.gainDb != 0.0);
}

}  // namespace

void Eq::cutBelow(double hz, int slopeDbPerOctave) {
  on = true;
  lowCut = {true, std::max(hz, lowCut.on ? lowCut.hz : 0.0), slopeDbPerOctave, lowCut.resonanceDb};
}

bool Eq::works() const {
  return on && (lowCut.on || highCut.on || std::any_of(bands.begin(), bands.end(), [this](const EqBand& b) {
                  return heft::works(b, amount);
                }));
}

std::vector<Biquad::Coefficients> eqSections(const Eq& eq, double sampleRate) {
  std::vector<Biquad::Coefficients> out;
  if (!eq.on) return out;
  addCut(eq.lowCut, true, sampleRate, out);
  addCut(eq.highCut, false, sampleRate, out);
  for (const EqBand& b : eq.bands)
    if (works(b, eq.amount)) out.push_back(sectionOf(b, eq.amount, sampleRate));
  return out;
}

double eqResponseDb(const Eq& eq, double sampleRate, double hz) {
  double db = 0.0;
  for (const auto& c : eqSections(eq, sampleRate)) db += Biquad::responseDb(c, sampleRate, hz);
  return db;
}

double eqTurnDegrees(const Eq& eq, double rate, double hz) {
  if (eq.linearPhase) return 0.0;
  const std::complex<double> z = std::polar(1.0, -2.0 * std::numbers::pi * hz / rate);
  std::complex<double> all = 1.0;
  for (const auto& c : eqSections(eq, rate))
    all *= (c.b0 + c.b1 * z + c.b2 * z * z) / (1.0 + c.a1 * z + c.a2 * z * z);
  return std::arg(all) * 180.0 / std::numbers::pi;
}

bool isPlaceOn(const Eq& eq, size_t place) {
  return place == 0 ? eq.lowCut.on : place + 1 == kEqPlaces ? eq.highCut.on : eq.bands[place - 1].on;
}

double placeHz(const Eq& eq, size_t place) {
  return place == 0 ? eq.lowCut.hz : place + 1 == kEqPlaces ? eq.highCut.hz : eq.bands[place - 1].hz;
}

Eq onlyPlace(const Eq& eq, size_t place) {
  Eq out = eq;
  out.on = true;
  if (place != 0) out.lowCut.on = false;
  if (place + 1 != kEqPlaces) out.highCut.on = false;
  for (size_t b = 0; b < out.bands.size(); ++b)
    if (b + 1 != place) out.bands[b].on = false;
  return out;
}

std::vector<float> linearPhaseResponse(const Eq& eq, double rate) {
  constexpr double kWholeSeconds = 1.36, kLeftOut = 1e-4;
  RealFft fft(fastSize(static_cast<size_t>(kWholeSeconds * rate)));
  const auto sections = eqSections(eq, rate);
  for (size_t k = 0; k < fft.bins().size(); ++k) {
    const double hz = static_cast<double>(k) * rate / static_cast<double>(fft.size());
    double gain = 1.0;
    for (const auto& c : sections) gain *= amplitudeFromDb(Biquad::responseDb(c, rate, hz));
    fft.bins()[k] = std::isfinite(gain) ? gain : 0.0;
  }
  fft.inverse();
  const auto ring = fft.time();
  size_t reach = std::min(ring.size() / 2 - 1, static_cast<size_t>(kLongestRingSeconds * rate));
  double left = 0.0;
  while (reach > 0 && (left += 2.0 * std::abs(ring[reach])) < kLeftOut) --reach;
  std::vector<float> out(2 * reach + 1);
  for (size_t i = 0; i < out.size(); ++i) out[i] = static_cast<float>(ring[i < reach ? reach - i : i - reach]);
  return out;
}

void applyEq(AudioBuffer& sound, const Eq& eq) {
  const auto coefficients = eqSections(eq, sound.sampleRate);
  for (auto& channel : sound.channels) {
    std::vector<Biquad> sections(coefficients.begin(), coefficients.end());
    filterBy(sections, channel);
  }
}

}  // namespace heft
