// Measures the estimators against kicks of known landing. Prints the table in docs/measuring.md.
// Usage: heft-landing-study [COUNT], heft-landing-study basses [COUNT]; a further word names those that fail

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <string>
#include <vector>

#ifdef HEFT_AUBIO
#include <aubio/aubio.h>
#endif

#include "core/measure/levels/levels.h"
#include "core/measure/pitch/landing.h"
#include "core/sound/fft.h"
#include "tests/reference/bass_maker.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/landing_by_phase.h"

namespace {

using heft::reference::KickRecipe;

double plainPeak(const std::vector<double>& x, double rate) {
  heft::RealFft fft(heft::fastSize(x.size()));
  std::copy(x.begin(), x.end(), fft.time().begin());
  fft.forward();
  size_t best = 1;
  const auto bins = fft.bins();
  for (size_t k = 1; k < bins.size() && k * rate / fft.size() < 400; ++k)
    if (std::abs(bins[k]) > std::abs(bins[best])) best = k;
  return best * rate / fft.size();
}

#ifdef HEFT_AUBIO
// The tracker that a user might reach for: aubio's yinfft with a low-frequency window, the median of its
// confident answers after the onset.
double aubioMedian(const std::vector<double>& x, double rate) {
  constexpr unsigned kWindow = 4096, kHop = 256;
  aubio_pitch_t* pitch = new_aubio_pitch("yinfft", kWindow, kHop, static_cast<unsigned>(rate));
  fvec_t *in = new_fvec(kHop), *out = new_fvec(1);
  std::vector<double> answers;
  for (size_t at = 0; at + kHop <= x.size(); at += kHop) {
    for (unsigned i = 0; i < kHop; ++i) in->data[i] = static_cast<float>(x[at + i]);
    aubio_pitch_do(pitch, in, out);
    if (out->data[0] > 20 && out->data[0] < 400) answers.push_back(out->data[0]);
  }
  del_fvec(in), del_fvec(out), del_aubio_pitch(pitch);
  if (answers.empty()) return 0.0;
  std::nth_element(answers.begin(), answers.begin() + static_cast<ptrdiff_t>(answers.size() / 2),
                   answers.end());
  return answers[answers.size() / 2];
}
#endif

struct Tally {
  std::vector<double> errors;
  int missing = 0;
  void add(double errorCents) { errors.push_back(std::abs(errorCents)); }
  void print(const char* name) {
    std::sort(errors.begin(), errors.end());
    const size_t n = errors.size();
    if (n == 0) return;
    auto within = [&](double c) {
      return 100.0 * (std::upper_bound(errors.begin(), errors.end(), c) - errors.begin()) / (n + missing);
    };
    std::printf(
        "%-34s median %7.3f  95%% %8.2f  99%% %8.2f  max %8.1f  <0.5: %5.1f %%  <5: %5.1f %%  <50: %5.1f %%  "
        "none: %d\n",
        name, errors[n / 2], errors[n * 95 / 100], errors[n * 99 / 100], errors.back(), within(0.5), within(5),
        within(50), missing);
  }
};

// Basses of every kind: how many are within 30 cents, how many wrong above a confidence of a half.
int basses(int count, bool verbose) {
  constexpr const char* kKinds[] = {
      "plain", "weak fundamental", "missing fundamental", "detuned", "beating", "pulse width", "vibrato",
      "driven"};
  struct Row {
    int all = 0, right = 0, wrong = 0;
  };
  std::vector<Row> rows(heft::reference::kBassKinds + 1);
  double seconds = 0;
  for (int i = 0; i < count; ++i) {
    const auto recipe = heft::reference::randomBass(static_cast<unsigned>(i));
    const auto bass = heft::reference::makeBass(recipe);
    const auto start = std::chrono::steady_clock::now();
    const double onset = heft::findOnset(bass, recipe.sampleRate).value_or(0.0);
    const auto landing = heft::measureLanding(bass, recipe.sampleRate, onset);
    seconds += std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    const auto hz = landing.noteHz();
    const double cents = hz ? 1200 * std::log2(*hz / recipe.hz) : 1e9;
    const double confidence = landing.hz ? landing.confidence : landing.heardConfidence;
    for (Row* row : {&rows[static_cast<size_t>(recipe.kind)], &rows.back()}) {
      ++row->all;
      row->right += std::abs(cents) <= 30.0;
      row->wrong += hz && std::abs(cents) > 30.0 && confidence > 0.5;
    }
    if (verbose && std::abs(cents) > 30.0)
      std::printf(
          "seed %d %s: %.2f Hz, %d partials, slope %.2f, first %.0f dB, %d voices %.0f ct, %.2f s, said %s "
          "%.1f ct conf %.2f %s\n",
          i, kKinds[static_cast<size_t>(recipe.kind)], recipe.hz, recipe.partials, recipe.slope,
          recipe.fundamentalDb, recipe.voices, recipe.spreadCents, recipe.seconds,
          hz ? (landing.hz ? "landing" : "heard") : "none", hz ? cents : 0.0, confidence,
          landing.reason.c_str());
  }
  for (size_t k = 0; k < rows.size(); ++k)
    std::printf("| %-20s | %4d | %5.1f %% | %5.1f %% |\n", k < rows.size() - 1 ? kKinds[k] : "all", rows[k].all,
                100.0 * rows[k].right / std::max(1, rows[k].all),
                100.0 * rows[k].wrong / std::max(1, rows[k].all));
  std::printf("mean time %.2f ms\n", 1000 * seconds / count);
  return 0;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc > 1 && std::string(argv[1]) == "basses")
    return basses(argc > 2 ? std::atoi(argv[2]) : 400, argc > 3);
  const int count = argc > 1 ? std::atoi(argv[1]) : 500;
  const bool verbose = argc > 2;
  Tally tones, trimmed, phase, plain, tracker;
  double seconds = 0;
  for (int i = 0; i < count; ++i) {
    const auto recipe = heft::reference::randomRecipe(static_cast<unsigned>(i));
    const auto kick = heft::reference::makeKick(recipe);
    auto error = [&](double hz) { return 1200 * std::log2(hz / recipe.landingHz); };
    const auto start = std::chrono::steady_clock::now();
    const double onset = heft::findOnset(kick, recipe.sampleRate).value_or(0.0);
    const auto landing = heft::measureLanding(kick, recipe.sampleRate, onset);
    seconds += std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    Tally& mine = recipe.trimMs > 0 ? trimmed : tones;
    if (landing.hz)
      mine.add(error(*landing.hz));
    else
      ++mine.missing;
#ifdef HEFT_AUBIO
    if (const double hz = aubioMedian(kick, recipe.sampleRate); hz > 0)
      tracker.add(error(hz));
    else
      ++tracker.missing;
#endif
    const double peak = plainPeak(kick, recipe.sampleRate);
    plain.add(error(peak));
    const std::span<const double> from =
        std::span<const double>(kick).subspan(static_cast<size_t>(onset * recipe.sampleRate));
    const double guess = landing.hz.value_or(peak);
    if (auto hz = heft::landingByPhase(from, recipe.sampleRate, guess))
      phase.add(error(*hz));
    else
      ++phase.missing;
    if (verbose && (!landing.hz || std::abs(error(*landing.hz)) > 5))
      std::printf(
          "seed %d: hz %.2f rate %.0f tail %.0f fall %d %.1f st %.1f ms drive %.1f bias %.2f h2 %.2f h3 %.2f "
          "trim %.0f click %.0f noise %.0f room %.0f onset %.4f/%.4f -> %.1f ct conf %.2f start %.0f %s\n",
          i, recipe.landingHz, recipe.sampleRate, recipe.tailMs, (int)recipe.fall, recipe.fallSemitones,
          recipe.fallMs, recipe.drive, recipe.bias, recipe.second, recipe.third, recipe.trimMs, recipe.clickDb,
          recipe.noiseDb, recipe.roomDb, onset, recipe.silenceMs / 1000, landing.hz ? error(*landing.hz) : 0.0,
          landing.confidence, landing.startHz, landing.reason.c_str());
  }
  std::printf("%d kicks\n", count);
  tones.print("damped tones along the path");
  trimmed.print("the same, trimmed tails");
  phase.print("phase of the demodulated tone");
  plain.print("plain FFT peak");
  tracker.print("aubio yinfft, median");
  std::printf("mean time %.2f ms\n", 1000 * seconds / count);
}
