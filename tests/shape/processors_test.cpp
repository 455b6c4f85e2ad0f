// Processors against their published forms: resonance and amount of an EQ, its phase, a band-limited drive,
// upward compression, the width of the lows.

#include <cmath>
#include <complex>

#include "core/looks/processor_look.h"
#include "core/measure/levels/loudness.h"
#include "core/render/sounds/chain.h"
#include "core/render/sounds/sounds.h"
#include "core/session/edits/chain.h"
#include "core/shape/drive.h"
#include "core/shape/dynamics.h"
#include "core/shape/eq.h"
#include "core/shape/width.h"
#include "core/sound/convolve.h"
#include "core/sound/fft.h"
#include "core/sound/filter.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

constexpr double kTwoPi = 6.283185307179586;

// The sum over a whole number of periods.
std::complex<double> toneIn(const std::vector<float>& x, double hz, double rate, size_t from, size_t count) {
  std::complex<double> sum;
  for (size_t i = from; i < from + count; ++i) sum += std::polar<double>(x[i], -kTwoPi * hz * double(i) / rate);
  return 2.0 * sum / static_cast<double>(count);
}

// A Butterworth cut of order n is -3.01 dB at its frequency (S. Butterworth, 1930); a resonance raises that,
// and has no effect far from it.
TEST(Cuts, StandUpByTheirResonanceAtTheirFrequency) {
  for (const int slope : {12, 24, 36, 48})
    for (const double resonance : {0.0, 6.0, 18.0}) {
      Eq eq;
      eq.lowCut = {true, 60.0, slope, resonance};
      EXPECT_NEAR(eqResponseDb(eq, 48000, 60.0), -3.0103 + resonance, 0.01) << slope;
      EXPECT_NEAR(eqResponseDb(eq, 48000, 2000.0), 0.0, 0.02) << slope;
      EXPECT_NEAR(eqResponseDb(eq, 48000, 12.0) - eqResponseDb(eq, 48000, 6.0), slope, 0.5) << slope;
      Eq high;
      high.highCut = {true, 900.0, slope, resonance};
      EXPECT_NEAR(eqResponseDb(high, 48000, 900.0), -3.0103 + resonance, 0.05) << slope;
    }
  // At its limit it rings without running away.
  Eq most;
  most.lowCut = {true, 20.0, 48, 18.0};
  AudioBuffer x = bufferOf(noise(1.0, 96000, 3), 48000);
  applyEq(x, most);
  EXPECT_LT(peakOf(x), 20.0);
}

TEST(Equaliser, ItsAmountScalesGainsAndLeavesCuts) {
  Eq eq;
  eq.bands[0] = {true, EqBand::Kind::Bell, 100, -8, 1.2};
  eq.bands[1] = {true, EqBand::Kind::Notch, 400, 0, 4};
  eq.lowCut = {true, 30, 24};
  const double cutDb = eqResponseDb(eq, 48000, 20), notchDb = eqResponseDb(eq, 48000, 396);
  for (const double amount : {0.0, 0.5, 1.0, 1.5}) {
    eq.amount = amount;
    Eq bell = onlyPlace(eq, 1);
    EXPECT_NEAR(eqResponseDb(bell, 48000, 100), -8 * amount, 1e-6);
    EXPECT_NEAR(eqResponseDb(eq, 48000, 20), cutDb, 0.4);
    EXPECT_NEAR(eqResponseDb(eq, 48000, 396), notchDb, 0.6);
  }
  eq.lowCut.on = eq.bands[1].on = false, eq.amount = 0.0;
  EXPECT_FALSE(eq.works());
}

// The stated phase is what a tone is shifted by.
TEST(Equaliser, TurnsATonesPhaseByWhatItSays) {
  constexpr double kHz = 55.0, kRate = 48000.0;
  const auto plain = bufferOf(sine(kHz, 0.5, 2.0, kRate), kRate);
  std::vector<Eq> all(3);
  all[0].lowCut = {true, 35, 24, 3};
  all[1].bands[2] = {true, EqBand::Kind::Bell, 80, 6, 2};
  all[2].lowCut = {true, 30, 48}, all[2].bands[0] = {true, EqBand::Kind::LowShelf, 120, -5, 0.7};
  for (const Eq& eq : all) {
    AudioBuffer turned = plain;
    applyEq(turned, eq);
    const size_t count = 48000, from = 48000;  // a whole second: 55 turns
    const auto was = toneIn(plain.channels[0], kHz, kRate, from, count),
               is = toneIn(turned.channels[0], kHz, kRate, from, count);
    EXPECT_NEAR(std::arg(is / was) * 360.0 / kTwoPi, eqTurnDegrees(eq, kRate, kHz), 0.01);
    EXPECT_NEAR(20 * std::log10(std::abs(is / was)), eqResponseDb(eq, kRate, kHz), 0.001);
  }
}

