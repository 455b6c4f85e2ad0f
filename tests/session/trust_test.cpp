// What people lose work by: files written whole and nowhere else, keys of later versions, and a history of
// hundreds of steps without hundreds of sessions.

#include <fcntl.h>
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <nlohmann/json.hpp>

#include "core/export/export_files.h"
#include "core/render/lanes/render.h"
#include "core/session/folder.h"
#include "core/session/history.h"
#include "core/sound/whole_file.h"
#include "core/theory/text.h"
#include "scenario/make_demo.h"
#include "tests/reference/repeated.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;
namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

std::vector<std::string> namesIn(const std::string& folder) {
  std::vector<std::string> out;
  for (const auto& e : fs::directory_iterator(folder)) out.push_back(e.path().filename().string());
  std::sort(out.begin(), out.end());
  return out;
}

TEST(WholeFile, ALinkThatWasLaidBeforehandLeadsNowhere) {
  TemporaryFolder folder;
  const std::string victim = folder / "victim", target = folder / "session.json";
  writeBytes(victim, "precious");
  // Every name that earlier writers of such files could be known by.
  for (const std::string name : {"session.json.part", "session.json.tmp", "session.json~", ".heft-part-"})
    fs::create_symlink(victim, folder / name);
  fs::create_symlink(victim, folder / (".heft-part-" + std::to_string(getpid())));
  ASSERT_TRUE(writeWhole(target, "one"));
  ASSERT_TRUE(writeWhole(target, "two"));
  EXPECT_EQ(contentsOf(target), "two");
  EXPECT_EQ(contentsOf(victim), "precious");
  // A target that is itself a link is replaced, not written through.
  const std::string linked = folder / "linked.json";
  fs::create_symlink(victim, linked);
  ASSERT_TRUE(writeWhole(linked, "three"));
  EXPECT_EQ(contentsOf(victim), "precious");
  EXPECT_EQ(contentsOf(linked), "three");
}

TEST(WholeFile, WhatIsReadIsARegularFileOfBoundedSize) {
  TemporaryFolder folder;
  writeBytes(folder / "a", std::string(1000, 'x'));
  fs::create_symlink(folder / "a", folder / "link");
  ASSERT_EQ(mkfifo((folder / "pipe").c_str(), 0600), 0);
  EXPECT_EQ(readBytes(folder / "a")->size(), 1000u);
  EXPECT_EQ(readBytes(folder / "link")->size(), 1000u);
  EXPECT_FALSE(readBytes(folder / "link", kMostBytes, Links::Refused));
  EXPECT_FALSE(readBytes(folder / "a", 999));
  EXPECT_FALSE(readBytes(folder / "pipe")) << "and does not wait for it";
  EXPECT_FALSE(readBytes(folder.path()));
  const auto missing = readBytes(folder / "missing");
  ASSERT_FALSE(missing);
  EXPECT_NE(missing.error().sentence().find("missing"), std::string::npos);
}

// Removes what a dead writer left; a running one's files stay, and so do anyone else's.
TEST(WholeFile, UnfinishedFilesOfTheDeadAreSwept) {
  TemporaryFolder folder;
  // A writer killed at work, as often as it takes to leave something unfinished.
  const std::string bytes(1 << 23, 'x');
  std::string left;
  for (int round = 0; round < 40 && left.empty(); ++round) {
    const pid_t child = fork();
    if (child == 0)
      for (;;)
        if (!writeWhole(folder / "big", bytes)) _exit(1);
    usleep(static_cast<useconds_t>(3000 + 700 * round));
    kill(child, SIGSTOP);
    for (const auto& name : namesIn(folder.path()))
      if (name.rfind(".heft-part-", 0) == 0) left = name;
    sweepUnfinished(folder.path());
    if (!left.empty()) EXPECT_TRUE(fs::exists(folder / left)) << "its writer still runs";
    kill(child, SIGKILL);
    waitpid(child, nullptr, 0);
  }
  ASSERT_FALSE(left.empty());
  writeBytes(folder / "mine.part", "x");
  writeBytes(folder / ".heft-part-00000000-1-2", "of another machine");
  sweepUnfinished(folder.path());
  EXPECT_FALSE(fs::exists(folder / left));
  EXPECT_TRUE(fs::exists(folder / "mine.part"));
  EXPECT_TRUE(fs::exists(folder / ".heft-part-00000000-1-2"));
}

