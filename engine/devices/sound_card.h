#pragma once
/// Sound cards as RtAudio sees them. Used by device.cpp.

#include <string>
#include <vector>

namespace heft {

struct CardInfo {
  std::string id;    ///< "jack:0"
  std::string name;  ///< "JACK: system"
  bool isDefault = false;
  bool fixedRate = false;  ///< a server that has one rate: asking for another throws
  double preferredRate = 48000.0;
  std::vector<double> rates;
};

std::vector<CardInfo> soundCards();

}  // namespace heft
