// What the command line makes of nonsense: documented exit codes, one line on stderr that names the file,
// nothing half written.

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

class CliFaults : public Cli {};

TEST_F(CliFaults, NonsenseIsBadUsage) {
  const auto kick = kickFile(), bass = bassFile();
  const std::string out = folder / "o.wav";
  const struct {
    std::vector<std::string> arguments;
    const char* named;
  } kRows[] = {
      {{}, "subcommand"},
      {{"fly"}, "fly"},
      {{"measure"}, "FILE"},
      {{"measure", kick, "--key", "H#"}, "H#"},
      {{"measure", kick, "--tempo", "-5"}, "-5"},
      {{"measure", kick, "--tempo", "nan"}, "nan"},
      {{"measure", kick, "--low", "300", "--high", "100"}, "--low"},
      {{"measure", kick, "--low", "inf"}, "--low"},
      {{"measure", kick, "--middle-c", "C9"}, "C9"},
      {{"measure", kick, "--frobnicate"}, "--frobnicate"},
      {{"tune", kick, "--to", "A", "--method", "split", "-o", out}, "\"A\""},
      {{"tune", kick, "--to-hz", "0", "--method", "split", "-o", out}, "--to-hz"},
      {{"tune", kick, "--to-hz", "1e99", "--method", "split", "-o", out}, "--to-hz"},
      {{"tune", kick, "--method", "split", "-o", out}, "--to"},
      {{"tune", kick, "--to", "A1", "--to-hz", "55", "--method", "split", "-o", out}, "one of"},
      {{"tune", kick, "--to", "A1", "--method", "magic", "-o", out}, "magic"},
      {{"tune", kick, "--to", "A1", "--method", "split", "--strike-ms", "-1", "-o", out}, "--strike-ms"},
      {{"align", kick, bass, "--low", "200"}, "--low"},
      {{"align", kick, bass, "--max-delay-ms", "nan"}, "--max-delay-ms"},
      {{"align", kick, bass, "--apply", "-o", out}, "--apply"},
      {{"align", "x.heft", "--apply"}, "-o"},
      {{"align", "x.heft", "--low", "30"}, "--low"},
      {{"duck", bass, "--trigger", kick, "--depth-db", "-3", "-o", out}, "--depth-db"},
      {{"duck", bass, "--trigger", kick, "--depth-db", "6", "--crossover", "5", "-o", out}, "--crossover"},
      {{"duck", bass, "--trigger", kick, "-o", out}, "--depth-db"},
      {{"duck", bass, "--trigger", kick, "--depth-db", "6", "--method", "magic", "-o", out}, "magic"},
      {{"duck", bass, "--trigger", kick, "--depth-db", "6", "--band", "bell:H1", "-o", out}, "--band"},
      {{"duck", bass, "--trigger", kick, "--depth-db", "6", "--band", "all", "--crossover", "90", "-o", out},
       "one of"},
      {{"duck", bass, "--trigger", kick, "--depth-db", "6", "--method", "follow", "--ratio", "0.5", "-o", out},
       "--ratio"},
      {{"duck", bass, "--trigger", kick, "--depth-db", "6", "--trigger-lowcut", "200", "-o", out},
       "--trigger-lowcut"},
      {{"duck", bass, "--trigger", kick, "--depth-db", "6", "--bits", "9", "--midi", out, "-o", out}, "--bits"},
      {{"duck", bass, "--trigger", kick, "--depth-db", "6", "--bits", "14", "--controller", "40", "--midi", out,
        "-o", out},
       "--controller"},
      {{"duck", bass, "--trigger", kick, "--depth-db", "6", "--tempo", "100", "-o", out}, "--tempo"},
      {{"compare", kick}, "REF"}};
  for (const auto& row : kRows) expectFault(run(row.arguments), 2, row.named);
  EXPECT_FALSE(std::filesystem::exists(out));
  EXPECT_EQ(run({"--help"}).code, 0);
  EXPECT_EQ(run({"tune", "--help"}).code, 0);
}

// Hostile input over every command that reads sound.
TEST_F(CliFaults, BrokenInputIsNamedAndNothingIsWritten) {
  const auto kick = kickFile(), bass = bassFile();
  std::filesystem::create_directory(folder / "results");
  writeBytes(folder / "empty.wav", "");
  writeBytes(folder / "text \u97f3.wav", "not audio");
  std::filesystem::create_directory(folder / "folder.wav");
  std::string nan = *encodeSound(AudioBuffer(48000, 1, 500), SampleFormat::WavFloat);
  nan.replace(nan.size() - 4, 4, std::string("\0\0\xc0\x7f", 4));
  writeBytes(folder / "nan.wav", nan);
  for (const char* const file : {"empty.wav", "text \u97f3.wav", "folder.wav", "nan.wav", "missing.wav"}) {
    const std::string name = file, bad = folder / name, out = folder / "results/o.wav";
    expectFault(run({"--json", "measure", kick, bad}), 3, name);
    expectFault(run({"tune", bad, "--to", "A1", "--method", "varispeed", "-o", out}), 3, name);
    expectFault(run({"tune", kick, "--with", bad, "--method", "varispeed", "-o", out}), 3, name);
    expectFault(run({"align", bad, bass, "-o", out}), 3, name);
    expectFault(run({"align", kick, bad, "-o", out}), 3, name);
    expectFault(run({"duck", bad, "--trigger", kick, "--depth-db", "6", "-o", out}), 3, name);
    expectFault(run({"duck", bass, "--trigger", bad, "--depth-db", "6", "-o", out}), 3, name);
    expectFault(run({"compare", bad, kick}), 3, name);
    expectFault(run({"compare", kick, bad}), 3, name);
    expectFault(run({"check", bad}), 3, name);
    expectFault(run({"render", bad, "-o", folder / "results/r"}), 3, name);
  }
  EXPECT_EQ(filesIn(folder / "results"), 0u);
}

