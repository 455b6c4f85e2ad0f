// Fuzz target: bytes as a MIDI file, taken as hits and as a line, written again and read again. Linked with
// libFuzzer under Clang (preset fuzz), else with mutate.cpp.

#include <cmath>
#include <cstdio>
#include <cstdlib>

#include "core/session/midi_pattern.h"

namespace {

void demand(bool holds, const char* what) {
  if (holds) return;
  std::fprintf(stderr, "midi_fuzz: %s\n", what);
  std::abort();
}

void checkLine(const heft::Session& s) {
  double last = 0.0;
  for (const heft::Note& n : s.bass().notes) {
    demand(std::isfinite(n.startQuarters) && n.startQuarters >= last && n.startQuarters < 8.0,
           "notes ascend in the loop");
    demand(n.lengthQuarters > 0.0 && std::isfinite(n.lengthQuarters), "a note has a length");
    demand(n.midi >= 0 && n.midi < 128 && n.velocity > 0.0 && n.velocity <= 1.0, "a note is a note");
    last = n.startQuarters;
  }
  last = 0.0;
  for (const heft::WheelPoint& p : s.bass().wheel) {
    demand(p.quarters >= last && std::abs(p.value) <= 1.0, "the wheel's points ascend within its range");
    last = p.quarters;
  }
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, size_t size) {
  const auto file = heft::parseMidi(std::string(reinterpret_cast<const char*>(data), size), "fuzz.mid");
  if (!file) return 0;
  for (const heft::MidiTrack& track : file->tracks) {
    heft::Session s;
    s.kick().hits = heft::hitsFrom(track, 8.0);
    const heft::BassLine line = heft::lineFrom(track, 8.0);
    s.bass().notes = line.notes, s.bass().wheel = line.wheel;
    s.bass().wheelRange = line.wheelRange.value_or(12.0);
    checkLine(s);
    const auto again = heft::parseMidi(heft::midiBytes(heft::midiOf(s)), "again.mid");
    demand(again.has_value() && again->warnings.empty(), "what is written can be read");
    size_t notes = 0;
    for (const heft::MidiTrack& t : again->tracks) notes += t.notes.size();
    demand(notes == s.kick().hits.size() + s.bass().notes.size(), "no hit and no note is lost");
  }
  return 0;
}
