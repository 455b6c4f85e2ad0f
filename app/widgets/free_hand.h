#pragma once
/// Keys that disable snapping during a drag.

#include <Qt>

namespace heft::app {

/// Alt, or Ctrl+Shift: several window managers keep Alt with the mouse for themselves.
inline bool isFree(Qt::KeyboardModifiers held) {
  constexpr auto kBoth = Qt::ControlModifier | Qt::ShiftModifier;
  return held.testFlag(Qt::AltModifier) || (held & kBoth) == kBoth;
}

}  // namespace heft::app
