// Values by key, against the file that the JSON writer makes, and edits that are more than a value.

#include "core/session/edits/values.h"

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <random>

#include "core/session/edits/ducks.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/patterns.h"
#include "core/session/edits/sounds.h"
#include "core/session/edits/track.h"
#include "core/session/folder.h"
#include "core/session/versions.h"

namespace heft {
namespace {

using Json = nlohmann::ordered_json;

Session built() {
  Session s;
  Layer kick, recorded = recordedLayer({std::string(32, 'a'), "k.wav"}), bass;
  kick.what.emplace<KickVoice>().fall = {{0, 24, 0.5}, {0.2, 12, 0.1}};
  recorded.id = 2;
  bass.what.emplace<BassVoice>();
  s.kick().layers = {kick, recorded}, s.kick().hits = {{0, 1}, {1, 0.5}, {4, 1}, {5, 1}};
  s.bass().layers = {bass}, s.bass().notes = {{0, 1, 33, 0.8}, {4, 1, 36, 0.8}};
  return s;
}

const Owner kKick{.part = 1}, kVoice{.part = 1, .layer = 1}, kRecorded{.part = 1, .layer = 2},
    kBassVoice{.part = 2, .layer = 1}, kDuck{.duck = 1};

std::string jsonOf(const Value& v) {
  return std::visit(
      [](const auto& x) -> std::string {
        using T = std::decay_t<decltype(x)>;
        if constexpr (std::is_same_v<T, std::monostate>)
          return "null";
        else if constexpr (std::is_same_v<T, TimeValue>)
          return Json(x.text()).dump();
        else
          return Json(x).dump();
      },
      v);
}

// Every plain value of an object in the file, with its path.
void leaves(const Json& object, const std::string& prefix, std::vector<std::pair<std::string, Json>>& out) {
  for (const auto& [key, value] : object.items()) {
    if (value.is_object()) leaves(value, prefix + key + ".", out);
    if (value.is_array() && !value.empty() && value[0].is_object())
      for (size_t i = 0; i < value.size(); ++i)
        leaves(value[i], prefix + key + "." + std::to_string(i) + ".", out);
    if (value.is_primitive()) out.emplace_back(prefix + key, value);
  }
}

TEST(Values, WhatStandsInTheFileIsReachedByItsKey) {
  const Session s = built();
  const Json file = Json::parse(sessionToJson(s));
  const Json& parts = file["parts"];
  size_t seen = 0;
  for (const auto& [owner, object] : {std::pair(kVoice, parts[0]["layers"][0]),
                                      {kRecorded, parts[0]["layers"][1]},
                                      {kBassVoice, parts[1]["layers"][0]},
                                      {kKick, parts[0]},
                                      {kDuck, file["ducks"][0]},
                                      {Owner(), file}}) {
    std::vector<std::pair<std::string, Json>> all;
    leaves(object, {}, all);
    for (const auto& [key, value] : all) {
      if (key == "heft_session") continue;
      const auto at = valueAt(s, owner, key);
      ASSERT_TRUE(at) << key;
      EXPECT_EQ(jsonOf(at->now), value == "out" ? "null" : value.dump()) << key;
      Session put = s;
      EXPECT_TRUE(putValue(put, owner, key, at->now)) << key;
      EXPECT_TRUE(put == s) << key;
      ++seen;
      // Whatever is typed stays within the range, which is the file's own.
      for (double beyond : {-1e9, 1e9}) {
        if (!std::holds_alternative<double>(at->now)) break;
        EXPECT_TRUE(putValue(put, owner, key, beyond));
        const Value now = valueAt(put, owner, key)->now;
        const Value lowest = at->canBeMissing ? Value() : Value(at->range.low);  // a level is out there
        EXPECT_TRUE(now == (beyond < 0 ? lowest : Value(at->range.high))) << key;
      }
    }
  }
  EXPECT_GT(seen, 250u);
}

TEST(Values, WhatIsGoneOrOfAnotherKindStaysAsItIs) {
  Session s = built();
  const Session was = s;
  for (const auto& [owner, key] : {std::pair(kRecorded, "built_kick.hold"),
                                   {kVoice, "recorded.strike_ms"},
                                   {kVoice, "built_kick.fall.9.bend"},
                                   {kVoice, "built_kick"},
                                   {kVoice, ""},
                                   {Owner{.part = 1, .layer = 99}, "level_db"},
                                   {Owner{.part = 99}, "level_db"},
                                   {Owner{.duck = 9}, "depth_db"},
                                   {kKick, "level_db.x"}}) {
    EXPECT_FALSE(valueAt(s, owner, key)) << key;
    EXPECT_FALSE(putValue(s, owner, key, 1.0)) << key;
  }
  EXPECT_FALSE(putValue(s, kVoice, "level_db", std::string("loud")));
  EXPECT_FALSE(putValue(s, kVoice, "level_db", Value()));  // not one that may be missing
  EXPECT_FALSE(putValue(s, kRecorded, "recorded.method", std::string("teleport")));
  EXPECT_TRUE(s == was);
}

TEST(Values, DefaultsAreThoseOfTheKindAndNothingIsAValueOfSome) {
  Session s = built();
  EXPECT_EQ(std::get<double>(valueAt(s, kVoice, "built_kick.hold")->byDefault), KickVoice().hold);
  EXPECT_EQ(std::get<double>(valueAt(s, kBassVoice, "built_bass.partial_2_db")->byDefault),
            BassVoice().partialDb[1]);
  // What can be off is off at its lowest, and by its word in the file.
  EXPECT_TRUE(putValue(s, kBassVoice, "built_bass.partial_2_db", -500.0));
  EXPECT_TRUE(std::holds_alternative<std::monostate>(valueAt(s, kBassVoice, "built_bass.partial_2_db")->now));
  EXPECT_EQ(*sessionFromJson(sessionToJson(s), "s"), s);
  const int eq = *s.kick().layer(*kVoice.layer)->chain.put({0, Eq()});
  const Owner cuts{kVoice.part, kVoice.layer, {}, eq};
  EXPECT_TRUE(putValue(s, cuts, "eq.low_cut.hz", 70.0));
  EXPECT_EQ(std::get<double>(valueAt(s, cuts, "eq.low_cut.hz")->byDefault), Eq().lowCut.hz);
  EXPECT_EQ(s.kick().layer(*kVoice.layer)->chain.first<Eq>()->lowCut.hz, 70.0);
  EXPECT_FALSE(valueAt(s, cuts, "drive.on")) << "it is another kind";
  EXPECT_FALSE(valueAt(s, {kVoice.part, kVoice.layer, {}, 99}, "eq.on"));
  EXPECT_TRUE(putValue(s, {}, "backing.low_cut_hz", 80.0));
  EXPECT_EQ(s.backing.lowCutHz, 80.0);
  EXPECT_TRUE(valueAt(s, {}, "backing.low_cut_hz")->canBeMissing);
  EXPECT_TRUE(putValue(s, {}, "backing.low_cut_hz", Value()));
  EXPECT_FALSE(s.backing.lowCutHz);
  const int drive = *s.sum.finish.put({0, Drive()});
  putValue("drive", {.processor = drive}, "drive.kind", std::string(nameOf(DriveKind::Warm))).change(s);
  EXPECT_EQ(s.sum.finish.first<Drive>()->kind, DriveKind::Warm);
  toggleValue("mute", kRecorded, "mute").change(s);
  EXPECT_TRUE(s.kick().layers[1].mute);
}

TEST(FallEdits, PointsStayInOrderWhateverIsAskedFor) {
  Session s = built();
  std::mt19937 random(3);
  std::uniform_real_distribution<double> place(-0.3, 1.3), pitch(-90, 90);
  for (int n = 0; n < 400; ++n) {
    const auto index = static_cast<size_t>(random() % 8);
    const Edit edits[] = {addFallPoint(1, 1, place(random)), removeFallPoint(1, 1, index),
                          moveFallPoint(1, 1, index, place(random), pitch(random), "m"),
                          moveFallEnd(1, 1, place(random), "m"),
                          bendFallThrough(1, 1, index, pitch(random), "m")};
    edits[random() % 5].change(s);
    const KickVoice& v = *s.kick().layers[0].kickVoice();
    ASSERT_EQ(v.fall.front().at, 0.0);
    for (size_t i = 1; i < v.fall.size(); ++i) ASSERT_LE(v.fall[i - 1].at, v.fall[i].at);
    if (n % 20 == 0) ASSERT_TRUE(sessionFromJson(sessionToJson(s), "x")) << n;
  }
}

TEST(PairEdits, ADipSetByHandKeepsTheOtherTimeAsItActed) {
  Session s = built();
  s.duck().curve.lasts = CurveLasts::AsSource;
  const DrawnDip acting{9, 2, 61.24, 140.06};
  setDipTime(s.duck(), DipTime::Attack, TimeValue::milliseconds(5), acting).change(s);
  EXPECT_EQ(s.duck().curve.lasts, CurveLasts::AsSource) << "the attack is its own in any case";
  setDipTime(s.duck(), DipTime::Hold, TimeValue::milliseconds(40), acting).change(s);
  EXPECT_EQ(s.duck().curve.lasts, CurveLasts::AsSet);
  EXPECT_EQ(s.duck().curve.hold, TimeValue::milliseconds(40));
  EXPECT_EQ(s.duck().curve.release, TimeValue::milliseconds(140.1));
  setDelay(s.bass(), -0.0).change(s);
  EXPECT_TRUE(s.bass().align == built().bass().align);
}

TEST(SoundEdits, ASearchBandIsAFifthWideAtLeast) {
  Session s = built();
  for (double low : {3.0, 20.0, 300.0, 4900.0, 9000.0})
    for (double high : {1.0, 21.0, 310.0, 6000.0}) {
      setSearchBand(1, 2, low, high).change(s);
      const LandingOptions band = s.kick().layers[1].recorded()->band;
      EXPECT_GE(band.highHz, 1.2 * band.lowHz);
      EXPECT_GE(band.lowHz, 10);
      EXPECT_LE(band.highHz, kHighestBandHz);
    }
}

TEST(SoundEdits, ALayerPlaysOnTheFirstOfEachBarOrOnTheOthers) {
  Session s = built();
  auto plays = [&] {
    std::string out;
    for (const Hit& h : s.kick().hits) out += h.without.empty() ? 'x' : '.';
    return out;
  };
  setPlaysOn(1, 2, PlaysOn::FirstOfBar).change(s);
  EXPECT_EQ(plays(), "x.x.");
  setPlaysOn(1, 2, PlaysOn::AllButFirstOfBar).change(s);
  EXPECT_EQ(plays(), ".x.x");
  EXPECT_EQ(eventsWithout(s.kick(), 2), 2u);
  setPlaysOn(1, 2, PlaysOn::EveryOne).change(s);
  EXPECT_EQ(plays(), "xxxx");
}

TEST(TrackEdits, FactsGoTogetherAndStayWithinTheirRanges) {
  Session s = built();
  setKey(*parseKey("F minor")).change(s);
  EXPECT_TRUE(s.track.notes.flats);
  setTempo(999).change(s);
  EXPECT_EQ(s.track.tempoBpm, 240);
  setMetre(3, 4).change(s);
  EXPECT_EQ(s.track.loopBeats, 6) << "two bars as before";
  setLoopBeats(400).change(s);
  EXPECT_EQ(s.track.loopBeats, 3 * 64);
  setSong(true).change(s);
  setLoopBeats(100000).change(s);
  EXPECT_EQ(s.track.loopBeats, 2400) << "ten minutes at 240 BPM";
  setSong(false).change(s);
  EXPECT_EQ(s.track.loopBeats, 3 * 64);
  takeFoundHits(s.kick(), {0.0, 0.26, 100.0}).change(s);
  ASSERT_EQ(s.kick().hits.size(), 2u) << "what lies behind the loop's end is not of it";
  EXPECT_NEAR(s.kick().hits[1].startQuarters, 1.0, 1e-9) << "on the grid";
  const std::string name(500, 'n');
  nameTrack(name).change(s);
  EXPECT_EQ(s.track.name.size(), kLongestName);
}

}  // namespace
}  // namespace heft
