#include "core/session/session.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace heft {

size_t Track::loopFrames() const {
  return static_cast<size_t>(std::lround(loopQuarters() * framesPerQuarter()));
}

double Track::mostQuarters() const {
  return song ? kMostSongSeconds * tempoBpm / 60.0 : kMostLoopBars * beatsPerBar * 4.0 / beatUnit;
}

Span Track::span() const {
  const size_t tail = song ? static_cast<size_t>(std::llround(kSongTailSeconds * sampleRate)) : 0;
  return {loopFrames() + tail, !song};
}

std::vector<Part> pairOfParts() {
  Part kick, bass;
  bass.id = 2, bass.role = "bass", bass.plays = Plays::Notes;
  return {kick, bass};
}

size_t Session::place(PartRole role) const {
  for (size_t i = 0; i < parts.size(); ++i)
    if (parts[i].is() == role) return i;
  return 0;
}

bool Session::isOfPair(const Duck& d) const {
  return d.source.kind == TriggerKind::Part && d.source.part == kick().id &&
         d.target.kind == DuckTargetKind::Part && d.target.part == bass().id;
}

size_t Session::placeOfDuck() const {
  for (size_t i = 0; i < ducks.size(); ++i)
    if (isOfPair(ducks[i])) return i;
  return 0;
}

const Duck* Session::duck(int id) const {
  for (const Duck& d : ducks)
    if (d.id == id) return &d;
  return nullptr;
}

bool Session::acts(const Duck& duck) const {
  Owner owner;
  owner.duck = duck.id;
  return duck.on && (duck.amount > 0.0 || heardAutomation(*this, owner, "amount"));
}

bool Session::actsOn(const Duck& duck, int part) const {
  return acts(duck) && duck.target.kind != DuckTargetKind::Backing && duck.target.part == part;
}

bool Session::ducksBass() const {
  return std::any_of(ducks.begin(), ducks.end(), [this](const Duck& d) { return actsOn(d, bass().id); });
}

const Part* Session::part(int id) const {
  for (const Part& p : parts)
    if (p.id == id) return &p;
  return nullptr;
}

Part* Session::part(int id) {
  return const_cast<Part*>(std::as_const(*this).part(id));
}

void setLanding(Layer& layer, double midi) {
  if (KickVoice* voice = layer.kickVoice())
    voice->landingMidi = std::clamp(midi - layer.semitones, 12.0, 80.0);
  else if (Recorded* recorded = layer.recorded()) {
    // About its split point a body continues in phase with its strike.
    if (recorded->split.side == Side::Body && !recorded->targetMidi)
      recorded->method = TuneMethod::Split, recorded->strikeMs = std::min(200.0, recorded->split.atMs);
    recorded->targetMidi = std::clamp(midi - layer.semitones, 0.0, 127.0);
  }
}

std::optional<double> landingTarget(const Layer& layer) {
  if (const KickVoice* voice = layer.kickVoice()) return voice->landingMidi + layer.semitones;
  if (const Recorded* recorded = layer.recorded(); recorded && recorded->targetMidi)
    return *recorded->targetMidi + layer.semitones;
  return std::nullopt;
}

void setLength(Layer& layer, const TimeValue& length, double tempoBpm, Lengthen how) {
  if (KickVoice* voice = layer.kickVoice())
    setKickLength(*voice, length, tempoBpm, how == Lengthen::Whole);
  else if (Recorded* recorded = layer.recorded())
    recorded->length = length;
}

void setTail(Part& part, const TimeValue& length, double tempoBpm, Lengthen how) {
  const double ms = length.toMs(tempoBpm);
  for (Layer& l : part.layers) {
    const std::optional<TimeValue> own = l.ownLength();
    if (!own || own->toMs(tempoBpm) > ms) setLength(l, length, tempoBpm, how);
  }
}