// Linear phase: the same magnitudes, no phase shift, symmetric about a strike.
TEST(Equaliser, LinearPhaseTurnsNothing) {
  constexpr double kRate = 48000.0;
  std::vector<Eq> all(4);
  all[0].lowCut = {true, 35, 24, 3};
  all[1].bands[2] = {true, EqBand::Kind::Bell, 80, 6, 2};
  all[2].lowCut = {true, 30, 48}, all[2].bands[0] = {true, EqBand::Kind::LowShelf, 120, -5, 0.7};
  all[3].highCut = {true, 300, 36}, all[3].bands[1] = {true, EqBand::Kind::Notch, 150, 0, 3};
  for (Eq& eq : all) {
    eq.linearPhase = true;
    const auto response = linearPhaseResponse(eq, kRate);
    ASSERT_EQ(response.size() % 2, 1u);
    EXPECT_EQ(std::vector<float>(response.rbegin(), response.rend()), response);
    for (const double hz : {25.0, 55.0, 80.0, 400.0}) {
      const double seconds = 2.0 + 2.0 * static_cast<double>(response.size()) / kRate;
      const auto plain = bufferOf(sine(hz, 0.5, seconds, kRate), kRate).channels[0];
      const auto after = convolved(plain, response);
      const size_t reach = response.size() / 2, from = 2 * reach, count = 48000;
      const auto was = toneIn(plain, hz, kRate, from, count),
                 is = toneIn(after, hz, kRate, from + reach, count);
      // The tone `reach` later is turned by its own way there alone.
      const auto ratio = is / was * std::polar(1.0, kTwoPi * hz * double(reach) / kRate);
      const double db = eqResponseDb(eq, kRate, hz);
      if (db < -60.0) continue;
      EXPECT_NEAR(20 * std::log10(std::abs(ratio)), db, db < -20.0 ? 1.0 : 0.05) << hz;
      if (db > -20.0) EXPECT_NEAR(std::arg(ratio) * 360.0 / kTwoPi, 0.0, 0.05) << hz;
    }
    EXPECT_EQ(eqTurnDegrees(eq, kRate, 55.0), 0.0);
  }
}

// A bell's poles (the cookbook's: quality A Q, A the root of its gain) ring exp(-pi f t / (A Q)), to both sides
// here; that magnitudes are roots of what is rational takes up to 1 / sqrt(t) more of it away.
TEST(Equaliser, LinearPhaseRingsAsLongAsItsPoles) {
  constexpr double kRate = 48000.0, kHz = 80.0;
  for (const double q : {2.0, 4.0, 8.0}) {
    Eq eq;
    eq.linearPhase = true;
    eq.bands[0] = {true, EqBand::Kind::Bell, kHz, 12.0, q};
    const auto response = linearPhaseResponse(eq, kRate);
    const size_t middle = response.size() / 2;
    auto ringAt = [&](double turns) {
      return std::abs(response[middle - static_cast<size_t>(std::lround(turns * kRate / kHz))]);
    };
    const double poles = std::pow(10.0, 12.0 / 40.0) * q;
    const double falls = ringAt(4.0) / ringAt(2.0), byPoles = std::exp(-kTwoPi / 2.0 * 2.0 / poles);
    EXPECT_LT(falls, 1.02 * byPoles) << q;
    EXPECT_GT(falls, 0.95 * std::sqrt(0.5) * byPoles) << q;
  }
}

Drive heldDrive(DriveKind kind, double driveDb, double from, double to) {
  Drive out{true, kind, 0.0, driveDb, 1.0};
  out.fromHz = from, out.toHz = to;
  return out;
}

