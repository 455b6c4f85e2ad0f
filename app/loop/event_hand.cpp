#include "app/loop/event_hand.h"

#include <algorithm>
#include <cmath>

#include "core/session/edits/events.h"

namespace heft::app {

const Hit* EventHand::hit() const {
  const Part* part = hit_ ? session().part(hit_->part) : nullptr;
  return part ? eventAt(part->hits, hit_->at) : nullptr;
}

const Note* EventHand::note() const {
  const Part* part = note_ ? session().part(note_->part) : nullptr;
  return part ? eventAt(part->notes, note_->at) : nullptr;
}

void EventHand::chooseNote(const Part& part, const Note* note) {
  note_ = note ? std::optional(Chosen{part.id, note->startQuarters}) : std::nullopt;
}

double EventHand::snapped(double quarters, bool free) const {
  const double loop = document_.track().loopQuarters();
  if (free) return std::clamp(quarters, 0.0, loop - 0.01);
  const double most = lineBefore(session().grid, loop - 1e-4);
  return std::clamp(lineBefore(session().grid, quarters), 0.0, most);
}

const Hit* EventHand::hitAt(const Part& part, double quarters, bool free) const {
  const double at = snapped(quarters, free);
  const auto same = std::find_if(part.hits.begin(), part.hits.end(), [&](const Hit& h) {
    return free ? std::abs(h.startQuarters - at) < 0.03
                : h.startQuarters >= at - 1e-6 && h.startQuarters < after(at) - 1e-6;
  });
  return same == part.hits.end() ? nullptr : &*same;
}

const Note* EventHand::noteAt(const Part& part, double quarters) {
  for (const Note& n : part.notes)
    if (quarters >= n.startQuarters && quarters < n.endQuarters()) return &n;
  return nullptr;
}

bool EventHand::gripsEnd(const Note& n, double x, const Axis& time) {
  const double end = time.pixel(n.endQuarters()), start = time.pixel(n.startQuarters);
  return end - x < std::min(8.0, 0.35 * (end - start));
}

void EventHand::press(const Part& part, const QPointF& at, const Axis& time, bool free) {
  const double quarters = time.value(at.x());
  pressed_ = at, held_ = part.id;
  part.playsNotes() ? pressNote(part, quarters, at.x(), time, free) : pressHit(part, quarters, free);
}

void EventHand::pressHit(const Part& part, double quarters, bool free) {
  const Hit* there = hitAt(part, quarters, free);
  dragged_ = false;
  grip_ = there ? Grip::Hit : Grip::NewHit;
  const double start = there ? there->startQuarters : snapped(quarters, free);
  const Chosen pressed{part.id, start};
  wasChosen_ = hit_ == pressed;
  hit_ = pressed;
  offset_ = quarters - start;
  if (!there) document_.edit(placeHit(part, Hit{start, 1.0}));
  near_(start);
}

void EventHand::pressNote(const Part& part, double quarters, double x, const Axis& time, bool free) {
  if (const Note* n = noteAt(part, quarters)) {
    note_ = Chosen{part.id, n->startQuarters};
    grip_ = gripsEnd(*n, x, time) ? Grip::End : Grip::Move;
    offset_ = quarters - n->startQuarters, midi_ = n->midi;
    return near_(n->startQuarters);
  }
  // A new note takes the pitch of the one before it, else the low tonic.
  const double at = snapped(quarters, free);
  int midi = lowTonic(document_.track().key);
  for (const Note& n : part.notes)
    if (n.startQuarters < at) midi = n.midi;
  note_ = Chosen{part.id, at};
  grip_ = Grip::NewNote;
  document_.edit(placeNote(part, Note{at, after(at) - at, midi, 0.8}));
}

void EventHand::pressVelocity(const Part& part, const QPointF& at, const Axis& time) {
  pressed_ = at, held_ = part.id;
  auto take = [&](std::optional<Chosen>& chosen, const auto* event) {
    if (!event) return;
    grip_ = Grip::Velocity;
    chosen = Chosen{part.id, event->startQuarters}, velocity_ = event->velocity;
  };
  const double quarters = time.value(at.x());
  part.playsNotes() ? take(note_, noteAt(part, quarters)) : take(hit_, hitAt(part, quarters, false));
}

void EventHand::drag(const QPointF& at, const Axis& time, const LaneRows& rows, bool free) {
  const Part* part = session().part(held_);
  if (!part) return;
  const double quarters = time.value(at.x());
  if (grip_ == Grip::Hit || grip_ == Grip::NewHit) return dragHit(*part, quarters, free);
  if (grip_ != Grip::Velocity) return dragNote(*part, at, quarters, free);
  const auto& chosen = part->playsNotes() ? note_ : hit_;
  const double by = (pressed_.y() - at.y()) / (1.5 * rows.box(*part).height());
  if (chosen) document_.edit(setVelocity(*part, chosen->at, velocity_ + by));
}

void EventHand::dragHit(const Part& part, double quarters, bool free) {
  if (!hit()) return;
  const double was = hit_->at, wanted = quarters - offset_;
  // If off the grid before, it keeps its place until the pointer leaves it.
  if (!dragged_ && std::abs(wanted - was) < 0.5 * division() && !free) return;
  const double to = free ? std::clamp(wanted, 0.0, document_.track().loopQuarters() - 0.01)
                         : snapped(nearestLine(session().grid, std::max(0.0, wanted)), false);
  if (eventAt(part.hits, to)) return;
  dragged_ = true;
  hit_->at = to;
  document_.edit(moveHit(part, was, to, grip_ == Grip::NewHit ? "place" : "move"));
}

// Sideways in time, up and down in pitch.
void EventHand::dragNote(const Part& part, const QPointF& at, double quarters, bool free) {
  constexpr double kPixelsPerSemitone = 5.0;
  const Note* n = note();
  if (!n) return;
  const double loop = document_.track().loopQuarters(), start = n->startQuarters;
  if (grip_ != Grip::Move) {
    const double end = free ? quarters : after(std::max(start, quarters - 0.2 * division()));
    const double length = std::clamp(end - start, free ? 0.05 : 0.5 * division(), loop);
    if (length != n->lengthQuarters)
      document_.edit(lengthenNote(part, start, length, grip_ == Grip::NewNote ? "place" : "lengthen"));
    return;
  }
  double to =
      std::clamp(free ? quarters - offset_ : nearestLine(session().grid, std::max(0.0, quarters - offset_)),
                 0.0, std::max(0.0, loop - 0.05));
  const int semitones = static_cast<int>(std::lround((pressed_.y() - at.y()) / kPixelsPerSemitone));
  const int midi = std::clamp(midi_ + semitones, 0, 127);
  // A horizontal drag keeps the pitch, a vertical one the time.
  if (std::abs(at.x() - pressed_.x()) < 4.0) to = start;
  if ((to == start && midi == n->midi) || (to != start && eventAt(part.notes, to))) return;
  note_->at = to;
  document_.edit(moveNote(part, start, to, midi));
}

void EventHand::release() {
  const Part* part = session().part(held_);
  if (grip_ == Grip::Hit && !dragged_ && wasChosen_ && hit_ && part) {
    document_.edit(removeHit(*part, hit_->at));
    hit_.reset();
  }
  grip_ = Grip::None;
}

}  // namespace heft::app
