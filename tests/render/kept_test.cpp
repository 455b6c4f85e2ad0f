// Sessions of all versions, and what they sounded like when they were saved: read today, they sound the same.
// tests/kept holds a folder each of versions 1 and 2 (01 and 02 are version 1) with its lanes beside it, 32-bit
// floats: kick, bass, backing, gain, sum, each channel after the other: every fifth frame, of the demo every
// 101st. tests/kept/random holds sessions of versions 3 to 6 with random values of everything that their format
// knew, rendered by the last commit that wrote that version: all parts, backing, gain, sum, some 3000 frames
// together. Of 126 that were made, five sound different on purpose or by rounding, and are not among them:
// shifts of five octaves that keep the length (made in steps since), a gain of a part that ducks itself with an
// attack of a whole note, and two by -94 dB.

#include <cstdlib>
#include <fstream>
#include <iterator>
#include <map>

#include "core/session/folder.h"
#include "tests/reference/rendered.h"
#include "tests/this_build.h"

namespace heft {
namespace {

const std::filesystem::path kKept = std::filesystem::path(HEFT_TEST_DATA).parent_path() / "kept";

std::vector<float> lanesOf(const Stems& stems, size_t every) {
  std::vector<float> out;
  for (const Signal* lane : {&stems.kick(), &stems.bass(), &stems.backing, &stems.gain(), &stems.sum})
    for (size_t c = 0; c < lane->channels(); ++c)
      for (size_t i = 0; i < lane->frames(); i += every) out.push_back(lane->at(c, i));
  return out;
}

std::string bytesOf(const std::filesystem::path& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

// Equal to the bit where the same machine code made both; other compiler settings round differently, by -120
// dB at most. No change of the processing hides in that.
void expectKept(const std::vector<float>& now, const std::filesystem::path& path) {
  if (std::getenv("HEFT_KEEP")) {
    std::ofstream(path, std::ios::binary)
        .write(reinterpret_cast<const char*>(now.data()), std::streamsize(4 * now.size()));
    return;
  }
  const std::string kept = bytesOf(path);
  ASSERT_EQ(kept.size(), 4 * now.size());
  std::vector<float> then(now.size());
  std::memcpy(then.data(), kept.data(), kept.size());
  double worst = 0.0;
  for (size_t i = 0; i < now.size(); ++i) worst = std::max(worst, std::abs(double(now[i]) - double(then[i])));
  EXPECT_LE(worst, 1e-6);
}

TEST(Kept, SessionsOfVersionsOneAndTwoSoundAsTheyDid) {
  for (int n = 1; n <= 10; ++n) {
    const std::string name = (n < 10 ? "0" : "") + std::to_string(n);
    SCOPED_TRACE(name);
    const auto opened = openSession((kKept / (name + ".heft")).string());
    ASSERT_TRUE(opened) << opened.error().sentence();
    EXPECT_TRUE(opened->warnings.empty());
    StepCache cache;
    const auto stems = render(opened->session, opened->assets, cache);
    ASSERT_TRUE(stems) << stems.error().sentence();
    expectKept(lanesOf(*stems, 5), kKept / (name + ".lanes"));
    // And again after a round trip through today's format.
    const auto again = sessionFromJson(sessionToJson(opened->session), name);
    ASSERT_TRUE(again) << again.error().sentence();
    EXPECT_TRUE(*again == opened->session);
  }
}

// The sounds of all random sessions.
Assets keptAssets() {
  Assets out;
  for (const char* name : {"kick.wav", "bass.wav", "loop.wav"}) {
    auto sound = decodeSound(bytesOf(kKept / "random" / name), name);
    if (sound) out.add(std::move(*sound), name);
  }
  return out;
}

std::vector<float> everyLaneOf(const Stems& stems) {
  std::vector<const Signal*> lanes;
  for (const Lane& lane : stems.lanes) lanes.push_back(&lane.heard);
  for (const Signal* lane : {&stems.backing, &stems.gain(), &stems.sum}) lanes.push_back(lane);
  size_t all = 0;
  for (const Signal* lane : lanes) all += lane->channels() * lane->frames();
  std::vector<float> out;
  for (const Signal* lane : lanes)
    for (size_t c = 0; c < lane->channels(); ++c)
      for (size_t i = 0; i < lane->frames(); i += 1 + all / 3000) out.push_back(lane->at(c, i));
  return out;
}

TEST(Kept, RandomSessionsOfVersionsThreeToSixSoundAsTheyDid) {
  if (isWatched()) GTEST_SKIP() << "renders of all processors, which other tests watch as well";
  const Assets assets = keptAssets();
  std::map<int, int> seen;
  for (const auto& file : std::filesystem::directory_iterator(kKept / "random")) {
    if (file.path().extension() != ".json") continue;
    SCOPED_TRACE(file.path().filename().string());
    const auto session = sessionFromJson(bytesOf(file.path()), file.path().filename().string());
    ASSERT_TRUE(session) << session.error().sentence();
    StepCache cache;
    const auto stems = render(*session, assets, cache);
    ASSERT_TRUE(stems) << stems.error().sentence();
    expectKept(everyLaneOf(*stems), std::filesystem::path(file.path()).replace_extension(".lanes"));
    ++seen[file.path().filename().string()[1] - '0'];
  }
  for (int version = 3; version <= 6; ++version) EXPECT_GE(seen[version], 8) << "version " << version;
}

TEST(Kept, TheDemoAsItWasSavedSoundsAsItDid) {
  const auto session = sessionFromJson(bytesOf(kKept / "demo.json"), "demo");
  ASSERT_TRUE(session) << session.error().sentence();
  StepCache cache;
  expectKept(lanesOf(reference::rendered(*session, cache), 101), kKept / "demo.lanes");
}

}  // namespace
}  // namespace heft
