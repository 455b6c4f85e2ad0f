// The library on real files: 200 generated kicks of known landing, with broken, vanished, doubled and renamed
// ones among them; an index in two hands; searching.

#include <SQLiteCpp/SQLiteCpp.h>
#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <map>
#include <thread>

#include "core/library/index.h"
#include "core/library/scan.h"
#include "core/library/search.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;
namespace fs = std::filesystem;

class LibraryTest : public ::testing::Test {
 protected:
  void SetUp() override {
    fs::create_directories(folder / "kicks/deep");
    auto opened = LibraryIndex::open(folder / "index.db");
    ASSERT_TRUE(opened) << opened.error().sentence();
    index.emplace(std::move(*opened));
    ASSERT_TRUE(index->addFolder(folder / "kicks"));
  }
  std::string kick(const std::string& name, double hz, double tailMs = 150) {
    KickRecipe recipe;
    recipe.landingHz = hz, recipe.tailMs = tailMs, recipe.clickDb = -24;
    return writeSound(folder, "kicks/" + name, bufferOf(makeKick(recipe), 48000), SampleFormat::Wav24);
  }
  // Measures what the plan asks for, `most` files at most, as the window's scan does.
  ScanPlan scan(size_t most = 100000) {
    const auto plan = planScan(index->folders().value(), rowsOf(*index));
    EXPECT_TRUE(plan);
    std::vector<LibraryRow> measured;
    for (const FileStamp& file : plan->toMeasure)
      if (measured.size() < most) measured.push_back(measureFile(file));
    EXPECT_TRUE(index->put(measured));
    EXPECT_TRUE(index->move(plan->moved));
    EXPECT_TRUE(index->setPresent(plan->gone, false));
    EXPECT_TRUE(index->setPresent(plan->back, true));
    return *plan;
  }
  std::vector<LibraryRow> rowsOf(LibraryIndex& of) {
    auto out = of.rows();
    EXPECT_TRUE(out);
    return out ? std::move(*out) : std::vector<LibraryRow>();
  }
  std::map<std::string, LibraryRow> byName() {
    std::map<std::string, LibraryRow> out;
    for (const LibraryRow& r : rowsOf(*index)) out[r.name()] = r;
    return out;
  }
  TemporaryFolder folder;
  std::optional<LibraryIndex> index;
};

TEST_F(LibraryTest, TwoHundredFilesOfKnownLanding) {
  for (int i = 0; i < 200; ++i)
    kick((i % 3 ? "deep/kick " : "kick ") + std::to_string(i) + ".wav", 40.0 * std::exp2(i / 100.0), 90 + i);
  writeBytes(folder / "kicks/broken.wav", "RIFF and then nothing");
  writeBytes(folder / "kicks/empty.wav", "");
  writeBytes(folder / "kicks/readme.txt", "not for the library");
  fs::copy_file(folder / "kicks/kick 0.wav", folder / "kicks/deep/copy of 0.wav");
  const ScanPlan first = scan();
  EXPECT_EQ(first.found, 203u);
  EXPECT_EQ(first.toMeasure.size(), 203u);
  auto rows = byName();
  int close = 0;
  for (int i = 0; i < 200; ++i) {
    const LibraryRow& r = rows.at("kick " + std::to_string(i) + ".wav");
    EXPECT_TRUE(r.fault.empty() && r.present);
    ASSERT_TRUE(r.noteHz) << i;
    close += std::abs(1200 * std::log2(*r.noteHz / (40.0 * std::exp2(i / 100.0)))) < 5.0;
    if (i < 80) EXPECT_GT(r.weight, 0.2) << i;
    if (i > 180) EXPECT_LT(r.weight, 0.05) << i;
  }
  EXPECT_GE(close, 198) << "99 of a hundred within 5 cents";
  EXPECT_LT(rows.at("kick 0.wav").tailMs, rows.at("kick 199.wav").tailMs);
  EXPECT_EQ(rows.at("copy of 0.wav").noteHz, rows.at("kick 0.wav").noteHz);
  EXPECT_FALSE(rows.at("broken.wav").fault.empty()) << "listed with its reason";
  EXPECT_FALSE(rows.at("empty.wav").fault.empty());
  EXPECT_TRUE(scan().toMeasure.empty()) << "only what changed is read again";
  // One vanishes, one is renamed, one is written again, a broken one is mended.
  for (const char* name : {"kicks/kick 3.wav", "kicks/kick 6.wav"})
    ASSERT_TRUE(index->setFavourite(folder / name, true));
  fs::remove(folder / "kicks/kick 3.wav");
  fs::rename(folder / "kicks/kick 6.wav", folder / "kicks/kick six.wav");
  kick("kick 9.wav", 66.0);
  kick("broken.wav", 50.0);
  const ScanPlan second = scan();
  EXPECT_EQ(second.toMeasure.size(), 2u);
  EXPECT_EQ(second.gone.size(), 1u);
  EXPECT_EQ(second.moved.size(), 1u);
  const LibraryRow was = rows.at("kick 6.wav");
  rows = byName();
  EXPECT_TRUE(rows.at("kick six.wav").favourite) << "a new name loses no mark";
  EXPECT_EQ(rows.at("kick six.wav").noteHz, was.noteHz);
  EXPECT_FALSE(rows.contains("kick 6.wav"));
  EXPECT_FALSE(rows.at("kick 3.wav").present);
  EXPECT_NEAR(*rows.at("kick 9.wav").noteHz, 66.0, 0.2);
  EXPECT_TRUE(rows.at("broken.wav").fault.empty());
  // Back unchanged, it is measured again only because its file was rewritten; its mark is kept.
  kick("kick 3.wav", 40.0 * std::exp2(0.03), 93);
  scan();
  EXPECT_TRUE(byName().at("kick 3.wav").favourite);
  EXPECT_TRUE(byName().at("kick 3.wav").present);
}

