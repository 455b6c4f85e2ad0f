#pragma once
/// The hand on hits and notes in a lane of the loop strip: placing, choosing, moving, lengthening, velocity.

#include <functional>
#include <optional>

#include "app/document/document.h"
#include "app/loop/lane_rows.h"
#include "app/pictures/axis.h"
#include "core/session/pattern.h"

namespace heft::app {

class EventHand {
 public:
  /// `near` is told the moment of what is pressed: the stages show the hit before it.
  EventHand(Document& document, std::function<void(double quarters)> near)
      : document_(document), near_(std::move(near)) {}

  /// The selected hit and note; nullptr without one. Valid until the next edit.
  const Hit* hit() const;
  const Note* note() const;
  /// Of that part, else nullptr.
  const Hit* hitOf(const Part& part) const { return hit_ && hit_->part == part.id ? hit() : nullptr; }
  const Note* noteOf(const Part& part) const { return note_ && note_->part == part.id ? note() : nullptr; }
  void chooseHit(const Part& part, double at) { hit_ = Chosen{part.id, at}; }
  void chooseNote(const Part& part, const Note* note);
  void forget() { hit_.reset(), note_.reset(); }

  /// On the grid's line before it, within the loop or song; anywhere where `free`.
  double snapped(double quarters, bool free) const;
  double division() const { return document_.session().grid.division.quarters(); }  ///< quarters
  double after(double quarters) const { return lineAfter(document_.session().grid, quarters); }
  const Hit* hitAt(const Part& part, double quarters, bool free) const;
  static const Note* noteAt(const Part& part, double quarters);
  /// Whether a press there would drag the note's end.
  static bool gripsEnd(const Note& note, double x, const Axis& time);

  /// Places a hit, or selects an existing one and starts dragging it; a second click removes it. Likewise a
  /// note, whose end is dragged near its end; a second click keeps it.
  void press(const Part& part, const QPointF& at, const Axis& time, bool free);
  void pressVelocity(const Part& part, const QPointF& at, const Axis& time);
  /// Up is louder, over the whole height of the lane.
  void drag(const QPointF& at, const Axis& time, const LaneRows& rows, bool free);
  void release();
  bool isHeld() const { return grip_ != Grip::None; }
  /// Ends it as keys do, which drag nothing.
  void letGo() { grip_ = Grip::None; }

 private:
  enum class Grip { None, Hit, NewHit, Move, End, NewNote, Velocity };
  struct Chosen {
    int part = 0;
    double at = 0.0;  ///< quarters at which it starts
    bool operator==(const Chosen&) const = default;
  };
  const Session& session() const { return document_.session(); }
  void pressHit(const Part& part, double quarters, bool free);
  void pressNote(const Part& part, double quarters, double x, const Axis& time, bool free);
  void dragHit(const Part& part, double quarters, bool free);
  void dragNote(const Part& part, const QPointF& at, double quarters, bool free);

  Document& document_;
  std::function<void(double)> near_;
  Grip grip_ = Grip::None;
  std::optional<Chosen> hit_, note_;
  int held_ = 0;  ///< the part that is pressed
  QPointF pressed_;
  double offset_ = 0.0;    ///< quarters from the dragged one's start to the pointer
  double velocity_ = 0.0;  ///< at the start of the drag
  int midi_ = 33;
  bool dragged_ = false, wasChosen_ = false;  ///< whether it has moved; whether it was chosen before the press
};

}  // namespace heft::app
