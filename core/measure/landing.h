#pragma once
/// The note on which a kick, an 808 or a bass note lands, and the way its pitch takes to get there.
///
/// docs/measuring.md tells how the method was chosen and what it reaches.

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace heft {

/// One window of the pitch path.
struct PitchPoint {
  double seconds = 0.0;    ///< from the first sample of the sound, at the window's centre of energy
  double hz = 0.0;         ///< frequency of the fundamental
  double amplitude = 0.0;  ///< RMS of the fundamental over the window
};

struct LandingOptions {
  double lowHz = 20.0;    ///< range in which the landing is looked for
  double highHz = 400.0;  ///< > lowHz; at most 1000
};

struct Landing {
  std::optional<double> hz;  ///< nothing where no landing can be claimed
  double confidence = 0.0;  ///< 0 to 1, from how long the path rests and how well tones explain it; hz from 0.5
  double startHz = 0.0;     ///< first point of the path; 0 without a landing
  double fallMs = 0.0;      ///< onset until the path stays within 50 cents of the landing
  std::vector<PitchPoint> path;
  std::string reason;  ///< why no landing is claimed
};

/// `mono`: the sound; `onsetSeconds`: where it starts. Silence, noise and sounds without a resting low tone
/// give no landing. Cost: about 3 ms for half a second.
Landing measureLanding(std::span<const double> mono, double sampleRate, double onsetSeconds,
                       const LandingOptions& options = {});

}  // namespace heft
