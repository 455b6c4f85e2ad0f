#include "core/session/edits/events.h"

#include <algorithm>
#include <cmath>

#include "core/session/fields.h"
#include "core/session/pattern.h"

namespace heft {
namespace {

int heldMidi(int midi) {
  return static_cast<int>(rangeOf<Note>("midi").held(midi));
}

constexpr double kLeastVelocity = 0.02;

// Events are sorted by start.
template <class Event>
void insertInOrder(std::vector<Event>& events, const Event& event) {
  if (events.size() >= kMostHits) return;
  events.insert(
      std::upper_bound(events.begin(), events.end(), event,
                       [](const Event& a, const Event& b) { return a.startQuarters < b.startQuarters; }),
      event);
}

template <class Event>
void removeAt(std::vector<Event>& events, double at) {
  if (const Event* e = eventAt(events, at)) events.erase(events.begin() + (e - events.data()));
}

// The note that starts there, changed.
Edit onNote(const std::string& name, const Part& part, double at, std::function<void(Note&)> change,
            const std::string& mergeKey = {}) {
  return onPart(
      name, part.id,
      [at, change = std::move(change)](Part& p) {
        if (Note* n = eventAt(p.notes, at)) change(*n);
      },
      mergeKey);
}

std::optional<size_t> pointAt(const std::vector<WheelPoint>& wheel, double at) {
  for (size_t i = 0; i < wheel.size(); ++i)
    if (std::abs(wheel[i].quarters - at) < 1e-9) return i;
  return std::nullopt;
}

}  // namespace

Edit placeHit(const Part& part, const Hit& hit) {
  return onPart(
      "place " + partWord(part) + " hit", part.id, [hit](Part& p) { insertInOrder(p.hits.own(), hit); }, "hit");
}

Edit moveHit(const Part& part, double from, double to, const std::string& word) {
  return onPart(
      word + " " + partWord(part) + " hit", part.id,
      [from, to](Part& p) {
        const Hit* there = eventAt(p.hits, from);
        if (!there || eventAt(p.hits, to)) return;
        Hit moved = *there;
        moved.startQuarters = to;
        removeAt(p.hits.own(), from);
        insertInOrder(p.hits.own(), moved);
      },
      "hit");
}

Edit removeHit(const Part& part, double at) {
  return onPart("remove " + partWord(part) + " hit", part.id, [at](Part& p) { removeAt(p.hits.own(), at); });
}

Edit placeNote(const Part& part, const Note& note) {
  return onPart(
      "place " + partWord(part) + " note", part.id, [note](Part& p) { insertInOrder(p.notes.own(), note); },
      "note");
}

Edit moveNote(const Part& part, double from, double to, int midi) {
  return onPart(
      "move " + partWord(part) + " note", part.id,
      [from, to, midi](Part& p) {
        const Note* there = eventAt(p.notes, from);
        if (!there) return;
        Note moved = *there;
        moved.startQuarters = to, moved.midi = heldMidi(midi);
        removeAt(p.notes.own(), from);
        insertInOrder(p.notes.own(), moved);
      },
      "note");
}

Edit lengthenNote(const Part& part, double at, double lengthQuarters, const std::string& word,
                  const std::string& mergeKey) {
  return onNote(
      word + " " + partWord(part) + " note", part, at,
      [lengthQuarters](Note& n) { n.lengthQuarters = std::max(0.01, lengthQuarters); }, mergeKey);
}

Edit setNotePitch(const Part& part, double at, int midi, const std::string& mergeKey) {
  return onNote(
      "move " + partWord(part) + " note", part, at, [midi](Note& n) { n.midi = heldMidi(midi); }, mergeKey);
}

Edit toggleTie(const Part& part, double at) {
  const Note* there = eventAt(part.notes, at);
  const bool tied = there && there->tie;
  return onNote(std::string(tied ? "untie " : "tie ") + partWord(part) + " note", part, at,
                [](Note& n) { n.tie = !n.tie; });
}

Edit setDive(const Part& part, double at, const Dive& dive, const std::string& name,
             const std::string& mergeKey) {
  return onNote(
      name, part, at, [dive](Note& n) { n.dive = dive; }, mergeKey);
}

Edit diveBy(const Part& part, double at, double semitones) {
  return onNote("dive " + partWord(part) + " note", part, at, [semitones](Note& n) {
    n.dive = semitones == 0.0 ? Dive{} : Dive{semitones, 0.5 * n.lengthQuarters, 0.5 * n.lengthQuarters, 0.0};
  });
}

Edit removeNote(const Part& part, double at) {
  return onPart("remove " + partWord(part) + " note", part.id, [at](Part& p) { removeAt(p.notes.own(), at); });
}

Edit setVelocity(const Part& part, double at, double velocity, const std::string& mergeKey) {
  return onPart(
      part.playsNotes() ? "set note velocity" : "set hit velocity", part.id,
      [at, velocity](Part& p) {
        auto set = [&](auto& events) {
          if (auto* e = eventAt(events, at)) e->velocity = std::clamp(velocity, kLeastVelocity, 1.0);
        };
        p.playsNotes() ? set(p.notes) : set(p.hits);
      },
      mergeKey);
}

Edit toggleLayerAt(const Part& part, double at, int layerId) {
  return onPart("choose where layer plays", part.id, [at, layerId](Part& p) {
    auto toggle = [&](auto& events) {
      auto* e = eventAt(events, at);
      if (e && std::erase(e->without, layerId) == 0) e->without.push_back(layerId);
    };
    p.playsNotes() ? toggle(p.notes) : toggle(p.hits);
  });
}

Edit placeWheelPoint(const Part& part, double at, double value) {
  return onPart(
      "draw pitch wheel", part.id,
      [at, value](Part& p) {
        if (p.wheel.size() >= kMostWheelPoints) return;
        const WheelPoint fresh{std::max(0.0, at), rangeOf<WheelPoint>("value").held(value)};
        p.wheel.insert(
            std::upper_bound(p.wheel.begin(), p.wheel.end(), fresh,
                             [](const WheelPoint& a, const WheelPoint& b) { return a.quarters < b.quarters; }),
            fresh);
      },
      "wheel");
}

Edit moveWheelPoint(const Part& part, double from, double to, double value, double loopQuarters) {
  return onPart(
      "draw pitch wheel", part.id,
      [=](Part& p) {
        const auto found = pointAt(p.wheel, from);
        if (!found) return;
        const size_t i = *found;
        const double low = i == 0 ? 0.0 : p.wheel[i - 1].quarters + 0.001,
                     high = i + 1 < p.wheel.size() ? p.wheel[i + 1].quarters - 0.001 : loopQuarters;
        p.wheel[i].quarters = std::clamp(to, low, std::max(low, high));
        p.wheel[i].value = rangeOf<WheelPoint>("value").held(value);
      },
      "wheel");
}

Edit removeWheelPoint(const Part& part, double at) {
  return onPart("remove point of the pitch wheel", part.id, [at](Part& p) {
    if (const auto i = pointAt(p.wheel, at)) p.wheel.erase(p.wheel.begin() + static_cast<ptrdiff_t>(*i));
  });
}

Edit clearWheel(const Part& part) {
  return onPart("clear pitch wheel", part.id, [](Part& p) { p.wheel.clear(); });
}

Edit setWheelRange(const Part& part, double semitones) {
  return onPart("set pitch wheel's range", part.id,
                [semitones](Part& p) { p.wheelRange = rangeOf<Part>("wheel_range").held(semitones); });
}

}  // namespace heft
