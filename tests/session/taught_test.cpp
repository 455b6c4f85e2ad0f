// MIDI learn: how controllers map to values, how they take over, what a session keeps.

#include "core/session/edits/taught.h"

#include <gtest/gtest.h>

#include <random>

#include "core/session/edits/chain.h"
#include "core/session/fields.h"

namespace heft {
namespace {

constexpr Control kKnob{Control::Kind::Controller, 3, 21};

Session driven() {
  Session s;
  s.kick().layers = {Layer{1}};
  s.kick().layers[0].what = KickVoice();
  Processor drive = freshProcessor(3);
  return addProcessor({.part = s.kick().id, .layer = 1}, drive).applied(s);
}
Owner driveOf(const Session& s) {
  return {s.kick().id, 1, {}, s.kick().layers[0].chain.list[0].id};
}

TEST(Taught, EveryNumberOfASessionGoesWhereTheControlIs) {
  const Session s = driven();
  const Owner layer{.part = s.kick().id, .layer = 1}, duck{.duck = s.duck().id};
  const std::pair<Owner, std::string> values[] = {{driveOf(s), "drive.drive_db"},
                                                  {driveOf(s), "drive.mix"},
                                                  {layer, "level_db"},
                                                  {layer, "semitones"},
                                                  {layer, "mute"},
                                                  {duck, "curve.depth_db"},
                                                  {duck, "curve.attack"},
                                                  {duck, "curve.velocity_to_depth"},
                                                  {{}, "track.tempo_bpm"},
                                                  {{}, "backing.low_cut_hz"},
                                                  {driveOf(s), "drive.from_hz"},
                                                  {{.part = s.kick().id}, "align.delay_ms"}};
  for (const auto& [owner, key] : values) {
    const auto v = valueAt(s, owner, key);
    ASSERT_TRUE(v) << key;
    ASSERT_TRUE(canBeTurned(*v)) << key;
    double last = -1.0;
    for (const double place : {0.0, 0.1, 0.37, 0.5, 0.82, 1.0}) {
      const auto edit = turnTo(s, {kKnob, owner, key}, place);
      ASSERT_TRUE(edit) << key;
      const auto after = valueAt(edit->applied(s), owner, key);
      const double at = placeOf(*after, s.track.tempoBpm);
      EXPECT_GE(at, last) << key;
      if (!std::holds_alternative<bool>(after->now)) EXPECT_NEAR(at, place, 1e-9) << key;
      last = at;
    }
    EXPECT_EQ(last, 1.0) << key << " reaches its end";
  }
  // Choices of words and missing values cannot be controlled.
  EXPECT_FALSE(canBeTurned(*valueAt(s, driveOf(s), "drive.curve")));
  EXPECT_FALSE(turnTo(s, {kKnob, duck, "curve.nothing"}, 0.5));
  EXPECT_EQ(teach({kKnob, {.part = 99}, "level_db"}).applied(s), s);
}

TEST(Taught, FrequenciesGoByOctavesAndTimesStartFine) {
  Session s;
  const Taught cut{kKnob, {}, "backing.low_cut_hz"};
  const double half = *turnTo(s, cut, 0.5)->applied(s).backing.lowCutHz;
  // The geometric mean of the range's ends, 20 and 1000 Hz.
  EXPECT_NEAR(half, std::sqrt(20.0 * 1000.0), 1e-9);
  const Taught attack{kKnob, {.duck = s.duck().id}, "curve.attack"};
  EXPECT_NEAR(turnTo(s, attack, 0.1)->applied(s).duck().curve.attack.toMs(120), 5.0, 1e-9) << "of 5000 ms";
}

TEST(Taught, AControlTakesHoldWhereItMeetsTheValue) {
  Pickup pickup;
  EXPECT_FALSE(pickup.takes(0.1, 0.6)) << "far below";
  EXPECT_FALSE(pickup.takes(0.5, 0.6));
  EXPECT_TRUE(pickup.takes(0.7, 0.6)) << "past it in one step";
  pickup.put(0.7);
  EXPECT_TRUE(pickup.takes(0.2, 0.7)) << "held: any step";
  pickup.put(0.2);
  EXPECT_FALSE(pickup.takes(0.21, 0.9)) << "the value was moved by somebody else";
  EXPECT_TRUE(pickup.takes(0.895, 0.9)) << "near enough";
  // Steps of a controller never jump over a value without taking it over.
  std::mt19937 random(5);
  for (int run = 0; run < 200; ++run) {
    Pickup fresh;
    const double value = std::uniform_real_distribution(0.0, 1.0)(random);
    bool held = false;
    for (int step = 0; step <= 127 && !held; ++step) {
      held = fresh.takes(step / 127.0, value);
      if (held) EXPECT_LE(std::abs(step / 127.0 - value), 0.02);
    }
    EXPECT_TRUE(held) << value;
  }
}

TEST(Taught, OneControlTurnsOneValueAndTheFileKeepsIt) {
  const Session s = driven();
  const Taught amount{kKnob, driveOf(s), "drive.drive_db", {}, "Amount"};
  const Session one = teach(amount).applied(s);
  ASSERT_TRUE(taughtBy(one, kKnob));
  EXPECT_EQ(*teacherOf(one, driveOf(s), "drive.drive_db"), amount);
  // The value by another control, and that control to another value.
  const Control wheel{Control::Kind::PitchWheel, 1, 0};
  Taught byWheel = amount;
  byWheel.by = wheel;
  const Session two = teach(byWheel).applied(one);
  EXPECT_EQ(two.taught, std::vector<Taught>{byWheel});
  const Taught cut{wheel, {}, "backing.low_cut_hz", {}, "Low cut"};
  const Session three = teach({Control(), {.part = s.kick().id}, "level_db"}).applied(teach(cut).applied(two));
  ASSERT_EQ(three.taught.size(), 2u);
  const auto read = sessionFromJson(sessionToJson(three), "x");
  ASSERT_TRUE(read) << read.error().sentence();
  EXPECT_EQ(*read, three);
  EXPECT_EQ(forgetAllTaught().applied(three).taught.size(), 0u);
  EXPECT_EQ(forget(wheel).applied(three).taught.size(), 1u);
  Session full = s;
  for (int n = 0; n < 128; ++n)
    full.taught.push_back({{Control::Kind::Controller, 1 + n / 64, n % 64}, {}, "track.tempo_bpm"});
  EXPECT_EQ(teach(cut).applied(full).taught.size(), kMostTaught) << "and no more";
}

TEST(Taught, NamesOfControlsAndOwnersAreReadBackAndNoOthers) {
  for (const Control& c : {kKnob, Control{Control::Kind::PitchWheel, 16, 0}, Control()})
    EXPECT_EQ(*parseControl(controlName(c)), c);
  for (const Owner& o : {Owner(), Owner{.part = 2}, Owner{.part = 2, .layer = 7}, Owner{.duck = 3},
                         Owner{.processor = 4}, Owner{.part = 1, .processor = 4}, Owner{1, 2, {}, 9}})
    EXPECT_EQ(*parseOwner(ownerName(o)), o) << ownerName(o);
  for (const char* bad :
       {"", "controller 21", "controller 120 channel 1", "controller 1 channel 0", "controller 1 channel 17",
        "controller x channel 1", "pitch wheel", "controller 1.5 channel 1", "wheel"})
    EXPECT_FALSE(parseControl(bad)) << bad;
  for (const char* bad : {"", "part", "part 0", "layer 2", "layer 2 part 1", "part 1 part 2", "duck 1 part 1",
                          "part 1 layer 2 ", "part 1000001", "nothing 1"})
    EXPECT_FALSE(parseOwner(bad)) << bad;
}

}  // namespace
}  // namespace heft
