// Alignment and ducking: known answers, brute force in the time domain, and what must never happen.

#include <gtest/gtest.h>

#include <numeric>

#include "core/align/align.h"
#include "core/compare/difference.h"
#include "core/duck/apply.h"
#include "core/duck/detector.h"
#include "core/duck/gain_curve.h"
#include "core/ledger/ledger.h"
#include "core/sound/filter.h"
#include "core/sound/midi_file.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;
constexpr double kRate = 48000;

std::vector<double> decaying(double hz, double phase, double seconds = 0.5) {
  auto x = sine(hz, 0.8, seconds, kRate, phase);
  for (size_t i = 0; i < x.size(); ++i)
    x[i] *= std::exp(-5.0 * static_cast<double>(i) / kRate) * std::min(1.0, static_cast<double>(i) / 200.0);
  return x;
}

// The published definition of the figure, step by step at the full rate: band limit with zero phase, the region
// where the 25 ms RMS of each is above -40 dB of its own maximum before any move, level of the sum re the
// amplitude sum.
double figureByDefinition(const std::vector<double>& kick, const std::vector<double>& bass, double delaySamples,
                          bool invert, double low, double high) {
  const size_t n = kick.size() + 4800;
  auto band = [&](std::vector<double> x) {
    x.resize(n, 0.0);
    return bandLimited(x, kRate, low, high);
  };
  const auto k = band(kick), b = band(bass);
  auto region = [&](const std::vector<double>& x) {
    std::vector<double> power(n, 0.0);
    const auto half = static_cast<size_t>(0.0125 * kRate);
    for (size_t i = 0; i < n; i += 16) {
      double sum = 0;
      for (size_t j = i > half ? i - half : 0; j < std::min(n, i + half); ++j) sum += x[j] * x[j];
      for (size_t j = i; j < std::min(n, i + 16); ++j) power[j] = sum;
    }
    const double most = *std::max_element(power.begin(), power.end());
    for (double& p : power) p = p > 1e-4 * most ? 1.0 : 0.0;
    return power;
  };
  const auto rk = region(k), rb = region(b);
  double sum = 0, ek = 0, eb = 0;
  for (size_t i = 0; i < n; ++i) {
    if (rk[i] * rb[i] == 0.0) continue;
    const double at = static_cast<double>(i) - delaySamples, whole = std::floor(at);
    const auto j = static_cast<ptrdiff_t>(whole);
    double moved = 0;
    if (j >= 0 && j + 1 < static_cast<ptrdiff_t>(n))
      moved = b[static_cast<size_t>(j)] +
              (at - whole) * (b[static_cast<size_t>(j + 1)] - b[static_cast<size_t>(j)]);
    if (invert) moved = -moved;
    sum += (k[i] + moved) * (k[i] + moved), ek += k[i] * k[i], eb += moved * moved;
  }
  return 10 * std::log10(sum / std::pow(std::sqrt(ek) + std::sqrt(eb), 2));
}

TEST(Align, TheFigureIsTheDefinitions) {
  const auto kick = decaying(54, 0.2), bass = decaying(55, 2.1);
  const auto curve = alignCurve({kick, bass}, kRate, {});
  for (double ms : {-9.0, -2.5, 0.0, 1.3, 7.7})
    for (bool invert : {false, true})
      EXPECT_NEAR(curve.levelAt(ms, invert), figureByDefinition(kick, bass, ms * 48, invert, 20, 150), 0.12)
          << ms << " " << invert;
}

