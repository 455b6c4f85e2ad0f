#pragma once
/// Edits of a recording that is split into strike and body, each a layer of its own. They do nothing where
/// the layer is gone, is not a recording, or the part plays notes.

#include "core/session/edits/edit.h"

namespace heft {

/// Whether it can be split: a recorded layer of a part that plays hits, whole, with room for one layer more.
bool canSplit(const Part& part, int layer);
/// The layer becomes the body, keeps its place, its processors and its target; its strike is a new layer behind
/// it, as bare as it was recorded, tuned and levelled as the layer was, and rests where that rests. The body
/// moves about the cut where it is first tuned later on (setLanding()).
Edit splitLayer(const Part& part, int layer, double atMs);
/// The sides of a cut as one sound again: the body's, with all that is done to it. A side whose other is gone
/// becomes whole. Either side may be named.
Edit joinSides(const Part& part, int layer);
/// Where both sides are cut and over how long they join.
Edit setCut(const Part& part, int layer, double atMs, double joinMs, const std::string& mergeKey = {});
/// The other side of that layer's cut; nothing where it is whole or the other is gone.
const Layer* otherSideOf(const Part& part, const Layer& layer);

}  // namespace heft