// A pack is moved whole: its files may be as long as each other and written at the same moment. What cannot be
// told apart is measured anew and takes nobody's mark.
TEST_F(LibraryTest, MovedFilesAreKnownAgainOnlyWhereThereIsNoDoubt) {
  const auto moment = fs::file_time_type::clock::now() - std::chrono::hours(30);
  for (int i = 0; i < 4; ++i) fs::last_write_time(kick("k" + std::to_string(i) + ".wav", 50 + 7 * i), moment);
  scan();
  ASSERT_TRUE(index->setFavourite(folder / "kicks/k2.wav", true));
  fs::create_directories(folder / "kicks/pack");
  for (int i = 0; i < 4; ++i) {
    const std::string name = "k" + std::to_string(i) + ".wav";
    fs::rename(folder / ("kicks/" + name), folder / ("kicks/pack/" + name));
  }
  const ScanPlan plan = scan();
  EXPECT_EQ(plan.moved.size(), 4u);
  EXPECT_TRUE(plan.toMeasure.empty() && plan.gone.empty());
  EXPECT_TRUE(byName().at("k2.wav").favourite);
  EXPECT_NEAR(*byName().at("k2.wav").noteHz, 64, 0.2);
  for (int i = 0; i < 4; ++i)
    fs::rename(folder / ("kicks/pack/k" + std::to_string(i) + ".wav"),
               folder / ("kicks/pack/x" + std::to_string(i) + ".wav"));
  EXPECT_EQ(scan().toMeasure.size(), 4u);
  EXPECT_NEAR(*byName().at("x3.wav").noteHz, 71, 0.2);
  EXPECT_FALSE(byName().at("x2.wav").favourite);
}

TEST_F(LibraryTest, AScanThatWasCalledOffGoesOnWhereItStopped) {
  for (int i = 0; i < 12; ++i) kick("k" + std::to_string(i) + ".wav", 50 + i);
  std::stop_source stop;
  stop.request_stop();
  EXPECT_EQ(planScan(index->folders().value(), {}, stop.get_token()).error().kind, ErrorKind::Cancelled);
  scan(5);
  EXPECT_EQ(rowsOf(*index).size(), 5u);
  EXPECT_EQ(scan().toMeasure.size(), 7u);
  EXPECT_EQ(rowsOf(*index).size(), 12u);
}

