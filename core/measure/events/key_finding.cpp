#include "core/measure/events/key_finding.h"

#include <qm-dsp/dsp/chromagram/Chromagram.h>
#include <qm-dsp/dsp/keydetection/GetKeyMode.h>
#include <qm-dsp/dsp/onsets/DetectionFunction.h>
#include <qm-dsp/dsp/tempotracking/TempoTrackV2.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "core/measure/events/loop_tempo.h"
#include "core/sound/filter.h"
#include "core/sound/resample.h"

namespace heft {
namespace {

constexpr double kRate = 44100.0;  // the rate that the library was designed for
constexpr double kShortestSeconds = 1.0, kListenSeconds = 16.0, kLongestSeconds = 600.0;
constexpr int kHop = 512;
constexpr double kTonal = 0.2;  // below it nothing tonal is prominent
// What each witness counts, from the study in docs/measuring.md.
constexpr double kByNotes = 1.0, kByLibrary = 0.25, kByBass = 0.2, kByOpening = 0.4;

// Mono at the library's rate; a short loop several times over, a long track's first ten minutes.
std::optional<std::vector<double>> listened(const AudioBuffer& sound, double listenSeconds) {
  if (sound.seconds() < kShortestSeconds || peakOf(sound) < 1e-5) return std::nullopt;
  AudioBuffer mono(sound.sampleRate, 1, 0);
  const auto most = static_cast<size_t>(kLongestSeconds * sound.sampleRate);
  const auto folded = monoFold(sound);
  mono.channels[0].assign(folded.begin(),
                          folded.begin() + static_cast<ptrdiff_t>(std::min(most, folded.size())));
  if (sound.sampleRate != kRate) {
    auto converted = resampled(mono, kRate, ConvertFor::Level);
    if (!converted) return std::nullopt;
    mono = std::move(*converted);
  }
  const auto& once = mono.channels[0];
  std::vector<double> out(once.begin(), once.end());
  const auto wanted = static_cast<size_t>(listenSeconds * kRate);
  while (out.size() < wanted) out.insert(out.end(), once.begin(), once.end());
  return out;
}

Key keyAt(size_t index) {
  return {static_cast<int>(index % 12), index < 12 ? Mode::Major : Mode::Minor};
}

using Twelve = std::array<double, 12>;

// How often each degree above the tonic sounds in music: D. Temperley, Music and Probability (2007), from the
// Kostka-Payne corpus (values from memory).
constexpr Twelve kMajor{0.748, 0.060, 0.488, 0.082, 0.670, 0.460, 0.096, 0.715, 0.104, 0.366, 0.057, 0.400};
constexpr Twelve kMinor{0.712, 0.084, 0.474, 0.618, 0.049, 0.460, 0.105, 0.747, 0.404, 0.067, 0.133, 0.330};

double correlation(const Twelve& profile, const Twelve& chroma, size_t tonic) {
  double sa = 0, sb = 0, saa = 0, sbb = 0, sab = 0;
  for (size_t k = 0; k < 12; ++k) {
    const double a = profile[k], b = chroma[(k + tonic) % 12];
    sa += a, sb += b, saa += a * a, sbb += b * b, sab += a * b;
  }
  const double spread = (12 * saa - sa * sa) * (12 * sbb - sb * sb);
  return spread > 0.0 ? (12 * sab - sa * sb) / std::sqrt(spread) : 0.0;
}

// The notes of the bass, 0 to 1 each: over the whole, and in the first second.
struct BassNotes {
  Twelve whole{}, opening{};
};

BassNotes bassNotesOf(const std::vector<double>& heard, double a4Hz) {
  constexpr double kLowestC = 32.703, kHighest = 196.0;
  constexpr size_t kOpeningFrames = 3;  // of 0.74 s, a quarter apart
  const auto low = decimated(std::span<const double>(heard), kRate, kRate / 32);
  Chromagram chroma({static_cast<unsigned>(std::lround(low.sampleRate)), kLowestC * a4Hz / 440.0, kHighest, 12,
                     0.0054, MathUtilities::NormaliseNone});
  const size_t size = chroma.getFrameSize();
  BassNotes out;
  size_t frames = 0;
  for (size_t at = 0; at + size <= low.samples.size(); at += size / 4, ++frames) {
    const double* magnitudes = chroma.process(low.samples.data() + at);
    const double most = *std::max_element(magnitudes, magnitudes + 12);
    if (!(most > 0.0)) continue;
    for (size_t k = 0; k < 12; ++k) {
      const double power = std::pow(magnitudes[k] / most, 2);
      out.whole[k] += power;
      if (frames < kOpeningFrames) out.opening[k] += power / kOpeningFrames;
    }
  }
  for (double& x : out.whole) x /= static_cast<double>(std::max<size_t>(1, frames));
  return out;
}

// Strengths of the 24 keys summed from the start, a row for every frame and one before them.
class Strengths {
 public:
  void add(const double* strengths) {
    auto row = sums_.back();
    for (size_t k = 0; k < row.size(); ++k) row[k] += strengths[k];
    sums_.push_back(row);
  }
  size_t frames() const { return sums_.size() - 1; }
  struct Best {
    size_t key = 0;
    double sum = -1e9;
  };
  Best best(size_t from, size_t to) const {
    Best out;
    for (size_t k = 0; k < 24; ++k)
      if (const double sum = sums_[to][k] - sums_[from][k]; sum > out.sum) out = {k, sum};
    return out;
  }

