#pragma once
/// Fields of any two sounds against each other.

#include "app/fields/value_fields.h"
#include "app/stages/align/two_sounds_picture.h"

namespace heft::app {

/// The band in which the part of `judged` is compared with its partner.
FieldSpec alignBandField(Document& document, const OwnerNow& judged, const QString& name);

/// Rebuilt when another sound is moved, which calls `chosen`.
std::vector<FieldSpec> twoSoundsFields(Document& document, TwoSoundsPicture& picture,
                                       const std::function<void()>& chosen);

}  // namespace heft::app