TEST_F(LibraryTest, AFolderThatCannotBeReadLosesNothing) {
  kick("a.wav", 50);
  scan();
  fs::rename(folder / "kicks", folder / "elsewhere");
  const ScanPlan plan = scan();
  EXPECT_EQ(plan.faults.size(), 1u);
  EXPECT_TRUE(plan.gone.empty()) << "a disk that is not plugged in is not an empty one";
  EXPECT_TRUE(byName().at("a.wav").present);
  ASSERT_TRUE(index->setFavourite(folder / "kicks/a.wav", true));
  ASSERT_TRUE(index->removeFolder(folder / "kicks"));
  EXPECT_EQ(rowsOf(*index).size(), 1u) << "favourites are kept";
  EXPECT_FALSE(rowsOf(*index).front().present);
}

TEST_F(LibraryTest, TwoWindowsShareOneIndex) {
  auto other = LibraryIndex::open(folder / "index.db");
  ASSERT_TRUE(other);
  std::vector<LibraryRow> many(300);
  for (size_t i = 0; i < many.size(); ++i) many[i].file.path = "/x/" + std::to_string(i) + ".wav";
  std::jthread writer([&] {
    for (int turn = 0; turn < 5; ++turn) EXPECT_TRUE(other->put(many));
  });
  for (int turn = 0; turn < 20; ++turn) {
    ASSERT_TRUE(index->setFavourite("/x/7.wav", true));
    const size_t count = rowsOf(*index).size();
    EXPECT_TRUE(count == 0 || count == 300) << "a step is seen whole";
  }
  writer.join();
  ASSERT_TRUE(index->setFavourite("/x/7.wav", true));
  ASSERT_TRUE(other->put(many));
  const auto all = rowsOf(*other);
  EXPECT_EQ(all.size(), 300u);
  for (const LibraryRow& r : all) EXPECT_EQ(r.favourite, r.file.path == "/x/7.wav");
}

// Figures of an older measurement are measured again; marks stay.
TEST_F(LibraryTest, AnIndexOfAnOlderHeftIsMeasuredAnew) {
  kick("a.wav", 50), kick("b.wav", 60);
  scan();
  ASSERT_TRUE(index->setFavourite(folder / "kicks/a.wav", true));
  index.reset();
  {
    SQLite::Database old(folder / "index.db", SQLite::OPEN_READWRITE);
    old.exec("UPDATE files SET landing_hz = 99");
    old.exec("ALTER TABLE files DROP COLUMN measuring");
    old.exec("ALTER TABLE files DROP COLUMN lands");
    old.exec("PRAGMA user_version = 1");
  }
  auto opened = LibraryIndex::open(folder / "index.db");
  ASSERT_TRUE(opened) << opened.error().sentence();
  index.emplace(std::move(*opened));
  EXPECT_EQ(*byName().at("a.wav").noteHz, 99) << "shown until it is measured again";
  EXPECT_EQ(scan().toMeasure.size(), 2u);
  EXPECT_NEAR(*byName().at("a.wav").noteHz, 50, 0.2);
  EXPECT_TRUE(byName().at("a.wav").favourite);
  EXPECT_TRUE(scan().toMeasure.empty());
}

TEST_F(LibraryTest, WhatIsNoIndexIsLeftAlone) {
  writeBytes(folder / "notes.db", std::string(4000, 'x'));
  const auto refused = LibraryIndex::open(folder / "notes.db");
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().sentence().find("notes.db"), std::string::npos);
  EXPECT_EQ(contentsOf(folder / "notes.db"), std::string(4000, 'x'));
}

