// What the pictures of processors say, against closed forms, and that linear phase moves no strike.

#include <cmath>

#include "core/looks/processor_look.h"
#include "core/sound/filter.h"
#include "core/study/study.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

struct Shot {
  Session s;
  Assets assets;
  Owner layer;
  TemporaryFolder folder;

  explicit Shot(const std::vector<double>& x) {
    const auto file = writeSound(folder, "shot.wav", bufferOf(x, 48000));
    s.kick().layers = {recordedLayer(assets.add(*loadSound(file), file))};
    s.kick().hits = {{0}};
    layer = {.part = s.kick().id, .layer = s.kick().layers[0].id};
  }
  std::optional<ProcessorLook> look(const Processor::What& what) {
    s.kick().layers[0].chain = {};
    StepCache cache;
    return lookAt(s, layer, *s.kick().layers[0].chain.put({0, what}), assets, cache);
  }
};

// sin(g sin x) is 2 J1(g), 2 J3(g), 2 J5(g)... at its odd partials (Jacobi and Anger; Abramowitz and
// Stegun 9.1.43): what the picture says of a fold.
TEST(ProcessorLooks, AFoldedSineHasBesselsPartials) {
  Shot shot(sine(60.0, 0.999, 1.2, 48000));
  for (const double driveDb : {6.0, 12.0}) {
    const auto look = shot.look(Drive{true, DriveKind::Fold, 0.0, driveDb, 1.0});
    ASSERT_TRUE(look && look->noteHz);
    EXPECT_NEAR(*look->noteHz, 60.0, 0.1);
    ASSERT_GE(look->partials.size(), 7u);
    const double g = 0.999 * amplitudeFromDb(driveDb);
    const double most = amplitudeFromDb(driveDb) < 1.5708 ? std::sin(amplitudeFromDb(driveDb)) : 1.0;
    for (const int k : {1, 3, 5, 7}) {
      const double said = look->partials[static_cast<size_t>(k - 1)].afterDb;
      const double bessel = 20 * std::log10(2.0 * std::abs(std::cyl_bessel_j(k, g)) / most);
      if (bessel > -60) EXPECT_NEAR(said, bessel, 0.3) << k << " at " << driveDb;
    }
    EXPECT_LT(look->partials[1].afterDb, -60.0) << "a fold has odd partials";
    EXPECT_NEAR(look->partials[0].beforeDb, 0.0, 0.1);
    EXPECT_NEAR(look->crestBeforeDb, 3.01, 0.1) << "of a sine";
  }
}

// The figures of a compressor on a step of level: the static curve's depth; gone without it.
TEST(ProcessorLooks, SayHowMuchIsTakenAndForHowLong) {
  auto x = sine(100.0, 0.9, 1.4, 48000);
  for (size_t i = 24000; i < x.size(); ++i) x[i] *= 0.02;  // 34 dB down after half a second
  Shot shot(x);
  Compressor c{true, -18, 4, 0, 1, 50, 0};
  const auto look = shot.look(c);
  ASSERT_TRUE(look && look->backAfterMs);
  const double wanted = -0.92 - compressedDb(c, -0.92);
  EXPECT_NEAR(look->takenDb, wanted, 0.8) << "of a sine's crests";
  EXPECT_GT(look->takenAtMs, 0.0);
  // From the step on it is within 1 dB after 50 ms times the logarithm of its depth.
  EXPECT_NEAR(look->takenAtMs + *look->backAfterMs, 500.0 + 50.0 * std::log(look->takenDb), 30.0);
  c.on = false;
  EXPECT_EQ(shot.look(c)->takenDb, 0.0);
  EXPECT_FALSE(shot.look(c)->pair) << "that is asked of an EQ";
  StepCache cache;
  EXPECT_FALSE(lookAt(shot.s, shot.layer, 77, shot.assets, cache)) << "there is none";
  EXPECT_FALSE(lookAt(shot.s, {.part = 99}, 1, shot.assets, cache));
}

