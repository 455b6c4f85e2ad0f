// Built sounds measure as set.

#include "core/measure/events/sound_facts.h"
#include "core/measure/levels/equal_loudness.h"
#include "core/sound/fft.h"
#include "core/theory/note.h"
#include "core/voices/bass_voice.h"
#include "core/voices/kick_voice.h"
#include "core/voices/wave.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

constexpr double kVoiceRate = 48000.0;

KickVoice kick(double midi, double ms, std::vector<FallPoint> fall, double landingAt = 0.4) {
  KickVoice v;
  v.landingMidi = midi;
  v.length = TimeValue::milliseconds(ms);
  v.fall = std::move(fall);
  v.landingAt = landingAt;
  return v;
}

// Mean frequency between two times from the phase of the analytic signal, one long transform: no estimator of
// ours.
double frequencyBetween(const AudioBuffer& sound, double from, double to) {
  const auto first = static_cast<size_t>(from * sound.sampleRate),
             last = static_cast<size_t>(to * sound.sampleRate);
  std::vector<float> part(sound.channels[0].begin() + static_cast<ptrdiff_t>(first),
                          sound.channels[0].begin() + static_cast<ptrdiff_t>(last));
  return frequencyByCrossings(part, sound.sampleRate);
}

TEST(KickVoices, LandWithinACentOfWhatWasSet) {
  const std::vector<std::vector<FallPoint>> falls = {{{0, 12, 0.5}},
                                                     {{0, 24, 0.6}},
                                                     {{0, 36, 0.0}, {0.1, 12, 0.4}},
                                                     {{0, 48, 0.8}, {0.15, 7, 0.0}, {0.3, 5, -0.5}}};
  for (double midi : sweep({28.0, 33.0, 36.4, 45.0}))
    for (double ms : {250.0, 500.0, 900.0})
      for (size_t f = 0; f < falls.size(); ++f)
        for (double rate : {44100.0, 96000.0}) {
          const std::string what = std::to_string(midi) + ", " + std::to_string(ms) + " ms, fall " +
                                   std::to_string(f) + ", " + std::to_string(rate);
          KickVoice v = kick(midi, ms, falls[f]);
          const AudioBuffer bare = renderKick(v, 120, 440, rate);
          // Counted by hand in the rest, without our estimators.
          EXPECT_NEAR(
              centsBetween(hzFromMidi(midi), frequencyBetween(bare, 0.42 * ms / 1000, 0.98 * ms / 1000)), 0.0,
              1.0)
              << what;
          EXPECT_NEAR(measureSound(bare).tailMs, ms, 0.06 * ms + 4) << what << ": the length is the tail";
          v.strike.on = f % 2 == 0;
          v.noise.on = f == 1;
          v.drive.on = f >= 2;
          const Landing landing = measureSound(renderKick(v, 120, 440, rate)).landing;
          ASSERT_TRUE(landing.hz) << what;
          // The estimator needs fifteen cycles of rest to be as good as that.
          const double cycles = 0.6 * ms / 1000 * hzFromMidi(midi);
          EXPECT_NEAR(centsBetween(hzFromMidi(midi), *landing.hz), 0.0, cycles >= 15 ? 1.0 : 3.0) << what;
        }
}

TEST(KickVoices, TheFallGoesThroughItsPoints) {
  const KickVoice v = kick(33, 400, {{0, 31, 0.7}, {0.1, 12, -0.4}, {0.2, 7, 0}}, 0.5);
  EXPECT_DOUBLE_EQ(fallSemitones(v, 0.0), 31);
  EXPECT_NEAR(fallSemitones(v, 0.1), 12, 1e-9);
  EXPECT_NEAR(fallSemitones(v, 0.2), 7, 1e-9);
  EXPECT_NEAR(fallSemitones(v, 0.35), 3.5, 1e-9) << "half way along a straight segment";
  EXPECT_DOUBLE_EQ(fallSemitones(v, 0.5), 0);
  EXPECT_LT(fallSemitones(v, 0.05), 21.5) << "a bend of over 0 falls early";
  EXPECT_GT(fallSemitones(v, 0.15), 9.5) << "under 0 late";
  // The rendered wave: cycles counted over the fall equal the integral of its frequency.
  const AudioBuffer sound = renderKick(v, 120, 440, kVoiceRate);
  int crossings = 0;
  for (size_t i = 1; i < static_cast<size_t>(0.3 * kVoiceRate); ++i)
    crossings += sound.channels[0][i - 1] < 0 && sound.channels[0][i] >= 0;
  double cycles = 0.0;
  for (double t = 0; t < 0.3; t += 1e-5) cycles += 1e-5 * 55.0 * std::exp2(fallSemitones(v, t / 0.4) / 12);
  EXPECT_NEAR(crossings, cycles, 1.0);
}

