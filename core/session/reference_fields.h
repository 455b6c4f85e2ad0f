#pragma once
/// Every value of a reference and its sections (sound_fields.h).

#include "core/session/chain_fields.h"
#include "core/session/reference.h"

namespace heft {

std::string keyOrNone(const std::optional<Key>& key);  ///< "F minor", "none"
Result<std::optional<Key>> parseKeyOrNone(const std::string& text);

template <Is<Section> T, class F>
void eachOf(T& v, F& f) {
  f.text("name", v.name, kLongestName, Saved::WhenSet);
  f.number("from_s", v.fromSeconds, {0, kLongestReferenceSeconds, Unit::Seconds});
  f.number("to_s", v.toSeconds, {0, kLongestReferenceSeconds, Unit::Seconds});
  f.kept(v.unknown);
}

template <Is<Reference> T, class F>
void eachOf(T& v, F& f) {
  eachOfAsset(v.asset, f);
  f.flag("not_in_median", v.leftOut, Saved::WhenSet);
  f.list("sections", v.sections, kMostSections, Saved::WhenSet);
  f.whole("section", v.chosen, {0, kMostSections - 1});
  f.number("tempo_bpm", v.tempoBpm, {40, 240, Unit::Bpm});
  f.number("first_beat_s", v.firstBeatSeconds, {0, kLongestReferenceSeconds, Unit::Seconds});
  f.parsed("key", v.key, keyOrNone, parseKeyOrNone);
  f.kept(v.asset.unknown);
}

}  // namespace heft
