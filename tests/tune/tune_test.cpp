// Retuning: the landing measured again, the strike, the joint, and the proposals in words.

#include <gtest/gtest.h>

#include "core/shape/trim.h"
#include "core/sound/filter.h"
#include "core/tune/kit.h"
#include "core/tune/path_edit.h"
#include "core/tune/retune.h"
#include "core/tune/targets.h"
#include "core/voices/kick_voice.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/landing_by_phase.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

// Independently of the product, over the rested tail alone.
double secondOpinion(const AudioBuffer& sound, double guessHz, double restFromSeconds) {
  const auto mono = monoFold(sound);
  const auto from = static_cast<size_t>(restFromSeconds * sound.sampleRate);
  return landingByPhase(std::span(mono).subspan(from), sound.sampleRate, guessHz).value_or(0.0);
}

struct Source {
  AudioBuffer sound;
  SoundFacts facts;
};

Source kickAt(double hz, double tailMs = 300, double rate = 48000) {
  KickRecipe recipe;
  recipe.landingHz = hz;
  recipe.tailMs = tailMs;
  recipe.sampleRate = rate;
  recipe.clickDb = -12;
  Source out;
  out.sound = bufferOf(makeKick(recipe), rate);
  out.facts = measureSound(out.sound);
  return out;
}

constexpr TuneMethod kAllMethods[] = {TuneMethod::Varispeed, TuneMethod::HoldLength, TuneMethod::Bend,
                                      TuneMethod::Split};

TEST(Retune, LandsWithinTwoCentsOfTheTarget) {
  for (TuneMethod method : kAllMethods)
    for (double semitones : {-7.0, -0.58, 1.0, 7.0})
      for (double rate : sweep({44100.0, 96000.0})) {
        const auto source = kickAt(52.0, 400, rate);
        const double target = 52.0 * std::exp2(semitones / 12);
        const auto landed = retunedToLand(source.sound, source.facts, target, {method, 0, 10});
        ASSERT_TRUE(landed) << landed.error().reason;
        ASSERT_TRUE(landed->afterHz);
        EXPECT_NEAR(1200 * std::log2(*landed->afterHz / target), 0.0, 2.0)
            << nameOf(method) << " " << semitones << " " << rate;
        EXPECT_NEAR(landed->semitones, semitones, 0.15);
        // Measured again by a method that the product does not use.
        EXPECT_NEAR(1200 * std::log2(secondOpinion(landed->result.sound, 1.01 * target, 0.09) / target), 0.0,
                    2.0)
            << "by phase, " << nameOf(method) << " " << semitones << " " << rate;
      }
}

// A tom's fall is short and its note high; an 808's tail is long.
TEST(Retune, TomsAndLongTailsLandByEveryMethod) {
  KickRecipe tom, tail;
  tom.landingHz = 140, tom.fallSemitones = 5, tom.tailMs = 250, tom.clickDb = -18;
  tail.landingHz = 43, tail.fallSemitones = 12, tail.tailMs = 1500, tail.clickDb = -24;
  for (const KickRecipe& recipe : {tom, tail}) {
    const auto sound = bufferOf(makeKick(recipe), 48000);
    const auto facts = measureSound(sound);
    for (TuneMethod method : kAllMethods)
      for (double semitones : {-1.7, 2.3}) {
        const double target = recipe.landingHz * std::exp2(semitones / 12);
        const auto landed = retunedToLand(sound, facts, target, {method, 0, 10});
        ASSERT_TRUE(landed);
        EXPECT_NEAR(1200 * std::log2(secondOpinion(landed->result.sound, target, 0.09) / target), 0.0, 2.0)
            << recipe.landingHz << " " << nameOf(method) << " " << semitones;
      }
  }
}

// A snare: a head with a second mode at 1.59 times its first (an ideal membrane's: Rayleigh, Theory of Sound,
// chapter 9) under rattling wires.
AudioBuffer snareAt(double hz, double wiresDb, unsigned seed) {
  const auto wires = noise(0.5, 19200, seed);
  Biquad low(Biquad::highPass(48000, 900, 0.707)), high(Biquad::lowPass(48000, 9000, 0.707));
  std::vector<double> x(wires.size());
  double phase = 0.0;
  for (size_t i = 0; i < x.size(); ++i) {
    const double t = static_cast<double>(i) / 48000;
    phase += 2 * M_PI * hz * std::exp2(4 * std::exp(-t / 0.006) / 12) / 48000;
    const double head =
        std::exp(-t / 0.045) * std::sin(phase) + 0.3 * std::exp(-t / 0.03) * std::sin(1.593 * phase);
    x[i] = 0.5 * std::min(1.0, t / 0.0006) * head +
           amplitudeFromDb(wiresDb) * high.process(low.process(wires[i])) * std::exp(-t / 0.06);
  }
  return bufferOf(x, 48000);
}

