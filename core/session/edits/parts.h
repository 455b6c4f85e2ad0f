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
/// With its duckings. The first kick and the first bass stay: the window is about them.
Edit removePart(const Session& session, int part);
bool canRemove(const Session& session, int part);
Edit renamePart(const Part& part, const std::string& name);
/// Up the list (negative) or down.
Edit movePart(const Part& part, int way);
/// A copy with all that it holds, behind it; the copy of a kick or a bass is an other part that plays as it
/// does.
Edit duplicatePart(const Part& part, int id);
Edit setPartLevel(const Part& part, double levelDb, const std::string& mergeKey = "part level");
/// Hits or notes, of a part that is neither kick nor bass: its pattern begins anew, layers that cannot play
/// that way go.
Edit setPlays(const Part& part, Plays plays);
/// Lands the part there, given that it lands on `fromMidi` now: by its layer's target (of a split one its
/// body's), or with several audible layers all of them by speed, so that they stay together.
Edit tunePart(const Part& part, double fromMidi, int midi, const NoteStyle& style);
/// One of its layers lands there, the others stay.
Edit tuneLayer(const Part& part, int layer, int midi, const NoteStyle& style);
/// All of its layers back to the pitches that were recorded.
Edit takeBackShifts(const Part& part);
/// Plays its first layer from the measured note, overriding a typed one, and lets it follow its notes.
Edit playFromMeasured(const Part& part);
/// Shifts its first layer by speed, on top of its shift.
Edit shiftFirstLayer(const Part& part, double semitones);
/// All of its layers by speed, on top of what each is shifted by.
Edit shiftLayers(const Part& part, double semitones);
/// Its tail as long as that, in all layers that ring longer (setTail()).
Edit trimPart(const Part& part, const TimeValue& length);
/// The same with the falls of its built layers, which then land as much sooner.
Edit shortenPart(const Part& part, const TimeValue& length);
/// Every recording of every part as long as it was recorded: "No lengths".
Edit withoutLengths();
/// Releases of its built voices, and of its contour, no longer than that.
Edit shortenReleases(const Part& part, double mostMs);
/// All of its layers are heard.
Edit unmutePart(const Part& part);
/// Drives its first layer by at least that much, at least half of it mixed in.
Edit driveFirstLayer(const Part& part, double driveDb);
/// Boosts at that frequency, of its layers and its finish, back to nothing.
Edit takeBackBoosts(const Part& part, double hz);
/// Through its finish: to mono, or a low cut, from at least that frequency.
Edit makeMono(const Part& part);
Edit cutPartLows(const Part& part, double hz);
Edit setFinishOver(const Part& part, FinishOver over);

/// Versions, by their place in the list (versions.h): the one that plays, a new one like it, one less, a name.
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
/// Each as another part behind the others, as many as there is room for, on the hits that usualHits() gives.
Edit placeKit(const std::vector<KitPart>& kit);
/// Where a drum of that name is usually heard first (common practice): snares, claps and rims on every second
/// beat, hats, shakers, rides and cymbals between the beats, toms on the loop's last beat, others on each bar's
/// first.
std::vector<Hit> usualHits(const std::string& name, const Track& track);
/// A recorded layer in place of the first (or as the first), as another one, or in place of one by id: its
/// processors and level stay, and settings for the former sound's pitch and length go. A kick without hits
/// gets them on every felt beat.
void placeSound(Session& session, int part, const AssetRef& sound, SoundPlace where);
/// A built voice as another layer: a kick's for a part that plays hits, a bass's for one that plays notes. In
/// key: it lands on the bass's main note, or on the low tonic.
Edit addBuiltLayer(const Part& part);
Edit moveLayer(const Part& part, int layer, int way);
/// `id`: the copy's id, freshLayerId().
Edit duplicateLayer(const Part& part, int layer, int id);
Edit renameLayer(const Part& part, int layer, const std::string& name);
/// From the list and from all events that name it.
Edit removeLayer(const Part& part, int layer);

}  // namespace heft