TEST_F(CliFaults, UnwritableTargetsAreNamed) {
  const auto kick = kickFile(), bass = bassFile();
  for (const std::string& target :
       {folder.path(), std::string("/proc/heft.wav"), folder / "no/such/folder.wav"}) {
    expectFault(run({"tune", kick, "--to", "A1", "--method", "varispeed", "-o", target}), 4, target);
    expectFault(run({"align", kick, bass, "-o", target}), 4, target);
    expectFault(run({"duck", bass, "--trigger", kick, "--depth-db", "6", "-o", target}), 4, target);
  }
  // The sound could be written, the curve not: neither is there afterwards.
  expectFault(run({"duck", bass, "--trigger", kick, "--depth-db", "6", "-o", folder / "d.wav", "--curve",
                   folder / "no/c.csv"}),
              4, "no/c.csv");
  EXPECT_FALSE(std::filesystem::exists(folder / "d.wav"));
  expectFault(run({"demo", "/proc/demo"}), 4, "/proc/demo");
}

// Odd but readable sounds: an answer from every command, never a crash.
// All of its files or none; existing files of those names stay.
TEST_F(CliFaults, ADuckThatCannotWriteItsCurveLeavesWhatWasThere) {
  const auto kick = kickFile(), bass = bassFile();
  writeBytes(folder / "ducked.wav", "an older one");
  writeBytes(folder / "curve.mid", "an older curve");
  std::filesystem::create_directories(folder / "taken.csv");
  const auto r = run({"duck", bass, "--trigger", kick, "--depth-db", "6", "-o", folder / "ducked.wav", "--midi",
                      folder / "curve.mid", "--curve", folder / "taken.csv"});
  EXPECT_EQ(r.code, 4) << r.err;
  EXPECT_NE(r.err.find("taken.csv"), std::string::npos) << r.err;
  EXPECT_EQ(contentsOf(folder / "ducked.wav"), "an older one");
  EXPECT_EQ(contentsOf(folder / "curve.mid"), "an older curve");
  size_t beside = 0;
  for (const auto& at : std::filesystem::directory_iterator(folder / ""))
    beside += at.path().filename().string().starts_with(".heft-part") ? 1 : 0;
  EXPECT_EQ(beside, 0u);
}

TEST_F(CliFaults, WhatFailsLeavesNoFoldersBehindAndAFullDeviceIsTold) {
  writeBytes(folder / "letter.wav", "dear sir");
  EXPECT_EQ(run({"split", folder / "letter.wav", "-o", folder / "new/sides"}).code, 3);
  EXPECT_EQ(run({"demo", "/dev/null/demo"}).code, 4);
  EXPECT_FALSE(std::filesystem::exists(folder / "new"));
  const int full =
      std::system((quoted(heftCli()) + " measure " + quoted(kickFile()) + " >/dev/full 2>/dev/null").c_str());
  EXPECT_EQ(WEXITSTATUS(full), 4);
}

// Names are shown without terminal controls.
TEST_F(CliFaults, NamesReachTheTerminalAsWords) {
  const auto odd = folder / "red\x1b[31m.wav";
  std::filesystem::copy(kickFile(), std::string(odd));
  const auto r = run({"measure", odd});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(r.out.find('\x1b'), std::string::npos);
  EXPECT_NE(r.out.find("red?[31m.wav"), std::string::npos) << r.out;
}

