#pragma once
/// Fields of Tune that are more than a value: the landing and its confidence, the bass's root, the shift.

#include "app/document/document.h"
#include "app/widgets/value_field.h"
#include "core/session/value_at.h"

namespace heft::app {

/// The kick's first layer, or nothing.
std::optional<Owner> kickLayer(const Document& document);

FieldSpec landingTargetField(Document& document);
FieldSpec shiftField(Document& document);  ///< how far the kick is shifted
FieldSpec landingByHandField(Document& document);
FieldSpec searchBandField(Document& document);
FieldSpec bassRootField(Document& document);
/// For a part beside the pair that plays hits: the note it sounds on, and those of the key to choose from.
FieldSpec partPitchField(Document& document, int part);

}  // namespace heft::app