TEST(Align, AKnownDelayIsTakenBack) {
  const auto kick = decaying(55, 0.0);
  for (double samples : {37.0, 100.5, 210.25}) {
    // The bass starts early by that much.
    std::vector<double> bass = sine(55, 0.8, 0.5, kRate, kTwoPi * 55 * samples / kRate);
    for (size_t i = 0; i < bass.size(); ++i)
      bass[i] *= std::exp(-5.0 * (static_cast<double>(i) + samples) / kRate) *
                 std::min(1.0, (static_cast<double>(i) + samples) / 200.0);
    const auto curve = alignCurve({kick, bass}, kRate, {20, 150, 8});  // less than half a period either way
    double best = -200, at = 0;
    for (size_t i = 0; i < curve.size(); ++i)
      if (curve.levelDb(i, false) > best) best = curve.levelDb(i, false), at = curve.delayMs(i);
    // The top is flat: a tenth of a millisecond is a hundredth of a decibel.
    EXPECT_NEAR(at * 48, samples, 6.0);
    EXPECT_GT(best, -0.02);
    EXPECT_GT(bestAlignment(curve).afterDb, best - 0.26);
  }
}

TEST(Align, PolarityAloneMendsAPairInOppositePhase) {
  const auto kick = decaying(55, 0.0), bass = decaying(55, std::numbers::pi);
  const auto answer = bestAlignment(alignCurve({kick, bass}, kRate, {}));
  EXPECT_TRUE(answer.invert);
  EXPECT_EQ(answer.delayMs, 0.0);
  EXPECT_LT(answer.beforeDb, -25);
  EXPECT_GT(answer.afterDb, -0.05);
}

TEST(Align, NeverWorseThanNothingAndNeverALargerMoveThanNeeded) {
  std::mt19937 random(5);
  auto uniform = [&](double a, double b) { return a + (b - a) * random() / 4294967296.0; };
  for (int i = 0; i < 25; ++i) {
    const auto kick = decaying(uniform(40, 80), uniform(0, 6)), bass = decaying(uniform(40, 80), uniform(0, 6));
    const auto curve = alignCurve({kick, bass}, kRate, {});
    const auto answer = bestAlignment(curve);
    EXPECT_GE(answer.afterDb, answer.beforeDb);
    double best = -200;
    for (size_t k = 0; k < curve.size(); ++k)
      best = std::max({best, curve.levelDb(k, false), curve.levelDb(k, true)});
    EXPECT_GE(answer.afterDb, best - 0.2501);
    for (size_t k = 0; k < curve.size(); ++k)
      if (std::abs(curve.delayMs(k)) < std::abs(answer.delayMs) - 1e-9) {
        ASSERT_LT(curve.levelDb(k, false), best - 0.2499);
        ASSERT_LT(curve.levelDb(k, true), best - 0.2499);
      }
  }
}

TEST(Align, SeveralHitsAreWeightedByTheirEnergy) {
  const auto loudKick = decaying(55, 0.0), loudBass = decaying(55, 0.5);
  auto quietKick = decaying(55, 0.0), quietBass = decaying(55, 3.0);
  for (double& x : quietKick) x *= 0.05;
  for (double& x : quietBass) x *= 0.05;
  const auto loud = alignCurve({loudKick, loudBass}, kRate, {}),
             quiet = alignCurve({quietKick, quietBass}, kRate, {});
  const auto both = combined({loud, quiet});
  EXPECT_NEAR(bestAlignment(both).delayMs, bestAlignment(loud).delayMs, 0.1);
  EXPECT_NEAR(both.levelAt(0, false), loud.levelAt(0, false), 0.1);
}

TEST(Align, PartsThatNeverMeetAreLeftAlone) {
  const std::vector<double> silence(24000, 0.0);
  const auto answer = bestAlignment(alignCurve({decaying(55, 0), silence}, kRate, {}));
  EXPECT_FALSE(answer.overlap);
  EXPECT_EQ(answer.delayMs, 0.0);
  EXPECT_FALSE(bestAlignment(combined({})).overlap);
}

