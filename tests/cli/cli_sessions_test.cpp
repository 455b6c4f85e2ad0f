// Sessions on the command line: loops and songs made, checked and rendered, with presets.

#include <gtest/gtest.h>

#include "core/session/folder.h"
#include "core/session/preset.h"
#include "core/sound/audio_file.h"
#include "tests/cli/cli_fixture.h"

namespace heft {
namespace {

using namespace reference;

TEST_F(Cli, RenderFollowsTheExportList) {
  ASSERT_EQ(run({"demo", folder / "d"}).code, 0);
  auto opened = openSession(folder / "d/Saltworks.heft");
  ASSERT_TRUE(opened);
  opened->session.exports = {true, false, false, true, SampleFormat::Flac24, false};
  opened->session.duck().on = true;
  opened->session.meantSo = {"kick-tail"};
  ASSERT_TRUE(saveSession(folder / "d/Saltworks.heft", opened->session, opened->assets));
  const auto r = run({"--json", "render", folder / "d/Saltworks.heft", "-o", folder / "out"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json listed = r.json();
  EXPECT_EQ(listed["files"].size(), 3u) << "the kick and the gain as CSV and MIDI";
  EXPECT_EQ(filesIn(folder / "out"), 3u);
  for (const Json& f : listed["files"])
    EXPECT_EQ(f["bytes"].get<size_t>(),
              std::filesystem::file_size(folder / ("out/" + f["name"].get<std::string>())));
  const Json checked = run({"--json", "check", folder / "d/Saltworks.heft"}).json();
  for (const Json& f : checked["findings"]) EXPECT_EQ(f["meant_so"].get<bool>(), f["id"] == "kick-tail");
}

// A song as long as its backing, with sections; its stems end with the last tail, or where they are asked to.
TEST_F(Cli, SongsAreMadeCheckedAndRenderedByBars) {
  const auto backing = writeSound(folder, "mix.wav", bufferOf(sine(220, 0.1, 41.0, 44100), 44100));
  const std::string made = folder / "song.heft";
  const auto r =
      run({"--json", "new", "--song", "--kick", kickFile(), "--bass", bassFile(), "--backing", backing, "--key",
           "A minor", "--tempo", "120", "--section", "Intro=1:5", "--section", "Drop <b>=5:13", "-o", made});
  ASSERT_EQ(r.code, 0) << r.err;
  const auto opened = openSession(made);
  ASSERT_TRUE(opened);
  const Session& s = opened->session;
  EXPECT_TRUE(s.track.song);
  EXPECT_EQ(s.track.loopBeats, 21 * 4) << "41 s at 120 BPM are 20.5 bars";
  EXPECT_EQ(s.track.sampleRate, 48000) << "the kick's, not the backing's";
  ASSERT_EQ(s.sections.size(), 2u);
  EXPECT_EQ(s.sections[1].name, "Drop <b>");
  EXPECT_EQ(s.sections[1].toQuarters, 48.0);
  const auto checked = run({"--json", "check", made, "--no-fixes"});
  ASSERT_EQ(checked.code, 0) << checked.err;
  EXPECT_TRUE(checked.json()["findings"].size() > 3);
  ASSERT_EQ(run({"render", made, "-o", folder / "all"}).code, 0);
  ASSERT_EQ(run({"render", made, "--from", "5", "--to", "7", "-o", folder / "part"}).code, 0);
  const auto whole = loadSound(folder / "all/song - sum.wav"), part = loadSound(folder / "part/song - sum.wav");
  ASSERT_TRUE(whole && part);
  EXPECT_GE(whole->sound->seconds(), 42.0);
  EXPECT_LT(whole->sound->seconds(), 44.0) << "no ten seconds of silence";
  ASSERT_EQ(part->sound->frames(), 4u * 48000u);
  for (size_t i = 0; i < part->sound->frames(); i += 101)
    ASSERT_EQ(part->sound->channels[0][i], whole->sound->channels[0][8 * 48000 + i]) << i;
  const std::vector<std::vector<std::string>> refused = {
      {"render", made, "--from", "9", "--to", "9", "-o", folder / "none"},
      {"render", made, "--from", "0", "-o", folder / "none"},
      {"render", made, "--to", "99", "-o", folder / "none"},
      {"new", "--song", "--kick", kickFile(), "--key", "A minor", "--tempo", "60", "--bars", "151", "-o",
       folder / "none"},
      {"new", "--kick", kickFile(), "--key", "A minor", "--tempo", "60", "--bars", "65", "-o", folder / "none"},
      {"new", "--kick", kickFile(), "--key", "A minor", "--tempo", "60", "--section", "Drop=3:2", "-o",
       folder / "none"},
      {"new", "--kick", kickFile(), "--key", "A minor", "--tempo", "60", "--section", "=1:2", "-o",
       folder / "none"}};
  for (const auto& arguments : refused) {
    const auto bad = run(arguments);
    EXPECT_EQ(bad.code, 2) << arguments[3] << bad.err;
    EXPECT_NE(bad.err.find("--"), std::string::npos) << bad.err;
    EXPECT_FALSE(std::filesystem::exists(folder / "none")) << "nothing half written";
  }
}

// Presets by name and by file: into a new session, and over one that is rendered and stays as it is.
TEST_F(Cli, NewAndRenderTakePresets) {
  const auto kick = kickFile(), bass = bassFile();
  const Json listed = run({"--json", "presets"}).json();
  ASSERT_GE(listed["presets"].size(), 12u);
  const std::string drive = listed["presets"][0]["name"];
  const Preset own{"Mine", Processor{1, Gain{true, -20}}};
  const auto file = savePreset(folder / "presets", own, Assets());
  ASSERT_TRUE(file);
  const std::string made = folder / "p.heft";
  const auto r = run({"--json", "new", "--kick", kick, "--bass", bass, "--key", "A minor", "--tempo", "120",
                      "--preset", "kick/1=" + drive, "--preset", "bass=" + *file, "-o", made});
  ASSERT_EQ(r.code, 0) << r.err;
  const auto opened = openSession(made);
  ASSERT_TRUE(opened);
  EXPECT_EQ(opened->session.kick().layers[0].chain.list.size(), 1u);
  EXPECT_EQ(opened->session.bass().finish.first<Gain>()->db, -20.0);
  const std::string before = contentsOf(made + "/session.json");
  ASSERT_EQ(run({"render", made, "--preset", "sum=" + *file, "-o", folder / "plain"}).code, 0);
  ASSERT_EQ(
      run({"render", made, "--preset", "sum=" + *file, "--preset", "sum=" + *file, "-o", folder / "softer"})
          .code,
      0);
  EXPECT_EQ(contentsOf(made + "/session.json"), before);
  const auto plain = loadSound(folder / "plain/p - sum.wav"), softer = loadSound(folder / "softer/p - sum.wav");
  ASSERT_TRUE(plain && softer);
  EXPECT_NEAR(peakOf(*softer->sound) / peakOf(*plain->sound), 0.1, 1e-4);
  for (const char* bad : {"kick=no such thing", "tuba=Mine", "kick/9=Mine", "kick", "=Mine"}) {
    const auto refused = run({"render", made, "--preset", bad, "-o", folder / "none"});
    EXPECT_EQ(refused.code, 2) << bad;
    EXPECT_NE(refused.err.find("--preset"), std::string::npos) << refused.err;
  }
  EXPECT_FALSE(std::filesystem::exists(folder / "none")) << "nothing half written";
}

}  // namespace
}  // namespace heft
