#include "core/solve/excerpt.h"

#include <algorithm>
#include <cmath>

#include "core/render/lanes/place.h"

namespace heft {
namespace {

// Events that start in the stretch, counted from its start.
template <class Event>
void cutTo(std::vector<Event>& events, double from, double to) {
  std::erase_if(events,
                [&](const Event& e) { return e.startQuarters < from - 1e-9 || e.startQuarters >= to - 1e-9; });
  for (Event& e : events) e.startQuarters = std::max(0.0, e.startQuarters - from);
}

void cutWheel(Part& part, double from, double to) {
  if (part.wheel.empty()) return;
  std::vector<WheelPoint> out{{0.0, wheelValue(part, from)}};
  for (const WheelPoint& p : part.wheel)
    if (p.quarters > from && p.quarters < to) out.push_back({p.quarters - from, p.value});
  part.wheel = std::move(out);
}

void cutSource(DuckSource& source, double from, double to, double tempoBpm) {
  // What repeats begins where it is by then; the rest starts in the middle of its file.
  source.offsetSeconds += from * 60.0 / tempoBpm;
  cutTo(source.hits, from, to);
  if (source.kind == TriggerKind::Midi && !(source.repeats && source.midiQuarters > 0.0))
    cutTo(source.notes, from, to);
}

// How much each bar asks for being looked at: its hits that are out of range, then its events.
std::vector<double> weightsOf(const Session& s, const std::vector<Finding>& findings) {
  const double bar = s.track.barQuarters();
  std::vector<double> out(static_cast<size_t>(std::ceil(s.track.loopQuarters() / bar - 1e-9)), 0.0);
  auto add = [&](double quarters, double weight) {
    if (const auto at = static_cast<size_t>(std::max(0.0, quarters) / bar + 1e-9); at < out.size())
      out[at] += weight;
  };
  for (const Part& part : s.parts) {
    const double weight = s.isOfPair(part.id) ? 0.01 : 0.001;
    for (const Hit& h : part.hits) add(h.startQuarters, weight);
    for (const Note& n : part.notes) add(n.startQuarters, weight);
  }
  const auto hits = hitsInLoop(s.kick(), s.track);
  for (const Finding& f : findings)
    for (const HitLine& h : f.hits)
      if (!f.meantSo && h.verdict != Verdict::Holds && h.hit >= 0 && static_cast<size_t>(h.hit) < hits.size())
        add(hits[static_cast<size_t>(h.hit)].startQuarters, h.verdict == Verdict::Off ? 3.0 : 1.0);
  return out;
}

}  // namespace

bool needsExcerpt(const Track& track) {
  return track.song || track.loopBeats > 2 * kExcerptBars * track.beatsPerBar;
}

Excerpt excerptOf(const Session& s, const std::vector<Finding>& findings) {
  const std::vector<double> weights = weightsOf(s, findings);
  const size_t wide = std::min<size_t>(kExcerptBars, weights.size());
  size_t best = 0;
  double most = -1.0;
  for (size_t at = 0; at + wide <= weights.size(); ++at) {
    double sum = 0.0;
    for (size_t i = 0; i < wide; ++i) sum += weights[at + i];
    if (sum > most + 1e-9) most = sum, best = at;
  }
  return excerptFrom(s, static_cast<double>(best) * s.track.barQuarters());
}

Excerpt excerptFrom(const Session& s, double quarters) {
  const double bar = s.track.barQuarters();
  const auto bars = static_cast<int>(std::ceil(s.track.loopQuarters() / bar - 1e-9));
  const int wide = std::min(kExcerptBars, bars),
            first = std::clamp(static_cast<int>(quarters / bar + 1e-9), 0, bars - wide);
  const double from = first * bar, to = from + wide * bar;
  Excerpt out{s, from, to};
  Session& e = out.session;
  e.track.song = false, e.track.loopBeats = wide * s.track.beatsPerBar;
  e.sections.clear();
  for (Part& part : e.parts) {
    cutWheel(part, from, to);
    cutTo(part.hits.own(), from, to);
    cutTo(part.notes.own(), from, to);
  }
  for (Duck& duck : e.ducks) cutSource(duck.source, from, to, s.track.tempoBpm);
  e.backing.offsetSeconds += from * 60.0 / s.track.tempoBpm;
  return out;
}

bool keepsEvents(const Session& before, const Session& after) {
  if (before.track.loopBeats != after.track.loopBeats || before.track.tempoBpm != after.track.tempoBpm)
    return false;
  return std::all_of(before.parts.begin(), before.parts.end(), [&](const Part& part) {
    const Part* now = after.part(part.id);
    return !now || (now->hits == part.hits && now->notes == part.notes && now->wheel == part.wheel);
  });
}

Session carriedBack(const Session& whole, const Excerpt& excerpt, const Session& changed) {
  Session out = changed;
  out.track.song = whole.track.song, out.track.loopBeats = whole.track.loopBeats;
  out.sections = whole.sections;
  out.backing.offsetSeconds += whole.backing.offsetSeconds - excerpt.session.backing.offsetSeconds;
  for (Part& part : out.parts)
    if (const Part* was = whole.part(part.id))
      part.hits = was->hits, part.notes = was->notes, part.wheel = was->wheel;
  for (Duck& duck : out.ducks) {
    const Duck *was = whole.duck(duck.id), *cut = excerpt.session.duck(duck.id);
    if (!was || !cut) continue;
    // A source that the fix did not choose anew is as it was.
    if (duck.source == cut->source) duck.source = was->source;
  }
  return out;
}

}  // namespace heft
