#pragma once
/// The words for every value of a layer's sound and of a finish, as fields show them. Keys are below the object
/// that each list is of.

#include "app/fields/value_fields.h"

namespace heft::app {

std::vector<FieldWords> driveWords();
std::vector<FieldWords> kickVoiceWords();  ///< without its landing, its length and where its fall starts
std::vector<FieldWords> strikeWords();     ///< of a built kick: strike and noise
std::vector<FieldWords> bassVoiceWords();
std::vector<FieldWords> bassBandsWords();
/// Of a kind of processor, by its place in Processor::What; a body's without its sound. Keys below the
/// processor.
std::vector<FieldWords> processorWords(size_t kind);
/// Of Tune, of a recorded layer.
std::vector<FieldWords> tuningWords();

}  // namespace heft::app
