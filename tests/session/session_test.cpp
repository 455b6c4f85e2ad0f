// The document: files that lose nothing, refuse invalid input and survive a crash; a readable history.

#include <gtest/gtest.h>

#include <random>

#include "core/session/edits/parts.h"
#include "core/session/edits/track.h"
#include "core/session/folder.h"
#include "core/session/history.h"
#include "core/session/versions.h"
#include "scenario/make_demo.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

void makeBusy(Duck& duck) {
  duck.on = true, duck.name = "Room", duck.amount = 0.75, duck.movement = Movement::Follower;
  duck.curve = {9.5,
                TimeValue::milliseconds(3),
                TimeValue::note(1, 64),
                TimeValue::note(1, 16),
                CurveLasts::ToNext,
                TimeValue::note(1, 8),
                {{0, 0, 0.5}, {0.3, 1, 0}, {1, 0.25, 0}},
                0.4};
  duck.source.kind = TriggerKind::Audio, duck.source.lowCutHz = 30, duck.source.highCutHz = 110;
  duck.source.asset = {std::string(32, 'f'), "t.wav"}, duck.source.marks = {{0.5, true}, {0.7, false}};
  duck.source.notes = {{0, 0.5, 0.8, 36}, {1, 0.5, 0.9, 38}}, duck.source.pitches = {36},
  duck.source.midiName = "d.mid";
  duck.source.hits = {{0.25, 0.25, 1, 36}};
  duck.band.kind = DuckBandKind::Bell, duck.band.at = BellAt::Key, duck.band.semitones = 7;
  duck.target = {DuckTargetKind::Layer, 2, 2};
}

Session busySession() {
  Session s;
  s.track.name = "Salz \u00fcber \u6c34";
  s.track.key = {6, Mode::Phrygian};
  s.track.tempoBpm = 93.7;
  s.track.loopBeats = 7;
  s.track.notes.octaves = OctaveNaming::MiddleC3;
  s.track.notes.a4Hz = 442;
  Recorded recorded{{std::string(32, 'a'), "a.wav"}};
  recorded.targetMidi = 33.25, recorded.method = TuneMethod::Split, recorded.strikeMs = 12;
  recorded.strikeSemitones = 3.5, recorded.flatten = 0.4, recorded.length = TimeValue::note(1, 16);
  s.kick().layers.resize(1);
  s.kick().layers[0].levelDb = -3.5, s.kick().layers[0].invert = true, s.kick().layers[0].what = recorded;
  s.kick().hits = {{0, 1}, {1.5, 0.5}};
  s.kick().tailTarget = TimeValue::note(1, 8, TimeValue::Feel::Triplet);
  s.bass().layers = {recordedLayer({std::string(32, 'b'), "b.flac"})};
  s.bass().layers[0].mute = true;
  s.bass().layers[0].recorded()->rootMidi = 31.1, s.bass().layers[0].recorded()->glideMs = 90;
  s.bass().notes = {{0.25, 0.5, 31, 0.7}};
  s.bass().finish.put({0, Width{true, 0.0}});
  // A part of each kind of thing that a later version added.
  Layer built;
  built.what.emplace<KickVoice>();
  built.kickVoice()->fall = {{0, 31, 0.5}, {0.1, 12, -0.25}};
  built.kickVoice()->strike = {true, StrikeKind::Knock, 90, -7, 9, true};
  built.kickVoice()->drive = {true, DriveKind::Fold, 1, 2, 0.5};
  built.name = "Sub", built.id = 2, built.offsetMs = -1.5,
  built.chain.need<Eq>()->bands[3] = {true, EqBand::Kind::Notch, 60, 0, 4};
  built.chain.put({0, Body{true, {std::string(32, 'e'), "e.wav"}, {}}});
  s.kick().layers.push_back(built);
  s.kick().hits[1].without = {2};
  s.kick().finish.put({0, Compressor{true, -20, 4, 3, 2, 50, 1}});
  s.kick().versions = {{{"First", {}, {}}, {"Intro", {built}, {}}}, 0};
  Layer tone;
  tone.id = 2, tone.what.emplace<BassVoice>();
  tone.bassVoice()->partialDb[4] = -15, tone.bassVoice()->high.kind = HighBand::Kind::Noise;
  s.bass().layers.push_back(tone);
  s.bass().notes.push_back({1, 0.5, 33, 0.7, {1}, true, Dive{7, 0.25, 0.5, 0.3}});
  s.bass().wheel = {{0, 0}, {0.5, -0.75}};
  s.grid = {TimeValue::note(1, 8, TimeValue::Feel::Triplet), 0.4};
  s.backing = {{std::string(32, 'c'), "c.mp3"}, -2, true, {}};
  s.bass().align = {-1.32, true, {25, 140, 15}};
  makeBusy(s.duck());
  s.ducking = {0.9, GainsMeet::Deepest};
  Part clap;
  clap.id = 3, clap.role = "other", clap.name = "Clap", clap.hits = {{1.0, 0.9}}, clap.levelDb = -4;
  clap.layers = s.kick().layers, clap.finishOver = FinishOver::Lane;
  s.parts.push_back(clap);
  s.sum.finish.put({0, Limiter{true, -1, 80}});
  s.references = {{{std::string(32, 'd'), "d.wav"}}};
  s.references.front().sections = {{"drop", 12.5, 28.0}, {"", 40.0, 56.0}};
  s.references.front().key = Key{5, Mode::Minor};
  s.exports = {false, true, false, true, SampleFormat::Flac24, false};
  s.meantSo = {"kick-tail", "pair-hit-3"};
  return s;
}