TEST(Retune, SnaresLandUnderTheirWires) {
  for (double hz : sweep({160.0, 185.0, 210.0})) {
    const auto sound = snareAt(hz, -12, static_cast<unsigned>(hz));
    const auto facts = measureSound(sound);
    ASSERT_TRUE(facts.landing.hz) << hz;
    EXPECT_NEAR(1200 * std::log2(*facts.landing.hz / hz), 0.0, 2.0);
    for (TuneMethod method : kAllMethods)
      for (double semitones : {-1.7, 2.3}) {
        const double target = hz * std::exp2(semitones / 12);
        const auto landed = retunedToLand(sound, facts, target, {method, 0, 10});
        ASSERT_TRUE(landed);
        EXPECT_NEAR(1200 * std::log2(secondOpinion(landed->result.sound, target, 0.03) / target), 0.0, 2.0)
            << hz << " " << nameOf(method) << " " << semitones;
      }
  }
}

// Kicks with few cycles of rest, whose tail a stretcher's long windows would smear and mistune.
TEST(Retune, ShortKicksKeepTheirLengthAndLandToo) {
  for (double hz : {38.0, 45.0, 62.0, 86.0})
    for (double tailMs : sweep({90.0, 140.0, 200.0})) {
      KickRecipe recipe;
      recipe.landingHz = hz, recipe.tailMs = tailMs, recipe.clickDb = -20, recipe.fallSemitones = 18;
      const auto sound = bufferOf(makeKick(recipe), 48000);
      const auto facts = measureSound(sound);
      if (!facts.landing.hz) continue;
      for (double semitones : {-1.5, 0.3, 2.5}) {
        const double target = *facts.landing.hz * std::exp2(semitones / 12);
        const auto landed = retunedToLand(sound, facts, target, {TuneMethod::HoldLength, 0, 10});
        ASSERT_TRUE(landed);
        const auto after = measureSound(landed->result.sound);
        const std::string what =
            std::to_string(hz) + " Hz, " + std::to_string(tailMs) + " ms, " + std::to_string(semitones);
        ASSERT_TRUE(after.landing.hz) << what;
        EXPECT_NEAR(1200 * std::log2(*after.landing.hz / target), 0.0, 2.0) << what;
        EXPECT_EQ(landed->result.sound.frames(), sound.frames());
        EXPECT_NEAR(after.tailMs, facts.tailMs, 0.1 * facts.tailMs) << what;
      }
    }
}

TEST(Retune, HoldLengthKeepsEveryFrameAndTheOnset) {
  const auto source = kickAt(50);
  for (double semitones : {-5.0, -1.0, 2.0, 5.0}) {
    const auto out = retuned(source.sound, {TuneMethod::HoldLength, semitones, 10}, 0);
    ASSERT_TRUE(out);
    EXPECT_EQ(out->sound.frames(), source.sound.frames());
    const auto facts = measureSound(out->sound);
    EXPECT_NEAR(*facts.onsetSeconds, *source.facts.onsetSeconds, 0.0005) << "no echo before it";
    // The strike is not doubled: above 2 kHz the second ten milliseconds hold no more than they did.
    auto tops = [](const AudioBuffer& sound, size_t from, size_t to) {
      Biquad cut(Biquad::highPass(48000, 2000, 0.707));
      double energy = 0.0;
      for (size_t i = 0; i < to; ++i) {
        const double y = cut.process(sound.channels[0][i]);
        if (i >= from) energy += y * y;
      }
      return 10 * std::log10(energy + 1e-12);
    };
    EXPECT_LT(tops(out->sound, 480, 1440),
              std::max(tops(source.sound, 480, 1440) + 6.0, tops(source.sound, 0, 480) - 20.0))
        << semitones;
  }
}

