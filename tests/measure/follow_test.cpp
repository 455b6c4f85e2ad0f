// Sounds that never rest: paths of glides known to the cent, a second estimator on them, sounds without a
// path, and hand-set landings.

#include "core/measure/pitch/follow.h"

#include <gtest/gtest.h>

#include "core/measure/events/sound_facts.h"
#include "core/theory/note.h"
#include "core/tune/path_edit.h"
#include "core/tune/retune.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

constexpr double kRate = 48000;

struct Slide {
  double fromHz, toHz, seconds;
  double second = 0.0;   // level of the second partial
  double noiseDb = -90;  // re full scale
  unsigned seed = 1;
  double rate = kRate;
  // Exponential: the same cents a second from start to end.
  double hzAt(double t) const { return fromHz * std::pow(toHz / fromHz, std::clamp(t / seconds, 0.0, 1.0)); }
};

std::vector<double> made(const Slide& s) {
  const auto frames = static_cast<size_t>(s.seconds * s.rate);
  auto out = noise(amplitudeFromDb(s.noiseDb), frames, s.seed);
  double phase = 0;
  for (size_t i = 0; i < frames; ++i) {
    const double t = static_cast<double>(i) / s.rate;
    const double level = 0.7 * std::min(1.0, t / 0.002) * std::exp(-2.5 * t / s.seconds);
    out[i] += level * (std::sin(phase) + s.second * std::sin(2 * phase));
    phase += kTwoPi * s.hzAt(t + 0.5 / s.rate) / s.rate;
  }
  return out;
}

SoundFacts facts(const std::vector<double>& x, const LandingOptions& options = {}, double rate = kRate) {
  return measureSound(bufferOf(x, rate), options);
}

// Generated slides of known path: the path lies on it where the sound is heard, from its first cycles on.
TEST(Slides, ThePathIsTheOneThatWasMade) {
  std::vector<double> errors, firstErrors;
  unsigned seed = 1;
  for (double from : {70.0, 110.0})
    for (double semitones : {-9.0, -5.0, 4.0})
      for (double second : {0.0, 0.4})
        for (double noiseDb : {-90.0, -45.0})
          for (double rate : {44100.0, 48000.0}) {
            const Slide slide{from, from * std::exp2(semitones / 12), 0.6, second, noiseDb, ++seed, rate};
            const auto f = facts(made(slide), {}, rate);
            ASSERT_TRUE(f.landing.slides()) << from << " " << semitones << " " << second << " " << noiseDb;
            EXPECT_GT(f.landing.heardConfidence, 0.5);
            EXPECT_GT(f.landing.slideCents, 100) << from << " " << semitones;
            for (const PitchPoint& p : f.landing.path)
              if (p.seconds < 0.5)
                (p.seconds < 0.05 ? firstErrors : errors)
                    .push_back(std::abs(centsBetween(slide.hzAt(p.seconds), p.hz)));
            EXPECT_NEAR(centsBetween(slide.fromHz, f.landing.startHz), 0, 100) << from << " " << semitones;
            const double low = std::min(slide.fromHz, slide.toHz), high = std::max(slide.fromHz, slide.toHz);
            EXPECT_GT(*f.landing.heardHz, low * 0.99);
            EXPECT_LT(*f.landing.heardHz, high * 1.01);
          }
  ASSERT_GT(errors.size(), 500u);
  std::sort(errors.begin(), errors.end());
  EXPECT_LT(errors[errors.size() / 2], 1.0) << "median, cents";
  EXPECT_LT(errors[errors.size() * 95 / 100], 15.0) << "95 of 100, cents";
  std::sort(firstErrors.begin(), firstErrors.end());
  ASSERT_GT(firstErrors.size(), 100u);
  EXPECT_LT(firstErrors[firstErrors.size() / 2], 5.0) << "median of the first 50 ms, cents";
  EXPECT_LT(firstErrors[firstErrors.size() * 9 / 10], 50.0) << "90 of 100 of the first 50 ms, cents";
}