TEST(SessionFile, GivesBackEveryValue) {
  Session s = busySession();
  s.track.notes.flats = s.track.key.prefersFlats();
  const auto back = sessionFromJson(sessionToJson(s), "x");
  ASSERT_TRUE(back) << back.error().sentence();
  EXPECT_EQ(*back, s);
  EXPECT_EQ(sessionToJson(*back), sessionToJson(s));
}

TEST(SessionFile, KeepsWhatItDoesNotKnow) {
  std::string text = sessionToJson(busySession());
  text.replace(text.find("\"track\": {"), 10,
               "\"future\": {\"deep\": [1, \"two\"]}, \"track\": {\"mood\": \"late\", ");
  text.replace(text.find("\"depth_db\""), 0, "\"points\": [3], ");
  const auto back = sessionFromJson(text, "x");
  ASSERT_TRUE(back) << back.error().sentence();
  const std::string again = sessionToJson(*back);
  EXPECT_NE(again.find("\"mood\": \"late\""), std::string::npos);
  EXPECT_NE(again.find("\"two\""), std::string::npos);
  EXPECT_NE(again.find("\"points\""), std::string::npos);
  EXPECT_EQ(*sessionFromJson(again, "x"), *back);
}

// A ducking of version 3 was a curve of a part's lane by another part's hits.
TEST(SessionFile, DuckingsOfVersionThreeAreRead) {
  const auto s =
      sessionFromJson(R"({"heft_session": 3, "ducks": [{"id": 4, "on": true, "source_part": 1, "target_part": 2,
    "depth_db": 9.5, "attack": "3 ms", "hold": "1/64", "return": "1/16", "as_source": true, "crossover_hz": 110, "mine": 7},
    {"id": 5, "as_source": false}]})",
                      "x");
  ASSERT_TRUE(s) << s.error().sentence();
  ASSERT_EQ(s->ducks.size(), 2u);
  const Duck& d = s->ducks[0];
  EXPECT_TRUE(d.on && d.source.part == 1 && d.target == DuckTarget() && d.movement == Movement::Curve);
  EXPECT_EQ(d.curve.depthDb, 9.5);
  EXPECT_EQ(d.curve.hold, TimeValue::note(1, 64));
  EXPECT_EQ(d.curve.release, TimeValue::note(1, 16));
  EXPECT_EQ(d.curve.lasts, CurveLasts::AsSource);
  EXPECT_EQ(d.band.kind, DuckBandKind::Below);
  EXPECT_EQ(d.band.belowHz, 110);
  EXPECT_NE(sessionToJson(*s).find("\"mine\": 7"), std::string::npos) << "what is not known is kept";
  EXPECT_EQ(s->ducks[1].band.kind, DuckBandKind::All);
}

