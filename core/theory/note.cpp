#include "core/theory/note.h"

#include <cmath>
#include <cstdlib>

#include "core/theory/text.h"

namespace heft {
namespace {

constexpr const char* kSharpNames[] = {"C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"};
constexpr const char* kFlatNames[] = {"C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B"};
constexpr int kLetterSemitones[] = {9, 11, 0, 2, 4, 5, 7};  // A to G
constexpr double kLowestHz = 8.0, kHighestHz = 20000.0;

Fail notAPitch(std::string_view text) {
  return badUsage("\"" + std::string(text) +
                  "\" is not a note or frequency: write a note with its octave such as F#1 or F#1 +12 ct, or a "
                  "frequency such as 46.2 Hz");
}

Result<double> inRange(double midi, double a4Hz, std::string_view text) {
  const double hz = hzFromMidi(midi, a4Hz);
  if (!(hz >= kLowestHz && hz <= kHighestHz))
    return badUsage("\"" + std::string(text) + "\" is outside 8 Hz to 20000 Hz");
  return midi;
}

// "+12 ct", "-3ct", "" -> cents; false where the rest makes no sense.
bool takeCents(std::string_view rest, double& cents) {
  rest = trimmed(rest);
  cents = 0.0;
  if (rest.empty()) return true;
  if (rest.front() != '+' && rest.front() != '-') return false;
  const double sign = rest.front() == '-' ? -1.0 : 1.0;
  rest = trimmed(rest.substr(1));
  const auto value = takeNumber(rest);
  const std::string unit = lowered(trimmed(rest));
  if (!value || *value < 0 || (unit != "ct" && unit != "cents" && unit != "cent" && unit != "c")) return false;
  cents = sign * *value;
  return std::abs(cents) <= 1200.0;
}

}  // namespace

double hzFromMidi(double midi, double a4Hz) {
  return a4Hz * std::exp2((midi - 69.0) / 12.0);
}
double midiFromHz(double hz, double a4Hz) {
  return 69.0 + 12.0 * std::log2(hz / a4Hz);
}
double centsBetween(double fromHz, double toHz) {
  return 1200.0 * std::log2(toHz / fromHz);
}

std::string pitchClassName(int pitchClass, bool flats) {
  const int index = ((pitchClass % 12) + 12) % 12;
  return flats ? kFlatNames[index] : kSharpNames[index];
}

std::string noteName(int midi, const NoteStyle& style) {
  const int octave = static_cast<int>(std::floor(midi / 12.0)) - 5 + static_cast<int>(style.octaves);
  return pitchClassName(midi, style.flats) + std::to_string(octave);
}

std::string pitchText(double midi, const NoteStyle& style) {
  const int whole = static_cast<int>(std::lround(midi));
  const int cents = static_cast<int>(std::lround((midi - whole) * 100.0));
  std::string out = noteName(whole, style);
  if (cents != 0) out += (cents > 0 ? " +" : " -") + std::to_string(std::abs(cents)) + " ct";
  return out;
}

std::string hzText(double hz) {
  return formatNumber(hz, hz < 100 ? 2 : hz < 1000 ? 1 : 0) + " Hz";
}

std::optional<int> takePitchClass(std::string_view& text, int* letterShift) {
  if (text.empty()) return std::nullopt;
  const char letter = static_cast<char>(text.front() & ~0x20);
  if (letter < 'A' || letter > 'G') return std::nullopt;
  int semitones = kLetterSemitones[letter - 'A'];
  std::string_view rest = text.substr(1);
  int shift = 0;
  if (!rest.empty() && (rest.front() == '#' || rest.front() == 'b')) {
    shift = rest.front() == '#' ? 1 : -1;
    rest.remove_prefix(1);
  }
  semitones += shift;
  if (letterShift) *letterShift = semitones < 0 ? -1 : semitones > 11 ? 1 : 0;
  text = rest;
  return (semitones + 12) % 12;
}

Result<double> parsePitch(std::string_view original, const NoteStyle& style) {
  if (original.size() > 64) return badUsage("a note or frequency of over 64 characters");
  const std::string plain = plainSigns(original);
  std::string_view text = trimmed(plain);
  std::string_view rest = text;
  if (const auto hz = takeNumber(rest)) {
    const std::string unit = lowered(trimmed(rest));
    if ((!unit.empty() && unit != "hz") || *hz <= 0) return notAPitch(original);
    return inRange(midiFromHz(*hz, style.a4Hz), style.a4Hz, original);
  }
  int shift = 0;
  const auto pitchClass = takePitchClass(rest, &shift);
  if (!pitchClass) return notAPitch(original);
  const bool negative = !rest.empty() && rest.front() == '-';
  if (negative) rest.remove_prefix(1);
  if (rest.empty() || rest.front() < '0' || rest.front() > '9') return notAPitch(original);
  int octave = rest.front() - '0';
  rest.remove_prefix(1);
  if (!rest.empty() && rest.front() >= '0' && rest.front() <= '9') {
    octave = octave * 10 + (rest.front() - '0');
    rest.remove_prefix(1);
  }
  if (negative) octave = -octave;
  double cents = 0.0;
  if (!takeCents(rest, cents)) return notAPitch(original);
  const double midi = 12.0 * (octave + 5 - static_cast<int>(style.octaves)) + *pitchClass + 12 * shift;
  return inRange(midi + cents / 100.0, style.a4Hz, original);
}

Result<HzRange> parseHzRange(std::string_view text, const NoteStyle& style) {
  const std::string words = lowered(plainSigns(text));
  // "to" as a word of its own: no note's name contains it.
  size_t at = words.find(" to "), length = 4;
  if (at == std::string::npos) at = words.find(','), length = 1;
  if (at == std::string::npos) at = words.find('-', 1), length = 1;
  const std::string whole = plainSigns(text);
  const auto fault =
      badUsage("\"" + std::string(text.substr(0, 64)) +
               "\" is no band: write two frequencies or notes, such as 30 to 200 Hz or A0 to G3");
  if (at == std::string::npos) return fault;
  const auto low = parsePitch(trimmed(whole.substr(0, at)), style),
             high = parsePitch(trimmed(whole.substr(at + length)), style);
  if (!low || !high || *low >= *high) return fault;
  return HzRange{hzFromMidi(*low, style.a4Hz), hzFromMidi(*high, style.a4Hz)};
}

}  // namespace heft