TEST(Dip, ReachesItsDepthHoldsAndIsBackInTime) {
  for (double depth : {3.0, 8.5, 24.0, 120.0}) {
    const DrawnDip dip{depth, 4, 30, 80};
    const std::vector<double> triggers{4800};
    const auto gain = drawnGain(dip, triggers, kRate, 48000, false);
    auto db = [&](double ms) { return dbFromAmplitude(gain[static_cast<size_t>(4800 + ms * 48)], -120); };
    EXPECT_EQ(gain[4799], 1.0f);
    EXPECT_NEAR(db(4.05), -depth, 0.01);
    EXPECT_NEAR(db(33.9), -depth, 0.01);
    EXPECT_GT(db(114.0), -0.5);
    EXPECT_EQ(gain[47999], 1.0f);
    const auto facts = measureDip(gain, triggers, kRate);
    EXPECT_NEAR(facts.depthDb, -depth, 0.01);
    EXPECT_LE(facts.returnMs, 114.0);
    EXPECT_EQ(facts.fired, 1);
    // No corner that could click: over 1 ms the gain changes by less than the whole way in the attack would.
    for (size_t i = 1; i < gain.size(); ++i) ASSERT_LT(std::abs(gain[i] - gain[i - 1]), 1.6 / (4 * 48)) << i;
  }
}

TEST(Dip, ADepthIsWhereItsGainIs) {
  for (double db : {0.0, 0.3, 8.5, 24.0, 39.9}) EXPECT_NEAR(depthAtGain(gainAtDepth(db)), db, 1e-9);
  EXPECT_EQ(gainAtDepth(kSilentDepthDb), 0.0);
  EXPECT_EQ(depthAtGain(0.0), kSilentDepthDb);
}

TEST(Dip, TriggersDuringAReturnStartFromWhereTheGainIs) {
  const std::vector<double> triggers{1000, 1000 + 60 * 48, 1000 + 75 * 48};
  const auto gain = drawnGain({12, 5, 20, 100}, triggers, kRate, 48000, false);
  for (size_t i = 1; i < gain.size(); ++i) ASSERT_LT(std::abs(gain[i] - gain[i - 1]), 0.006f);
  EXPECT_EQ(measureDip(gain, triggers, kRate).fired, 3);
}

// A loop in its steady state is what the third turn of an unwrapped stretch sounds like.
TEST(Dip, ALoopIsItsOwnSteadyState) {
  const size_t n = 30000;
  const std::vector<double> triggers{500, 12000, 28000};
  std::vector<double> longTriggers;
  for (int turn = 0; turn < 3; ++turn)
    for (double t : triggers) longTriggers.push_back(t + turn * static_cast<double>(n));
  const DrawnDip dip{9, 3, 40, 150};
  const auto loop = drawnGain(dip, triggers, kRate, n, true);
  const auto longRun = drawnGain(dip, longTriggers, kRate, 3 * n, false);
  for (size_t i = 0; i < n; ++i) ASSERT_NEAR(loop[i], longRun[2 * n + i], 1e-6) << i;
}

TEST(Crossover, LeavesTheSoundExactlyAsItIsWhereNothingMoves) {
  const auto x = bufferOf(noise(0.2, 30000, 8), kRate, 2);
  const std::vector<float> ones(30000, 1.0f);
  EXPECT_EQ(ducked(x, ones, 120, false), x);
  EXPECT_EQ(ducked(x, ones, 0, false), x);
}

TEST(Crossover, MovesOnlyWhatLiesBelow) {
  std::vector<float> half(48000, 0.5f);
  auto levelOf = [&](double hz) {
    const auto y = ducked(bufferOf(sine(hz, 0.5, 1.0, kRate), kRate), half, 120, true);
    return 20 * std::log10(rms({y.channels[0].begin(), y.channels[0].end()}) / (0.5 / std::numbers::sqrt2));
  };
  EXPECT_NEAR(levelOf(40), -6.02, 0.1);
  EXPECT_NEAR(levelOf(400), 0.0, 0.02);
  EXPECT_NEAR(levelOf(5000), 0.0, 0.001);
  // Linear phase: a 55 Hz tone keeps its zero crossings.
  const auto y = ducked(bufferOf(sine(55, 0.5, 1.0, kRate), kRate), half, 120, true);
  const auto x = sine(55, 0.5, 1.0, kRate);
  for (size_t i = 0; i < x.size(); ++i) ASSERT_NEAR(y.channels[0][i], 0.5 * x[i], 0.01);
}

