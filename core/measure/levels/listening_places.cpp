#include "core/measure/levels/listening_places.h"

#include <cmath>
#include <numbers>

#include "core/measure/levels/equal_loudness.h"

namespace heft {
namespace {

using Sections = std::vector<Biquad::Coefficients>;
constexpr double kReferenceRate = 192000.0;  // figures are those of the analogue curve

// Butterworth of the fourth order.
void addHighPass(Sections& out, double rate, double hz) {
  for (const double q : {0.5412, 1.3066}) out.push_back(Biquad::highPass(rate, hz, q));
}
void addLowPass(Sections& out, double rate, double hz) {
  if (hz < 0.45 * rate) out.push_back(Biquad::lowPass(rate, hz, std::numbers::sqrt2 / 2.0));
}

}  // namespace

const char* placeWord(Place place) {
  constexpr const char* kWords[] = {"phone", "laptop", "kitchen radio", "car", "headphones"};
  return kWords[static_cast<size_t>(place)];
}

const char* placeSource(Place place) {
  constexpr const char* kSources[] = {
      "Nothing below about 450 Hz, 24 dB/oct, a peak at 1 kHz, mono. Our assumption of a hand-held speaker",
      "Nothing below about 200 Hz, 24 dB/oct. Common practice",
      "Nothing below about 110 Hz, a hump above it, dull above 9 kHz, mono. Our assumption of a small box",
      "The cabin lifts what is below 60 Hz by up to 9 dB, doors hum at 120 Hz. Our assumption; cabin gain is "
      "common practice",
      "The room's lift below 105 Hz is missing (Olive and Welti 2013, from memory)"};
  return kSources[static_cast<size_t>(place)];
}

bool playsMono(Place place) {
  return place == Place::Phone || place == Place::Radio;
}

std::vector<Biquad::Coefficients> placeFilters(Place place, double rate) {
  Sections out;
  switch (place) {
    case Place::Phone:
      addHighPass(out, rate, 450.0);
      out.push_back(Biquad::bell(rate, 1000.0, 0.8, 4.0));
      addLowPass(out, rate, 12000.0);
      break;
    case Place::Laptop:
      addHighPass(out, rate, 200.0);
      break;
    case Place::Radio:
      addHighPass(out, rate, 110.0);
      out.push_back(Biquad::bell(rate, 160.0, 1.2, 4.0));
      addLowPass(out, rate, 9000.0);
      break;
    case Place::Car:
      out.push_back(Biquad::lowShelf(rate, 55.0, 0.7, 9.0));
      out.push_back(Biquad::bell(rate, 120.0, 1.4, 3.0));
      out.push_back(Biquad::bell(rate, 300.0, 1.0, -3.0));
      break;
    case Place::Headphones:
      out.push_back(Biquad::lowShelf(rate, 105.0, 0.71, -5.0));
      break;
  }
  return out;
}

double placeDb(Place place, double hz) {
  double db = 0.0;
  for (const auto& section : placeFilters(place, kReferenceRate))
    db += Biquad::responseDb(section, kReferenceRate, hz);
  return db;
}

HeardBands heardThere(HeardBands bands, Place place) {
  for (auto& window : bands.windows)
    for (auto& band : window) band.power *= std::pow(10.0, 0.1 * placeDb(place, band.hz));
  return bands;
}

double quietDb(double hz, double usualDb, double quietly) {
  constexpr double kUnderFullScale = 14.0;
  const double phon = usualDb - kUnderFullScale, lower = usualDb - quietly;
  const double level = levelForPhon(hz, phon);
  return levelForPhon(hz, phonOf(hz, level - lower) + lower) - level;
}

namespace {

struct Shelf {
  double hz, q;
  bool low;
};
constexpr std::array kShelves{Shelf{40.0, 0.6, true}, Shelf{110.0, 0.6, true}, Shelf{320.0, 0.6, true},
                              Shelf{6000.0, 0.6, false}};
constexpr size_t kUnknowns = kShelves.size() + 1;  // and a level

Biquad::Coefficients shelfOf(const Shelf& s, double rate, double db) {
  return s.low ? Biquad::lowShelf(rate, s.hz, s.q, db) : Biquad::highShelf(rate, s.hz, s.q, db);
}

using Row = std::array<double, kUnknowns + 1>;

// Gauss's elimination with the largest pivot.
std::array<double, kUnknowns> solved(std::array<Row, kUnknowns> a) {
  for (size_t i = 0; i < kUnknowns; ++i) {
    size_t pivot = i;
    for (size_t r = i; r < kUnknowns; ++r)
      if (std::abs(a[r][i]) > std::abs(a[pivot][i])) pivot = r;
    std::swap(a[i], a[pivot]);
    for (size_t r = i + 1; r < kUnknowns; ++r) {
      const double times = a[r][i] / a[i][i];
      for (size_t c = i; c <= kUnknowns; ++c) a[r][c] -= times * a[i][c];
    }
  }
  std::array<double, kUnknowns> x{};
  for (size_t i = kUnknowns; i-- > 0;) {
    x[i] = a[i][kUnknowns];
    for (size_t c = i + 1; c < kUnknowns; ++c) x[i] -= a[i][c] * x[c];
    x[i] /= a[i][i];
  }
  return x;
}

}  // namespace

std::vector<Biquad::Coefficients> quietFilters(double usualDb, double quietly, double rate) {
  constexpr int kTurns = 4;
  std::array<double, kUnknowns> gains{};
  for (int turn = 0; turn < kTurns; ++turn) {
    std::array<Row, kUnknowns> normal{};
    for (double hz = 25.0; hz <= 8000.0; hz *= 1.06) {
      Row row{};
      double now = gains[kUnknowns - 1];
      for (size_t i = 0; i < kShelves.size(); ++i) {
        const double here =
            Biquad::responseDb(shelfOf(kShelves[i], kReferenceRate, gains[i]), kReferenceRate, hz);
        now += here;
        row[i] = Biquad::responseDb(shelfOf(kShelves[i], kReferenceRate, gains[i] + 0.1), kReferenceRate, hz);
        row[i] = 10.0 * (row[i] - here);
      }
      row[kUnknowns - 1] = 1.0;
      row[kUnknowns] = quietDb(hz, usualDb, quietly) - now;
      for (size_t i = 0; i < kUnknowns; ++i)
        for (size_t c = 0; c <= kUnknowns; ++c) normal[i][c] += row[i] * row[c];
    }
    const auto step = solved(normal);
    for (size_t i = 0; i < kUnknowns; ++i) gains[i] += step[i];
  }
  Sections out;
  for (size_t i = 0; i < kShelves.size(); ++i)
    if (kShelves[i].hz < 0.4 * rate) out.push_back(shelfOf(kShelves[i], rate, gains[i]));
  Biquad::Coefficients level;
  level.b0 = std::pow(10.0, gains[kUnknowns - 1] / 20.0);
  out.push_back(level);
  return out;
}

}  // namespace heft
