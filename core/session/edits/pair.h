#pragma once
/// Edits of a lane's alignment: its delay and its polarity.

#include "core/align/align.h"
#include "core/session/edits/edit.h"

namespace heft {

Edit setDelay(const Part& part, double delayMs, const std::string& mergeKey = {});
Edit setPolarity(const Part& part, bool invert);
/// Applies an answer's delay and polarity.
Edit alignBy(const Part& part, const AlignAnswer& answer, const std::string& mergeKey = {});
/// Applies its phase rotation as well, in the rotation's first two stages.
Edit moveAs(const Part& part, const AlignAnswer& answer);
/// Delays a part's lane, or one of its layers, by that much more, and inverts it where asked, within the
/// ranges of both. A layer is then placed between samples.
Edit shiftPart(const std::string& name, int part, double byMs, bool turnOver, const std::string& mergeKey = {});
Edit shiftLayer(const std::string& name, int part, int layer, double byMs, bool turnOver,
                const std::string& mergeKey = {});
/// Runs kick and bass through the same all-passes, at most two, in the rotations' last two stages; an empty
/// list clears them on both.
Edit setFreeTurn(const Session& session, const std::vector<AllPass>& stages);
/// Switches the peak all-pass on or off, with its values kept.
Edit switchFreeTurn(bool on);
/// Its stages that are on; empty where it is off.
std::vector<AllPass> freeTurnOf(const Session& session);
/// Whether there is one, on or off.
bool hasFreeTurn(const Session& session);
/// Start phases, in degrees, of the part's built layers by id, without whole turns. Removed layers are
/// skipped.
Edit setStartPhases(const Part& part, const std::vector<std::pair<int, double>>& degrees,
                    const std::string& mergeKey = {});
/// Gives each note of the line its own move; does nothing if the line's notes have changed since.
Edit moveEachNote(const Part& part, const std::vector<NoteMove>& moves);
/// Clears every note's own move.
Edit clearNoteMoves(const Part& part);
/// The band in which the pair is judged.
Edit setAlignBand(const Part& part, double lowHz, double highHz);

/// Crossfades the kick's tail into the bass over that many ms at each note that starts before the next hit;
/// `alike`: their correlation there, clamped to kLeastAlike to 1 (hand_over.h).
Edit handOverIn(double ms, double alike);

/// Trims a note of the part's line, by its index, by that many dB besides its velocity; does nothing if the
/// note is gone.
Edit trimNote(const Part& part, size_t note, double trimDb, const std::string& mergeKey = {});
/// Trims several notes, by index, each by that much more.
Edit evenLine(const Part& part, const std::vector<std::pair<size_t, double>>& moreDb);
/// Clears every note's trim.
Edit clearTrims(const Part& part);

}  // namespace heft