TEST(Retune, BendGoesOverWithoutABreak) {
  const auto source = kickAt(53);
  for (double semitones : {-3.0, 1.5, 3.0}) {
    const auto out = retuned(source.sound, {TuneMethod::Bend, semitones, 10}, 0.0);
    ASSERT_TRUE(out);
    // Its length is that of the strike, the glide and the body at its pace, within a few milliseconds.
    const double whole = source.sound.seconds(), speed = std::exp2(semitones / 12);
    EXPECT_NEAR(out->sound.seconds(), 0.015 + (whole - 0.015) / speed, 0.004);
  }
}

TEST(Retune, VarispeedScalesTheLengthByTheInverseRatio) {
  const auto source = kickAt(50);
  for (double semitones : {-12.0, -5.0, 2.0, 12.0}) {
    const auto out = retuned(source.sound, {TuneMethod::Varispeed, semitones, 10}, 0);
    ASSERT_TRUE(out);
    EXPECT_NEAR(static_cast<double>(out->sound.frames()),
                static_cast<double>(source.sound.frames()) / std::exp2(semitones / 12), 1.5);
  }
}

TEST(Retune, TheStrikeStaysSampleForSample) {
  const auto source = kickAt(53);
  for (TuneMethod method : {TuneMethod::HoldLength, TuneMethod::Bend, TuneMethod::Split})
    for (double strikeMs : {5.0, 10.0, 20.0}) {
      const auto out = retuned(source.sound, {method, 0.8, strikeMs}, 0.0);
      ASSERT_TRUE(out);
      const auto split = static_cast<size_t>(std::lround(strikeMs * 48));
      for (size_t i = 0; i < split; ++i) ASSERT_EQ(out->sound.channels[0][i], source.sound.channels[0][i]) << i;
    }
}

// The joint: no step larger than the wave's own, and no notch of level through it.
TEST(Retune, JointsHaveNoClickAndNoNotch) {
  KickRecipe recipe;
  recipe.landingHz = 53.2;
  const auto sound = bufferOf(makeKick(recipe), 48000);
  for (TuneMethod method : {TuneMethod::HoldLength, TuneMethod::Bend, TuneMethod::Split})
    for (double semitones : {-1.5, 0.58, 1.5}) {
      const auto out = retuned(sound, {method, semitones, 20}, 0.0);
      ASSERT_TRUE(out);
      auto curvature = [](const std::vector<float>& x, size_t from, size_t to) {
        double most = 0;
        for (size_t i = from; i < to; ++i)
          most = std::max(most, std::abs(static_cast<double>(x[i + 1]) - 2 * x[i] + x[i - 1]));
        return most;
      };
      const size_t joint = 20 * 48;
      EXPECT_LT(curvature(out->sound.channels[0], joint - 20, joint + 200),
                2.0 * curvature(sound.channels[0], joint - 200, joint + 400));
      auto level = [](const std::vector<float>& x, size_t from, size_t count) {
        double sum = 0;
        for (size_t i = from; i < from + count; ++i) sum += static_cast<double>(x[i]) * x[i];
        return 10 * std::log10(sum);
      };
      EXPECT_NEAR(level(out->sound.channels[0], joint, 900), level(sound.channels[0], joint, 900), 1.5)
          << nameOf(method) << " " << semitones;
    }
}

TEST(Retune, NothingIsRaisedPastFullScaleAndTheStrikeStays) {
  AudioBuffer sound = bufferOf(sine(50, 0.999, 0.5, 48000), 48000);
  // Square-like body: resampling it overshoots.
  for (float& x : sound.channels[0]) x = x > 0 ? 0.999f : -0.999f;
  for (TuneMethod method : kAllMethods) {
    const auto out = retuned(sound, {method, 1.3, 10}, 0.0);
    ASSERT_TRUE(out);
    EXPECT_LE(peakOf(out->sound), 1.0);
    EXPECT_LT(out->bodyGainDb, -0.1);
    if (method != TuneMethod::Varispeed) {
      EXPECT_EQ(out->sound.channels[0][300], sound.channels[0][300]);
    }
  }
}

TEST(Retune, WhatMakesNoSenseIsSaid) {
  const auto source = kickAt(50, 100);
  EXPECT_FALSE(retuned(source.sound, {TuneMethod::Varispeed, 100, 10}, 0));
  EXPECT_FALSE(retuned(source.sound, {TuneMethod::Split, 1, 0}, 0));
  EXPECT_FALSE(retunedToLand(AudioBuffer(48000, 1, 1000), measureSound(AudioBuffer(48000, 1, 1000)), 55, {}));
}

