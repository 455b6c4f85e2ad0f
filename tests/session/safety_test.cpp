// Sessions and files that crashed, lost or damaged something, each at its smallest.
#include <gtest/gtest.h>
#include <sys/wait.h>
#include <unistd.h>

#include <fstream>

#include "core/measure/pitch/landing.h"
#include "core/remedies/remedies.h"
#include "core/render/cache/at_once.h"
#include "core/session/folder.h"
#include "core/session/folder_lock.h"
#include "core/session/preset.h"
#include "core/sound/stretch.h"
#include "core/theory/text.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using reference::TemporaryFolder;

// Everything that `heft-cli check` does with a session.
void checked(const std::string& json) {
  const auto s = sessionFromJson(json, "smallest.json");
  ASSERT_TRUE(s) << s.error().sentence();
  StepCache cache;
  const auto stems = render(*s, {}, cache);
  ASSERT_TRUE(stems) << stems.error().sentence();
  const auto figures = study(*s, {}, *stems, cache);
  ASSERT_TRUE(figures) << figures.error().sentence();
  EXPECT_TRUE(withTriedRemedies(*s, {}, ledger(*s, *figures), cache, {}, References::Measure, {}));
}

// The layer that carries the note was asked of one whose Start lies beyond its end.
TEST(Safety, APartOfTwoLayersOfWhichOneHasNoSoundIsChecked) {
  checked(R"({"heft_session":5,"parts":[{"role":"clap","layers":[{"built_kick":{}},
    {"shape":{"start_ms":2341},"built_kick":{}}]}]})");
}

// Its landing was searched between 1570 and 1000 Hz.
TEST(Safety, HighNotesAreChecked) {
  for (const char* note : {"96", "110", "127"})
    checked(std::string(R"({"heft_session":5,"parts":[{"role":"lead","plays":"notes","layers":[{"built_bass":{},
      "semitones":)") +
            (note == std::string("127") ? "48" : "0") + R"(}],"notes":[{"midi":)" + note + "}]}]}");
}

TEST(Safety, ABandThatEndsBelowItsStartHasNoLanding) {
  const auto x = reference::sine(2093, 0.5, 0.5, 48000);
  const Landing found = measureLanding(x, 48000, 0.0, {1570.0, 1000.0});
  EXPECT_FALSE(found.noteHz());
  EXPECT_FALSE(found.reason.empty());
  EXPECT_FALSE(pathHzAt({}, 0.1));
}

TEST(Safety, WhatAStepThrowsReachesWhoAskedAndTheNextStepsRun) {
  const StepCache cache = StepCache().onThreads(4);
  auto throwing = [](size_t i) {
    if (i == 37) throw std::length_error("37");
    return i;
  };
  for (int turn = 0; turn < 20; ++turn)
    EXPECT_THROW(madeAtOnce(100, cache, std::stop_token(), throwing), std::length_error);
  const auto made = madeAtOnce(100, cache, std::stop_token(), [](size_t i) { return i; });
  EXPECT_EQ(made[99], 99u);
}

TEST(Safety, AFolderHasOneHolderAndIsFreeAfterIt) {
  const TemporaryFolder folder;
  FolderLock one, two;
  EXPECT_EQ(one.take(folder / ""), FolderLock::State::Held);
  EXPECT_EQ(two.take(folder / ""), FolderLock::State::Elsewhere);
  one.release();
  EXPECT_EQ(two.take(folder / ""), FolderLock::State::Held);
  FolderLock three = std::move(two);
  EXPECT_FALSE(two.isHeld());
  EXPECT_EQ(one.take(folder / ""), FolderLock::State::Elsewhere);
  EXPECT_EQ(one.take("/nowhere/at/all"), FolderLock::State::Impossible);
  // A process that dies silently releases it.
  three.release();
  if (const pid_t child = fork(); child == 0) {
    FolderLock theirs;
    theirs.take(folder / "");
    _exit(0);
  } else {
    int status = 0;
    waitpid(child, &status, 0);
  }
  EXPECT_EQ(one.take(folder / ""), FolderLock::State::Held);
}

// Beyond two octaves down the stretcher reads memory that it never wrote: with NaN in the heap, all of its
// output was NaN.
TEST(Safety, FarShiftsThatKeepTheLengthAreMadeOfNumbers) {
  const AudioBuffer in = reference::bufferOf(reference::sine(55, 0.5, 0.5, 24000), 24000);
  for (const double speed : {0.14, 0.12, 0.064, 1.0 / 32.0, 32.0}) {
    std::vector<std::vector<float>> odd;
    for (size_t size = 16; size < (1 << 15); size *= 2)
      for (int i = 0; i < 16; ++i) odd.emplace_back(size, std::nanf(""));
    odd.clear();
    const auto out = pitchedKeepingLength(in, speed);
    ASSERT_TRUE(out) << speed;
    ASSERT_EQ(out->frames(), in.frames());
    for (const float x : out->channels[0]) ASSERT_TRUE(std::isfinite(x)) << speed;
    EXPECT_GT(energyOf(out->channels[0]), 1.0) << speed;
  }
}