TEST(KickVoices, TheDecayPassesWhereItIsBentThrough) {
  for (double db : {-39.0, -20.0, -8.0, -0.5})
    for (double hold : {0.0, 0.4}) {
      KickVoice v;
      v.hold = hold, v.decayBend = decayBendThrough(db);
      EXPECT_NEAR(decayDb(v, 0.5 * (hold + 1.0)), db, 1e-9);
    }
  EXPECT_NEAR(decayBendThrough(-20.0), 0.0, 1e-12) << "even in dB";
}

TEST(KickVoices, LengthScalesAllAndVelocityActsWhereChosen) {
  KickVoice v = kick(33, 200, {{0, 24, 0.5}});
  const AudioBuffer shorter = renderKick(v, 120, 440, kVoiceRate);
  v.length = TimeValue::note(1, 4);  // 500 ms at 120
  const AudioBuffer longer = renderKick(v, 120, 440, kVoiceRate);
  EXPECT_NEAR(static_cast<double>(longer.frames()) / static_cast<double>(shorter.frames()), 2.5, 0.01);
  EXPECT_NEAR(measureSound(longer).landing.fallMs / measureSound(shorter).landing.fallMs, 2.5, 0.5);
  v.velocityToLength = 0.6;
  EXPECT_NEAR(measureSound(renderKick(v, 120, 440, kVoiceRate, 0.5)).tailMs, 500 * 0.7, 20);
  EXPECT_DOUBLE_EQ(velocityGain(0.5, 1.0), 0.5);
  EXPECT_DOUBLE_EQ(velocityGain(0.5, 0.0), 1.0);
}

TEST(KickVoices, HaveNoClickOfTheirOwnUnlessAsked) {
  KickVoice v = kick(33, 300, {{0, 12, 0.4}});
  v.attackMs = 3;
  auto highPart = [](const AudioBuffer& s) {
    const std::vector<double> x(s.channels[0].begin(), s.channels[0].end());
    return directBandPower(x, kVoiceRate, 4000, 5000);
  };
  const double clean = highPart(renderKick(v, 120, 440, kVoiceRate));
  v.startPhaseDegrees = 90, v.attackMs = 0;
  EXPECT_GT(highPart(renderKick(v, 120, 440, kVoiceRate)), 1000 * clean);
  EXPECT_NEAR(renderKick(v, 120, 440, kVoiceRate).channels[0][0], 0.5, 1e-3) << "starts at its crest";
  v = kick(33, 300, {{0, 24, 0.5}});
  v.wave = WaveKind::Saw, v.waveAmount = 1.0;
  EXPECT_EQ(renderKick(v, 120, 440, kVoiceRate), renderKick(v, 120, 440, kVoiceRate)) << "the same on every run";
}

