#pragma once
/// A session with things to duck and to duck by.

#include <gtest/gtest.h>

#include "core/judge/ledger.h"
#include "core/render/lanes/render.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/parts.h"
#include "tests/reference/signals.h"

namespace heft::reference {

inline constexpr double kLoopRate = 16000;

struct DuckWorld {
  Session s;
  Assets assets;

  AssetRef add(const AudioBuffer& sound, const std::string& name) {
    LoadedSound loaded;
    loaded.sound = std::make_shared<const AudioBuffer>(sound);
    loaded.hash = std::string(31, 'a') + static_cast<char>('a' + number_++);
    loaded.bytes = std::make_shared<const std::string>();
    return assets.add(std::move(loaded), name);
  }
  Stems rendered() const {
    StepCache cache;
    auto stems = render(s, assets, cache);
    EXPECT_TRUE(stems);
    return std::move(*stems);
  }
  std::vector<Finding> lines() const {
    StepCache cache;
    const auto stems = render(s, assets, cache);
    const auto facts = study(s, assets, *stems, cache);
    return ledger(s, *facts);
  }

 private:
  int number_ = 0;
};

// Built kick and bass with a clap, four beats at 120 BPM, and a backing: 400 Hz with 50 Hz under it.
inline DuckWorld duckWorld() {
  DuckWorld w;
  Session& s = w.s;
  s.track.sampleRate = kLoopRate, s.track.loopBeats = 4;
  addPart(3, "Clap", Plays::Hits).change(s);
  for (const Part& part : std::vector<Part>(s.parts)) addBuiltLayer(part).change(s);
  s.kick().layers[0].kickVoice()->length = TimeValue::milliseconds(200);
  s.kick().hits = {{0.0, 1.0}, {1.0, 0.5}, {2.5, 1.0}};
  s.part(3)->hits = {{1.0, 1.0}, {3.0, 1.0}};
  s.bass().notes = {{0.0, 3.9, 33, 1.0}};
  auto x = sine(400, 0.2, 2.0, kLoopRate);
  const auto low = sine(50, 0.2, 2.0, kLoopRate);
  for (size_t i = 0; i < x.size(); ++i) x[i] += low[i];
  s.backing.asset = w.add(bufferOf(x, kLoopRate), "backing.wav");
  s.ducks.clear();
  s.ducks.reserve(kMostDucks);  // references into it stay
  return w;
}

inline Duck& addTo(Session& s, Movement movement = Movement::Curve) {
  Duck d;
  d.id = freshDuckId(s), d.on = true, d.movement = movement;
  s.ducks.push_back(d);
  return s.ducks.back();
}

inline std::vector<float> everyFrame(const Signal& stem) {
  return stem.read(0, 0, stem.frames());
}

inline double levelAt(const std::vector<float>& x, double hz) {
  std::complex<double> sum = 0.0;
  for (size_t i = 0; i < x.size(); ++i)
    sum += static_cast<double>(x[i]) * std::polar(1.0, -kTwoPi * hz * static_cast<double>(i) / kLoopRate);
  return 2.0 * std::abs(sum) / static_cast<double>(x.size());
}

inline const Finding* lineOf(const std::vector<Finding>& lines, const std::string& id) {
  const auto at = std::find_if(lines.begin(), lines.end(), [&](const Finding& f) { return f.id == id; });
  return at == lines.end() ? nullptr : &*at;
}

}  // namespace heft::reference
