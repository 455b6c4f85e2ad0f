#pragma once
/// Signals and slow, obvious recomputations that tests hold the product's figures against.

#include <cmath>
#include <complex>
#include <cstdio>
#include <filesystem>
#include <numbers>
#include <random>
#include <string>
#include <vector>

#include "core/sound/audio_file.h"
#include "core/sound/buffer.h"
#include "tests/this_build.h"

namespace heft::reference {

inline constexpr double kTwoPi = 2.0 * std::numbers::pi;

/// Under sanitizers every test runs, but a sweep over many values takes the first alone: there it costs ten
/// times as much and says nothing new.
inline std::vector<double> sweep(std::vector<double> all) {
  if (isWatched()) all.resize(1);
  return all;
}

inline std::vector<double> sine(double hz, double amplitude, double seconds, double rate, double phase = 0.0) {
  std::vector<double> out(static_cast<size_t>(std::lround(seconds * rate)));
  for (size_t i = 0; i < out.size(); ++i)
    out[i] = amplitude * std::sin(kTwoPi * hz * static_cast<double>(i) / rate + phase);
  return out;
}

inline std::vector<double> noise(double amplitude, size_t frames, unsigned seed) {
  std::mt19937 random(seed);
  std::normal_distribution<double> normal(0.0, amplitude);
  std::vector<double> out(frames);
  for (double& x : out) x = normal(random);
  return out;
}

inline AudioBuffer bufferOf(const std::vector<double>& x, double rate, size_t channels = 1) {
  AudioBuffer out(rate, channels, x.size());
  for (auto& c : out.channels)
    for (size_t i = 0; i < x.size(); ++i) c[i] = static_cast<float>(x[i]);
  return out;
}

/// Power of a signal between two frequencies by a direct transform: mean square, one frequency line at a time.
/// Treats the signal as one period.
inline double directBandPower(const std::vector<double>& x, double rate, double lowHz, double highHz) {
  const double n = static_cast<double>(x.size());
  double power = 0.0;
  for (auto k = static_cast<size_t>(std::ceil(lowHz * n / rate)); static_cast<double>(k) * rate / n < highHz;
       ++k) {
    std::complex<double> sum = 0.0;
    const std::complex<double> turn = std::polar(1.0, -kTwoPi * static_cast<double>(k) / n);
    std::complex<double> at = 1.0;
    for (double v : x) sum += v * at, at *= turn;
    power += 2.0 * std::norm(sum / n);
  }
  return power;
}

/// Frequency of a steady tone by counting its rising zero crossings between the first and the last.
inline double frequencyByCrossings(const std::vector<float>& x, double rate) {
  double first = -1, last = -1;
  int count = 0;
  for (size_t i = 1; i < x.size(); ++i)
    if (x[i - 1] < 0 && x[i] >= 0) {
      const double at = static_cast<double>(i - 1) + x[i - 1] / (x[i - 1] - x[i]);
      if (first < 0)
        first = at;
      else
        ++count;
      last = at;
    }
  return count > 0 ? count * rate / (last - first) : 0.0;
}

inline double rms(const std::vector<double>& x) {
  double sum = 0;
  for (double v : x) sum += v * v;
  return std::sqrt(sum / static_cast<double>(std::max<size_t>(1, x.size())));
}

/// A folder of the test's own, removed at its end.
class TemporaryFolder {
 public:
  TemporaryFolder() {
    std::string pattern = (std::filesystem::temp_directory_path() / "heft-test-XXXXXX").string();
    path_ = mkdtemp(pattern.data());
  }
  ~TemporaryFolder() {
    std::error_code code;
    std::filesystem::permissions(path_, std::filesystem::perms::owner_all, code);
    std::filesystem::remove_all(path_, code);
  }
  TemporaryFolder(const TemporaryFolder&) = delete;
  TemporaryFolder& operator=(const TemporaryFolder&) = delete;
  std::string operator/(const std::string& name) const { return (path_ / name).string(); }
  std::string path() const { return path_.string(); }

 private:
  std::filesystem::path path_;
};

inline std::string writeSound(const TemporaryFolder& folder, const std::string& name, const AudioBuffer& sound,
                              SampleFormat format = SampleFormat::WavFloat) {
  const std::string path = folder / name;
  if (!saveSound(sound, path, format)) std::abort();
  return path;
}

inline std::string contentsOf(const std::string& path) {
  std::string out;
  if (std::FILE* f = std::fopen(path.c_str(), "rb")) {
    char piece[65536];
    for (size_t got; (got = std::fread(piece, 1, sizeof piece, f)) > 0;) out.append(piece, got);
    std::fclose(f);
  }
  return out;
}

inline void writeBytes(const std::string& path, const std::string& bytes) {
  if (std::FILE* f = std::fopen(path.c_str(), "wb")) {
    std::fwrite(bytes.data(), 1, bytes.size(), f);
    std::fclose(f);
  }
}

}  // namespace heft::reference
