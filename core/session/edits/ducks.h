#pragma once
/// Edits of duckings: trigger, movement, band, target. Each names its ducking by id and does nothing if it is
/// missing.

#include "core/session/edits/edit.h"
#include "core/sound/midi_reader.h"

namespace heft {

/// A change of one ducking.
Edit onDuck(const std::string& name, const Duck& duck, std::function<void(Duck&)> change,
            const std::string& mergeKey = {});

// ---- The list
int freshDuckId(const Session& session);
/// The ducking of the bass by the kick's hits, created with that id if there is none; nothing at kMostDucks.
Duck* pairDuck(Session& session, int id);
/// Adds a ducking: the kick's hits lower that part, or the part's own id as the source where it is the kick.
/// Does nothing at kMostDucks.
Edit addDuck(int id, int targetPart);
/// The part that a further ducking by the kick makes most sense for: the first that plays notes and is not
/// ducked by it yet, else any other part that is not, else the bass.
int unducked(const Session& session);
Edit duplicateDuck(const Duck& duck, int id);
/// Removes a ducking. The only one is reset and switched off instead.
Edit removeDuck(const Duck& duck);
Edit setDucking(const Duck& duck, bool on);
/// As the window and the Ledger call it: its own name, or "bass by the kick", "lows of the backing by Snare".
std::string duckWord(const Session& session, const Duck& duck);

// ---- The source
Edit setTriggerPart(const Duck& duck, int part);
/// Uses the sound from its first hit on; detects up to 100 Hz unless a cut was set.
Edit setTriggerAudio(const Duck& duck, const AssetRef& sound);
/// All notes of the file, all of its tracks.
Edit setTriggerMidi(const Duck& duck, const MidiFile& file, const std::string& fileName);
/// Switches to hand-drawn hits, starting from the present ones, `now`, in quarters.
Edit setTriggerDrawn(const Duck& duck, const std::vector<TriggerHit>& now);
/// Lets a pitch of the MIDI file trigger or not; with none left all do.
Edit togglePitch(const Duck& duck, int midi);
/// Adds or removes a drawn hit (within a hundredth of a quarter).
Edit placeTriggerHit(const Duck& duck, double quarters, double velocity = 1.0);
Edit removeTriggerHit(const Duck& duck, double quarters);
/// Marks a hit, or no hit, at that moment of an audio file, overriding the detector. Replaces an earlier mark
/// within kMarkSeconds.
Edit markHit(const Duck& duck, double seconds, bool fires);
/// Removes the hand-set mark within kMarkSeconds of that moment.
Edit clearMark(const Duck& duck, double seconds);
/// The detector's band; the low cut stays under the high cut.
Edit setTriggerBand(const Duck& duck, std::optional<double> lowHz, std::optional<double> highHz,
                    const std::string& mergeKey = {});

// ---- The movement
enum class DipTime { Attack, Hold, Return };
/// `acting`: the effective dip while it follows its source's length; setting hold or release by hand fixes
/// it, and the other keeps its effective value.
Edit setDipTime(const Duck& duck, DipTime which, const TimeValue& time,
                const std::optional<DrawnDip>& acting = {}, const std::string& mergeKey = {});
Edit setDepth(const Duck& duck, double depthDb, const std::string& mergeKey = {});
/// The deepest ducking that a line or a way to make room asks for, dB.
inline constexpr double kDeepestWayDb = 36.0;
/// Ducks the bass by the kick, by at least that depth and for as long as the kick sounds: with the pair's
/// ducking, or a new one.
Edit duckBy(const Session& session, double depthDb);
Edit duckAsSource(const Duck& duck);
/// Scales hold and release, or all points together, and fixes the length.
Edit shortenDucking(const Duck& duck, double factor);
/// Presets of a drawn curve, from barely noticeable to an audible effect.
enum class DuckNeed { StrikeOnly, Sixteenth, NextBeat, Heard };
Edit startCurve(const Duck& duck, DuckNeed need);

// ---- Points of a drawn curve. `acting`: the effective dip, on which the first point is placed.
Edit placeDipPoint(const Duck& duck, const DrawnDip& acting, double at, double taken);
/// Moves a point between its neighbours; the first and the last keep their time.
Edit moveDipPoint(const Duck& duck, size_t index, double at, double taken, const std::string& mergeKey = {});
Edit bendDip(const Duck& duck, size_t index, double bend, const std::string& mergeKey = {});
/// Removes a point, except the first, the last, or one of only two.
Edit removeDipPoint(const Duck& duck, size_t index);
/// Back to the four dimensions.
Edit clearDipPoints(const Duck& duck);
/// Replaces the movement by that drawn curve, which reproduces a follower or a mirror.
Edit drawDip(const Duck& duck, const DrawnDip& drawn);
Edit setThreshold(const Duck& duck, double thresholdDb);

// ---- The band and the target
/// Ducks only the band below; empty: the whole lane.
Edit setDuckBelow(const Duck& duck, std::optional<double> crossoverHz, const std::string& mergeKey = {});
/// A bell at a note that moves with the key.
Edit setBellNote(const Duck& duck, double midi, const Key& key);
/// For several bands: adds one, split from the highest; removes the one at `index`; moves its edge between
/// its neighbours.
Edit addBandStep(const Duck& duck);
Edit removeBandStep(const Duck& duck, size_t index);
Edit moveBandStep(const Duck& duck, size_t index, double hz, const std::string& mergeKey = {});
Edit setDuckTarget(const Duck& duck, const DuckTarget& target);

}  // namespace heft
