// The command line as a user meets it: the real program, real files, documented exit codes, one line on stderr
// that names the file, nothing half written.

#include <gtest/gtest.h>

#include <set>

#include "core/measure/events/sound_facts.h"
#include "core/remedies/remedies.h"
#include "core/session/folder.h"
#include "core/sound/audio_file.h"
#include "core/sound/midi_reader.h"
#include "tests/cli/cli_fixture.h"

namespace heft {
namespace {

using namespace reference;
TEST_F(Cli, MeasureGivesOneObjectPerFile) {
  const auto kick = kickFile(), bass = bassFile();
  const auto r = run({"--json", "measure", kick, bass, "--key", "A minor", "--tempo", "120"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json j = r.json();
  ASSERT_EQ(j.size(), 2u);
  for (const char* key :
       {"path", "duration_s", "sample_rate", "channels", "landing_hz", "landing_note", "landing_cents",
        "confidence", "start_hz", "fall_ms", "onset_ms", "tail_ms", "peak_dbfs", "rms_dbfs", "crest_db",
        "nearest_key_note", "shift_semitones", "warnings"})
    EXPECT_TRUE(j[0].contains(key)) << key;
  EXPECT_NEAR(j[0]["landing_hz"], 53.2, 0.05);
  EXPECT_EQ(j[0]["landing_note"], "G#1");
  EXPECT_EQ(j[0]["nearest_key_note"], "A1");
  EXPECT_NEAR(j[0]["shift_semitones"], 12 * std::log2(55 / 53.2), 0.02);
  EXPECT_EQ(run({"--json", "measure", kick, "--middle-c", "C3"}).json()[0]["landing_note"], "G#0");
  EXPECT_NE(run({"measure", kick}).out.find("landing_note"), std::string::npos);
}

TEST_F(Cli, TuneMovesTheLandingAndSaysTheStrain) {
  const auto kick = kickFile();
  for (const char* method : {"varispeed", "split"}) {
    const auto r = run({"--json", "tune", kick, "--to", "A1", "--method", method, "-o", folder / "t.wav"});
    ASSERT_EQ(r.code, 0) << r.err;
    EXPECT_NEAR(1200 * std::log2(r.json()["after_hz"].get<double>() / 55), 0, 2);
    EXPECT_TRUE(r.json()["warnings"].empty());
    EXPECT_NEAR(
        1200 *
            std::log2(run({"--json", "measure", folder / "t.wav"}).json()[0]["landing_hz"].get<double>() / 55),
        0, 2);
  }
  EXPECT_FALSE(run({"--json", "tune", kick, "--to", "E2", "--method", "varispeed", "-o", folder / "t.wav"})
                   .json()["warnings"]
                   .empty());
  const auto with =
      run({"--json", "tune", kick, "--with", bassFile(110), "--method", "split", "-o", folder / "w.wav"});
  EXPECT_NEAR(with.json()["after_hz"].get<double>(), 55, 0.1);
}

TEST_F(Cli, TuneMovesAKitIntoTheKey) {
  const std::string kick = kickFile(53.2, "Pan lid.wav"), tom = kickFile(118, "Drum D3.wav"),
                    other =
                        (std::filesystem::create_directory(folder / "sub"), kickFile(78, "sub/Pan lid.wav")),
                    hiss = writeSound(folder, "hiss.wav", bufferOf(noise(0.3, 24000, 5), 48000));
  writeBytes(folder / "broken.wav", "no sound at all");
  const auto r = run({"tune", kick, tom, other, hiss, folder / "broken.wav", folder / "gone.wav", "--key",
                      "A minor", "--method", "split", "--json", "-o", folder / "kit"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json rows = Json::parse(r.out);
  ASSERT_EQ(rows.size(), 6u);
  const char* notes[] = {"A1", "A2", "E2"};
  for (size_t i = 0; i < 3; ++i) {
    EXPECT_EQ(rows[i]["target_note"], notes[i]);
    const std::string output = rows[i]["output"];
    EXPECT_NE(output.find(notes[i]), std::string::npos) << "its name carries the note";
    const auto again = measureSound(*loadSound(output)->sound);
    EXPECT_NEAR(12 * std::log2(*again.landing.hz / 440.0) + 69,
                *parsePitch(rows[i]["target_note"].get<std::string>()), 0.02);
    EXPECT_FALSE(rows[i]["strain"].get<std::string>().empty());
  }
  for (size_t i = 3; i < 6; ++i) {
    EXPECT_TRUE(rows[i]["output"].is_null());
    EXPECT_FALSE(rows[i]["warnings"].empty()) << i;
  }
  EXPECT_EQ(filesIn(folder / "kit"), 3u);
  // Into the drums' own folder, where one already has another's new name: nothing is overwritten.
  const std::string waits = kickFile(57, "Pan lid A1.wav"), before = contentsOf(waits),
                    first = contentsOf(kick);
  const size_t files = filesIn(folder.path());
  ASSERT_EQ(run({"tune", kick, waits, "--key", "A minor", "-o", folder.path()}).code, 0);
  EXPECT_EQ(contentsOf(waits), before);
  EXPECT_EQ(contentsOf(kick), first);
  EXPECT_EQ(filesIn(folder.path()), files + 2);
  expectFault(run({"tune", kick, "--key", "H#", "-o", folder / "kit2"}), 2, "--key");
  expectFault(run({"tune", kick, "--key", "A minor", "--to", "A1", "-o", folder / "kit2"}), 2, "--to");
  expectFault(run({"tune", kick, tom, "--to", "A1", "--method", "split", "-o", folder / "x.wav"}), 2, "--key");
  expectFault(run({"tune", hiss, "--key", "A minor", "-o", folder / "kit3"}), 3, "no landing");
  expectFault(run({"tune", kick, "--key", "A minor", "-o", kick}), 4, "Pan lid.wav");
}

TEST_F(Cli, KeySaysWhatIsHeardAndWhatTheNameSays) {
  std::vector<double> chords;
  for (int chord : {0, 5, 7, 0}) {
    std::vector<double> sum(44100, 0.0);
    for (int step : {0, chord == 7 ? 4 : 3, 7})
      for (int k = 1; k <= 5; ++k) {
        const auto tone = sine(k * 220.0 * std::exp2((chord + step) / 12.0), 0.1 / k, 1.0, 44100);
        for (size_t i = 0; i < sum.size(); ++i) sum[i] += tone[i];
      }
    chords.insert(chords.end(), sum.begin(), sum.end());
  }
  const auto file = writeSound(folder, "Night_Amin_60.wav", bufferOf(chords, 44100));
  const auto r = run({"key", file, "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json row = Json::parse(r.out)[0];
  EXPECT_EQ(row["key"], "A minor");
  EXPECT_EQ(row["name_key"], "A minor");
  EXPECT_EQ(row["name_tempo_bpm"], 60);
  EXPECT_EQ(row["runners_up"].size(), 3u);
  EXPECT_EQ(run({"key", folder / "gone.wav"}).code, 3);
}

TEST_F(Cli, AlignMendsAPairAlsoAcrossRates) {
  const auto kick = kickFile(55);
  for (double rate : {48000.0, 44100.0}) {
    const auto r = run({"--json", "align", kick, bassFile(55, 3.0, rate), "-o", folder / "moved.wav"});
    ASSERT_EQ(r.code, 0) << r.err;
    const Json j = r.json();
    EXPECT_GE(j["after_db"].get<double>(), j["before_db"].get<double>());
    EXPECT_NEAR(j["samples"].get<double>(), j["delay_ms"].get<double>() * 48, 0.01);
    const Json again = run({"--json", "align", kick, folder / "moved.wav"}).json();
    EXPECT_NEAR(again["before_db"].get<double>(), j["after_db"].get<double>(), 0.4);
    EXPECT_EQ(loadSound(folder / "moved.wav")->sound->sampleRate, 48000);
  }
}

TEST_F(Cli, AlignTellsASessionsWaysAndAppliesTheBest) {
  ASSERT_EQ(run({"demo", folder / "d"}).code, 0);
  const std::string session = folder / "d/Saltworks.heft", written = folder / "aligned.heft";
  const Json j = run({"--json", "align", session, "--rotate", "--apply", "-o", written}).json();
  EXPECT_EQ(j["hits"].size(), 8u);
  EXPECT_EQ(j["hits"][2]["note"], "A1");
  ASSERT_GE(j["ways"].size(), 3u);
  EXPECT_GT(j["ways"][0]["level_db"].get<double>(), j["now_db"].get<double>() + 1);
  EXPECT_EQ(j["applied"], j["ways"][0]["way"]);
  const Json again = run({"--json", "align", written}).json();
  EXPECT_NEAR(again["now_db"].get<double>(), j["ways"][0]["level_db"].get<double>(), 0.05);
  EXPECT_NEAR(again["unmoved_db"].get<double>(), j["unmoved_db"].get<double>(), 1e-9);
  for (const Json& way : again["ways"]) EXPECT_TRUE(way["rotation"].empty()) << "only where it was asked for";
  EXPECT_TRUE(again["applied"].is_null());
  // A rotated phase is part of two-sound figures as well.
  const auto kick = kickFile(55), bass = bassFile(55, 3.0, 48000);
  const Json pair = run({"--json", "align", kick, bass, "--rotate", "-o", folder / "turned.wav"}).json();
  const Json after = run({"--json", "align", kick, folder / "turned.wav"}).json();
  EXPECT_NEAR(after["before_db"].get<double>(), pair["after_db"].get<double>(), 0.4);
}

TEST_F(Cli, DuckFollowsTheTriggerAndWritesItsCurve) {
  std::vector<double> drums(96000, 0.0);
  KickRecipe recipe;
  recipe.tailMs = 150;
  const auto one = makeKick(recipe);
  for (double t : {0.2, 0.7, 1.325})
    for (size_t i = 0; i < one.size() && static_cast<size_t>(t * 48000) + i < drums.size(); ++i)
      drums[static_cast<size_t>(t * 48000) + i] += one[i];
  const auto trigger = writeSound(folder, "drums.wav", bufferOf(drums, 48000));
  const auto bass = writeSound(folder, "sub.wav", bufferOf(sine(50, 0.5, 2.0, 48000), 48000));
  const auto r = run({"--json", "duck", bass, "--trigger", trigger, "--depth-db", "9", "--attack-ms", "3",
                      "--hold-ms", "40", "--release-ms", "60", "-o", folder / "d.wav", "--curve",
                      folder / "c.csv", "--midi", folder / "c.mid"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json j = r.json();
  ASSERT_EQ(j["triggers_ms"].size(), 3u);
  EXPECT_NEAR(j["triggers_ms"][2].get<double>(), 1325, 5);
  EXPECT_NEAR(j["depth_db"].get<double>(), -9, 0.05);
  EXPECT_LE(j["return_ms"].get<double>(), 103.1);
  EXPECT_EQ(contentsOf(folder / "c.csv").rfind("time_s,gain_db\n", 0), 0u);
  EXPECT_EQ(contentsOf(folder / "c.mid").substr(0, 4), "MThd");
  // A follower ducks as deep at the loudest hit, a mirror no deeper.
  const Json follow = run({"--json", "duck", bass, "--trigger", trigger, "--depth-db", "9", "--method",
                           "follow", "-o", folder / "f.wav"})
                          .json();
  EXPECT_NEAR(follow["depth_db"].get<double>(), -9, 0.1);
  EXPECT_EQ(follow["fired"], 3);
  const Json mirror = run({"--json", "duck", bass, "--trigger", trigger, "--depth-db", "9", "--method",
                           "mirror", "-o", folder / "m.wav"})
                          .json();
  EXPECT_GE(mirror["depth_db"].get<double>(), -9.001);
  EXPECT_LT(mirror["depth_db"].get<double>(), -3);
  EXPECT_EQ(mirror["fired"], 3);
}

TEST_F(Cli, CompareGivesBandsAndTheDifference) {
  auto mix = [&](const std::string& name, double low) {
    auto x = sine(1000, 0.2, 2.0, 48000);
    const auto l = sine(50, low, 2.0, 48000);
    for (size_t i = 0; i < x.size(); ++i) x[i] += l[i];
    return writeSound(folder, name, bufferOf(x, 48000, 2));
  };
  const auto r = run({"--json", "compare", mix("m.wav", 0.02), mix("r1.wav", 0.01), mix("r2.wav", 0.01)});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json j = r.json();
  EXPECT_EQ(j["mix"]["bands"].size(), 6u);
  EXPECT_EQ(j["references"].size(), 2u);
  EXPECT_NEAR(j["difference"]["bands"][1]["level_db"].get<double>(), 6.0, 0.2);
  EXPECT_TRUE(j["mix"].contains("true_peak_dbtp"));
  EXPECT_LT(j["mix"]["side_db_below_120"].get<double>(), -100);
}

TEST_F(Cli, DemoCheckAndRenderAreTheSameEveryTime) {
  ASSERT_EQ(run({"demo", folder / "a"}).code, 0);
  ASSERT_EQ(run({"demo", folder / "b"}).code, 0);
  EXPECT_EQ(contentsOf(folder / "a/Saltworks.heft/session.json"),
            contentsOf(folder / "b/Saltworks.heft/session.json"));
  EXPECT_EQ(contentsOf(folder / "a/sounds/Brine.flac"), contentsOf(folder / "b/sounds/Brine.flac"));
  const auto r = run({"--json", "check", folder / "a/Saltworks.heft"});
  ASSERT_EQ(r.code, 0) << r.err;
  bool off = false;
  const Json checked = r.json();
  for (const Json& f : checked["findings"]) off = off || f["verdict"] == "off";
  EXPECT_TRUE(off);
  ASSERT_EQ(run({"render", folder / "a/Saltworks.heft", "-o", folder / "ra"}).code, 0);
  ASSERT_EQ(run({"render", folder / "b/Saltworks.heft", "-o", folder / "rb"}).code, 0);
  EXPECT_EQ(contentsOf(folder / "ra/Saltworks - sum.wav"), contentsOf(folder / "rb/Saltworks - sum.wav"));
  EXPECT_EQ(loadSound(folder / "ra/Saltworks - sum.wav")->sound->frames(), 188852u);
}

// Times from a table and from chosen notes of a MIDI file, several triggers at once, bands, points; warns
// about triggers beyond the end.
TEST_F(Cli, DuckTakesTablesMidiAndPoints) {
  const auto bass = writeSound(folder, "sub.wav", bufferOf(sine(50, 0.5, 1.0, 44100), 44100));
  writeBytes(folder / "times.csv", "time_s,velocity\n0.1,1\n0.5,0.5\n7,1\n");
  MidiFile file;
  file.tempoBpm = 60;
  file.tracks = {{"Drums", {{0.25, 0.1, 9, 36, 127}, {0.35, 0.1, 9, 42, 100}, {0.75, 0.1, 9, 36, 64}}, {}, {}}};
  writeBytes(folder / "drums.mid", midiBytes(file));
  writeBytes(folder / "points.csv", "ms,gain_db,bend\n0,0,0\n5,-12,0\n40,-6,0.5\n90,0,0\n");
  const auto r = run({"--json",
                      "duck",
                      bass,
                      "--trigger",
                      folder / "times.csv",
                      "--trigger",
                      folder / "drums.mid" + ":C2",
                      "--points",
                      folder / "points.csv",
                      "--band",
                      "bell:A1:2",
                      "--amount",
                      "50",
                      "-o",
                      folder / "d.wav",
                      "--triggers-csv",
                      folder / "t.csv",
                      "--signal",
                      folder / "g.wav",
                      "--midi",
                      folder / "g.mid",
                      "--bits",
                      "14"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json j = r.json();
  EXPECT_EQ(j["triggers_ms"].dump(), "[100.0,250.0,500.0,750.0]");
  EXPECT_EQ(j["warnings"].size(), 1u) << j["warnings"].dump();
  EXPECT_NEAR(j["bell_hz"].get<double>(), 55, 1e-9);
  // Half of what 12 dB take away.
  EXPECT_NEAR(j["depth_db"].get<double>(), 20 * std::log10(1 - 0.5 * (1 - std::pow(10, -12 / 20.0))), 0.01);
  EXPECT_LT(j["midi"]["error_db"].get<double>(), 0.2);
  const auto signal = loadSound(folder / "g.wav");
  ASSERT_TRUE(signal);
  EXPECT_EQ(signal->sound->frames(), 44100u);
  EXPECT_EQ(contentsOf(folder / "t.csv").rfind("time_s,velocity\n0.100000,1.0000\n", 0), 0u);
  const Json none = run({"--json", "duck", bass, "--trigger", folder / "drums.mid" + ":D5", "--depth-db", "6",
                         "-o", folder / "n.wav"})
                        .json();
  EXPECT_EQ(none["warnings"].size(), 2u) << "none of the notes, so nothing ducks";
}

// The same lines as in the window: the Ledger is one function of the session.
TEST_F(Cli, CheckSaysWhatTheLedgerSays) {
  ASSERT_EQ(run({"demo", folder / "d"}).code, 0);
  const auto opened = openSession(folder / "d/Saltworks.heft");
  ASSERT_TRUE(opened);
  StepCache cache;
  const auto stems = render(opened->session, opened->assets, cache);
  const auto facts = study(opened->session, opened->assets, *stems, cache);
  const auto findings =
      *withTriedRemedies(opened->session, opened->assets, ledger(opened->session, *facts), cache);
  const Json checked = run({"--json", "check", folder / "d/Saltworks.heft"}).json();
  ASSERT_EQ(checked["findings"].size(), findings.size());
  for (size_t i = 0; i < findings.size(); ++i) {
    EXPECT_EQ(checked["findings"][i]["id"], findings[i].id);
    EXPECT_EQ(checked["findings"][i]["sentence"], findings[i].sentence);
    EXPECT_EQ(checked["findings"][i]["verdict"], verdictName(findings[i].verdict));
    EXPECT_EQ(checked["findings"][i]["remedy"].is_null(), !findings[i].remedy.has_value());
  }
  const std::string table = run({"check", folder / "d/Saltworks.heft"}).out;
  EXPECT_NE(table.find("Kick lands 58 cents below A1"), std::string::npos) << table;
  EXPECT_EQ(table.find('{'), std::string::npos) << "a table for reading, not JSON";
}

TEST_F(Cli, BuiltSoundsLayersAndDivesAreRenderedAndChecked) {
  ASSERT_EQ(run({"demo", folder / "d"}).code, 0);
  const std::string path = folder / "d/Saltworks.heft";
  auto opened = openSession(path);
  ASSERT_TRUE(opened);
  Session& s = opened->session;
  Layer kick;
  kick.what.emplace<KickVoice>();
  kick.kickVoice()->length = TimeValue::note(1, 16);
  kick.kickVoice()->strike.on = true;
  kick.id = 2;
  s.kick().layers[0].chain.need<Eq>()->lowCut = {true, 400, 48};
  s.kick().layers.insert(s.kick().layers.begin(), kick);
  Layer bass;
  bass.what.emplace<BassVoice>();
  bass.bassVoice()->freePhase = true;
  s.bass().layers = {bass};
  s.bass().notes[0].dive = Dive{12, 0.2, 0.3, 0};
  s.kick().finish.need<Limiter>()->on = true;
  ASSERT_TRUE(saveSession(path, s, opened->assets));
  const auto r = run({"--json", "render", path, "-o", folder / "out"});
  ASSERT_EQ(r.code, 0) << r.err;
  // The written one-shot lands where it was built to.
  const Json one = run({"--json", "measure", folder / "out/Saltworks - kick A1.wav"}).json()[0];
  EXPECT_NEAR(one["landing_hz"].get<double>(), 55.0, 0.1);
  EXPECT_NEAR(one["tail_ms"].get<double>(), 15000.0 / 122, 15.0);
  StepCache cache;
  const auto stems = render(s, opened->assets, cache);
  const auto written = loadSound(folder / "out/Saltworks - bass stem.wav");
  ASSERT_TRUE(stems && written);
  for (size_t i = 0; i < stems->frames; i += 11)
    ASSERT_NEAR(written->sound->channels[0][i], stems->bass().at(0, i), 2e-7)
        << "the same samples that the window plays";
  const auto midi = readMidi(folder / "out/Saltworks - patterns.mid");
  ASSERT_TRUE(midi);
  EXPECT_EQ(midi->tracks.size(), 2u);
  EXPECT_FALSE(midi->tracks[1].bends.empty()) << "the dive is written as the wheel's movement";
  const Json checked = run({"--json", "check", path}).json();
  std::set<std::string> ids;
  for (const Json& f : checked["findings"]) ids.insert(f["id"].get<std::string>());
  EXPECT_TRUE(ids.contains("free-phase") && ids.contains("kick-low-tails"));
}

}  // namespace
}  // namespace heft
