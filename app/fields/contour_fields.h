#pragma once
/// Fields of the contour of a part's notes.

#include "app/desk/layer_choice.h"
#include "app/fields/value_fields.h"

namespace heft::app {

std::vector<FieldSpec> contourFields(LayerChoice& choice);

}  // namespace heft::app