// A song with sections and automation, saved again and again by a process that is killed at any moment: what
// opens afterwards is one of the states that were saved, whole, with its sounds.
TEST(Trust, ASongKilledWhileItIsSavedLosesNothing) {
  TemporaryFolder folder;
  const auto demo = demo::make();
  Session even = demo->session;
  repeatAsSong(even, 40);
  even.sections = {{1, "Intro", 0.0, 64.0}, {2, "Drop", 64.0, 320.0}};
  Automation level{.owner = {.part = even.kick().id}, .key = "level_db"};
  for (int i = 0; i < 4000; ++i) level.points.push_back({0.05 * i, -0.001 * i, 0.0});
  even.automation = {level};
  Session odd = even;
  odd.track.name = "Odd", odd.kick().hits.resize(100);
  const std::string path = folder / "song.heft";
  ASSERT_TRUE(saveSession(path, even, demo->assets));
  even = openSession(path)->session;
  ASSERT_TRUE(saveSession(path, odd, demo->assets));
  odd = openSession(path)->session;
  size_t evens = 0, odds = 0;
  for (int round = 0; round < 16; ++round) {
    int saved[2] = {};
    ASSERT_EQ(pipe(saved), 0);
    const pid_t child = fork();
    if (child == 0)
      for (int i = 0;; ++i)
        if (!saveSession(path, i % 2 ? odd : even, demo->assets) || write(saved[1], "x", 1) != 1) _exit(1);
    close(saved[1]);
    // After one save or two, somewhere in the next.
    char done[2] = {};
    for (int i = 0; i <= round % 2; ++i) ASSERT_EQ(read(saved[0], done, 1), 1);
    usleep(static_cast<useconds_t>(1733 * round));
    kill(child, SIGKILL);
    close(saved[0]);
    int status = 0;
    waitpid(child, &status, 0);
    ASSERT_TRUE(WIFSIGNALED(status)) << "saving did not fail";
    const auto opened = openSession(path);
    ASSERT_TRUE(opened) << opened.error().sentence();
    EXPECT_TRUE(opened->warnings.empty()) << opened->warnings.front();
    evens += opened->session == even, odds += opened->session == odd;
    ASSERT_EQ(evens + odds, static_cast<size_t>(round) + 1);
  }
  EXPECT_GT(evens, 0u);
  EXPECT_GT(odds, 0u);
}

// A song's files vanish with their folder while it is open: it sounds on, and the next save brings them back.
TEST(Trust, SoundsThatVanishWhileASongIsOpenAreNotLost) {
  TemporaryFolder folder;
  const auto demo = demo::make();
  Session s = demo->session;
  repeatAsSong(s, 8);
  const std::string path = folder / "song.heft";
  ASSERT_TRUE(saveSession(path, s, demo->assets));
  const auto opened = openSession(path);
  ASSERT_TRUE(opened);
  StepCache cache, fresh;
  const auto before = render(opened->session, opened->assets, cache);
  ASSERT_TRUE(before);
  const auto first = before->backing.read(0, 0, 48000);
  fs::remove_all(path);
  EXPECT_EQ(render(opened->session, opened->assets, fresh)->backing.read(0, 0, 48000), first);
  EXPECT_EQ(before->sum.read(0, 400000, 20000), render(s, demo->assets, fresh)->sum.read(0, 400000, 20000))
      << "blocks that were not made before";
  ASSERT_TRUE(saveSession(path, opened->session, opened->assets));
  const auto again = openSession(path);
  ASSERT_TRUE(again);
  EXPECT_TRUE(again->warnings.empty());
  EXPECT_EQ(again->session, opened->session);
}

// Foreign paths in a session are never touched, read or reported.
TEST(Sources, OnlyWhatThisMachineSavedIsLookedFor) {
  TemporaryFolder folder;
  const auto demo = demo::make();
  Session s = demo->session;
  s.kick().layers[0].recorded()->asset.from = folder / "elsewhere.wav";
  const std::string path = folder / "x.heft";
  ASSERT_TRUE(saveSession(path, s, demo->assets));
  EXPECT_TRUE(openSession(path)->savedHere);
  Json j = Json::parse(contentsOf(path + "/session.json"));
  ASSERT_TRUE(j.contains("saved_on"));
  j["saved_on"] = "another";
  writeBytes(path + "/session.json", j.dump());
  EXPECT_FALSE(openSession(path)->savedHere);
  j.erase("saved_on");
  writeBytes(path + "/session.json", j.dump());
  EXPECT_FALSE(openSession(path)->savedHere) << "older files say nothing";
}

