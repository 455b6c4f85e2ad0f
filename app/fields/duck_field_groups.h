#pragma once
/// The fields of a ducking, group by group. Used by duck_fields.cpp.

#include "app/fields/duck_fields.h"

namespace heft::app {

using Specs = std::vector<FieldSpec>;

OwnerNow ownerOf(const DuckDesk& desk);
/// A value of the ducking by its words alone.
FieldSpec plainField(const DuckDesk& desk, const FieldWords& words);
/// Words for the values of a choice.
std::vector<WordFor> wordsFor(std::initializer_list<std::pair<const char*, const char*>> words);

void addDuckSource(Specs& out, const DuckDesk& desk);
void addDuckMovement(Specs& out, const DuckDesk& desk);
void addDuckBand(Specs& out, const DuckDesk& desk);

}  // namespace heft::app