// One or two semitones keep a recorded drum's character (common practice).
TEST(Targets, ProposeTheBasssNoteItsOctaveAndTheTonic) {
  const Key key = *parseKey("A minor");
  const auto targets = tuneTargets(32.42, 31, key);
  ASSERT_GE(targets.size(), 4u);
  EXPECT_EQ(targets[0].midi, 31);
  EXPECT_NEAR(targets[0].semitones, -1.42, 1e-9);
  // Then by shift: the tonic 58 cents up before C2, the third, of A minor, and B1 before the fifth.
  EXPECT_EQ(targets[1].midi, 33);
  EXPECT_EQ(targets[1].why, "tonic, up");
  auto has = [&](int midi) {
    return std::any_of(targets.begin(), targets.end(), [midi](const TuneTarget& t) { return t.midi == midi; });
  };
  for (int midi : {43, 21, 28, 40}) EXPECT_TRUE(has(midi)) << "octave above, tonic down, fifth down and up";
  for (size_t i = 2; i < targets.size(); ++i)
    EXPECT_GE(std::abs(targets[i].semitones), std::abs(targets[i - 1].semitones));
  EXPECT_EQ(distanceText(32.42, 33, {}), "58 cents below A1");
  EXPECT_EQ(distanceText(35.12, 33, {}), "2 semitones and 12 cents above A1");
  EXPECT_EQ(distanceText(33.004, 33, {}), "on A1");
  EXPECT_EQ(distanceText(32.0, 33, {}), "1 semitone below A1");
  EXPECT_EQ(strainOf(0.9), Strain::Light);
  EXPECT_EQ(strainOf(-1.9), Strain::Noticeable);
  EXPECT_EQ(strainOf(2.1), Strain::Heavy);
}

// A tail that sinks by `drift` semitones over half a second, as a loose skin does.
AudioBuffer driftingKick(double drift) {
  std::vector<double> x(28000);
  double phase = 0.0;
  for (size_t i = 0; i < x.size(); ++i) {
    const double t = static_cast<double>(i) / 48000;
    x[i] = 0.8 * std::min(1.0, t / 0.001) * std::exp(-9.0 * t) * std::sin(2 * M_PI * phase);
    phase += 55.0 * std::exp2((20.0 * std::exp(-t / 0.012) + drift * t / 0.5) / 12) / 48000;
  }
  return bufferOf(x, 48000);
}

TEST(PathEdits, DrawADriftingTailOntoItsLanding) {
  for (double drift : {-0.8, 0.5}) {
    const auto sound = driftingKick(drift);
    const auto facts = measureSound(sound);
    ASSERT_TRUE(facts.landing.hz);
    auto spread = [&](const AudioBuffer& of) {
      double most = 0.0;
      // By the other estimator, in stretches of the tail.
      for (double from : {0.1, 0.2, 0.3}) {
        const auto mono = monoFold(of);
        const auto hz = landingByPhase(std::span(mono).subspan(static_cast<size_t>(from * 48000), 7200), 48000,
                                       *facts.landing.hz);
        if (hz) most = std::max(most, std::abs(1200 * std::log2(*hz / *facts.landing.hz)));
      }
      return most;
    };
    EXPECT_GT(spread(sound), 10.0);
    EXPECT_LT(spread(pathEdited(sound, facts, {0.0, 10.0, 1.0})), 2.0) << drift;
    const double half = spread(pathEdited(sound, facts, {0.0, 10.0, 0.5}));
    EXPECT_NEAR(half, 0.5 * spread(sound), 0.15 * spread(sound));
  }
}

TEST(PathEdits, RaiseTheStrikeAndLeaveTheBody) {
  const auto source = kickAt(52);
  EXPECT_EQ(pathEdited(source.sound, source.facts, {}), source.sound) << "nothing asked, nothing done";
  for (double semitones : {-7.0, 5.0, 7.0}) {
    const auto out = pathEdited(source.sound, source.facts, {semitones, 10.0, 0.0});
    const auto facts = measureSound(out);
    EXPECT_NEAR(1200 * std::log2(*facts.landing.hz / *source.facts.landing.hz), 0.0, 2.0) << semitones;
    // Pitch over the strike, from the path of the fall.
    auto early = [](const SoundFacts& f, double ms) {
      double sum = 0.0, count = 0.0;
      for (const PitchPoint& p : f.landing.path)
        if (p.seconds < *f.onsetSeconds + ms / 1000.0) sum += std::log2(p.hz), count += 1.0;
      return sum / count;
    };
    EXPECT_NEAR(12.0 * (early(facts, 9.0 / std::exp2(semitones / 12)) - early(source.facts, 9.0)), semitones,
                2.0);
    // What follows is the same, only sooner or later.
    const auto shift = static_cast<ptrdiff_t>(out.frames()) - static_cast<ptrdiff_t>(source.sound.frames());
    double across = 0, own = 0, other = 0;
    for (size_t i = 4800; i < 14400; ++i) {
      const double a = source.sound.channels[0][i],
                   b = out.channels[0][static_cast<size_t>(static_cast<ptrdiff_t>(i) + shift)];
      across += a * b, own += a * a, other += b * b;
    }
    EXPECT_GT(across / std::sqrt(own * other), 0.99) << semitones;
  }
}