// Sounds of a folder that are links are not followed: a foreign session cannot read files outside it.
TEST(Sources, ASoundThatIsALinkIsNotRead) {
  TemporaryFolder folder;
  const auto demo = demo::make();
  const std::string path = folder / "x.heft";
  ASSERT_TRUE(saveSession(path, demo->session, demo->assets));
  for (const auto& e : fs::directory_iterator(path + "/audio")) {
    const std::string was = e.path().string(), aside = folder / e.path().filename().string();
    fs::rename(was, aside);
    fs::create_symlink(aside, was);
    break;
  }
  const auto opened = openSession(path);
  ASSERT_TRUE(opened);
  EXPECT_EQ(opened->warnings.size(), 1u);
}

// A key of a later version in every object of a file, objects in arrays too, comes back with its value.
int markedAll(Json& at, int& n) {
  if (at.is_object()) {
    for (auto& [key, value] : at.items()) markedAll(value, n);
    at["later_" + std::to_string(++n)] = {{"deep", {n, "two"}}};
  } else if (at.is_array()) {
    for (auto& value : at) markedAll(value, n);
  }
  return n;
}
int marksIn(const Json& at, std::vector<int>& values) {
  if (at.is_object()) {
    for (const auto& [key, value] : at.items())
      if (key.rfind("later_", 0) == 0)
        values.push_back(value["deep"][0].get<int>());
      else
        marksIn(value, values);
  } else if (at.is_array()) {
    for (const auto& value : at) marksIn(value, values);
  }
  return static_cast<int>(values.size());
}

TEST(SessionFile, UnknownKeysInEveryObjectComeBackAlsoAfterAnEdit) {
  Session s = demo::make()->session;
  s.bass().wheel = {{0, 0}, {0.5, -0.75}};
  s.bass().notes[0].dive = Dive{7, 0.25, 0.5, 0.3};
  s.kick().layers.emplace_back().id = 7;
  s.kick().layers.back().what.emplace<KickVoice>();
  s.kick().versions = {{{"One", s.kick().layers, {}}, {"Two", {}, {}}}, 0};
  Json j = Json::parse(sessionToJson(s));
  int marked = 0;
  markedAll(j, marked);
  EXPECT_GT(marked, 60);
  auto back = sessionFromJson(j.dump(), "x");
  ASSERT_TRUE(back) << back.error().sentence();
  std::vector<int> values;
  EXPECT_EQ(marksIn(Json::parse(sessionToJson(*back)), values), marked);
  std::sort(values.begin(), values.end());
  EXPECT_EQ(std::unique(values.begin(), values.end()), values.end()) << "each where it was";
  // A removed hit takes its own keys with it; an added one brings none, and no other is lost.
  Session fewer = *back;
  fewer.kick().hits.erase(fewer.kick().hits.begin());
  values.clear();
  EXPECT_EQ(marksIn(Json::parse(sessionToJson(fewer)), values), marked - 1);
  Session more = *back;
  more.kick().hits.push_back({0.125});
  values.clear();
  EXPECT_EQ(marksIn(Json::parse(sessionToJson(more)), values), marked);
}

TEST(History, HundredsOfStepsOfAFullSessionCostLittleMoreThanTheirEdits) {
  Session s = demo::make()->session;
  for (int i = 0; i < 400; ++i) s.bass().notes.push_back({0.01 * i, 0.01, 30 + i % 12});
  History h(s);
  std::vector<Session> states{h.now()};
  for (int i = 0; i < 200; ++i) {
    Session next = h.now();
    if (i % 3 == 0) next.duck().curve.depthDb = 1 + i * 0.1;
    if (i % 3 == 1) next.bass().notes[static_cast<size_t>(i)].midi += 1;
    if (i % 3 == 2) next.kick().layers[0].levelDb = -0.01 * i, next.track.name = std::to_string(i);
    h.apply("step " + std::to_string(i), next);
    states.push_back(h.now());
  }
  EXPECT_LT(h.bytes(), 200u * 8000u) << "a session of 400 notes is over 30 kB";
  for (size_t i = states.size() - 1; i > 0; --i) {
    EXPECT_EQ(h.undoName(), "step " + std::to_string(i - 1));
    h.undo();
    ASSERT_EQ(h.now(), states[i - 1]) << i;
  }
  for (size_t i = 1; i < states.size(); ++i) {
    h.redo();
    ASSERT_EQ(h.now(), states[i]) << i;
  }
}

// Beyond its cap the oldest steps go, the state stays, and what was saved is still known, also when the saved
// state has itself been forgotten.
TEST(History, AtItsCapItKeepsTheNewestAndWhatIsSaved) {
  History h;
  auto name = [&](int i) {
    Session s = h.now();
    s.track.name = std::to_string(i);
    h.apply("name", s);
  };
  name(1);
  h.markSaved();
  for (int i = 2; i < static_cast<int>(History::kMost) + 100; ++i) name(i);
  EXPECT_FALSE(h.isSaved());
  size_t steps = 0;
  while (h.canUndo()) h.undo(), ++steps;
  EXPECT_EQ(steps, History::kMost);
  EXPECT_FALSE(h.isSaved()) << "the saved state is no longer among them";
  h.redo();
  h.markSaved();
  h.undo();
  EXPECT_FALSE(h.isSaved());
  h.redo();
  EXPECT_TRUE(h.isSaved());
}

