// Fuzz target: bytes as a session's file, or as the seed of one by the format's rules
// (reference/random_session.h), which is then rendered, judged, its fixes tried and applied. Nothing throws,
// all samples are finite, and the result can be written and read again. Linked with libFuzzer under Clang
// (preset fuzz), else with mutate.cpp.

#include <chrono>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>

#include "core/export/export_files.h"
#include "core/remedies/remedies.h"
#include "core/render/lanes/render.h"
#include "core/sound/whole_file.h"
#include "tests/reference/random_session.h"

namespace {

using namespace heft;

void demand(bool holds, const std::string& what) {
  if (holds) return;
  std::fprintf(stderr, "judge_fuzz: %s\n", what.c_str());
  std::abort();
}

const Assets& someSounds(std::vector<AssetRef>* refs = nullptr) {
  static std::vector<AssetRef> all;
  static const Assets assets = [] {
    Assets out;
    // A falling tone, a held one, noise; one of them in stereo and one at another rate.
    for (int kind = 0; kind < 3; ++kind) {
      AudioBuffer sound(kind == 2 ? 22050.0 : 16000.0, kind == 1 ? 2 : 1, kind == 2 ? 3000 : 8000);
      uint32_t dice = 7;
      double phase = 0.0;
      for (size_t i = 0; i < sound.frames(); ++i) {
        const double t = static_cast<double>(i) / sound.sampleRate;
        phase +=
            2.0 * 3.14159265358979 * (kind == 0 ? 52.0 + 150.0 * std::exp(-t / 0.02) : 55.0) / sound.sampleRate;
        dice = dice * 1664525u + 1013904223u;
        const double x = kind == 2 ? (dice >> 8) / 8388608.0 - 1.0 : std::sin(phase);
        for (auto& channel : sound.channels) channel[i] = static_cast<float>(0.5 * x * std::exp(-t / 0.15));
      }
      const std::string name = "sound " + std::to_string(kind) + ".wav";
      auto bytes = encodeSound(sound, SampleFormat::WavFloat);
      demand(bytes.has_value(), "a sound is made");
      auto loaded = decodeSound(std::move(*bytes), name);
      demand(loaded.has_value(), "a sound is read");
      all.push_back(out.add(std::move(*loaded), name));
    }
    return out;
  }();
  if (refs) *refs = all;
  return assets;
}

Result<Session> sessionOf(const unsigned char* data, size_t size) {
  if (size > 0 && data[0] == '{')
    if (auto read = sessionFromJson({reinterpret_cast<const char*>(data), size}, "fuzz.json")) return read;
  uint32_t seed = 2166136261u;
  for (size_t i = 0; i < size; ++i) seed = (seed ^ data[i]) * 16777619u;
  std::vector<AssetRef> refs;
  someSounds(&refs);
  return sessionFromJson(sessionToJson(reference::randomSession(seed, refs)), "fuzz.json");
}

void opensAgain(const Session& s, const std::string& after) {
  const auto again = sessionFromJson(sessionToJson(s), "again.json");
  demand(again.has_value(), "after " + after + ": " + (again ? "" : again.error().sentence()));
  demand(*again == s, "after " + after + " it comes back as it was");
}

void isFinite(const Stems& stems) {
  for (size_t i = 0; i < stems.frames; ++i)
    demand(std::isfinite(stems.sum.at(0, i)) && std::isfinite(stems.sum.at(1, i)),
           "the sum is made of numbers");
}

// To look at one that failed or was slow: HEFT_FUZZ_KEEPS names the file.
void keep(const Session& s, const std::string& ending) {
  const char* to = std::getenv("HEFT_FUZZ_KEEPS");
  if (!to) return;
  const bool kept = writeWhole(to + ending, sessionToJson(s)).has_value();
  demand(kept, "a session is kept");
}

// What check, fix and render do, one after the other.
void judge(const Session& s) {
  const Assets& assets = someSounds();
  StepCache cache(size_t{1} << 26);
  const auto stems = render(s, assets, cache);
  if (!stems) return demand(!stems.error().sentence().empty(), "a refusal says why");
  isFinite(*stems);
  const auto figures = study(s, assets, *stems, cache);
  demand(figures.has_value(), "figures");
  for (const Finding& f : ledger(s, *figures)) {
    demand(!f.sentence.empty() && std::isfinite(f.value), "line " + f.id + " says something");
    for (const Remedy& remedy : f.options) opensAgain(remedy.edit().applied(s), remedy.name() + " for " + f.id);
  }
  const auto done = mendAll(s, assets, cache);
  demand(done.has_value(), "fixes");
  opensAgain(done->session, "all fixes");
  const auto after = render(done->session, assets, cache);
  if (after) isFinite(*after);
  demand(exportFiles(s, assets, *stems, cache).has_value(), "files");
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, size_t size) {
  const auto s = sessionOf(data, size);
  if (!s) {
    demand(s.error().sentence().find("fuzz.json") != std::string::npos, "a refusal names the file");
    if (std::getenv("HEFT_FUZZ_TELLS")) std::fprintf(stderr, "%s\n", s.error().sentence().c_str());
    return 0;
  }
  // Long loops are the bench's matter.
  if (s->track.loopFrames() > 400'000 || s->parts.size() > 6) return 0;
  keep(*s, "");
  const auto start = std::chrono::steady_clock::now();
  judge(*s);
  const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  if (seconds > 10.0) {
    std::fprintf(stderr, "judge_fuzz: %.1f s for one session\n", seconds);
    keep(*s, ".slow");
  }
  return 0;
}