TEST(Kits, GoWhereTheyAreStrainedLeast) {
  const Key key = *parseKey("A minor");
  EXPECT_EQ(kitTarget(32.4, key), 33) << "the tonic is near";
  EXPECT_EQ(kitTarget(51.2, key), 52) << "the fifth";
  EXPECT_EQ(kitTarget(48.6, key), 48) << "neither within two semitones: a note of the scale";
  std::vector<double> shifts;
  for (double midi = 20.0; midi < 90.0; midi += 0.13) {
    EXPECT_TRUE(key.contains(kitTarget(midi, key))) << midi;
    EXPECT_LE(std::abs(kitTarget(midi, key) - midi), 2.0) << midi;
  }
  EXPECT_EQ(nameWithNote("/x/Pan snare.wav", "E3"), "Pan snare E3");
  EXPECT_EQ(nameWithNote("Pan snare D3.wav", "E3"), "Pan snare E3");
  EXPECT_EQ(nameWithNote("tom_F#2.flac", "E2"), "tom E2");
  EXPECT_EQ(nameWithNote("Kick 46.wav", "A1"), "Kick 46 A1");
  // As long as set, to -40 dB, whatever the method does to its start.
  const auto tail = [](const AudioBuffer& sound) { return measureSound(sound).tailMs; };
  Drum drum{.path = "pan.wav"};
  KickVoice voice;
  voice.length = TimeValue::milliseconds(400);
  drum.sound = std::make_shared<AudioBuffer>(renderKick(voice, 120, 440, 48000, 1.0));
  measureDrum(drum, key, 440);
  ASSERT_TRUE(drum.targetMidi);
  EXPECT_GT(tail(tunedDrum(drum, 440, 120)->result.sound), 250.0);
  drum.length = TimeValue::note(1, 16);
  EXPECT_NEAR(tail(tunedDrum(drum, 440, 120)->result.sound), 125.0, 12.0);
  EXPECT_LT(tail(tunedDrum(drum, 440, 240)->result.sound), 70.0) << "a note follows the tempo";
  TunedDrum tuned{"x.wav", 110.1, 1.0, 0.0, 110.0};
  EXPECT_EQ(doubtOf(tuned), "") << "1.6 cents";
  tuned.afterHz = 108.0;
  EXPECT_NE(doubtOf(tuned).find("32 cents under"), std::string::npos) << doubtOf(tuned);
  tuned.afterHz.reset();
  EXPECT_NE(doubtOf(tuned).find("no note"), std::string::npos);
  EXPECT_EQ(strainInWords({TuneMethod::Varispeed, 12.0, 10}, 0.5),
            "strained: use another sample, strike brighter, 500 to 250 ms long");
  EXPECT_EQ(strainInWords({TuneMethod::HoldLength, -0.5, 10}, 0.5),
            "light, 10 ms of strike untouched, length kept");
}

TEST(Trim, TheTailIsGoneWhereTheLengthStands) {
  const auto source = kickAt(55, 400);
  for (double length : {0.06, 0.125, 0.25}) {
    const auto out = trimmedTail(source.sound, 0.0, length);
    const auto tail = measureSound(out).tailMs;
    EXPECT_LE(tail, 1000 * length * 1.05) << length;
    EXPECT_GE(tail, 1000 * length * 0.7) << length;
    // The beginning is untouched.
    for (size_t i = 0; i < static_cast<size_t>(0.39 * length * 48000); ++i)
      ASSERT_EQ(out.channels[0][i], source.sound.channels[0][i]);
    EXPECT_NEAR(out.channels[0].back(), 0.0f, 1e-4);
  }
  EXPECT_EQ(trimmedTail(source.sound, 0.0, std::nullopt), source.sound);
}

}  // namespace
}  // namespace heft
