#pragma once
/// Edits of the processors of a layer, a part or the sum. `of` names their owner (value_at.h, chainOf), an id
/// the processor. They do nothing where either is gone, or where a chain is full.

#include "core/session/edits/edit.h"
#include "core/session/value_at.h"

namespace heft {

/// One as it comes, or that one, behind the one with that id, else at its usual place.
Edit addProcessor(const Owner& of, const Processor& processor, std::optional<int> behind = {});
Edit removeProcessor(const Owner& of, int id);
/// The same again behind itself.
Edit duplicateProcessor(const Owner& of, int id);
/// By that many positions, clamped to the list.
Edit moveProcessor(const Owner& of, int id, int places);
/// To that place of another chain, or of its own, counted without it. Where the other is full it stays.
Edit moveProcessorTo(const Owner& from, int id, const Owner& to, size_t place);
Edit switchProcessor(const Owner& of, int id, bool on);
/// Every processor of that kind off, in all layers, parts and the sum: "No EQs".
Edit withoutKind(size_t kind);
/// Another in its place, under its id: a preset that is flipped through is one step.
Edit putProcessor(const Owner& of, int id, const Processor& instead, const std::string& name,
                  const std::string& mergeKey = {});
/// All of them out or in.
Edit switchChain(const Owner& of, bool on);
Edit putChain(const Owner& of, const Chain& chain, const std::string& name, const std::string& mergeKey = {});

/// The sound of a body's impulse response; also switches the body on.
Edit placeBody(const Owner& of, int id, const AssetRef& sound);

}  // namespace heft
