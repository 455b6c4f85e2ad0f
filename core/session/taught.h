#pragma once
/// MIDI learn: values that a MIDI controller or a wheel controls. Saved in the session, like the values.

#include <string>

#include "core/result.h"
#include "core/session/asset_ref.h"
#include "core/session/owner.h"

namespace heft {

inline constexpr size_t kMostTaught = 128;

/// The control.
struct Control {
  enum class Kind { Controller, PitchWheel, MouseWheel };
  Kind kind = Kind::MouseWheel;
  int channel = 1;  ///< 1 to 16; of MIDI
  int number = 0;   ///< 0 to 119; of controllers
  bool operator==(const Control&) const = default;
};

/// "controller 21 channel 1", "pitch wheel channel 1", "mouse wheel".
std::string controlName(const Control& control);
Result<Control> parseControl(const std::string& text);

/// "session", "duck 1", "part 1", "part 1 layer 2", "part 1 layer 2 processor 3", "processor 3" (of the sum).
std::string ownerName(const Owner& owner);
/// Ids are 1 to kHighestId.
Result<Owner> parseOwner(const std::string& text);

struct Taught {
  Control by;
  Owner owner;
  std::string key;             ///< of value_at.h
  std::string switchKey = {};  ///< a switch that turns on with it; empty: none
  std::string name = {};       ///< as the window calls the value
  Unknown unknown = {};
  bool operator==(const Taught&) const = default;
};

}  // namespace heft