// A sound stays as long as any undo or redo leads to it, and fifty edits beyond; then it is released, once.
TEST(History, GivesBackSoundsThatNoStateUses) {
  History h;
  auto put = [&](const std::string& hash) {
    Session s = h.now();
    s.backing.asset = AssetRef{hash, hash};
    h.apply("put", s);
  };
  auto name = [&](int i) {
    Session s = h.now();
    s.track.name = std::to_string(i);
    h.apply("name", s);
  };
  put("first"), put("second");
  for (int i = 0; i < static_cast<int>(History::kMost) - 1; ++i) name(i);
  EXPECT_TRUE(h.takeForgottenSounds().empty()) << "the oldest step still leads to the first";
  name(-1);
  for (uint64_t i = 0; i < History::kKeptEdits; ++i) {
    EXPECT_TRUE(h.takeForgottenSounds().empty());
    name(static_cast<int>(1000 + i));
  }
  EXPECT_EQ(h.takeForgottenSounds(), std::vector<std::string>{"first"});
  EXPECT_TRUE(h.takeForgottenSounds().empty());
  // An undone one that was cut off goes as well; the present one never.
  put("third");
  h.undo();
  for (uint64_t i = 0; i <= History::kKeptEdits + 1; ++i) name(static_cast<int>(2000 + i));
  EXPECT_EQ(h.takeForgottenSounds(), std::vector<std::string>{"third"});
  EXPECT_EQ(h.now().backing.asset.hash, "second");
}

TEST(Text, NamesAreCutBetweenCharacters) {
  const std::string umlauts = "\u00fc\u6c34\U0001F941x";  // 2, 3, 4 and 1 bytes
  EXPECT_EQ(cutUtf8(umlauts, 10), umlauts);
  EXPECT_EQ(cutUtf8(umlauts, 9), "\u00fc\u6c34\U0001F941");
  for (size_t n : {5u, 6u, 7u, 8u}) EXPECT_EQ(cutUtf8(umlauts, n), "\u00fc\u6c34") << n;
  EXPECT_EQ(cutUtf8(umlauts, 4), "\u00fc");
  EXPECT_EQ(cutUtf8(umlauts, 1), "");
}

// What is written is the list, to the letter and the byte; what stands there already is named first, and kept
// where the new ones are written beside it.
TEST(Export, WritesItsListAndNothingOverWhatIsThere) {
  TemporaryFolder folder;
  const auto demo = demo::make();
  Session s = demo->session;
  s.duck().on = true;
  StepCache cache;
  const auto stems = render(s, demo->assets, cache);
  auto list = exportFiles(s, demo->assets, *stems, cache);
  ASSERT_TRUE(list);
  ASSERT_GE(list->size(), 4u);
  EXPECT_TRUE(existingFiles(folder.path(), *list).empty());
  ASSERT_TRUE(writeExport(folder.path(), *list));
  std::vector<std::string> named;
  for (const ExportFile& f : *list) {
    named.push_back(f.name);
    if (!f.sound) EXPECT_EQ(contentsOf(folder / f.name), f.bytes) << f.name;
    if (f.sound)
      EXPECT_EQ(contentsOf(folder / f.name), *encodeSound(f.sound->read(0, f.sound->frames), f.format, f.root))
          << f.name << ": by blocks as in one go";
    // What the list said beforehand: a header is all that it leaves out.
    constexpr double kHeaders = 200.0;
    const double written = static_cast<double>(contentsOf(folder / f.name).size());
    EXPECT_NEAR(f.size(), written, kHeaders) << f.name;
    EXPECT_EQ(sizeIn(folder.path(), f), written);
  }
  std::sort(named.begin(), named.end());
  EXPECT_EQ(namesIn(folder.path()), named);
  EXPECT_EQ(existingFiles(folder.path(), *list).size(), list->size());
  writeBytes(folder / named[0], "the user's own");
  nameBeside(folder.path(), *list);
  EXPECT_TRUE(existingFiles(folder.path(), *list).empty());
  ASSERT_TRUE(writeExport(folder.path(), *list));
  EXPECT_EQ(contentsOf(folder / named[0]), "the user's own");
  EXPECT_EQ(namesIn(folder.path()).size(), 2 * named.size());
}

}  // namespace
}  // namespace heft
