#pragma once
/// Candidates for a rest: damped tones fitted to short windows, and the notes that several of them agree on.
/// Used by rest.h alone.

#include <span>
#include <vector>

#include "core/measure/pitch/damped_tones.h"

namespace heft::resting {

/// Whether a tone neither rises nor decays faster than a rest may.
bool rests(const DampedTone& tone);
/// The fastest decay that still counts as a rest at `hz`, 1/s.
double fastestDecay(double hz);

struct Window {
  double seconds = 0.0;
  double energy = 0.0;
  ToneFit fit;
  /// Trust in a tone of this window: energy over what the model leaves unexplained. The variance of a fitted
  /// frequency is proportional to its inverse; a window that straddles the fall leaves much unexplained.
  double trust(const DampedTone& tone) const {
    return tone.energy / ((1.0 - fit.explained) * energy + 1e-5 * energy);
  }
};

struct WindowPlan {
  double lengthSeconds, hopSeconds;
  int mostPoles;
  double floor;
};

/// Windows in which anything sounds, with their tones.
std::vector<Window> windowsOf(std::span<const double> x, double rate, const WindowPlan& plan);
/// The strongest few notes among the resting tones in range that any window found.
std::vector<double> likelyNotes(const std::vector<Window>& windows, double lowHz, double highHz);
/// The windows by which 70, 90 and 98 % of the energy has passed.
std::vector<const Window*> lateWindows(const std::vector<Window>& windows);
/// The strongest resting tone between `below` and `above` times `hz`; nothing where none is.
const DampedTone* toneNear(const Window& w, double hz, double below, double above);
/// Whether a resting tone near `hz` accompanies the one near `strongest` in most of the windows in which that
/// rests.
bool accompanies(const std::vector<Window>& windows, double strongest, double hz, double share);

}  // namespace heft::resting
