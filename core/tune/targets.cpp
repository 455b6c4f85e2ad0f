#include "core/tune/targets.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>

namespace heft {

namespace {

constexpr double kSame = 0.005;  // semitones: on the note
constexpr double kFirm = 2.0;    // semitones for which tonic or fifth is worth it

class Proposals {
 public:
  explicit Proposals(double landing) : landing_(landing) {}
  void add(int midi, TargetKind kind, const std::string& why) {
    const auto same = [midi](const TuneTarget& t) { return t.midi == midi; };
    if (midi < 0 || midi > 127 || std::any_of(all.begin(), all.end(), same)) return;
    all.push_back({midi, kind, why, midi - landing_});
  }
  // The nearest notes of a pitch class at or above the landing, and below it.
  void addAbout(int pitchClass, TargetKind kind, const std::string& why) {
    const int nearest = nearestOfClass(landing_, pitchClass),
              up = nearest >= landing_ - kSame ? nearest : nearest + 12;
    add(up, kind, why + ", up");
    add(up - 12, kind, why + ", down");
  }
  std::vector<TuneTarget> all;

 private:
  double landing_;
};

// The key's nearest notes at or above the landing, and below it.
int scaleNote(double landing, const Key& key, int way) {
  int midi = static_cast<int>(way > 0 ? std::ceil(landing - kSame) : std::ceil(landing - kSame) - 1);
  while (!key.contains(midi)) midi += way;
  return midi;
}

}  // namespace

std::vector<TuneTarget> tuneTargets(double landing, std::optional<int> bassMidi, const Key& key) {
  Proposals out(landing);
  if (bassMidi) {
    out.add(*bassMidi, TargetKind::BassNote, "the bass's note");
    out.add(*bassMidi + 12, TargetKind::BassOctave, "octave above");
  }
  out.addAbout(key.tonic, TargetKind::Tonic, "tonic");
  out.addAbout(key.fifth(), TargetKind::Fifth, "fifth");
  const std::string scale = "note of " + key.name();
  out.add(scaleNote(landing, key, 1), TargetKind::Scale, scale + ", up");
  out.add(scaleNote(landing, key, -1), TargetKind::Scale, scale + ", down");
  std::stable_sort(out.all.begin(), out.all.end(), [](const TuneTarget& a, const TuneTarget& b) {
    const bool firstA = a.kind == TargetKind::BassNote, firstB = b.kind == TargetKind::BassNote;
    return firstA != firstB ? firstA : std::abs(a.semitones) < std::abs(b.semitones);
  });
  return std::move(out.all);
}

TuneTarget easiestTarget(double landing, const Key& key) {
  const auto all = tuneTargets(landing, std::nullopt, key);
  // So far outside the range that no note is within an octave: the tonic at that end.
  if (all.empty()) {
    const double end = std::clamp(landing, 12.0, 115.0);
    const int midi = nearestOfClass(end, key.tonic);
    return {midi, TargetKind::Tonic, "tonic", midi - landing};
  }
  const auto firm = std::find_if(all.begin(), all.end(), [](const TuneTarget& t) {
    return (t.kind == TargetKind::Tonic || t.kind == TargetKind::Fifth) && std::abs(t.semitones) <= kFirm;
  });
  return firm != all.end() ? *firm : all.front();
}

std::string distanceText(double midi, int targetMidi, const NoteStyle& style) {
  const long cents = std::lround((midi - targetMidi) * 100.0);
  const std::string name = noteName(targetMidi, style);
  if (cents == 0) return "on " + name;
  const long whole = std::abs(cents) / 100, rest = std::abs(cents) % 100;
  std::string size;
  if (whole) size = std::to_string(whole) + (whole == 1 ? " semitone" : " semitones");
  if (rest) size += (whole ? " and " : "") + std::to_string(rest) + (rest == 1 ? " cent" : " cents");
  return size + (cents < 0 ? " below " : " above ") + name;
}

}  // namespace heft
