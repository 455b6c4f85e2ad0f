#pragma once
/// Fields of a ducking: trigger, movement, band, target. The set depends on its settings.

#include <functional>
#include <vector>

#include "app/fields/value_fields.h"

namespace heft::app {

/// What a ducking's fields need from their page.
struct DuckDesk {
  Document& document;
  std::function<const Duck&()> duck;
  std::function<void()> askForSound, askForMidi;
};

/// In display order. The same signature means the same fields.
std::vector<FieldSpec> duckFields(const DuckDesk& desk);
QString duckFieldsSignature(const Duck& duck);

/// Of all duckings together.
std::vector<FieldSpec> duckingBusFields(Document& document);

}  // namespace heft::app
