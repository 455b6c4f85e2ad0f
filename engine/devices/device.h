#pragma once
/// Audio output: a sound card through RtAudio, or a simulated device where there is none.

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/result.h"
#include "engine/player/player.h"

namespace heft {

/// Runs while it exists, asking the player for audio until it is destroyed.
class AudioDevice {
 public:
  virtual ~AudioDevice() = default;
  virtual std::string name() const = 0;
  virtual double sampleRate() const = 0;
  virtual bool isSimulated() const = 0;
  /// False once the device has disappeared.
  virtual bool isAlive() const = 0;
};

/// A device that can be chosen.
struct DeviceChoice {
  std::string id;    ///< "" is the system's default, "simulated" the simulated one
  std::string name;  ///< for people
  bool operator==(const DeviceChoice&) const = default;
};

/// Present sound cards and servers, then the simulated device.
std::vector<DeviceChoice> deviceChoices();

/// The rate at which a device would run: its own where it does not offer `preferredRate`.
double deviceRateFor(const std::string& id, double preferredRate);

/// Opens and starts. The player's device rate must be deviceRateFor() already. Errors: Unreadable, with the
/// reason.
Result<std::unique_ptr<AudioDevice>> openSoundCard(const std::string& id, Player& player);

/// How a stand-in runs.
struct Simulation {
  std::string capturePath = {};  ///< a WAV of its output, written whole when the device ends; empty: none
  /// As fast as the machine goes, for so long a sound, instead of in real time without end; then it is no
  /// longer alive.
  std::optional<double> atOnceSeconds = {};
};

/// A stand-in on a thread of its own.
std::unique_ptr<AudioDevice> openSimulated(Player& player, const Simulation& how = {});

}  // namespace heft