// A tone in the band and one below it: the first is driven, the second stays, and aliases stay 80 dB down.
TEST(Drives, HeldToABandLeaveTheBottomAloneAndDoNotAlias) {
  constexpr double kRate = 48000.0;
  const auto low = bufferOf(sine(45.0, 0.8, 1.5, kRate), kRate);
  for (const DriveKind kind : kAllDrives) {
    if (kind == DriveKind::Rate) continue;
    AudioBuffer bottom = low;
    applyDrive(bottom, heldDrive(kind, 18.0, 400.0, 4000.0));
    double off = 0.0;
    for (size_t i = 24000; i < bottom.frames(); ++i)
      off = std::max<double>(off, std::abs(bottom.channels[0][i] - low.channels[0][i]));
    EXPECT_LT(off, 0.8 * 0.01) << nameOf(kind);  // -40 dB of it
    AudioBuffer clean = low;
    applyDrive(clean, heldDrive(kind, 0.0, 30.0, 2000.0));
    EXPECT_GT(peakOf(clean), 0.3);
    // 2 kHz to a whole number of turns of an odd length: aliases fall between the partials.
    const size_t n = 30011;
    const double turns = std::round(2000.0 * static_cast<double>(n) / kRate);
    AudioBuffer high(kRate, 1, 3 * n);
    for (size_t i = 0; i < 3 * n; ++i)
      high.channels[0][i] = static_cast<float>(std::sin(kTwoPi * turns * double(i) / double(n)));
    applyDrive(high, heldDrive(kind, 24.0, 500.0, 6000.0));
    RealFft fft(n);
    for (size_t i = 0; i < n; ++i) fft.time()[i] = high.channels[0][n + i];
    fft.forward();
    const auto base = static_cast<size_t>(turns);
    double worst = 0.0, partials = 0.0;
    for (size_t k = 3; k < fft.bins().size(); ++k)
      (k % base ? worst : partials) = std::max(k % base ? worst : partials, std::abs(fft.bins()[k]));
    EXPECT_LT(20 * std::log10(worst / partials), -80.0) << nameOf(kind);
  }
}

// What is soft is driven by the curve's slope at rest and no more: then the sound is itself and so much of its
// band.
TEST(Drives, TheBandAndTheRestAreTheSound) {
  const auto x = bufferOf(noise(0.001, 24000, 8), 48000);
  AudioBuffer y = x, band = x;
  applyDrive(y, heldDrive(DriveKind::Hard, 6.0, 200.0, 2000.0));
  Eq cuts;
  cuts.lowCut = {true, 200, 24}, cuts.highCut = {true, 2000, 24};
  applyEq(band, cuts);
  const double slope = driveCurve(DriveKind::Hard, 6.0, 1e-6) / 1e-6;
  EXPECT_GT(slope, 1.5);
  for (size_t i = 500; i < 23000; ++i)
    ASSERT_NEAR(y.channels[0][i], x.channels[0][i] + (slope - 1.0) * band.channels[0][i], 2e-6);
  // The tone lies over what is driven: at 8 kHz a shelf above 800 Hz is whole (cookbook).
  auto level = [](double toneDb) {
    AudioBuffer tone = bufferOf(sine(8000, 0.01, 0.5, 48000), 48000);
    Drive d{true, DriveKind::Soft, 0.0, 0.0, 1.0};
    d.toneDb = toneDb;
    applyDrive(tone, d);
    return 20 * std::log10(std::abs(toneIn(tone.channels[0], 8000, 48000, 6000, 6000)));
  };
  EXPECT_NEAR(level(-9) - level(0), -9.0, 0.3);
}

// Below its threshold a ratio R leaves 1 / R of the distance: the compressor's curve (Giannoulis, Massberg,
// Reiss, 2012, equation 4) turned over.
TEST(Dynamics, WhatIsQuietComesUpByTheCurveTurnedOver) {
  Compressor c;
  c.on = true, c.ratio = 1.0, c.kneeDb = 0.0, c.liftBelowDb = -20, c.liftRatio = 4, c.mostLiftDb = 12;
  EXPECT_NEAR(compressedDb(c, -10), -10, 1e-12);
  EXPECT_NEAR(compressedDb(c, -28), -22, 1e-12);
  EXPECT_NEAR(compressedDb(c, -50), -38, 1e-12) << "no more than the most";
  EXPECT_NEAR(compressedDb(c, -75), -75, 1e-12) << "noise stays where it is";
  c.kneeDb = 8;
  double last = compressedDb(c, -70);
  for (double x = -69.5; x <= 0; x += 0.5) {
    EXPECT_GE(compressedDb(c, x), last) << "louder in is louder out";
    last = compressedDb(c, x);
  }
  // A quiet tone, long enough for both times; silence stays silence; beside itself by half.
  AudioBuffer tone = bufferOf(sine(400, amplitudeFromDb(-30), 2.0, 48000), 48000);
  c.attackMs = 1, c.releaseMs = 30, c.kneeDb = 0;
  auto gainOf = [&](const Compressor& by) {
    AudioBuffer x = tone;
    applyCompressor(x, by);
    return 20 * std::log10(std::abs(toneIn(x.channels[0], 400, 48000, 48000, 24000))) + 30;
  };
  EXPECT_NEAR(gainOf(c), 7.7, 0.3) << "7.5 at its crests, more between";
  Compressor half = c;
  half.mix = 0.5;
  EXPECT_NEAR(gainOf(half), 20 * std::log10(0.5 + 0.5 * amplitudeFromDb(gainOf(c))), 0.02);
  Compressor none = c;
  none.mix = 0.0;
  AudioBuffer same = tone;
  applyCompressor(same, none);
  EXPECT_EQ(same, tone);
  AudioBuffer silence(48000, 2, 4800);
  applyCompressor(silence, c);
  EXPECT_EQ(peakOf(silence), 0.0);
}

