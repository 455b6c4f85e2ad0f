#pragma once
/// Modifiers of the hands in the loop strip.

#include <Qt>

namespace heft::app {

/// Off the grid: Alt, or Ctrl and Shift together, for several window managers take Alt for themselves.
inline bool isFree(Qt::KeyboardModifiers modifiers) {
  const Qt::KeyboardModifiers both = Qt::ControlModifier | Qt::ShiftModifier;
  return (modifiers & Qt::AltModifier) || (modifiers & both) == both;
}

}  // namespace heft::app
