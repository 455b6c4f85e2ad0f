#pragma once
/// Figures of a ducking, and words for them.

#include "app/document/document.h"

namespace heft::app {

/// As last rendered; nothing before that.
const ResolvedDuck* resolvedDuck(const Document& document, const Duck& duck);
/// Its figures; nothing until they are measured, or while it is off.
const DuckFacts* duckFacts(const Document& document, const Duck& duck);
/// Its trigger: "Kick's hits", "Bass's notes", "drums.wav".
QString triggerWords(const Session& session, const DuckSource& source);
/// Its detection band: "below 100 Hz", "40 Hz to 100 Hz".
QString listenWords(const DuckSource& source);
/// Its target: "Bass", "Bass, layer 2", "backing".
QString targetWords(const Session& session, const DuckTarget& target);
/// Colours of the trigger and of the target.
QColor triggerColour(const Session& session, const DuckSource& source);
QColor targetColour(const Session& session, const DuckTarget& target);
/// Status of a hit in the trigger lane, and the reason: "fires", "in doubt: ...".
QString verdictWords(const LaneHit& hit);

/// "8.5 ms", "120 ms".
QString msText(double ms);
/// "-8.5 dB"; "silence" at its end.
QString depthText(double depthDb);

}  // namespace heft::app