 private:
  std::vector<std::array<double, 24>> sums_{{}};
};

// A note alone, with what its window spills over to both sides, has no key.
bool isOneNote(const Twelve& notes) {
  constexpr double kBeside = 0.25;
  const auto most = static_cast<size_t>(std::max_element(notes.begin(), notes.end()) - notes.begin());
  for (size_t k = 2; k <= 10; ++k)
    if (notes[(most + k) % 12] >= kBeside * notes[most]) return false;
  return true;
}

// Nothing stands out, as where all is below the range of the chromagram.
bool isLevel(const Twelve& notes) {
  constexpr double kLevel = 0.5;
  const auto [least, most] = std::minmax_element(notes.begin(), notes.end());
  return *least >= kLevel * *most;
}

// Two keys, one after the other, where they hold clearly more than one throughout. Chords of one key gain up to
// 0.03 that way in verses and choruses of two chords each, a change of key by a second or a third 0.05 and
// more.
std::optional<KeyChange> changeOf(const std::vector<double>& heard, double a4Hz, const std::stop_token& stop) {
  constexpr double kLeastSeconds = 20.0, kGain = 0.042, kLeastPart = 0.2;
  const double seconds = static_cast<double>(heard.size()) / kRate;
  if (seconds < kLeastSeconds) return std::nullopt;
  const double average = std::clamp(0.25 * seconds, 4.0, 10.0);
  GetKeyMode finder(static_cast<int>(kRate), static_cast<float>(a4Hz), average, average);
  const size_t block = finder.getBlockSize(), hop = finder.getHopSize();
  Strengths all;
  const auto filled = static_cast<size_t>(0.5 * average * kRate);
  // Its last moments once before, so that the first frames are not judged by a few notes.
  std::vector<double> looped(heard.end() - static_cast<ptrdiff_t>(2 * filled), heard.end());
  looped.insert(looped.end(), heard.begin(), heard.end());
  looped.insert(looped.end(), heard.begin(), heard.begin() + static_cast<ptrdiff_t>(filled));
  for (size_t at = 0; at + block <= looped.size(); at += hop) {
    if (stop.stop_requested()) return std::nullopt;
    finder.process(looped.data() + at);
    // A frame's figures belong to the middle of the span that it averages.
    if (at + block > 3 * filled) all.add(finder.getKeyStrengths());
  }
  const size_t n = all.frames();
  const auto least = static_cast<size_t>(kLeastPart * static_cast<double>(n));
  if (least < 2) return std::nullopt;
  double most = all.best(0, n).sum + kGain * static_cast<double>(n);
  std::optional<KeyChange> out;
  for (size_t i = least; i + least <= n; ++i) {
    const auto before = all.best(0, i), after = all.best(i, n);
    if (before.key == after.key || before.sum + after.sum <= most) continue;
    most = before.sum + after.sum;
    out = {keyAt(before.key), keyAt(after.key), seconds * static_cast<double>(i) / static_cast<double>(n)};
  }
  return out;
}

}  // namespace

std::optional<KeyFacts> findKey(const AudioBuffer& sound, double a4Hz, const std::stop_token& stop) {
  auto heard = listened(sound, kListenSeconds);
  if (!heard) return std::nullopt;
  GetKeyMode finder(static_cast<int>(kRate), static_cast<float>(a4Hz), 10.0, 10.0);
  const size_t block = finder.getBlockSize(), hop = finder.getHopSize();
  std::vector<double> sum(24, 0.0);
  Twelve notes{};
  // Its start-up state is filled first: the first pass primes it, the second counts.
  size_t frames = 0;
  const size_t all = heard->size() > block ? (heard->size() - block) / hop + 1 : 0;
  for (size_t i = 0; i < all; ++i) {
    if (stop.stop_requested()) return std::nullopt;
    finder.process(heard->data() + i * hop);
    for (size_t bin = 0; bin < 36; ++bin) notes[bin / 3] += finder.getChroma()[bin];
    if (i < std::min(all / 2, static_cast<size_t>(10.0 * kRate) / hop)) continue;
    const double* strengths = finder.getKeyStrengths();
    for (size_t k = 0; k < 24; ++k) sum[k] += strengths[k] / static_cast<double>(all);
    ++frames;
  }
  if (frames == 0) return std::nullopt;
  for (double& x : sum) x *= static_cast<double>(all) / static_cast<double>(frames);
  if (!(*std::max_element(sum.begin(), sum.end()) >= kTonal)) return std::nullopt;
  const BassNotes bass = bassNotesOf(*heard, a4Hz);
  if (isOneNote(notes) || (isLevel(notes) && isOneNote(bass.whole))) return std::nullopt;
  KeyFacts out;
  for (size_t k = 0; k < 24; ++k) {
    const double strength =
        (kByNotes * correlation(k < 12 ? kMajor : kMinor, notes, k % 12) + kByLibrary * sum[k] +
         kByBass * bass.whole[k % 12] + kByOpening * bass.opening[k % 12]) /
        (kByNotes + kByLibrary + kByBass + kByOpening);
    if (!std::isfinite(strength)) return std::nullopt;
    out.ranked.push_back({keyAt(k), strength});
  }
  std::stable_sort(out.ranked.begin(), out.ranked.end(),
                   [](const KeyGuess& a, const KeyGuess& b) { return a.strength > b.strength; });
  const double ahead = out.ranked[0].strength - out.ranked[1].strength;
  out.confidence = ahead / (ahead + 0.06);
  // A loop was analysed several times over: its real duration is one pass.
  if (sound.seconds() >= kListenSeconds) out.change = changeOf(*heard, a4Hz, stop);
  return out;
}

std::optional<TempoFacts> findTempo(const AudioBuffer& sound) {
  if (sound.seconds() < 2.0) return std::nullopt;
  if (sound.seconds() < kListenSeconds) return loopTempo(sound);
  auto heard = listened(sound, kListenSeconds);
  if (!heard) return std::nullopt;
  DetectionFunction onsets({kHop, 2 * kHop, DF_COMPLEXSD, 3.0, false, -1.0, -1.0});
  std::vector<double> df;
  for (size_t at = 0; at + 2 * kHop <= heard->size(); at += kHop)
    df.push_back(onsets.processTimeDomain(heard->data() + at));
  if (df.size() < 200) return std::nullopt;
  // The first two values know nothing yet.
  df.erase(df.begin(), df.begin() + 2);
  std::vector<double> periods(df.size(), 0.0), tempi, beats;
  TempoTrackV2 tracker(static_cast<float>(kRate), kHop);
  tracker.calculateBeatPeriod(df, periods, tempi);
  tracker.calculateBeats(df, periods, beats);
  if (beats.size() < 6) return std::nullopt;
  std::vector<double> apart;
  for (size_t i = 1; i < beats.size(); ++i) apart.push_back(beats[i] - beats[i - 1]);
  const double usual = median(apart);
  // The mean of those that are as far apart as most is finer than the tracker's step.
  double total = 0.0, even = 0.0;
  for (double a : apart)
    if (std::abs(a - usual) < 0.06 * usual + 1.0) total += a, even += 1.0;
  if (even == 0.0) return std::nullopt;
  TempoFacts out;
  out.bpm = 60.0 * kRate / (kHop * total / even);
  out.confidence = even / static_cast<double>(apart.size());
  if (out.bpm < 40.0 || out.bpm > 240.0) return std::nullopt;
  return out;
}

}  // namespace heft