TEST(KickVoices, StrikesStandWhereTheyAreSetAndPassTheDriveByChoice) {
  for (StrikeKind kind : kAllStrikes) {
    const Strike s{true, kind, 86, -6, 8, false};
    const auto wave = strikeWave(s, 440, kVoiceRate);
    float peak = 0;
    for (float x : wave) peak = std::max(peak, std::abs(x));
    EXPECT_NEAR(peak, 1.0f, 1e-6) << nameOf(kind);
    EXPECT_NEAR(static_cast<double>(wave.size()), 0.016 * kVoiceRate, 3) << nameOf(kind);
    EXPECT_EQ(wave.front(), 0.0f);
    EXPECT_NEAR(wave.back(), 0.0f, 1e-4) << nameOf(kind);
    EXPECT_EQ(*parseNamed<StrikeKind>(nameOf(kind)), kind);
  }
  // A tuned strike: its tone is where it was set.
  const auto ring = strikeWave({true, StrikeKind::Tick, 93, 0, 60, false}, 440, kVoiceRate);
  EXPECT_NEAR(centsBetween(hzFromMidi(93), frequencyByCrossings({ring.begin(), ring.begin() + 2400}, kVoiceRate)), 0,
              3);
  // Past the drive it is laid on as it is; through the drive it is bent with the body.
  KickVoice v = kick(33, 300, {{0, 24, 0.5}});
  v.drive = {true, DriveKind::Hard, 0, 24, 1};
  const AudioBuffer bare = renderKick(v, 120, 440, kVoiceRate);
  v.strike = {true, StrikeKind::Tick, 86, -6, 8, false};
  const AudioBuffer past = renderKick(v, 120, 440, kVoiceRate);
  const auto wave = strikeWave(v.strike, 440, kVoiceRate);
  v.strike.throughDrive = true;
  const AudioBuffer through = renderKick(v, 120, 440, kVoiceRate);
  double laid = 0, chopped = 0;
  for (size_t i = 0; i < wave.size(); ++i) {
    laid = std::max<double>(laid, std::abs(past.channels[0][i] - bare.channels[0][i] - 0.25059 * wave[i]));
    chopped = std::max<double>(chopped, std::abs(through.channels[0][i] - past.channels[0][i]));
  }
  EXPECT_LT(laid, 1e-4);
  EXPECT_GT(chopped, 0.05);
}

// Fourier series of the plain waves: triangle odd partials by 1 / k^2 in turning signs, square odd by 1 / k,
// saw all.
TEST(Waves, AreTheSumsOfTheirPartialsAndNothingAboveTheBand) {
  for (WaveKind kind : kAllWaves) {
    std::vector<double> x(4800);
    for (size_t i = 0; i < x.size(); ++i)
      x[i] = mixedWave(kind, 1.0, static_cast<double>(i) / 480.0, 1.0 / 480.0);
    auto amplitude = [&](int k) {
      std::complex<double> sum = 0.0;
      for (size_t i = 0; i < x.size(); ++i)
        sum += x[i] * std::polar(1.0, -kTwoPi * k * static_cast<double>(i) / 480.0);
      return -2.0 * sum.imag() / static_cast<double>(x.size());  // of the sine
    };
    for (int k = 1; k <= 24; ++k) {
      const double odd = k % 2;
      const double want = kind == WaveKind::Saw      ? 1.0 / k
                          : kind == WaveKind::Square ? odd / k
                                                     : odd * (k % 4 == 1 ? 1.0 : -1.0) / (k * k);
      EXPECT_NEAR(amplitude(k), want, 1e-6) << nameOf(kind) << " " << k;
    }
    EXPECT_NEAR(amplitude(25), 0.0, 1e-6);
    EXPECT_EQ(*parseNamed<WaveKind>(nameOf(kind)), kind);
    // At 0.12 of the rate a turn the fourth partial is at 0.48: it must be gone.
    double most = 0.0, whole = 0.0;
    for (int i = 0; i < 1000; ++i) {
      const double with = mixedWave(kind, 1.0, 0.12 * i, 0.12);
      double kept = std::sin(kTwoPi * 0.12 * i);
      if (kind == WaveKind::Saw) kept += 0.5 * std::sin(kTwoPi * 0.24 * i);
      const double third = (kind == WaveKind::Triangle ? -1.0 / 9 : 1.0 / 3) * std::sin(kTwoPi * 0.36 * i);
      most = std::max(most, std::abs(with - kept - 0.9 * third));
      whole = std::max(whole, std::abs(with));
    }
    EXPECT_LT(most, 1e-9) << nameOf(kind);
    EXPECT_EQ(mixedWave(kind, 0.0, 0.25, 0.01), 1.0) << "none of it is a sine";
  }
}

TEST(KickVoices, OfferScaleNotesToStartOn) {
  KickVoice v;
  v.landingMidi = 33;
  const Key aMinor{9, Mode::Minor};
  const auto notes = startNotes(v, aMinor);
  ASSERT_FALSE(notes.empty());
  EXPECT_EQ(notes.front(), 40) << "the fifth above A1";
  EXPECT_EQ(notes.back(), 69) << "three octaves above";
  for (int midi : notes) EXPECT_TRUE(aMinor.contains(midi));
}

Phrase oneNote(double midi, double seconds = 1.0) {
  return {{{0.0, seconds, midi, 1.0, {}}}, {}, 0.5, 0.0};
}

