// Sessions of versions 1 and 2, and what they sounded like when they were saved: read today, they sound the
// same. tests/kept holds a folder each (01 and 02 are version 1) with its lanes beside it, 32-bit floats: kick,
// bass, backing, gain, sum, each channel after the other: every fifth frame, of the demo every 101st.

#include <cstdlib>
#include <fstream>
#include <iterator>

#include "core/session/folder.h"
#include "tests/reference/rendered.h"

namespace heft {
namespace {

const std::filesystem::path kKept = std::filesystem::path(HEFT_TEST_DATA).parent_path() / "kept";

std::vector<float> lanesOf(const Stems& stems, size_t every) {
  std::vector<float> out;
  for (const Stem* lane : {&stems.kick(), &stems.bass(), &stems.backing, &stems.gain(), &stems.sum})
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
void expectKept(const Stems& stems, size_t every, const std::filesystem::path& path) {
  const std::vector<float> now = lanesOf(stems, every);
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
    expectKept(*stems, 5, kKept / (name + ".lanes"));
    // And again after a round trip through today's format.
    const auto again = sessionFromJson(sessionToJson(opened->session), name);
    ASSERT_TRUE(again) << again.error().sentence();
    EXPECT_TRUE(*again == opened->session);
  }
}

TEST(Kept, TheDemoAsItWasSavedSoundsAsItDid) {
  const auto session = sessionFromJson(bytesOf(kKept / "demo.json"), "demo");
  ASSERT_TRUE(session) << session.error().sentence();
  StepCache cache;
  expectKept(reference::rendered(*session, cache), 101, kKept / "demo.lanes");
}

}  // namespace
}  // namespace heft
