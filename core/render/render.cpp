#include "core/render/render.h"

#include <algorithm>
#include <set>

#include "core/render/lane_finish.h"
#include "core/render/lane_steps.h"
#include "core/render/place.h"
#include "core/theory/text.h"

namespace heft {
namespace {

// Length of what starts a dip, where it is to last as long.
double tailMsOf(const Part& source, const Track& track, const SoundSteps& steps) {
  if (source.playsNotes()) return 0.0;
  const auto facts = steps.kickFacts(source, track);
  return facts ? facts->tailMs : 0.0;
}

// The pattern triggers, whatever of the source can be heard.
ResolvedDuck resolved(const Duck& duck, const Session& s, const SoundSteps& steps) {
  const Part* source = s.part(duck.sourcePart);
  ResolvedDuck out;
  out.dip =
      resolvedDip(duck, s.track.tempoBpm, duck.asSource && source ? tailMsOf(*source, s.track, steps) : 0.0);
  out.crossoverHz = duck.crossoverHz;
  if (duck.on && source) out.triggersFrames = eventFrames(*source, s.track);
  return out;
}

// The lane moved and ducked, one ducking after the other.
void hear(Lane& lane, const Part& part, const Session& s, const Stems& stems, StepCache& cache) {
  const double rate = stems.sampleRate;
  lane.heard = movedStem(lane.placed, part.align, rate, cache);
  lane.gain = gainAtRest(stems.frames, cache);
  for (size_t d = 0; d < s.ducks.size(); ++d) {
    if (!s.ducks[d].on || s.ducks[d].targetPart != part.id) continue;
    const Stem gain = gainLane(stems.ducks[d], rate, stems.frames, cache);
    if (const auto hz = stems.ducks[d].crossoverHz)
      // The move is taken from the lows that stood still: they stay as they are while the lane is dragged.
      lane.heard = duckedBelow(
          lane.heard, movedStem(lowStem(lane.placed, rate, *hz, cache), part.align, rate, cache), gain, cache);
    else
      lane.heard = duckedStem(lane.heard, gain, cache);
    lane.gain = gainsTogether(lane.gain, gain, cache);
  }
}

Stem summed(const Stems& stems, StepCache& cache) {
  std::vector<const Stem*> all;
  for (const Lane& lane : stems.lanes) all.push_back(&lane.heard);
  all.push_back(&stems.backing);
  return sumOf(all, cache);
}

Stems emptyStems(const Session& s) {
  Stems out;
  out.sampleRate = s.track.sampleRate;
  out.frames = s.track.loopFrames();
  for (size_t i = 0; i < s.parts.size(); ++i) {
    if (&s.parts[i] == &s.kick()) out.kickLane = i;
    if (&s.parts[i] == &s.bass()) out.bassLane = i;
  }
  return out;
}

}  // namespace

const Lane* Stems::lane(int part) const {
  for (const Lane& l : lanes)
    if (l.part == part) return &l;
  return nullptr;
}

double stretchedSeconds(const Session& s, const Assets& assets) {
  double out = 0.0;
  for (const Part& part : s.parts) {
    std::set<int> notes;
    for (const Note& n : part.notes)
      if (n.startQuarters < s.track.loopQuarters()) notes.insert(n.midi);
    for (const Layer& l : part.layers)
      if (const Recorded* r = l.recorded(); r && r->keepLength && r->followNotes && !l.mute)
        if (const auto sound = assets.sound(r->asset))
          out += sound->seconds() * static_cast<double>(notes.size());
  }
  return out;
}

Result<Stems> render(const Session& s, const Assets& assets, StepCache& cache, std::stop_token stop) {
  if (const double seconds = stretchedSeconds(s, assets); seconds > kMostStretchedSeconds)
    return badUsage("the layers that keep their length would stretch " + formatNumber(seconds, 0) +
                    " s of sound, " + formatNumber(kMostStretchedSeconds, 0) +
                    " s at the most: let some of them play by speed");
  Stems out = emptyStems(s);
  const SoundSteps steps(assets, cache, out.sampleRate);
  for (const Part& part : s.parts) {
    Lane& lane = out.lanes.emplace_back();
    lane.part = part.id;
    lane.eventFrames = eventFrames(part, s.track);
    lane.placed = placedLane(part, s.track, steps, cache, stop);
    if (stop.stop_requested()) return cancelled();
    if (part.finishOver == FinishOver::Lane)
      lane.placed = finishedLane(lane.placed, part.finish, out.sampleRate, cache);
    lane.placed = levelled(lane.placed, part.levelDb, cache);
  }
  for (const Duck& duck : s.ducks) out.ducks.push_back(resolved(duck, s, steps));
  for (size_t i = 0; i < s.parts.size(); ++i) {
    hear(out.lanes[i], s.parts[i], s, out, cache);
    if (stop.stop_requested()) return cancelled();
  }
  out.backing = backingLane(s, steps, cache);
  if (stop.stop_requested()) return cancelled();
  out.sum = finishedLane(summed(out, cache), s.sum.finish, out.sampleRate, cache);
  return out;
}

Session withoutMoves(Session session, MovesOf of) {
  auto leaves = [of](MovesOf stage) { return of == MovesOf::All || of == stage; };
  for (Part& part : session.parts) {
    for (Layer& l : part.layers) {
      Recorded* recorded = l.recorded();
      if (recorded && leaves(MovesOf::Tune))
        recorded->targetMidi.reset(), recorded->strikeSemitones = recorded->flatten = 0.0;
      if (recorded && leaves(MovesOf::Sounds)) recorded->length.reset();
      if (leaves(MovesOf::Sounds)) l.shape = {};
    }
    if (leaves(MovesOf::Sounds)) part.finish = {};
    if (leaves(MovesOf::Align)) part.align.delayMs = 0.0, part.align.invert = false;
  }
  if (leaves(MovesOf::Sounds)) session.sum.finish = {};
  if (leaves(MovesOf::Duck))
    for (Duck& duck : session.ducks) duck.on = false;
  return session;
}

Edit leaveOut(MovesOf of, const std::string& name) {
  return {name, [of](Session& s) { s = withoutMoves(std::move(s), of); }};
}

}  // namespace heft
