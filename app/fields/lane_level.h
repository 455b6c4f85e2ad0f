#pragma once
/// The level field at a lane's head.

#include "app/document/document.h"
#include "app/play/transport.h"
#include "app/widgets/value_field.h"

namespace heft::app {

/// Monitor level.
FieldSpec outputLevelField(Transport& transport);

/// Of a part by its id, or of the backing (kBackingLane): typed, dragged, wheeled; Delete is 0 dB.
FieldSpec laneLevelField(Document& document, int lane);

}  // namespace heft::app