// A drum loop with known times: kicks, snares with a body at 190 Hz, and hats, in three patterns off and on the
// beat.
TEST(Detector, FindsKicksAndIgnoresSnaresAndHats) {
  KickRecipe recipe;
  recipe.tailMs = 250;
  recipe.clickDb = -18;
  const auto kick = makeKick(recipe);
  const std::vector<std::vector<double>> patterns = {
      {0.0, 0.5, 1.0, 1.5, 2.0}, {0.1, 0.475, 1.225, 1.35, 1.975, 2.1}, {0.3, 0.48, 1.71}};
  for (const auto& pattern : patterns) {
    std::vector<double> x(static_cast<size_t>(2.6 * kRate), 0.0);
    auto add = [&](const std::vector<double>& sound, double at, double gain) {
      const auto first = static_cast<size_t>(at * kRate);
      for (size_t i = 0; i < sound.size() && first + i < x.size(); ++i) x[first + i] += gain * sound[i];
    };
    std::vector<double> snare = noise(0.15, 9600, 3), hat = noise(0.1, 2400, 4);
    for (size_t i = 0; i < snare.size(); ++i)
      snare[i] = (snare[i] + 0.5 * std::sin(kTwoPi * 190 * static_cast<double>(i) / kRate)) *
                 std::exp(-static_cast<double>(i) / 2400);
    for (size_t i = hat.size(); i-- > 1;)
      hat[i] = (hat[i] - hat[i - 1]) * std::exp(-static_cast<double>(i) / 600);
    for (double t : pattern) add(kick, t, 0.9);
    for (double t = 0.25; t < 2.5; t += 0.5) add(snare, t, 1.0);
    for (double t = 0.0; t < 2.5; t += 0.125) add(hat, t, 1.0);
    const auto hits = findHits(bufferOf(x, kRate));
    ASSERT_EQ(hits.size(), pattern.size()) << "first at " << pattern[0];
    for (size_t i = 0; i < hits.size(); ++i) EXPECT_NEAR(1000 * hits[i], 1000 * pattern[i], 6.0);
  }
  EXPECT_TRUE(findHits(AudioBuffer(kRate, 1, 48000)).empty());
  EXPECT_TRUE(findHits(AudioBuffer()).empty());
}

// Soft strokes of the same drum count, down to a quarter of the full ones; a snare of their level does not.
TEST(Detector, FindsGhostHitsBesideFullOnes) {
  for (double landingHz : {45.0, 62.0})
    for (double soft : {0.5, 0.35, 0.25})
      for (bool withSnare : {false, true}) {
        KickRecipe recipe;
        recipe.landingHz = landingHz, recipe.tailMs = 160, recipe.clickDb = -18;
        const auto kick = makeKick(recipe);
        std::vector<double> x(static_cast<size_t>(2.2 * kRate), 0.0), snare = noise(0.15, 9600, 3);
        for (size_t i = 0; i < snare.size(); ++i)
          snare[i] = (snare[i] + 0.5 * std::sin(kTwoPi * 190 * static_cast<double>(i) / kRate)) *
                     std::exp(-static_cast<double>(i) / 2400);
        auto add = [&](const std::vector<double>& sound, double at, double gain) {
          const auto first = static_cast<size_t>(at * kRate);
          for (size_t i = 0; i < sound.size() && first + i < x.size(); ++i) x[first + i] += gain * sound[i];
        };
        const std::vector<double> at{0.0, 0.25, 0.5, 0.8, 1.0, 1.25, 1.6, 1.85};
        for (size_t i = 0; i < at.size(); ++i) add(kick, at[i], i % 2 == 0 ? 0.9 : 0.9 * soft);
        if (withSnare)
          for (double t : {0.38, 1.42}) add(snare, t, 0.8);
        const auto hits = findHits(bufferOf(x, kRate));
        ASSERT_EQ(hits.size(), at.size()) << landingHz << " " << soft << " " << withSnare;
        for (size_t i = 0; i < hits.size(); ++i) EXPECT_NEAR(hits[i], at[i], 0.006);
      }
}

