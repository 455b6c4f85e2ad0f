// Added processors wait for a first move; values that every note shares.

#include <gtest/gtest.h>

#include <algorithm>

#include "core/export/one_shots.h"
#include "core/measure/levels/loudness.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/values.h"
#include "core/session/session.h"
#include "core/tune/targets.h"
#include "tests/reference/rendered.h"

namespace heft {
namespace {

// An added processor changes nothing until one of its values is moved, which switches it on; one switched off
// by hand stays off.
TEST(Chain, AnAddedProcessorWaitsForItsFirstValue) {
  const Session plain = reference::theDemo().session;
  StepCache cache;
  const auto before = reference::rendered(plain, cache);
  const Owner layer{.part = plain.kick().id, .layer = plain.kick().layers[0].id};
  constexpr const char* kFirst[] = {"envelope.decay_ms",
                                    "eq.band_1.gain_db",
                                    "strike_sustain.strike_db",
                                    "drive.drive_db",
                                    "compressor.threshold_db",
                                    "soft_clip.ceiling_db",
                                    "limiter.ceiling_db",
                                    "body.wet",
                                    "room.wet",
                                    "width.width",
                                    "gain.db"};
  for (size_t kind = 0; kind < kProcessorKinds; ++kind) {
    const Session added = addProcessor(layer, addedProcessor(kind)).applied(plain);
    const Processor& p = added.kick().layers[0].chain.list.front();
    EXPECT_FALSE(p.works()) << processorKey(kind);
    EXPECT_TRUE(isUnmoved(p));
    EXPECT_EQ(reference::rendered(added, cache).sum.read(0, 0, 4800), before.sum.read(0, 0, 4800));
    Owner of = layer;
    of.processor = p.id;
    const auto value = valueAt(added, of, kFirst[kind]);
    if (!value || !std::holds_alternative<double>(value->now)) continue;
    const double now = std::get<double>(value->now), to = now - 3.0 >= value->range.low ? now - 3.0 : now + 0.5;
    const Session moved = heft::putValue(std::string("move"), of, kFirst[kind], to).applied(added);
    EXPECT_TRUE(moved.kick().layers[0].chain.list.front().isOn()) << processorKey(kind);
    const Session off = switchProcessor(layer, p.id, false).applied(moved);
    const Session again = heft::putValue(std::string("move"), of, kFirst[kind], to + 0.1).applied(off);
    EXPECT_FALSE(again.kick().layers[0].chain.list.front().isOn()) << processorKey(kind);
  }
}

// Of the 128 notes, the last one still works.
TEST(Targets, AreNeverNoneHoweverFarTheSoundIs) {
  for (const double landing : {-300.0, -13.0, 0.0, 64.0, 127.0, 141.0, 400.0})
    for (int tonic = 0; tonic < 12; ++tonic) {
      const TuneTarget t = easiestTarget(landing, Key{tonic, Mode::Minor});
      EXPECT_TRUE(t.midi >= 0 && t.midi <= 127) << landing;
      EXPECT_NEAR(t.semitones, t.midi - landing, 1e-9);
    }
}

// Bypasses all of a kind, and nothing else.
TEST(WithoutAKind, TakesEveryOneOutAndNothingElse) {
  Session s = reference::theDemo().session;
  const Owner layer{.part = s.kick().id, .layer = s.kick().layers[0].id}, bass{.part = s.bass().id};
  s = addProcessor(layer, freshProcessor(1)).applied(s);
  s = addProcessor(bass, freshProcessor(1)).applied(s);
  s = addProcessor({}, freshProcessor(1)).applied(s);
  s = addProcessor(layer, freshProcessor(3)).applied(s);
  const Session out = withoutKind(1).applied(s);
  EXPECT_FALSE(out.kick().layers[0].chain.list[0].isOn());
  EXPECT_FALSE(out.bass().finish.list[0].isOn());
  EXPECT_FALSE(out.sum.finish.list[0].isOn());
  EXPECT_TRUE(out.kick().layers[0].chain.list[1].isOn());
  s.kick().layers[0].recorded()->length = TimeValue::note(1, 16);
  Session whole = withoutLengths().applied(s);
  EXPECT_FALSE(whole.kick().layers[0].recorded()->length);
  whole.kick().layers[0].recorded()->length = TimeValue::note(1, 16);
  EXPECT_EQ(whole, s);
}

// One-shots at a chosen true peak, by libebur128; the stems keep their level.
TEST(OneShots, AreWrittenAtTheTruePeakThatIsAskedFor) {
  Session s = reference::theDemo().session;
  StepCache cache;
  int shots = 0;
  for (const std::optional<double> peak : {std::optional<double>(), std::optional(-1.0), std::optional(-6.0)}) {
    s.exports.oneShotPeakDb = peak;
    const auto done =
        eachOneShot(s, reference::theDemo().assets, cache, [&](const OneShot& shot) -> Result<void> {
          const double is = dbFromAmplitude(*truePeakOf(shot.sound));
          if (peak) EXPECT_NEAR(is, *peak, 0.05) << shot.name;
          ++shots;
          return {};
        });
    EXPECT_TRUE(done);
  }
  EXPECT_GE(shots, 6);
}

// A refusal names the line of broken JSON, the item of a list, the value and its range.
TEST(Refusals, NameLineItemValueAndRange) {
  std::string text = sessionToJson(reference::theDemo().session);
  const auto sentence = [](const std::string& json) {
    const auto read = sessionFromJson(json, "song.heft");
    return read ? std::string() : read.error().sentence();
  };
  const auto comma = text.find(",\n");
  std::string broken = text;
  broken.erase(comma, 1);
  const auto line = 2 + std::count(text.begin(), text.begin() + static_cast<ptrdiff_t>(comma), '\n');
  EXPECT_NE(sentence(broken).find("at line " + std::to_string(line)), std::string::npos) << sentence(broken);
  const auto level = text.find("\"velocity\"");
  const auto from = text.find(':', level) + 1;
  std::string far = text;
  far.replace(from, text.find_first_of(",\n", from) - from, " 7");
  const std::string said = sentence(far);
  EXPECT_NE(said.find("parts 1.hits 1.velocity"), std::string::npos) << said;
  EXPECT_NE(said.find("is 7, out of 0 to 1"), std::string::npos) << said;
}

}  // namespace
}  // namespace heft
