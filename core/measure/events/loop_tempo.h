#pragma once
/// The tempo of a short loop: onsets against a grid of beats, eighths and sixteenths. Unlike a beat tracker it
/// needs no repetition, so a loop that rings past its last bar is read as well as one that is cut to its bars.

#include <optional>

#include "core/measure/events/key_finding.h"

namespace heft {

/// 60 to 200 BPM. Onsets are peaks of Queen Mary's detection function (high frequency content of whitened
/// spectra), and a tempo counts by how well they fall on its grid: the magnitude of their sum at the grid's
/// frequency, as in a Fourier tempogram (M. Müller, Fundamentals of Music Processing, 2nd ed. 2021,
/// chapter 6.2). Of a tempo, its half and its double the one nearest 126 BPM. A loop that is as long as a whole
/// number of bars of four is read from its length; one that fits a whole number of BPM as well gets that
/// (common practice). Confidence falls with onsets off the grid and with a second tempo that fits nearly as
/// well. Nothing for less than a second, silence or fewer than four onsets. Cost: a hundredth of the sound's
/// length.
std::optional<TempoFacts> loopTempo(const AudioBuffer& sound);

}  // namespace heft