// A second estimator that shares nothing with the first: rising zero crossings, a period at a time.
TEST(Slides, ThePathAgreesWithPeriodsReadFromZeroCrossings) {
  const auto x = made({95, 52, 0.7});
  const auto f = facts(x);
  ASSERT_TRUE(f.landing.slides());
  double last = -1;
  int compared = 0;
  for (size_t i = 1; i < x.size(); ++i) {
    if (!(x[i - 1] < 0 && x[i] >= 0)) continue;
    const double at = static_cast<double>(i - 1) + x[i - 1] / (x[i - 1] - x[i]);
    const double middle = (at + last) / 2 / kRate;
    if (last > 0 && middle > 0.06 && middle < 0.55) {
      EXPECT_NEAR(centsBetween(kRate / (at - last), *pathHzAt(f.landing.path, middle)), 0, 12) << middle;
      ++compared;
    }
    last = at;
  }
  EXPECT_GT(compared, 20);
}

TEST(Slides, NoiseHatsClicksAndSilenceGiveNothing) {
  int claimed = 0;
  const int count = isWatched() ? 3 : 20;
  for (int seed = 0; seed < count; ++seed) {
    auto x = noise(0.2, 24000, 500 + static_cast<unsigned>(seed));
    for (size_t i = 0; i < x.size(); ++i) x[i] *= std::exp(-static_cast<double>(i) / (1500.0 * (1 + seed % 5)));
    if (seed % 2) {  // a hat: nothing under 6 kHz
      Biquad high(Biquad::highPass(kRate, 6000, 0.7));
      for (double& v : x) v = high.process(v);
    }
    const auto f = facts(x);
    claimed += f.landing.noteHz() ? 1 : 0;
  }
  EXPECT_LE(claimed, 0);
  EXPECT_FALSE(facts(std::vector<double>(24000, 0.0)).landing.noteHz());
  std::vector<double> click(24000, 0.0);
  click[100] = 0.9;
  EXPECT_FALSE(facts(click).landing.noteHz());
}

// Straightened and tuned, a sliding kick rests within 10 cents of its target over the part that is heard.
// What comes to rest only when it is as good as over is heard where it was before.
TEST(Slides, ARestThatIsHardlyHeardIsNoLanding) {
  for (double downDb : {18.0, 24.0}) {
    std::vector<double> x(static_cast<size_t>(0.45 * kRate));
    double phase = 0;
    for (size_t i = 0; i < x.size(); ++i) {
      const double t = static_cast<double>(i) / kRate, glide = std::clamp((t - 0.08) / 0.05, 0.0, 1.0);
      x[i] = 0.7 * std::min(1.0, t / 0.002) * amplitudeFromDb(-downDb * glide) * std::exp(-4.0 * t) *
             std::sin(phase);
      phase += kTwoPi * (t < 0.08 ? 70.0 * std::exp2(-t) : 66.2 * std::exp2(-0.3 * glide)) / kRate;
    }
    const auto f = facts(x);
    ASSERT_TRUE(f.landing.noteHz()) << downDb;
    EXPECT_NEAR(centsBetween(68.0, *f.landing.noteHz()), 0, 80) << downDb;
  }
}

// A glide of 0.6 s that comes to rest; cut off before that, its rest is inaudible.
TEST(Slides, CutOffBeforeItsRestASoundDoesNotLandThere) {
  std::vector<double> x(2 * 48000);
  double phase = 0;
  for (size_t i = 0; i < x.size(); ++i) {
    const double t = static_cast<double>(i) / kRate;
    x[i] = 0.7 * std::exp(-t / 0.35) * std::sin(phase);
    phase += kTwoPi * 90.0 * std::exp2(-0.6 * std::min(t, 0.6)) / kRate;
  }
  const Landing whole = facts(x).landing;
  ASSERT_TRUE(whole.hz);
  EXPECT_NEAR(*whole.hz, 90.0 * std::exp2(-0.36), 0.1);
  const Landing cut = keptUntil(whole, 0.17);
  EXPECT_TRUE(cut.slides()) << "what rests is gone";
  ASSERT_TRUE(cut.noteHz());
  EXPECT_GT(*cut.noteHz(), 90.0 * std::exp2(-0.6 * 0.17)) << "it is heard where it was by then";
  EXPECT_LT(*cut.noteHz(), 90.5);
  EXPECT_EQ(keptUntil(whole, 0.9).hz, whole.hz);
  LandingOptions named;
  named.atMs = 700;
  const Landing byHand = facts(x, named).landing;
  EXPECT_EQ(keptUntil(byHand, 0.17, named).hz, byHand.hz) << "what was named by hand stays";
}

