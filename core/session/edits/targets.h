#pragma once
/// Edits of the bands that are compared. Other targets are single values (values.h).

#include "core/session/edits/edit.h"

namespace heft {

/// Sets a band's tolerance and target; adds a band with other edges. One of kBands without either is as ever.
Edit setBandAim(const BandAim& aim, const std::string& mergeKey = {});
/// Gives an added band other edges, its tolerance and target kept; of one of kBands it adds a band.
Edit moveBandAim(const BandAim& from, const Band& to);
/// Removes an added band, or what was set for one of kBands.
Edit removeBandAim(const Band& band);

}  // namespace heft
