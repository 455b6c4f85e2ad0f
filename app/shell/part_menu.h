#pragma once
/// What can be done to a part: named, ordered, duplicated, bounced, taken away.

#include <QMenu>

#include "app/stages/layer_choice.h"

namespace heft::app {

/// Another part, chosen.
void addPartTo(LayerChoice& choice);
/// Fills a menu for the part that is looked at, and its chosen layer. `over`: what a dialog stands over.
void fillPartMenu(QMenu& menu, LayerChoice& choice, QWidget* over);

}  // namespace heft::app
