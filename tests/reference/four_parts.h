#pragma once
/// A small session with a part of each kind.

#include "core/render/lanes/signal.h"
#include "core/session/edits/parts.h"

namespace heft::reference {

// Kick, bass, a built clap of short kicks, a line: four parts at a low rate, all with something to do.
inline Session fourParts() {
  Session s;
  s.track.sampleRate = 16000, s.track.tempoBpm = 140, s.track.loopBeats = 4;
  addPart(3, "Clap", Plays::Hits).change(s);
  addPart(4, "Line", Plays::Notes).change(s);
  for (const Part& part : std::vector<Part>(s.parts)) addBuiltLayer(part).change(s);
  s.part(3)->layers[0].kickVoice()->landingMidi = 60;
  s.part(3)->layers[0].kickVoice()->length = TimeValue::milliseconds(60);
  s.part(3)->hits = {{1.0, 0.8}, {3.0, 1.0}};
  s.bass().notes = {{0.5, 0.4, 33, 0.9}, {2.0, 1.0, 36, 0.8}};
  s.part(4)->notes = {{0.0, 0.5, 45, 0.6}, {2.5, 0.5, 48, 0.7}};
  s.duck().on = true;
  return s;
}

inline std::vector<float> samplesOf(const Signal& stem) {
  return stem.frames() ? stem.read(0, 0, stem.frames()) : std::vector<float>();
}

}  // namespace heft::reference