TEST_F(CliFaults, OddSoundsAreAnswered) {
  const auto kick = kickFile(), bass = bassFile();
  const auto mono = noise(0.1, 2400, 2);
  const std::vector<std::pair<std::string, AudioBuffer>> sounds = {
      {"one.wav", bufferOf({0.5}, 48000)},
      {"eight.wav", bufferOf(mono, 48000, 8)},
      {"slow.wav", bufferOf(sine(55, 0.5, 0.5, 8000), 8000)},
      {"fast.wav", bufferOf(sine(55, 0.5, 0.2, 384000), 384000)},
      {"silence.wav", AudioBuffer(48000, 2, 4800)}};
  for (const auto& [name, sound] : sounds) {
    const auto path = writeSound(folder, name, sound);
    EXPECT_EQ(run({"--json", "measure", path}).code, 0) << name;
    const int tuned = run({"tune", path, "--to", "A1", "--method", "split", "-o", folder / "o.wav"}).code;
    EXPECT_TRUE(tuned == 0 || tuned == 3) << name;
    EXPECT_EQ(run({"--json", "align", kick, path, "-o", folder / "o.wav"}).code, 0) << name;
    EXPECT_EQ(run({"--json", "align", path, bass}).code, 0) << name;
    EXPECT_EQ(run({"--json", "duck", path, "--trigger", kick, "--depth-db", "120", "--crossover", "100", "-o",
                   folder / "o.wav"})
                  .code,
              0)
        << name;
    EXPECT_EQ(run({"--json", "duck", bass, "--trigger", path, "--depth-db", "6", "-o", folder / "o.wav"}).code,
              0)
        << name;
    EXPECT_EQ(run({"--json", "compare", path, kick}).code, 0) << name;
  }
  // A header that promises too much: the existing data is used, with a warning.
  std::string lying = *encodeSound(bufferOf(sine(55, 0.5, 0.5, 48000), 48000), SampleFormat::Wav16);
  lying[40] = lying[41] = lying[42] = '\xff';
  writeBytes(folder / "lying.wav", lying);
  const auto r = run({"--json", "measure", folder / "lying.wav"});
  ASSERT_EQ(r.code, 0);
  EXPECT_FALSE(r.json()[0]["warnings"].empty());
}

TEST_F(CliFaults, ASessionOfManyKindsOfDamageIsRefusedOrUsed) {
  ASSERT_EQ(run({"demo", folder / "d"}).code, 0);
  const std::string file = folder / "d/Saltworks.heft/session.json";
  const std::string good = contentsOf(file);
  const std::string voice = R"("built_kick": {"fall": [{"at": 0, "semitones": 24}], "length": "1/16"}, )";
  struct Row {
    std::string from, to;
    int code;
    const char* named;
  };
  const Row rows[] = {
      {"\"layers\": [\n        {", "\"layers\": [{" + voice, 0, ""},
      {"\"layers\": [\n        {", "\"layers\": [{\"built_kick\": {\"length\": \"soon\"}, ", 3,
       "built_kick.length"},
      {"\"layers\": [\n        {", "\"layers\": [{\"built_kick\": {\"fall\": [{\"at\": 0.5}]}, ", 3, "fall"},
      {"\"layers\": [\n        {", "\"layers\": [{\"chain\": {\"list\": [{\"drive\": {\"kind\": \"melt\"}}]}, ",
       3, "drive.kind"},
      {"\"division\": \"1/16\"", "\"division\": \"NaN\"", 3, "division"},
      {"\"swing\": 0.0", "\"swing\": 1e400", 3, ""}};
  for (const Row& row : rows) {
    std::string bad = good;
    ASSERT_NE(bad.find(row.from), std::string::npos) << row.from;
    bad.replace(bad.find(row.from), row.from.size(), row.to);
    writeBytes(file, bad);
    for (const char* command : {"check", "render"}) {
      std::vector<std::string> arguments = {command, folder / "d/Saltworks.heft"};
      if (std::string(command) == "render") arguments.insert(arguments.end(), {"-o", folder / "bad-out"});
      const auto r = run(arguments);
      EXPECT_EQ(r.code, row.code) << row.to << ": " << r.err;
      if (row.code == 0) continue;
      EXPECT_NE(r.err.find("session.json"), std::string::npos) << r.err;
      EXPECT_NE(r.err.find(row.named), std::string::npos) << r.err;
      EXPECT_EQ(std::count(r.err.begin(), r.err.end(), '\n'), 1) << "one line";
    }
  }
}

TEST_F(CliFaults, BrokenSessionsAreNamedAndMissingSoundsTold) {
  ASSERT_EQ(run({"demo", folder / "d"}).code, 0);
  const std::string session = folder / "d/Saltworks.heft";
  for (const auto& entry : std::filesystem::directory_iterator(session + "/audio"))
    if (entry.path().filename().string().find("808") != std::string::npos)
      std::filesystem::remove(entry.path());
  const Json torn = run({"--json", "check", session}).json();
  ASSERT_EQ(torn["warnings"].size(), 1u);
  EXPECT_NE(torn["warnings"][0].get<std::string>().find("808"), std::string::npos);
  const std::string good = contentsOf(session + "/session.json");
  for (const std::string& bad : {std::string(), std::string("{}"), good.substr(0, good.size() / 2),
                                 std::string("[1, 2]"), std::string(200, '[')}) {
    writeBytes(session + "/session.json", bad);
    expectFault(run({"check", session}), 3, "session.json");
    expectFault(run({"render", session, "-o", folder / "never"}), 3, "session.json");
  }
  EXPECT_FALSE(std::filesystem::exists(folder / "never"));
}

}  // namespace
}  // namespace heft
