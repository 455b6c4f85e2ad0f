#include "core/theory/key.h"

#include <algorithm>
#include <cmath>

#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr int kMajor[] = {0, 2, 4, 5, 7, 9, 11};
// The degree of the major scale on which each mode starts, in the order of Mode.
constexpr int kStartDegree[] = {0, 5, 1, 2, 3, 4, 6};

Result<Mode> parseMode(std::string_view word, std::string_view whole) {
  struct Row {
    const char* name;
    Mode mode;
  };
  constexpr Row kRows[] = {{"major", Mode::Major},
                           {"maj", Mode::Major},
                           {"ionian", Mode::Major},
                           {"", Mode::Major},
                           {"minor", Mode::Minor},
                           {"min", Mode::Minor},
                           {"m", Mode::Minor},
                           {"aeolian", Mode::Minor},
                           {"natural minor", Mode::Minor},
                           {"dorian", Mode::Dorian},
                           {"phrygian", Mode::Phrygian},
                           {"lydian", Mode::Lydian},
                           {"mixolydian", Mode::Mixolydian},
                           {"locrian", Mode::Locrian}};
  if (word == "M") return Mode::Major;
  const std::string low = lowered(word);
  for (const Row& row : kRows)
    if (low == row.name) return row.mode;
  return badUsage("\"" + std::string(whole) +
                  "\" is not a key: write a tonic and a mode, such as A minor, F# major or D dorian");
}

}  // namespace

const char* modeName(Mode mode) {
  constexpr const char* kNames[] = {"major", "minor", "dorian", "phrygian", "lydian", "mixolydian", "locrian"};
  return kNames[static_cast<int>(mode)];
}

std::array<int, 7> Key::scale() const {
  std::array<int, 7> out{};
  const int start = kStartDegree[static_cast<int>(mode)];
  for (int i = 0; i < 7; ++i) out[i] = (tonic + kMajor[(start + i) % 7] - kMajor[start] + 12) % 12;
  return out;
}

bool Key::contains(int midi) const {
  const auto notes = scale();
  return std::find(notes.begin(), notes.end(), ((midi % 12) + 12) % 12) != notes.end();
}

bool Key::isTonic(int midi) const {
  return ((midi - tonic) % 12 + 12) % 12 == 0;
}

bool Key::isFifth(int midi) const {
  return ((midi - fifth()) % 12 + 12) % 12 == 0;
}

bool Key::prefersFlats() const {
  // The relative major decides; F, Bb, Eb, Ab and Db are written with flats.
  const int major = (tonic - kMajor[kStartDegree[static_cast<int>(mode)]] + 24) % 12;
  return major == 5 || major == 10 || major == 3 || major == 8 || major == 1;
}

std::string Key::name() const {
  return pitchClassName(tonic, prefersFlats()) + " " + modeName(mode);
}

int nearestOfClass(double midi, int pitchClass) {
  return static_cast<int>(std::lround((midi - pitchClass) / 12.0)) * 12 + pitchClass;
}

int nearestInKey(double midi, const Key& key) {
  int best = static_cast<int>(std::lround(midi));
  for (int away = 0; away < 12; ++away)
    for (const int way : {-1, 1}) {
      const int note = static_cast<int>(std::lround(midi)) + way * away;
      if (key.contains(note) && (!key.contains(best) || std::abs(note - midi) < std::abs(best - midi)))
        best = note;
    }
  return best;
}

int lowTonic(const Key& key) {
  return nearestOfClass(32.5, key.tonic);
}

Result<Key> parseKey(std::string_view original) {
  if (original.size() > 64) return badUsage("a key of over 64 characters");
  const std::string plain = plainSigns(original);
  std::string_view rest = trimmed(plain);
  const auto tonic = takePitchClass(rest);
  if (!tonic)
    return badUsage("\"" + std::string(original) +
                    "\" is not a key: write a tonic and a mode, such as A minor, F# major or D dorian");
  const auto mode = parseMode(trimmed(rest), original);
  if (!mode) return Fail(mode.error());
  return Key{*tonic, *mode};
}

}  // namespace heft
