#pragma once
/// Edits of the processors of a layer, a part or the sum. `of` names their owner (value_at.h, chainOf), an id
/// the processor. They do nothing where either is missing or a chain is full.

#include "core/session/edits/edit.h"
#include "core/session/value_at.h"

namespace heft {

/// Adds a new processor of a kind, or the given one, after the one with that id, else at its default
/// position.
Edit addProcessor(const Owner& of, const Processor& processor, std::optional<int> behind = {});
Edit removeProcessor(const Owner& of, int id);
/// Duplicates a processor right after it.
Edit duplicateProcessor(const Owner& of, int id);
/// By that many positions, clamped to the list.
Edit moveProcessor(const Owner& of, int id, int places);
/// Moves it to that index of another chain, or of its own, counted without it. If the other is full it stays.
Edit moveProcessorTo(const Owner& from, int id, const Owner& to, size_t place);
Edit switchProcessor(const Owner& of, int id, bool on);
/// Switches off every processor of that kind, in all layers, parts and the sum: "No EQs".
Edit withoutKind(size_t kind);
/// Replaces a processor under the same id; stepping through presets is one edit.
Edit putProcessor(const Owner& of, int id, const Processor& instead, const std::string& name,
                  const std::string& mergeKey = {});
/// Bypasses all of them, or not.
Edit switchChain(const Owner& of, bool on);
Edit putChain(const Owner& of, const Chain& chain, const std::string& name, const std::string& mergeKey = {});

/// The sound of a body's impulse response; also switches the body on.
Edit placeBody(const Owner& of, int id, const AssetRef& sound);

}  // namespace heft