BassVoice flat() {
  BassVoice v;
  v.partialDb = {0};
  v.sustainDb = 0;
  return v;
}

TEST(BassVoices, PartialsHaveTheirLevels) {
  BassVoice v = flat();
  v.partialDb = {0, -6, -12, -18, -20, -22, -24, -26};
  v.octaveBelowDb = -9;
  const AudioBuffer sound = renderBass(v, oneNote(45, 2.0), 440, kVoiceRate);
  // 110 Hz over exactly one second: whole turns of it and of its octave below, one line each.
  std::vector<double> x(sound.channels[0].begin() + 24000, sound.channels[0].begin() + 72000);
  auto db = [&](double hz) { return 10 * std::log10(directBandPower(x, kVoiceRate, hz - 0.5, hz + 0.5)); };
  for (int k = 1; k <= 8; ++k)
    EXPECT_NEAR(db(110.0 * k) - db(110.0), *v.partialDb[static_cast<size_t>(k - 1)], 0.05) << k;
  EXPECT_NEAR(db(55.0) - db(110.0), -9, 0.05);
  EXPECT_NEAR(peakOf(sound), 0.5, 0.01) << "whatever the partials, the peak is -6 dBFS";
}

TEST(BassVoices, EnvelopeSustainsBelowItsPeakAndReleases) {
  BassVoice v = flat();
  v.attackMs = 10, v.decayMs = 200, v.sustainDb = -8, v.releaseMs = 100;
  const AudioBuffer sound = renderBass(v, oneNote(57, 1.0), 440, kVoiceRate);
  auto levelAt = [&](double seconds) {
    const auto at = static_cast<size_t>(seconds * kVoiceRate);
    float peak = 0;
    for (size_t i = at; i < at + 240; ++i) peak = std::max(peak, std::abs(sound.channels[0][i]));
    return 20 * std::log10(peak / 0.5);
  };
  EXPECT_NEAR(levelAt(0.010), 0.0, 0.3);
  EXPECT_NEAR(levelAt(0.108), -4.0, 0.3) << "half way down after half the decay";
  EXPECT_NEAR(levelAt(0.6), -8.0, 0.1);
  EXPECT_NEAR(levelAt(1.05 - 0.0025), -8.0 - 30.0, 1.6) << "half the release";
  EXPECT_NEAR(sound.seconds(), 1.1, 0.001);
}

TEST(BassVoices, FixedStartGivesTheSameHitAndFreeStartDoesNot) {
  BassVoice v = flat();
  v.startPhaseDegrees = 90, v.attackMs = 0;
  Phrase a = oneNote(33), b = oneNote(33);
  b.startInSong = 1.2345;
  EXPECT_EQ(renderBass(v, a, 440, kVoiceRate), renderBass(v, b, 440, kVoiceRate));
  EXPECT_NEAR(renderBass(v, a, 440, kVoiceRate).channels[0][0], 0.5, 1e-3);
  v.freePhase = true;
  const double turns = 1.2345 * 55.0;
  EXPECT_NEAR(renderBass(v, b, 440, kVoiceRate).channels[0][0], 0.5 * std::sin(kTwoPi * (turns + 0.25)), 1e-3);
}

TEST(BassVoices, GlidesAndDivesGoWhereTheySay) {
  Phrase p{{{0.0, 1.0, 33, 1, {}}, {1.0, 1.0, 45, 1, Dive{12, 1.0, 0.5, 0.0}}}, {}, 0.5, 0.0};
  EXPECT_DOUBLE_EQ(pitchAt(p, 100, 0.999), 33);
  EXPECT_NEAR(pitchAt(p, 100, 1.05), 39, 1e-9) << "half the glide";
  EXPECT_NEAR(pitchAt(p, 100, 1.2), 45, 1e-9);
  EXPECT_NEAR(pitchAt(p, 100, 1.5 + 0.125), 39, 1e-9) << "half the dive: a quarter lasts 0.5 s";
  EXPECT_NEAR(pitchAt(p, 100, 1.9), 33, 1e-9);
  p.bend = {{0.0, 0.0}, {0.5, -2.0}, {0.9, 0.0}};
  EXPECT_NEAR(pitchAt(p, 100, 0.25), 32, 1e-9);
  EXPECT_NEAR(pitchAt(p, 100, 0.95), 33, 1e-9);
  // Heard: crossings counted before the glide, after it, and after the dive.
  p.bend.clear();
  const AudioBuffer sound = renderBass(flat(), p, 440, kVoiceRate);
  EXPECT_NEAR(frequencyBetween(sound, 0.2, 0.99), 55.0, 0.05);
  EXPECT_NEAR(frequencyBetween(sound, 1.12, 1.49), 110.0, 0.1);
  EXPECT_NEAR(frequencyBetween(sound, 1.78, 1.99), 55.0, 0.1);
  // No break at the tie: a struck note would restart.
  for (size_t i = 47000; i < 53000; ++i)
    ASSERT_LT(std::abs(sound.channels[0][i + 1] - sound.channels[0][i]), 0.008f);
}

