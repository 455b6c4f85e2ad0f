#include "core/session/pattern_range.h"

#include <algorithm>
#include <cmath>

#include "core/session/thinned.h"

namespace heft {
namespace {

template <class Event>
void takeOut(std::vector<Event>& events, const PatternRange& range) {
  std::erase_if(events, [&](const Event& e) { return range.holds(e.startQuarters); });
}

template <class Event>
void putIn(std::vector<Event>& events, const std::vector<Event>& clip, double at, const Track& track) {
  changePlayed(events, track, [&](std::vector<Event>& played) {
    for (Event e : clip) {
      e.startQuarters += at;
      if (e.startQuarters < track.loopQuarters() - kSameMoment && played.size() < kMostHits)
        played.push_back(e);
    }
  });
}

// Removes the curve within the range and preserves it outside.
void openWheel(std::vector<WheelPoint>& wheel, double from, double to) {
  Part was;
  was.wheel = wheel;
  const double before = wheelValue(was, from), after = wheelValue(was, to);
  std::erase_if(wheel, [&](const WheelPoint& p) {
    return p.quarters >= from - kSameMoment && p.quarters <= to + kSameMoment;
  });
  auto put = [&](double at, double value) {
    const auto place = std::upper_bound(wheel.begin(), wheel.end(), at,
                                        [](double q, const WheelPoint& p) { return q < p.quarters; });
    wheel.insert(place, {at, value});
  };
  put(std::max(0.0, from - kSameMoment), before);
  put(to + kSameMoment, after);
}

void putWheel(std::vector<WheelPoint>& wheel, const std::vector<WheelPoint>& clip, double at, double length,
              double loop) {
  if (clip.empty() && wheel.empty()) return;
  openWheel(wheel, at, at + length);
  const std::vector<WheelPoint> rest{{0.0, 0.0}, {length, 0.0}};
  for (const WheelPoint& p : clip.empty() ? rest : clip)
    if (at + p.quarters <= loop) wheel.push_back({at + p.quarters, p.value});
  std::erase_if(wheel, [&](const WheelPoint& p) { return p.quarters > loop; });
  std::stable_sort(wheel.begin(), wheel.end(),
                   [](const WheelPoint& a, const WheelPoint& b) { return a.quarters < b.quarters; });
  wheel = thinned(wheel, 1e-9);
  if (std::all_of(wheel.begin(), wheel.end(), [](const WheelPoint& p) { return p.value == 0.0; }))
    wheel.clear();
}

// The curve over a range, from its start; nothing where it rests there.
std::vector<WheelPoint> wheelOf(const Part& part, const PatternRange& range) {
  std::vector<WheelPoint> out{{0.0, wheelValue(part, range.from)}};
  for (const WheelPoint& p : part.wheel)
    if (p.quarters > range.from + kSameMoment && p.quarters < range.to - kSameMoment)
      out.push_back({p.quarters - range.from, p.value});
  out.push_back({range.length(), wheelValue(part, range.to - 2 * kSameMoment)});
  if (std::all_of(out.begin(), out.end(), [](const WheelPoint& p) { return p.value == 0.0; })) out.clear();
  return out;
}

}  // namespace

bool PatternRange::holds(double quarters) const {
  return quarters >= from - kSameMoment && quarters < to - kSameMoment;
}

PatternClip clipOf(const Session& s, const PatternRange& range) {
  PatternClip out;
  out.range = range;
  auto take = [&](const auto& events, auto& into) {
    for (auto e : events)
      if (range.holds(e.startQuarters)) e.startQuarters -= range.from, into.push_back(e);
  };
  for (const Part& part : s.parts) {
    if (!range.has(part.id)) continue;
    PatternClip::OfPart& clip = out.parts.emplace_back();
    clip.part = part.id;
    take(part.hits, clip.hits);
    take(part.notes, clip.notes);
    if (!part.wheel.empty()) clip.wheel = wheelOf(part, range);
  }
  return out;
}

Session cleared(Session s, const PatternRange& range) {
  for (Part& part : s.parts) {
    if (!range.has(part.id)) continue;
    takeOut(part.hits.own(), range);
    takeOut(part.notes.own(), range);
    putWheel(part.wheel.own(), {}, range.from, range.length(), s.track.loopQuarters());
  }
  return s;
}

Session pasted(Session s, const PatternClip& clip, double at) {
  const double loop = s.track.loopQuarters();
  const PatternRange there{at, at + clip.range.length(), clip.range.parts};
  for (const PatternClip::OfPart& from : clip.parts) {
    Part* part = s.part(from.part);
    if (!part) continue;
    takeOut(part->hits.own(), there);
    takeOut(part->notes.own(), there);
    if (!part->playsNotes()) putIn(part->hits.own(), from.hits, at, s.track);
    if (!part->playsNotes()) continue;
    putIn(part->notes.own(), from.notes, at, s.track);
    putWheel(part->wheel.own(), from.wheel, at, clip.range.length(), loop);
  }
  return s;
}

Session moved(Session s, const PatternRange& range, double quarters, PatternRange* now) {
  const double by = std::clamp(quarters, -range.from, std::max(0.0, s.track.loopQuarters() - range.to));
  if (now) *now = {range.from + by, range.to + by, range.parts};
  const PatternClip clip = clipOf(s, range);
  return pasted(cleared(std::move(s), range), clip, range.from + by);
}

Session transposed(Session s, const PatternRange& range, int semitones) {
  for (Part& part : s.parts) {
    if (!range.has(part.id)) continue;
    for (Note& n : part.notes)
      if (range.holds(n.startQuarters)) n.midi = std::clamp(n.midi + semitones, 0, 127);
  }
  return s;
}

Session quantised(Session s, const PatternRange& range, double strength) {
  auto change = [&](auto& all) {
    changePlayed(all.own(), s.track, [&](auto& events) {
      auto in = events;
      std::erase_if(in, [&](const auto& e) { return !range.holds(e.startQuarters); });
      takeOut(events, range);
      quantise(in, s.grid, strength, s.track);
      events.insert(events.end(), in.begin(), in.end());
    });
  };
  for (Part& part : s.parts)
    if (range.has(part.id)) change(part.hits), change(part.notes);
  return s;
}

Session louder(Session s, const PatternRange& range, double by) {
  auto change = [&](auto& events) {
    for (auto& e : events)
      if (range.holds(e.startQuarters)) e.velocity = std::clamp(e.velocity + by, 0.02, 1.0);
  };
  for (Part& part : s.parts)
    if (range.has(part.id)) change(part.hits), change(part.notes);
  return s;
}

Session copied(Session s, double from, double to, double at) {
  const PatternClip clip = clipOf(s, {from, to});
  return pasted(std::move(s), clip, at);
}

}  // namespace heft
