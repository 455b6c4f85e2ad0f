#pragma once
/// Fields of the chosen layer that are more than a value: lengths with their defaults, figures beside them,
/// choices by key.

#include "app/desk/layer_choice.h"
#include "app/fields/value_fields.h"
#include "app/widgets/value_field.h"

namespace heft::app {

FieldSpec lengthField(LayerChoice& choice);
/// Length of a built kick as a whole, its fall included.
FieldSpec wholeLengthField(LayerChoice& choice);
/// The listening level; the bass line's evenness, evened or intended.
FieldSpec listeningField(Document& document);
FieldSpec evenLineField(Document& document);
/// Note values for a part's length, the gap to the next bass note among them: trims all layers that ring
/// longer.
FieldSpec setLengthField(LayerChoice& choice);
/// When the kick falls below everything else below 150 Hz, at its longest hit.
FieldSpec audibleField(LayerChoice& choice);
/// Target length of the kick's tail.
FieldSpec tailTargetField(Document& document);
/// The part's measured tail.
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
