#pragma once
/// Edits of one layer's sound that are more than one value. They do nothing if the layer is missing or of
/// another kind.

#include "core/session/edits/edit.h"

namespace heft {

/// Sets the note that it lands on, 0 to 127 (setLanding()).
Edit setLayerLanding(const std::string& name, int part, int layer, double midi,
                     const std::string& mergeKey = {});
/// Sets its tail's length, or with Whole the whole of a built one's.
Edit setLayerLength(const std::string& name, int part, int layer, const TimeValue& length, Lengthen how,
                    const std::string& mergeKey = {});

/// Sets a recording's landing: at a time on its path, at a pitch, or as measured.
Edit nameLandingMoment(int part, int layer, double ms, const std::string& mergeKey = {});
Edit nameLandingPitch(int part, int layer, double hz);
Edit measureLanding(int part, int layer);
/// Sets its search band, in whole Hz and at least a fifth wide.
Edit setSearchBand(int part, int layer, double lowHz, double highHz, const std::string& mergeKey = {});

/// Points of a built kick's fall, by index; `at` is a fraction of its length. A point stays between its
/// neighbours, the first at the start.
Edit addFallPoint(int part, int layer, double at);
Edit moveFallPoint(int part, int layer, size_t index, double at, double semitones, const std::string& mergeKey);
/// The first stays.
Edit removeFallPoint(int part, int layer, size_t index);
/// Bends the fall from that point to the next so that it is half way down at this pitch above the landing.
Edit bendFallThrough(int part, int layer, size_t index, double semitones, const std::string& mergeKey);
/// Sets where the fall reaches the landing; after its last point.
Edit moveFallEnd(int part, int layer, double at, const std::string& mergeKey);

/// Points of a recording's drawn fade, by index; switches to a drawn fade. A point stays between its
/// neighbours.
Edit placeFadePoint(int part, int layer, double at, double gain);
Edit moveFadePoint(int part, int layer, size_t index, double at, double gain, const std::string& mergeKey);
Edit removeFadePoint(int part, int layer, size_t index);

/// A low cut at that frequency or higher.
Edit cutLayerLows(const std::string& name, int part, int layer, double hz, int slopeDbPerOctave);
enum class CutSide { Low, High };
/// A cut of the layer's first EQ (a new one where it has none), which it switches on, 24 dB an octave unless
/// it had a slope; nothing: off. Edits with the same `mergeKey` are one step.
Edit setLayerCut(int part, int layer, CutSide side, std::optional<double> hz, const std::string& mergeKey = {});
/// That cut of the first EQ; nothing where it is off.
std::optional<double> layerCutHz(const Layer& layer, CutSide side);
/// Puts a band into the first free slot of an EQ, which it switches on; false, doing nothing, where none is
/// free.
bool putEqBand(Eq& eq, const EqBand& band);
/// Likewise into the first EQ with a free slot, or a further EQ; false where there is room for neither.
bool putEqBand(Chain& chain, const EqBand& band);
Edit cutPeak(int part, int layer, const EqBand& band);
/// Halves its drives, a built kick's own too.
Edit easeDrive(int part, int layer);
/// More strike by that amount, on top of what is set.
Edit raiseStrike(int part, int layer, double byDb);
/// Resets it to its recorded pitch.
Edit takeBackShift(const std::string& name, int part, int layer);

enum class PlaysOn { EveryOne, FirstOfBar, AllButFirstOfBar };
/// Sets on which of the part's hits or notes the layer plays.
Edit setPlaysOn(int part, int layer, PlaysOn on);

}  // namespace heft