TEST(SessionFile, NonsenseIsRefusedWithTheKeysName) {
  const struct {
    const char* from;
    const char* to;
    const char* named;
  } kRows[] = {{"\"tempo_bpm\": 93.7", "\"tempo_bpm\": -5", "track.tempo_bpm"},
               {"\"tempo_bpm\": 93.7", "\"tempo_bpm\": \"fast\"", "track.tempo_bpm"},
               {"\"depth_db\": 9.5", "\"depth_db\": 1e99", "curve.depth_db"},
               {"\"loop_beats\": 7", "\"loop_beats\": 7.5", "track.loop_beats"},
               {"F# phrygian", "H", "track.key"},
               {"\"hold\": \"1/64\"", "\"hold\": \"soon\"", "curve.hold"},
               {"\"midi\": 31", "\"midi\": 400", "notes 1.midi"},
               {"\"heft_session\": 8", "\"heft_session\": 9", "newer"},
               {"\"semitones\": 31.0", "\"semitones\": 310", "fall 1.semitones"},
               {"\"kind\": \"knock\"", "\"kind\": \"bang\"", "strike.kind"},
               {"\"swing\": 0.4", "\"swing\": -1", "grid.swing"},
               {"\"invert\": true", "\"invert\": 3", "invert"}};
  const std::string good = sessionToJson(busySession());
  for (const auto& row : kRows) {
    std::string bad = good;
    ASSERT_NE(bad.find(row.from), std::string::npos) << row.from;
    bad.replace(bad.find(row.from), std::string(row.from).size(), row.to);
    const auto back = sessionFromJson(bad, "my.json");
    ASSERT_FALSE(back) << row.to;
    EXPECT_NE(back.error().sentence().find("my.json"), std::string::npos);
    EXPECT_NE(back.error().sentence().find(row.named), std::string::npos) << back.error().sentence();
  }
  EXPECT_FALSE(sessionFromJson("", "x"));
  EXPECT_FALSE(sessionFromJson("[]", "x"));
  EXPECT_FALSE(sessionFromJson(std::string(100000, '['), "x"));
  EXPECT_FALSE(sessionFromJson(
      "{\"heft_session\": 1, \"a\": " + std::string(80, '[') + std::string(80, ']') + "}", "x"));
}

TEST(SessionFile, MutationsAreReadOrRefusedButNeverCrash) {
  std::mt19937 random(99);
  const std::string good = sessionToJson(busySession());
  int read = 0;
  for (int i = 0; i < 1500; ++i) {
    std::string bad = good;
    for (int k = 0; k < 2; ++k) {
      const size_t at = random() % bad.size();
      switch (random() % 3) {
        case 0:
          bad[at] = static_cast<char>(random());
          break;
        case 1:
          bad.erase(at, random() % 20);
          break;
        default:
          bad.insert(at, std::string(1 + random() % 4, "{}[]\",:0-e"[random() % 10]));
      }
    }
    if (const auto back = sessionFromJson(bad, "x")) {
      ++read;
      EXPECT_TRUE(sessionFromJson(sessionToJson(*back), "x"));
    }
  }
  EXPECT_GT(read, 10);
}

TEST(SessionFolder, SavesOpensAndKeepsTheSounds) {
  TemporaryFolder folder;
  auto demo = demo::make();
  ASSERT_TRUE(demo);
  const std::string path = folder / "My track.heft";
  ASSERT_TRUE(saveSession(path, demo->session, demo->assets));
  const auto opened = openSession(path);
  ASSERT_TRUE(opened) << opened.error().sentence();
  Session kept = demo->session;
  kept.savedOn = thisMachine();
  EXPECT_FALSE(kept.savedOn.empty());
  EXPECT_TRUE(opened->savedHere);
  EXPECT_EQ(opened->session, kept);
  EXPECT_TRUE(opened->warnings.empty());
  for (const AssetRef& ref : assetsOf(demo->session))
    EXPECT_EQ(*opened->assets.sound(ref), *demo->assets.sound(ref)) << ref.name;
  EXPECT_TRUE(openSession(path + "/session.json"));
  // A missing or changed sound gives a warning and leaves the rest.
  for (const auto& entry : std::filesystem::directory_iterator(path + "/audio"))
    if (entry.path().filename().string().find("kick") != std::string::npos)
      std::filesystem::remove(entry.path());
    else if (entry.path().filename().string().find("808") != std::string::npos)
      writeBytes(entry.path().string(), "not a sound");
  const auto torn = openSession(path);
  ASSERT_TRUE(torn);
  EXPECT_EQ(torn->warnings.size(), 2u);
  EXPECT_EQ(torn->session, kept);
}

// A crash at any moment of saving leaves the old session whole: half-written files beside it are never read.
TEST(SessionFolder, KnowsWhichFilesWereWrittenSince) {
  TemporaryFolder folder;
  const std::string same = folder / "same.wav", other = folder / "other.wav";
  reference::writeBytes(same, "one"), reference::writeBytes(other, "two");
  const Assets none;
  Session s;
  auto ref = [](const std::string& bytes, const std::string& path) {
    return AssetRef{contentHash(bytes.data(), bytes.size()), "a.wav", path, stampOf(path)};
  };
  s.kick().layers = {recordedLayer(ref("one", same))};
  s.kick().layers[0].chain.put({0, Body{true, ref("two", other), {}}});
  addVersion(s.kick(), "Long");
  s.backing.asset = ref("gone", folder / "gone.wav");
  auto back = sessionFromJson(sessionToJson(s), "x");
  ASSERT_TRUE(back);
  EXPECT_EQ(*back, s) << "paths are kept";
  EXPECT_TRUE(sourcesOf(*back, none).changedSince.empty());
  EXPECT_EQ(sourcesOf(*back, none).present, (std::vector<std::string>{other, same}));
  reference::writeBytes(other, "three");
  EXPECT_EQ(sourcesOf(*back, none).changedSince, (std::vector<std::string>{other}));
  reloadAsset(*back, ref("three", other));
  EXPECT_TRUE(sourcesOf(*back, none).changedSince.empty()) << "in the version that rests too";
  EXPECT_EQ(back->kick().layers[0].recorded()->asset, s.kick().layers[0].recorded()->asset);
}

