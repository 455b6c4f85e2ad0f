#include "core/tune/targets.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>

namespace heft {

std::vector<TuneTarget> tuneTargets(double landingMidi, int bassMidi, const Key& key) {
  std::vector<TuneTarget> out;
  auto add = [&](int midi, const char* why) {
    const bool known =
        std::any_of(out.begin(), out.end(), [midi](const TuneTarget& t) { return t.midi == midi; });
    if (!known && midi >= 15 && midi <= 72) out.push_back({midi, why, midi - landingMidi});
  };
  if (bassMidi >= 0) {
    add(bassMidi, "the bass's note");
    add(bassMidi + 12, "octave above");
  }
  const int nearest = nearestOfClass(landingMidi, key.tonic);
  const int up = nearest >= landingMidi - 0.005 ? nearest : nearest + 12;
  add(nearest, nearest >= landingMidi ? "tonic, up" : "tonic, down");
  add(up, "tonic, up");
  add(up - 12, "tonic, down");
  return out;
}

std::string distanceText(double midi, int targetMidi, const NoteStyle& style) {
  const long cents = std::lround((midi - targetMidi) * 100.0);
  const std::string name = noteName(targetMidi, style);
  if (cents == 0) return "on " + name;
  const long whole = std::abs(cents) / 100, rest = std::abs(cents) % 100;
  std::string size;
  if (whole) size = std::to_string(whole) + (whole == 1 ? " semitone" : " semitones");
  if (rest) size += (whole ? " and " : "") + std::to_string(rest) + (rest == 1 ? " cent" : " cents");
  return size + (cents < 0 ? " under " : " over ") + name;
}

}  // namespace heft