// Loudness by libebur128 (ITU-R BS.1770-4), of kick and bass over the loop: a drive, a room, a boost and an EQ
// of linear phase change the tone and not the level, on a layer, on a part's hits and over its lane.
TEST(Loudness, IsKeptByAProcessorThatIsAskedTo) {
  Drive drive{true, DriveKind::Firm, 0.0, 18.0, 1.0};
  Eq boost;
  boost.bands[0] = {true, EqBand::Kind::LowShelf, 90.0, 9.0, 0.7};
  Eq linear = boost;
  linear.linearPhase = true;
  Room room;
  room.on = true, room.wet = 0.5;
  auto lufs = [](const Signal& lane, double rate) {
    return measureLoudness(lane.toBuffer(rate), false)->integratedLufs.value_or(-99.0);
  };
  for (const Processor::What& what : std::vector<Processor::What>{drive, boost, linear, room})
    for (const int where : {0, 1, 2})
      for (const bool bass : {false, true}) {
        Session s = theDemo().session;
        s.duck().on = false, s.kick().finish = s.bass().finish = {};
        Part& part = bass ? s.bass() : s.kick();
        StepCache cache;
        const auto lane = [&] {
          return lufs((*render(s, theDemo().assets, cache)).lane(part.id)->heard, 48000.0);
        };
        const double was = lane();
        Chain& chain = where == 0 ? part.layers[0].chain : part.finish;
        part.finishOver = where == 2 ? FinishOver::Lane : FinishOver::Hits;

        const double within = 1.0;
        Processor p{1, what};
        chain.list = {p};
        const double plain = lane();
        chain.list[0].keepsLoudness = true;
        const double kept = lane();
        EXPECT_LT(std::abs(kept - was), within)
            << what.index() << " at " << where << (bass ? " bass" : " kick");
        if (std::abs(plain - was) > 2.0) EXPECT_LT(std::abs(kept - was), 0.5 * std::abs(plain - was));
        const auto look =
            lookAt(s, where == 0 ? Owner{.part = part.id, .layer = part.layers[0].id} : Owner{.part = part.id},
                   1, theDemo().assets, cache);
        ASSERT_TRUE(look && look->keptDb);
        EXPECT_NEAR(*look->keptDb, kept - plain, within) << what.index() << " at " << where;
      }
}

// A file that begins with silence is matched from its strike on; a preset that replaces a processor with kept
// loudness keeps it too.
TEST(Loudness, IsKeptFromTheStrikeOnAndByWhatReplacesIt) {
  const auto kick = makeKick({});
  std::vector<double> late(static_cast<size_t>(0.9 * 48000), 0.0);
  late.insert(late.end(), kick.begin(), kick.end());
  StepCache cache;
  const Assets none;
  const SoundSteps steps(none, cache, 48000);
  Chain chain;
  chain.list = {{1, Drive{true, DriveKind::Firm, 0.0, 18.0, 1.0}}};
  chain.list[0].keepsLoudness = true;
  AudioBuffer early = bufferOf(kick, 48000), behind = bufferOf(late, 48000);
  applyChain(early, steps.ready(chain), 0.0);
  applyChain(behind, steps.ready(chain), 0.9);
  EXPECT_NEAR(dbFromAmplitude(peakOf(behind) / peakOf(early)), 0.0, 0.5);
  chain.list[0].keepsLoudness = false;
  AudioBuffer plain = bufferOf(kick, 48000);
  applyChain(plain, steps.ready(chain), 0.0);
  EXPECT_GT(dbFromAmplitude(peakOf(plain) / peakOf(early)), 2.0);
  chain.list[0].keepsLoudness = true;
  Session s = theDemo().session;
  const Owner of{.part = s.kick().id, .layer = s.kick().layers[0].id};
  s.kick().layers[0].chain = chain;
  const Session flipped = putProcessor(of, 1, {7, Drive{true, DriveKind::Fold, 0.0, 9.0, 1.0}}, "x").applied(s);
  const Processor& now = flipped.kick().layers[0].chain.list[0];
  EXPECT_EQ(now.as<Drive>()->kind, DriveKind::Fold);
  EXPECT_TRUE(now.keepsLoudness);
}