// Standard MIDI Files 1.0 (RP-001): header, tempo, delta times as variable-length quantities (0x40 one byte,
// 0x80 is 81 00, 0x2000 is C0 00: the document's own table), end of track.
TEST(MidiFile, BytesAreTheStandards) {
  MidiTrackWriter writer(120);
  auto seconds = [](int ticks) { return ticks / 1920.0; };
  writer.controller(seconds(0x40), 11, 127);
  writer.controller(seconds(0x40 + 0x80), 11, 64);
  writer.controller(seconds(0x40 + 0x80 + 0x2000), 11, 0);
  const std::string want(
      "MThd\0\0\0\6\0\0\0\1\3\xC0MTrk\0\0\0\x19\0\xFF\x51\3\7\xA1\x20\x40\xB0\x0B\x7F\x81\0\xB0\x0B\x40\xC0\0"
      "\xB0\x0B\0\0\xFF\x2F\0",
      47);
  EXPECT_EQ(writer.file(), want);
}

TEST(GainCurveFiles, CsvAndMidiSayTheSameMovement) {
  const std::vector<double> triggers{480};
  const auto gain = drawnGain({6, 2, 10, 20}, triggers, kRate, 9600, false);
  const std::string csv = gainCsv(gain, kRate);
  EXPECT_EQ(csv.rfind("time_s,gain_db\n0.000000,0.0000\n", 0), 0u);
  EXPECT_NE(csv.find("0.015000,-6.0000\n"), std::string::npos);
  const std::string midi = gainMidi(gain, kRate, 120);
  // 6 dB down is 64 of 127; the last event is back at 127.
  EXPECT_NE(midi.find(std::string("\xB0\x0B\x40", 3)), std::string::npos);
  EXPECT_EQ(midi.substr(midi.size() - 7, 3), std::string("\xB0\x0B\x7F", 3));
}

TEST(Compare, DifferencesAreAgainstTheMedianOfTheReferences) {
  auto programme = [](double toneAmplitude) {
    auto x = sine(1000, 0.5, 3.0, kRate);
    const auto low = sine(50, toneAmplitude, 3.0, kRate);
    for (size_t i = 0; i < x.size(); ++i) x[i] += low[i];
    return *measureProgramme(bufferOf(x, kRate, 2));
  };
  const auto mix = programme(0.02);
  const std::vector<ProgrammeFacts> references{programme(0.01), programme(0.005), programme(0.03)};
  const auto difference = bandDifferences(mix, references);
  // 50 Hz adds little to K-weighted loudness, so the band stands 20 log10(0.02 / 0.01) over the median.
  EXPECT_NEAR(*difference[1].levelReLufsDb, 6.02, 0.1);
  EXPECT_EQ(difference[1].beyondDb, 0.0) << "one of the references has more";
  EXPECT_EQ(bandVerdict(difference[1]), Verdict::Holds);
  const auto over = bandDifferences(programme(0.06), references)[1];
  EXPECT_NEAR(over.beyondDb, 6.02, 0.1) << "over the loudest of them";
  EXPECT_EQ(bandVerdict(over), Verdict::Off);
  EXPECT_NEAR(bandDifferences(programme(0.004), references)[1].beyondDb, 20 * std::log10(0.8), 0.1);
  EXPECT_EQ(median({3, 1, 2}), 2);
  EXPECT_EQ(median({4, 1, 2, 3}), 2.5);
  EXPECT_FALSE(bandDifferences(mix, {})[1].levelReLufsDb);
  // The same file 9 dB down differs by nothing: loudness matched.
  auto quiet = sine(50, 0.02, 3.0, kRate);
  const auto high = sine(1000, 0.5, 3.0, kRate);
  for (size_t i = 0; i < quiet.size(); ++i) quiet[i] = 0.355 * (quiet[i] + high[i]);
  EXPECT_NEAR(*bandDifferences(mix, {*measureProgramme(bufferOf(quiet, kRate, 2))})[1].levelReLufsDb, 0.0,
              0.05);
}

}  // namespace
}  // namespace heft
