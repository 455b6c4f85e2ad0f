#pragma once
/// Fields of a ducking: what fires it, how it moves, in which band, what it lowers. Which there are hangs on
/// what it is.

#include <functional>
#include <vector>

#include "app/fields/value_fields.h"

namespace heft::app {

/// What a field of duckings needs from where it stands.
struct DuckDesk {
  Document& document;
  std::function<const Duck&()> duck;
  std::function<void()> askForSound, askForMidi;
};

/// In the order in which they stand. The same signature means the same fields.
std::vector<FieldSpec> duckFields(const DuckDesk& desk);
QString duckFieldsSignature(const Duck& duck);

/// Of all duckings together.
std::vector<FieldSpec> duckingBusFields(Document& document);

}  // namespace heft::app
