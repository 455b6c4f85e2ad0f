#pragma once
/// The words for every value of a layer's sound and of a finish, as fields show them. Keys are below the object
/// that each list is of.

#include "app/fields/value_fields.h"

namespace heft::app {

std::vector<FieldWords> driveWords();
std::vector<FieldWords> eqWords();
std::vector<FieldWords> kickVoiceWords();  ///< without its landing, its length and where its fall starts
std::vector<FieldWords> strikeWords();     ///< of a built kick: strike and noise
std::vector<FieldWords> bassVoiceWords();
std::vector<FieldWords> bassBandsWords();
std::vector<FieldWords> shapeWords();   ///< of a layer's shape: strike and sustain, envelope
std::vector<FieldWords> spaceWords();   ///< of a layer's shape: body and room, without the body's sound
std::vector<FieldWords> finishWords();  ///< without EQ, drive and width
/// Of Tune, of a recorded layer.
std::vector<FieldWords> tuningWords();

}  // namespace heft::app
