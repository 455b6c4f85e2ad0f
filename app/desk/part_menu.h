#pragma once
/// What can be done to a part: rename, reorder, duplicate, bounce, remove.

#include <QMenu>

#include "app/desk/layer_choice.h"

namespace heft::app {

/// Adds a part and selects it.
void addPartTo(LayerChoice& choice);
/// Fills the menu of the selected part and its chosen layer. `over`: parent of its dialogs.
void fillPartMenu(QMenu& menu, LayerChoice& choice, QWidget* over);

}  // namespace heft::app
