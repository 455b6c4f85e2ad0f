#include "core/session/edits/rhythm.h"

#include <algorithm>
#include <cmath>

#include "core/sound/noise.h"

namespace heft {
namespace {

constexpr double kShortestQuarters = 1.0 / 32.0;

// Within half of the way to its neighbours, and within the loop.
template <class Event>
void varyStarts(std::vector<Event>& events, const PatternRange& range, double quarters, double loop,
                Noise& noise) {
  const std::vector<Event> was = events;
  for (size_t i = 0; i < events.size(); ++i) {
    const double at = was[i].startQuarters;
    const double by = quarters * noise.next();  // drawn for each, so that the range does not change the others
    if (!range.holds(at) || at >= loop) continue;
    const double least = i > 0 ? 0.5 * (was[i - 1].startQuarters + at) : 0.0;
    const double most = i + 1 < was.size() ? 0.5 * (at + was[i + 1].startQuarters) : loop;
    constexpr double kApart = 1e-4;
    events[i].startQuarters = std::clamp(at + by, std::min(at, least + kApart), std::max(at, most - kApart));
  }
}

template <class Event>
void varyVelocities(std::vector<Event>& events, const PatternRange& range, double amount, Noise& noise) {
  constexpr double kLeast = 0.05;
  for (Event& e : events) {
    const double by = amount * noise.next();
    if (range.holds(e.startQuarters))
      e.velocity = std::clamp(e.velocity + by, std::min(e.velocity, kLeast), 1.0);
  }
}

// The pitch that sounded at a moment, or last began before it.
std::optional<int> pitchAt(const std::vector<Note>& notes, double quarters) {
  std::optional<int> out;
  for (const Note& n : notes)
    if (n.startQuarters <= quarters + kSameMoment || !out) out = n.midi;
  return out;
}

struct Event {
  double at, velocity;
  std::optional<double> length;
};

std::vector<Event> eventsOf(const Part& part) {
  std::vector<Event> out;
  for (const Hit& h : part.hits) out.push_back({h.startQuarters, h.velocity, {}});
  for (const Note& n : part.notes) out.push_back({n.startQuarters, n.velocity, n.lengthQuarters});
  return out;
}

}  // namespace

Edit playLegato(const Part& part) {
  return {"play " + partWord(part) + " legato", [id = part.id](Session& s) {
            Part* p = s.part(id);
            if (!p || p->notes.empty()) return;
            auto& notes = p->notes;
            const double loop = s.track.loopQuarters();
            for (size_t i = 0; i < notes.size(); ++i) {
              const double next =
                  i + 1 < notes.size() ? notes[i + 1].startQuarters : loop + notes.front().startQuarters;
              if (notes[i].startQuarters < loop)
                notes[i].lengthQuarters = std::max(kShortestQuarters, next - notes[i].startQuarters);
            }
          }};
}

Edit shortenNotes(const Part& part, double byQuarters) {
  return onPart("shorten all " + partWord(part) + " notes", part.id, [byQuarters](Part& p) {
    for (Note& n : p.notes)
      n.lengthQuarters = std::max(std::min(n.lengthQuarters, kShortestQuarters), n.lengthQuarters - byQuarters);
  });
}

Edit varyRange(const PatternRange& range, double velocity, double ms, uint64_t seed) {
  return {"vary the pattern", [=](Session& s) {
            const double loop = s.track.loopQuarters(), quarters = ms * s.track.tempoBpm / 60000.0;
            for (Part& part : s.parts) {
              if (!range.has(part.id)) continue;
              // Each part by its own, so that another one beside it changes nothing.
              Noise noise(seed * 1000003 + static_cast<uint64_t>(part.id));
              varyVelocities(part.hits.own(), range, velocity, noise);
              varyVelocities(part.notes.own(), range, velocity, noise);
              varyStarts(part.hits.own(), range, quarters, loop, noise);
              varyStarts(part.notes.own(), range, quarters, loop, noise);
            }
          }};
}

Edit copyRhythm(const Part& from, const Part& to) {
  return {"give " + partWord(to) + " the rhythm of " + partWord(from),
          [source = from.id, target = to.id](Session& s) {
            const Part* one = s.part(source);
            Part* other = s.part(target);
            if (!one || !other || one == other) return;
            const std::vector<Event> events = eventsOf(*one);
            if (!other->playsNotes()) {
              other->hits.clear();
              for (const Event& e : events) other->hits.push_back({e.at, e.velocity});
              return;
            }
            const std::vector<Note> was = std::exchange(other->notes, {});
            constexpr double kHalfABeat = 0.5;
            for (size_t i = 0; i < events.size(); ++i) {
              const double next =
                  i + 1 < events.size() ? events[i + 1].at : s.track.loopQuarters() + events[0].at;
              Note n;
              n.startQuarters = events[i].at, n.velocity = events[i].velocity;
              n.lengthQuarters =
                  events[i].length.value_or(std::clamp(next - events[i].at, kShortestQuarters, kHalfABeat));
              n.midi = pitchAt(was, events[i].at).value_or(mainNote(*other, s.track));
              other->notes.push_back(n);
            }
          }};
}

Edit copyLayerRhythm(const Part& part, int from, int to) {
  return onPart("copy a layer's rhythm", part.id, [from, to](Part& p) {
    if (!p.layer(from) || !p.layer(to) || from == to) return;
    auto follow = [&](auto& events) {
      for (auto& e : events) {
        const bool rests = std::find(e.without.begin(), e.without.end(), from) != e.without.end();
        std::erase(e.without, to);
        if (rests) e.without.push_back(to);
      }
    };
    follow(p.hits), follow(p.notes);
  });
}

}  // namespace heft
