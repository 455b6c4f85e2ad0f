#include "core/render/lanes/render.h"

#include <algorithm>
#include <set>

#include "core/render/cache/at_once.h"
#include "core/render/lanes/automation_lanes.h"
#include "core/render/lanes/lane_chain.h"
#include "core/render/lanes/lane_steps.h"
#include "core/render/lanes/place.h"
#include "core/theory/text.h"

namespace heft {
namespace {

Session without(Session s, int part, int layer) {
  if (Layer* l = s.part(part)->layer(layer)) l->mute = true;
  return s;
}

// The effect of one layer's ducking on its part's moved lane: only the layer's contribution is lowered, so at
// silence the lane is as without it.
Signal layerDucked(const Signal& heard, const Lane& lane, const Part& part, const Duck& duck,
                   ResolvedDuck& resolved, const Session& s, const DuckSources& from) {
  const double rate = s.track.sampleRate;
  const Session rest = without(s, part.id, duck.target.layer);
  const Signal others =
      partLane(rest, *rest.part(part.id), from.steps, from.cache, from.stop, fadesOf(s, part));
  if (from.stop.stop_requested()) return heard;
  const Signal stood = differenceOf(lane.placed, others, from.cache),
               alone = movedStem(stood, part.align, rate, from.cache);
  resolved.gain = gainOf(resolved, duck, s, alone, from.cache);
  const Signal ducked = duckedAlong(alone, stood, part.align, {{&duck, &resolved}}, s, from);
  return withInstead(heard, alone, ducked, from.cache);
}

// The moved and ducked lane: first its layers on their own, then all of it.
void hear(Lane& lane, const Part& part, const Session& s, Stems& stems, const DuckSources& from) {
  StepCache& cache = from.cache;
  const double rate = stems.sampleRate;
  lane.heard = movedStem(lane.placed, part.align, rate, cache);
  lane.gain = gainAtRest(s.track.span(), cache);
  std::vector<DuckOnLane> acting;
  bool ofLayers = false;
  for (size_t d = 0; d < s.ducks.size(); ++d) {
    const Duck& set = s.ducks[d];
    ResolvedDuck& duck = stems.ducks[d];
    if (!duck.acts || set.target.kind != DuckTargetKind::Layer || set.target.part != part.id) continue;
    if (!part.layer(set.target.layer)) continue;
    lane.heard = layerDucked(lane.heard, lane, part, set, duck, s, from);
    ofLayers = true;
  }
  for (size_t d = 0; d < s.ducks.size(); ++d) {
    ResolvedDuck& duck = stems.ducks[d];
    if (!duck.acts || s.ducks[d].target.kind != DuckTargetKind::Part || s.ducks[d].target.part != part.id)
      continue;
    duck.gain = gainOf(duck, s.ducks[d], s, lane.heard, cache);
    acting.push_back({&s.ducks[d], &duck});
    lane.gain = gainsTogether(lane.gain, duck.gain, s.ducking.meet, cache);
  }
  lane.heard = duckedAlong(lane.heard, ofLayers ? lane.heard : lane.placed, ofLayers ? AlignMove{} : part.align,
                           acting, s, from);
}

void hearBacking(const Session& s, Stems& stems, const DuckSources& from) {
  StepCache& cache = from.cache;
  stems.backing =
      widened(backingLane(s, from.steps, cache), {true, 1.0, s.backing.monoBelowHz}, stems.sampleRate, cache);
  stems.backingGain = gainAtRest(s.track.span(), cache);
  std::vector<DuckOnLane> acting;
  for (size_t d = 0; d < s.ducks.size(); ++d) {
    ResolvedDuck& duck = stems.ducks[d];
    if (!duck.acts || s.ducks[d].target.kind != DuckTargetKind::Backing) continue;
    duck.gain = gainOf(duck, s.ducks[d], s, stems.backing, cache);
    acting.push_back({&s.ducks[d], &duck});
    stems.backingGain = gainsTogether(stems.backingGain, duck.gain, s.ducking.meet, cache);
  }
  stems.backing = duckedAlong(stems.backing, stems.backing, {}, acting, s, from);
}

Signal summed(const Stems& stems, StepCache& cache) {
  std::vector<const Signal*> all;
  for (const Lane& lane : stems.lanes) all.push_back(&lane.heard);
  all.push_back(&stems.backing);
  return sumOf(all, cache);
}

Signal finished(const Session& s, const Stems& stems, const SoundSteps& steps, StepCache& cache) {
  const Signal sum = summed(stems, cache);
  Session bare;
  bare.track = s.track, bare.sum = s.sum;
  return alongTrack(bare, chainAutomation(s, bare, {}), cache, [&](const Session& state) {
    return chainedLane(sum, steps.ready(state.sum.finish), stems.hitFrames(), stems.sampleRate, cache);
  });
}

// Every block of every lane, so that whoever reads a loop does not wait.
void makeAll(const Stems& stems, const StepCache& cache, const std::stop_token& stop) {
  std::vector<const Signal*> all{&stems.sum, &stems.backing, &stems.backingGain};
  for (const Lane& lane : stems.lanes)
    for (const Signal* signal : {&lane.heard, &lane.placed, &lane.gain}) all.push_back(signal);
  for (const ResolvedDuck& duck : stems.ducks)
    for (const Signal* signal : {&duck.gain, &duck.heard})
      if (signal->frames() > 0) all.push_back(signal);
  madeAtOnce(stems.sum.blockCount(), cache, stop, [&](size_t b) {
    for (const Signal* signal : all) {
      if (stop.stop_requested()) return 0;
      signal->hold(b);
    }
    return 0;
  });
}

Stems emptyStems(const Session& s) {
  Stems out;
  out.sampleRate = s.track.sampleRate;
  out.span = s.track.span();
  out.frames = out.span.frames;
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

// Signals outlive a cancelled request that they were made for.
Result<Stems> render(const Session& s, const Assets& assets, StepCache& asked, std::stop_token stop) {
  StepCache cache = asked.unstopped();
  if (mutesBySection(s)) return render(asPlayed(s), assets, cache, stop);
  if (const double seconds = stretchedSeconds(s, assets); seconds > kMostStretchedSeconds)
    return badUsage("the layers that keep their length would stretch " + formatNumber(seconds, 0) +
                    " s of sound, " + formatNumber(kMostStretchedSeconds, 0) +
                    " s at the most: let some of them play by speed");
  Stems out = emptyStems(s);
  const SoundSteps steps(assets, cache, out.sampleRate);
  const DuckSources from{assets, steps, cache, stop};
  for (const Duck& duck : s.ducks) {
    out.ducks.push_back(resolveDuck(duck, s, from));
    out.ducks.back().gain = gainAtRest(out.span, cache);
    if (stop.stop_requested()) return cancelled();
  }
  auto placed = madeAtOnce(s.parts.size(), cache, stop, [&](size_t i) {
    return partLane(s, s.parts[i], steps, cache, stop, fadesOf(s, s.parts[i]));
  });
  if (stop.stop_requested()) return cancelled();
  for (size_t i = 0; i < s.parts.size(); ++i) {
    const Part& part = s.parts[i];
    Lane& lane = out.lanes.emplace_back();
    lane.part = part.id;
    lane.eventFrames = eventFrames(part, s.track);
    if (part.playsNotes() && part.contour.works()) lane.contour = std::make_shared<ContourLine>(part, s.track);
    lane.placed = std::move(placed[i]);
    hear(lane, part, s, out, from);
    if (stop.stop_requested()) return cancelled();
  }
  hearBacking(s, out, from);
  if (stop.stop_requested()) return cancelled();
  out.sumChain = steps.ready(s.sum.finish);
  out.sum = finished(s, out, steps, cache);
  if (!out.span.wraps) return out;
  makeAll(out, cache, stop);
  if (stop.stop_requested()) return cancelled();
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
      if (leaves(MovesOf::Sounds)) l.shape = {}, l.chain = {};
    }
    if (leaves(MovesOf::Sounds)) part.finish = {}, part.contour.on = false;
    if (leaves(MovesOf::Align)) {
      part.align.delayMs = 0.0, part.align.invert = false, part.align.rotation.on = false;
      for (Note& n : part.notes) n.move = {};
    }
  }
  if (leaves(MovesOf::Sounds)) session.sum.finish = {};
  // Automation of layers would set again what was left out.
  if (leaves(MovesOf::Sounds) || leaves(MovesOf::Tune))
    std::erase_if(session.automation, [](const Automation& a) { return a.owner.layer.has_value(); });
  if (leaves(MovesOf::Duck))
    for (Duck& duck : session.ducks) duck.on = false;
  return session;
}

Edit leaveOut(MovesOf of, const std::string& name) {
  return {name, [of](Session& s) { s = withoutMoves(std::move(s), of); }};
}

}  // namespace heft