TEST(BassVoices, BandsStayOutOfTheBottomAndWidthStaysAbove) {
  BassVoice v = flat();
  auto lowOf = [&](const BassVoice& voice) {
    const AudioBuffer s = renderBass(voice, oneNote(33, 1.0), 440, kVoiceRate);
    const auto mono = monoFold(s);
    return directBandPower({mono.begin() + 9600, mono.begin() + 9600 + 24000}, kVoiceRate, 40, 70);
  };
  const double bare = lowOf(v);
  v.mid.levelDb = -10;
  v.mid.lowCutHz = 200;
  v.high.levelDb = -18;
  v.width = 1.0;
  v.widthFromHz = 300;
  EXPECT_NEAR(10 * std::log10(lowOf(v) / bare), 0.0, 0.05) << "the low band is left alone";
  for (auto kind : {HighBand::Kind::Fm, HighBand::Kind::Noise}) {
    v.high.kind = kind;
    const AudioBuffer s = renderBass(v, oneNote(33, 1.0), 440, kVoiceRate);
    ASSERT_EQ(s.channelCount(), 2u);
    std::vector<double> side, mid;
    for (size_t i = 9600; i < 33600; ++i) {
      side.push_back(0.5 * (s.channels[0][i] - s.channels[1][i]));
      mid.push_back(0.5 * (s.channels[0][i] + s.channels[1][i]));
    }
    EXPECT_LT(10 * std::log10(directBandPower(side, kVoiceRate, 20, 120) / directBandPower(mid, kVoiceRate, 20, 120)),
              -50);
    EXPECT_GT(10 * std::log10(directBandPower(side, kVoiceRate, 500, 4000) / directBandPower(mid, kVoiceRate, 500, 4000)),
              -10);
  }
}

TEST(EqualLoudness, MatchesThePublishedContours) {
  // ISO 226:2003, annex B (values from memory of its table): 40 phon at 20, 100, 1000 and 4000 Hz; 80 phon
  // at 50.
  EXPECT_NEAR(levelForPhon(20, 40), 99.85, 0.1);
  EXPECT_NEAR(levelForPhon(100, 40), 64.37, 0.1);
  EXPECT_NEAR(levelForPhon(1000, 40), 40.01, 0.05);
  EXPECT_NEAR(levelForPhon(31.5, 40), 88.17, 0.1);
  EXPECT_NEAR(levelForPhon(200, 40), 53.41, 0.1);
  for (double hz : {20.0, 31.5, 55.0, 110.0, 440.0, 1000.0, 5000.0})
    for (double phon : {20.0, 40.0, 60.0, 80.0})
      EXPECT_NEAR(phonOf(hz, levelForPhon(hz, phon)), phon, 0.2) << hz;
  EXPECT_EQ(phonOf(50, 40), 0.0) << "under the threshold of 44 dB";
  // A bare sine at A1 is gone on a laptop; its fourth partial at -20 dB is not (common practice).
  const std::array<std::optional<double>, 4> levels{0, {}, -60, -20};
  const auto heard = heardOnSmallSpeaker(55.0, levels);
  EXPECT_FALSE(heard[1].audible || heard[1].phon) << "out";
  EXPECT_FALSE(heard[0].audible);
  EXPECT_TRUE(heard[3].audible);
  EXPECT_TRUE(isHeavyRoot(hzFromMidi(29)) && isHeavyRoot(hzFromMidi(32)));
  EXPECT_FALSE(isHeavyRoot(hzFromMidi(33)));
}

}  // namespace
}  // namespace heft
