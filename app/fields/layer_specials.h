#pragma once
/// Fields of the chosen layer that are more than a value: lengths and what they fall back on, figures beside
/// them, choices that a key gives.

#include "app/fields/value_fields.h"
#include "app/stages/layer_choice.h"
#include "app/widgets/value_field.h"

namespace heft::app {

FieldSpec lengthField(LayerChoice& choice);
/// All of a built kick longer or shorter, its fall too.
FieldSpec wholeLengthField(LayerChoice& choice);
/// How loud the track is listened to; how even the bass line is heard, evened or left as it was by choice.
FieldSpec listeningField(Document& document);
FieldSpec evenLineField(Document& document);
/// Note values to set a part's length to, the gap to the next bass note among them: all layers that ring past
/// it.
FieldSpec setLengthField(LayerChoice& choice);
/// After which the kick is no louder than what plays beside it, below 150 Hz, at the hit where it is heard
/// longest.
FieldSpec audibleField(LayerChoice& choice);
/// How long the kick's tail is to be.
FieldSpec tailTargetField(Document& document);
/// The part's tail as it is measured.
FieldSpec tailField(LayerChoice& choice);
/// On which hits or notes the layer plays.
FieldSpec playsOnField(LayerChoice& choice);
/// The sound that a body is made from.
FieldSpec bodyField(LayerChoice& choice, const std::function<void()>& loadBody);
/// Whether the recording plays whole or as strike and body, where it is cut, over how long the sides join, and
/// how they meet.
FieldSpec splitField(LayerChoice& choice);
FieldSpec cutField(LayerChoice& choice, const OwnerNow& owner);
FieldSpec joinField(LayerChoice& choice, const OwnerNow& owner);
FieldSpec jointField(LayerChoice& choice);
/// Notes of the key on which a built kick's fall could start.
FieldSpec startOnField(LayerChoice& choice);

}  // namespace heft::app
