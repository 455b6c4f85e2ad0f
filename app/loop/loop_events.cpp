// Editing hits and notes: placing, moving, resizing, velocity.

#include <algorithm>
#include <cmath>

#include "app/loop/loop_strip.h"
#include "core/session/edits/events.h"

namespace heft::app {
namespace {

constexpr double kPixelsPerSemitone = 5.0;

}  // namespace

const Hit* LoopStrip::hitAt(const Part& part, double quarters, bool free) const {
  const double at = snapped(quarters, free);
  const auto same = std::find_if(part.hits.begin(), part.hits.end(), [&](const Hit& h) {
    return free ? std::abs(h.startQuarters - at) < 0.03
                : h.startQuarters >= at - 1e-6 && h.startQuarters < after(at) - 1e-6;
  });
  return same == part.hits.end() ? nullptr : &*same;
}

const Note* LoopStrip::noteAt(const Part& part, double quarters) const {
  for (const Note& n : part.notes)
    if (quarters >= n.startQuarters && quarters < n.endQuarters()) return &n;
  return nullptr;
}

bool LoopStrip::gripsEnd(const Note& n, double x) const {
  const double end = timeAxis().pixel(n.endQuarters()), start = timeAxis().pixel(n.startQuarters);
  return end - x < std::min(8.0, 0.35 * (end - start));
}

// Places a hit, or selects an existing one and starts dragging it; a second click removes it.
void LoopStrip::pressHit(const Part& part, double quarters, bool free) {
  const Hit* there = hitAt(part, quarters, free);
  dragged_ = false;
  grip_ = there ? Grip::Hit : Grip::NewHit;
  const double start = there ? there->startQuarters : snapped(quarters, free);
  const Chosen pressed{part.id, start};
  wasChosen_ = hit_ == pressed;
  hit_ = pressed;
  gripOffset_ = quarters - start;
  if (!there) document_.edit(placeHit(part, Hit{start, 1.0}));
  chooseHitBefore(start);
}

void LoopStrip::dragHit(double quarters, bool free) {
  if (!chosenHit()) return;
  const double was = hit_->at, wanted = quarters - gripOffset_;
  // If off the grid before, it keeps its place until the pointer leaves it.
  if (!dragged_ && std::abs(wanted - was) < 0.5 * division() && !free) return;
  const double to = free ? std::clamp(wanted, 0.0, document_.track().loopQuarters() - 0.01)
                         : snapped(nearestLine(session().grid, std::max(0.0, wanted)), false);
  if (eventAt(hand().hits, to)) return;
  dragged_ = true;
  hit_->at = to;
  document_.edit(moveHit(hand(), was, to, grip_ == Grip::NewHit ? "place" : "move"));
}

void LoopStrip::pressNote(const Part& part, double quarters, double x, bool free) {
  if (const Note* n = noteAt(part, quarters)) {
    note_ = Chosen{part.id, n->startQuarters};
    grip_ = gripsEnd(*n, x) ? Grip::End : Grip::Move;
    gripOffset_ = quarters - n->startQuarters;
    gripMidi_ = n->midi;
    chooseHitBefore(n->startQuarters);
    update();
    return;
  }
  // A new note takes the pitch of the one before it, else the low tonic.
  const double at = snapped(quarters, free);
  int midi = lowTonic(document_.track().key);
  for (const Note& n : part.notes)
    if (n.startQuarters < at) midi = n.midi;
  note_ = Chosen{part.id, at};
  grip_ = Grip::New;
  document_.edit(placeNote(part, Note{at, after(at) - at, midi, 0.8}));
}

// Sideways in time, up and down in pitch.
void LoopStrip::dragNote(const QPointF& at, double quarters, bool free) {
  const Note* n = chosenNote();
  if (!n) return;
  const double loop = document_.track().loopQuarters(), start = n->startQuarters;
  if (grip_ != Grip::Move) {
    const double end = free ? quarters : after(std::max(start, quarters - 0.2 * division()));
    const double length = std::clamp(end - start, free ? 0.05 : 0.5 * division(), loop);
    if (length != n->lengthQuarters)
      document_.edit(lengthenNote(hand(), start, length, grip_ == Grip::New ? "place" : "lengthen"));
    return;
  }
  double to = std::clamp(
      free ? quarters - gripOffset_ : nearestLine(session().grid, std::max(0.0, quarters - gripOffset_)), 0.0,
      std::max(0.0, loop - 0.05));
  const int midi =
      std::clamp(gripMidi_ + static_cast<int>(std::lround((gripY_ - at.y()) / kPixelsPerSemitone)), 0, 127);
  // A horizontal drag keeps the pitch, a vertical one the time.
  if (std::abs(at.x() - pressX_) < 4.0) to = start;
  if ((to == start && midi == n->midi) || (to != start && eventAt(hand().notes, to))) return;
  note_->at = to;
  document_.edit(moveNote(hand(), start, to, midi));
}

void LoopStrip::pressVelocity(const Part& part, const QPointF& at, double quarters) {
  auto take = [&](std::optional<Chosen>& chosen, const auto* event) {
    if (!event) return;
    gripY_ = at.y();
    grip_ = Grip::Velocity;
    chosen = Chosen{part.id, event->startQuarters}, gripVelocity_ = event->velocity;
  };
  part.playsNotes() ? take(note_, noteAt(part, quarters)) : take(hit_, hitAt(part, quarters, false));
}

// Up is louder, over the whole height of the lane.
void LoopStrip::dragVelocity(double y) {
  const Part& part = hand();
  const auto& chosen = part.playsNotes() ? note_ : hit_;
  if (chosen)
    document_.edit(setVelocity(part, chosen->at, gripVelocity_ + (gripY_ - y) / (1.5 * boxOf(part).height())));
}

void LoopStrip::toggleLayer(const Part& part, double quarters) {
  const std::optional<int> layer = chosenLayer_ ? chosenLayer_(part.id) : std::nullopt;
  const Note* n = part.playsNotes() ? noteAt(part, quarters) : nullptr;
  const Hit* h = part.playsNotes() ? nullptr : hitAt(part, quarters, false);
  if (layer && (n || h)) document_.edit(toggleLayerAt(part, n ? n->startQuarters : h->startQuarters, *layer));
}

}  // namespace heft::app