namespace {

// Quarters from a hit to the next bass note that does not start with it, wrapping around the loop; nothing
// without one.
std::optional<double> shortestGap(const Session& s) {
  const double loop = s.track.loopQuarters();
  std::optional<double> out;
  for (const Hit& hit : s.kick().hits)
    for (const Note& note : s.bass().notes) {
      if (hit.startQuarters >= loop || note.startQuarters >= loop) continue;
      double ahead = note.startQuarters - hit.startQuarters;
      while (ahead < 0.02) ahead += loop;
      if (ahead < loop - 0.02 && (!out || ahead < *out)) out = ahead;
    }
  return out;
}

// As a note length where it is one, else in ms.
TimeValue lengthOf(double quarters, double tempoBpm) {
  for (int count : {1, 2, 3, 4})
    if (std::abs(quarters - 0.25 * count) < 1e-6)
      return count == 4   ? TimeValue::note(1, 4)
             : count == 2 ? TimeValue::note(1, 8)
                          : TimeValue::note(count, 16);
  return TimeValue::milliseconds(std::round(quarters * 60000.0 / tempoBpm));
}

}  // namespace

TailTarget tailTargetOf(const Session& s) {
  using From = TailTarget::From;
  if (s.kick().tailTarget) return {*s.kick().tailTarget, From::Set};
  for (const Layer* l : heardLayers(s.kick().layers)) {
    const std::optional<TimeValue> own = l->ownLength();
    if (own && own->isNote()) return {*own, From::Length};
  }
  if (const auto gap = shortestGap(s)) return {lengthOf(std::min(*gap, 1.0), s.track.tempoBpm), From::Gap};
  return {};
}

std::optional<TimeValue> gapToNextNote(const Session& s) {
  const auto gap = shortestGap(s);
  if (!gap) return std::nullopt;
  return lengthOf(*gap, s.track.tempoBpm);
}

std::optional<int> noteUnderMostHits(const Session& session) {
  std::map<int, std::pair<int, double>> count;  // note: hits, shared quarters
  const double loop = session.track.loopQuarters();
  for (const Hit& hit : session.kick().hits)
    for (const Note& note : session.bass().notes) {
      // A note counts where it sounds within the sixteenth after the hit.
      const double end = std::min(note.startQuarters + note.lengthQuarters, loop);
      const double shared =
          std::min(end, hit.startQuarters + 0.25) - std::max(note.startQuarters, hit.startQuarters);
      if (shared <= 0.0) continue;
      auto& entry = count[note.midi];
      entry.first += 1, entry.second += shared;
    }
  std::optional<int> best;
  for (const auto& [midi, entry] : count)
    if (!best || entry > count[*best]) best = midi;
  if (best || session.bass().notes.empty()) return best;
  // No note meets a hit: the note that sounds longest.
  std::map<int, double> length;
  for (const Note& note : session.bass().notes) length[note.midi] += note.lengthQuarters;
  return std::max_element(length.begin(), length.end(), [](auto& a, auto& b) { return a.second < b.second; })
      ->first;
}

SectionPart TrackSection::ofPart(int part) const {
  for (const SectionPart& p : parts)
    if (p.part == part) return p;
  return {part};
}

double TrackSection::amountOf(int duck) const {
  for (const SectionDuck& d : ducks)
    if (d.duck == duck) return d.amount;
  return 1.0;
}

const TrackSection* Session::sectionAt(double quarters) const {
  const auto at =
      std::find_if(sections.begin(), sections.end(), [&](const TrackSection& t) { return t.holds(quarters); });
  return at == sections.end() ? nullptr : &*at;
}

const TrackSection* Session::comparedSection() const {
  const auto at =
      std::find_if(sections.begin(), sections.end(), [](const TrackSection& t) { return t.compared; });
  return at == sections.end() ? nullptr : &*at;
}

bool Session::mutedAt(int part, double quarters) const {
  const TrackSection* there = sectionAt(quarters);
  return there && there->ofPart(part).mute;
}

const TrackSection* Session::section(int id) const {
  const auto at =
      std::find_if(sections.begin(), sections.end(), [&](const TrackSection& t) { return t.id == id; });
  return at == sections.end() ? nullptr : &*at;
}

}  // namespace heft
