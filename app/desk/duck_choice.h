#pragma once
/// The selected ducking.

#include "app/desk/duck_words.h"
#include "app/desk/selection.h"

namespace heft::app {

/// The selected one; if missing, the pair's.
inline const Duck& chosenDuck(const Document& document, const Selection& selection) {
  const Duck* chosen = document.session().duck(selection.duck());
  return chosen ? *chosen : document.session().duck();
}

}  // namespace heft::app
