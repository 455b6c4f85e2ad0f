#include "bench/long_track.h"

#include <cmath>

#include "core/session/edits/track.h"
#include "scenario/make_demo.h"
#include "tests/reference/rendered.h"

namespace heft::bench {
namespace {

constexpr double kSongSeconds = 600.0;

AudioBuffer longBacking() {
  AudioBuffer out(44100, 2, static_cast<size_t>(kSongSeconds * 44100));
  uint32_t dice = 1;
  for (size_t i = 0; i < out.frames(); ++i) {
    const double t = static_cast<double>(i) / 44100.0;
    dice = dice * 1664525u + 1013904223u;
    const double noise = (dice >> 8) / 8388608.0 - 1.0;
    for (size_t c = 0; c < 2; ++c)
      out.channels[c][i] = static_cast<float>(0.1 * std::sin(6.2831853 * (220.0 + 3.0 * c) * t) + 0.02 * noise);
  }
  return out;
}

}  // namespace

LongTrack longTrack(bool song) {
  const demo::Demo& demo = reference::theDemo();
  LongTrack out{demo.session, demo.assets};
  Session& s = out.session;
  s.track.tempoBpm = 120, s.track.song = song;
  setLoopBeats(song ? 1200 : 256).change(s);
  for (Part& part : s.parts) {
    const Part two = part;
    part.hits.clear(), part.notes.clear();
    for (double at = 0.0; at < s.track.loopQuarters() - 1e-9; at += 8.0) {
      for (Hit h : two.hits) h.startQuarters += at, part.hits.push_back(h);
      for (Note n : two.notes) n.startQuarters += at, part.notes.push_back(n);
    }
  }
  s.duck().on = true;
  if (!song) return out;
  static const auto backing = std::make_shared<const AudioBuffer>(longBacking());
  LoadedSound loaded;
  loaded.sound = backing;
  loaded.hash = std::string(32, 'b');
  s.backing = {};
  s.backing.asset = out.assets.add(std::move(loaded), "backing.wav");
  return out;
}

}  // namespace heft::bench
