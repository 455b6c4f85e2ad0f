#pragma once
/// Fields of any two sounds against each other.

#include "app/fields/value_fields.h"
#include "app/stages/two_sounds_picture.h"

namespace heft::app {

/// Made anew where another sound is moved: `chosen` is called then.
std::vector<FieldSpec> twoSoundsFields(Document& document, TwoSoundsPicture& picture,
                                       const std::function<void()>& chosen);

}  // namespace heft::app