// An EQ on the kick turns it against the bass: told as the study of both sessions tells it.
TEST(ProcessorLooks, AnEqTellsWhatThePairLosesByItsPhase) {
  Session s = theDemo().session;
  const Owner kick{.part = s.kick().id};
  Eq eq;
  eq.lowCut = {true, 40, 48};
  const int id = *s.kick().finish.put({0, eq});
  StepCache cache;
  const auto look = lookAt(s, kick, id, theDemo().assets, cache);
  ASSERT_TRUE(look && look->pair);
  auto level = [&](const Session& of) {
    const auto stems = render(of, theDemo().assets, cache);
    return study(of, theDemo().assets, *stems, cache)->pair.alignedDb;
  };
  EXPECT_NEAR(look->pair->withDb, level(s), 1e-6);
  EXPECT_NEAR(look->pair->withoutDb, level(theDemo().session), 1e-6);
  EXPECT_GE(look->pair->alignedDb, look->pair->withDb - 1e-9);
  EXPECT_NEAR(look->pair->turnDegrees, eqTurnDegrees(eq, s.track.sampleRate, *look->noteHz), 1e-9);
  // Of the sum there is no pair to turn.
  const int sum = *s.sum.finish.put({0, eq});
  const auto whole = lookAt(s, {}, sum, theDemo().assets, cache);
  ASSERT_TRUE(whole);
  EXPECT_FALSE(whole->pair);
  EXPECT_GT(whole->before.size(), 1000u);
}

// Pre-ringing by time and level: more for a narrower band, none for minimum phase.
TEST(ProcessorLooks, AnEqOfLinearPhaseTellsWhatRingsAhead) {
  auto x = sine(80.0, 0.9, 1.0, 48000);
  x.insert(x.begin(), 24000, 0.0);
  Shot shot(x);
  Eq eq;
  eq.bands[0] = {true, EqBand::Kind::Bell, 80.0, 12.0, 2.0};
  EXPECT_FALSE(shot.look(eq)->ringing);
  eq.linearPhase = true;
  double last = 0.0;
  for (const double q : {2.0, 4.0, 8.0}) {
    eq.bands[0].q = q;
    const auto look = shot.look(eq);
    ASSERT_TRUE(look && look->ringing && look->ringing->highestDb);
    // Of a tone that begins, half of what the bell adds stands at the strike, and falls with its poles.
    const double gain = std::pow(10.0, 12.0 / 20.0), half = 0.5 * (gain - 1.0) / gain;
    const double poles = std::pow(10.0, 12.0 / 40.0) * q;
    EXPECT_NEAR(*look->ringing->highestDb, 20 * std::log10(half), 3.0) << q;
    const double byPoles = 1000.0 * std::log(half / 0.01) * poles / (2.0 * 3.14159265358979 / 2.0 * 80.0);
    EXPECT_LT(look->ringing->ms, 1.05 * byPoles) << q;
    EXPECT_GT(look->ringing->ms, 0.65 * byPoles) << q;
    EXPECT_GT(look->ringing->ms, last);
    last = look->ringing->ms;
    // It strikes where it did.
    EXPECT_NEAR(look->before[600], x[24000 + 600 - 480], 5e-3);
  }
}

// A bell and its inverse of linear phase are nothing, wherever they stand: hits and notes strike when they did.
TEST(Chains, LinearPhaseLeavesEveryStrikeInItsPlace) {
  Session plain = theDemo().session;
  plain.bass().layers.push_back(plain.bass().layers[0]);
  plain.bass().layers[1].id = 2, plain.bass().layers[1].offsetMs = -7.0;
  StepCache cache;
  auto sumOf = [&](const Session& s) {
    return render(s, theDemo().assets, cache)->sum.toBuffer(s.track.sampleRate);
  };
  const auto was = sumOf(plain).channels[0];
  Eq up;
  up.linearPhase = true, up.bands[0] = {true, EqBand::Kind::Bell, 70, 6, 1.5};
  Eq down = up;
  down.bands[0].gainDb = -6;
  Session lane = plain;
  lane.kick().finishOver = FinishOver::Lane;
  const std::pair<Session, Owner> places[] = {{plain, {.part = 1, .layer = plain.kick().layers[0].id}},
                                              {plain, {.part = 1}},
                                              {plain, {.part = 2, .layer = 2}},
                                              {plain, {.part = 2}},
                                              {lane, {.part = 1}},
                                              {plain, {}}};
  for (const auto& [from, owner] : places) {
    Session s = from;
    chainOf(s, owner)->put({0, up});
    const auto once = sumOf(s).channels[0];
    chainOf(s, owner)->put({0, down});
    const auto is = sumOf(s).channels[0];
    ASSERT_EQ(is.size(), was.size());
    float most = 0.0f, turned = 0.0f;
    for (size_t i = 0; i < is.size(); ++i)
      most = std::max(most, std::abs(is[i] - was[i])), turned = std::max(turned, std::abs(once[i] - was[i]));
    EXPECT_LT(most, 2e-3) << ownerName(owner);
    EXPECT_GT(turned, 0.02) << ownerName(owner) << ": one alone is heard";
  }
}
}  // namespace
}  // namespace heft