TEST(Widths, SidesGoBelowTheFrequencyAndTheMiddleStays) {
  const auto low = sine(50, 0.5, 1.0, 48000), high = sine(1500, 0.3, 1.0, 48000),
             mid = sine(70, 0.4, 1.0, 48000);
  AudioBuffer x(48000, 2, low.size());
  for (size_t i = 0; i < low.size(); ++i) {
    x.channels[0][i] = static_cast<float>(mid[i] + low[i] + high[i]);
    x.channels[1][i] = static_cast<float>(mid[i] - low[i] - high[i]);
  }
  AudioBuffer y = x;
  applyWidth(y, {true, 1.0, 200.0});
  std::vector<float> side(low.size());
  for (size_t i = 0; i < side.size(); ++i) {
    side[i] = 0.5f * (y.channels[0][i] - y.channels[1][i]);
    ASSERT_NEAR(0.5 * (y.channels[0][i] + y.channels[1][i]), mid[i], 1e-6);
  }
  const auto at = [&](double hz) { return 20 * std::log10(std::abs(toneIn(side, hz, 48000, 24000, 24000))); };
  EXPECT_NEAR(at(50), 20 * std::log10(0.5) - 48.2, 0.5) << "two octaves under, 24 dB each";
  EXPECT_NEAR(at(1500), 20 * std::log10(0.3), 0.1);
  // A mono sound has no sides.
  AudioBuffer one = bufferOf(low, 48000);
  const AudioBuffer was = one;
  applyWidth(one, {true, 0.0, 100.0});
  EXPECT_EQ(one, was);
}

// The backing's own: in the render, in the file, out again.
TEST(Widths, TheBackingIsMonoBelowItsFrequency) {
  Session s = theDemo().session;
  StepCache cache;
  auto sideEnergy = [&](const Session& of, double low, double high) {
    const auto stems = rendered(of, cache);
    std::vector<double> side(stems.frames);
    for (size_t i = 0; i < side.size(); ++i) side[i] = stems.backing.at(0, i) - stems.backing.at(1, i);
    double energy = 0.0;
    for (const double v : bandLimited(side, 48000, low, high)) energy += v * v;
    return energy;
  };
  const double lows = sideEnergy(s, 20, 100), highs = sideEnergy(s, 2000, 6000);
  ASSERT_GT(lows, 0.0);
  s.backing.monoBelowHz = 400.0;
  EXPECT_LT(sideEnergy(s, 20, 100), 1e-3 * lows);
  EXPECT_NEAR(sideEnergy(s, 2000, 6000) / highs, 1.0, 0.01);
  EXPECT_EQ(*sessionFromJson(sessionToJson(s), "s"), s);
}

// The breath of a built bass's mid band, held to a band of its own before the drive.
TEST(BassNoise, LiesInItsBand) {
  BassVoice voice;
  voice.partialDb = {}, voice.mid.levelDb = 0.0, voice.mid.noiseDb = 0.0, voice.mid.lowCutHz = 20,
  voice.mid.drive.on = false;
  Phrase phrase;
  phrase.notes = {{0.0, 1.0, 33, 1.0, {}}};
  auto power = [&](double low, double high) {
    const AudioBuffer x = renderBass(voice, phrase, 440, 48000);
    double energy = 0.0;
    const std::vector<double> wave(x.channels[0].begin(), x.channels[0].end());
    for (const double v : bandLimited(wave, 48000, low, high)) energy += v * v;
    return energy;
  };
  const double below = power(5000, 9000), within = power(1000, 2000);
  voice.mid.noiseFromHz = 800.0, voice.mid.noiseToHz = 2500.0;
  EXPECT_LT(power(5000, 9000), 0.02 * below);
  EXPECT_NEAR(power(1000, 2000) / within, 1.0, 0.2);
}

}  // namespace
}  // namespace heft
