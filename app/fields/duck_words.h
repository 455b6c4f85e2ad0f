#pragma once
/// What is known of a ducking, and the words for it.

#include "app/document/document.h"

namespace heft::app {

/// As it was rendered last; nothing before that.
const ResolvedDuck* resolvedDuck(const Document& document, const Duck& duck);
/// Its figures; nothing while there are none, or where it does not act.
const DuckFacts* duckFacts(const Document& document, const Duck& duck);
/// What fires it: "Kick's hits", "Bass's notes", "drums.wav".
QString triggerWords(const Session& session, const DuckSource& source);
/// What of it is listened to: "below 100 Hz", "40 Hz to 100 Hz".
QString listenWords(const DuckSource& source);
/// What it lowers: "Bass", "Bass, layer 2", "backing".
QString targetWords(const Session& session, const DuckTarget& target);
/// The ink of what fires, and of what gives way.
QColor triggerColour(const Session& session, const DuckSource& source);
QColor targetColour(const Session& session, const DuckTarget& target);
/// What a hit in the trigger lane is, and why: "fires", "in doubt: ...".
QString verdictWords(const LaneHit& hit);

/// "8.5 ms", "120 ms".
QString msText(double ms);
/// "-8.5 dB"; "silence" at its end.
QString depthText(double depthDb);

}  // namespace heft::app