class StoredSounds : public ::testing::Test {
 protected:
  void SetUp() override {
    const auto path = reference::writeSound(folder, "kick.wav",
                                            reference::bufferOf(reference::sine(55, 0.5, 0.2, 48000), 48000));
    session.kick().layers = {recordedLayer(assets.add(*loadSound(path), path))};
    ASSERT_TRUE(saveSession(folder / "a.heft", session, assets));
    for (const auto& at : std::filesystem::directory_iterator(folder / "a.heft/audio")) stored = at.path();
  }
  TemporaryFolder folder;
  Assets assets;
  Session session;
  std::string stored;
};

// Being of equal size, it passed for the sound and was never rewritten.
TEST_F(StoredSounds, OneThatWasDamagedInPlaceIsToldAndMendedByTheNextSave) {
  std::fstream(stored, std::ios::in | std::ios::out).seekp(200).write("damage", 6);
  const auto opened = openSession(folder / "a.heft");
  ASSERT_EQ(opened->warnings.size(), 1u);
  EXPECT_NE(opened->warnings[0].find("has changed since it was saved"), std::string::npos)
      << opened->warnings[0];
  ASSERT_TRUE(saveSession(folder / "a.heft", session, assets));
  EXPECT_TRUE(openSession(folder / "a.heft")->warnings.empty());
}

TEST_F(StoredSounds, APresetWhoseSoundWasChangedIsRefused) {
  Preset preset{.name = "Thud", .what = session.kick().layers[0]};
  const auto path = savePreset(folder / "presets", preset, assets);
  ASSERT_TRUE(path);
  ASSERT_TRUE(openPreset(*path));
  for (const auto& at : std::filesystem::directory_iterator(folder / "presets/audio"))
    std::fstream(at.path(), std::ios::in | std::ios::out).seekp(200).write("damage", 6);
  const auto again = openPreset(*path);
  ASSERT_FALSE(again);
  EXPECT_NE(again.error().sentence().find("kick.wav"), std::string::npos) << again.error().sentence();
}

// Bytes that are not UTF-8 cannot be stored in session.json; the copy kept them and was not found again.
TEST_F(StoredSounds, NamesThatAreNoUtf8AreFoundAgain) {
  const std::string odd = std::string(folder / "kick \xff\xe4 1.wav");
  std::filesystem::copy(folder / "kick.wav", odd);
  Assets fresh;
  session.kick().layers = {recordedLayer(fresh.add(*loadSound(odd), odd))};
  ASSERT_TRUE(saveSession(folder / "odd.heft", session, fresh));
  const auto opened = openSession(folder / "odd.heft");
  EXPECT_TRUE(opened->warnings.empty()) << opened->warnings[0];
  EXPECT_EQ(opened->session.kick().layers, session.kick().layers);
  // As sessions of before have it: bytes on disk that are not those of the name.
  std::filesystem::rename(stored, std::string(folder / "a.heft/audio/") +
                                      std::filesystem::path(stored).filename().string() + "\xff");
  EXPECT_TRUE(openSession(folder / "a.heft")->warnings.empty());
}

TEST_F(StoredSounds, ASessionThatAnotherProgramWroteIsNotWrittenOver) {
  const std::string hash = sessionFileHash(folder / "a.heft");
  EXPECT_EQ(openSession(folder / "a.heft")->fileHash, hash);
  session.track.name = "Mine";
  const auto first = saveUnlessChanged(folder / "a.heft", session, assets, hash);
  ASSERT_TRUE(first);
  EXPECT_FALSE(first->changedOnDisk);
  EXPECT_NE(first->fileHash, hash);
  session.track.name = "Mine again";
  const auto second = saveUnlessChanged(folder / "a.heft", session, assets, hash);
  ASSERT_TRUE(second);
  EXPECT_TRUE(second->changedOnDisk);
  EXPECT_EQ(openSession(folder / "a.heft")->session.track.name, "Mine");
}

// Table 3-7 of the Unicode standard (well-formed byte sequences), from memory.
TEST(Names, OnlyWellFormedUtf8Stays) {
  EXPECT_EQ(validUtf8("Käse \u266F \U0001F941"), "Käse \u266F \U0001F941");
  EXPECT_EQ(validUtf8("a\xC0\xAF"
                      "b"),
            "a??b")
      << "overlong";
  EXPECT_EQ(validUtf8("\xED\xA0\x80"), "???") << "a surrogate";
  EXPECT_EQ(validUtf8("\xF4\x90\x80\x80"), "????") << "beyond the last character";
  EXPECT_EQ(validUtf8("\xE2\x99"), "??") << "cut off";
}

TEST(Names, NothingInThemReachesTheTerminalOrAnotherFolder) {
  EXPECT_EQ(printable("red\x1b[31m\nnext\u202Ednim\u009B"), "red?[31m?next?dnim?");
  EXPECT_EQ(fileNameOf("../a\\b\n", 40), "_._a_b_");
  EXPECT_EQ(fileNameOf("", 40), "Untitled");
  EXPECT_EQ(fileNameOf(" . ", 40).find('.'), std::string::npos);
  EXPECT_LE(fileNameOf(std::string(99, 'x') + "\u266F", 100).size(), 100u);
}

}  // namespace
}  // namespace heft
