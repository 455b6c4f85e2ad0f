#include "core/session/midi_pattern.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "core/session/pattern_range.h"
#include "core/session/thinned.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr int kChannels = 16, kFirstOwnNote = 60;
constexpr double kOverlap = 1.0 / 16.0, kShortest = 0.02, kDiveStep = 1.0 / 96.0, kRest = 0.05;

// A note as played: its own start and its former end. A tied note starts at the tie; one from before the loop
// starts at the loop's start.
struct PlayedNote {
  double startQuarters = 0.0, lengthQuarters = 0.0;
};
PlayedNote playedNote(const std::vector<Note>& notes, size_t i, const Track& track) {
  const Note& n = notes[i];
  const bool tied =
      i > 0 && notes[i - 1].tie && std::abs(notes[i - 1].endQuarters() - n.startQuarters) < kSameMoment;
  if (tied || n.move.offsetMs == 0.0) return {n.startQuarters, n.lengthQuarters};
  const double start = std::max(0.0, n.startQuarters + n.move.offsetMs * track.tempoBpm / 60000.0);
  return {start, std::max(kShortest, n.endQuarters() - start)};
}

// Drums by the General MIDI level 1 percussion map; parts without a name in it each get a note of their own,
// so that a trigger of one note matches one part.
int hitNote(const std::string& role, int& nextOwn) {
  static constexpr std::pair<const char*, int> kNotes[] = {{"kick", 36},  {"rim", 37},  {"snare", 38},
                                                           {"clap", 39},  {"hat", 42},  {"tom", 45},
                                                           {"crash", 49}, {"ride", 51}, {"shaker", 70}};
  for (const auto& [word, note] : kNotes)
    if (role.find(word) != std::string::npos) return note;
  return std::min(127, nextOwn++);
}

struct Bends {
  std::vector<MidiBend> bends;
  double range = 12.0;  ///< semitones
};

// Wheel and dives over the loop, at every 96th of a quarter with movement. The range is the wheel's own, or
// enough whole semitones for wider bends.
Bends bendsOf(const Part& part, double loopQuarters) {
  struct At {
    double quarters, semitones;
  };
  std::vector<At> moves;
  double furthest = part.wheelRange;
  for (double at = 0.0; at < loopQuarters; at += kDiveStep) {
    double semitones = wheelValue(part, at) * part.wheelRange;
    for (const Note& n : part.notes)
      if (at >= n.startQuarters - 1e-9 && at < n.endQuarters() - 1e-9)
        semitones += diveAt(n.dive, at - n.startQuarters);
    furthest = std::max(furthest, std::ceil(std::abs(semitones) - 1e-6));
    moves.push_back({at, semitones});
  }
  Bends out;
  out.range = furthest;
  double last = 0.0;
  for (const At& m : moves) {
    const double value = std::clamp(m.semitones / out.range, -1.0, 1.0);
    if (std::abs(value - last) < 1e-4) continue;
    out.bends.push_back({m.quarters, value});
    last = value;
  }
  return out;
}

}  // namespace

std::vector<Hit> hitsFrom(const MidiTrack& track, double loop) {
  std::vector<Hit> out;
  for (const MidiNote& n : track.notes)
    if (n.startQuarters < loop - kSameMoment && out.size() < kMostHits)
      out.push_back({n.startQuarters, n.velocity / 127.0});
  Track open;
  open.song = true;  // they are within the loop: nothing comes in at its start
  tidy(out, open);
  return out;
}

BassLine lineFrom(const MidiTrack& track, double loop) {
  BassLine out;
  for (const MidiNote& n : track.notes) {
    if (n.startQuarters >= loop - kSameMoment || out.notes.size() >= kMostHits) continue;
    if (!out.notes.empty()) {
      Note& before = out.notes.back();
      if (n.startQuarters - before.startQuarters < kShortest) continue;
      if (before.endQuarters() > n.startQuarters + kSameMoment) {
        before.lengthQuarters = n.startQuarters - before.startQuarters;
        before.tie = true;
      }
    }
    out.notes.push_back(
        Note{n.startQuarters, std::max(kShortest, n.lengthQuarters), n.note, n.velocity / 127.0});
  }
  // A wheel that does not move between two messages holds its value: the curve is straight between its
  // points.
  for (const MidiBend& b : track.bends) {
    if (b.quarters >= loop || out.wheel.size() > 19990) continue;
    if (out.wheel.empty() && b.quarters > 0.0) out.wheel.push_back({0.0, 0.0});
    if (!out.wheel.empty() && b.quarters - out.wheel.back().quarters > kRest)
      out.wheel.push_back({b.quarters - kRest / 2.0, out.wheel.back().value});
    out.wheel.push_back({b.quarters, b.value});
  }
  out.wheel = thinned(out.wheel);
  if (track.bendRange && *track.bendRange >= 1.0 && *track.bendRange <= 48.0) out.wheelRange = track.bendRange;
  return out;
}

MidiFile midiOf(const Session& s) {
  MidiFile out;
  out.tempoBpm = s.track.tempoBpm;
  out.metre = MidiMetre{s.track.beatsPerBar, s.track.beatUnit};
  out.endQuarters = s.track.loopQuarters();
  const double loop = s.track.loopQuarters();
  auto velocityOf = [](double v) { return std::clamp(static_cast<int>(std::lround(v * 127.0)), 1, 127); };
  int next = 0, nextOwn = kFirstOwnNote;
  std::set<int> taken;
  for (const Part& part : s.parts) {
    if (part.is() == PartRole::Other && !part.hasEvents()) continue;
    MidiTrack track{part.title(), {}, {}, {}};
    const int channel = next++ % kChannels;
    int hit = hitNote(lowered(part.is() == PartRole::Other ? part.role + " " + part.name : part.role), nextOwn);
    while (part.is() == PartRole::Other && !part.hits.empty() && !taken.insert(hit).second)
      hit = std::min(127, nextOwn++);
    for (const Hit& h : part.hits)
      if (h.startQuarters < loop)
        track.notes.push_back(
            {h.startQuarters, std::min(0.25, loop - h.startQuarters), channel, hit, velocityOf(h.velocity)});
    for (size_t i = 0; i < part.notes.size(); ++i) {
      const Note& n = part.notes[i];
      if (n.startQuarters >= loop) continue;
      const PlayedNote played = playedNote(part.notes, i, s.track);
      const double length = played.lengthQuarters + (n.tie ? kOverlap : 0.0);
      track.notes.push_back({played.startQuarters, std::min(length, loop - played.startQuarters), channel,
                             n.midi, velocityOf(n.velocity)});
    }
    Bends bends = bendsOf(part, loop);
    if (!bends.bends.empty()) track.bendRange = bends.range;
    track.bends = std::move(bends.bends);
    out.tracks.push_back(std::move(track));
  }
  return out;
}

}  // namespace heft
