#include "engine/devices/device.h"

#include <RtAudio.h>

#include "engine/devices/sound_card.h"

namespace heft {

std::vector<DeviceChoice> deviceChoices() {
  std::vector<DeviceChoice> out;
  for (const CardInfo& card : soundCards()) out.push_back({card.id, card.name});
  out.push_back({"simulated", "Simulated, silent"});
  return out;
}

double deviceRateFor(const std::string& id, double preferredRate) {
  if (id == "simulated") return preferredRate;
  for (const CardInfo& card : soundCards())
    if (card.id == id || (id.empty() && card.isDefault)) {
      for (double rate : card.rates)
        if (rate == preferredRate && !card.fixedRate) return rate;
      return card.preferredRate;
    }
  return preferredRate;
}

}  // namespace heft