TEST(Slides, StraightenedTheyRestOnTheTarget) {
  for (double toHz : {46.0, 58.0}) {
    const auto source = bufferOf(made({toHz * std::exp2(6.0 / 12), toHz, 0.6}), kRate);
    const auto f = measureSound(source);
    ASSERT_TRUE(f.landing.slides());
    const AudioBuffer level = pathEdited(source, f, {0.0, 10.0, 1.0});
    const auto straight = measureSound(level);
    ASSERT_TRUE(straight.landing.hz) << straight.landing.reason;
    const double target = hzFromMidi(std::round(midiFromHz(*straight.landing.hz)));
    const auto landed = retunedToLand(level, straight, target, {});
    ASSERT_TRUE(landed);
    const auto after = measureSound(landed->result.sound);
    double loudest = 0;
    for (const PitchPoint& p : after.landing.path) loudest = std::max(loudest, p.amplitude);
    for (const PitchPoint& p : after.landing.path)
      if (p.amplitude > 0.1 * loudest && p.seconds > 0.06)
        EXPECT_NEAR(centsBetween(target, p.hz), 0, 10) << toHz << " at " << p.seconds;
  }
}

// By hand: the marked moment is the note, every shift uses it, and it moves with the sound.
TEST(Slides, ALandingNamedByHandIsWhatTuningGoesBy) {
  const Slide slide{100, 50, 0.6};
  const auto source = bufferOf(made(slide), kRate);
  for (double atMs : {150.0, 300.0, 450.0}) {
    LandingOptions byHand;
    byHand.atMs = atMs;
    const auto f = measureSound(source, byHand);
    ASSERT_TRUE(f.landing.hz);
    EXPECT_EQ(f.landing.confidence, 1.0);
    EXPECT_NEAR(centsBetween(slide.hzAt(atMs / 1000), *f.landing.hz), 0, 8) << atMs;
    const auto landed = retunedToLand(source, f, 65.41, {});
    ASSERT_TRUE(landed);
    EXPECT_NEAR(landed->semitones, 12 * std::log2(65.41 / *f.landing.hz), 0.1);
    const double faster = 65.41 / *f.landing.hz;
    EXPECT_NEAR(centsBetween(65.41, slide.hzAt(atMs / 1000) * faster), 0, 8);
    EXPECT_NEAR(centsBetween(65.41, landed->afterHz.value_or(1)), 0, 2) << "measured again at that moment";
    EXPECT_NEAR(*bandAfter(f, {.semitones = landed->semitones}).atMs, atMs / faster, 3.0);
  }
  LandingOptions beyond;
  beyond.atMs = 5000;
  const auto none = measureSound(source, beyond);
  EXPECT_FALSE(none.landing.noteHz());
  EXPECT_NE(none.landing.reason.find("is not on its path"), std::string::npos);
  LandingOptions pitch;
  pitch.atHz = 61.7;
  EXPECT_EQ(*measureSound(source, pitch).landing.hz, 61.7);
  EXPECT_EQ(*measureSound(bufferOf(noise(0.1, 9600, 3), kRate), pitch).landing.hz, 61.7) << "the ear decides";
}

// Claps and high snares have their note up to 5 kHz.
TEST(Slides, NotesUpToFiveKilohertzAreReadInTheirBand) {
  for (double hz : {900.0, 2100.0, 3900.0})
    for (double rate : {44100.0, 96000.0}) {
      auto x = sine(hz, 0.5, 0.4, rate);
      const auto hiss = noise(0.02, x.size(), 5);
      for (size_t i = 0; i < x.size(); ++i)
        x[i] = (x[i] + hiss[i]) * std::exp(-8.0 * static_cast<double>(i) / rate);
      const auto f = measureSound(bufferOf(x, rate), {.lowHz = 500, .highHz = kHighestBandHz});
      ASSERT_TRUE(f.landing.hz) << hz << " " << rate << ": " << f.landing.reason;
      EXPECT_NEAR(centsBetween(hz, *f.landing.hz), 0, 3) << hz;
    }
}

}  // namespace
}  // namespace heft
