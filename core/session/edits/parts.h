#pragma once
/// Edits of the list of parts, and of a part's layers and versions.

#include "core/session/edits/edit.h"

namespace heft {

/// Adds a part at the end of the list, without layers; nothing at kMostParts. `id`: its id, freshPartId().
Edit addPart(int id, const std::string& name, Plays plays);
/// An id that no part has.
int freshPartId(const Session& session);
/// "Part 3": a name that no part has.
std::string freshPartName(const Session& session);
/// Removes a part with its duckings. The first kick and the first bass stay: the window is about them.
Edit removePart(const Session& session, int part);
bool canRemove(const Session& session, int part);
Edit renamePart(const Part& part, const std::string& name);
/// Moves a part up the list (negative) or down.
Edit movePart(const Part& part, int way);
/// Duplicates a part after it; the copy of a kick or a bass becomes another part that plays the same way.
Edit duplicatePart(const Part& part, int id);
Edit setPartLevel(const Part& part, double levelDb, const std::string& mergeKey = "part level");
/// Makes a part other than kick and bass play hits or notes: clears its pattern and removes layers that
/// cannot play that way.
Edit setPlays(const Part& part, Plays plays);
/// Tunes the part to land there, given that it lands on `fromMidi` now: by its layer's target (of a split one
/// its body's), or with several audible layers by varispeed on all, so that they stay together.
Edit tunePart(const Part& part, double fromMidi, int midi, const NoteStyle& style);
/// Tunes one of its layers to land there; the others stay.
Edit tuneLayer(const Part& part, int layer, int midi, const NoteStyle& style);
/// Resets all of its layers to their recorded pitch.
Edit takeBackShifts(const Part& part);
/// Plays its first layer from the measured note, overriding a typed one, and lets it follow its notes.
Edit playFromMeasured(const Part& part);
/// Shifts its first layer by varispeed, on top of its shift.
Edit shiftFirstLayer(const Part& part, double semitones);
/// Shifts all of its layers by varispeed, on top of their shifts.
Edit shiftLayers(const Part& part, double semitones);
/// Trims its tail to that length, in all layers that ring longer (setTail()).
Edit trimPart(const Part& part, const TimeValue& length);
/// Likewise, scaling the falls of built layers, which then land that much sooner.
Edit shortenPart(const Part& part, const TimeValue& length);
/// Untrims every recording of every part: "No lengths".
Edit withoutLengths();
/// Limits the releases of its built voices and of its contour to that time.
Edit shortenReleases(const Part& part, double mostMs);
/// Unmutes all of its layers.
Edit unmutePart(const Part& part);
/// Drives its first layer by at least that much, at least half of it mixed in.
Edit driveFirstLayer(const Part& part, double driveDb);
/// Sets boosts at that frequency, of its layers and its finish, to zero.
Edit takeBackBoosts(const Part& part, double hz);
/// Through its finish: to mono, or a low cut, from at least that frequency.
Edit makeMono(const Part& part);
Edit cutPartLows(const Part& part, double hz);
Edit setFinishOver(const Part& part, FinishOver over);

/// Versions, by index (versions.h): switch, add a copy, remove, rename.
Edit playVersion(const Part& part, size_t index);
Edit makeVersion(const Part& part, const std::string& name);
Edit dropVersion(const Part& part, size_t index);
Edit nameVersion(const Part& part, size_t index, const std::string& name);

/// The layer of a part that a sound goes to.
struct SoundPlace {
  enum class At { First, New, Of } at = At::First;
  int layer = 0;  ///< with Of: the layer's id
};
/// A drum of a kit as a part of its own.
struct KitPart {
  std::string name;
  AssetRef sound;
  std::optional<double> targetMidi = {};
  TuneMethod method = TuneMethod::Varispeed;
  LandingOptions band = {};
  std::optional<TimeValue> length = {};
};
/// Adds each as another part, as long as there is room, on the hits from usualHits().
Edit placeKit(const std::vector<KitPart>& kit);
/// Where a drum of that name usually plays (common practice): snares, claps and rims on every second beat,
/// hats, shakers, rides and cymbals between the beats, toms on the loop's last beat, others on the first beat
/// of each bar.
std::vector<Hit> usualHits(const std::string& name, const Track& track);
/// Puts a recorded layer in place of the first (or as the first), adds one, or replaces one by id: processors
/// and level stay, and settings for the former sound's pitch and length are cleared. A kick without hits gets
/// them on every felt beat.
void placeSound(Session& session, int part, const AssetRef& sound, SoundPlace where);
/// Adds a built voice as a layer: a kick's for a part that plays hits, a bass's for one that plays notes. In
/// key: it lands on the bass's main note, or on the low tonic.
Edit addBuiltLayer(const Part& part);
Edit moveLayer(const Part& part, int layer, int way);
/// `id`: the copy's id, freshLayerId().
Edit duplicateLayer(const Part& part, int layer, int id);
Edit renameLayer(const Part& part, int layer, const std::string& name);
/// Removes a layer, also from all events that name it.
Edit removeLayer(const Part& part, int layer);

}  // namespace heft