TEST(SessionFolder, AHalfWrittenSaveIsNotRead) {
  TemporaryFolder folder;
  const std::string path = folder / "s.heft";
  Session old = busySession();
  old.kick().layers.clear(), old.bass().layers.clear(), old.backing = {}, old.references.clear();
  ASSERT_TRUE(saveSession(path, old, {}));
  const std::string whole = contentsOf(path + "/session.json");
  writeBytes(path + "/session.json.part12345", whole.substr(0, whole.size() / 2));
  EXPECT_EQ(sessionToJson(openSession(path)->session), whole);
  // The target cannot be replaced: the old one stays and the fault is reported.
  std::filesystem::remove(path + "/session.json");
  std::filesystem::create_directory(path + "/session.json");
  const auto saved = saveSession(path, old, {});
  ASSERT_FALSE(saved);
  EXPECT_EQ(saved.error().kind, ErrorKind::Unwritable);
  EXPECT_FALSE(openSession(folder.path()));
  EXPECT_FALSE(openSession(folder / "missing"));
}

TEST(History, NamesEditsAndMergesADrag) {
  History h;
  auto depth = [&](double db) {
    Session s = h.now();
    s.duck().curve.depthDb = db;
    return s;
  };
  h.apply("set depth", depth(1), "drag");
  h.apply("set depth", depth(2), "drag");
  h.apply("set depth", depth(3), "drag");
  h.endMerge();
  h.apply("set depth", depth(4), "drag");
  EXPECT_EQ(h.undoName(), "set depth");
  h.undo();
  EXPECT_EQ(h.now().duck().curve.depthDb, 3);
  h.undo();
  EXPECT_EQ(h.now().duck().curve.depthDb, Duck().curve.depthDb);
  EXPECT_FALSE(h.canUndo());
  EXPECT_EQ(h.redoName(), "set depth");
  h.redo();
  h.redo();
  EXPECT_EQ(h.now().duck().curve.depthDb, 4);
  h.undo();
  h.apply("other", depth(9));
  EXPECT_FALSE(h.canRedo());
  h.apply("nothing", Session(h.now()));
  EXPECT_EQ(h.undoName(), "other");
}

TEST(History, KnowsWhatIsSaved) {
  History h;
  EXPECT_TRUE(h.isSaved());
  Session s = h.now();
  s.track.name = "A";
  h.apply("name", s);
  EXPECT_FALSE(h.isSaved());
  h.markSaved();
  h.undo();
  EXPECT_FALSE(h.isSaved());
  h.redo();
  EXPECT_TRUE(h.isSaved());
  h.undo();
  s.track.name = "B";
  h.apply("name", s);
  EXPECT_FALSE(h.isSaved());
  h.undo();
  EXPECT_FALSE(h.isSaved());
}

TEST(Pattern, TheNoteUnderMostHits) {
  Session s;
  s.kick().hits = {{0}, {1}, {2}, {3}};
  s.bass().notes = {{0, 1, 33}, {1.1, 0.9, 31}, {2, 1, 31}, {3.5, 0.5, 40}};
  EXPECT_EQ(noteUnderMostHits(s), 31);
  s.kick().hits.clear();
  EXPECT_EQ(noteUnderMostHits(s), 31) << "without hits: what sounds longest";
  s.bass().notes.clear();
  EXPECT_EQ(noteUnderMostHits(s), std::nullopt);
}

TEST(Histories, ADragBackToWhereItBeganLeavesNoStep) {
  History h;
  h.apply("name", nameTrack("A").applied(h.now()));
  h.markSaved();
  for (const double level : {-1.0, -2.0, 0.0})
    h.apply("level", setPartLevel(h.now().kick(), level).applied(h.now()), "drag");
  EXPECT_EQ(h.undoName(), "name");
  EXPECT_TRUE(h.isSaved());
  for (const double level : {-3.0, -4.0})
    h.apply("level", setPartLevel(h.now().kick(), level).applied(h.now()), "drag");
  EXPECT_EQ(h.undoName(), "level");
  h.undo();
  EXPECT_EQ(h.undoName(), "name") << "going on after that it is one step, and not the name's";
  EXPECT_EQ(h.now().kick().levelDb, 0.0);
}

}  // namespace
}  // namespace heft
