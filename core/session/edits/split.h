#pragma once
/// Edits of a recording split into strike and body, each a layer of its own. They do nothing where the layer
/// is missing, is not a recording, or the part plays notes.

#include "core/session/edits/edit.h"

namespace heft {

/// Whether it can be split: an unsplit recorded layer of a part that plays hits, with room for one more
/// layer.
bool canSplit(const Part& part, int layer);
/// The layer becomes the body and keeps its place, processors and target. The strike is a new layer after it,
/// without processors, tuned and levelled like the layer, resting at the same hits. The body is shifted about
/// the cut once it is tuned (setLanding()).
Edit splitLayer(const Part& part, int layer, double atMs);
/// Joins the sides of a cut again, with the body's settings. A side without its other becomes whole. Either
/// side may be named.
Edit joinSides(const Part& part, int layer);
/// Sets where both sides are cut and how long their crossfade is.
Edit setCut(const Part& part, int layer, double atMs, double joinMs, const std::string& mergeKey = {});
/// The other side of that layer's cut; nothing where it is whole or the other is missing.
const Layer* otherSideOf(const Part& part, const Layer& layer);

}  // namespace heft
