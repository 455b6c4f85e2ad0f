#pragma once
/// Edits of how a part's lane stands against the others: its delay and its polarity.

#include "core/align/align.h"
#include "core/session/edits/edit.h"

namespace heft {

Edit setDelay(const Part& part, double delayMs, const std::string& mergeKey = {});
Edit setPolarity(const Part& part, bool invert);
/// Both as an answer has them.
Edit alignBy(const Part& part, const AlignAnswer& answer, const std::string& mergeKey = {});
/// The same with the phase turned as it has it: the rotation's first two stages are the answer's.
Edit moveAs(const Part& part, const AlignAnswer& answer);
/// A part's lane, or a layer of it, later by so much than it stands, and turned over as well where asked;
/// within the ranges of both. A layer is held to a part of a sample from then on.
Edit shiftPart(const std::string& name, int part, double byMs, bool turnOver, const std::string& mergeKey = {});
Edit shiftLayer(const std::string& name, int part, int layer, double byMs, bool turnOver,
                const std::string& mergeKey = {});
/// Kick and bass through the same all-passes, two at the most, in the rotations' last two stages; none takes
/// them out of both and forgets them.
Edit setFreeTurn(const Session& session, const std::vector<AllPass>& stages);
/// In or out, as it was set.
Edit switchFreeTurn(bool on);
/// What of it is in; none where it is out.
std::vector<AllPass> freeTurnOf(const Session& session);
/// Whether there is one to bring in, or that is in.
bool hasFreeTurn(const Session& session);
/// Start phases, in degrees, of the part's built layers by id; whole turns are left out. What is gone by then
/// stays.
Edit setStartPhases(const Part& part, const std::vector<std::pair<int, double>>& degrees,
                    const std::string& mergeKey = {});
/// Each note of the line by its own move; nothing changes where the line has other notes by then.
Edit moveEachNote(const Part& part, const std::vector<NoteMove>& moves);
/// No note has a move of its own any more.
Edit clearNoteMoves(const Part& part);
/// Where the pair is judged.
Edit setAlignBand(const Part& part, double lowHz, double highHz);

/// The kick's tail goes out and the bass comes in within so many ms of each note that starts before the next
/// hit; `alike`: the correlation of both there, kept from kLeastAlike to 1 (hand_over.h).
Edit handOverIn(double ms, double alike);

/// A note of the part's line louder by so much beside its velocity, by its place; nothing happens where it is
/// gone.
Edit trimNote(const Part& part, size_t note, double trimDb, const std::string& mergeKey = {});
/// Several at once, by their place, each by so much more than it is trimmed.
Edit evenLine(const Part& part, const std::vector<std::pair<size_t, double>>& moreDb);
/// No note is trimmed any more.
Edit clearTrims(const Part& part);

}  // namespace heft
