#pragma once
/// Fields of the contour of a part's notes.

#include "app/fields/value_fields.h"
#include "app/stages/layer_choice.h"

namespace heft::app {

std::vector<FieldSpec> contourFields(LayerChoice& choice);

}  // namespace heft::app