TEST(LibrarySearch, FindsByWordsFitTailAndWeight) {
  auto row = [](const std::string& path, std::optional<double> midi, double tailMs, double weight) {
    LibraryRow r;
    r.file.path = path, r.tailMs = tailMs, r.weight = weight, r.confidence = 0.9;
    if (midi) r.noteHz = hzFromMidi(*midi, 440.0);
    return r;
  };
  std::vector<LibraryRow> rows = {
      row("/home/pan/kits/Salt Kick.wav", 34.5, 120, 0.8), row("/home/pan/kits/pan.wav", 33.1, 300, 0.9),
      row("/home/pan/kits/brine KICK.wav", 40.0, 90, 0.3), row("/home/pan/kits/hiss.wav", {}, 50, 0.0),
      row("/home/pan/kits/bad.wav", {}, 0, 0)};
  rows[4].fault = "is empty";
  const Key key = *parseKey("A minor");
  EXPECT_NEAR(*semitonesToKey(rows[0], key), -1.5, 1e-9);
  EXPECT_NEAR(*semitonesToKey(rows[2], key), 0.0, 1e-9) << "E is the fifth";
  using Order = LibraryOrder;
  EXPECT_EQ(searched(rows, {}, key, Order::Fit), (std::vector<size_t>{2, 1, 0, 3}));
  EXPECT_EQ(searched(rows, {.words = "kick kits"}, key, Order::Name), (std::vector<size_t>{2, 0}));
  EXPECT_EQ(searched(rows, {.words = "pan", .folders = {"/home/pan/kits"}}, key, Order::Name),
            (std::vector<size_t>{1}))
      << "where the library lies is no word of a file";
  EXPECT_EQ(searched(rows, {.semitones = 1.0}, key, Order::Tail), (std::vector<size_t>{2, 1}));
  EXPECT_EQ(searched(rows, {.leastTailMs = 100, .mostTailMs = 200}, key, Order::Fit), (std::vector<size_t>{0}));
  EXPECT_EQ(searched(rows, {.leastWeight = 0.5}, key, Order::Weight), (std::vector<size_t>{1, 0}));
  EXPECT_EQ(searched(rows, {.faults = true}, key, Order::Name), (std::vector<size_t>{4}));
  EXPECT_EQ(searched(rows, {.kind = SoundKind::Kick}, key, Order::Fit), (std::vector<size_t>{2, 1, 0}))
      << "hiss has no low end";
  EXPECT_TRUE(searched(rows, {.kind = SoundKind::Bass}, key, Order::Fit).empty());
}

// Measured figures of recorded and generated one-shots (landing, start, tail, share below 120 Hz) as `heft-cli
// measure` gave them.
TEST(LibrarySearch, TellsKicksFromBassesByWordsElseByWhatTheyAre) {
  auto sound = [](const std::string& path, double hz, double startHz, double tailMs, double weight) {
    LibraryRow r;
    r.file.path = path, r.startHz = startHz, r.tailMs = tailMs, r.weight = weight;
    if (hz > 0) r.noteHz = hz;
    return r;
  };
  auto said = [](const LibraryRow& r, const std::vector<std::string>& folders = {}) {
    return std::string(suits(r, SoundKind::Kick, folders) ? "kick" : "") +
           (suits(r, SoundKind::Bass, folders) ? "bass" : "");
  };
  EXPECT_EQ(said(sound("/a/01.wav", 54.5, 402.7, 490, 0.95)), "kick") << "electronic";
  EXPECT_EQ(said(sound("/a/02.wav", 0, 106.5, 91, 0.92)), "kick") << "acoustic, slides";
  EXPECT_EQ(said(sound("/a/03.wav", 73.4, 98, 1515, 0.22)), "bass") << "fingered: little of it below 120 Hz";
  EXPECT_EQ(said(sound("/a/04.wav", 55, 300, 1700, 0.9)), "kickbass") << "a long low drum is played as either";
  EXPECT_EQ(said(sound("/a/05.wav", 193.6, 369, 93, 0.0)), "") << "a snare";
  EXPECT_EQ(said(sound("/a/bass/Kick01.wav", 55, 55, 1500, 0.9)), "kick") << "the last word decides";
  EXPECT_EQ(said(sound("/a/Kicks/long808s 3.wav", 0, 0, 90, 0.9)), "bass");
  EXPECT_EQ(said(sound("/a/kicks/snare 2.wav", 55, 55, 90, 0.9)), "");
  EXPECT_EQ(said(sound("/home/kick/lib/x.wav", 55, 55, 1500, 0.9), {"/home/kick/lib"}), "bass")
      << "where the library lies says nothing";
}

}  // namespace
}  // namespace heft
